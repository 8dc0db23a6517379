# Dates and date-times as text: ISO 8601, or a pattern in the letters that CSVW takes from UTS 35,
# with MMM for a month and EEE for a day of the week in words. Inside, a date is its days and a
# date-time its seconds since 1970-01-01, on the clock of the cell or, where the cell names a zone,
# in UTC.

date_letters <- c(
  "yyyy", "MMM", "MM", "M", "dd", "d", "EEE", "HH", "H", "hh", "h", "mm", "m", "ss", "s", "S", "a",
  "X"
)

# What a date that is not said otherwise looks like; the last two are reduced.
iso_date <- c("yyyy-MM-dd", "yyyy-MM", "yyyy")
iso_time <- c(
  "yyyy-MM-dd'T'HH:mm:ss.SX", "yyyy-MM-dd'T'HH:mm:ssX", "yyyy-MM-dd'T'HH:mmX",
  "yyyy-MM-dd'T'HH:mm:ss.S", "yyyy-MM-dd'T'HH:mm:ss", "yyyy-MM-dd'T'HH:mm",
  "yyyy-MM-dd HH:mm:ss.SX", "yyyy-MM-dd HH:mm:ssX", "yyyy-MM-dd HH:mmX", "yyyy-MM-dd HH:mm:ss.S",
  "yyyy-MM-dd HH:mm:ss", "yyyy-MM-dd HH:mm", "yyyy-MM-dd"
)

# What else dates are often written like, for those who propose a pattern.
common_days <- c(
  "dd/MM/yyyy", "d/M/yyyy", "dd.MM.yyyy", "d.M.yyyy", "dd-MM-yyyy", "d-M-yyyy", "MM/dd/yyyy",
  "M/d/yyyy", "MM-dd-yyyy", "M-d-yyyy", "yyyy/MM/dd", "yyyy/M/d", "yyyy.MM.dd", "yyyy.M.d",
  "yyyyMMdd", "yyyy\u5e74M\u6708d\u65e5", "d MMM yyyy", "d-MMM-yyyy", "d. MMM yyyy", "d.MMM.yyyy",
  "d/MMM/yyyy", "dMMMyyyy", "MMM d, yyyy", "MMM d yyyy", "d 'de' MMM 'de' yyyy", "yyyy-MMM-d"
)
common_moments <- c(
  outer(c(common_days, "yyyy-MM-dd"), c(
    "HH:mm", "HH:mm:ss", "H:mm", "H:mm:ss", "h:mm a", "h:mm:ss a", "HH.mm"
  ), paste),
  outer(common_days, c("H:mm", "H:mm:ss", "h:mm a", "h:mm:ss a"), paste, sep = ", "),
  "yyyy-MM-dd HH:mm:ss 'UTC'", "MMM d yyyy HH:mm:ss 'GMT'X", "d MMM yyyy HH:mm:ss X"
)

# `value`, whether a `zone` was named, and whether the cell was `reduced` (read
# as the first moment of the period it names); NA where no pattern fits.
text_to_date <- function(x, level, patterns = NULL) {
  out <- list(
    value = rep(NA_real_, length(x)), zone = logical(length(x)), reduced = logical(length(x))
  )
  plain <- is.null(patterns)
  if (plain) patterns <- if (level == "date") iso_date else iso_time
  spaced <- stringi::stri_detect_regex(x, "^[^!-~]|[^!-~]$")
  x[which(spaced)] <- text_trim(x[which(spaced)])
  open <- !is.na(x) & nzchar(x)
  for (pattern in patterns) {
    if (!any(open)) break
    form <- date_form(pattern)
    if (level == "date" && form$timed) next
    read <- dates_of_form(x[open], form)
    here <- which(open)[!is.na(read)]
    out$value[here] <- if (level == "date") read[!is.na(read)] / 86400 else read[!is.na(read)]
    out$zone[here] <- form$zoned
    out$reduced[here] <- plain && (if (level == "date") !form$day else !form$timed)
    open[here] <- FALSE
  }
  out
}

# A pattern as tokens; `odd` is what it holds and cannot.
date_form <- function(pattern) once_a_session(paste("date", pattern), function() {
  tokens <- stringi::stri_extract_all_regex(pattern, "'[^']+'|([A-Za-z])\\1*|.")[[1]]
  tokens <- ifelse(grepl("^S+$", tokens), "S", ifelse(grepl("^[Xx]+$", tokens), "X", tokens))
  tokens[tokens == "MMMM"] <- "MMM"
  tokens[tokens == "EEEE"] <- "EEE"
  letter <- grepl("^[A-Za-z]", tokens) & tokens != "T"
  has <- function(...) any(c(...) %in% tokens)
  list(
    tokens = sub("^MMM$", "MM", tokens[tokens != "EEE"]),
    odd = tokens[letter & !tokens %in% date_letters],
    timed = has("HH", "H", "hh", "h"), zoned = has("X"), worded = has("MMM"),
    month = has("M", "MM", "MMM"), day = has("d", "dd"), year = has("yyyy"),
    halved = has("a") == has("h", "hh"), weekday = has("EEE"),
    weekday_first = isTRUE(match("EEE", tokens) < match("yyyy", tokens))
  )
})

