# The order of answers, learnt from quantities in their words, from words of degree, from
# schooling; known scales come first (see `draft-scales`).

order_words <- function() once_a_session("order_words", function() {
  lines <- readLines(system.file("draft", "words.txt", package = "mavik"), encoding = "UTF-8")
  lines <- lines[nzchar(lines) & !startsWith(lines, "#")]
  key <- sub(":.*", "", lines)
  words <- lapply(strsplit(sub("^[^:]*: ", "", lines), " | ", fixed = TRUE), text_fold)
  kind <- sub(" .*", "", key)
  value <- suppressWarnings(as.numeric(sub("^[^ ]* ?", "", key)))
  of <- function(which) {
    at <- which(kind == which)
    texts <- unlist(words[at])
    out <- data.frame(word = texts, value = rep(value[at], lengths(words[at])))
    out$padded <- padded(out$word)
    out[order(-nchar(out$word)), ]
  }
  kinds <- unique(kind)
  lapply(with_names(kinds, kinds), of)
})

# As `scale_order()`: labels from low to high, their codes and the ground, or NULL.
learnt_order <- function(labels) {
  if (length(labels) > 40) return(NULL)
  grounds <- list(
    "numbers in the labels" = number_steps, "quantities in the words" = quantity_steps,
    "schooling" = schooling_steps, "words of degree" = degree_steps
  )
  for (ground in names(grounds)) {
    step <- grounds[[ground]](labels)
    if (is.null(step)) next
    codes <- if (ground == "numbers in the labels") sort(step) else seq_along(labels)
    return(list(labels = labels[order(step)], codes = as.integer(codes), name = ground))
  }
  NULL
}

# `1`, `2`, `3`, `4+`, `5 or more`: the codes go with the numbers.
number_steps <- function(labels) {
  folded <- text_fold(labels)
  open <- "( ?\\+| (or|and) (more|over|above|older)| plus| ou plus| et plus| oder mehr| o m\u00e1s)$"
  number <- text_to_number(sub(open, "", folded))
  bounded <- grepl(open, folded)
  if (
    length(labels) < 3 || anyNA(number) || anyDuplicated(number) || !all(is_whole(number)) ||
    sum(bounded) != 1 || which(bounded) != which.max(number)
  ) return(NULL)
  number
}

# ---- quantities ----

# Where each label begins, as a number; NULL where not all are quantities of one kind.
quantity_steps <- function(labels) {
  if (length(labels) < 3) return(NULL)
  read <- lapply(text_fold(labels), quantity_of)
  start <- vapply(read, `[[`, 0, "start")
  digits <- vapply(read, `[[`, TRUE, "told")
  # One label may say no more than `more often`.
  open <- which(is.na(start) & vapply(read, function(one) one$more != 0, TRUE))
  if (length(open) == 1) start[open] <- read[[open]]$more * Inf
  if (anyNA(start) || anyDuplicated(start) || mean(digits) < 0.5) return(NULL)
  before <- unique(vapply(read[digits], `[[`, "", "before"))
  # `Line 1`, `Line 2` are names.
  if (any(nzchar(before)) && !all(before %in% c(
    "", "grade", "level", "year", "class", "stage", "band", "group", "age", "aged", "tier", "form"
  ))) return(NULL)
  if (all(vapply(read[digits], `[[`, TRUE, "plain"))) return(NULL)
  start
}

# `start`, whether a number is told, the word before it, whether it is a bare number, and
# whether it says `more` (1) or `less` (-1) without one.
quantity_of <- function(folded) {
  words <- order_words()
  text <- plain_quantity(folded)
  rate <- first_word(text, words$rate)
  below <- starts_or_ends(text, words$below)
  above <- !below && (starts_or_ends(text, words$above) || grepl("[0-9] ?[a-z]* ?\\+$|^> ?=?", text))
  below <- below || grepl("^< ?=?", text)
  counted <- number_in_words(text)
  found <- stringi::stri_extract_all_regex(counted, "[0-9]+([.][0-9]+)?")[[1]]
  number <- as.numeric(found)
  none <- list(
    start = NA_real_, told = FALSE, before = "", plain = FALSE,
    more = if (text %in% words$more$word) 1 else if (text %in% words$less$word) -1 else 0
  )
  if (length(number) == 0 || is.na(number[1])) {
    if (is.na(rate)) return(none)
    number <- 1
  }
  zero <- number[1] == 0 && !grepl("[0-9]", text)
  unit <- if (is.na(rate)) first_unit(counted) else 1
  start <- number[1] * unit * (if (is.na(rate)) 1 else rate)
  if (is.na(rate) && is_feet(folded)) start <- feet_of(folded)
  nudge <- max(abs(start), 1) * 1e-6
  list(
    start = if (zero) -1 else if (below) start - nudge else if (above) start + nudge else start,
    told = TRUE, plain = !is.na(text_to_number(text)), more = 0,
    before = word_before(counted, words)
  )
}

