# Spans of time in words: `six months to a year`, `over an hour`, `1 h 30`. What is worded becomes
# a number and its unit, so that `a year` there is no `a year` of `twice a year`.

plain_spans <- function(text) {
  words <- span_words()
  if (!grepl(words$unit, text, perl = TRUE)) return(text)
  told <- told_spans(text, words)
  # What words count beside it counts in digits as well.
  if (told != text || grepl("[0-9]", text)) told <- counted_spans(told, words)
  joined_spans(told, words)
}

# Expressions for units of time, for articles and for words that count, in all languages.
span_words <- function() once_a_session("span_words", function() {
  any_of <- function(words) paste0(
    "(", paste(words[order(-nchar(words))], collapse = "|"), ")(?![\\p{L}\\p{N}'])"
  )
  table <- order_words()$number
  articles <- c("one", "ein", "eine", "einem", "einen", "einer", "eines", "un", "une",
    "una", "uno", "um", "uma", "een", "un'")
  count <- table[table$value >= 2 & is_whole(table$value) &
    !table$word %in% c("second", "sei", "couple", "few") & !grepl(" ", table$word), ]
  list(
    unit = paste0("(*UTF8)(?<![\\p{L}\\p{N}])", any_of(order_words()$unit$word)),
    units = any_of(order_words()$unit$word), article = any_of(articles),
    count = any_of(count$word), values = with_names(count$value, count$word)
  )
})

# `half an hour`, `a year and a half`, `over a year`. In English `a year` behind what is counted
# says how often; it is a span behind nothing, or behind a word of bounds.
told_spans <- function(text, words) {
  swap <- function(text, pattern, by) stringi::stri_replace_all_regex(text, pattern, by)
  lead <- paste0("(?:than|over|under|to|about|around|within|for|nearly|almost|least|most|",
    "roughly|approximately|until|above|below|past|last|only|just|exceeding|between|by|from|",
    "upto|like|the)")
  text <- swap(text, "^((?:in|within|during) the )(?:last|past) (?!few|couple|[0-9])", "within 1 ")
  text <- swap(text, paste0("(?<![\\p{L}])half (?:a|an) ", words$units), "0.5 $1")
  text <- swap(text, paste0(
    "(?<![\\p{L}])(?:(?:a|an|ein\\p{L}{0,2}|une?|una|uma?|een) )?",
    "(?:half|halbe[snrm]?|halve|demie?|medio|media|mezz[oa]|mei[oa])[ -]", words$units
  ), "0.5 $1")
  text <- swap(text, paste0("(?<![\\p{L}])(?:a|an|one) ", words$units, " and a half"), "1.5 $1")
  text <- swap(text, paste0("(?<![\\p{L}])one and a half ", words$units), "1.5 $1")
  text <- swap(text, paste0("^(a|an|one) (?:full|whole) ", words$units), "1 $2")
  text <- swap(text, paste0("^(?:a|an) ", words$units), "1 $1")
  text <- swap(text, paste0("(?<![\\p{L}])(", lead, ") (?:a|an) ", words$units), "$1 1 $2")
  text <- swap(text, "^(?:a|an) decade|(?<=(over|than|least) )(?:a|an) decade", "10 years")
  text <- swap(text, paste0("(?<![\\p{L}])d'une? ", words$units), "de 1 $1")
  swap(text, paste0("(?<![\\p{L}])", words$article, " ?", words$units), "1 $2")
}

counted_spans <- function(text, words) {
  found <- stringi::stri_extract_all_regex(text, paste0("(?<![\\p{L}])", words$count))[[1]]
  for (word in found[!is.na(found)]) text <- swap_word(
    text, word, number_to_text(words$values[[word]])
  )
  # `one to 2 years`, `ein bis 2 jahre`.
  stringi::stri_replace_all_regex(text, paste0(
    "(?<![\\p{L}])", words$article, "(?= (?:to|or|bis|oder|\u00e0|ou|a|o|e|tot|of|-|\u2013) [0-9])"
  ), "1")
}

# `1 h 30`, `1 hour and 20 minutes`, `2 years 6 months`: the smaller unit holds both.
joined_spans <- function(text, words) {
  pattern <- paste0(
    "([0-9]+) ?", words$units, "(?: ?(?:,|and|und|et|y|e|en)?) ?([0-9]+)(?: ?", words$units,
    ")?(?=$| ?(?:[-\u2013]| to| bis| \u00e0| a| tot) ?[0-9])"
  )
  parts <- stringi::stri_match_first_regex(text, pattern)
  if (is.na(parts[1, 1])) return(text)
  large <- first_unit(parts[1, 3])
  small <- if (!is.na(parts[1, 5])) first_unit(parts[1, 5]) else if (large == 60) 1 else NA
  if (is.na(small) || small >= large) return(text)
  count <- round(as.numeric(parts[1, 2]) * large / small) + as.numeric(parts[1, 4])
  unit <- if (is.na(parts[1, 5])) "minutes" else parts[1, 5]
  stringi::stri_replace_first_regex(text, pattern, paste(count, unit))
}