# A day of the week stands for no time: one that is not the date's own leaves the cell unread.
dates_of_form <- function(x, form) {
  if (form$weekday) {
    parted <- without_weekday(x, form$weekday_first)
    x <- parted$rest
  }
  read <- dates_parse(if (form$worded) months_in_digits(x) else x, form$tokens)
  if (form$weekday) read[!falls_on(read, parted$day, form$zoned)] <- NA
  read
}

# The cell without the word, and the word's days of the week as powers of two.
without_weekday <- function(x, first = TRUE) {
  locate <- if (first) stringi::stri_locate_first_regex else stringi::stri_locate_last_regex
  places <- locate(x, weekday_pattern())
  word <- text_fold(sub(".", "", stringi::stri_sub(x, from = places), fixed = TRUE))
  rest <- stringi::stri_sub_replace(x, from = places, value = "", omit_na = TRUE)
  list(rest = rest, day = unname(weekday_words()[word]))
}

# 1970-01-01 was a Thursday. A moment in UTC may fall on the day before or after that of its zone.
falls_on <- function(seconds, days, zoned) {
  on <- function(shift) bitwAnd(2^((floor(seconds / 86400) + 3 + shift) %% 7), days) > 0
  near <- vapply(if (zoned) -1:1 else 0, on, logical(length(seconds)))
  rowSums(matrix(near, length(seconds))) %in% 1:3
}

weekday_pattern <- function() once_a_session("weekday_pattern", function() {
  words <- names(weekday_words())
  paste0(
    "(?i)(?<!\\p{L})(", paste(words[order(-nchar(words))], collapse = "|"), ")(?!\\p{L})[.]?"
  )
})

weekday_words <- function() once_a_session("weekday_words", function() {
  words <- word_rows("weekdays.txt")
  days <- rep(2^(seq_along(words) - 1), lengths(words))
  words <- text_fold(unlist(words))
  vapply(split(days, factor(words, unique(words))), function(days) sum(unique(days)), 0)
})

# The month's word as two digits, with the point that shortens it; NA where none stands there.
months_in_digits <- function(x) {
  places <- stringi::stri_locate_first_regex(x, "(?<!\\p{L})\\p{L}{3,}([.](?= ))?")
  word <- stringi::stri_sub(x, from = places)
  month <- month_words()[text_fold(sub(".", "", word, fixed = TRUE))]
  x[is.na(month)] <- NA
  stringi::stri_sub_replace(x, from = places, value = sprintf("%02d", month))
}

month_words <- function() once_a_session("month_words", function() {
  words <- word_rows("months.txt")
  with_names(rep(seq_along(words), lengths(words)), text_fold(unlist(words)))
})

word_rows <- function(file) {
  lines <- readLines(system.file("text", file, package = "mavik"), encoding = "UTF-8")
  strsplit(sub("^[0-9]+: ", "", lines[!startsWith(lines, "#")]), " | ", fixed = TRUE)
}

month_length <- function(year, month) {
  leap <- (year %% 4 == 0 & year %% 100 != 0) | year %% 400 == 0
  c(31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31)[month] + (month == 2 & leap)
}

# ISO 8601 again; NA stays NA.
date_to_text <- function(value, level) {
  known <- unique(value[!is.na(value)])
  text <- if (level == "date") day_to_text(known) else moment_to_text(known)
  # Where there is none, `text` knows no kind of its own.
  as.character(text)[match(value, known)]
}

# Years have four digits, also those before 1000.
day_to_text <- function(days) {
  parts <- as.POSIXlt(structure(as.double(days), class = "Date"))
  ifelse(is.na(days), NA, sprintf("%04d-%02d-%02d", as.integer(parts$year + 1900),
    as.integer(parts$mon + 1), as.integer(parts$mday)))
}

# To the millionth of a second, carried over where that makes a whole one.
moment_to_text <- function(seconds) {
  whole <- floor(seconds)
  fraction <- round(seconds - whole, 6)
  up <- !is.na(fraction) & fraction >= 1
  whole[up] <- whole[up] + 1
  fraction[up] <- 0
  day <- floor(whole / 86400)
  second <- whole - day * 86400
  text <- sprintf("%sT%02d:%02d:%02d", day_to_text(day), as.integer(second %/% 3600),
    as.integer(second %/% 60 %% 60), as.integer(second %% 60))
  text <- ifelse(fraction > 0, paste0(text, substring(number_to_text(fraction), 2)), text)
  ifelse(is.na(seconds), NA, text)
}

# The first and the last moment of what an ISO date names (`2026-03`); NULL if it is none.
date_span <- function(text, level) {
  low <- text_to_date(text, level)
  if (is.na(low$value)) return(NULL)
  unit <- if (level == "date") 1 else 86400
  day <- low$value %/% unit
  form <- stringi::stri_count_fixed(text_trim(text), "-")
  if (level == "date" && !low$reduced) return(c(day, day))
  if (level == "datetime" && !low$reduced) return(c(low$value, low$value))
  parts <- as.POSIXlt(structure(day, class = "Date"))
  last <- if (form == 2) day else if (form == 1) day + month_length(
    parts$year + 1900, parts$mon + 1
  ) - 1 else day + 365 - (month_length(parts$year + 1900, 2) == 28)
  if (level == "date") c(day, last) else c(day * unit, (last + 1) * unit - 1e-6)
}