# Without signs of money, marks of thousands, underscores and brackets; units stand apart.
plain_quantity <- function(folded) {
  folded <- stringi::stri_replace_first_regex(
    folded, "^[\\[(]([-+0-9.e]+), ?([-+0-9.e]+|inf)[\\])]$", "$1 - $2"
  )
  text <- stringi::stri_replace_all_regex(folded, "[\\p{Sc}]|(?<=[0-9]) ?(usd|eur|gbp|kr)\\b", " ")
  text <- stringi::stri_replace_all_regex(text, "[_\\[\\]()]|(?<=[a-z])[.](?= |$)", " ")
  text <- stringi::stri_replace_all_regex(text, "(?<=[0-9])[,.' ](?=[0-9]{3}(?![0-9]))", "")
  text <- stringi::stri_replace_all_regex(text, "(?<=[0-9]) ?k\\b", "000")
  text <- stringi::stri_replace_all_regex(text, "(?<=[0-9]) ?(m|million)\\b(?! ?(in|o))", "000000")
  text <- stringi::stri_replace_all_regex(text, "(?<=[0-9]),(?=[0-9])", ".")
  text <- stringi::stri_replace_all_regex(text, "(?<=[0-9])(?=[a-z])|(?<=[a-z])(?=[0-9])", " ")
  stringi::stri_trim_both(stringi::stri_replace_all_regex(text, " +", " "))
}

number_in_words <- function(text) {
  table <- order_words()$number
  if (grepl("[0-9]", text)) return(text)
  # `a few times a month`: what is counted comes before the period.
  table <- table[nchar(table$word) > 2, ]
  at <- which(words_in(text, table))[1]
  if (is.na(at)) text else swap_word(text, table$word[at], as.character(table$value[at]))
}

# Which words of a table stand in a text.
words_in <- function(text, table) stringi::stri_detect_fixed(padded(text), table$padded)

# Words between single spaces, so that a whole word is found without an expression.
padded <- function(text) paste0(
  " ", stringi::stri_trim_both(stringi::stri_replace_all_regex(text, "[^\\p{L}\\p{N}']+", " ")), " "
)

swap_word <- function(text, word, by) stringi::stri_replace_first_regex(
  text, paste0("(?<![\\p{L}\\p{N}])\\Q", word, "\\E(?![\\p{L}\\p{N}])"), by
)

# The value of the first word of a table that stands in a text; NA where none does.
first_word <- function(text, table) {
  table$value[which(words_in(text, table))[1]]
}

first_unit <- function(text) {
  table <- order_words()$unit
  place <- stringi::stri_locate_first_fixed(padded(text), table$padded)[, 1]
  if (all(is.na(place))) 1 else table$value[which.min(place)]
}

starts_or_ends <- function(text, table) {
  plain <- padded(text)
  any(startsWith(plain, table$padded) & plain != table$padded) ||
    any(endsWith(plain, table$padded) & plain != table$padded) ||
    any(words_in(text, table) & grepl(" ", table$word, fixed = TRUE))
}

# The word that stands right before the first number, where it says no bound.
word_before <- function(text, words) {
  lead <- stringi::stri_match_first_regex(text, "^([\\p{L} ]+?) ?[0-9]")[, 2]
  if (is.na(lead)) return("")
  for (at in which(words_in(lead, words$below))) lead <- swap_word(lead, words$below$word[at], " ")
  for (at in which(words_in(lead, words$above))) lead <- swap_word(lead, words$above$word[at], " ")
  lead <- setdiff(strsplit(lead, " ", fixed = TRUE)[[1]], c(
    "", words$light$word, words$number$word, words$degree$word, "only", "about", "around", "between", "entre", "von",
    "zwischen", "de", "da", "van", "tussen"
  ))
  paste(lead, collapse = " ")
}

is_feet <- function(folded) grepl("[0-9] ?(ft|feet|foot|')", folded)

feet_of <- function(folded) {
  found <- stringi::stri_match_first_regex(
    folded, "([0-9]+) ?(?:ft|feet|foot|')\\.? ?([0-9]+)?"
  )
  start <- 12 * as.numeric(found[, 2]) + ifelse(is.na(found[, 3]), 0, as.numeric(found[, 3]))
  if (grepl("^(under|below|less|<)", folded)) start - 0.01 else
    if (grepl("(over|above|more|taller|\\+)$", folded)) start + 0.01 else start
}

# ---- schooling ----

schooling_steps <- function(labels) {
  if (length(labels) < 3) return(NULL)
  folded <- gsub("[^[:alnum:]' ]", " ", text_fold(labels))
  step <- vapply(folded, function(text) first_word(
    stringi::stri_replace_all_regex(text, "\\b(school|schools)\\b", ""), schooling_table()
  ), 0)
  if (anyNA(step) || anyDuplicated(step) || length(unique(step > 0)) < 1 || max(step) < 3)
    return(NULL)
  unname(step)
}

