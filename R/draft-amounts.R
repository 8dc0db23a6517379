# Columns of numbers, and what looks like numbers but counts nothing.

kind_of_numbers <- function(answers, number, share, sign) {
  if (are_numbered_signs(answers, number)) return(list(
    kind = "identifier", grounds = "numbers with letters behind some: signs, no amounts"
  ))
  if (are_exact_signs(answers)) return(list(
    kind = "identifier", grounds = "leading zeros or more than 15 digits: signs, no amounts"
  ))
  if (are_padded_codes(answers, sign)) return(list(
    kind = "identifier", grounds = "codes of two digits with leading zeros: signs, no amounts"
  ))
  if (are_numbers_of_things(number, sign)) return(list(
    kind = "identifier", grounds = "its heading calls them numbers of persons or things, no amounts"
  ))
  numbers <- answers$text[!is.na(number)]
  if (are_thousands(numbers)) return(list(kind = "text", grounds = kept_as_texts(numbers)))
  number_kind(answers, number, share, sign)
}

kept_as_texts <- function(texts) paste0(
  "thousands or decimals, as in \u201c",
  grep("[0-9][.,' \u2019\u00a0\u202f][0-9]", texts, value = TRUE)[1],
  "\u201d? Kept as texts: as numbers they need one mark, for decimals"
)

# `1,234.56`, `1.234,50`, `\u00a31,200`, `12 500`, `0.75`: amounts, some with marks of thousands.
grouped_amounts <- function(texts) {
  amount <- "^[\\p{Sc}]? ?-?%s([.,][0-9]+)?( ?[\\p{Sc}])?$"
  marked <- stringi::stri_detect_regex(texts, sprintf(
    amount, "[0-9]{1,3}([,.' \u2019\u00a0\u202f])[0-9]{3}(\\1[0-9]{3})*"
  ))
  if (!any(marked)) return(marked)
  marked | stringi::stri_detect_regex(texts, sprintf(amount, "[0-9]+"))
}

# However few, they are no list of labels.
are_grouped <- function(answers) nrow(answers) <= 250 &&
  weighted_share(grouped_amounts(answers$text), answers$count) >= 0.95

# Numbers; whole ones of a small span may be codes or a rating.
number_kind <- function(answers, number, share, sign) {
  odd <- answers[is.na(number), setdiff(names(answers), "folded")]
  list(kind = "number",
    grounds = paste0(number_show(100 * share, 0), " % of its answers are numbers, ",
      number_to_text(min(number, na.rm = TRUE)), " to ",
    number_to_text(max(number, na.rm = TRUE))), bounds = range(number, na.rm = TRUE), odd = odd,
    rating = if (nrow(odd) <= 2) rating_of(number, sign), told = told_codes(number, sign$coded))
}

# `207`, `207a`, `229b`: numbers of things.
are_numbered_signs <- function(answers, number) {
  odd <- answers$text[is.na(number)]
  length(odd) >= 3 && all(grepl("^[0-9]+[-_/]?[A-Za-z]$", odd))
}

# `01` to `12` of regions; months, days and hours are numbers.
are_padded_codes <- function(answers, sign) {
  any(stringi::stri_detect_regex(answers$text, "^0[0-9]$")) &&
    all(stringi::stri_detect_regex(answers$text, "^[0-9]{2}$")) &&
    stringi::stri_detect_regex(sign$plain, places_in_codes) && !sign$counts &&
    !stringi::stri_detect_regex(sign$plain, "month|hour|day|week|monat|stunde|tag|woche") &&
    is.null(told_codes(text_to_number(answers$text), sign$coded))
}

places_in_codes <- paste0(
  "(^| )(codes?|regions?|areas?|districts?|wards?|zones?|sectors?|branch(es)?|count(y|ies)|",
  "states?|provinces?|provinz|provincia|departements?|d\u00e9partements?|kantone?|cantons?|",
  "kreis|bezirke?|bundesland|kennziffer|schl\u00fcssel|c\u00f3digo|codigo)( |$)"
)

thing_words <- function() paste0(
  "(^| )id$|(", key_words_strong, "|case|record|household|interview)id$|",
  "[a-z] (nr|no|number|code|key)$"
)

# `Panel ID`, `choir_no`: many whole numbers, of which a sum means nothing.
are_numbers_of_things <- function(number, sign) {
  number <- number[!is.na(number)]
  length(number) >= 20 && all(is_whole(number)) &&
    grepl(thing_words(), sign$plain) && !sign$counts
}

