# What each column of an export seems to hold, with the grounds for it. Works on
# distinct cells and their counts only.

column_kinds <- c(
  "key", "response", "identifier", "paradata", "personal", "scale", "choice", "several",
  "ticks", "number",
  "date", "text", "constant", "empty"
)

profile_export <- function(export) {
  signs <- heading_signs(
    export$names, unlist(export$questions, use.names = FALSE), export$marks
  )
  profiles <- lapply(seq_along(export$columns), function(k) {
    signal_progress("look", export$names[k], k, length(export$columns))
    profile_column(
      export$columns[[k]], export$names[k], export$questions[[k]], export$records,
      signs_of(signs, k)
    )
  })
  names(profiles) <- export$names
  choose_key(profiles, export)
}

# Looked at again within a session, a column of few and short cells is as it was.
profile_column <- function(column, name, question, records, sign) {
  counts <- occurrences(column)
  profile <- function(...) profile_cells(column, counts, name, question, records, sign)
  cells <- column$cells
  if (length(cells) > 500 || sum(nchar(cells, "bytes"), na.rm = TRUE) > 2^16) return(profile())
  lately_of("profiles", paste0("column ", name), list(
    column[names(column) != "index"], counts, name, question, records, sign
  ), profile, most = 3L, many = 400L)
}

profile_cells <- function(column, counts, name, question, records, sign) {
  text <- text_trim(column$cells)
  full <- nzchar(text) & counts > 0
  order <- order(-counts[full])
  cells <- new_frame(text = text[full][order], count = counts[full][order])
  # Cells are different; trimmed they may be no longer.
  if (!identical(text, column$cells)) cells <- merge_counts(cells)
  cells$gap <- missing_word(cells$text)
  answers <- cells[is.na(cells$gap), ]
  profile <- list(
    name = name, question = question, records = records, filled = sum(cells$count),
    distinct = nrow(cells), cells = cells,
    unique = nrow(cells) == sum(cells$count) && nrow(cells) > 1
  )
  kind <- kind_of(profile, answers, sign)
  c(profile, if (is.null(column$levels)) kind else kind_of_levels(column, kind))
}

# A factor says itself which answers there are, and in which order.
kind_of_levels <- function(column, kind) {
  levels <- enc2utf8(column$levels)
  levels <- levels[nzchar(text_trim(levels)) & is.na(missing_word(levels))]
  if (kind$kind %in% c("personal", "paradata", "empty") || length(levels) < 2 ||
    length(levels) > 250 || anyDuplicated(text_fold(levels))) return(kind)
  known <- scale_order(levels)
  ordered <- column$ordered || (!is.null(known) && is.null(known$range))
  if (!column$ordered && ordered) levels <- known$labels
  list(
    kind = if (ordered) "scale" else "choice", scale = levels, codes = seq_along(levels),
    grounds = paste0(
      count_of(length(levels), "level"), " of a factor",
      if (column$ordered) ", in its order" else if (ordered) paste0(", ordered by ", known$name)
    )
  )
}

merge_counts <- function(cells) {
  if (!anyDuplicated(cells$text)) return(cells)
  total <- rowsum(cells$count, factor(cells$text, unique(cells$text)))
  data.frame(text = unique(cells$text), count = as.integer(total))
}

# The first that fits, each with its grounds.
kind_of <- function(profile, answers, sign) {
  if (nrow(answers) == 0 && !sign$person) return(nobody_answered(profile))
  if (is_personal(sign, answers)) return(list(
    kind = "personal", grounds = "its heading or its cells look like personal data"
  ))
  if (sign$paradata && fits_paradata(sign$plain, profile$cells)) return(list(
    kind = "paradata", grounds = "its heading is one that platforms add, and its cells fit"
  ))
  if (nrow(answers) == 1 && answers$count == profile$records && profile$records > 1) {
    return(list(kind = "constant", grounds = paste0("always \u201c", answers$text[1], "\u201d")))
  }
  box <- kind_of_box(answers, profile)
  if (!is.null(box)) return(box)
  if (are_dates(answers)) return(list(kind = "date", grounds = "its cells are dates"))
  amounts <- kind_of_amounts(answers)
  if (!is.null(amounts)) return(amounts)
  number <- text_to_number(answers$text)
  comma <- text_to_number(answers$text, "comma")
  if (mean(is.na(number)) > 0.2 && mean(is.na(comma)) <= 0.2) number <- comma
  numeric <- weighted_share(!is.na(number), answers$count)
  # Numbers and nothing else are no list of labels.
  scale <- if (any(is.na(number)) && !are_grouped(answers)) choice_of(answers)
  if (!is.null(scale) && are_words_among_numbers(answers, number, scale))
    return(kind_of_numbers(answers, number, numeric, sign))
  if (
    !is.null(scale) && scale$kind == "scale" &&
    (numeric < 0.5 || !is.null(scale$range) || grepl("numbers in the labels", scale$grounds))
  ) return(scale)
  if (numeric >= 0.8) return(kind_of_numbers(answers, number, numeric, sign))
  several <- several_beside_others(answers, sign$said)
  if (!is.null(several)) return(several)
  if (is_sign_list(answers)) return(list(
    kind = "identifier", grounds = "signs of one shape, like the numbers of a list"
  ))
  if (!is.null(scale)) return(scale)
  kind_of_texts(answers)
}

