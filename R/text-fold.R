# One folding for every comparison of texts; what is stored is never folded.

text_fold <- function(x) {
  x <- as.character(x)
  out <- fold_ascii(x)
  other <- is.na(out)
  if (any(other)) out[other] <- text_fold_full(x[other])
  out
}

# Whether each text, folded, is one of the words; of many texts few are.
fold_in <- function(x, words) {
  among <- fold_among(x, words)
  other <- which(is.na(among))
  among[other] <- text_fold_full(x[other]) %in% words
  among
}

text_fold_full <- function(x) {
  x <- stringi::stri_trans_nfc(x)
  x <- stringi::stri_replace_all_regex(
    x, "[\\x{2018}\\x{2019}\\x{201A}\\x{201B}\\x{2032}\\x{02BC}\\x{00B4}\\x{0060}]", "'"
  )
  x <- stringi::stri_replace_all_regex(
    x, "[\\x{201C}\\x{201D}\\x{201E}\\x{201F}\\x{2033}\\x{00AB}\\x{00BB}]", "\""
  )
  x <- stringi::stri_replace_all_regex(
    x, "[\\x{2010}-\\x{2015}\\x{2212}\\x{FE58}\\x{FE63}\\x{FF0D}]", "-"
  )
  x <- stringi::stri_replace_all_regex(x, "[\\x{200B}\\x{2060}\\x{FEFF}\\x{00AD}]", "")
  text_squeeze(stringi::stri_trans_nfc(stringi::stri_trans_casefold(x)))
}

text_squeeze <- function(x) {
  text_trim(stringi::stri_replace_all_regex(x, "[\\p{White_Space}]+", " "))
}

# Keys and names that differ only in case, inner spaces or leading zeros.
text_near <- function(x) {
  x <- text_fold(x)
  spaced <- which(stringi::stri_detect_fixed(x, " "))
  x[spaced] <- stringi::stri_replace_all_fixed(x[spaced], " ", "")
  zeros <- which(startsWith(x, "0"))
  x[zeros] <- stringi::stri_replace_first_regex(x[zeros], "^0+(?=[0-9])", "")
  x
}

# A number for each, the same for those that are near to each other, and hardly ever for others.
near_marks <- function(x) {
  marks <- near_numbers(x, FALSE)
  odd <- which(is.na(marks))
  marks[odd] <- near_numbers(text_near(x[odd]), TRUE)
  marks
}

# By bytes, whatever the locale; names of files come without a mark of their encoding.
sort_c <- function(x) {
  marked <- enc2utf8(x)
  if (is.character(x) && any(Encoding(x) == "unknown" & !stringi::stri_enc_isascii(x))) {
    marked <- x
    Encoding(marked) <- "UTF-8"
  }
  x[order(marked, method = "radix")]
}

shorten_text <- function(text, width) {
  long <- nchar(text) > width
  text[long] <- paste0(stringi::stri_trim_right(substr(text[long], 1, width - 1)), "\u2026")
  text
}
