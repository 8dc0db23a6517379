# The order of answers, learnt from quantities in their words, from words of degree, from
# schooling; known scales come first (see `draft-scales`).

order_words <- function() once_a_session("order_words", function() {
  lines <- word_lines("words.txt")
  key <- names(lines)
  words <- lapply(strsplit(unname(lines), " | ", fixed = TRUE), text_fold)
  kind <- sub(" .*", "", key)
  value <- suppressWarnings(as.numeric(sub("^[^ ]* ?", "", key)))
  of <- function(which) {
    places <- which(kind == which)
    texts <- unlist(words[places])
    out <- data.frame(word = texts, value = rep(value[places], lengths(words[places])))
    out$padded <- padded(out$word)
    out[order(-nchar(out$word)), ]
  }
  kinds <- unique(kind)
  lapply(with_names(kinds, kinds), of)
})

# As `scale_order()`: labels from low to high, their codes and the ground, or NULL.
learnt_order <- function(labels) {
  # `01` beside `2A` are signs.
  if (length(labels) > 40 || any(grepl("^0[0-9]+$", labels))) return(NULL)
  # `02/2026` comes behind `11/2025`, and is no more.
  if (!is.null(period_steps(text_fold(labels)))) return(NULL)
  grounds <- list(
    "times of day" = clock_steps, "numbers in the labels" = number_steps, "stars" = star_steps,
    "quantities in the words" = quantity_steps, "schooling" = schooling_steps,
    "words of degree" = degree_steps, "letters for words of degree" = letter_steps
  )
  for (ground in names(grounds)) {
    step <- grounds[[ground]](labels)
    if (is.null(step)) next
    ordered <- labels[order(step)]
    codes <- if (ground %in% c("numbers in the labels", "stars")) sort(step) else
      if (ground == "quantities in the words") codes_of_counts(ordered, sort(step)) else
      codes_in_order(ordered)
    return(list(labels = ordered, codes = as.integer(codes), name = ground))
  }
  NULL
}

# ---- quantities ----

# Where each label begins, as a number; NULL where not all are quantities of one kind.
quantity_steps <- function(labels) {
  if (length(labels) < 3) return(NULL)
  folded <- millions_told(text_fold(labels))
  if (are_measured_apart(folded)) return(NULL)
  read <- list()
  silent <- 0
  for (text in folded) {
    quantity <- quantity_of(text)
    silent <- silent + (is.na(quantity$start) && quantity$more == 0)
    if (silent > 0) return(NULL)
    read <- c(read, list(quantity))
  }
  start <- vapply(read, `[[`, 0, "start")
  rated <- vapply(read, `[[`, TRUE, "rated")
  # Beside `1-2 days` and `5-6 days`, `every day` is all of them.
  daily <- which(rated & grepl(every_day, folded))
  if (sum(rated) == 1 && length(daily) == 1) {
    start[daily] <- Inf
    rated[daily] <- FALSE
  }
  # How often and how long are of two kinds.
  if (any(rated) && any(vapply(read, `[[`, TRUE, "spans"))) return(NULL)
  digits <- vapply(read, `[[`, TRUE, "told")
  # One label may say no more than `more often`.
  open <- which(is.na(start) & vapply(read, function(wording) wording$more != 0, TRUE))
  if (length(open) == 1) start[open] <- if (read[[open]]$more > 0) 1e300 else
    if (any(start == -1, na.rm = TRUE)) min(start[start > 0], na.rm = TRUE) / 2 else -Inf
  # What never was is longest ago.
  never <- grepl("^(i have |noch )?(never|nie|jamais|nunca|mai|nooit)( |$)", folded)
  since <- stringi::stri_detect_regex(folded, long_ago) | !is.na(time_ago(folded))
  if (any(since)) start[start == -1 & never] <- Inf
  if (anyNA(start) || anyDuplicated(start) || mean(digits) < 0.5) return(NULL)
  before <- unique(vapply(read[digits], `[[`, "", "before"))
  # `Line 1`, `Line 2` are names.
  if (any(nzchar(before)) && !all(before %in% c(
    "", "grade", "level", "year", "class", "stage", "band", "group", "age", "aged", "tier", "form"
  ))) return(NULL)
  if (all(vapply(read[digits], `[[`, TRUE, "plain"))) return(NULL)
  start
}

# Beside sums and thousands `m` stands for a million, elsewhere for a metre.
millions_told <- function(folded) {
  sums <- grepl("\\p{Sc}|\\b(usd|eur|gbp|chf|cad|aud)\\b|[0-9] ?k\\b", folded, perl = TRUE)
  if (any(sums)) gsub("([0-9]) ?m\\b", "\\1 million", folded) else folded
}

seldom_words <- c("rarely", "very rarely", "seldom", "hardly ever", "almost never", "selten",
  "sehr selten", "fast nie", "rarement", "presque jamais", "rara vez", "casi nunca", "raramente",
  "quasi mai", "quase nunca", "zelden", "bijna nooit")
