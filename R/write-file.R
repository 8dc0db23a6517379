# A file is written beside its place and renamed when it is whole; every write is
# checked to the disk.

write_beside <- function(path, write, ending = "") {
  beside <- paste0(path, ".writing-", random_name(), ending)
  on.exit(unlink(beside))
  problem <- suppressWarnings(tryCatch({
    write(beside)
    said <- sync_file(path.expand(beside))
    if (nzchar(said)) said
  }, error = function(e) conditionMessage(e)))
  if (is.null(problem) && !suppressWarnings(file.rename(beside, path))) problem <- "it could not be put in place"
  if (!is.null(problem)) stop_mavik("write_error", path, ": cannot be written (", problem, "); what stood there is unchanged")
  invisible(path)
}

write_checked <- function(bytes, path) {
  problem <- write_bytes(bytes, enc2native(path.expand(path)))
  if (nzchar(problem)) stop_mavik("write_error", path, ": cannot be written (", problem, ")")
}

# Lines of text as UTF-8.
write_text <- function(lines, path) write_beside(path, function(beside) write_checked(line_bytes(lines), beside))

line_bytes <- function(lines) charToRaw(paste0(enc2utf8(as.character(lines)), "\n", collapse = ""))

# Of no use to anybody who guesses, and no draw from the user's random numbers.
random_name <- function() sub("^x", "", basename(tempfile("x")))
