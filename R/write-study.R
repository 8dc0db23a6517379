#' Write the outputs of a study
#'
#' Writes all outputs into a folder beside `out` and swaps it in at the end, so
#' that `out` is always whole: the old build or the new one.
#'
#' @param study A study, from [build_study()].
#' @param out The output folder; by default `out` in the project folder. Where the codebook is a
#'   list in R it must be named.
#' @param digests Whether to record a digest of each output.
#' @param language A language of the codebook's `translations`, in which pages and tables show
#'   labels, questions and reasons; the data files are the same in all languages.
#' @return The path of `out`, invisibly. It holds `analysis.csv` (the kept
#'   variables, codes, gaps empty), `gaps.csv` (the code of the reason in each
#'   gap), `waves.csv` (what [wave_statistics()] gives, where there are several
#'   waves), `ledger.csv`, `findings.csv`, `codebook.html` and `provenance.json`.
#' @section Errors: An `out` inside the folder of the raw files, or one that
#'   holds anything that Mavik did not write or another program has open, is refused;
#'   nothing is touched. So is one to which another build writes: `out.lock` beside it
#'   names host and process. What a stopped build left beside is set right and told
#'   (a condition of class `mavik_notice`). A disk that is full leaves the old outputs.
#' @examples
#' study <- build_study(demo_project(tempfile()))
#' list.files(write_study(study))
#' @export
write_study <- function(study, out = NULL, digests = TRUE, language = NULL) {
  keep_own_options()
  check_study_class(study)
  if (!is.null(language)) stop_unknown_language(language, study$book)
  if (is.null(out) && is.null(study$book$file)) stop_mavik(
    "write_error", "this study has no project folder: its codebook is a list. Name a folder, `out`"
  )
  if (is.null(out)) out <- file.path(study$book$project, "out")
  place <- check_out(out, study$book)
  dir.create(dirname(place), recursive = TRUE, showWarnings = FALSE)
  replace_folder(place, out, function(beside) write_outputs(study, beside, out, digests, language))
  invisible(place)
}

write_outputs <- function(study, beside, out, digests, language) {
  outputs <- parts_named("output_")
  has <- function(field) vapply(outputs, function(output) isTRUE(output[[field]]), TRUE)
  each <- function(outputs, study, shown = NULL) write_each(
    outputs, study, shown, beside, out, digests
  )
  # What lists rows needs nothing that is counted.
  rows <- begin_writing(outputs[has("rows_alone")], function(outputs) each(outputs, study), study)
  on.exit(rows$stop_waiting())
  signal_progress("count", "answers")
  shown <- if (is.null(language)) NULL else tally_study(study_in(study, language))
  study <- with_findings(with_tables(tally_study(study)))
  shown <- if (!is.null(shown)) with_findings(with_tables(shown))
  others <- begin_writing(
    outputs[!has("last") & !has("rows_alone")], function(outputs) each(outputs, study, shown), study
  )
  on.exit(others$stop_waiting(), add = TRUE)
  # Asked for when all else of a record is made.
  delayedAssign("sums", c(others$wait(), rows$wait()))
  study$language <- language
  for (output in outputs[has("last")]) output$write(study, file.path(beside, output$file), sums)
}

# The digests of what is written, by file: functions that wait for them.
write_each <- function(outputs, study, shown, beside, out, digests) {
  sums <- list()
  for (output in outputs) {
    if (!is.null(output$wanted) && !output$wanted(study)) next
    signal_progress("write", output$file)
    spoken <- !is.null(shown) && isTRUE(output$for_readers)
    write_output(output, if (spoken) shown else study, beside, out)
    if (digests) sums[[output$file]] <- digest_beside(
      file.path(beside, output$file), written = TRUE
    )
  }
  sums
}

