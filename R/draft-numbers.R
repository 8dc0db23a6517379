# Drafted entries of numbers: range, odd cells, numbers that look like a missing code.

number_lines <- function(profile, entry, seen) {
  if (!is.null(profile$ranks)) return(entry(
    level = "ordinal", range = paste0("[1, ", profile$ranks, "]"),
    note = paste("ranks:", count_of(profile$ranks, "question"), "of one stem hold 1 to",
      profile$ranks)
  ))
  if (!is.null(profile$unit)) return(unit_lines(profile, entry))
  if (!is.null(profile$told)) return(told_lines(profile, entry, seen))
  if (!is.null(profile$rating)) return(rating_lines(profile, entry))
  if (is_two_valued(profile)) return(two_valued_lines(profile, entry, seen))
  if (is_stepped(profile) || (seen$cells == "codes" && is_code_like(profile)))
    return(bare_codes(profile, entry))
  decimal <- decimal_of(seen$form)
  profile <- with_meant(profile, decimal)
  range <- number_range(profile, decimal)
  c(
    entry(
      level = if (isTRUE(range$years)) "interval" else "ratio", range = range$text,
      variants = number_variants(profile), missing = number_missing(profile),
      note = paste0(profile$grounds, far_counts(profile), doubtful_counts(profile))
    ),
    if (length(range$outside) > 0) paste0(
      "    # outside the range, which is a guess: ",
      comment_text(paste(range$outside, collapse = ", "))
    ),
    if (length(range$unusual) > 0) paste0(
      "    # far from the others, and inside the range: ",
      comment_text(paste(range$unusual, collapse = ", "))
    ),
    profile$unread, span_lines(profile, decimal),
    odd_lines(profile, "    ", number_rest(profile))
  )
}

# What odd cells mean as numbers. A build reads one decimal mark in a file: `2,5` among points is a
# variant of 2.5.
with_meant <- function(profile, decimal) {
  cells <- profile$cells[is.na(profile$cells$gap), c("text", "count")]
  number <- text_to_number(cells$text, decimal)
  odd <- cells[is.na(number), ]
  odd$meant <- number_meant(odd$text)
  other <- which(!is.na(in_other_mark(odd$text)))
  if (length(other) > 101) {
    profile$unread <- paste0("    # left as findings: \u201c", odd$text[other[1]], "\u201d and ",
      length(other) - 1, " different more; the file's decimal mark is a ", decimal)
    odd <- odd[-other, ]
  } else if (!may_be_joined(odd$text[other], number)) {
    odd$meant[other] <- in_other_mark(odd$text[other])
  }
  profile$odd <- odd
  profile
}

# `1,3` among whole numbers may be the two answers 1 and 3.
may_be_joined <- function(texts, number) {
  number <- number[!is.na(number)]
  parts <- as.numeric(unlist(strsplit(texts, "[.,]")))
  all(is_whole(number)) && all(parts %in% number)
}

# Of three digits behind a mark nobody can say what they are.
in_other_mark <- function(texts) {
  marked <- grepl("^-?[0-9]*[.,]([0-9]{1,2}|[0-9]{4,})$", texts)
  suppressWarnings(as.numeric(ifelse(marked, chartr(",", ".", texts), NA)))
}

# Spans are proposed to be read, never read by a draft.
span_lines <- function(column, decimal) {
  rest <- number_rest(column)
  spans <- rest[!is.na(text_to_span(text_fold(rest$text), "middle", decimal)), ]
  if (nrow(spans) == 0) return(NULL)
  paste0("    # typed as spans: ", comment_text(paste0(
    "\u201c", spans$text, "\u201d (", spans$count, ")", collapse = ", "
  )), "; `spans: middle` (or `lower`) would read them")
}

# Round bounds around the bulk of the answers; what lies far off is named.
number_range <- function(column, decimal) {
  number <- text_to_number(column$cells$text, decimal)
  meant <- column$odd$meant[match(column$cells$text, column$odd$text)]
  number <- ifelse(is.na(number), meant, number)
  keep <- !is.na(number) & !number %in% far_numbers(column)$number
  # `05` among years is none of the year 5.
  short <- keep & number <= 99 & are_years_besides(number[keep], column$cells$count[keep])
  keep <- keep & !short
  value <- number[keep]
  count <- column$cells$count[keep]
  if (length(value) < 2 || min(value) < 0) return(NULL)
  order <- order(value)
  reached <- cumsum(count[order]) / sum(count)
  middle <- function(share) value[order][which(reached >= share)[1]]
  years <- all(is_whole(value)) && middle(0.05) >= 1880 && middle(0.95) <= 2100
  high <- middle(0.95)
  far <- if (years) value < middle(0.05) - 60 | value > high + 5 else value > 4 * max(high, 1)
  impossible <- value < 1800 | value > high + 20
  if (sum(count[far]) > 0.02 * sum(count)) far[] <- FALSE
  # What the unit rules out lies outside; what is only far from the others does not.
  most <- most_of_unit(column)
  beyond <- far & if (years) impossible else value > most
  unusual <- far & !beyond
  far <- beyond
  top <- max(value[!far])
  text <-
    if (years) paste0("[", 10 * floor(min(value[!far]) / 10), ", ", number_to_text(top), "]") else
      paste0("[0, ", number_to_text(round_up(top)), "]")
  list(
    text = text, years = years,
    unusual = paste0(
      number_to_text(value[unusual]), " (", grouped(count[unusual]), ")", recycle0 = TRUE
    ),
    outside = paste0(
      number_to_text(c(value[far], number[short])), " (",
      grouped(c(count[far], column$cells$count[short])), ")", recycle0 = TRUE
    )
  )
}

