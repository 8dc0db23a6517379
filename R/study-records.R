# Who stands in an export: one key a record, never blank, never twice in a wave.

# NA where the codebook asks for numbers in place of keys.
read_keys <- function(export, raw) {
  if (is_numbered(export)) return(rep(NA_character_, raw$records))
  keys <- read_texts(raw, export$key)
  blank <- rows_blank(keys)
  if (length(blank) > 0) {
    stop_build(export, raw$lines[blank[1]], "the key `", export$key, "` is blank in ",
      count_of(length(blank), "record"),
      " (", lines_of(raw$lines[blank]), "): give them one, or take them out of the export")
  }
  keys
}

# Records without a key are numbered within their wave.
with_numbers <- function(records, many = FALSE) {
  if (!has_gaps(records$key)) return(records)
  numbered <- is.na(records$key)
  numbers <- stats::ave(seq_along(numbered), records$wave, FUN = seq_along)
  if (many && all(numbered)) records$key <- run_of_numbers(numbers) else
    records$key[numbered] <- number_to_text(numbers[numbered])
  records
}

# Of large files as one run of bytes, where none has to be trimmed.
read_texts <- function(raw, column) {
  many <- is_waiting(raw$columns) && raw$records >= least_held()
  run <- if (many) waiting_texts(raw$columns, column)
  if (!is.null(run)) return(run)
  column <- raw$columns[[column]]
  packed <- if (is_run(column$cells)) run_rows(run_bytes(column$cells), column$index)
  if (is.null(packed)) at_rows(text_trim(column$cells), column$index) else run_texts(packed)
}

# Keys that differ only in case, inner spaces or leading zeros.
near_keys <- function(records, book, retained) {
  out <- list()
  for (wave in names(book$waves)) {
    here <- rows_with(records$wave, wave)
    here <- here[retained[here]]
    here <- here[repeated_rows(near_marks(at_rows(records$key, here)))]
    near <- text_near(records$key[here])
    alike <- near %in% near[duplicated(near) & !duplicated(records$key[here])]
    groups <- split(here[alike], near[alike])
    for (rows in groups[order(vapply(groups, `[`, 0L, 1))]) {
      out[[length(out) + 1]] <- new_finding("warning", "key_near_match", key_variable(book),
        paste(records$key[rows], collapse = " | "),
        length(rows), rows, c("exports", book$exports[[records$export[rows[1]]]]$entry, "key"),
        paste0(
          "keys that differ only in case, spaces or leading zeros: one respondent or several? ",
          "They are kept apart"
        ))
    }
  }
  out
}

stop_build <- function(export, line, ...) {
  stop_mavik("build_error", at_line(export$shown, line), ": ", ...)
}
