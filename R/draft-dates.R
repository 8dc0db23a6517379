# Drafted entries of dates, with the pattern that most cells fit.

date_lines <- function(column, entry) {
  fit <- date_fit(column$cells)
  if (is.null(fit)) return(c(entry(level = "text"), if (has_month_words(column$cells))
    "    # the month is a word, which no pattern reads" else "    # dates of no one pattern"))
  c(
    entry(level = fit$level, dates = if (!is.null(fit$pattern)) yaml_pattern(fit$pattern)),
    if (fit$doubtful) "    # the month may stand first: no cell tells"
  )
}

yaml_pattern <- function(pattern) {
  if (grepl("[:,']", pattern)) paste0("\"", pattern, "\"") else pattern
}

has_month_words <- function(cells) are_most(
  cells, function(text) stringi::stri_detect_regex(text, "[\\p{L}]{3}"), 0.9
)

# The pattern that nearly all cells fit; ISO 8601 needs none. A few cells tell which to try.
date_fit <- function(cells) {
  share <- function(pattern, level, of) weighted_share(
    !is.na(text_to_date(of$text, level, pattern)$value), of$count
  )
  for (level in c("date", "datetime")) {
    if (share(NULL, level, cells) >= 0.9) return(
      list(level = level, pattern = NULL, doubtful = FALSE)
    )
    tried <- if (level == "date") common_days else common_moments
    some <- utils::head(cells, 50)
    tried <- tried[vapply(tried, share, 0, level = level, of = some) >= 0.5]
    fits <- vapply(tried, share, 0, level = level, of = cells)
    if (max(fits, 0) < 0.9) next
    best <- tried[which.max(fits)]
    other <- chartr("dM", "Md", best)
    return(list(
      level = level, pattern = best,
      doubtful = other %in% tried && other != best && fits[[other]] == max(fits)
    ))
  }
  NULL
}
