# What was written is read again and held against the study, a column at a time.

# `back` is what a format's reader finds. Gives how many cells were compared; stops at the first
# column that differs.
compare_edition <- function(edition, format, back) {
  wrong <- function(...) stop_mavik(
    "release_error", "`", format, "` does not read back as it was written: ", ...,
    "; nothing was put in place. This is a fault of Mavik, please report it"
  )
  if (!identical(as.integer(back$n), as.integer(edition$n))) wrong(
    back$n, " records instead of ", edition$n
  )
  if (is.null(back$names)) return(0)
  if (!identical(unname(back$names), edition$names) && !isTRUE(back$some)) wrong(
    "its variables are not those of the release, or in another order"
  )
  labels <- vapply(edition$names, function(name) paste0(edition_variable(edition, name)$label, ""), "")
  if (!is.null(back$labels) && any(text_squeeze(back$labels) != text_squeeze(labels))) wrong(
    "the label of `", edition$names[text_squeeze(back$labels) != text_squeeze(labels)][1], "`"
  )
  if (!is.null(back$codes_of)) for (name in edition$names) {
    if (!same_labels(edition, name, back$codes_of(name))) wrong("the codes of `", name, "`")
  }
  if (is.null(back$column)) return(0)
  for (name in back$names) {
    column <- back$column(name)
    expected <- expected_values(edition, name, back)
    if (!is.null(back$digits) && is.double(expected) && !is_date(edition_variable(edition, name)))
      expected <- rounded_to(expected, back$digits)
    if (!same_values(expected, column$value)) wrong(
      "the values of `", name, "`"
    )
    if (!same_reasons(edition_values(edition, name)$reason, column$reason, edition)) wrong(
      "the reasons of `", name, "`"
    )
  }
  edition$n * length(back$names)
}

same_labels <- function(edition, name, found) {
  variable <- edition_variable(edition, name)
  if (is.null(found) || !has_labels(variable)) return(TRUE)
  known <- released_codes(variable, edition_values(edition, name)$value)$label
  all(text_squeeze(found$label) %in% text_squeeze(known))
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

# `found` is a vector, or distinct cells with an index ("" in a gap).
same_values <- function(expected, found) {
  if (is.null(found)) return(all(is.na(expected)))
  if (is.list(found)) return(same_cells(expected, found))
  if (is.factor(expected)) expected <- levels(expected)[as.integer(expected)]
  if (is.factor(found)) found <- levels(found)[as.integer(found)]
  if (is.numeric(found) && !is.character(expected) && !inherits(found, c("Date", "POSIXct")) &&
    !inherits(expected, c("Date", "POSIXct"))) return(same_numbers(expected, found))
  if (inherits(expected, "POSIXct") && inherits(found, "POSIXct")) return(same_numbers(
    round(as.double(expected), 3), round(as.double(found), 3)
  ))
  expected <- csv_column(expected)
  found <- csv_column(found)
  if (is.numeric(expected)) expected <- number_to_text(expected)
  if (is.numeric(found)) found <- number_to_text(found)
  identical(is.na(expected), is.na(found)) && all(expected == found, na.rm = TRUE)
}

same_numbers <- function(expected, found) identical(is.na(expected), is.na(found)) &&
  all(as.double(expected) == as.double(found), na.rm = TRUE)

# By the distinct cells: a rating of a million cells is five texts and an index.
same_cells <- function(expected, found) {
  cells <- found$cells
  cells[!is.na(cells) & cells == ""] <- NA
  if (is.factor(expected)) {
    at <- match(cells, levels(expected))
    return(!anyNA(at[!is.na(cells)]) && identical(at[found$index], as.integer(expected)))
  }
  if (is.numeric(expected) && !inherits(expected, c("Date", "POSIXct"))) {
    number <- text_to_number(cells)
    return(!anyNA(number[!is.na(cells)]) && same_numbers(expected, number[found$index]))
  }
  known <- csv_column(expected)
  identical(enc2utf8(cells)[found$index], known) || same_values(known, cells[found$index])
}

same_reasons <- function(expected, found, edition) {
  if (is.list(found)) found <- found$cells[found$index]
  if (is.null(expected)) return(is.null(found) || all(is.na(found)))
  if (is.null(found)) return(FALSE)
  expected <- as.character(expected)
  found <- as.character(found)
  found[!is.na(found) & found == ""] <- NA
  identical(is.na(expected), is.na(found)) && all(expected == found, na.rm = TRUE)
}

# To so many digits in all, as text has them.
rounded_to <- function(x, digits) {
  known <- !is.na(x)
  x[known] <- as.double(formatC(x[known], digits = digits, format = "g"))
  x
}
