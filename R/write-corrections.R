#' Write or update the sheet of corrections
#'
#' A sheet in which people write what they found out about single answers, with the waves,
#' respondents and variables of the study to choose from. What stands in it already is kept.
#'
#' @param codebook A study, a codebook, or what [read_codebook()] takes. A study that
#'   was built from data frames needs them again, as `exports`.
#' @param file Where to write, `.xlsx`; by default the workbook that the codebook names under
#'   `corrections`, else `sheets/corrections.xlsx` in the project, into which the lines of sheets
#'   in CSV are taken over.
#' @param exports Data frames in place of files, as in [build_study()].
#' @return The sheet as a data frame of texts, invisibly: `wave`, `respondent`, `variable`, `was`
#'   (what the file holds, a label, a code or the reason of a gap), `now` (what is right), `note`,
#'   `who`, `date`. Its attribute `file` is where it stands.
#' @section Errors: Numbered keys without a response number; a private key: then nobody can be
#'   named.
#' @examples
#' project <- demo_project(tempfile())
#' nrow(correction_sheet(project, tempfile(fileext = ".xlsx")))
#' @export
correction_sheet <- function(codebook, file = NULL, exports = list()) {
  keep_own_options()
  book <- compile_codebook(as_codebook(codebook))
  exports <- frames_given(codebook, exports, book)
  if (length(unaddressed(book)) > 0) stop_mavik(
    "build_error", numbered_said(unaddressed(book))
  )
  if (key_is_private(book)) stop_mavik(
    "build_error", "the key is private and is not written: no sheet can name a respondent"
  )
  before <- correction_files(book)
  if (is.null(file)) file <- corrections_file(before, book)
  if (!grepl("[.]xlsx$", file, ignore.case = TRUE)) stop_mavik(
    "write_error", file, ": a sheet to choose in is written as .xlsx"
  )
  check_may_write(file, raw_places(book), replace = TRUE)
  # It may be made while one of its lines no longer fits.
  book["corrections"] <- list(NULL)
  study <- build_book(book, exports)
  rows <- corrections_before(unique(c(before, if (file.exists(file)) file)), file, book)
  dir.create(dirname(file), recursive = TRUE, showWarnings = FALSE)
  write_correction_book(rows, study, file)
  invisible(structure(rows, file = file))
}

# Sheets of plain corrections; those of differences stay by themselves.
correction_files <- function(book) {
  files <- vapply(
    as.character(book$corrections), function(file) export_path(list(file = file), book), "",
    USE.NAMES = FALSE
  )
  Filter(function(file) file.exists(file) && !"right" %in% names(read_sheet(
    file, list(project = getwd()), character(), shown = file
  )), files)
}

corrections_file <- function(before, book) {
  own <- before[is_workbook(before)]
  if (length(own) > 0) return(own[1])
  if (is.null(book$project)) stop_mavik(
    "usage_error", "say where to write: this codebook has no folder"
  )
  file.path(book$project, "sheets", "corrections.xlsx")
}

corrections_before <- function(files, file, book) {
  own <- file.exists(file)
  kept <- lapply(if (own) file else files, function(given) {
    sheet <- read_sheet(given, list(project = getwd()), character(), shown = given)
    n <- length(sheet$.line)
    as.data.frame(lapply(stats::setNames(nm = correction_columns), function(name) {
      if (!is.null(sheet[[name]])) sheet[[name]] else if (name == "wave" && n > 0)
        rep(names(book$waves)[1], n) else rep("", n)
    }))
  })
  none <- as.data.frame(lapply(stats::setNames(nm = correction_columns), function(name)
    character()))
  do.call(rbind, c(list(none), kept))
}

write_correction_book <- function(rows, study, file) make_workbook(file, function(book) {
  add_text_sheet(
    book, "corrections", rows, c(12, 16, 22, 26, 26, 40, 12, 12), names(rows), correction_notes,
    spare = spare_corrections
  )
  last <- nrow(rows) + spare_corrections + 1
  fixable <- names(Filter(
    function(variable) way_of(variable)$correctable(variable) && !isTRUE(variable$private),
    study$book$variables
  ))
  lists <- list(
    wave = names(study$book$waves), respondent = unique(ids_of(study$records)),
    variable = fixable
  )
  ranges <- add_choice_lists(book, lists)
  told <- c(
    wave = "No wave of the codebook.", respondent = "No respondent of the study.",
    variable = "No answer of the codebook that is read from cells."
  )
  for (k in seq_along(lists)) {
    letter <- letters_of_column(match(names(lists)[k], names(rows)))
    check_cells(
      book, "corrections", paste0(letter, "2:", letter, last), ranges[k],
      title = names(lists)[k], message = told[[names(lists)[k]]]
    )
  }
  add_variable_words(book, study$book, fixable)
})

spare_corrections <- 200

# What each variable is called and takes, to look up while typing.
add_variable_words <- function(book, codebook, names) {
  words <- data.frame(
    variable = names, label = vapply(codebook$variables[names], function(variable) paste0(
      c(variable$label, variable$name)[1], ""
    ), ""),
    takes = vapply(codebook$variables[names], function(variable) paste(c(
      if (!is.null(variable$codes)) paste0(
        number_to_text(variable$codes$code), " ", variable$codes$label
      ),
      if (!is.null(variable$range)) paste(range_shown(variable), collapse = " to ")
    ), collapse = "; "), "")
  )
  add_text_sheet(book, "variables", words, c(22, 48, 70))
}

correction_notes <- c(
  wave = "The wave: choose from the list",
  respondent = "The key, or the response number where records are numbered",
  variable = "Which answer; the sheet variables tells what each takes",
  was = "What the raw file holds: the text, a label, a code, or the reason of a gap",
  now = "What is right: a label, a code, a number, or a reason such as no_answer",
  note = "How it was found out", who = "Who found it out", date = "When, 2026-03-24"
)
