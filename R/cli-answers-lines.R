# Tables of answers as lines.

answer_lines <- function(answer, codes, from = 1L) {
  if (answer$kind == "several") return(unlist(lapply(
    answer$tables, answer_lines, codes = codes, from = from
  )))
  if (answer$kind == "table") return(declared_lines(attr(answer, "tabulated")))
  c(heading_shown(paste0(answer$variable, if (nzchar(answer$label)) paste0(": ", answer$label))),
    switch(
      answer$kind, codes = codes_lines(answer, codes), number = statistic_lines(answer),
      text = text_lines(answer, from), items = items_lines(answer, codes), set = set_lines(answer)
    ), "")
}

codes_lines <- function(answer, codes) {
  t <- answer$table
  g <- answer$gaps
  if (!is.null(answer$groups)) return(c(group_lines_of(answer), gaps_line(answer)))
  label <- c(
    if (codes) number_or_text(t$code) else t$label, if (codes) number_to_text(g$code) else g$label,
    "all"
  )
  none <- rep("", nrow(g))
  c(columns_shown(c(list(
    label = c("", shorten(label, 50)), count = c("count", grouped(c(t$count, g$count, answer$n))),
    all = c("% of all", two_decimals(c(t$of_all, g$of_all, if (answer$n > 0) 100 else NA))),
    answered = c("% of answered", two_decimals(t$of_answered), none, "")),
    if (!is.null(t$weighted)) list(weighted = c("weighted %", two_decimals(t$weighted), none, ""))
  ), right = c("count", "all", "answered", "weighted")), mean_line(answer))
}

# The mean of ordered codes.
mean_line <- function(answers) if (!is.null(answers$mean) && !is.na(answers$mean)) paste0(
  "  mean ", two_decimals(answers$mean),
  if (!is.na(answers$sd)) paste0(", sd ", two_decimals(answers$sd)),
  if (!is.null(answers$weighted_mean)) paste0(
    ", weighted mean ", two_decimals(answers$weighted_mean))
)

gaps_line <- function(answer) if (sum(answer$gaps$count) > 0) cli::col_grey(paste0(
  "  gaps: ", paste0(answer$gaps$label, " ", grouped(answer$gaps$count), collapse = ", ")
))

statistic_lines <- function(answers) {
  if (!is.null(answers$groups)) return(c(mean_lines(answers), gaps_line(answers)))
  t <- answers$table
  decimals <- if (is.null(answers$decimals)) 2 else answers$decimals
  c(columns_shown(c(list(
    n = c("n", grouped(t$n)), mean = c("mean", two_decimals(t$mean)),
    median = c("median", two_decimals(t$median)), sd = c("sd", two_decimals(t$sd)),
    min = c("min", number_show(t$min, decimals)), max = c("max", number_show(t$max, decimals))
  ),
    if (!is.null(t$weighted_mean))
      list(weighted = c("weighted mean", two_decimals(t$weighted_mean))),
    list(interval = c("95 % interval", interval_shown(t)))),
    right = c("n", "mean", "median", "sd", "min", "max", "weighted", "interval")),
      gaps_line(answers))
}

# Some of the answers to a text question, from one on.
text_lines <- function(answers, from = 1L, size = 50L) {
  t <- answers$table
  rows <- rows_from(nrow(t), from, size)
  shown <- t[rows, , drop = FALSE]
  c(
    if (isTRUE(answers$ungrouped))
      cli::col_grey("  texts and dates are not tabled by group; make codes of them first"),
    if (is.null(t$text)) columns_shown(lapply(with_names(names(t), names(t)), function(name) c(
      name, as.character(t[[name]])
    ))) else if (nrow(shown) > 0) columns_shown(list(
      text = c("answer", shorten(shown$text, 70)), count = c("count", grouped(shown$count)),
      of = c("% of answered", two_decimals(shown$of_answered)),
      forms = c("ways of writing", grouped(shown$forms))
    ), right = c("count", "of", "forms")),
    more_line(nrow(t), from, size, "different answers"),
    paste0("  ", grouped(answers$answered), " of ", grouped(answers$n), " answered"),
    gaps_line(answers))
}

rows_from <- function(n, from, size) if (from > n) integer() else seq.int(from, min(
  n, from + size - 1L
))

more_line <- function(n, from, size, what) if (n > size || from > 1) cli::col_grey(paste0(
  "  ", grouped(min(from, n)), " to ", grouped(min(n, from + size - 1L)), " of ", grouped(n), " ",
  what, if (from + size <= n) paste0("; the next: --from ", from + size), "; --json lists all"
))