schooling_table <- function() once_a_session("schooling", function() {
  table <- order_words()$schooling
  table$word <- stringi::stri_trim_both(stringi::stri_replace_all_regex(
    table$word, "\\b(school|schools)\\b", ""
  ))
  table <- table[nzchar(table$word), ]
  table$padded <- padded(table$word)
  table[order(-nchar(table$word)), ]
})

# ---- words of degree ----

# From the lowest to the highest, where all labels say how much of one thing.
degree_steps <- function(labels) {
  if (length(labels) < 3 || length(labels) > 11) return(NULL)
  folded <- gsub("[,;:.!/]", " ", gsub("\\([^)]*\\)", " ", text_fold(labels)))
  folded <- stringi::stri_trim_both(gsub(" +", " ", folded))
  read <- lapply(folded, degree_of)
  stems <- lapply(read, `[[`, "stem")
  poles <- poles_of(unique(unlist(stems)))
  if (is.null(poles)) return(NULL)
  step <- vapply(seq_along(read), function(at) step_of(read[[at]], poles), 0)
  if (anyNA(step) || anyDuplicated(step)) NULL else step
}

# The adverb of a label, whether it is denied, whether it is the middle, and what is left.
degree_of <- function(text) {
  words <- order_words()
  if (is_middle(text, words)) return(list(middle = TRUE, stem = character()))
  at <- which(words_in(text, words$degree))[1]
  weight <- words$degree$value[at]
  if (!is.na(at)) text <- swap_word(text, words$degree$word[at], " ")
  # `Not worried at all` is not at all.
  if (grepl("^(not|no) .* (at all)$", text)) {
    weight <- 0
    text <- sub("^(not|no) (.*) at all$", "\\2", text)
  }
  left <- strsplit(stringi::stri_trim_both(text), " +")[[1]]
  denied <- left %in% words$no$word
  stem <- setdiff(left[!denied], c(words$light$word, ""))
  list(
    middle = FALSE, weight = weight, denied = any(denied), stem = stem,
    bare = length(stem) == 0
  )
}

is_middle <- function(text, words) {
  plain <- sub(
    "^(it is|is|are|i am|stay|stays|stayed|remain|remains|remained) ", "",
    sub("^about the ", "the ", text)
  )
  any(c(text, plain) %in% words$middle$word) ||
    grepl("^(neither|weder|ni|n\u00e9|nem|noch|neither) .* (nor|noch|ni|n\u00e9|nem) ", text) ||
    grepl("^(not|no) .* not ", text) || grepl("neutral|undecided", text)
}

# Which stems stand for the low and which for the high end; NULL where they are of
# several things.
poles_of <- function(stems) {
  if (length(stems) == 0) return(list(high = character(), low = character()))
  pairs <- opposite_pairs()
  high <- low <- character()
  for (at in seq_len(nrow(pairs))) if (pairs$high[at] %in% stems && pairs$low[at] %in% stems) {
    high <- pairs$high[at]
    low <- pairs$low[at]
    break
  }
  if (length(high) == 0) for (stem in stems) {
    turned <- intersect(paste0(c("un", "dis", "in", "im", "ir", "non", "on", "des", "m\u00e9"), stem), stems)
    if (length(turned) > 0) {
      high <- stem
      low <- turned[1]
      break
    }
  }
  rest <- setdiff(stems, c(high, low))
  if (length(high) > 0) return(if (length(rest) == 0) list(high = high, low = low))
  # One thing only, told by one word or the same ones each time.
  if (length(stems) == 1) {
    known <- which(pairs$low == stems)
    return(if (length(known) > 0) list(high = character(), low = stems, one = TRUE) else
      list(high = stems, low = character()))
  }
  NULL
}

opposite_pairs <- function() once_a_session("opposites", function() {
  lines <- readLines(system.file("draft", "words.txt", package = "mavik"), encoding = "UTF-8")
  pairs <- strsplit(sub("^opposites: ", "", grep("^opposites: ", lines, value = TRUE)), " | ",
    fixed = TRUE)[[1]]
  parts <- strsplit(pairs, " ", fixed = TRUE)
  data.frame(high = vapply(parts, `[`, "", 1), low = vapply(parts, `[`, "", 2))
})

step_of <- function(one, poles) {
  if (one$middle) return(0)
  weight <- if (is.na(one$weight)) 4 else one$weight
  # A list of one word that is itself the low end rises with it.
  low <- any(one$stem %in% poles$low) && !isTRUE(poles$one)
  if (one$bare && is.na(one$weight)) return(if (one$denied) -6.5 else NA_real_)
  if (weight == 0) return(if (low) 6.5 else -6.5)
  step <- if (low) -weight else weight
  if (one$denied) step <- if (is.na(one$weight)) -4.2 * sign(step) else -step
  step
}
