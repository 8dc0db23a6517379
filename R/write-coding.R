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
#'   `count` (how many answers read the same), `code 1` and so on, `coder`, `note`, `state`
#'   (`new`, `changed` since it was coded, `gone` from the data), `answer before`. New
#'   ones come first, then changed ones. For write-ins: `answer`, `code`, `count`, `note`.
#'   Its attribute `invented` has the codes that a coder made up: `code`, `count`, and the
#'   `line` of the codebook that would take each over.
#' @section Codes of a coder's own: A code that the codebook does not have does not stop a build:
#'   its answers are not found, with a warning, until the codebook has it. In a workbook such codes
#'   stand on the sheet `codes`, and may be added there, to be chosen like the others.
#' @section Errors: A variable that is not coded, or private: its answers are not written.
#' @examples
#' project <- demo_project(tempfile())
#' head(coding_sheet(project, "best_codes", tempfile(fileext = ".csv")))
#' @export
coding_sheet <- function(codebook, variable, file = NULL, once = FALSE, exports = list()) {
  keep_own_options()
  book <- compile_codebook(as_codebook(codebook))
  exports <- frames_given(codebook, exports, book)
  entry <- coding_entry(variable, book)
  if (is.null(file)) file <- coding_file(entry, book)
  check_sheet_file(file, book)
  book$uncoded <- TRUE
  study <- build_book(book, exports)
  before <- if (file.exists(file)) read_sheet(file, list(project = getwd()), "answer", shown = file)
  sheet <- if (is.null(text_coded(entry))) write_in_rows(study, entry, before) else
    coding_rows(study, entry, before, once)
  codes <- codes_to_choose(entry, sheet, sheet_codes(file))
  write_sheet(sheet, file, function(file) write_coding_book(sheet, codes, file))
  invisible(structure(sheet, invented = codes[nzchar(codes$line), c("code", "count", "line")]))
}

coding_entry <- function(name, book) {
  entry <- book$variables[[name]]
  known <- names(Filter(
    function(variable) !is.null(text_coded(variable)) || !is.null(other_of(variable)),
    book$variables
  ))
  if (is.null(entry) || !name %in% known) {
    by <- names(Filter(
      function(variable) identical(text_coded(variable), name), book$variables
    ))
    stop_mavik(
      "build_error", "`", name, "` has neither `coded` nor `other`",
      if (length(by) > 0) paste0("; it is coded as `", by[1], "`") else did_you_mean(name, known)
    )
  }
  source <- c(text_coded(entry), name)[[1]]
  if (source %in% private_variables(book)) stop_mavik(
    "build_error", "`", source, "` is private: its answers are not written anywhere"
  )
  entry
}

coding_file <- function(entry, book) {
  file <- c(way_of(entry)$sheet(entry), other_of(entry)$sheet)[1]
  if (is.null(file)) stop_mavik(
    "build_error", "the codebook names no sheet for `", entry$name, "`: add `sheet: sheets/",
    entry$name, ".xlsx` under its `other`, or say where to write"
  )
  export_path(list(file = file), book)
}

