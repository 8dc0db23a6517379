# Tables of answers as a page, each with its figure.

answers_page <- function(found) {
  t <- htmltools::tags
  page_html(paste0(found$title, ": answers"), NULL, list(
    t$header(
      t$h1(found$title),
      t$p(
        class = "lead", count_of(found$n, "respondent"),
        if (!is.null(found$where)) list(" where ", t$code(found$where)),
        if (!is.null(found$weight)) list(", weighted by ", t$code(found$weight))
      )
    ),
    if (length(found$pooled) > 0) t$p(class = "about", pooled_words(found$pooled)),
    lapply(found$tables, answer_section), t$footer(
      "Made by Mavik ", as.character(utils::packageVersion("mavik")), "."
    )
  ), found$language)
}

answer_section <- function(one) {
  t <- htmltools::tags
  if (one$kind == "several") return(lapply(one$tables, answer_section))
  if (one$kind == "table") return(table_section_html(attr(one, "tabulated")))
  if (!is.null(one$by_items)) return(lapply(one$by_items, answer_section))
  figure <- figure_answers(one)
  rows <- if (is.null(one$groups) || one$kind == "set") max(nrow(one$table), 2) else
    length(one$groups$group)
  t$section(
    t$h2(t$code(one$variable), " ", one$label), answer_html(one),
    if (!is.null(one$test)) t$p(
      class = "about",
      paste0(
        test_words(one$test), ".",
        if (isTRUE(one$test$sparse))
          " Sparse cells: more than a fifth of the expected counts are below 5, the test is not ",
          "to be trusted."
      )
    ),
    if (is.data.frame(one$gaps) && nrow(one$gaps) > 0) t$p(
      class = "about",
      paste0("Gaps: ", paste0(one$gaps$label, " ", grouped(one$gaps$count), collapse = ", "), ".")
    ),
    if (!is.null(figure)) figure_svg(
      figure, paste("Shares of", one$variable), height = 1.1 + 0.36 * rows
    )
  )
}

answer_html <- function(one) {
  if (one$kind == "number" && !is.null(one$groups)) return(means_html(one))
  if (!is.null(one$groups)) return(groups_html(one))
  if (one$kind == "items") return(items_html(one))
  t <- one$table
  if (one$kind == "set") return(page_table(
    "Several answers a person",
    list(
      "Option" = t$label, "Count" = grouped(t$count),
      "% of respondents" = two_decimals(t$of_respondents),
      "% of answers" = two_decimals(t$of_answers)
    ),
    c("Option" = "row", numbers_of(c("Count", "% of respondents", "% of answers")))
  ))
  if (one$kind == "number") {
    shown <- list(
      "n" = grouped(t$n), "Mean" = two_decimals(t$mean), "Median" = two_decimals(t$median),
      "SD" = two_decimals(t$sd), "Smallest" = two_decimals(t$min), "Largest" = two_decimals(t$max)
    )
    return(page_table("Statistics of the answered", shown, numbers_of(names(shown))))
  }
  if (one$kind == "text") return(page_table("Most frequent", lapply(t, as.character)))
  counts_table(list(codes = t, gaps = one$gaps, n = one$n, answered = one$answered))
}

means_html <- function(one) {
  g <- one$groups
  page_table(
    paste("By", one$by),
    list(
      "Group" = g$group, "n" = grouped(g$n), "Mean" = two_decimals(g$mean),
      "SD" = two_decimals(g$sd), "Median" = two_decimals(g$median)
    ),
    c("Group" = "row", numbers_of(c("n", "Mean", "SD", "Median")))
  )
}

# A column of percents for each code.
percent_columns <- function(codes, percent) {
  with_names(
    lapply(seq_along(codes), function(j) two_decimals(percent[, j])), make.unique(codes)
  )
}

groups_html <- function(one) {
  g <- one$groups
  cells <- percent_columns(g$codes, g$percent)
  page_table(
    paste0("Row percent by ", one$by),
    c(list("Group" = g$group), cells, list("n" = grouped(g$n))),
    c("Group" = "row", numbers_of(c(names(cells), "n")))
  )
}

items_html <- function(one) {
  cells <- percent_columns(one$codes, one$percent)
  gaps <- lapply(seq_along(one$gaps$label), function(j) grouped(one$gaps$counts[j, ]))
  gaps <- with_names(gaps, one$gaps$label)
  page_table(
    "Percent of the answered; gaps as counts",
    c(
      list("Item" = one$table$label), cells,
      if (!is.null(one$table$mean)) list("Mean" = two_decimals(one$table$mean)),
      list("n" = grouped(one$table$n)), gaps
    ),
    c("Item" = "row", numbers_of(c(names(cells), "Mean", "n", names(gaps))))
  )
}

pooled_words <- function(waves) paste0("Waves ", paste(waves, collapse = ", "),
  " are counted together; `by` the wave, or a condition on it, keeps them apart.")
