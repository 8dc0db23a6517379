# What the codebook's page says of each variable. A study has hundreds of them, so each part is
# written for all at once.

# By variable.
variable_articles <- function(study, names) {
  book <- study$book
  variables <- book$variables[names]
  counts <- study$tallies$counts[names]
  label <- vapply(variables, function(variable) paste0(variable$label, ""), "")
  each <- function(write) vapply(names, function(name) paste(write(name), collapse = "\n"), "")
  lapply(with_names(paste0(
    "<article id=\"v-", names, "\" aria-labelledby=\"h-", names, "\">\n<h3 id=\"h-", names,
    "\"><code class=\"name\">", names, "</code> ", htmltools::htmlEscape(label), "</h3>\n",
    asked_lines(variables, label),
    about_each(lapply(variables, function(variable) c(
      made_in_words(variable, book), unlist(reading_in_words(variable, book))
    ))),
    each(function(name) page_about(variables[[name]]$note, code = FALSE)),
    facts_lists(Map(article_facts, variables, counts, answered_shown(counts))),
    statistics_tables(variables, counts), each(function(name) histogram(name, counts[[name]])),
    counts_tables(counts), each(function(name) unlist(proof_tables(study$tallies$proofs[[name]]))),
    each(function(name) if (is_score(variables[[name]]))
      unlist(lapply(scales_of(study, name), scale_tables))),
    "</article>\n", recycle0 = TRUE
  ), names), htmltools::HTML)
}

# Not where the label says the same.
asked_lines <- function(variables, label) {
  question <- vapply(variables, function(variable) paste0(variable$question, ""), "")
  ifelse(nzchar(question) & text_fold(question) != text_fold(label),
    paste0("<p class=\"question\">", htmltools::htmlEscape(question), "</p>\n"), "")
}

article_facts <- function(variable, counts, answered) list(
  "Level" = variable$level, "Unit" = variable$unit,
  "Range" = if (!is.null(variable$range)) paste(range_shown(variable), collapse = " to "),
  "Answered" = answered,
  "Distinct" = counts$distinct, "Earliest" = counts$span[1], "Latest" = counts$span[2]
)

answered_shown <- function(counts) {
  n <- vapply(counts, `[[`, 0, "n")
  answered <- vapply(counts, `[[`, 0, "answered")
  paste0(
    grouped(answered), " of ", grouped(n), " (", percent_shown(100 * answered / n), ")",
    recycle0 = TRUE
  )
}

# Over all waves.
scales_of <- function(study, name) Filter(
  function(scale) scale$scale == name && !nzchar(scale$wave), study$tallies$scales
)

histogram <- function(name, counts) if (!is.null(counts$bins)) draw_histogram(
  counts$bins$breaks, counts$bins$counts, paste("Distribution of", name), height = 120
)

statistics_tables <- function(variables, counts) {
  out <- rep("", length(variables))
  has <- which(lengths(lapply(counts, `[[`, "statistics")) > 0)
  if (length(has) == 0) return(out)
  words <- c(
    n = "n", mean = "Mean", sd = "SD", min = "Smallest", q1 = "Lower quartile",
    median = "Median", q3 = "Upper quartile", max = "Largest"
  )
  decimals <- vapply(variables[has], function(variable) {
    if (is.null(variable$decimals)) 2 else as.double(variable$decimals)
  }, 0)
  shown <- lapply(names(words), function(name) {
    values <- vapply(counts[has], function(count) as.double(count$statistics[[name]]), 0)
    if (name == "n") return(grouped(values))
    number_show(values, if (name %in% c("min", "max")) decimals else pmax(decimals, 2))
  })
  out[has] <- page_tables("Statistics of the answered", with_names(shown, words),
    numbers_of(words), sizes = rep(1L, length(has)))
  out
}

counts_table <- function(counts) htmltools::HTML(counts_tables(list(counts)))

# "" where there is nothing to count.
counts_tables <- function(all) {
  out <- rep("", length(all))
  coded <- lengths(lapply(all, `[[`, "codes")) > 0
  shown <- coded | vapply(all, function(counts) nrow(counts$gaps) > 0, TRUE)
  out[shown & coded] <- tables_of_counts(all[shown & coded], TRUE)
  out[shown & !coded] <- tables_of_counts(all[shown & !coded], FALSE)
  out
}

tables_of_counts <- function(all, coded) {
  if (length(all) == 0) return(character())
  rows <- lapply(all, rows_of_counts)
  field <- function(name) unlist(lapply(rows, `[[`, name), use.names = FALSE)
  sizes <- lengths(lapply(rows, `[[`, "label"))
  gap <- field("is") == "gap"
  total <- field("is") == "total"
  percent <- field("of_all")
  columns <- list(
    "Code" = field("code"), "Label" = field("label"), "Count" = grouped(field("count")),
    "% of all" = percent_shown(percent), "% of answered" = percent_shown(field("of_answered")),
    " " = ifelse(total, "", page_bar(percent, gap))
  )
  first <- gap & !c(FALSE, gap[-length(gap)])
  page_tables("Answers and gaps", columns[coded | names(columns) != "% of answered"],
    c(
      "Code" = "number", "Label" = "row", "Count" = "number", "% of all" = "number",
      "% of answered" = "number", " " = "bar"
    ),
    class = ifelse(total, "total", ifelse(first, "gap first-gap", ifelse(gap, "gap", ""))),
    sizes = sizes)
}

# Of what has no codes all answers are one row.
rows_of_counts <- function(counts) {
  codes <- if (!is.null(counts$codes)) counts$codes else list(
    code = "", label = "Answered", count = counts$answered,
    of_all = share(counts$answered, counts$n), of_answered = NA_real_
  )
  gaps <- counts$gaps
  none <- rep(NA_real_, length(gaps$label) + 1)
  list(
    code = c(number_or_text(codes$code), number_to_text(gaps$code), ""),
    label = c(codes$label, gaps$label, "All rows"),
    count = c(codes$count, gaps$count, counts$n),
    of_all = c(codes$of_all, gaps$of_all, NA), of_answered = c(codes$of_answered, none),
    is = rep(c("code", "gap", "total"), c(length(codes$label), length(gaps$label), 1L))
  )
}

number_or_text <- function(code) if (is.numeric(code)) number_to_text(code) else code
