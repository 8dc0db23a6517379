# Drafted entries of dates, with the pattern that most cells fit.

date_lines <- function(column, entry) {
  fit <- date_fit(column$cells)
  if (is.null(fit)) return(c(
    entry(level = "text"), paste0("    # ", why_no_pattern(column$cells))
  ))
  c(
    entry(level = fit$level, dates = if (!is.null(fit$pattern)) yaml_pattern(fit$pattern)),
    if (fit$doubtful) "    # the month may stand first: no cell tells"
  )
}

yaml_pattern <- function(pattern) {
  if (grepl("[:,']", pattern)) paste0("\"", pattern, "\"") else pattern
}

why_no_pattern <- function(cells) {
  most <- function(pattern) are_most(
    cells, function(text) stringi::stri_detect_regex(text, pattern), 0.9
  )
  if (!most("[0-9]{4}")) return(
    "years of two digits, which leave the century open: a pattern needs four"
  )
  if (most("[\\p{L}]{3}")) "the month is a word that no pattern reads" else
    "dates of no one pattern"
}

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
