# What was written is read again and held against the study, a column at a time.

# `back` is what a format's reader finds. Gives how many cells were compared; stops at the first
# column that differs.
compare_edition <- function(edition, format, back) {
  wrong <- function(...) stop_mavik(
    "release_error", "`", format, "` does not read back as it was written: ", ...,
    "; nothing was replaced. This is a fault of Mavik, please report it"
  )
  n <- back[["n"]]
  if (!is.null(n) && !identical(as.integer(n), as.integer(edition$n))) wrong(
    n, " records instead of ", edition$n
  )
  if (is.null(back$names)) return(0)
  if (!identical(unname(back$names), edition$names) && !isTRUE(back$some)) wrong(
    "its variables are not those of the release, or in another order"
  )
  labels <- vapply(edition$names, function(name) paste0(
    edition_variable(edition, name)$label, ""
  ), "")
  if (!is.null(back$labels) && any(text_squeeze(back$labels) != text_squeeze(labels))) wrong(
    "the label of `", edition$names[text_squeeze(back$labels) != text_squeeze(labels)][1], "`"
  )
  if (!is.null(back$codes_of)) for (name in edition$names) {
    if (!same_labels(edition, name, back$codes_of(name))) wrong("the codes of `", name, "`")
  }
  if (is.null(back$value)) return(0)
  # All values first, then all reasons: a reader need not hold both.
  for (name in back$names) {
    expected <- expected_values(edition, name, back)
    held <- back$value(name)
    if (!is.null(back$digits) && is.double(expected) && !is_date(edition_variable(edition, name))) {
      # Very large numbers are written with all their digits.
      expected <- rounded_to(expected, back$digits)
      if (is.double(held)) held <- rounded_to(held, back$digits)
    }
    if (!same_values(expected, held)) wrong("the values of `", name, "`")
  }
  if (!is.null(back$reason)) for (name in back$names) {
    if (!same_reasons(edition_values(edition, name)$reason, back$reason(name), edition)) wrong(
      "the reasons of `", name, "`"
    )
  }
  edition$n * length(back$names)
}

same_labels <- function(edition, name, held) {
  variable <- edition_variable(edition, name)
  if (!has_labels(variable)) return(is.null(held))
  known <- released_codes(variable, edition_values(edition, name)$value)$label
  setequal(text_squeeze(held), text_squeeze(known))
}

# Some formats hold codes or labels whatever the release says of `values` and `gaps`.
expected_values <- function(edition, name, back) {
  variable <- edition_variable(edition, name)
  if (isTRUE(back$codes)) return(edition_values(edition, name)$value)
  if (!isTRUE(back$labelled)) return(edition_column(edition, name))
  if (has_labels(variable)) coded_with_gaps(
    variable, edition_values(edition, name)["value"], NULL, TRUE
  ) else edition_values(edition, name)$value
}

# Cells that are texts hold "" or NA in a gap.
same_values <- function(expected, held) {
  if (is.null(held)) return(all(is.na(expected)))
  if (is.character(held)) return(same_texts(expected, held))
  if (is.factor(held)) return(same_texts(expected, levels(held)[as.integer(held)]))
  if (inherits(expected, "POSIXct") && inherits(held, "POSIXct")) return(same_numbers(
    round(as.double(expected), 3), round(as.double(held), 3)
  ))
  if (inherits(expected, "Date") == inherits(held, "Date") && is.numeric(unclass(held)) &&
    is.numeric(unclass(expected)) && !is.factor(expected)) return(same_numbers(expected, held))
  same_texts(expected, csv_column(held))
}

same_numbers <- function(expected, held) identical(is.na(expected), is.na(held)) &&
  all(as.double(expected) == as.double(held), na.rm = TRUE)

# By distinct texts: a rating of a million cells is five of them and an index.
same_texts <- function(expected, held) {
  if (is.numeric(held)) held <- number_to_text(held)
  if (is.factor(expected)) {
    place <- match(held, levels(expected))
    return(!any(is.na(place) & !is.na(held) & held != "") &&
      identical(place, as.integer(expected)))
  }
  if (is.numeric(expected) && !inherits(expected, c("Date", "POSIXct"))) {
    known <- unique(held)
    number <- text_to_number(known)
    if (any(is.na(number) & !is.na(known) & known != "")) return(FALSE)
    return(same_numbers(expected, number[match(held, known)]))
  }
  held[!is.na(held) & held == ""] <- NA
  expected <- csv_column(expected)
  if (is.numeric(expected)) expected <- number_to_text(expected)
  identical(is.na(expected), is.na(held)) && all(expected == held, na.rm = TRUE)
}

# As the numbers of reasons: a few names, and an index of each record.
same_reasons <- function(expected, held, edition) {
  names <- edition$study$book$reasons$name
  # 0 where it is none of them.
  number <- function(texts) {
    place <- match(texts, c(names, "", NA), nomatch = 0L)
    place[place > length(names)] <- NA
    place
  }
  got <- if (is.factor(held)) number(levels(held))[as.integer(held)] else if (!is.null(held))
    if (is.numeric(held)) match(held, edition$study$book$reasons$code) else number(held)
  if (is.null(expected)) return(is.null(got) || all(is.na(got)))
  !is.null(got) && identical(got, as.integer(expected))
}

# To so many digits in all, as text has them.
rounded_to <- function(x, digits) {
  known <- !is.na(x)
  x[known] <- as.double(formatC(x[known], digits = digits, format = "g"))
  x
}