# Whether nearly all are years, and the others have two digits at most.
are_years_besides <- function(number, count) {
  years <- number >= 1880 & number <= 2100
  all(is_whole(number)) && weighted_share(years, count) >= 0.8 && all(number[!years] %in% 0:99)
}

# The most that a unit allows, by the wording: percent, years of a life.
most_of_unit <- function(column) {
  said <- text_fold(paste(column$name, column$question))
  percent <- "%|\\bper ?cent|prozent|pour ?cent|por ?ciento|percentage|\\bshare of"
  if (grepl(percent, said)) return(100)
  if (grepl(paste0(
    "\\b(age|years?|alter|jahre|\u00e2ge|ans|ann\u00e9es|edad|a\u00f1os|idade|anos|et\u00e0|anni|",
    "leeftijd|jaar)\\b"
  ), said)) return(120)
  Inf
}

# 1, 2 or 5 times a power of ten.
round_up <- function(x) {
  if (x <= 0) return(1)
  steps <- c(1, 2, 5, 10) * 10^floor(log10(x))
  steps[steps >= x][1]
}

# A few small whole numbers in a file of codes: codes whose labels are not here.
is_code_like <- function(column) {
  number <- setdiff(text_to_number(column$cells$text), far_numbers(column)$number)
  !is_counted(column) && all(is_whole(number)) && length(number) %in% 1:11 && min(number) >= 0 &&
    max(number) <= 99
}

# 0 and 1, 1 and 2: one of two, whatever they stand for.
is_two_valued <- function(column) {
  number <- own_numbers(column)
  !is_counted(column) && length(number) == 2 && !anyNA(number) &&
    (setequal(number, 0:1) || setequal(number, 1:2))
}

two_valued_lines <- function(column, entry, seen) {
  number <- sort(own_numbers(column))
  labels <- if (number[1] == 0) c("No", "Yes") else c("First", "Second")
  entry(
    level = "nominal", codes = codes_text(list(codes = number, labels = labels)),
    cells = if (seen$cells != "codes") "codes", missing = number_missing(column),
    note = paste0(
      "codes without labels: the words are a guess, say what they mean; ", column$grounds,
      far_counts(column)
    )
  )
}

# Every step from 1 up, and no count by its wording: codes whose labels are not here.
is_stepped <- function(column) {
  number <- own_numbers(column)
  !anyNA(number) && !is_counted(column) && length(number) >= 3 && length(number) <= 12 &&
    setequal(number, seq_along(number))
}

bare_codes <- function(column, entry) {
  number <- setdiff(sort(text_to_number(column$cells$text)), far_numbers(column)$number)
  apart <- number[c(FALSE, diff(number) > 2)]
  entry(
    level = "ordinal",
    range = paste0("[", paste(number_to_text(range(number)), collapse = ", "), "]"),
    missing = number_missing(column),
    note = paste0(
      "codes without labels: say what they mean under `codes`", if (length(apart) > 0) paste0(
        "; ", number_to_text(apart[1]), " stands apart: a missing code?"
      ), far_counts(column)
    )
  )
}

number_words <- c(
  "zero", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven",
  "twelve", "none"
)

# Numbers as words or with a unit behind: what the text means, or NA.
number_meant <- function(text) {
  folded <- text_fold(text)
  word <- match(folded, number_words) - 1
  word[folded == "none"] <- 0
  unit <- text_to_number(stringi::stri_match_first_regex(
    folded,
    paste0(
      "^([0-9]+([.][0-9]+)?) ?(years?|yrs?|months?|weeks?|days?|hours?|hrs?|minutes?|mins?|",
      "times?|people|km|kg|cm|%)$"
    )
  )[, 2])
  ifelse(is.na(word), unit, word)
}

number_variants <- function(column) {
  meant <- column$odd$meant
  if (all(is.na(meant))) return(NULL)
  value <- number_to_text(meant[!is.na(meant)])
  forms_text(split(column$odd$text[!is.na(meant)], factor(value, unique(value))))
}

number_rest <- function(column) column$odd[is.na(column$odd$meant), ]

# An entry with the gaps that the column's labels name beside those that its answers suggest.
with_own_gaps <- function(entry, profile) function(..., missing = NULL, note = profile$grounds) {
  names <- union(names(profile$missing), names(missing))
  gaps <- lapply(with_names(names, names),
    function(name) c(profile$missing[[name]], missing[[name]]))
  entry(..., missing = if (length(gaps) > 0) forms_text(lapply(gaps, number_to_text)),
    note = paste0(note, profile$left_out))
}
