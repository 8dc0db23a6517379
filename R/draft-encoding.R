# The encoding of a text that says nothing of it: by its byte order mark, by being UTF-8, else
# a guess by its letters, shown with a word as it reads so.

find_encoding <- function(bytes, whole) {
  if (has_utf16_mark(bytes)) return("UTF-16")
  if (sum(bytes[seq(2, length(bytes), 2)] == as.raw(0)) > length(bytes) / 5) return("UTF-16")
  bytes <- whole_lines(bytes, whole)
  # No text holds a NUL, whatever its encoding.
  if (stringi::stri_enc_isutf8(list(bytes)) || any(bytes == as.raw(0))) "UTF-8" else
    guess_encoding(bytes)
}

# The text without a line that the end of what was read cuts.
whole_lines <- function(bytes, whole) {
  ends <- which(bytes == as.raw(10))
  if (whole || length(ends) == 0) bytes else bytes[seq_len(ends[length(ends)])]
}

# A word or three of headings, questions and lists as a guessed encoding reads them.
words_read <- function(seen) {
  if (startsWith(seen$form$encoding, "UTF")) return(character())
  listed <- lapply(seen$columns, function(column) c(
    column$name, column$question, column$scale
  ))
  words <- unlist(stringi::stri_extract_all_regex(
    unlist(listed), "[\\p{L}\\p{M}]*[\\p{L}&&[^A-Za-z]][\\p{L}\\p{M}]*", omit_no_match = TRUE
  ))
  utils::head(unique(words), 3)
}

quoted_words <- function(words) paste0("\u201c", words, "\u201d", collapse = ", ")

# Latin letters stand among those of ASCII, others among their own.
guess_encoding <- function(bytes) {
  pieces <- foreign_pieces(bytes)
  mixed <- vapply(pieces[lengths(pieces) > 2], beside_ascii, TRUE)
  told <- if (length(mixed) > 0 && mean(mixed) <= 0.3) c(
    wide_encoding(pieces), script_encoding(pieces)
  )
  fits <- Filter(function(name) reads_in(bytes, name), unique(c(
    told[1], latin_encoding(pieces), "windows-1252", "windows-1250", "windows-1251",
    names(wide_leads)
  )))
  c(fits, "windows-1252")[1]
}

# The different pieces between delimiters and spaces that hold bytes beyond ASCII; a few
# thousand tell enough.
foreign_pieces <- function(bytes) {
  code <- as.integer(bytes)
  piece <- cumsum(code %in% utf8ToInt("\t\n\r \",;"))
  of <- piece %in% piece[code > 127] & !code %in% utf8ToInt("\t\n\r \",;")
  utils::head(unique(unname(split(bytes[of], piece[of]))), 5000)
}

beside_ascii <- function(piece) mean(as.integer(piece) > 127) < 0.5

# By the letters that languages of one encoding have and those of the others lack.
latin_encoding <- function(pieces) {
  high <- high_bytes(pieces)
  has <- function(...) any(c(...) %in% high)
  odd <- has(0xD0, 0xDE, 0xF0, 0xFE)
  if (has(0x8D, 0x8E, 0x9A, 0x9D, 0x9E) || any(vapply(pieces, has_sign_inside, TRUE))) return(
    "windows-1250"
  )
  if (odd && has(0xE3)) return("windows-1250")
  if (odd && has(0xE0, 0xE2, 0xE8, 0xEB, 0xEE, 0xEF, 0xF2, 0xF8, 0xFB) &&
    !has(0xF3, 0xF6, 0xFA, 0xFD)) return("windows-1257")
  if ((odd || has(0xDD, 0xFD)) && !has(0xE1, 0xE6, 0xE9, 0xEC, 0xED, 0xF3, 0xF8, 0xFA)) return(
    "windows-1254"
  )
  if (has(0xF5, 0xFB) && has(0xE1, 0xE9, 0xF3) &&
    !has(0xE0, 0xE2, 0xE3, 0xE4, 0xE7, 0xE8, 0xEA)) return("windows-1250")
  # Of a few words no more can be told.
  lettered <- vapply(pieces, function(piece) any(piece >= as.raw(0xC0)), TRUE)
  if (sum(lettered) < 4) return("windows-1252")
  sure <- sureness(pieces, c("windows-1252", "windows-1250", "windows-1254"))
  if (max(sure[-1]) > sure[1] + 0.15) names(which.max(sure)) else "windows-1252"
}

