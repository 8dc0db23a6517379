# Answer scales known by their words, whatever the order of appearance.

known_scales <- function() once_a_session("scales", function() read_scales("scales.txt"))

read_scales <- function(file) {
  lines <- word_lines(file)
  scales <- lapply(strsplit(lines, " < ", fixed = TRUE), function(steps) {
    words <- strsplit(steps, " | ", fixed = TRUE)
    with_names(rep(seq_along(words), lengths(words)), text_fold(unlist(words)))
  })
  with_names(scales, names(lines))
}

# The lines of a list of words, each named by what stands before its colon.
word_lines <- function(file) {
  lines <- readLines(system.file("draft", file, package = "mavik"), encoding = "UTF-8")
  lines <- lines[nzchar(lines) & !startsWith(lines, "#")]
  with_names(sub("^[^:]*: ", "", lines), sub(":.*", "", lines))
}

# The labels in the order of a scale from low to high, or NULL. A leading number
# says the order itself; else most labels must be words of one scale.
scale_order <- function(labels) {
  numbers <- numbers_beside(labels)
  if (length(labels) >= 3 && !is.null(numbers)) return(list(
    labels = labels[order(numbers)], codes = sort(numbers), name = "numbers beside the labels"
  ))
  ends <- ends_only(labels, bare_labels(labels))
  if (!is.null(ends)) return(ends)
  if (length(labels) < 3) return(NULL)
  # Questions of one block have the same list, each in an order of its own.
  lately("scale_order", sort(labels, method = "radix"), order_by_words, most = 50L)
}

order_by_words <- function(labels) {
  bare <- bare_labels(labels)
  known <- known_order(labels, bare)
  if (is.null(known)) known <- learnt_order(labels)
  if (is.null(known)) known <- known_order(labels, without_shared(bare))
  if (is.null(known)) known <- order_behind_yes(labels, bare)
  if (is.null(known)) known <- order_without_brackets(labels)
  known
}

# `No`, `Yes, sometimes`, `Yes, often`: how often, with a word for none in place of `No`.
order_behind_yes <- function(labels, bare) {
  yes <- "^(yes|ja|oui|s\u00ed|sim|s\u00ec)( ?[,;:-] ?| )(?=\\p{L})"
  no <- "^(no|nein|non|n\u00e3o|nee)(, ?|$)"
  said <- stringi::stri_detect_regex(bare, yes)
  if (sum(said) < 2 || sum(!said) != 1 || !grepl(no, bare[!said])) return(NULL)
  plain <- stringi::stri_replace_first_regex(bare, ifelse(said, yes, no), "")
  for (none in none_words) {
    known <- known_order(labels, ifelse(nzchar(plain), plain, none))
    if (!is.null(known)) return(known)
  }
  NULL
}

none_words <- c("never", "not at all", "none", "nie", "gar nicht", "jamais", "pas du tout", "nunca",
  "mai", "nooit")

bare_labels <- function(labels) text_fold(gsub(
  "^[0-9]+[ ]*[-.:=)][ ]*|^[[(][0-9]{1,2}[])][ ]*|[ ]*[[(][0-9]{1,2}[])]$", "",
  without_entities(labels)
))

scale_words <- function() once_a_session("scale_words", function() unique(unlist(
  lapply(known_scales(), names), use.names = FALSE
)))

either_words <- "^(.+?)(?: or | oder | ou | o |/)(.+)$"

# The words of a known scale, each step once. `Rarely or never` stands where the first of its
# words does.
known_order <- function(labels, bare) {
  first <- second <- bare
  open <- !bare %in% scale_words()
  if (any(open)) {
    parts <- stringi::stri_match_first_regex(bare[open], either_words)
    if (!all(parts[, 2:3] %in% scale_words())) return(NULL)
    first[open] <- parts[, 2]
    second[open] <- parts[, 3]
  }
  for (name in names(known_scales())) {
    scale <- known_scales()[[name]]
    step <- scale[first]
    if (any(open)) step[is.na(scale[second])] <- NA
    if (!anyNA(step) && !anyDuplicated(step)) return(list(
      labels = labels[order(step)], codes = seq_along(labels), name = sub(" .*", "", name)
    ))
  }
  NULL
}

# `none of them`, `most of them`: without the words that all or most labels share.
without_shared <- function(bare) {
  words <- strsplit(bare, " +")
  counts <- table(unlist(lapply(words, unique)))
  shared <- names(counts)[counts >= max(2, 0.6 * length(bare))]
  vapply(words, function(word) paste(setdiff(word, shared), collapse = " "), "")
}

