# Tables of answers as lines.

answer_lines <- function(one, codes, from = 1L) {
  if (one$kind == "several") return(unlist(lapply(
    one$tables, answer_lines, codes = codes, from = from
  )))
  if (one$kind == "table") return(declared_lines(attr(one, "tabulated")))
  c(heading_shown(paste0(one$variable, if (nzchar(one$label)) paste0(": ", one$label))),
    switch(
      one$kind, codes = codes_lines(one, codes), number = statistic_lines(one),
      text = text_lines(one, from), items = items_lines(one, codes), set = set_lines(one)
    ), "")
}

codes_lines <- function(one, codes) {
  t <- one$table
  g <- one$gaps
  if (!is.null(one$groups)) return(c(group_lines_of(one), gaps_line(one)))
  label <- c(
    if (codes) number_or_text(t$code) else t$label, if (codes) number_to_text(g$code) else g$label,
    "all"
  )
  none <- rep("", nrow(g))
  c(columns_shown(c(list(
    label = c("", shorten(label, 50)), count = c("count", grouped(c(t$count, g$count, one$n))),
    all = c("% of all", two_decimals(c(t$of_all, g$of_all, if (one$n > 0) 100 else NA))),
    answered = c("% of answered", two_decimals(t$of_answered), none, "")),
    if (!is.null(t$weighted)) list(weighted = c("weighted %", two_decimals(t$weighted), none, ""))
  ), right = c("count", "all", "answered", "weighted")), mean_line(one))
}

# The mean of ordered codes.
mean_line <- function(one) if (!is.null(one$mean) && !is.na(one$mean)) paste0(
  "  mean ", two_decimals(one$mean), if (!is.na(one$sd)) paste0(", sd ", two_decimals(one$sd)),
  if (!is.null(one$weighted_mean)) paste0(", weighted mean ", two_decimals(one$weighted_mean))
)

gaps_line <- function(one) if (sum(one$gaps$count) > 0) cli::col_grey(paste0(
  "  gaps: ", paste0(one$gaps$label, " ", grouped(one$gaps$count), collapse = ", ")
))

statistic_lines <- function(one) {
  if (!is.null(one$groups)) return(c(mean_lines(one), gaps_line(one)))
  t <- one$table
  decimals <- if (is.null(one$decimals)) 2 else one$decimals
  c(columns_shown(c(list(
    n = c("n", grouped(t$n)), mean = c("mean", two_decimals(t$mean)),
    median = c("median", two_decimals(t$median)), sd = c("sd", two_decimals(t$sd)),
    min = c("min", number_show(t$min, decimals)), max = c("max", number_show(t$max, decimals))
  ),
    if (!is.null(t$weighted_mean))
      list(weighted = c("weighted mean", two_decimals(t$weighted_mean))),
    list(interval = c("95 % interval", interval_shown(t)))),
    right = c("n", "mean", "median", "sd", "min", "max", "weighted", "interval")), gaps_line(one))
}

# Some of the answers to a text question, from one on.
text_lines <- function(one, from = 1L, size = 50L) {
  t <- one$table
  at <- rows_from(nrow(t), from, size)
  shown <- t[at, , drop = FALSE]
  c(
    if (isTRUE(one$ungrouped))
      cli::col_grey("  texts and dates are not tabled by group; make codes of them first"),
    if (is.null(t$text)) columns_shown(lapply(with_names(names(t), names(t)), function(name) c(
      name, as.character(t[[name]])
    ))) else if (nrow(shown) > 0) columns_shown(list(
      text = c("answer", shorten(shown$text, 70)), count = c("count", grouped(shown$count)),
      of = c("% of answered", two_decimals(shown$of_answered)),
      forms = c("ways of writing", grouped(shown$forms))
    ), right = c("count", "of", "forms")),
    more_line(nrow(t), from, size, "different answers"),
    paste0("  ", grouped(one$answered), " of ", grouped(one$n), " answered"), gaps_line(one))
}

rows_from <- function(n, from, size) if (from > n) integer() else seq.int(from, min(
  n, from + size - 1L
))

more_line <- function(n, from, size, what) if (n > size || from > 1) cli::col_grey(paste0(
  "  ", grouped(min(from, n)), " to ", grouped(min(n, from + size - 1L)), " of ", grouped(n), " ",
  what, if (from + size <= n) paste0("; the next: --from ", from + size), "; --json lists all"
))

