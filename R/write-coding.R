#' Write or update a sheet for coding answers
#'
#' For a variable with `coded` the coders' sheet: an answer a row, with columns
#' for its codes. For a question with `other` the sheet in which write-ins go
#' back to its codes. What was typed before is kept.
#'
#' @param codebook A study, a codebook, or what [read_codebook()] takes. A study that
#'   was built from data frames needs them again, as `exports`.
#' @param variable The entry with `coded`, or one with `other`.
#' @param file Where to write, `.xlsx` (a drop-down in each code's cell) or `.csv`;
#'   by default the sheet that the codebook names.
#' @param once Whether equal answers (but for case and spaces) stand once, with
#'   their count, rather than one a respondent.
#' @param exports Data frames in place of files, as in [build_study()].
#' @return The sheet as a data frame, invisibly: `wave`, `respondent`, `answer`,
#'   `code 1` and so on, `coder`, `note`, `count` (with `once`), `state` (`new`,
#'   `changed` since it was coded, `gone` from the data), `answer before`. New
#'   ones come first, then changed ones. For write-ins: `answer`, `code`, `count`, `note`.
#' @section Errors: A variable that is not coded, or private: its answers are not written.
#' @examples
#' project <- demo_project(tempfile())
#' head(coding_sheet(project, "best_codes", tempfile(fileext = ".csv")))
#' @export
coding_sheet <- function(codebook, variable, file = NULL, once = FALSE, exports = list()) {
  keep_own_options()
  check_frames_given(codebook, exports)
  book <- compile_codebook(as_codebook(codebook))
  entry <- coding_entry(variable, book)
  if (is.null(file)) file <- coding_file(entry, book)
  if (!grepl("[.](xlsx|csv)$", file, ignore.case = TRUE)) stop_mavik(
    "write_error", file, ": a sheet is written as .xlsx or .csv"
  )
  check_may_write(file, raw_places(book), replace = TRUE)
  book$uncoded <- TRUE
  study <- build_book(book, exports)
  before <- if (file.exists(file)) read_sheet(file, list(project = getwd()), "answer", shown = file)
  sheet <- if (entry$way == "coded") coding_rows(study, entry, before, once) else write_in_rows(
    study, entry, before
  )
  labels <- if (entry$way == "column") entry$codes$label else entry$options$label
  dir.create(dirname(file), recursive = TRUE, showWarnings = FALSE)
  if (is_workbook(file)) write_coding_book(sheet, labels, file) else write_text(
    csv_lines(sheet), file
  )
  invisible(sheet)
}

coding_entry <- function(name, book) {
  entry <- book$variables[[name]]
  known <- names(Filter(
    function(variable) variable$way == "coded" || !is.null(variable$other) || (
      variable$way == "split" && !is.null(variable$settings$other)
    ),
    book$variables
  ))
  if (is.null(entry) || !name %in% known) {
    by <- names(Filter(
      function(variable) variable$way == "coded" && variable$settings$of == name, book$variables
    ))
    stop_mavik(
      "build_error", "`", name, "` has neither `coded` nor `other`",
      if (length(by) > 0) paste0("; it is coded as `", by[1], "`") else did_you_mean(name, known)
    )
  }
  source <- if (entry$way == "coded") entry$settings$of else name
  if (source %in% private_variables(book)) stop_mavik(
    "build_error", "`", source, "` is private: its answers are not written anywhere"
  )
  entry
}

