# Paths: where the codebook's files are, and what lies among the raw ones.

export_path <- function(export, book) {
  absolute <- grepl("^(/|~|[A-Za-z]:[/\\\\])", export$file)
  if (absolute) path.expand(export$file) else file.path(book$project, export$file)
}

# Folders of raw files, and the files themselves: nothing is ever written there.
raw_places <- function(book) unique(c(raw_folders(book), raw_files(book)))

raw_folders <- function(book) {
  files <- unlist(lapply(
    # A sheet that people type in stands among other sheets.
    book$exports, function(export) if (!is.null(export$file) && !is_typed(export))
      export_path(export, book)
  ))
  folders <- unique(c(file.path(book$project, "raw"), dirname(as.character(files))))
  setdiff(unname(vapply(folders, real_path, "")), real_path(book$project))
}

raw_files <- function(book) {
  files <- unlist(lapply(unname(c(book$exports, book$lookups)),
    function(entry) if (is_text(entry$file)) export_path(entry, book)))
  c(unname(vapply(as.character(files), real_path, "")),
    if (!is.null(book$file)) real_path(book$file))
}
