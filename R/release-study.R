#' Write a release
#'
#' Writes what the codebook declares under `releases`: which variables and records go out, in which
#' formats. Everything is written into a folder beside, read back and compared cell by cell with
#' the study, and only then put in place.
#'
#' @param study A study, from [build_study()], or what it is built from: the path of a codebook or
#'   of its project folder.
#' @param name The release, by its name in the codebook.
#' @param out The folder to write into; by default `release/NAME` in the project folder.
#' @param language A language of the codebook's `translations`, for labels and documents.
#' @param secret Path of the file of the secret from which pseudonyms, moved dates and the order of
#'   records come, where the release asks for them (see [new_secret()]); by default that of the
#'   environment variable `MAVIK_SECRET`.
#' @param dry_run `TRUE` to find out what would go out, without writing.
#' @return A list of class `mavik_release`, invisibly: `name`, `label`, `folder`, `records` (their
#'   number), `variables` (names of those that go out), `left_out` (those of the analysis file that
#'   do not), `changes` (against disclosure: `variable`, `change`, `cells`), `rare` (how many
#'   respondents were in combinations smaller than asked for), `made_from_left_out` (for each
#'   variable that is made of some that do not go out, these), `formats`, `scripts`, `files` (a data
#'   frame of `file` and `bytes`; with `dry_run` the names) and `compared` (how many cells were
#'   read back from files of data and found the same).
#' @section Missing values: `gaps` says what stands in a gap of the data; whatever it says, the
#'   reason of each gap goes out beside (`gaps.csv`, the sheet gaps, `gaps.parquet`, `reasons` in
#'   the R object, the table gaps of the database).
#' @section Disclosure: With `disclosure` the release holds changed values (pseudonyms, coarser or
#'   limited values, moved dates), its records may be shuffled, and combinations that few
#'   respondents share are dropped, emptied or accepted with a note; `changes.csv` lists each
#'   change and `disclosure.html` says what still identifies. A variable that is made of a changed
#'   one goes out only if it tells no more.
#' @section Errors: A secret that is missing, empty, inside the project or readable by others; rare
#'   combinations with nothing said; a variable that tells what another one hides. A name that is
#'   no release of the codebook; a choice without records; a folder that holds another release or
#'   files that Mavik did not write, or lies inside `out/` or among the raw files; a text that
#'   a format cannot hold; labels or codes that two things would share;
#'   a file that does not read back as it was written. Nothing is replaced then.
#' @examples
#' project <- demo_project(tempfile())
#' release <- release_study(project, "analysts")
#' release$files
#' # What comes back from the R object needs nothing of Mavik.
#' read <- readRDS(file.path(release$folder, "analysis.rds"))
#' table(read$data$voice)
#' @export
release_study <- function(
  study, name, out = NULL, language = NULL, secret = NULL, dry_run = FALSE
) {
  keep_own_options()
  # A wrong name is told before anything is built.
  if (is_text(study)) declared_release(known_book(study), name)
  study <- study_released(study, name)
  release <- declared_release(study$book, name)
  if (is.null(out)) out <- release_folder(study$book, name)
  place <- check_release_place(out, study$book, name)
  edition <- edition_of(
    study_in(study, language), release, discloser(release, secret, study$book)
  )
  stop_cannot_hold(edition)
  told <- release_facts(edition, study$book, out)
  if (dry_run) return(invisible(told))
  dir.create(dirname(place), recursive = TRUE, showWarnings = FALSE)
  replace_folder(place, out, function(beside) {
    told$compared <<- write_edition(edition, beside, out)
    write_record(release_record(edition, beside, language), file.path(beside, "provenance.json"))
  })
  files <- list.files(place)
  told$files <- data.frame(file = files, bytes = file.size(file.path(place, files)))
  invisible(told)
}

# With its ledger where one of the releases tells of it.
study_released <- function(study, names) {
  if (inherits(study, "mavik_study")) return(study)
  releases <- if (is_text(study)) known_book(study)$releases[names]
  tell <- vapply(releases, function(release) "ledger" %in% release$with ||
    "methods" %in% release$formats, TRUE)
  study_with(study, NULL, ledger = any(tell))
}

