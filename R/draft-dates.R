# Drafted entries of dates, with the pattern that most cells fit.

date_lines <- function(column, entry) {
  given <- column$cells[is.na(column$cells$gap), ]
  fit <- date_fit(given)
  if (is.null(fit)) return(c(
    entry(level = "text"), paste0("    # ", why_no_pattern(given))
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
  if (begin_with_weekday(cells$text)) return(
    "not all of one pattern, or of the weekday that is written with them"
  )
  if (most("[\\p{L}]{3}")) "the month is a word that no pattern reads" else
    "dates of no one pattern"
}

# The pattern that nearly all cells fit; ISO 8601 needs none.
date_fit <- function(cells) {
  fit <- plain_fit(cells)
  # `mar` is a month in March, and a Tuesday.
  if (is.null(fit) && begin_with_weekday(cells$text)) weekday_fit(cells) else fit
}

# A few cells tell which to try.
plain_fit <- function(cells) {
  share <- function(pattern, level, of = cells) date_share(of, level, pattern)
  for (level in c("date", "datetime")) {
    if (share(NULL, level) >= 0.9) return(
      list(level = level, pattern = NULL, doubtful = FALSE)
    )
    tried <- if (level == "date") common_days else common_moments
    some <- utils::head(cells, 50)
    tried <- tried[vapply(tried, share, 0, level = level, of = some) >= 0.5]
    fits <- vapply(tried, share, 0, level = level)
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

date_share <- function(cells, level, pattern) weighted_share(
  !is.na(text_to_date(cells$text, level, pattern)$value), cells$count
)

# `Mon 2 March 2026`, `Monday, 02/03/2026`: the weekday tells as well whether the month stands
# first.
weekday_fit <- function(cells) {
  rest <- cells
  rest$text <- after_weekday(cells$text)
  fit <- plain_fit(rest)
  if (is.null(fit)) return(NULL)
  begun <- which(rest$text != cells$text)[1]
  before <- stringi::stri_sub(cells$text[begun], 1, -1 - stringi::stri_length(rest$text[begun]))
  patterns <- if (is.null(fit$pattern)) setdiff(c(iso_date, iso_time), c("yyyy-MM", "yyyy")) else
    unique(c(fit$pattern, chartr("dM", "Md", fit$pattern)))
  patterns <- paste0(if (grepl(",", before)) "EEE, " else "EEE ", patterns)
  fits <- vapply(patterns, date_share, 0, cells = cells, level = fit$level)
  if (max(fits) < 0.9) return(NULL)
  list(level = fit$level, pattern = patterns[which.max(fits)], doubtful = FALSE)
}

begin_with_weekday <- function(texts) {
  texts <- utils::head(texts, 50)
  # A date has digits: that spares most columns a pattern of a few hundred names.
  may <- stringi::stri_detect_regex(texts, "^\\p{L}[^0-9]*[0-9]")
  isTRUE(mean(may) >= 0.5 && mean(after_weekday(texts) != texts) >= 0.5)
}

after_weekday <- function(texts) {
  stringi::stri_replace_first_regex(texts, paste0("^", weekday_pattern(), ",? +(?=\\S)"), "")
}
