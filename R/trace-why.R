#' Why a variable or a cell is as it is
#'
#' The story of a variable: how it is made, from which raw columns, what was done
#' to it, and what is made of it. For one respondent the chain from the raw cell to the
#' value of the analysis file, derived variables down to the raw cells.
#'
#' @param codebook A study, a codebook, or what [read_codebook()] takes. For one
#'   respondent of a study that was built from data frames give them again, as `exports`.
#' @param variable The name of a variable.
#' @param respondent The key of a respondent; without, the variable as a whole.
#' @param wave The wave, where a respondent is in several; without, all of them.
#' @param exports Data frames in place of files, as in [build_study()].
#' @return A `mavik_why`. For a variable a list with `variable`, `label`, `made`
#'   (in words), `where` (file and line of the codebook's entry), `columns` (a
#'   data frame of raw columns), `steps` (a data frame with `step`, `count`,
#'   `words`), `uses` and `used_by`. For a respondent a list with `stories`, one
#'   a record: `export`, `at` (the line), `wave`, `value` (as in `analysis.csv`, `""` in a
#'   gap), `reason`, `steps` (a data frame with `step`, `value`, `words`, `path`,
#'   `line`), and `inputs`, the stories of what it is made of. Answers of private
#'   variables are masked.
#' @section Cache: The place of each record in the raw files is kept in `.mavik/`
#'   beside the codebook, so that the story of one respondent reads only that
#'   person's lines of a text file. It holds keys and lines, no answers (and is not
#'   kept where the key is private), and is not used once a raw file or its entry in
#'   the codebook differs, or a line does not hold the key that it says.
#' @section Errors: A variable or respondent that is not there (the nearest name
#'   is suggested); those of [build_study()].
#' @examples
#' project <- demo_project(tempfile())
#' why(project, "weekly")
#' why(project, "belonging", "0278")
#' @export
why <- function(codebook, variable, respondent = NULL, wave = NULL, exports = list()) {
  keep_own_options()
  book <- known_book(codebook)
  if (!is_text(variable)) stop_mavik("build_error", "name one variable")
  if (is.null(book$variables[[variable]])) {
    block <- book$blocks[[variable]]
    stop_mavik("build_error", "`", variable, "` is not a variable of this codebook",
      if (!is.null(block)) paste0(" but a block: name one of ", some_of(block, 9)) else
        did_you_mean(variable, names(book$variables)))
  }
  check_waves(wave, book)
  if (is.null(respondent)) {
    if (inherits(codebook, "mavik_study")) return(story_of_variable(codebook, variable))
    return(story_of_variable(study_with(codebook, variable, exports, ledger = TRUE), variable))
  }
  exports <- frames_given(codebook, exports, book)
  book$exports <- locate_exports(book, exports)
  respondent <- text_trim(as.character(respondent))
  inputs <- person_inputs(book, respondent)
  if (is.null(inputs)) stop_no_respondent(respondent, book)
  story_of_person(inputs, book, variable, respondent, wave, exports)
}

stop_no_respondent <- function(respondent, book) {
  index <- known_index(book)
  if (is.null(index)) index <- index_of(read_inputs(book))
  keys <- unique(unlist(lapply(index, function(export) index_texts(export$key))))
  near <- if (!key_is_private(book)) keys[!is.na(keys) & text_near(keys) == text_near(respondent)]
  stop_mavik("build_error", "there is no respondent `", respondent,
    "` in the raw files (or all that person told was purged)",
    if (length(near) > 0) paste0("; did you mean ", some_of(near, 3), "?"))
}

story_of_person <- function(inputs, book, variable, respondent, wave, exports) {
  study <- person_study(inputs, book, respondent, variable, exports)
  rows <- which(study$records$key == respondent & (is.null(wave) | study$records$wave %in% wave))
  if (length(rows) == 0) {
    stop_mavik("build_error",
      if (length(study$records$key) == 0)
        "all that this person told was purged, as an `erase` screen asks" else
      paste0(
        "`", respondent, "` is not in wave `", wave, "`; only in ",
        some_of(unique(study$records$wave))
      ))
  }
  stories <- lapply(rows, function(row) c(story_of(study, variable, row), drop_of(study, row)))
  structure(
    list(
      variable = variable, label = study$book$variables[[variable]]$label,
      respondent = if (key_is_private(book)) masked else respondent, stories = stories
    ),
    class = "mavik_why"
  )
}

