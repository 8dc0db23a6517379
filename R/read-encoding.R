# Encodings of text, by the names of the web's standard. Any but UTF-8 becomes a UTF-8 copy
# first, piece by piece.

encodings <- c(
  "UTF-8", "UTF-16", "windows-1252", "windows-1250", "windows-1251", "windows-1253",
  "windows-1254", "windows-1255", "windows-1256", "windows-1257", "windows-1258", "windows-874",
  "Shift_JIS", "EUC-KR", "GB18030", "Big5"
)

utf8_copy <- function(path, encoding, shown, folder = tempdir(), piece = 2^24) {
  if (encoding == "UTF-8") return(path)
  from <- file(path, "rb")
  on.exit(close(from))
  copy <- tempfile("copy", folder, ".csv")
  to <- file(copy, "wb")
  on.exit(close(to), add = TRUE)
  lines <- 1
  carried <- raw()
  name <- encoding
  repeat {
    read <- readBin(from, "raw", piece)
    bytes <- c(carried, read)
    if (length(bytes) == 0) break
    if (name == "UTF-16") {
      name <- utf16_order(bytes)
      if (has_utf16_mark(bytes)) bytes <- bytes[-(1:2)]
    }
    whole <- if (encoding == "UTF-16") utf16_whole(bytes, name) else
      line_whole(bytes, last = length(read) == 0)
    carried <- bytes[seq_along(bytes) > whole]
    if (whole == 0 && length(read) == 0) stop_read(
      shown, lines, "the file ends within a character; it is not whole UTF-16"
    )
    text <- decoded(bytes[seq_len(whole)], name)
    if (encoding != "UTF-16") check_decoded(text, encoding, lines, shown)
    lines <- lines + stringi::stri_count_fixed(text, "\n")
    writeBin(charToRaw(text), to)
  }
  copy
}

# Whether all of these bytes are characters of an encoding.
reads_in <- function(bytes, name) is.na(undecoded(decoded(bytes, name), name))

decoded <- function(bytes, name) {
  if (name == "UTF-8") {
    text <- rawToChar(bytes)
    Encoding(text) <- "UTF-8"
    return(text)
  }
  if (length(bytes) == 0) return("")
  suppressWarnings(stringi::stri_conv(list(bytes), name, "UTF-8"))
}

check_decoded <- function(text, encoding, lines, shown) {
  at <- undecoded(text, encoding)
  if (is.na(at)) return()
  line <- lines + stringi::stri_count_fixed(stringi::stri_sub(text, 1, at), "\n")
  stop_read(
    shown, line, "a byte that ", encoding, " does not have; is it `encoding: UTF-8`, or another ",
    "that `mavik look` would tell?"
  )
}

# Where the first byte stands that the encoding leaves undefined.
undecoded <- function(text, encoding) {
  single <- startsWith(encoding, "windows-")
  stringi::stri_locate_first_regex(
    text, if (single) "[\\x{80}-\\x{9F}\\x{FFFD}]" else "[\\x{80}-\\x{9F}\\x{FFFD}\\x{1A}]"
  )[1, 1]
}

has_utf16_mark <- function(bytes) {
  identical(bytes[1:2], as.raw(c(0xFE, 0xFF))) || identical(bytes[1:2], as.raw(c(0xFF, 0xFE)))
}

utf16_order <- function(bytes) {
  if (identical(bytes[1:2], as.raw(c(0xFE, 0xFF)))) "UTF-16BE" else "UTF-16LE"
}

# How many of these bytes are whole characters.
utf16_whole <- function(bytes, name) {
  whole <- length(bytes) %/% 2 * 2
  if (whole == 0) return(0)
  high <- as.integer(bytes[if (name == "UTF-16BE") whole - 1 else whole])
  if (high >= 0xD8 && high <= 0xDB) whole - 2 else whole
}

# How many of them are whole lines: no character of two bytes or four holds a line's end.
line_whole <- function(bytes, last) {
  if (last) return(length(bytes))
  ends <- which(bytes == as.raw(10))
  if (length(ends) == 0) 0 else ends[length(ends)]
}