# `01067`, `007`: as a number it would lose its zeros, and digits beyond the 15 that a number keeps.
# Two digits are a month, an hour or a code.
are_exact_signs <- function(answers) {
  if (!any(startsWith(answers$text, "0")) && max(stringi::stri_length(answers$text), 0) < 16)
    return(FALSE)
  if (weighted_share(grepl("^[0-9]{16,}$", answers$text), answers$count) > 0.5) return(TRUE)
  padded <- stringi::stri_detect_regex(answers$text, "^0[0-9]{2,}$")
  digits <- stringi::stri_detect_regex(answers$text, "^[0-9]+$")
  if (weighted_share(digits, answers$count) < 0.8) return(FALSE)
  widths <- rowsum(answers$count[digits], nchar(answers$text[digits]))
  alike <- max(widths) >= 0.95 * sum(widths)
  weighted_share(padded, answers$count) >= 0.05 || (alike && sum(padded) >= 2)
}

# `45%`, `\u00a320`, `3 h`: numbers that all carry one unit; NULL where they do not. Each form is a
# variant of its number, as far as they can be listed; a number itself holds no unit.
kind_of_amounts <- function(answers) {
  odd <- answers
  # `free` among prices.
  answers <- answers[!fold_in(answers$text, c(zero_words(), free_words)), ]
  first <- utils::head(answers$text, 50)
  if (nrow(answers) < 8 || !any(stringi::stri_detect_charclass(first, "[0-9]"))) return(NULL)
  # Where nearly all have one, so have most of the first.
  if (mean(is.na(amounts_in(first)$unit)) > 0.5) return(NULL)
  amounts <- amounts_in(answers$text)
  unit <- names(which.max(table(amounts$unit)))
  if (is.null(unit)) return(NULL)
  if (weighted_share(amounts$unit %in% unit, answers$count) < 0.95) return(NULL)
  # What is not listed would be set aside: shares are a hundred at most, prices never all told.
  listed <- if (unit == "%") 101 else 30
  whole <- all(is_whole(amounts$number[!is.na(amounts$unit)]))
  if (nrow(answers) > listed || !whole) return(list(kind = "text", grounds = paste0(
    "numbers with \u201c", unit, "\u201d; without it they could be read as numbers"
  )))
  list(
    kind = "number", unit = if (unit == "%") "percent" else unit, grounds = paste0(
      "numbers with \u201c", unit, "\u201d, each a variant of its number"
    ), bounds = range(amounts$number, na.rm = TRUE), odd = odd
  )
}

free_words <- c(
  "free", "free of charge", "waived", "fee waived", "no charge", "no fee", "nothing", "gratis",
  "kostenlos", "umsonst", "gratuit", "gratuito"
)

amounts_in <- function(texts) {
  parts <- stringi::stri_match_first_regex(texts, paste0(
    "^(?:([\\p{Sc}]) ?)?(-?[0-9]+(?:[.,][0-9]{1,2})?)",
    "(?: ?(%|[\\p{Sc}]|\u00b0 ?[CF]?|\\p{L}{1,3}))?$"
  ))
  unit <- ifelse(is.na(parts[, 2]), parts[, 4], parts[, 2])
  list(number = as.numeric(chartr(",", ".", parts[, 3])), unit = unit)
}

unit_lines <- function(profile, entry) {
  amounts <- amounts_in(profile$odd$text)
  read <- !is.na(amounts$unit)
  number <- number_to_text(amounts$number[read])
  order <- unique(number[order(amounts$number[read])])
  c(
    entry(level = "ratio", unit = yaml_word(profile$unit), variants = forms_text(split(
      profile$odd$text[read], factor(number, order)
    ))),
    odd_lines(profile, "    ", profile$odd[!read, ])
  )
}

# Thousands, or what may be: with points decimals are meant, unless half of the numbers are round.
are_thousands <- function(texts) {
  marked <- texts[grepl("[.,]", texts)]
  threes <- function(texts) all(marks_threes(texts))
  if (length(marked) == 0 || !threes(utils::head(marked, 1000)) || !threes(marked)) return(FALSE)
  points <- grepl(".", marked, fixed = TRUE)
  sum(endsWith(marked[points], "0")) >= sum(points) / 2
}

# A form that was given says nothing where it is a point.
decimal_of <- function(form) if (is.null(form$decimal)) "point" else form$decimal

# The mark of the file's decimals, by columns in which it can be nothing else.
decimal_comma <- function(columns) {
  texts <- unlist(lapply(columns, function(column) {
    texts <- utils::head(column$cells$text, 50)
    texts <- texts[!is.na(text_to_number(texts)) | !is.na(text_to_number(texts, "comma"))]
    if (!are_thousands(texts)) texts
  }))
  sum(!is.na(text_to_number(texts, "comma")) & grepl(",", texts)) > 2 * sum(
    !is.na(text_to_number(texts)) & grepl("[.]", texts)
  ) && any(grepl("^[0-9]+,[0-9]+$", texts))
}
