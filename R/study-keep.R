# A built study kept beside the codebook, a file a variable, so that a question
# to two variables of a large study reads two files. It holds answers, like the
# raw files beside it, and is not used once any file it rests on differs.

study_folder <- function(book) file.path(book$project, ".mavik", "study")

study_stamp <- function(book, path) {
  files <- c(unlist(lapply(unname(book$exports), export_files, book = book)), sheet_files(book), lapply(book$lookups, `[[`, "file"), instrument_files(book$document))
  files <- vapply(Filter(is_text, files), function(file) export_path(list(file = file), book), "")
  list(codebook = file_digest(path), built = utils::packageDescription("mavik", fields = "Built"), files = unname(as.matrix(file.info(unname(files))[c("size", "mtime")])), names = unname(files))
}

# The study with at least the variables `names` (all if NULL): from what is kept
# where that still holds, else built, and then kept.
study_with <- function(codebook, names, exports = list()) {
  if (inherits(codebook, "mavik_study")) return(codebook)
  if (length(exports) > 0 || !is_text(codebook)) return(build_study(codebook, exports, digests = FALSE))
  book <- known_book(codebook)
  stamp <- study_stamp(book, book$file)
  folder <- study_folder(book)
  kept <- if (file.exists(file.path(folder, "study.rds"))) suppressWarnings(tryCatch(readRDS(file.path(folder, "study.rds")), error = function(e) NULL))
  if (identical(kept$stamp, stamp)) {
    study <- read_kept(kept$study, folder, if (is.null(names)) names(kept$study$book$variables) else intersect(names, names(kept$study$book$variables)))
    if (!is.null(study)) return(study)
  }
  study <- build_book(book, digests = FALSE)
  keep_study(study, stamp, folder)
  study
}

keep_study <- function(study, stamp, folder) {
  suppressWarnings(tryCatch({
    dir.create(folder, recursive = TRUE, showWarnings = FALSE)
    unlink(file.path(folder, "study.rds"))
    for (name in names(study$data)) saveRDS(list(value = study$data[[name]], reason = study$reasons[[name]]), file.path(folder, paste0(name, ".rds")), compress = FALSE)
    slim <- unclass(study)
    slim[c("data", "reasons", "ledger", "findings", "index")] <- NULL
    keep_file(list(stamp = stamp, study = slim), file.path(folder, "study.rds"))
  }, error = function(e) FALSE))
}

read_kept <- function(study, folder, wanted) {
  files <- file.path(folder, paste0(wanted, ".rds"))
  if (!all(file.exists(files))) return(NULL)
  columns <- with_names(lapply(files, readRDS), wanted)
  rows <- .set_row_names(length(study$records$key))
  study$data <- structure(lapply(columns, `[[`, "value"), class = "data.frame", row.names = rows)
  study$reasons <- structure(Filter(Negate(is.null), lapply(columns, `[[`, "reason")), class = "data.frame", row.names = rows)
  structure(study, class = "mavik_study")
}
