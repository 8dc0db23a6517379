# Lines of text as UTF-8, written beside, then renamed.
write_text <- function(lines, path) {
  beside <- paste0(path, ".writing-", Sys.getpid())
  on.exit(unlink(beside))
  bytes <- charToRaw(paste0(enc2utf8(as.character(lines)), "\n", collapse = ""))
  done <- suppressWarnings(tryCatch({
    writeBin(bytes, beside)
    file.rename(beside, path)
  }, error = function(e) FALSE))
  if (!isTRUE(done)) stop_mavik("write_error", path, ": cannot be written")
}
