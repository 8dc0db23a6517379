# Headings and wordings without what platforms and questionnaires change about them.

# Without marks that end it, or end the part of it before what stands in brackets.
text_unmarked <- function(x) stringi::stri_replace_all_regex(
  text_fold(x), "[ ?!.:*\\x{2026}]+(?= ?\\[|$)", ""
)

# Also without the question's number (`3. `, `Q3a) `, `Q3_2 `), where two words follow at least.
text_unnumbered <- function(x) {
  x <- text_unmarked(x)
  number <- "[0-9]{1,3}(?:[._][0-9]{1,3})*[a-z]?"
  rest <- stringi::stri_replace_first_regex(x, paste0(
    "^(?:(?:q|question|frage) ?", number, "[ .):-]+|", number, "[.):\\x{3001}-][ .):-]*)",
    "(?=[^0-9 ])"
  ), "")
  ifelse(stringi::stri_count_words(rest) > 1, rest, x)
}
