#' Read one raw export
#'
#' Reads a file as the platform delivered it: every cell as text, nothing
#' guessed. What does not fit is an error with its line, never a shorter table. Blank lines, lines
#' of delimiters alone and blank rows of a sheet are no records.
#'
#' @param file Path of a delimited text file, a workbook (XLSX, ODS) or a Parquet
#'   file (with the package nanoparquet), or a data frame. What a file is, its
#'   first bytes tell. In a data frame a factor counts as its labels, a missing
#'   value as a blank cell, and numbers (those of 64 bits too), dates and truth
#'   values as their plain text; a moment is what its clock showed. A column of a
#'   class of its own is refused.
#' @param heading Roles of the heading rows, top down: `"names"` (column names),
#'   `"questions"` (question texts), `"options"` (the option below its question)
#'   and `"marks"` (the platform's own marks, passed over). Spaces, tabs and line breaks
#'   within a heading count as one space. A column is called by
#'   its name; without a row of names by its question, followed by ` - ` and the
#'   option where there is one. A data frame has its names only.
#' @param skip Number of lines (of rows in a sheet) above the heading.
#' @param sheet The sheet of a workbook that has several.
#' @param delimiter `"comma"`, `"semicolon"`, `"tab"` or `"pipe"`.
#' @param encoding `"UTF-8"`, `"UTF-16"`, a code page (`"windows-1250"` to `"windows-1258"`,
#'   `"windows-874"`), `"Shift_JIS"`, `"EUC-KR"`, `"GB18030"` or `"Big5"`.
#' @return An object of class `mavik_export`: a list with `names` (one per
#'   column, repeated ones numbered), `questions` (texts of the heading, `""`
#'   where there are none), `marks` (texts of the rows that are passed over),
#'   `columns` (for each column its distinct `cells` and
#'   an integer `index`, one per record; where the file
#'   knows them, also the `kinds` of the cells: text, number, date, boolean,
#'   error), `records` (their number), `lines` (the
#'   line on which each record starts) and `file`. `as.data.frame()` gives the
#'   cells as a plain table of texts.
#' @section Large workbooks: A sheet is held in memory as a whole: 400,000 cells took 22
#'   seconds and 0.9 GB. Take CSV for anything larger. A workbook of which one part unpacks
#'   to more than 256 MiB, or which unpacks to more than 200 times its size (and over 16
#'   MiB), is refused before it is read.
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
read_export <- function(
  file, heading = "names", skip = 0, delimiter = "comma", encoding = "UTF-8", sheet = NULL
) {
  keep_own_options()
  options <- list(
    heading = heading, skip = skip, delimiter = delimiter, encoding = encoding, sheet = sheet
  )
  read_raw(file, options, if (is.data.frame(file)) "data frame" else file)
}

# `shown` is what messages call the file; `hint` is appended to their way out.
read_raw <- function(source, options, shown) {
  raw_of_grid(reader_for(source, shown)$read(source, options, shown), shown)
}

# Heading rows and columns, named and counted.
raw_of_grid <- function(grid, shown) {
  names <- heading_names(grid$heading)
  questions <- heading_questions(grid$heading)
  columns <- grid$columns
  called <- unique_names(names)
  if (!is_waiting(columns)) names(columns) <- called
  structure(
    list(
      names = called, repeated = repeated_headings(names), blank = which(!nzchar(names)),
      questions = with_names(text_squeeze(questions), called),
      marks = with_names(heading_marks(grid$heading), called), columns = columns,
      records = length(grid$lines), lines = grid$lines, file = shown,
      merged = if (is.null(grid$merged)) 0L else grid$merged
    ),
    class = "mavik_export"
  )
}

# A column is called by its name; else by its question and option.
heading_names <- function(heading) {
  if (!is.null(heading[["names"]])) return(text_squeeze(heading[["names"]]))
  question <- question_of(heading)
  option <- option_of(heading)
  if (is.null(question)) return(option)
  ifelse(
    nzchar(question) & nzchar(option), paste0(question, " - ", option), paste0(question, option)
  )
}

heading_questions <- function(heading) {
  question <- question_of(heading)
  option <- option_of(heading)
  width <- length(heading[[1]])
  if (is.null(question)) return(rep("", width))
  between <- ifelse(nzchar(question) & nzchar(option), " - ", "")
  paste0(question, between, option)
}

heading_marks <- function(heading) {
  rows <- heading[names(heading) %in% "marks"]
  if (length(rows) == 0) rep("", length(heading[[1]])) else do.call(paste, unname(rows))
}

# A question that stands over the first of its columns only holds for those with
# an option below, until the next.
question_of <- function(heading) {
  if (is.null(heading[["questions"]])) return(NULL)
  question <- text_squeeze(heading[["questions"]])
  if (is.null(heading[["options"]])) return(question)
  lead <- cummax(ifelse(nzchar(question), seq_along(question), 0L))
  over <- !nzchar(question) & nzchar(option_of(heading)) & lead > 0
  question[over] <- question[lead[over]]
  question
}

option_of <- function(heading) {
  if (is.null(heading[["options"]])) return(rep("", length(heading[[1]])))
  text_squeeze(heading[["options"]])
}

repeated_headings <- function(names) {
  again <- unique(names[duplicated(names) & nzchar(names)])
  vapply(with_names(again, again), function(name) sum(names == name), 0L)
}

#' @export
as.data.frame.mavik_export <- function(x, ...) {
  keep_own_options()
  cells <- lapply(x$columns, function(column) column$cells[column$index])
  as.data.frame(cells, optional = TRUE, stringsAsFactors = FALSE)
}

# A reader takes a source and gives the heading rows by role, the columns as
# distinct cells with an index, and the line of each record. That is all the
# rest of the package knows of a file.

delimiters <- c(comma = ",", semicolon = ";", tab = "\t", pipe = "|")

stop_read <- function(shown, line, ...) {
  stop_mavik("read_error", at_line(shown, line), ": ", ..., facts = list(file = shown, line = line))
}
