# Tables of answers as lines.

answer_lines <- function(one, codes) {
  if (one$kind == "several") return(unlist(lapply(one$tables, answer_lines, codes = codes)))
  if (one$kind == "table") return(declared_lines(attr(one, "tabulated")))
  c(heading_shown(paste0(one$variable, if (nzchar(one$label)) paste0(": ", one$label))),
    switch(
      one$kind, codes = codes_lines(one, codes), number = statistic_lines(one),
      text = text_lines(one), items = items_lines(one, codes), set = set_lines(one)
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
  columns_shown(c(list(
    label = c("", shorten(label, 50)), count = c("count", grouped(c(t$count, g$count, one$n))),
    all = c("% of all", two_decimals(c(t$of_all, g$of_all, if (one$n > 0) 100 else NA))),
    answered = c("% of answered", two_decimals(t$of_answered), none, "")),
    if (!is.null(t$weighted)) list(weighted = c("weighted %", two_decimals(t$weighted), none, ""))
  ), right = c("count", "all", "answered", "weighted"))
}

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
      list(weighted = c("weighted mean", two_decimals(t$weighted_mean)))),
    right = c("n", "mean", "median", "sd", "min", "max", "weighted")), gaps_line(one))
}

text_lines <- function(one) {
  t <- one$table
  c(
    if (isTRUE(one$ungrouped))
      cli::col_grey("  texts and dates are not tabled by group; make codes of them first"),
    if (nrow(t) > 0) columns_shown(
      lapply(
        with_names(names(t), names(t)),
        function(name) c(
          gsub("of_answered", "% of answered", name),
          if (name == "text") shorten(t[[name]], 60) else
            if (name == "of_answered") two_decimals(t[[name]]) else as.character(t[[name]])
        )
      ),
      right = c("count", "of_answered")
    ),
    paste0("  ", grouped(one$answered), " of ", grouped(one$n), " answered"), gaps_line(one))
}

# A group a row, the codes across; row percents, then n.
group_lines_of <- function(one) {
  g <- one$groups
  cells <- lapply(
    seq_along(g$codes), function(j) c(shorten(g$codes[j], 16), two_decimals(g$percent[, j]))
  )
  names(cells) <- paste0("c", seq_along(cells))
  c(
    columns_shown(
      c(
        list(group = c(paste0(one$by, ", row %"), shorten(g$group, 30))), cells,
        list(n = c("n", grouped(g$n)))
      ),
      right = c(names(cells), "n")
    ),
    test_line(one)
  )
}

mean_lines <- function(one) {
  g <- one$groups
  c(columns_shown(c(list(
    group = c(one$by, shorten(g$group, 30)), n = c("n", grouped(g$n)),
    mean = c("mean", two_decimals(g$mean)), sd = c("sd", two_decimals(g$sd)),
    median = c("median", two_decimals(g$median))
  ),
    if (!is.null(g$weighted_mean))
      list(weighted = c("weighted mean", two_decimals(g$weighted_mean)))),
    right = c("n", "mean", "sd", "median", "weighted")), test_line(one))
}

test_line <- function(one) c(
  if (!is.null(one$test)) cli::col_grey(paste0("  ", test_words(one$test))),
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
  if (!is.null(one$groups)) return(c(group_lines_of(one), gaps_line(one)))
  t <- one$table
  c(columns_shown(c(list(
    label = c("", shorten(t$label, 50)), count = c("count", grouped(t$count)),
    of = c("% of respondents", two_decimals(t$of_respondents)),
    answers = c("% of answers", two_decimals(t$of_answers))
  ),
    if (!is.null(t$weighted)) list(weighted = c("weighted %", two_decimals(t$weighted)))),
    right = c("count", "of", "answers", "weighted")),
    paste0("  ", grouped(one$answered), " of ", grouped(one$n), " respondents answered"),
    gaps_line(one))
}