alone_words <- c("just me", "only me", "just myself", "on my own", "alone", "by myself",
  "i live alone", "nobody else", "no one else", "none of them")
not_lately <- "^not (once )?(in|within|during|over) the (last|past) "

# `Today`, `last week`: how long ago, in minutes.
time_ago <- function(folded) {
  words <- order_words()$ago
  said <- sub("^(in|within|during|earlier|at some point|sometime) ", "", folded)
  words$value[match(said, words$word)]
}

every_day <- paste0("^(every day|each day|all days|daily|t\u00e4glich|jeden tag|tous les jours|",
  "chaque jour|todos los d\u00edas|cada d\u00eda|ogni giorno|tutti i giorni|elke dag|dagelijks)$")
long_ago <- paste0("\\bago$|^(in|within|during) the (last|past) |^il y a |^vor |^hace | fa$|",
  " geleden$")

# `1.82 m`, `5 ft 4`, `170 cm`: measures that no one scale has.
are_measured_apart <- function(folded) {
  unit <- stringi::stri_match_first_regex(folded, paste0(
    "[0-9] ?(mm|cm|m|km|miles?|in|inches|inch|ft|feet|foot|'|kg|kilos?|g|lbs?|st|stones?)",
    "(?![a-z])"
  ))[, 2]
  systems <- c(mile = "miles", `in` = "in", inch = "in", inches = "in", ft = "ft", feet = "ft",
    foot = "ft", `'` = "ft", kilo = "kg", kilos = "kg", lb = "lbs", stone = "st", stones = "st")
  known <- systems[unit]
  unit[!is.na(known)] <- known[!is.na(known)]
  length(unique(unit[!is.na(unit)])) > 1
}

# `start`, whether a number is told, the word before it, whether it is a bare number, whether
# it says `more` (1) or `less` (-1) without one, how often, or how long.
quantity_of <- function(folded) lately_of("quantities", paste0("=", folded), folded, read_quantity)

read_quantity <- function(folded) {
  words <- order_words()
  text <- plain_spans(plain_quantity(folded))
  every <- every_few(text)
  rate <- if (is.na(every)) first_word(text, words$rate) else every
  bound <- bound_of(text)
  counted <- number_in_words(text)
  digits <- stringi::stri_extract_all_regex(counted, "[0-9]+([.][0-9]+)?")[[1]]
  number <- as.numeric(digits)
  if (!is.na(every)) number <- 1
  none <- list(
    start = NA_real_, told = FALSE, before = "", plain = FALSE, rated = FALSE, spans = FALSE,
    more = if (text %in% words$more$word) 1 else if (text %in% words$less$word) -1 else 0
  )
  if (text %in% alone_words || grepl(not_lately, folded)) return(replace(
    none, c("start", "told"), list(-1, TRUE)
  ))
  since <- time_ago(folded)
  if (!is.na(since)) return(replace(none, c("start", "told"), list(since, TRUE)))
  # Among rates it is the lowest of them.
  if (text %in% seldom_words) return(replace(none, "start", 0.1))
  if (text %in% free_words) return(replace(none, c("start", "told"), list(-1, TRUE)))
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
    start = if (zero) -1 else start + bound * nudge,
    told = TRUE, plain = !is.na(text_to_number(folded)), more = 0,
    rated = !is.na(rate), spans = is.na(rate) && grepl(span_words()$unit, counted, perl = TRUE),
    before = if (is.na(every)) word_before(counted, words) else ""
  )
}

# `Every week`, `every few years`, `alle 2 Wochen`: how often in a year.
every_few <- function(text) {
  parts <- stringi::stri_match_first_regex(text, every_words())
  if (is.na(parts[1, 1])) return(NA_real_)
  count <- text_to_number(parts[1, 2])
  if (is.na(parts[1, 2])) count <- 1
  if (is.na(count)) count <- if (parts[1, 2] %in% c("few", "paar")) 3 else
    if (parts[1, 2] %in% c("three", "drei", "trois", "tres", "tre", "drie", "tr\u00eas")) 3 else 2
  525600 / first_unit(parts[1, 3]) / count
}

every_words <- function() once_a_session("every_words", function() {
  unit <- order_words()$unit
  unit <- unit$word[unit$value >= 1440]
  paste0(
    "(?<![\\p{L}])(?:every|each|alle|jede[nrsm]?|chaque|tous les|toutes les|cada|todos los|",
    "todas las|ogni|tutti i|tutte le|elke|iedere|om de) (?:(few|couple of|other|[0-9]+|two|three|",
    "paar|zwei|drei|deux|trois|dos|tres|due|tre|twee|drie|duas|dois|tr\u00eas) )?(",
    paste(unit[order(-nchar(unit))], collapse = "|"), ")(?![\\p{L}])"
  )
})