coding_file <- function(entry, book) {
  file <- if (entry$way == "coded") entry$settings$sheet else other_of(entry)$sheet
  if (is.null(file)) stop_mavik(
    "build_error", "the codebook names no sheet for `", entry$name, "`: add `sheet: sheets/",
    entry$name, ".xlsx` under its `other`, or say where to write"
  )
  export_path(list(file = file), book)
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

write_coding_book <- function(sheet, labels, file) make_workbook(file, function(book) {
  openxlsx::addWorksheet(book, "coding")
  openxlsx::addWorksheet(book, "codes")
  head <- openxlsx::createStyle(textDecoration = "bold", border = "bottom")
  body <- openxlsx::createStyle(numFmt = "TEXT", wrapText = TRUE, valign = "top")
  mark <- openxlsx::createStyle(fgFill = "#F2EFF5")
  text <- as.data.frame(
    lapply(
      sheet,
      function(column) {
        column <- as.character(column)
        ifelse(is.na(column) | !nzchar(column), NA_character_, column)
      }
    ),
    optional = TRUE
  )
  codes <- grep("^code( [0-9]+)?$", names(sheet))
  rows <- seq_len(max(nrow(sheet), 1)) + 1
  openxlsx::addStyle(book, "coding", body, rows = rows, cols = seq_along(sheet), gridExpand = TRUE)
  fresh <- which(sheet$state %in% c("new", "changed")) + 1
  if (length(fresh) > 0) openxlsx::addStyle(
    book, "coding", mark, rows = fresh, cols = seq_along(sheet), gridExpand = TRUE, stack = TRUE
  )
  openxlsx::writeData(book, "coding", text, headerStyle = head, keepNA = FALSE)
  openxlsx::writeData(book, "codes", data.frame(code = labels), headerStyle = head)
  widths <- c(answer = 60, note = 24, coder = 12, `answer before` = 40)
  width <- ifelse(
    names(sheet) %in% names(widths), widths[names(sheet)],
    ifelse(seq_along(sheet) %in% codes, min(max(nchar(labels), 10) + 4, 32), 11)
  )
  openxlsx::setColWidths(book, "coding", seq_along(sheet), width)
  fit_rows(book, "coding", text, width)
  openxlsx::setColWidths(book, "codes", 1, max(nchar(labels), 10) + 4)
  openxlsx::freezePane(book, "coding", firstActiveRow = 2)
  openxlsx::pageSetup(
    book, "coding", orientation = "landscape", fitToWidth = TRUE, fitToHeight = FALSE,
    printTitleRows = 1
  )
  for (at in codes) suppressWarnings(openxlsx::dataValidation(
    book, "coding", cols = at, rows = rows, type = "list",
    value = paste0("'codes'!$A$2:$A$", length(labels) + 1), allowBlank = TRUE, showErrorMsg = FALSE
  ))
})

#' How far two coders agree
#'
#' @param codebook A codebook, or what [read_codebook()] takes.
#' @param variable The entry with `coded`.
#' @param second The sheet of the second coder, of the same form.
#' @return A list with `answers` (coded in both), `same` (percent of them with the
#'   same codes), and `codes`, a data frame: `code`, `both`, `first`, `second`
#'   (answers that have it by both, by one only), `agreement` (percent), `kappa`.
#'   Cohen's kappa is (p - e) / (1 - e), p the share in which both coders say the
#'   same of a code and e that to be expected from how often each gives it
#'   (Cohen 1960, Educational and Psychological Measurement 20, 37-46); `NA`
#'   where both give a code always or never.
#' @examples
#' project <- demo_project(tempfile())
#' coding_agreement(project, "best_codes", file.path(project, "sheets/best.csv"))
#' @export
coding_agreement <- function(codebook, variable, second) {
  keep_own_options()
  book <- compile_codebook(as_codebook(codebook))
  entry <- coding_entry(variable, book)
  if (entry$way != "coded") stop_mavik("build_error", "`", variable, "` is not `coded`")
  problems <- character()
  note <- function(...) problems <<- c(problems, paste0(...))
  one <- read_coding(entry, book, note)
  other <- entry
  other$settings$sheet <- normalizePath(second, mustWork = FALSE)
  two <- read_coding(other, book, note)
  if (length(problems) > 0) stop_mavik("build_error", paste(problems, collapse = "\n"))
  at <- match_coding(two, one$wave, one$respondent, text_fold(one$answer))
  both <- which(!is.na(one$set) & !is.na(two$set[at]))
  a <- one$set[both]
  b <- two$set[at[both]]
  codes <- lapply(
    seq_along(entry$options$name),
    function(k) code_agreement(entry$options$label[k], set_holds(a, k), set_holds(b, k))
  )
  list(
    answers = length(both), same = share(sum(a == b), length(both)), codes = do.call(rbind, codes)
  )
}

code_agreement <- function(label, a, b) {
  agree <- mean(a == b)
  chance <- mean(a) * mean(b) + mean(!a) * mean(!b)
  data.frame(
    code = label, both = sum(a & b), first = sum(a & !b), second = sum(!a & b),
    agreement = 100 * agree,
    kappa = if (isTRUE(chance < 1)) (agree - chance) / (1 - chance) else NA_real_
  )
}