# `1 = Never`, `(1) Never` or `Never [1]`, each another number; NULL where not all labels have one.
numbers_beside <- function(labels) {
  behind <- stringi::stri_match_first_regex(labels, "[^0-9\\s]\\s*[(\\[](-?[0-9]{1,2})[)\\]]$")[, 2]
  behind <- as.integer(behind)
  # Behind labels may stand counts.
  if (anyNA(behind) || max(behind) > 10 && any(diff(sort(behind)) != 1)) behind <- NA
  before <- stringi::stri_match_first_regex(
    labels, "^[(\\[](-?[0-9]{1,2})[)\\]]\\s*[^0-9\\s]"
  )[, 2]
  # `-1 Worse`, `0 Same`, `+1 Better`; without a sign such numbers may be counts.
  signed <- as.integer(stringi::stri_match_first_regex(
    sub("\u2212", "-", labels), "^\\s*([-+]?[0-9]{1,2})\\s+[^0-9\\s]"
  )[, 2])
  if (anyNA(signed) || min(signed) >= 0 || any(diff(sort(signed)) != 1)) signed <- NA
  for (numbers in list(leading_number(labels), as.integer(before), behind, signed))
    if (!anyNA(numbers) && !anyDuplicated(numbers)) return(numbers)
  spaced_codes(labels)
}

# `1 Never`, `2 Rarely`: no counts of one thing (`1 choir`, `2 choirs`), no quantities in another
# order than their numbers (`2 weeks`, `3 months`, `1 year`).
spaced_codes <- function(labels) {
  told <- stringi::stri_match_first_regex(labels, "^\\s*([0-9]{1,2}) +(\\p{L}.*)$")
  number <- as.integer(told[, 2])
  if (length(labels) < 2 || anyNA(number) || anyDuplicated(number)) return(NULL)
  rest <- text_fold(told[, 3])
  if (anyDuplicated(sub("(en|s|e)$", "", rest)) || any(of_quantities(rest))) return(NULL)
  place <- order(number)
  along <- function(step) !is.unsorted(step[place]) || !is.unsorted(rev(step[place]))
  known <- order_by_words(rest)
  step <- if (is.null(known)) quantity_steps(labels) else match(rest, known$labels)
  if (is.null(step) || along(step)) number
}

# Texts behind a number that make it a quantity: `weeks`, `to 10`, `or more`.
of_quantities <- function(folded) {
  words <- order_words()[c("unit", "above", "below")]
  begun <- c(
    unlist(lapply(words, `[[`, "padded")),
    padded(c("or", "oder", "ou", "to", "\u00e0", "time", "times", "mal", "fois", "km", "miles"))
  )
  vapply(padded(folded), function(text) any(startsWith(text, begun)), TRUE)
}

leading_number <- function(labels) {
  ends <- stringi::stri_match_first_regex(
    labels, "^\\s*(-?[0-9]{1,2})\\s*[-\\x{2013}.:=)]\\s*[^0-9\\s]"
  )[, 2]
  suppressWarnings(as.integer(ends))
}

# Numbers between two worded ends: `Not at all`, 2, 3, 4, `Completely`.
ends_only <- function(labels, bare) {
  number <- text_to_number(labels)
  inner <- sort(number[is_whole(number)])
  worded <- which(is.na(number))
  told <- leading_number(labels[worded])
  if (any(grepl("[0-9]", labels[worded])) && anyNA(told)) return(NULL)
  if (length(worded) != 2 || length(inner) < 1 || length(inner) != length(labels) - 2) return(NULL)
  ends <- if (anyNA(told)) ends_beside(inner) else sort(told)
  low <- ends[1]
  high <- ends[2]
  # A rating begins at 0 or 1; 77 between two words is no step.
  if (!low %in% 0:1 || high - low > 11 || length(inner) < min(2, high - low - 1)) return(NULL)
  if (min(inner) <= low || max(inner) >= high) return(NULL)
  if (high > 3 && length(inner) < 2) return(NULL)
  up <- if (anyNA(told)) is_upwards(bare[worded]) else told[1] < told[2]
  ordered <- labels[worded][if (isFALSE(up)) 2:1 else 1:2]
  list(
    labels = ordered, codes = c(low, high), range = c(low, high),
    name = paste0(
      "labelled ends", if (anyNA(told) && length(inner) < high - low - 1) paste0(", ", far_end),
      if (is.na(up)) paste0(", ", either_end)
    )
  )
}

# Said where nothing tells the low end, or how far the rating goes: a person has to look.
either_end <- "either of which may be the low one"
far_end <- "whose numbers are a guess as some between were never chosen"

# The ends go on from the numbers between them. Where some of these were never chosen, a rating
# up to 9 is one up to 10 rather.
ends_beside <- function(inner) {
  ends <- c(min(inner) - 1, max(inner) + 1)
  if (all(ends == c(0, 9)) && length(inner) < 8) c(0, 10) else ends
}

# Whether the first of two worded ends is the low one, by what is known of them; NA where
# nothing is.
is_upwards <- function(bare) {
  step <- vapply(known_scales(), function(scale) scale[bare], c(0L, 0L))
  known <- which(colSums(is.na(step)) == 0)
  if (length(known) > 0 && step[1, known[1]] != step[2, known[1]]) return(
    step[1, known[1]] < step[2, known[1]]
  )
  # `No pain` is below `Worst pain`.
  for (words in c(
    "^(not|no |none|never)",
    "^(very (bad|poor|low|un)|strongly disagree|extremely un|low|worst|least)"
  )) {
    low_word <- grepl(words, bare)
    if (low_word[1] != low_word[2]) return(low_word[1])
  }
  NA
}

