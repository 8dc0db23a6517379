#' Compare two entries of the same paper forms
#'
#' Forms are matched by their number, answers by what they mean: a label and its code are the
#' same. Each difference is a row with both readings and a column for the right one; named under
#' `corrections` in the codebook, the sheet puts the first entry right.
#'
#' @param codebook A codebook, or what [read_codebook()] takes.
#' @param first,second The two workbooks; the first is the one that a build reads.
#' @param file Where to write the sheet of differences, `.xlsx` or `.csv`; not written if not said.
#' @param export The export that they are of, where the codebook has several that are typed.
#' @return A `mavik_differences`, invisibly where `file` is said: a list with `differences` (a data
#'   frame of texts: `form`, `wave`, `respondent`, `variable`, `question`, `first`, `second`,
#'   `right` (empty), `note`, `who`, `date`, `first cell`, `second cell`), `agreement` (a data frame
#'   with `variable`, `question`, `compared`, `same`, `percent`), `forms` (how many are in both),
#'   and `only_first`, `only_second`, the numbers of forms that one entry lacks. A blank
#'   reads `no_answer`; answers of private variables are masked.
#' @section Errors: Those of a build of either sheet; sheets without a form in common; a sheet that
#'   stands there already and in which something is decided.
#' @examples
#' project <- demo_project(tempfile())
#' made <- entry_sheet(project, forms = 2, onto = TRUE)
#' # The form typed twice, by two people, with other answers to `Q1`.
#' typed <- function(answer) {
#'   book <- openxlsx::loadWorkbook(made$file)
#'   openxlsx::writeData(book, "entry", "9001", startCol = 2, startRow = 3)
#'   openxlsx::writeData(book, "entry", answer, startCol = 7, startRow = 3)
#'   file <- tempfile(fileext = ".xlsx")
#'   openxlsx::saveWorkbook(book, file)
#'   file
#' }
#' compare_entries(project, typed("Yes"), typed("No"))
#' @export
compare_entries <- function(codebook, first, second, file = NULL, export = NULL) {
  keep_own_options()
  book <- with_sheets(compile_codebook(as_codebook(codebook)))
  typed <- one_typed_export(book, first, export)
  if (!is.null(file)) check_differences_file(file, book)
  entries <- lapply(list(first, second), read_entry, export = typed, book = book)
  differences <- compare_read(entries[[1]], entries[[2]], typed, book)
  if (is.null(file)) return(differences)
  write_sheet(differences$differences, file, function(file) write_differences(differences, file))
  invisible(differences)
}

check_differences_file <- function(file, book) {
  check_sheet_file(file, book)
  if (!file.exists(file)) return(invisible())
  before <- tryCatch(
    read_sheet(file, list(project = getwd()), "right", shown = file),
    mavik_read_error = function(e) NULL
  )
  if (any(nzchar(before$right))) stop_mavik(
    "write_error", file, ": stands there already, and something is decided in it; name another file"
  )
}

# Both readings to choose from, and beside them how far the entries agree.
write_differences <- function(differences, file) make_workbook(file, function(book) {
  rows <- differences$differences
  widths <- c(7, 10, 12, 18, 44, 24, 24, 24, 26, 10, 12, 11, 11)
  add_text_sheet(
    book, "differences", rows, widths, c("right", "note", "who", "date"), difference_notes,
    fixed = 4
  )
  agreement <- differences$agreement
  agreement$percent <- number_show(agreement$percent, 1)
  agreement[] <- lapply(agreement, as.character)
  add_text_sheet(book, "agreement", agreement, c(20, 60, 12, 10, 10))
  lacks <- data.frame(
    form = c(differences$only_first, differences$only_second), entry = rep(
      c("first only", "second only"),
      c(length(differences$only_first), length(differences$only_second))
    )
  )
  if (nrow(lacks) > 0) add_text_sheet(book, "forms", lacks, c(12, 16))
  place <- match("right", names(rows))
  letter <- letters_of_column(place)
  # Both readings stand side by side in the row: they are the list.
  ends <- letters_of_column(match(c("first", "second"), names(rows)))
  if (nrow(rows) > 0) check_cells(
    book, "differences", paste0(letter, 2, ":", letter, nrow(rows) + 1),
    paste0("$", ends[1], "2:$", ends[2], "2"), title = "right",
    message = "It is neither of the two readings. What the paper says may be a third: keep it?",
    prompt = "What stands on the paper: the first reading, the second, or what you type"
  )
})

difference_notes <- c(
  form = "The number of the form, in both workbooks",
  first = "What the first workbook holds; no_answer: nothing",
  second = "What the second workbook holds",
  right = paste0("What the paper says: choose one of the two, or type it. An empty cell waits; ",
    "nothing is corrected until then"),
  note = "Whatever a reader of the ledger should know",
  who = "Who looked at the paper", date = "On which day",
  `first cell` = "Where it stands in the first workbook"
)