# Where work is shared another process does it meanwhile, else it is done now. What that has not
# begun when it is waited for is done here, from the other end.
begin_writing <- function(outputs, each, study) {
  if (!shares_work(nrow(study$data))) {
    sums <- each(outputs)
    return(list(wait = function() sums, stop_waiting = function() NULL))
  }
  claims <- tempfile("claims-")
  dir.create(claims)
  claimed <- function(output) dir.create(file.path(claims, output$file), showWarnings = FALSE)
  write_unclaimed <- function(outputs) {
    done <- list()
    for (output in outputs) if (claimed(output)) done[[output$file]] <- each(list(output))
    lapply(done, lapply, function(sum) sum())
  }
  job <- split_off(function() write_unclaimed(outputs), TRUE)
  list(wait = function() {
    done <- write_unclaimed(rev(outputs))
    signal_progress("write", some_of(vapply(outputs, `[[`, "", "file"), quote = FALSE))
    done <- c(done, job$wait())
    # What the other process claimed and, being gone, did not end.
    lost <- Filter(function(output) !output$file %in% names(done), outputs)
    unlink(file.path(claims, vapply(lost, `[[`, "", "file")), recursive = TRUE)
    done <- c(done, write_unclaimed(lost))
    lapply(unlist(unname(done), recursive = FALSE), function(sum) function() sum)
  }, stop_waiting = function() {
    job$stop_waiting()
    unlink(claims, recursive = TRUE)
  })
}

# The declared tables and the statistics of waves, counted once for all outputs that show them.
with_tables <- function(study) {
  if (has_waves(study)) study$tallies$waves <- wave_statistics(study)
  if (length(study$book$declared) > 0) study$tabulated <- tabulate_declared(study)
  study
}

# What a writer could not finish is told with the output's name.
write_output <- function(output, study, folder, out) told_where(
  output$write(study, file.path(folder, output$file)), file.path(out, output$file)
)

told_where <- function(writing, shown) {
  tryCatch(writing, mavik_error = stop, error = function(e) {
    if (!any(grepl("space|quota|write|permission", conditionMessage(e),
      ignore.case = TRUE))) stop(e)
    stop_mavik("write_error", shown, ": cannot be written (",
      text_squeeze(conditionMessage(e)), "); the earlier outputs stand as they were")
  })
}

# The real place of `out`, once it is sure that nothing of others is lost there.
# `thorough` compares digests too; without, names and sizes must do.
check_out <- function(out, book, thorough = TRUE) {
  place <- real_path(out)
  for (raw in raw_folders(book)) {
    if (is_among(place, raw)) {
      stop_mavik(
        "write_error", out, ": lies in the folder of the raw files (", raw,
        "), which are never written to; choose another folder"
      )
    }
  }
  if (!file.exists(place)) return(place)
  if (!dir.exists(place)) stop_mavik("write_error", out, ": is a file; name a folder")
  open <- list.files(place, "^[.]?~", all.files = TRUE)
  if (length(open) > 0) {
    stop_mavik("write_error", out, ": ", some_of(open_document(open), 3),
      if (length(open) == 1) " is" else " are",
      " open in another program; close it there, then build again")
  }
  foreign <- foreign_files(place, thorough)
  if (length(foreign) > 0) {
    stop_mavik("write_error", out, ": holds ", some_of(foreign, 3),
      ", which Mavik did not write; move ",
      if (length(foreign) == 1) "it" else "them", " elsewhere, or choose another folder with --out")
  }
  place
}

# Programs of an office mark what they have open by a file beside it.
open_document <- function(marks) sub("^~[$]", "", sub("^[.]~lock[.](.*)#$", "\\1", marks))

# What stands in a folder beyond what its own record vouches for.
foreign_files <- function(place, thorough) {
  here <- sort_c(list.files(place, all.files = TRUE, no.. = TRUE, recursive = FALSE))
  if (length(here) == 0) return(character())
  record <- tryCatch(
    jsonlite::read_json(file.path(place, "provenance.json")), error = function(e) NULL,
    warning = function(w) NULL
  )
  if (is.null(record$mavik) || !is.list(record$outputs)) return(here)
  known <- vapply(here, function(name) {
    said <- record$outputs[[name]]
    path <- file.path(place, name)
    name == "provenance.json" || !is.null(said) && !dir.exists(path) &&
      file.size(path) == said$bytes
  }, TRUE)
  if (!thorough) return(here[!known])
  sums <- lapply(with_names(here[known], here[known]), function(name) {
    list(said = record$outputs[[name]]$blake2b, now = digest_beside(file.path(place, name)))
  })
  altered <- vapply(sums, function(sum) !is.null(sum$said) && sum$now() != sum$said, TRUE)
  c(here[!known], names(sums)[altered])
}

# An output is one object `output_<name>` with its file's name and a function
# that writes it; every file that holds one is found by that name. One `for_readers` shows labels
# in the language of the build, one of `rows_alone` needs nothing that is counted.
