# Characters that steer a terminal, or turn the direction of a line, as escapes.

visible_controls <- function(x, keep = "") {
  x <- enc2utf8(as.character(x))
  odd <- paste0(
    "[\\x{00}-\\x{1F}\\x{7F}-\\x{9F}\\x{200E}\\x{200F}\\x{2028}\\x{2029}",
    "\\x{202A}-\\x{202E}\\x{2066}-\\x{2069}\\x{FFF9}-\\x{FFFB}&&[^",
    keep, "]]"
  )
  if (!nzchar(keep)) odd <- sub("&&[^]", "", odd, fixed = TRUE)
  has <- which(stringi::stri_detect_regex(x, odd))
  for (k in has) {
    odd_ones <- unique(stringi::stri_extract_all_regex(x[k], odd)[[1]])
    shown <- sprintf("\\u%04x", vapply(odd_ones, utf8ToInt, 0L))
    x[k] <- stringi::stri_replace_all_fixed(x[k], odd_ones, shown, vectorize_all = FALSE)
  }
  x
}