# The words that stand for a missing reason, folded, each named by it.
missing_words <- function() once_a_session("missing_words", function() {
  lines <- word_lines("reasons.txt")
  words <- lapply(strsplit(unname(lines), " | ", fixed = TRUE), text_fold)
  with_names(unlist(words), rep(sub(" .*", "", names(lines)), lengths(words)))
})

missing_word <- function(cells) {
  # Among very many texts it is not looked for in parts of them, and few of them are folded.
  many <- length(cells) > 2000
  may <- if (many) which(may_be_missing(cells)) else seq_along(cells)
  folded <- text_fold(cells[may])
  word <- reason_of_word(folded)
  # `(no answer)`, `- refused -`
  set_off <- which(is.na(word) & stringi::stri_startswith_charclass(folded, "[(\\[\\{<*\\-]"))
  word[set_off] <- reason_of_word(stringi::stri_match_first_regex(
    folded[set_off], "^[(\\[{<*-]+ *(\\p{L}.*?) *[)\\]}>*-]+$"
  )[, 2])
  if (!many) {
    open <- which(is.na(word))
    word[open] <- reason_numbered(folded)[open]
    told <- which(is.na(word) & nchar(folded) <= 80)
    if (length(told) > 0) word[told] <- reason_explained(folded[told])
  }
  # Beside another middle it is no middle.
  none <- folded %in% order_words()$no_opinion$word
  if (any(none) && any(grepl(middle_words, text_fold(cells)))) word[none] <- "dont_know"
  replace(rep(NA_character_, length(cells)), may, word)
}

may_be_missing <- function(cells) {
  # `k. A.`, with whatever space.
  dotted <- which(stringi::stri_detect_fixed(cells, "."))
  spaced <- stringi::stri_detect_regex(cells[dotted], "[.]\\p{White_Space}")
  stringi::stri_startswith_charclass(cells, "[(\\[\\{<*\\-[:White_Space:][^\\u0000-\\u007F]]") |
    replace(logical(length(cells)), dotted, spaced) |
    fold_in(cells, c(missing_words(), order_words()$no_opinion$word))
}

# Where both ends are denied, whatever they are.
middle_words <- paste0("^(neither|neutral|weder|teils|ni .* ni |n\u00e9 .* n\u00e9 |nem .* nem |",
  "noch .* noch|niet .* niet |varken|hverken|verken|ani .* ani |ei .* eik\u00e4 )")

# `9 = No answer`, `[-1] Don't know`, `98 Don't know`. `3 - Not sure` among 1 to 5 is a step of
# their scale.
reason_numbered <- function(folded) {
  told <- stringi::stri_match_first_regex(
    folded, "^[(\\[]?(-?[0-9]{1,4})([)\\]]| ?[-\\x{2013}.:=]|(?= )) *(.{2,})$"
  )
  # Without a mark behind it a number is one of a list only where nearly all are like that.
  bare <- told[, 3] %in% ""
  if (!isTRUE(mean(bare) >= 0.8)) told[bare, ] <- NA
  number <- as.numeric(told[, 2])
  reason <- reason_of_word(told[, 4])
  highest <- max(0, number[is.na(reason)], na.rm = TRUE)
  ifelse(number <= 0 | number > highest, reason, NA_character_)
}

reason_of_word <- function(folded) {
  known <- missing_words()
  place <- match(folded, known)
  # `k. A.`
  short <- which(is.na(place) & nchar(folded) <= 8 & grepl(". ", folded, fixed = TRUE))
  place[short] <- match(gsub(". ", ".", folded[short], fixed = TRUE), known)
  names(known)[place]
}

# `N/A - I do not sing`, `Not applicable (no choir)`; `Don't know / no answer`, where all are such
# words, of which the first is taken. `DK - Denmark` and `NA: North America` are none.
reason_explained <- function(folded) {
  mark <- " +[-\u2013\u2014:/]+ +|: +| *[(/] *| (or|oder|ou|o|of) "
  begun <- stringi::stri_replace_first_regex(
    folded, "^(.{2,}?)( +[-\u2013\u2014]+ +|: +| *\\().*$", "$1"
  )
  first <- reason_of_word(begun)
  first[first %in% "no_answer" | grepl("^[a-z]{1,3}$", begun)] <- NA
  # `Not sure - leaning yes` and `Not sure - leaning no` are answers.
  first[begun %in% begun[duplicated(begun)]] <- NA
  parts <- stringi::stri_split_regex(stringi::stri_replace_all_regex(folded, "[)]$", ""), mark)
  same <- rep(NA_character_, length(folded))
  several <- which(lengths(parts) > 1)
  reasons <- split(reason_of_word(unlist(parts[several])), rep(several, lengths(parts[several])))
  same[several] <- vapply(reasons, function(reason) {
    if (anyNA(reason)) NA_character_ else reason[1]
  }, "")
  ifelse(is.na(first), same, first)
}
