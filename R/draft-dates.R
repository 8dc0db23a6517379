# Drafted entries of dates, with the pattern that most cells fit.

date_lines <- function(column, entry) {
  fit <- date_fit(column$cells)
  if (is.null(fit)) return(c(entry(level = "text"), "    # dates of no one pattern"))
  c(
    entry(level = fit$level, dates = if (!is.null(fit$pattern)) yaml_pattern(fit$pattern)),
    if (fit$doubtful) "    # the month may stand first: no cell tells"
  )
}

yaml_pattern <- function(pattern) if (grepl(":", pattern)) paste0("\"", pattern, "\"") else pattern

# The pattern that nearly all cells fit; ISO 8601 needs none.
date_fit <- function(cells) {
  days <- c(
    "dd/MM/yyyy", "d/M/yyyy", "dd.MM.yyyy", "d.M.yyyy", "dd-MM-yyyy", "d-M-yyyy", "MM/dd/yyyy",
    "M/d/yyyy", "MM-dd-yyyy", "M-d-yyyy", "yyyy/MM/dd", "yyyyMMdd"
  )
  share <- function(level, pattern) weighted_share(
    !is.na(text_to_date(cells$text, level, pattern)$value), cells$count
  )
  for (level in c("date", "datetime")) {
    if (share(level, NULL) >= 0.9) return(list(level = level, pattern = NULL, doubtful = FALSE))
    tried <- if (level == "date") days else as.vector(outer(
      days, c("HH:mm", "HH:mm:ss", "H:mm", "h:mm a"), paste
    ))
    fits <- vapply(tried, share, 0, level = level)
    if (max(fits) < 0.9) next
    best <- tried[which.max(fits)]
    other <- chartr("dM", "Md", best)
    return(list(
      level = level, pattern = best,
      doubtful = other %in% tried && other != best && fits[[other]] == max(fits)
    ))
  }
  NULL
}
