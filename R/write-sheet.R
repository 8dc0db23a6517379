# A sheet that people fill in: a workbook, or CSV.

check_sheet_file <- function(file, book) {
  if (!grepl("[.](xlsx|csv)$", file, ignore.case = TRUE)) stop_mavik(
    "write_error", file, ": a sheet is written as .xlsx or .csv"
  )
  check_may_write(file, raw_places(book), replace = TRUE)
}

# `as_book(file)` writes the workbook, `table` is all that CSV can hold of it.
write_sheet <- function(table, file, as_book) {
  dir.create(dirname(file), recursive = TRUE, showWarnings = FALSE)
  if (is_workbook(file)) as_book(file) else write_text(csv_lines(table), file)
}

csv_lines <- function(table) {
  cell <- function(text) {
    text <- ifelse(is.na(text), "", as.character(text))
    ifelse(
      grepl("[\",\n\r]", text), paste0("\"", gsub("\"", "\"\"", text, fixed = TRUE), "\""), text
    )
  }
  c(
    paste(cell(names(table)), collapse = ","),
    if (nrow(table) > 0) do.call(paste, c(unname(lapply(table, cell)), sep = ","))
  )
}
