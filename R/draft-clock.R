# The order of times of day, and of weeks, months and quarters of a year.

# Minutes since midnight, or of a stretch of time (`1:30`); of a range (`9-11am`) its beginning, of
# `before 9am` what is below it.
# NULL where not all labels tell a time.
clock_steps <- function(labels) {
  plain <- plain_times(text_fold(labels))
  if (!is.null(plain)) return(plain)
  folded <- gsub("([ap])[.] ?m[.]?", "\\1m", text_fold(labels))
  folded <- sub("\\b(12 ?)?(noon|midday)\\b", "12pm", sub("\\b(12 ?)?midnight\\b", "12am", folded))
  time <- "(?<![0-9.,:])([01]?[0-9])(?:[:.]([0-5][0-9]))?(?![0-9]) ?(am|pm)?\\b"
  times <- stringi::stri_match_all_regex(folded, time)
  half <- vapply(times, function(time) nrow(time) < 3 && any(!is.na(time[, 4])), TRUE)
  # `Line 2: 7pm` is a name.
  rest <- stringi::stri_replace_all_regex(folded, paste0(
    time, "|\\b(before|after|until|till|from|about|around|by|at|to|and|or|later|earlier|",
    "between|than)\\b"
  ), "")
  if (length(labels) < 3 || !all(half) || any(grepl("[[:alnum:]]", rest))) return(NULL)
  steps <- vapply(times, minute_of, 0) + 0.5 * vapply(folded, bound_of, 0)
  if (anyDuplicated(steps)) NULL else steps
}

# `18:00`, `0:45 h`.
plain_times <- function(folded) {
  told <- stringi::stri_match_first_regex(
    folded, "^([0-9]{1,2}):([0-5][0-9])(?: ?(?:h|hrs|hours|uhr))?$"
  )
  minutes <- 60 * as.numeric(told[, 2]) + as.numeric(told[, 3])
  if (length(folded) >= 3 && !anyNA(minutes) && !anyDuplicated(minutes)) minutes
}

# `time` is a match of one or two times: whole, hour, minute, half of the day.
minute_of <- function(time) {
  hour <- as.numeric(time[, 2]) %% 12
  half <- time[1, 4]
  last <- nrow(time)
  # `9-11am`, `11-1pm`: what is not said of the beginning is that of the end, or the half before.
  if (is.na(half)) {
    half <- time[last, 4]
    if (half == "pm" && hour[1] > hour[last]) half <- "am"
  }
  minute <- as.numeric(time[1, 3])
  60 * (hour[1] + 12 * (half == "pm")) + if (is.na(minute)) 0 else minute
}

# `2026-W08`, `2026 Q1`, `Q1 2026`, `2026-02`, `Feb 2026`; NULL where not all are of one form.
period_steps <- function(folded) {
  first <- stringi::stri_match_first_regex(
    folded, "^((?:19|20)[0-9]{2})[ /-]?(kw|cw|w|q|h|t|s)?[ -]?([0-9]{1,2})$"
  )[, c(2, 3, 4), drop = FALSE]
  last <- stringi::stri_match_first_regex(
    folded, "^(?:(kw|cw|w|q|h|t|s)?[ -]?([0-9]{1,2})|([^0-9]+?)[.]?)[ /-]((?:19|20)[0-9]{2})$"
  )[, c(5, 2, 3, 4), drop = FALSE]
  for (form in list(cbind(first, NA), last)) {
    within <- ifelse(
      is.na(form[, 4]), as.numeric(form[, 3]), month_words()[form[, 4]]
    )
    if (length(unique(form[, 2])) > 1 || anyNA(within) || anyNA(form[, 1])) next
    # A bare number is a month; `2024/25` is none.
    if (anyNA(form[, 2]) && any(within > 12)) next
    return(rank(100 * as.numeric(form[, 1]) + within, ties.method = "min"))
  }
  NULL
}
