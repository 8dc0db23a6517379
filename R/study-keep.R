# A built study kept beside the codebook, a file a variable, so that a question
# to two variables of a large study reads two files. It holds answers, like the
# raw files beside it, and is not used once any file it rests on differs.

study_folder <- function(book) file.path(book$project, ".mavik", "study")

study_stamp <- function(book) {
  files <- c(
    unlist(lapply(unname(book$exports), export_files, book = book)), sheet_files(book),
    lapply(book$lookups, `[[`, "file"), instrument_files(book$document)
  )
  files <- vapply(Filter(is_text, files), function(file) export_path(list(file = file), book), "")
  # What tables and releases are declared changes nothing in a study.
  document <- unclass_document(book$document)
  list(codebook = document[setdiff(names(document), c("tables", "releases"))],
    built = utils::packageDescription("mavik", fields = "Built"),
    files = times_of(unname(files)), names = unname(files))
}

# The study with at least the variables `names` (all if NULL), and its ledger where that
# is asked for: from what is kept where that still holds, else built, and then kept.
study_with <- function(codebook, names, exports = list(), ledger = FALSE) {
  if (inherits(codebook, "mavik_study")) return(codebook)
  if (length(exports) > 0 || !is_text(codebook)) return(build_study(
    codebook, exports, digests = FALSE
  ))
  book <- known_book(codebook)
  stamp <- study_stamp(book)
  folder <- study_folder(book)
  kept <- read_kept_file(file.path(folder, "study.rds"))
  if (identical(kept$stamp, stamp)) {
    # Private answers are not kept, as they are in no built study.
    there <- setdiff(names(kept$study$book$variables), private_variables(kept$study$book))
    study <- read_kept(kept$study, folder, if (is.null(names)) there else intersect(names, there))
    told <- if (ledger) read_kept_file(file.path(folder, "ledger.rds"))
    if (!is.null(study) && (!ledger || !is.null(told))) {
      study$ledger <- told
      note_newer_workbook(book)
      known <- c("file", "document", "declared", "releases")
      study$book[known] <- book[known]
      study$codebook <- book$document
      return(study)
    }
  }
  study <- build_book(book, digests = FALSE)
  keep_study(study, stamp, folder)
  keep_index(study)
  study
}

# NULL where there is none, or it cannot be read.
read_kept_file <- function(file) if (file.exists(file)) suppressWarnings(tryCatch(
  readRDS(file), error = function(e) NULL
))

keep_study <- function(study, stamp, folder) {
  suppressWarnings(tryCatch({
    # A folder of its own each time: files of variables that are no more go with the old one.
    fresh <- paste0(folder, ".writing-", random_name())
    dir.create(fresh, recursive = TRUE, showWarnings = FALSE)
    on.exit(unlink(fresh, recursive = TRUE))
    for (name in names(study$data)) write_object(lapply(
      list(value = study$data[[name]], reason = study$reasons[[name]]), kept_vector, folder = fresh
    ), file.path(fresh, paste0(name, ".rds")))
    slim <- unclass(study)
    slim[c("data", "ledger", "findings", "index")] <- NULL
    slim$reasons <- slim$reasons[setdiff(names(slim$reasons), names(study$data))]
    write_object(study$ledger, file.path(fresh, "ledger.rds"))
    write_object(list(stamp = stamp, study = slim), file.path(fresh, "study.rds"))
    unlink(c(folder, left_beside(folder, fresh)), recursive = TRUE)
    file.rename(fresh, folder)
  }, error = function(e) FALSE))
}

# What a stopped command left of the cache.
left_beside <- function(folder, mine) {
  unfinished <- list.files(dirname(folder), paste0("^", basename(folder), "[.]writing-"),
    full.names = TRUE)
  old <- unfinished[difftime(Sys.time(), file.mtime(unfinished), units = "hours") > 1]
  setdiff(old, mine)
}

read_kept <- function(study, folder, wanted) {
  files <- file.path(folder, paste0(wanted, ".rds"))
  if (!all(file.exists(files))) return(NULL)
  columns <- with_names(lapply(files, readRDS), wanted)
  rows <- .set_row_names(length(study$records$key))
  columns <- tryCatch(lapply(columns, lapply, found_vector, folder = folder),
    mavik_build_error = function(e) NULL)
  if (is.null(columns) && length(wanted) > 0) return(NULL)
  values <- lapply(columns, `[[`, "value")
  study$data <- structure(values, class = "data.frame", row.names = rows)
  reasons <- c(Filter(Negate(is.null), lapply(columns, `[[`, "reason")), as.list(study$reasons))
  study$reasons <- structure(reasons, class = "data.frame", row.names = rows)
  structure(study, class = "mavik_study")
}

index_file <- function(book) if (!is.null(book$file)) file.path(
  book$project, ".mavik", "records.rds"
)

# Written beside, then renamed. Nothing depends on it: where it cannot be
# written, all still works.
keep_file <- function(x, file) {
  suppressWarnings(tryCatch({
    dir.create(dirname(file), showWarnings = FALSE)
    write_beside(file, function(beside) write_object(x, beside))
  }, error = function(e) FALSE))
}
