# The chapter on scales: statistics, coefficients, items, what looks like a mistake,
# and the score worked out for three respondents.

scales_section <- function(study) {
  t <- htmltools::tags
  scales <- study$tallies$scales
  if (length(scales) == 0) return(NULL)
  t$section(t$h2("Scales"), lapply(scales, scale_article, study = study))
}

scales_page <- function(found, means = NULL) {
  t <- htmltools::tags
  page_html(
    paste0(found$title, ": scales"), NULL,
    list(
      t$header(t$h1(found$title), t$p(class = "lead", "Scales")),
      lapply(found$scales, scale_article, study = NULL),
      if (!is.null(means)) lapply(means$tables, answer_section),
      t$footer("Made by Mavik ", as.character(utils::packageVersion("mavik")), ".")
    ),
    found$language
  )
}

scale_article <- function(one, study) {
  t <- htmltools::tags
  t$article(
    t$h3(
      t$code(class = "name", one$scale), " ", one$label,
      if (nzchar(one$wave)) paste0(", wave ", one$wave)
    ),
    scale_tables(one),
    if (length(one$warnings) > 0) t$ul(
      class = "about", lapply(one$warnings, function(text) t$li(page_words(text)))
    ),
    if (!is.null(one$answers)) draw_items(one),
    if (one$k > 1 && any(!is.na(one$items$item_rest))) draw_rest(one),
    if (!is.null(study)) list(score_figure(study, one), worked_examples(study, one))
  )
}

scale_tables <- function(one) {
  s <- one$score
  words <- c(n = "n", mean = "Mean", sd = "SD", min = "Smallest", max = "Largest", skew = "Skew")
  list(
    page_table(
      if (one$use == "complete") paste0(
        "Over ", count_of(one$n, "respondent"), " who answered all ", count_of(one$k, "item")
      ) else "Over pairs of items",
      list(
      "Alpha" = three(one$alpha), "95 % interval" = if (is.na(one$alpha_low)) "" else paste(
        three(one$alpha_low), "to", three(one$alpha_high)
      ), "Standardised" = three(one$alpha_standard), "Omega" = three(one$omega),
      "Split half" = three(one$split_half), "Mean correlation" = three(one$mean_r),
      "In words" = alpha_words(one$alpha)), numbers_of(c(
        "Alpha", "Standardised", "Omega", "Split half", "Mean correlation"
      ))),
    page_table(
      "The score",
      c(
        with_names(
          lapply(
            names(words),
            function(name) if (name == "n") grouped(s[["n"]]) else two_decimals(s[[name]])
          ),
          unname(words)
        ),
        list("Possible" = if (length(one$possible) == 2) paste(
          number_to_text(round_half(one$possible, 4)), collapse = " to "
        ) else "open")
      ),
      numbers_of(c(unname(words), "Possible"))
    ),
    page_table("Items, as scored",
      list(
        "Item" = paste0(one$items$item, ifelse(one$items$reversed, " (reversed)", "")),
        "Label" = one$items$label, "n" = grouped(one$items$n),
        "Mean" = two_decimals(one$items$mean), "SD" = two_decimals(one$items$sd),
        "Item-rest r" = two_decimals(one$items$item_rest),
        "Alpha without" = three(one$items$alpha_without),
        "Gaps" = paste0(number_show(100 * one$items$blank, 1), " %")
      ),
      c("Item" = "row", numbers_of(c("n", "Mean", "SD", "Item-rest r", "Alpha without", "Gaps"))))
  )
}

score_figure <- function(study, one) {
  if (one$score[["n"]] == 0) return(NULL)
  bounded <- length(one$possible) == 2 && all(is.finite(one$possible))
  ends <- unname(if (bounded) one$possible else one$score[c("min", "max")])
  if (diff(ends) == 0) return(NULL)
  rows <- study$retained
  if (nzchar(one$wave)) {
    rows <- rows_retained(study)
    rows <- rows[study$records$wave[rows] == one$wave]
  }
  breaks <- seq(ends[1], ends[2], length.out = 17)
  counts <- bin_counts(study$data[[one$scale]], breaks, rows)
  list(
    page_caption("The score over its possible range"),
    draw_histogram(breaks, counts, paste("Distribution of", one$scale))
  )
}

# The lowest, the middle and the highest, item by item.
worked_examples <- function(study, one) {
  if (nzchar(one$wave)) return(NULL)
  rows <- ranked_rows(study$data[[one$scale]], study$retained)
  if (length(rows) == 0) return(NULL)
  variable <- study$book$variables[[one$scale]]
  uses <- study$book$uses[[one$scale]]
  words <- vapply(
    rows,
    function(row) score_in_numbers(
      variable, lapply(with_names(uses, uses), function(name) column_at(study, name, row)),
      study$book
    ),
    ""
  )
  page_table(
    "Worked out in full: the lowest, the middle and the highest",
    list(
      "Respondent" = respondents_shown(study)(rows),
      "Score" = number_show(study$data[[one$scale]][rows], 2), "How" = sub("^Here: ", "", words)
    ),
    c("Respondent" = "row", "Score" = "number")
  )
}