kind_of_texts <- function(answers) {
  total <- sum(answers$count)
  # `Yes`, and `N/A` of all others.
  if (nrow(answers) == 1 && total >= 5 && nchar(answers$text) <= 40) return(list(
    kind = "choice", grounds = "one answer, beside gaps", codes = 1L, scale = answers$text,
    labels = answers
  ))
  amounts <- weighted_share(grouped_amounts(answers$text), answers$count)
  list(
    kind = "text", grounds = if (amounts >= 0.8) kept_as_texts(answers$text) else
      paste0(count_of(nrow(answers), "different answer"), " of ", grouped(total))
  )
}

nobody_answered <- function(profile) list(
  kind = "empty", grounds = if (profile$filled == 0) "every cell is blank" else paste(
    "nobody answered: it holds", some_of(paste0("\u201c", profile$cells$text, "\u201d"), 3, FALSE)
  )
)

# Amounts to which some answered in words, the same words often (`60+`, `about 50`): a list of the
# commonest would leave the other amounts out.
are_words_among_numbers <- function(answers, number, scale) {
  numbers <- answers$text[!is.na(number)]
  length(numbers) > 12 && length(numbers) >= 0.8 * nrow(answers) &&
    any(numbers %in% scale$odd$text)
}

# `KV07`, `B-112`: signs of one shape stand for things of another list.
is_sign_list <- function(answers) {
  if (nrow(answers) < 5) return(FALSE)
  first <- stringi::stri_match_first_regex(
    answers$text[1], "^([[:alpha:]]{1,4})([-_/]?)([0-9]{2,})$"
  )
  if (is.na(first[1])) return(FALSE)
  alike <- sprintf("^[[:alpha:]]{%d}%s[0-9]{%d}$", nchar(first[2]), first[3], nchar(first[4]))
  are_most(answers, function(text) stringi::stri_detect_regex(text, alike), 0.95)
}

date_pattern <- function() once_a_session("date_pattern", function() {
  hour <- "[0-9]{1,2}[:.][0-9]{2}([:.][0-9]{2}([.,][0-9]+)?)?( ?[AaPp][.]?[Mm][.]?)?"
  later <- paste0("((T|,? )", hour, "( ?(Z|(UTC|GMT)?([+-][0-9]{1,2}(:?[0-9]{2})?)?))?)?")
  words <- names(month_words())
  month <- paste0("(", paste(words[order(-nchar(words))], collapse = "|"), ")[.]?")
  paste0("^(", paste(c(
    paste0("[0-9]{4}[-/.][0-9]{1,2}[-/.][0-9]{1,2}", later),
    paste0("[0-9]{1,2}[./-][0-9]{1,2}[./-]([0-9]{4}|[0-9]{2})", later),
    "(?:19|20)[0-9]{2}(?:0[1-9]|1[0-2])(?:0[1-9]|[12][0-9]|3[01])",
    paste0("[0-9]{4}\u5e74[0-9]{1,2}\u6708[0-9]{1,2}\u65e5( ", hour, ")?"),
    paste0(
      "(?i:[0-9]{1,2}[. /-]{0,2}(de )?", month, "[., /-]{0,2}(de )?([0-9]{4}|[0-9]{2}))", later
    ),
    paste0("(?i:", month, " [0-9]{1,2},? [0-9]{4})", later),
    paste0("(?i:[0-9]{4}[ -]", month, "[ -][0-9]{1,2})", later),
    # Months in a language that nothing here knows.
    paste0("[0-9]{1,2}[. -]{1,2}\\p{L}{3,}[., -]{1,2}(19|20)[0-9]{2}", later)
  ), collapse = "|"), ")$")
})

