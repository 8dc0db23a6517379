#' Choose waves and respondents for the outputs
#'
#' The study stays as it was built, over all waves; only the outputs hold what
#' was chosen, and say so.
#'
#' @param study A study, from [build_study()].
#' @param waves Names of waves; all of them if not said.
#' @param where A condition in the codebook's language, `"years > 10"`; records for
#'   which it is unknown are not chosen.
#' @return The study, with the retained rows cut down to what was chosen:
#'   [study_table()], [ledger()] and [write_study()] go by it; findings keep their
#'   counts over all records, and name chosen respondents only. `provenance.json` and
#'   `codebook.html` tell the choice.
#' @section Errors: A wave that the codebook does not have; a condition that is
#'   none, or reads a private variable; a choice that leaves no record.
#' @examples
#' study <- build_study(demo_project(tempfile()))
#' nrow(study_table(choose_records(study, where = "years > 10")))
#' @export
choose_records <- function(study, waves = NULL, where = NULL) {
  keep_own_options()
  check_study_class(study)
  if (is.null(waves) && is.null(where)) return(study)
  known <- names(study$book$waves)
  check_waves(waves, study$book)
  rows <- seq_len(nrow(study$data))
  if (!is.null(waves)) rows <- rows[study$records$wave %in% waves]
  if (!is.null(where)) rows <- intersect(
    rows, which(truth_of(checked_condition(where, study$book), study))
  )
  retained <- intersect(rows_retained(study), rows)
  if (length(retained) == 0) stop_mavik(
    "build_error", "the choice leaves no record: nothing would be in the analysis file"
  )
  study$choice <- list(
    waves = if (is.null(waves)) NULL else intersect(known, waves),
    where = if (!is.null(where)) text_squeeze(where), of = n_retained(study),
    records = length(retained)
  )
  study$chosen <- rows
  study$retained <- retained
  study
}

# In words, for the documents.
choice_shown <- function(study) {
  choice <- study$choice
  if (is.null(choice)) return(NULL)
  paste0(grouped(choice$records), " of ", count_of(choice$of, "record"), " retained",
    if (!is.null(choice$waves)) paste0("; wave ", some_of(choice$waves, 40, quote = FALSE)),
    if (!is.null(choice$where)) paste0("; where ", choice$where))
}

check_waves <- function(waves, book) for (wave in setdiff(waves, names(book$waves))) stop_mavik(
  "build_error", "`", wave, "` is not a wave of this codebook",
  did_you_mean(wave, names(book$waves))
)
