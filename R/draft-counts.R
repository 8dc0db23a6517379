# Labels that count: numbers, words for numbers, stars; and the codes that go with them.

# `1`, `2`, `3`, `4+`, `5 or more`, `more than 5`: the codes go with the numbers.
number_steps <- function(labels) {
  folded <- text_fold(labels)
  number <- text_to_number(sub(times_word, "", sub(or_more, "", folded)))
  zero <- folded %in% c(zero_words(), not_words)
  number[zero] <- 0
  bounded <- grepl(or_more, folded)
  beyond <- which(is.na(number))
  if (length(labels) < 3 || length(labels) > 15 && length(beyond) > 0) return(NULL)
  if (length(beyond) %in% 1:2) number[beyond] <- vapply(folded[beyond], next_number, 0)
  if (anyNA(number) || anyDuplicated(number) || !all(is_whole(number))) return(NULL)
  ends <- c(which(bounded), beyond)
  if (length(ends) == 0) return(if (any(zero) && !all(zero)) number)
  if (length(ends) > 2 || !all(ends %in% c(which.min(number), which.max(number))) ||
    any(bounded & number != max(number))) return(NULL)
  number
}

or_more <- paste0(
  "( ?\\+| (or|and) (more|over|above|older)| plus| ou plus| et plus| oder mehr| und mehr|",
  " o m\u00e1s| y m\u00e1s| ou mais| e mais| o pi\u00f9| of meer| en meer)$"
)

# Labels that are whole numbers keep them as codes, so that none stands for another; the rest of
# an order goes on from its neighbours. `0`, `1`, `2-5`, `6+` are 0, 1, 2, 3.
codes_in_order <- function(labels) {
  points <- points_of(labels)
  if (!is.null(points) && !is.unsorted(points, strictly = TRUE)) return(points)
  number <- numbers_of_labels(labels)
  plain <- which(!is.na(number))
  if (length(plain) == 0) return(seq_along(labels))
  codes <- number[plain[1]] - plain[1] + seq_along(labels)
  for (place in plain) codes[place:length(labels)] <- number[place] - place + place:length(labels)
  if (is.unsorted(codes, strictly = TRUE) || codes[1] < min(0L, number, na.rm = TRUE))
    return(seq_along(labels))
  as.integer(codes)
}

# `6/10` to `9/10`, `2 out of 5`: the points.
points_of <- function(labels) {
  parts <- stringi::stri_match_first_regex(
    text_fold(labels), "^([0-9]{1,3}) ?(?:/|out of|of|von|sur|de|su|van) ?([0-9]{1,3})$"
  )
  if (!anyNA(parts) && length(unique(parts[, 3])) == 1) as.integer(parts[, 2])
}

# `aucun`, `un`, `deux`, `trois ou plus` are 0 to 3: words that count are numbers as well.
codes_of_counts <- function(ordered, start) {
  count <- round(start)
  count[start == -1] <- 0
  last <- length(count)
  if (count[last] >= 1e300) count[last] <- count[last - 1] + 1
  # `Half a mile` is no count.
  parts <- is.finite(start) & abs(start - round(start)) > 0.01
  if (any(parts) || !all(diff(count) == 1) || !count[1] %in% 0:1) return(codes_in_order(ordered))
  count
}

# The same where there is no order: the rest comes after them.
codes_of_names <- function(labels) {
  natural <- natural_codes(labels)
  if (!is.null(natural)) return(natural)
  number <- numbers_of_labels(labels)
  # `4 or more` beside `3` and `Only child`.
  open <- which(is.na(number) & grepl(or_more, text_fold(labels)))
  if (length(open) == 1 && sum(!is.na(number)) >= 2) {
    from <- numbers_of_labels(sub(or_more, "", text_fold(labels[open])))
    if (isTRUE(from > max(number, na.rm = TRUE))) number[open] <- from
  }
  rest <- is.na(number)
  number[rest] <- beyond_numbers(max(0L, number, na.rm = TRUE)) + seq_len(sum(rest))
  number
}

# Behind 2019 no label is 2020, which would be another year.
beyond_numbers <- function(highest) {
  if (highest < 100L) return(highest)
  size <- 10^floor(log10(highest))
  as.integer(ceiling((highest + 1) / size) * size)
}

# Names that have an order of their own, which says nothing of more or less: months, days of the
# week, `Q1` to `Q4`, `I` to `IV`, `A` to `E`, `a) ...`, `Feb 2026`, seasons, parts of a day.
natural_codes <- function(labels) {
  if (length(labels) < 3) return(NULL)
  folded <- sub("[.]$", "", text_fold(labels))
  weekday <- order_words()$weekday
  counted <- stringi::stri_match_first_regex(folded, "^([^0-9]*[^0-9 -])[ -]?([0-9]{1,4})$")
  orders <- list(
    month = unname(month_words()[folded]), weekday = weekday$value[match(folded, weekday$word)],
    roman = match(folded, tolower(utils::as.roman(1:20))), letter = match(folded, letters),
    lettered = match(stringi::stri_match_first_regex(
      folded, "^[(]?([a-z])( ?[).:]| -) ?[^ ]{2}"
    )[, 2], letters),
    counted = ifelse(
      counted[, 2] %in% names(which.max(table(counted[, 2]))), as.integer(counted[, 3]), NA
    ),
    period = period_steps(folded), season = season_steps(folded), daytime = daytime_steps(folded),
    but_one = order_but_one(labels)
  )
  # Letters without a gap are a row, others short for something.
  for (kind in c("letter", "lettered")) {
    row <- orders[[kind]]
    if (!anyNA(row) && (min(row) > 1 || max(row) > length(row))) orders[[kind]] <- NA
  }
  # Only these are told from names where a label is not of them.
  loose <- c("month", "weekday", "counted", "season", "daytime", "but_one")
  for (kind in names(orders)) if (length(orders[[kind]]) == length(labels)) {
    out <- if (!anyNA(orders[[kind]]) || kind %in% loose) codes_with_rest(orders[[kind]])
    if (!is.null(out)) return(out)
  }
  NULL
}