# Without signs of money, marks of thousands, underscores and brackets; units stand apart.
plain_quantity <- function(folded) {
  folded <- stringi::stri_replace_first_regex(
    folded, "^[\\[(]([-+0-9.e]+), ?([-+0-9.e]+|inf)[\\])]$", "$1 - $2"
  )
  folded <- counted_in_digits(folded)
  text <- stringi::stri_replace_all_regex(folded, paste0(
    "[\\p{Sc}]|(?<=[0-9]) ?(usd|eur|gbp|chf|kr)\\b|\\b(usd|eur|gbp|chf|cad|aud|kr) ?(?=[0-9])"
  ), " ")
  text <- stringi::stri_replace_all_regex(text, "[_\\[\\]()]|(?<=[a-z])[.](?= |$)", " ")
  text <- stringi::stri_replace_all_regex(text, "(?<=[0-9])[,.' ](?=[0-9]{3}(?![0-9]))", "")
  text <- stringi::stri_replace_all_regex(text, "(?<=[0-9]),(?=[0-9])", ".")
  text <- multiplied(multiplied(text, "k", 1e3), "(?:millions?|mio|mn)", 1e6)
  text <- stringi::stri_replace_all_regex(text, "(?<=[0-9])(?=[a-z])|(?<=[a-z])(?=[0-9])", " ")
  stringi::stri_trim_both(stringi::stri_replace_all_regex(text, " +", " "))
}

# `1.5k` is 1500, `1 to 2k` 1000 to 2000, and `500 to 1k` 500 to 1000.
multiplied <- function(text, word, by) {
  amount <- "([0-9]+(?:[.][0-9]+)?)"
  span <- stringi::stri_match_first_regex(text, paste0(
    amount, " ?(?:-|\u2013|to|and|bis|und|\u00e0|a|y|e) ?", amount, " ?", word, "(?![a-z])"
  ))
  if (isTRUE(as.numeric(span[2]) < as.numeric(span[3]))) text <- sub(
    span[2], number_to_text(by * as.numeric(span[2])), text, fixed = TRUE
  )
  counted <- paste0(amount, "(?= ?", word, "(?![a-z]))")
  for (number in stringi::stri_extract_all_regex(text, counted, omit_no_match = TRUE)[[1]]) {
    text <- stringi::stri_replace_first_regex(
      text, paste0("\\b\\Q", number, "\\E ?", word, "(?![a-z])"),
      number_to_text(by * as.numeric(number))
    )
  }
  text
}

number_in_words <- function(text) {
  table <- order_words()$number
  if (grepl("[0-9]", text)) return(text)
  # `a few times a month`: what is counted comes before the period.
  # `No children` are none.
  text <- sub(paste0(
    "^(no|kein|keine|keinen|aucun|aucune|ning\u00fan|ninguna|nessun|nessuna|geen) "
  ), "0 ", text)
  if (startsWith(text, "0 ")) return(text)
  table <- table[nchar(table$word) > 2 | table$word == text, ]
  places <- which(words_in(text, table))[1]
  if (is.na(places)) text else swap_word(
    text, table$word[places], as.character(table$value[places]))
}

# Which words of a table stand in a text.
words_in <- function(text, table) stringi::stri_detect_fixed(padded(text), table$padded)

# Words between single spaces, so that a whole word is found without an expression.
padded <- function(text) {
  words <- if (all(stringi::stri_enc_isascii(text) %in% TRUE)) gsub(
    "[^A-Za-z0-9']+", " ", text, perl = TRUE
  ) else stringi::stri_replace_all_regex(text, "[^\\p{L}\\p{N}']+", " ")
  paste0(" ", stringi::stri_trim_both(words), " ")
}

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
  for (k in which(words_in(lead, words$below))) lead <- swap_word(lead, words$below$word[k], " ")
  for (k in which(words_in(lead, words$above))) lead <- swap_word(lead, words$above$word[k], " ")
  lead <- setdiff(strsplit(lead, " ", fixed = TRUE)[[1]], c(
    "", words$light$word, words$number$word, words$degree$word, "only", "about", "around",
    "between", "entre", "von",
    "zwischen", "de", "da", "van", "tussen"
  ))
  paste(lead, collapse = " ")
}

is_feet <- function(folded) grepl("[0-9] ?(ft|feet|foot|')", folded)

feet_of <- function(folded) {
  parts <- stringi::stri_match_first_regex(
    folded, "([0-9]+) ?(?:ft|feet|foot|')\\.? ?([0-9]+)?"
  )
  start <- 12 * as.numeric(parts[, 2]) + ifelse(is.na(parts[, 3]), 0, as.numeric(parts[, 3]))
  if (grepl("^(under|below|less|<)", folded)) start - 0.01 else
    if (grepl("(over|above|more|taller|\\+)$", folded)) start + 0.01 else start
}