write_coding_book <- function(sheet, codes, file) make_workbook(file, function(book) {
  text <- as.data.frame(lapply(sheet, function(column) {
    column <- as.character(column)
    ifelse(is.na(column) | !nzchar(column), NA_character_, column)
  }), optional = TRUE)
  chosen <- grep("^code( [0-9]+)?$", names(sheet))
  widths <- c(answer = 60, note = 24, coder = 12, `answer before` = 40, count = 8)
  width <- ifelse(
    names(sheet) %in% names(widths), widths[names(sheet)],
    ifelse(seq_along(sheet) %in% chosen, min(max(nchar(codes$code), 10) + 4, 32), 11)
  )
  add_text_sheet(
    book, "coding", text, width, c(names(sheet)[chosen], "coder", "note"),
    notes_of_coding(names(sheet)[chosen])
  )
  fresh <- which(sheet$state %in% c("new", "changed")) + 1
  if (length(fresh) > 0) openxlsx::addStyle(
    book, "coding", openxlsx::createStyle(textDecoration = "bold"), rows = fresh,
    cols = match("answer", names(sheet)), stack = TRUE
  )
  codes$count <- as.character(codes$count)
  add_text_sheet(
    book, "codes", codes, c(max(nchar(codes$code), 10) + 6, 10, 60), "code", codes_notes,
    spare = spare_codes
  )
  letters <- letters_of_column(chosen)
  check_cells(
    book, "coding", paste0(
      letters, 2, ":", letters, max(nrow(sheet), 1) + 1, collapse = " "
    ), list_range_of("codes", 1, 2, nrow(codes) + spare_codes + 1), title = "code",
    message = paste0("Not one of the codes. A code of your own goes on the sheet codes first: ",
      "then it can be chosen, and is offered for the codebook.")
  )
})

spare_codes <- 40

# Every column of codes has the same note.
notes_of_coding <- function(chosen) c(
  coding_notes[names(coding_notes) != "code"],
  with_names(rep(coding_notes[["code"]], length(chosen)), chosen)
)

coding_notes <- c(
  answer = "What was written; bold where it is new or has changed since it was coded",
  count = "How many answers read the same, but for case and spaces",
  code = "Choose from the list. A code of your own goes on the sheet codes first",
  wave = "The wave of the answer", respondent = "Who gave the answer",
  `answer before` = "What stood there when it was coded: look whether the codes still fit",
  coder = "Who gave the codes", note = "Whatever should be kept beside the answer",
  state = "new, changed since it was coded, or gone from the data"
)

codes_notes <- c(
  code = "The codes to choose from. Add your own below; they are offered for the codebook",
  count = "How many rows have it", line = "What the codebook would have to say to take it over"
)

# The codes of the codebook, then those that coders made up.
codes_to_choose <- function(entry, sheet, own) {
  invents <- !is.null(text_coded(entry))
  labels <- if (holds_one(entry)) entry$codes$label else entry$options$label
  used <- unlist(lapply(sheet[grep("^code( [0-9]+)?$", names(sheet))], as.character))
  used <- text_squeeze(used[nzchar(used) & !is.na(used)])
  known <- c(labels, entry$options$name, number_to_text(c(
    entry$codes$code, if (invents) seq_along(labels)
  )))
  own <- unique(c(used, own))
  own <- own[!text_fold(own) %in% text_fold(known) & !duplicated(text_fold(own))]
  own <- if (holds_several(entry)) character() else own
  code <- c(labels, own)
  data.frame(
    code = code, count = tabulate(match(text_fold(used), text_fold(code)), length(code)),
    line = c(rep("", length(labels)), if (invents) paste0(
      invented_name(own, entry), ": ", yaml_word(own), recycle0 = TRUE
    ) else rep("", length(own)))
  )
}

# What stands on the sheet `codes` of a workbook.
sheet_codes <- function(file) {
  if (!file.exists(file) || !is_workbook(file)) return(character())
  cells <- workbook_cells(file, file)
  text_squeeze(cells$text[cells$sheet == "codes" & cells$column == 1 & cells$row > 1])
}

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
  if (is.null(text_coded(entry))) stop_mavik("build_error", "`", variable, "` is not `coded`")
  problems <- character()
  note <- function(...) problems <<- c(problems, paste0(...))
  typed <- read_coding(entry, book, note)
  other <- entry
  other$settings$sheet <- real_path(second)
  two <- read_coding(other, book, note)
  if (length(problems) > 0) stop_mavik("build_error", paste(problems, collapse = "\n"))
  place <- match_coding(two, typed$wave, typed$respondent, text_fold(typed$answer))
  both <- which(!is.na(typed$set) & !is.na(two$set[place]))
  a <- typed$set[both]
  b <- two$set[place[both]]
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