season_steps <- function(folded) {
  words <- order_words()$season
  words$value[match(sub("^(in|im|en|au|in the) ", "", folded), words$word)]
}

daytime_steps <- function(folded) {
  words <- order_words()$daytime
  step <- words$value[match(sub("^(in|in the|at|around|at around|am) ", "", folded), words$word)]
  match(step, sort(unique(step)))
}

# `I joined later` beside `0-25%` to `76-100%`: quantities, all but one.
order_but_one <- function(labels) {
  if (length(labels) < 4 || length(labels) > 40) return(NULL)
  apart <- vapply(millions_told(text_fold(labels)), function(text) {
    quantity <- quantity_of(text)
    is.na(quantity$start) && quantity$more == 0
  }, TRUE)
  if (sum(apart) != 1) return(NULL)
  known <- learnt_order(labels[!apart])
  if (is.null(known) || known$name != "quantities in the words") return(NULL)
  match(labels, known$labels)
}

# Behind `Level 1` to `Level 3` stands `Not graded`; NULL where the rest is more than a third.
codes_with_rest <- function(order) {
  rest <- is.na(order)
  if (sum(!rest) < max(3, 2 * length(order) / 3) || anyDuplicated(order[!rest])) return(NULL)
  order[rest] <- max(order[!rest]) + seq_len(sum(rest))
  as.integer(order)
}

numbers_of_labels <- function(labels) {
  number <- text_to_number(labels)
  zero <- text_fold(labels) %in% zero_words()
  if (sum(zero) == 1 && !anyNA(number[!zero])) number[zero] <- 0
  number[!is_whole(number) | abs(number) > 9999 | number %in% number[duplicated(number)]] <- NA
  as.integer(number)
}

# `3x`, `3 times`.
times_word <- " ?(x|\u00d7|times?|mal|fois|veces|vez|vezes|volte|volta|keer)$"
not_words <- c("not at all", "gar nicht", "\u00fcberhaupt nicht", "pas du tout", "helemaal niet")

# `more than 5` is 6, `less than 1` is 0, `at least 5` is 5; NA for other words.
next_number <- function(folded) {
  folded <- number_in_words(folded)
  bound <- bound_of(plain_quantity(folded))
  if (bound == 0 || stringi::stri_count_regex(folded, "[0-9]+") != 1) return(NA_real_)
  number <- text_to_number(stringi::stri_extract_first_regex(folded, "[0-9]+"))
  beyond <- stringi::stri_detect_regex(folded, paste0(
    "^(more|greater|longer|less|fewer|shorter) than |^(over|above|under|below|\u00fcber|unter) |",
    "^[<>](?!=)|^(mehr|weniger) als |^(plus|moins) de |^(m\u00e1s|menos|mais) de |",
    "^(pi\u00f9|meno) di |^(meer|minder) dan "
  ))
  number + if (beyond) bound else 0
}

# 1 for what lies above its number, -1 below.
bound_of <- function(text) {
  words <- order_words()
  if (starts_or_ends(text, words$below)) return(-1)
  if (starts_or_ends(text, words$above) || grepl("[0-9] ?[a-z]* ?\\+$|^[>\u2265]", text)) return(1)
  if (grepl("^[<\u2264]", text)) -1 else 0
}

# So many of five stars or dots.
star_steps <- function(labels) {
  if (length(labels) < 3 || !all(stringi::stri_detect_regex(
    labels, "^[\u2605\u2606\u2729\u2b50\u25cf\u25cb]{1,10}$"
  ))) return(NULL)
  filled <- stringi::stri_count_charclass(labels, "[\u2605\u2b50\u25cf]")
  if (!anyDuplicated(filled)) filled
}

zero_words <- function() {
  table <- order_words()$number
  table$word[table$value == 0]
}

# `1/2`, `1 3/4`, `half a mile`, `less than a kilometre`: what they count, in digits.
counted_in_digits <- function(folded) {
  folded <- stringi::stri_trim_left(stringi::stri_replace_all_fixed(
    folded, c("\u00bd", "\u00bc", "\u00be"), c(" 1/2", " 1/4", " 3/4"), vectorize_all = FALSE
  ))
  part <- stringi::stri_match_first_regex(
    folded, "(?<![0-9/.,])(?:([0-9]+)(?: and)? )?([1-3])[/\u2044]([2-4])(?![0-9/\u2044])"
  )
  if (!is.na(part[1]) && as.numeric(part[3]) < as.numeric(part[4])) folded <- sub(
    part[1], number_to_text(sum(as.numeric(part[2]), as.numeric(part[3]) / as.numeric(part[4]),
    na.rm = TRUE)), folded, fixed = TRUE
  )
  unit <- "(?=mile|kil[o\u00f3]|m[e\u00e8]t[er]|block|pound|lit(re|er)|glass|cup|bottle|page)"
  of <- function(text, words, count) stringi::stri_replace_first_regex(
    text, paste0("(?<![\\p{L}])(?:", words, ") ", unit), paste0(count, " ")
  )
  folded <- sub("\\bd'(?=une? |[0-9])", "de ", folded, perl = TRUE)
  folded <- of(of(folded, "half (?:a|an|of a)|half", "0.5"), "(?:a )?quarter of (?:a|an)", "0.25")
  of(folded, "a|an|one|ein|eine|einen|einem|un|une|una|uno|um|uma|een", "1")
}