# A group a row, the codes across, in blocks where they do not fit; row percents, then n and gaps.
group_lines_of <- function(one) {
  g <- one$groups
  gaps <- g$gaps
  view <- list(
    left = list(shorten(g$group, 30)), heads = c(g$codes, "n", if (
      length(gaps$label) > 0
    ) paste0("gap: ", gaps$label)),
    titles = rep(paste0(group_words(one), ", row %"), length(g$codes) + 1 + length(gaps$label)),
    cells = cbind(
      matrix(two_decimals(g$percent), nrow(g$percent)), grouped(g$n),
      if (length(gaps$label) > 0) matrix(grouped(gaps$counts), nrow(gaps$counts))
    )
  )
  c(blocks_of_columns(view, tables_width()), test_line(one))
}

mean_lines <- function(one) {
  g <- one$groups
  c(columns_shown(c(list(
    group = c(shorten(group_words(one), 30), shorten(g$group, 30)), n = c("n", grouped(g$n)),
    mean = c("mean", two_decimals(g$mean)), sd = c("sd", two_decimals(g$sd)),
    median = c("median", two_decimals(g$median))
  ),
    if (!is.null(g$weighted_mean))
      list(weighted = c("weighted mean", two_decimals(g$weighted_mean))),
    list(interval = c("95 % interval", interval_shown(g))), gap_columns(one$group_gaps)),
    right = c("n", "mean", "sd", "median", "weighted", "interval", names(gap_columns(
      one$group_gaps
    )))), test_line(one))
}

gap_columns <- function(gaps) with_names(
  lapply(seq_along(gaps$label), function(j) c(
    paste0("gap: ", shorten(gaps$label[j], 14)), grouped(gaps$counts[, j])
  )), paste0("gap", seq_along(gaps$label), recycle0 = TRUE)
)

test_line <- function(one) c(
  if (!is.null(one$test)) cli::col_grey(paste0(
    "  ", test_words(one$test), effective_words(one$test[names(one$test) != "sparse"])
  )),
  if (!is.null(one$untested)) cli::col_grey(paste0("  no test: ", one$untested)),
  if (isTRUE(one$test$sparse))
    cli::col_yellow(
      paste0(
        "  sparse cells: more than a fifth of the expected counts are below 5, the test is not ",
        "to be trusted"
      )
    ),
  if (one$ungrouped > 0) cli::col_grey(paste0(
    "  ", count_of(one$ungrouped, "respondent"), " without a group left out"
  ))
)

items_lines <- function(one, codes) {
  if (!is.null(one$by_items)) return(unlist(lapply(one$by_items, answer_lines, codes = codes)))
  cells <- lapply(
    seq_along(one$codes), function(j) c(shorten(one$codes[j], 16), two_decimals(one$percent[, j]))
  )
  names(cells) <- paste0("c", seq_along(cells))
  gaps <- lapply(
    seq_along(one$gaps$label),
    function(j) c(shorten(one$gaps$label[j], 14), grouped(one$gaps$counts[j, ]))
  )
  names(gaps) <- paste0("g", seq_along(gaps), recycle0 = TRUE)
  c(columns_shown(
    c(
      list(label = c("% of answered", shorten(one$table$label, 44))), cells,
      if (!is.null(one$table$mean)) list(mean = c("mean", two_decimals(one$table$mean))),
      list(n = c("n", grouped(one$table$n))), gaps
    ),
    right = c(names(cells), "mean", "n", names(gaps))
  ))
}

set_lines <- function(one) {
  if (!is.null(one$groups)) return(c(
    group_lines_of(one), if (!is.null(one$bases)) cli::col_grey(paste0("  ", one$bases)),
    gaps_line(one)
  ))
  t <- one$table
  c(columns_shown(c(list(
    label = c("", shorten(t$label, 50)), count = c("count", grouped(t$count)),
    of = c("% of respondents", two_decimals(t$of_respondents)),
    answers = c("% of answers", two_decimals(t$of_answers))
  ),
    if (!is.null(t$weighted)) list(weighted = c("weighted %", two_decimals(t$weighted)))),
    right = c("count", "of", "answers", "weighted")),
    paste0("  ", grouped(one$answered), " of ", grouped(one$n), " respondents answered"),
    if (!is.null(one$bases)) cli::col_grey(paste0("  ", one$bases)),
    gaps_line(one))
}
