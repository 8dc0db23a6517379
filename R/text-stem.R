# A matrix question's stem and item: `How far do you agree? - I know the second verse`,
# `How often? [In spring]`, `How often? > In spring`.
stem_of <- function(question) {
  parts <- stringi::stri_match_first_regex(
    question, "^(.{4,}?)\\s+(?:[-\\x{2013}\\x{2014}:|>\\x{bb}\\x{2192}]|::|>>|->)\\s+(.+)$"
  )
  if (is.na(parts[1])) parts <- stringi::stri_match_first_regex(
    question, "^(.{4,}?)\\s*\\[(.+)\\]$"
  )
  if (is.na(parts[1])) return(c("", question))
  c(text_trim(parts[2]), text_trim(parts[3]))
}
