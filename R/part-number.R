# A number is digits, a sign, the decimal mark and an exponent; nothing else.

text_to_number <- function(x, decimal = "point") {
  x <- as.character(x)
  out <- number_plain(x, if (decimal == "comma") "," else ".")
  odd <- which(is.nan(out))
  if (length(odd) > 0) out[odd] <- wide_to_number(x[odd], decimal)
  out
}

# Of texts with more than ASCII: other signs for minus, other spaces, digits of other scripts.
wide_to_number <- function(x, decimal) {
  x <- stringi::stri_replace_all_regex(
    ascii_digits(text_trim(x), decimal), "[\\x{2212}\\x{2010}-\\x{2013}\\x{FF0D}]", "-"
  )
  digits <- if (decimal == "comma") "([0-9]+(,[0-9]*)?|,[0-9]+)" else
    "([0-9]+([.][0-9]*)?|[.][0-9]+)"
  fits <- stringi::stri_detect_regex(x, paste0("^[+-]?", digits, "([eE][+-]?[0-9]+)?$"))
  out <- rep(NA_real_, length(x))
  fits <- !is.na(fits) & fits
  plain <- x[fits]
  if (decimal == "comma") plain <- chartr(",", ".", plain)
  out[fits] <- number_parse(plain)
  out
}

# Each script has its ten digits in a row, from its zero on; wide ones and Arabic have their marks.
ascii_digits <- function(x, decimal) {
  other <- which(stringi::stri_detect_charclass(x, "\\p{Nd}") &
    stringi::stri_detect_regex(x, "[^\\x{0}-\\x{7F}]"))
  if (length(other) == 0) return(x)
  mark <- if (decimal == "comma") "," else "."
  script <- intToUtf8(c(outer(0:9, script_zeros, "+"), 0xFF0B, 0xFF0C, 0xFF0E, 0x066B))
  plain <- paste0(strrep("0123456789", length(script_zeros)), "+,.", mark)
  x[other] <- stringi::stri_trans_char(x[other], script, plain)
  x
}

script_zeros <- c(
  0x0660, 0x06F0, 0x07C0, 0x0966, 0x09E6, 0x0A66, 0x0AE6, 0x0B66, 0x0BE6, 0x0C66, 0x0CE6, 0x0D66,
  0x0E50, 0x0ED0, 0x0F20, 0x1040, 0x17E0, 0x1810, 0xFF10
)

# The shortest text that reads back to the same double; NA stays NA.
number_to_text <- function(x) number_write(as.double(x))

# As shown to people: a fixed number of decimals, rounded half away from zero.
number_show <- function(x, decimals = 2) {
  shown <- is.na(x)
  text <- with_thousands(sprintf("%.*f", decimals, round_half(x, decimals)), x)
  text[which(shown)] <- ""
  shown[] <- text
  shown
}

# Commas among the digits before the point; `x` is what the texts say.
with_thousands <- function(text, x) {
  long <- which(abs(x) >= 999)
  if (length(long) == 0) return(text)
  whole <- sub("[.].*", "", text[long])
  text[long] <- paste0(
    gsub("(?<=[0-9])(?=([0-9]{3})+$)", ",", whole, perl = TRUE),
    substring(text[long], nchar(whole) + 1)
  )
  text
}

round_half <- function(x, decimals = 0) {
  scale <- 10^decimals
  sign(x) * floor(abs(x) * scale + 0.5 + 1e-9) / scale
}

# Counts as people read them: 1,234,567.
grouped <- function(n) {
  if (anyNA(n) || any(n != round(n) | abs(n) >= 1e15)) {
    return(format(n, big.mark = ",", trim = TRUE, scientific = FALSE))
  }
  with_thousands(sprintf("%.0f", n), n)
}

is_whole <- function(x) !is.na(x) & x == round(x) & abs(x) < 2^31

# `1,900`, `12.500`: each mark has three digits behind it, and may stand for thousands.
marks_threes <- function(x) grepl("^[+-]?[1-9][0-9]{0,2}([.,][0-9]{3})+$", x)

# `5.56993E+11`: a spreadsheet made a number of a long sign, and its last digits are lost.
in_exponent_form <- function(x) {
  out <- grepl("E", x, fixed = TRUE)
  out[out] <- grepl("^[0-9]([.,][0-9]+)?E[+]?[0-9]+$", x[out])
  out
}