declared_release <- function(book, name) {
  known <- names(book$releases)
  if (length(known) == 0) stop_mavik(
    "release_error", "this codebook declares no releases: say under `releases` what goes to whom, ",
    "`archive: {formats: [csv, ddi]}`"
  )
  if (!is_text(name) || !name %in% known) stop_mavik(
    "release_error", "`", name[1], "` is not a release of this codebook",
    " (it declares ", some_of(known, 20), ")", did_you_mean(name[1], known)
  )
  book$releases[[name]]
}

# What changes the study of a release, NULL where it goes out as it is.
discloser <- function(release, secret, book) {
  if (is.null(release$disclosure)) return(NULL)
  held <- if (release$disclosure$secret) read_secret(secret, book)
  function(study) disclosed_study(study, release, held)
}

release_folder <- function(book, name) {
  if (is.null(book$project)) stop_mavik(
    "release_error", "this codebook has no folder: say with `out` where to write"
  )
  file.path(book$project, "release", name)
}

# A folder of its own, outside the outputs of the build.
check_release_place <- function(out, book, name) {
  place <- check_out(out, book)
  if (!is.null(book$project)) {
    if (is_among(place, file.path(book$project, "out"))) stop_mavik(
      "release_error", out, ": lies in `out/`, which each build replaces; choose another folder"
    )
    if (place == real_path(book$project)) stop_mavik(
      "release_error", out, ": is the project's own folder; choose another one"
    )
  }
  record <- file.path(place, "provenance.json")
  if (!file.exists(record)) return(place)
  other <- jsonlite::read_json(record)$release$name
  if (!identical(other, name)) stop_mavik(
    "release_error", out, ": holds ", if (is.null(other)) "the outputs of a build" else paste0(
      "the release `", other, "`"
    ), ": each release has a folder of its own"
  )
  place
}

# All that the formats cannot hold, at once, each with its line.
stop_cannot_hold <- function(edition) {
  book <- edition$study$book
  known <- formats()[edition$release$formats]
  refusals <- c(Filter(Negate(is.null), check_record_names(edition)), unlist(lapply(
    known, function(format) format$check(edition)
  ), recursive = FALSE))
  if (length(refusals) == 0) return(invisible())
  refusals <- lapply(refusals, function(problem) {
    if (identical(problem$path, "formats")) problem$path <- c(edition$release$path, "formats")
    problem
  })
  problems <- problem_table(unname(refusals), book$document)
  problems <- problems[order(problems$line, na.last = TRUE), , drop = FALSE]
  stop_mavik("release_error", paste(problem_lines(problems), collapse = "\n"),
    facts = list(problems = problems))
}

release_facts <- function(edition, book, out) {
  release <- edition$release
  kept <- kept_variables(book)
  made <- lapply(with_names(edition$names, edition$names), function(name) made_from_left_out(
    name, edition$names, book
  ))
  extra <- c(
    script_files[release$scripts], if ("ledger" %in% release$with) "ledger.csv",
    if (!is.null(release$disclosure)) c("changes.csv", "disclosure.html")
  )
  structure(list(
    name = release$name, label = release$label, folder = out, records = edition$n,
    variables = edition$names, left_out = setdiff(kept, edition$names),
    made_from_left_out = Filter(length, made), formats = release$formats,
    scripts = release$scripts, changes = edition$changes, rare = edition$rare,
    files = data.frame(file = c(unlist(lapply(
      formats()[release$formats], function(format) format$files(edition)
    ), use.names = FALSE), unname(extra), "provenance.json")), compared = 0
  ), class = "mavik_release")
}

# Variables of the analysis file that stay back, and of which this one is made.
made_from_left_out <- function(name, out, book) setdiff(
  all_uses(name, book, but = out), c(out, private_variables(book), carriers_of(book))
)

# Format by format: written, read back, compared. Gives the number of cells that were compared.
write_edition <- function(edition, folder, out) {
  compared <- 0
  for (name in edition$release$formats) {
    format <- formats()[[name]]
    files <- format$files(edition)
    signal_progress("write", files[1])
    told_where(format$write(edition, folder), file.path(out, files[1]))
    compared <- compared + compare_edition(edition, name, format$back(edition, folder))
  }
  write_scripts(edition, folder)
  if ("ledger" %in% edition$release$with) write_released_ledger(edition, folder)
  if (!is.null(edition$release$disclosure)) {
    write_csv(edition$changes, file.path(folder, "changes.csv"))
    # The page that says what still identifies is drawn by the interface.
    for (page in parts_named("beside_")) page$write(edition, file.path(folder, page$file))
  }
  compared
}
