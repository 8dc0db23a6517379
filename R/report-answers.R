# Tables of answers as a page, each with its figure.

answers_page <- function(counted) {
  t <- htmltools::tags
  page_html(paste0(counted$title, ": answers"), NULL, list(
    t$header(
      t$h1(counted$title),
      t$p(
        class = "lead", page_words(paste0(
          count_of(counted$n, "respondent"),
          if (!is.null(counted$where)) paste0(" where `", counted$where, "`"),
          if (!is.null(counted$weight)) paste0(", weighted by `", counted$weight, "`", if (
            isTRUE(counted$no_weight > 0)
          ) paste0("; ", grouped(counted$no_weight), " without a weight left out"))
        ))
      )
    ),
    if (length(counted$pooled) > 0) t$p(class = "about", pooled_words(counted$pooled)),
    lapply(counted$tables, answer_section), t$footer(
      "Made by Mavik ", as.character(utils::packageVersion("mavik")), "."
    )
  ), counted$language)
}

answer_section <- function(answers) {
  t <- htmltools::tags
  if (answers$kind == "several") return(lapply(answers$tables, answer_section))
  if (answers$kind == "table") return(table_section_html(attr(answers, "tabulated")))
  if (!is.null(answers$by_items)) return(lapply(answers$by_items, answer_section))
  figure <- figure_answers(answers)
  rows <- if (is.null(answers$groups) || answers$kind == "set") max(nrow(answers$table), 2) else
    length(answers$groups$group)
  t$section(
    t$h2(t$code(answers$variable), " ", answers$label), answer_html(answers),
    if (!is.null(answers$test)) t$p(
      class = "about",
      paste0(
        test_words(answers$test), effective_words(answers$test[names(answers$test) != "sparse"]),
        ".",
        if (isTRUE(answers$test$sparse)) paste0(
          " Sparse cells: more than a fifth of the expected counts are below 5, the test is not ",
          "to be trusted."
        )
      )
    ),
    if (!is.null(answers$bases)) t$p(class = "about", paste0(answers$bases, ".")),
    if (!is.null(answers$untested)) t$p(
      class = "about", paste0("No test: ", answers$untested, ".")),
    if (isTRUE(answers$ungrouped > 0)) t$p(class = "about", paste0(
      count_of(answers$ungrouped, "respondent"), " without a group left out."
    )),
    if (is.data.frame(answers$gaps) && nrow(answers$gaps) > 0) t$p(
      class = "about",
      paste0("Gaps: ", paste0(answers$gaps$label, " ", grouped(answers$gaps$count),
        collapse = ", "), ".")
    ),
    if (!is.null(figure)) figure_svg(
      figure, paste("Shares of", answers$variable), height = 1.1 + 0.36 * rows
    )
  )
}

answer_html <- function(answer) {
  if (answer$kind == "number" && !is.null(answer$groups)) return(means_html(answer))
  if (!is.null(answer$groups)) return(groups_html(answer))
  if (answer$kind == "items") return(items_html(answer))
  t <- answer$table
  if (answer$kind == "set") return(page_table(
    "Several answers a person",
    Filter(Negate(is.null), list(
      "Option" = t$label, "Count" = grouped(t$count),
      "% of respondents" = two_decimals(t$of_respondents),
      "% of answers" = two_decimals(t$of_answers), "Weighted %" = if (!is.null(t$weighted))
        two_decimals(t$weighted)
    )),
    c("Option" = "row", numbers_of(c(
      "Count", "% of respondents", "% of answers", "Weighted %"
    )))
  ))
  if (answer$kind == "number") {
    shown <- list(
      "n" = grouped(t$n), "Mean" = two_decimals(t$mean), "Median" = two_decimals(t$median),
      "SD" = two_decimals(t$sd), "95 % interval" = interval_shown(t),
      "Smallest" = two_decimals(t$min), "Largest" = two_decimals(t$max)
    )
    return(page_table("Statistics of the answered", shown, numbers_of(names(shown))))
  }
  if (answer$kind == "text") return(text_html(t))
  counts_table(list(codes = t, gaps = answer$gaps, n = answer$n, answered = answer$answered))
}

means_html <- function(answers) {
  g <- answers$groups
  shown <- c(
    list(
      "Group" = g$group, "n" = grouped(g$n), "Mean" = two_decimals(g$mean),
      "SD" = two_decimals(g$sd), "Median" = two_decimals(g$median)
    ),
    if (!is.null(g$weighted_mean)) list("Weighted mean" = two_decimals(g$weighted_mean)),
    list("95 % interval" = interval_shown(g)), gap_counts(answers$group_gaps)
  )
  page_table(paste("By", group_words(answers)), shown,
    c("Group" = "row", numbers_of(names(shown)[-1])))
}

# All answers of a text question; what differs in spaces and case only stands together.
text_html <- function(t) {
  if (is.null(t$text)) return(page_table("First and last", lapply(t, as.character)))
  page_table(
    "The answers, the most frequent first", list(
      "Answer" = t$text, "Count" = grouped(t$count), "% of answered" = two_decimals(t$of_answered),
      "Ways of writing" = grouped(t$forms)
    ), c("Answer" = "row", numbers_of(c("Count", "% of answered", "Ways of writing")))
  )
}

gap_counts <- function(gaps) with_names(
  lapply(seq_along(gaps$label), function(j) grouped(gaps$counts[, j])),
  paste0("Gap: ", gaps$label, recycle0 = TRUE)
)

# A column of percents for each code.
percent_columns <- function(codes, percent) {
  with_names(
    lapply(seq_along(codes), function(j) two_decimals(percent[, j])), make.unique(codes)
  )
}

groups_html <- function(answer) {
  g <- answer$groups
  cells <- percent_columns(g$codes, g$percent)
  page_table(
    paste0("Row percent by ", group_words(answer)),
    c(list("Group" = g$group), cells, list("n" = grouped(g$n)), gap_counts(g$gaps)),
    c("Group" = "row", numbers_of(c(names(cells), "n", names(gap_counts(g$gaps)))))
  )
}

items_html <- function(answer) {
  cells <- percent_columns(answer$codes, answer$percent)
  gaps <- lapply(seq_along(answer$gaps$label), function(j) grouped(answer$gaps$counts[j, ]))
  gaps <- with_names(gaps, answer$gaps$label)
  page_table(
    "Percent of the answered; gaps as counts",
    c(
      list("Item" = answer$table$label), cells,
      if (!is.null(answer$table$mean)) list("Mean" = two_decimals(answer$table$mean)),
      list("n" = grouped(answer$table$n)), gaps
    ),
    c("Item" = "row", numbers_of(c(names(cells), "Mean", "n", names(gaps))))
  )
}

pooled_words <- function(waves) paste0("Waves ", paste(waves, collapse = ", "),
  " are counted together; `by` the wave, or a condition on it, keeps them apart.")