# The study of one person: built like any other, with the raw cells at hand.
person_study <- function(inputs, book, respondent, variable, exports) {
  keys <- unlist(lapply(inputs, function(input) paste(input$records$wave, input$records$key)))
  # Which of several records is retained may rest on any answer.
  if (!anyDuplicated(keys)) book <- part_of_book(
    book,
    c(
      variable, unlist(lapply(book$screens, `[[`, "reads")), unlist(book$complete),
      names(Filter(is_disposition, book$variables))
    )
  )
  book <- with_sheets(book, exports)
  sheet <- read_corrections(book)
  ids <- unlist(lapply(inputs, function(input) ids_of(input$records)))
  if (!is.null(sheet)) sheet <- sheet[sheet$respondent %in% c(respondent,
    ids) & (sheet$variable %in% names(book$variables)), ]
  study <- study_of(inputs, book, sheet, digests = FALSE)
  if (!is.null(study$purged)) inputs <- drop_records(inputs, study$purged$row)
  study$sources <- inputs
  study
}

# Why the record is not in the analysis file.
drop_of <- function(study, row) {
  if (row %in% rows_retained(study)) return(NULL)
  entry <- Filter(function(entry) entry$kind == "dropped" && row %in% entry$rows, study$ledger)[[1]]
  note <- rep(entry$note, length.out = length(entry$rows))[match(row, entry$rows)]
  list(
    dropped = dropped_said(entry$rule, note), dropped_path = entry$rule,
    dropped_line = line_of_path(study$book, entry$rule)
  )
}

dropped_said <- function(rule, note) paste0(
  "the record is dropped and not in the analysis file: ", rule,
  ifelse(nzchar(note), paste0(" (", note, ")"), "")
)

line_of_path <- function(book, path) {
  mark <- mark_of_path(book, strsplit(path, " > ", fixed = TRUE)[[1]])
  if (is.null(mark)) NA_integer_ else mark$key_line
}

mark_of_path <- function(book, path) {
  marks <- attr(book$document, "marks")
  if (is.null(marks)) NULL else mark_of(marks, path)
}

# One variable of one record, with the stories of what it is made of.
story_of <- function(study, name, row) {
  book <- study$book
  variable <- version_at(study, name, row)
  way <- way_of(variable)
  roles <- if (!isTRUE(variable$absent)) way$reads(variable)
  hidden <- name %in% private_variables(book)
  mask <- function(text) if (hidden) ifelse(nzchar(text), masked, text) else text
  made <- book$uses[[name]]
  from <- if (takes_earlier(variable)) earlier_row(study, variable, row) else row
  inputs <- if (length(from) == 1) lapply(
    with_names(made, made), function(input) story_of(study, input, from)
  ) else list()
  first <- if (isTRUE(variable$absent)) list(step_row(
    "wave", "", paste0("not asked in wave ", study$records$wave[row]), variable$path
  ))
    else if (length(roles) > 0) unlist(
      lapply(
        unname(roles),
        function(column) cell_steps(
          study, variable, column, row, mask, names(roles)[match(column, roles)]
        )
      ),
      recursive = FALSE
    )
    else made_steps(study, variable, row, mask, hidden)
  end <- end_of(study, name, row)
  last <- step_row(
    "value", mask(end$value),
    if (nzchar(end$reason)) paste0("empty: ", end$label) else if (is_coded(variable)) mask(label_of(
      variable, column_at(study, name, row)$value
    )) else "",
    variable$path
  )
  steps <- step_table(
    c(
      first, ledger_steps(study, name, row, mask), universe_steps(study, variable, row), list(last)
    ),
    book
  )
  list(variable = name, label = variable$label,
    codebook = paste0(basename(paste0(book$file, "")), ""), export = study$records$export[row],
    file = shown_source(study, row), at = study$records$line[row], wave = study$records$wave[row],
    value = mask(end$value), reason = end$reason, raw = steps$value[steps$step == "cell"],
    steps = steps, inputs = inputs)
}

# The variable as it holds for a record; where it was not asked, nothing is read.
version_at <- function(study, name, row) {
  variable <- study$book$variables[[name]]
  version <- version_in(variable, study$book$exports[[study$records$export[row]]])
  if (!is_absent(version)) return(version)
  variable$absent <- TRUE
  variable$universe <- NULL
  variable
}

# The retained record of the same person in the earlier wave.
earlier_row <- function(study, variable, row) {
  rows <- which(
    study$records$wave == variable$settings$wave & study$records$key == study$records$key[row]
  )
  intersect(rows, rows_retained(study))
}

shown_source <- function(study, row) study$book$exports[[study$records$export[row]]]$shown
