#' Read one raw export
#'
#' Reads a file as the platform delivered it: every cell as text, nothing
#' guessed. What does not fit is an error with its line, never a shorter table.
#'
#' @param file Path of a delimited text file (`.csv`, `.tsv`, `.txt`), or a data
#'   frame. In a data frame a factor counts as its labels, a missing value as a
#'   blank cell, and numbers, dates and truth values as their plain text.
#' @param heading Roles of the heading rows, top down: `"names"` (column names)
#'   and `"questions"` (question texts). A data frame has its names only.
#' @param skip Number of lines above the heading.
#' @param delimiter `"comma"`, `"semicolon"`, `"tab"` or `"pipe"`.
#' @param encoding `"UTF-8"`, `"UTF-16"` or `"windows-1252"`.
#' @return An object of class `mavik_export`: a list with `names` (one per
#'   column, repeated ones numbered), `questions` (texts of the heading, `""`
#'   where there are none), `columns` (for each column its distinct `cells` and
#'   an integer `index`, one per record), `records` (their number), `lines` (the
#'   line on which each record starts) and `file`. `as.data.frame()` gives the
#'   cells as a plain table of texts.
#' @section Errors: Each names the file, the line and the way out: a file that
#'   is missing, a folder, empty, or a heading without records; a record that is
#'   too short or too long; a quote that is never closed; bytes that are not in
#'   the encoding.
#' @examples
#' project <- demo_project(tempfile())
#' export <- read_export(file.path(project, "raw/spring.csv"),
#'   heading = c("names", "questions"))
#' export
#' @export
read_export <- function(file, heading = "names", skip = 0, delimiter = "comma", encoding = "UTF-8") {
  options <- list(heading = heading, skip = skip, delimiter = delimiter, encoding = encoding)
  read_raw(file, options, if (is.data.frame(file)) "data frame" else file)
}

# `shown` is what messages call the file; `hint` is appended to their way out.
read_raw <- function(source, options, shown) {
  reader <- if (is.data.frame(source)) reader_frame else reader_delimited
  grid <- reader$read(source, options, shown)
  names <- text_trim(grid$heading[["names"]])
  questions <- if (is.null(grid$heading[["questions"]])) rep("", length(names)) else grid$heading[["questions"]]
  columns <- grid$columns
  names(columns) <- unique_names(names)
  structure(
    list(
      names = names(columns), repeated = unique(names[duplicated(names) & nzchar(names)]),
      questions = stats_names(text_squeeze(questions), names(columns)), columns = columns,
      records = length(grid$lines), lines = grid$lines, file = shown
    ),
    class = "mavik_export"
  )
}

stats_names <- function(x, names) {
  names(x) <- names
  x
}

#' @export
as.data.frame.mavik_export <- function(x, ...) {
  cells <- lapply(x$columns, function(column) column$cells[column$index])
  as.data.frame(cells, optional = TRUE, stringsAsFactors = FALSE)
}

# A reader takes a source and gives the heading rows by role, the columns as
# distinct cells with an index, and the line of each record. That is all the
# rest of the package knows of a file.

delimiters <- c(comma = ",", semicolon = ";", tab = "\t", pipe = "|")
encodings <- c("UTF-8", "UTF-16", "windows-1252")

stop_read <- function(shown, line, ...) {
  stop_mavik("read_error", at_line(shown, line), ": ", ..., facts = list(file = shown, line = line))
}
