# What stands in tables and beside them in words, wherever they are shown.

statistic_words <- c(
  count = "count", column_percent = "column %", row_percent = "row %", mean = "mean", sd = "sd",
  median = "median", lower_quartile = "lower quartile", upper_quartile = "upper quartile",
  min = "smallest", max = "largest", base = "base", effective_base = "effective base",
  respondents = "respondents", gap = "gap"
)

# What a line is called: the code, the net, the reason; of a statistic its name.
line_words <- function(lines) ifelse(
  nzchar(lines$label), paste0(lines$label, ifelse(lines$type == "net", " (net)", "")),
  statistic_words[lines$statistic]
)

# Decimals of a statistic as it is shown: a percent one, a mean two, or one more than the variable.
statistic_decimals <- function(statistic, decimals = NULL) {
  own <- if (is.null(decimals)) 2L else min(as.integer(decimals) + 1L, 4L)
  ifelse(
    statistic %in% c("count", "base", "respondents", "gap"), 0L,
    ifelse(statistic %in% c("column_percent", "row_percent", "effective_base"), 1L, own)
  )
}

# The cells of one line.
table_cell_words <- function(value, statistic, decimals, letters = "") {
  digits <- statistic_decimals(statistic, decimals)
  text <- if (digits == 0) grouped(round(value)) else number_show(value, digits)
  ifelse(is.na(value), "\u2013", paste0(text, ifelse(nzchar(letters), paste0(" ", letters), "")))
}

# What a table is of: base, condition, weight, who is left out, one line each.
table_facts <- function(table) {
  left <- unlist(lapply(table$groups, function(group) if (sum(group$left$count) > 0) paste0(
    "without ", group$title, ": ", paste0(
      group$left$label, " ", grouped(group$left$count), collapse = ", "
    )
  )))
  c(
    paste0(
      count_of(table$n, "respondent"), if (!is.null(table$where)) paste0(
        " where ", text_squeeze(table$where)
      ), if (table$n + table$no_weight < table$all) paste0(", of ", grouped(table$all))
    ),
    if (!is.null(table$weight)) paste0(
      "percents and means weighted by ", table$weight, ", counts are not",
      if (table$no_weight > 0) paste0("; ", count_of(table$no_weight, "respondent"),
        " without a weight left out")
    ),
    left, unlist(lapply(table$sections, `[[`, "bases")),
    if ("differences" %in% table$declared$show && any(nzchar(table$columns$letter))) paste0(
      "a letter: a higher column percent or mean than that letter's column has (95 %, p by Holm ",
      "within a row)"
    )
  )
}

# The tests of a section, by the groups they compare.
section_tests <- function(section, table) {
  groups <- table$groups[-1]
  unlist(lapply(seq_along(groups), function(k) {
    test <- section$tests[k][[1]]
    if (length(test) == 0) return(NULL)
    paste0(section$variable, " by ", groups[[k]]$variable, ": ", if (!is.null(test$none)) paste(
      "no test:", test$none
    ) else paste0(test_words(test), effective_words(test)))
  }))
}

effective_words <- function(test) paste0(
  if (!is.null(test$effective)) paste0(
    ", at the effective base of ", number_show(test$effective, 1)
  ),
  if (!is.null(test$smallest)) paste0(
    ", smallest expected count ", number_show(test$smallest, 1)
  ), if (isTRUE(test$sparse)) paste0(
    ": sparse, more than a fifth of the expected counts are below 5, not to be trusted"
  )
)

test_words <- function(test) {
  if (!is.null(test$pairs)) return(paste(c("the persons in both waves, p by Holm:",
    pair_words(test$pairs)), collapse = "\n    "))
  one_test_words(test, if (isTRUE(test$paired)) " persons in both waves")
}

one_test_words <- function(test, who = "") {
  p <- if (test$p < 0.001) "p < 0.001" else paste("p =", number_show(test$p, 3))
  paste0(test$name, " = ", number_show(test$statistic, 2), ", df = ",
    paste(ifelse(test$df == round(test$df), number_to_text(test$df), number_show(test$df, 1)),
    collapse = " and "), ", ", p, ", n = ", grouped(test$n), who,
    if (!is.null(test$difference))
      paste0(", difference of means ", number_show(test$difference, 2)))
}

pair_words <- function(pairs) {
  vapply(seq_len(nrow(pairs)), function(row) {
    pair <- as.list(pairs[row, ])
    pair$p <- pair$p_holm
    paste0(pair$before, " to ", pair$now, ": ", one_test_words(pair))
  }, "")
}

# Items of one code list without groups are a row each, their answers across.
is_item_table <- function(table) nrow(table$columns) == 1 && same_codes(table$sections)

same_codes <- function(sections) length(sections) > 1 && all(vapply(sections, function(section)
  section$kind == "codes", TRUE)) && length(unique(lapply(sections, function(section) answers_in(
    section
  )$label))) == 1

# The answers of a section, each once.
answers_in <- function(section) section$lines[is_answer_line(section), ]
is_answer_line <- function(section) section$lines$type %in% c("code", "option") &
  section$lines$statistic == section$lines$statistic[1]

item_view <- function(table) {
  first <- table$sections[[1]]$lines
  shown <- if (any(first$statistic == "column_percent")) "column_percent" else first$statistic[1]
  gaps <- unique(do.call(rbind, lapply(table$sections, function(section) section$lines[
    section$lines$type == "gap", c("code", "label")
  ])))
  heads <- rbind(
    first[first$type %in% c("code", "net") & first$statistic == shown, ],
    first[first$type %in% c("statistic", "base"), ]
  )
  cell <- function(section, type, code, statistic) {
    lines <- section$lines
    places <- which(lines$type == type & lines$code == code & lines$statistic == statistic)
    if (length(places) == 0) "0" else table_cell_words(
      section$value[places[1], ], statistic, section$decimals
    )
  }
  cells <- do.call(rbind, lapply(table$sections, function(section) c(
    mapply(cell, type = heads$type, code = heads$code, statistic = heads$statistic,
      MoreArgs = list(section = section)),
    vapply(gaps$code, function(code) cell(section, "gap", code, "gap"), "")
  )))
  list(
    left = list(vapply(table$sections, `[[`, "", "label")),
    heads = c(line_words(heads), paste0("gap: ", gaps$label, recycle0 = TRUE)),
    titles = c(rep(statistic_words[[shown]], sum(heads$statistic == shown)), rep("", sum(
      heads$statistic != shown
    ) + nrow(gaps))), cells = unname(cells)
  )
}
