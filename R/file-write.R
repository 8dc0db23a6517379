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
  if (is.null(problem) && !suppressWarnings(file.rename(beside,
    path))) problem <- "it could not be put in place"
  if (!is.null(problem)) stop_mavik("write_error", path, ": cannot be written (", problem,
    "); what stood there is unchanged")
  invisible(path)
}

write_checked <- function(bytes, path) {
  problem <- write_bytes(bytes, local_path(path))
  if (nzchar(problem)) stop_mavik("write_error", path, ": cannot be written (", problem, ")")
}

# For this machine alone, and read by `readRDS()`: bytes in its own order need no turning.
write_object <- function(x, path) {
  con <- file(path, "wb")
  on.exit(close(con))
  serialize(x, con, xdr = FALSE)
  invisible()
}

# Lines of text as UTF-8.
write_text <- function(lines, path) write_beside(path,
  function(beside) write_checked(line_bytes(lines), beside))

line_bytes <- function(lines) charToRaw(paste0(enc2utf8(as.character(lines)), "\n", collapse = ""))

# Of no use to anybody who guesses, and no draw from the user's random numbers.
random_name <- function() sub("^x", "", basename(tempfile("x")))

# A text that is edited in place keeps its line ends and the mark at its beginning.
write_edited <- function(lines, path) {
  bytes <- if (file.exists(path)) readBin(path, "raw", file.size(path))
  mark <- as.raw(c(0xEF, 0xBB, 0xBF))
  returns <- length(bytes) > 0 && mean(bytes[which(bytes == as.raw(10)) - 1L] == as.raw(13)) > 0.5
  text <- paste0(enc2utf8(as.character(lines)), if (isTRUE(returns)) "\r\n" else "\n",
    collapse = "")
  out <- c(if (identical(utils::head(bytes, 3), mark)) mark, charToRaw(text))
  write_beside(path, function(beside) write_checked(out, beside))
}

# What may not be written over: anything among the raw files, and a file that Mavik
# did not write, unless that is asked for. `raw` are the places of the raw files.
check_may_write <- function(file, raw = character(), replace = FALSE) {
  if (is.null(file)) return(invisible())
  place <- real_path(file)
  if (dir.exists(place)) stop_mavik("write_error", file, ": is a folder; name a file")
  if (is_among(file, raw)) {
    stop_mavik("write_error", file,
      ": is a raw file or lies among them, and these are never written to; choose another name")
  }
  if (replace || !file.exists(place) || is_our_own(place)) return(invisible())
  stop_mavik("write_error", file,
    ": stands there already and is not known to be Mavik's; choose another name, or say --replace")
}

# Pages and figures say at their end who made them.
is_our_own <- function(path) {
  size <- file.size(path)
  if (size == 0) return(TRUE)
  bytes <- readBin(path, "raw", size)
  length(grepRaw("ade by Mavik", utils::tail(bytes, 3000), fixed = TRUE)) > 0
}
