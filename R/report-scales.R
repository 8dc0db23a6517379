# The chapter on scales: statistics, coefficients, items, what looks like a mistake,
# and the score worked out for three respondents.

scales_section <- function(study) {
  t <- htmltools::tags
  scales <- study$tallies$scales
  if (length(scales) == 0) return(NULL)
  t$section(t$h2("Scales"), lapply(scales, scale_article, study = study))
}

scales_page <- function(examined, means = NULL) {
  t <- htmltools::tags
  page_html(
    paste0(examined$title, ": scales"), NULL,
    list(
      t$header(t$h1(examined$title), t$p(class = "lead", "Scales")),
      lapply(examined$scales, scale_article, study = NULL),
      if (!is.null(means)) lapply(means$tables, answer_section),
      t$footer("Made by Mavik ", as.character(utils::packageVersion("mavik")), ".")
    ),
    examined$language
  )
}

scale_article <- function(scale, study) {
  t <- htmltools::tags
  t$article(
    t$h3(
      t$code(class = "name", scale$scale), " ", scale$label,
      if (nzchar(scale$wave)) paste0(", wave ", scale$wave)
    ),
    scale_tables(scale),
    if (length(scale$warnings) > 0) t$ul(
      class = "about", lapply(scale$warnings, function(text) t$li(page_words(text)))
    ),
    if (!is.null(scale$answers)) draw_items(scale),
    if (scale$k > 1 && any(!is.na(scale$items$item_rest))) draw_rest(scale),
    if (!is.null(study)) list(score_figure(study, scale), worked_examples(study, scale))
  )
}

scale_tables <- function(scale) {
  s <- scale$score
  words <- c(n = "n", mean = "Mean", sd = "SD", min = "Smallest", max = "Largest", skew = "Skew")
  list(
    page_table(
      if (scale$use == "complete") paste0(
        "Over ", count_of(scale$n, "respondent"), " who answered all ", count_of(scale$k, "item")
      ) else "Over pairs of items",
      list(
      "Alpha" = three(scale$alpha), "95 % interval" = if (is.na(scale$alpha_low)) "" else paste(
        three(scale$alpha_low), "to", three(scale$alpha_high)
      ), "Standardised" = three(scale$alpha_standard), "Omega" = three(scale$omega),
      "Split half" = three(scale$split_half), "Mean correlation" = three(scale$mean_r),
      "In words" = alpha_words(scale$alpha)), numbers_of(c(
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
        list("Possible" = if (length(scale$possible) == 2) paste(
          number_to_text(round_half(scale$possible, 4)), collapse = " to "
        ) else "open")
      ),
      numbers_of(c(unname(words), "Possible"))
    ),
    page_table("Items, as scored",
      list(
        "Item" = paste0(scale$items$item, ifelse(scale$items$reversed, " (reversed)", "")),
        "Label" = scale$items$label, "n" = grouped(scale$items$n),
        "Mean" = two_decimals(scale$items$mean), "SD" = two_decimals(scale$items$sd),
        "Item-rest r" = two_decimals(scale$items$item_rest),
        "Alpha without" = three(scale$items$alpha_without),
        "Gaps" = paste0(number_show(100 * scale$items$blank, 1), " %")
      ),
      c("Item" = "row", numbers_of(c("n", "Mean", "SD", "Item-rest r", "Alpha without", "Gaps"))))
  )
}

score_figure <- function(study, scale) {
  if (scale$score[["n"]] == 0) return(NULL)
  bounded <- length(scale$possible) == 2 && all(is.finite(scale$possible))
  ends <- unname(if (bounded) scale$possible else scale$score[c("min", "max")])
  if (diff(ends) == 0) return(NULL)
  rows <- study$retained
  if (nzchar(scale$wave)) {
    rows <- rows_retained(study)
    rows <- rows[study$records$wave[rows] == scale$wave]
  }
  breaks <- seq(ends[1], ends[2], length.out = 17)
  counts <- bin_counts(study$data[[scale$scale]], breaks, rows)
  list(
    page_caption("The score over its possible range"),
    draw_histogram(breaks, counts, paste("Distribution of", scale$scale))
  )
}

# The lowest, the middle and the highest, item by item.
worked_examples <- function(study, scale) {
  if (nzchar(scale$wave)) return(NULL)
  rows <- ranked_rows(study$data[[scale$scale]], study$retained)
  if (length(rows) == 0) return(NULL)
  variable <- study$book$variables[[scale$scale]]
  uses <- study$book$uses[[scale$scale]]
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
      "Score" = number_show(study$data[[scale$scale]][rows], 2), "How" = sub("^Here: ", "", words)
    ),
    c("Respondent" = "row", "Score" = "number")
  )
}