# What western Europe reads as a superscript, a fraction or a currency, with letters on both sides.
has_sign_inside <- function(piece) {
  code <- as.integer(piece)
  letter <- (code >= 65 & code <= 90) | (code >= 97 & code <= 122) | code >= 0xC0
  sign <- code %in% c(0xA3, 0xA5, 0xAA, 0xAF, 0xB3, 0xB9, 0xBA, 0xBC, 0xBE, 0xBF)
  inner <- seq_along(code)[-c(1, length(code))]
  any(sign[inner] & letter[inner - 1] & letter[inner + 1])
}

# Cyrillic, Greek, Hebrew or Arabic: words that begin with a capital at most, else ask the letters.
script_encoding <- function(pieces) {
  runs <- vapply(pieces, function(piece) max(0, with(
    rle(piece >= as.raw(0xC0)), lengths[values]
  )), 0)
  if (max(runs) < 3) return(NULL)
  names <- c("windows-1251", "windows-1253", "windows-1255", "windows-1256")
  sound <- vapply(names, function(name) mean(grepl(
    "^[\\p{P}\\d]*(\\p{Lu}?\\p{Ll}+|\\p{Lu}+|\\p{Lo}[\\p{Lo}\\p{M}]*)[\\p{P}\\d]*$",
    decoded_in(pieces, name), perl = TRUE
  )), 0)
  sure <- sureness(pieces, names)
  names[order(-round(sound, 1), -sure)][1]
}

# Two bytes a character: the encoding in which most of them are of the common set.
wide_encoding <- function(pieces) {
  common <- vapply(names(wide_leads), function(name) {
    text <- decoded_in(pieces, name)
    if (any(grepl("[\ufffd\u001a\uff61-\uff9f]", text))) return(0)
    letters <- unlist(stringi::stri_extract_all_regex(text, "[^\\x{0}-\\x{7f}]"))
    lead <- vapply(stringi::stri_encode(letters, "UTF-8", name, to_raw = TRUE),
      function(bytes) as.integer(bytes[1]), 0L)
    mean(lead %in% wide_leads[[name]])
  }, 0)
  sure <- sureness(pieces, names(common))
  best <- order(-round(common, 1), -sure)[1]
  if (common[best] >= 0.7) names(common)[best]
}

# First bytes of kana and of the commoner ideographs and syllables, as the standards lay them out.
wide_leads <- list(
  "Shift_JIS" = 0x81:0x97, "EUC-KR" = 0xB0:0xC8, "GB18030" = c(0xA1:0xA3, 0xB0:0xD7),
  "Big5" = 0xA1:0xC6
)

high_bytes <- function(pieces) {
  code <- as.integer(unlist(pieces))
  code[code > 127]
}

decoded_in <- function(pieces, name) {
  suppressWarnings(stringi::stri_encode(unname(pieces), name, "UTF-8"))
}

# How sure the letters are of each of some encodings.
sureness <- function(pieces, names) {
  guesses <- stringi::stri_enc_detect(list(unlist(lapply(pieces, c, as.raw(32)))))[[1]]
  name <- ifelse(
    guesses$Encoding %in% names(encoding_families), encoding_families[guesses$Encoding],
    guesses$Encoding
  )
  vapply(with_names(names, names), function(each) {
    max(guesses$Confidence[name %in% each], 0, na.rm = TRUE)
  }, 0)
}

encoding_families <- c(
  "ISO-8859-1" = "windows-1252", "ISO-8859-2" = "windows-1250", "ISO-8859-7" = "windows-1253",
  "ISO-8859-9" = "windows-1254", "ISO-8859-8" = "windows-1255", "ISO-8859-8-I" = "windows-1255",
  "ISO-8859-6" = "windows-1256"
)
