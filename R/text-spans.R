# A number typed as a span or as about so much, `10-12`, `about 5`.

about_words <- c(
  "about", "around", "roughly", "approx", "approx.", "approximately", "circa", "ca", "ca.", "~",
  "etwa", "ungef\u00e4hr", "environ", "unos", "cerca de"
)

to_words <- c("-", "to", "bis", "\u00e0", "a")

# The middle or the lower end of a span of folded text; NA where a text is none, or its
# ends do not rise.
text_to_span <- function(folded, take, decimal = "point") {
  mark <- if (decimal == "comma") "," else "[.]"
  number <- paste0("([+-]?[0-9]+(?:", mark, "[0-9]+)?)")
  any_of <- function(words) paste0("(?:", paste0("\\Q", words, "\\E", collapse = "|"), ")")
  about <- stringi::stri_match_first_regex(
    folded, paste0("^", any_of(about_words), "\\s*", number, "$")
  )
  ends <- stringi::stri_match_first_regex(
    folded, paste0("^", number, "\\s*", any_of(to_words), "\\s*", number, "$")
  )
  low <- text_to_number(ends[, 2], decimal)
  high <- text_to_number(ends[, 3], decimal)
  value <- if (take == "middle") (low + high) / 2 else low
  value[is.na(high) | high <= low] <- NA
  ifelse(is.na(value), text_to_number(about[, 2], decimal), value)
}
