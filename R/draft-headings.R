# What headings and questions say of their columns, of all columns at once: patterns take longer
# to prepare than to try.

heading_signs <- function(names, questions, marks = NULL) {
  plain <- plain_heading(names)
  said <- paste(names, questions)
  folded <- text_fold(said)
  list(
    said = said, coded = if (is.null(marks)) said else paste0(said, "; ", marks),
    folded = folded, plain = plain, paradata = is_paradata(plain),
    person = is_personal_name(plain), named = calls_for(plain, personal_names),
    choice = is_matter_of_choice(plain),
    own_name = asks_for_name(plain) | asks_for_name(plain_heading(questions)),
    asked = asks_for_person(plain) | asks_for_person(plain_heading(questions)),
    counts = says_count(folded), rates = says_rating(folded)
  )
}

# Those of one column.
signs_of <- function(signs, k) lapply(signs, `[`, k)

plain_heading <- function(name) stringi::stri_trim_both(stringi::stri_replace_all_regex(
  text_fold(name), "\\([^)]*\\)|[_.?*:]+", " "
))
