# Written beside, then renamed.
write_text <- function(lines, path) {
  beside <- paste0(path, ".writing-", Sys.getpid())
  writeLines(enc2utf8(as.character(lines)), beside, useBytes = TRUE)
  if (!file.rename(beside, path)) stop_mavik("write_error", path, ": cannot be written")
}
