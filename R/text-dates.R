# Dates and date-times as text: ISO 8601, or a pattern in the letters that CSVW takes from UTS 35,
# with MMM for a month in words. Inside, a date is its days and a date-time its seconds since
# 1970-01-01, on the clock of the cell or, where the cell names a zone, in UTC.

date_letters <- c(
  "yyyy", "MMM", "MM", "M", "dd", "d", "HH", "H", "hh", "h", "mm", "m", "ss", "s", "S", "a", "X"
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
  "yyyy-MM-dd HH:mm:ss 'UTC'"
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
    read <- dates_parse(if (form$worded) months_in_digits(x[open]) else x[open], form$tokens)
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
  letter <- grepl("^[A-Za-z]", tokens) & tokens != "T"
  has <- function(...) any(c(...) %in% tokens)
  list(
    tokens = sub("^MMM$", "MM", tokens), odd = tokens[letter & !tokens %in% date_letters],
    timed = has("HH", "H", "hh", "h"), zoned = has("X"), worded = has("MMM"),
    month = has("M", "MM", "MMM"), day = has("d", "dd"), year = has("yyyy"),
    halved = has("a") == has("h", "hh")
  )
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
  lines <- readLines(system.file("text", "months.txt", package = "mavik"), encoding = "UTF-8")
  words <- strsplit(sub("^[0-9]+: ", "", lines[!startsWith(lines, "#")]), " | ", fixed = TRUE)
  with_names(rep(seq_along(words), lengths(words)), text_fold(unlist(words)))
})

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