# A group a row, the codes across, in blocks where they do not fit; row percents, then n and gaps.
group_lines_of <- function(answer) {
  g <- answer$groups
  gaps <- g$gaps
  view <- list(
    left = list(shorten(g$group, 30)), heads = c(g$codes, "n", if (
      length(gaps$label) > 0
    ) paste0("gap: ", gaps$label)),
    titles = rep(paste0(group_words(answer), ", row %"), length(g$codes) + 1 + length(gaps$label)),
    cells = cbind(
      matrix(two_decimals(g$percent), nrow(g$percent)), grouped(g$n),
      if (length(gaps$label) > 0) matrix(grouped(gaps$counts), nrow(gaps$counts))
    )
  )
  c(blocks_of_columns(view, tables_width()), test_line(answer))
}

mean_lines <- function(answer) {
  g <- answer$groups
  c(columns_shown(c(list(
    group = c(shorten(group_words(answer), 30), shorten(g$group, 30)), n = c("n", grouped(g$n)),
    mean = c("mean", two_decimals(g$mean)), sd = c("sd", two_decimals(g$sd)),
    median = c("median", two_decimals(g$median))
  ),
    if (!is.null(g$weighted_mean))
      list(weighted = c("weighted mean", two_decimals(g$weighted_mean))),
    list(interval = c("95 % interval", interval_shown(g))), gap_columns(answer$group_gaps)),
    right = c("n", "mean", "sd", "median", "weighted", "interval", names(gap_columns(
      answer$group_gaps
    )))), test_line(answer))
}

gap_columns <- function(gaps) with_names(
  lapply(seq_along(gaps$label), function(j) c(
    paste0("gap: ", shorten(gaps$label[j], 14)), grouped(gaps$counts[, j])
  )), paste0("gap", seq_along(gaps$label), recycle0 = TRUE)
)

test_line <- function(answer) c(
  if (!is.null(answer$test)) cli::col_grey(paste0(
    "  ", test_words(answer$test), effective_words(answer$test[names(answer$test) != "sparse"])
  )),
  if (!is.null(answer$untested)) cli::col_grey(paste0("  no test: ", answer$untested)),
  if (isTRUE(answer$test$sparse))
    cli::col_yellow(
      paste0(
        "  sparse cells: more than a fifth of the expected counts are below 5, the test is not ",
        "to be trusted"
      )
    ),
  if (answer$ungrouped > 0) cli::col_grey(paste0(
    "  ", count_of(answer$ungrouped, "respondent"), " without a group left out"
  ))
)

items_lines <- function(answers, codes) {
  if (!is.null(answers$by_items)) return(
    unlist(lapply(answers$by_items, answer_lines, codes = codes)))
  cells <- lapply(
    seq_along(answers$codes), function(j) c(
      shorten(answers$codes[j], 16), two_decimals(answers$percent[, j]))
  )
  names(cells) <- paste0("c", seq_along(cells))
  gaps <- lapply(
    seq_along(answers$gaps$label),
    function(j) c(shorten(answers$gaps$label[j], 14), grouped(answers$gaps$counts[j, ]))
  )
  names(gaps) <- paste0("g", seq_along(gaps), recycle0 = TRUE)
  c(columns_shown(
    c(
      list(label = c("% of answered", shorten(answers$table$label, 44))), cells,
      if (!is.null(answers$table$mean)) list(mean = c("mean", two_decimals(answers$table$mean))),
      list(n = c("n", grouped(answers$table$n))), gaps
    ),
    right = c(names(cells), "mean", "n", names(gaps))
  ))
}

set_lines <- function(answer) {
  if (!is.null(answer$groups)) return(c(
    group_lines_of(answer), if (!is.null(answer$bases)) cli::col_grey(paste0("  ", answer$bases)),
    gaps_line(answer)
  ))
  t <- answer$table
  c(columns_shown(c(list(
    label = c("", shorten(t$label, 50)), count = c("count", grouped(t$count)),
    of = c("% of respondents", two_decimals(t$of_respondents)),
    answers = c("% of answers", two_decimals(t$of_answers))
  ),
    if (!is.null(t$weighted)) list(weighted = c("weighted %", two_decimals(t$weighted)))),
    right = c("count", "of", "answers", "weighted")),
    paste0("  ", grouped(answer$answered), " of ", grouped(answer$n), " respondents answered"),
    if (!is.null(answer$bases)) cli::col_grey(paste0("  ", answer$bases)),
    gaps_line(answer))
}