are_dates <- function(answers, least = 0.9) {
  fits <- function(text) stringi::stri_detect_regex(text, date_pattern())
  # Where most are, one of the first fifty is; the rest need not be tried to know.
  first <- utils::head(answers$text, 50)
  if (begin_with_weekday(first) && !any(fits(first))) {
    answers$text <- after_weekday(answers$text)
    first <- utils::head(answers$text, 50)
  }
  any(stringi::stri_count_charclass(first, "[0-9]") > 2) && any(fits(first)) &&
    are_most(answers, fits, least)
}

# Whether at least such a share of the answers (or `more` than that) passes a test of their texts.
# Of many different ones no more are tried than it takes to know.
are_most <- function(answers, test, least, more = FALSE) {
  total <- sum(answers$count)
  failed <- 0
  may_fail <- (1 - least) * total + if (more) -1e-9 else 1e-9
  for (start in seq(1, length.out = ceiling(nrow(answers) / 10000), by = 10000)) {
    rows <- start:min(nrow(answers), start + 9999)
    failed <- failed + sum(answers$count[rows][!test(answers$text[rows])])
    if (failed > may_fail) return(FALSE)
  }
  total > 0
}

# What a heading calls a person.
key_words_strong <-
  "member|respondent|participant|person|panel|user|key|token|student|patient|employee"

# A column that is called like a key and nearly is one: some occur twice, or are blank.
nearest_to_key <- function(profiles, export) {
  said <- plain_heading(export$names)
  close <- vapply(
    profiles,
    function(profile) profile$filled >= 0.9 * profile$records && profile$distinct >= 0.9 *
      profile$filled &&
      profile$distinct > 1 && !profile$kind %in% c("personal", "date", "paradata"),
    TRUE
  )
  named <- grepl(
    "member|respondent|participant|person|panel|user|case|key|token|(^| )(id|no|nr|number)( |$)",
    said
  )
  place <- which(close & named)[1]
  if (is.na(place)) return(profiles)
  profiles[[place]]$kind <- "key"
  profiles[[place]]$grounds <- paste0("its heading says so; ",
    count_of(sum(profiles[[place]]$cells$count > 1), "key"), " more than once, ",
    grouped(profiles[[place]]$records - profiles[[place]]$filled), " blank")
  profiles
}

# The platform's own number of the response, where another column is the key.
name_record <- function(profiles, full, export) {
  said <- plain_heading(export$names)
  for (k in which(
    full &
    grepl("response|record|submission|reference|sheet|(^| )(ref|id|no|nr|number)( |$)", said) &
    !grepl("date|time", said)
  )[1]) {
    if (is.na(k)) next
    profiles[[k]]$kind <- "response"
    profiles[[k]]$grounds <- "every record has one, and none twice"
  }
  profiles
}

# The key: every record has one, none twice; better where its heading says so.
# Fractions differ from record to record without naming anybody.
is_measured <- function(profile) {
  number <- text_to_number(profile$cells$text)
  mean(!is.na(number) & number != round(number)) > 0.3
}

choose_key <- function(profiles, export) {
  full <- vapply(
    profiles,
    function(profile) profile$unique && profile$filled == profile$records &&
      max(nchar(profile$cells$text)) <= 60 &&
      profile$kind != "personal" && !is_measured(profile),
    TRUE
  )
  near <- nearest_to_key(profiles, export)
  said_key <- vapply(near, function(profile) profile$kind == "key", TRUE)
  # What is called a member number and nearly is one beats a number that each response has of
  # itself.
  if (
    !any(full) ||
    (
      any(said_key) &&
      !any(
        full &
        grepl(key_words_strong, plain_heading(export$names))
      )
    )
  ) {
    return(name_record(near, full & !said_key, export))
  }
  said <- plain_heading(paste(export$names))
  own <- vapply(profiles, `[[`, "", "kind")
  # The moment of an answer names nobody.
  moment <- own == "date" | (
    own == "paradata" & !grepl("(^| )(id|ref|no|nr|number|reference)( |$)", said)
  )
  points <- 4 * grepl(paste0(key_words_strong, "|case"), said) +
    2 * grepl("(^| )(id|no|nr|number|code)( |$)|id$", said) - 5 * (own == "paradata") -
    9 * moment - 3 * grepl("response|record|submission|reference|sheet|(^| )ref( |$)", said)
  points[!full] <- -Inf
  for (k in which(full)) {
    if (moment[k] && k != which.max(points)) next
    profiles[[k]]$kind <- if (k == which.max(points)) "key" else "response"
    profiles[[k]]$grounds <- "every record has one, and none twice"
  }
  profiles
}
