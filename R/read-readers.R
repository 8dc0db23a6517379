# Which reader a source is for.

readers <- function() parts_named("reader_")

# What a source is, its first bytes tell; text is the rest.
reader_for <- function(source, shown) {
  first <- entries <- NULL
  if (!is.data.frame(source)) {
    check_file(source, shown)
    first <- readBin(source, "raw", 8)
    if (begins_with(first, 0x50, 0x4B, 0x03, 0x04)) entries <- names_in_zip(source, shown)
  }
  for (reader in readers()) if (reader$knows(source, first, entries)) return(reader)
  if (!is.null(entries)) stop_read(
    shown, NULL, "is a zip archive, but no workbook (XLSX or ODS): unpack it first"
  )
  if (begins_with(first, 0xD0, 0xCF, 0x11, 0xE0)) stop_read(
    shown, NULL,
    "is a workbook with a password, or one of an old format: save it without a password as XLSX"
  )
  reader_delimited
}

begins_with <- function(first, ...) identical(first[seq_along(c(...))], as.raw(c(...)))

names_in_zip <- function(path, shown) {
  entries <- tryCatch(
    utils::unzip(path, list = TRUE)$Name, error = function(e) NULL, warning = function(w) NULL
  )
  if (is.null(entries)) stop_read(
    shown, NULL, "the workbook is damaged or cut off: it cannot be unpacked"
  )
  entries
}
