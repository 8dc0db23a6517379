# What is known of a variable and its values without any data.

levels_of_measurement <- c(
  "nominal", "ordinal", "interval", "ratio", "text", "date", "datetime", "identifier"
)

ordered_levels <- c("ordinal", "interval", "ratio")

is_coded <- function(variable) identical(variable$storage, "coded")

is_date <- function(variable) identical(variable$storage, "date")

label_of <- function(variable, code) {
  label <- as.character(variable$codes$label)[match(code, variable$codes$code)]
  ifelse(is.na(label), number_to_text(code), label)
}

# All codes that a coded variable can hold: listed ones, and the bare ones of its range.
all_codes <- function(variable) {
  codes <- variable$codes$code
  if (!is.null(variable$range) && all(is.finite(variable$range))) {
    bare <- setdiff(seq(ceiling(variable$range[1]), floor(variable$range[2])), codes)
    codes <- if (length(bare) > 0) sort(as.integer(c(codes, bare))) else codes
  }
  codes
}

# The smallest and largest value that a variable can take; NULL if unbounded.
bounds_of <- function(variable) {
  both <- c(variable$range, variable$codes$code)
  if (length(both) == 0 || !all(is.finite(both))) return(NULL)
  range(both)
}

range_shown <- function(variable) {
  range <- variable$range
  text <- value_text(variable, ifelse(is.finite(range), range, NA))
  ifelse(range == -Inf, "any lower value", ifelse(range == Inf, "any higher value", text))
}

# The canonical text of values: a number or code in its shortest form, a date as ISO 8601.
value_text <- function(variable, value) {
  if (is_date(variable)) return(date_to_text(value, variable$level))
  if (identical(variable$storage, "set")) return(ifelse(
    is.na(value), NA, set_text(as.character(value), variable$options$label)
  ))
  if (is.character(value)) value else number_to_text(value)
}

# Values as R users take them: dates with their class.
value_as_r <- function(variable, value) {
  if (!is_date(variable)) return(value)
  seen_as(as.double(value), if (variable$level == "date") list(class = "Date") else list(
    class = c("POSIXct", "POSIXt"), tzone = "UTC"
  ))
}

reason_id <- function(book, name) match(name, book$reasons$name)

# Labels or codes of the source; NA where one is neither.
old_codes <- function(source, words) {
  place <- match(text_fold(words), text_fold(source$codes$label))
  number <- text_to_number(words)
  ifelse(!is.na(place), source$codes$code[place], ifelse(number %in% all_codes(source), number, NA))
}
