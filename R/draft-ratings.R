# Ratings in bare numbers: told by their wording, or by neighbours that are rated alike.

# `range` and the numbers that stand for gaps, or NULL where a column counts something.
rating_of <- function(number, sign) {
  value <- number[!is.na(number)]
  if (length(value) < 2 || !all(is_whole(value)) || length(value) > 14) return(NULL)
  told <- bounds_told(sign$folded)
  if (is.null(told) && (sign$counts || !sign$rates)) return(NULL)
  gaps <- gaps_told(sign$folded)
  range <- if (!is.null(told)) told else bounds_answered(value)
  if (is.null(range) || range[2] - range[1] < 2 || range[2] - range[1] > 10) return(NULL)
  outside <- value[value < range[1] | value > range[2]]
  known <- outside[outside %in% c(unlist(gaps), rating_missing)]
  if (length(known) < length(outside)) return(NULL)
  unsaid <- setdiff(known, unlist(gaps))
  if (length(unsaid) > 0) gaps$no_answer <- c(gaps$no_answer, unsaid)
  list(range = range, gaps = Filter(length, lapply(gaps, intersect, y = c(known, unlist(gaps)))))
}

rating_missing <- c(7:9, missing_numbers)

rating_words <- paste0(
  "\\brat(e|ing|ed)\\b|\\bscores?\\b|\\bscale\\b|satisf|\\bagree|likely|\\bhow (happy|important|",
  "good|well|easy|difficult|useful|clear|strong|content|worried|interested|safe|pleased|bad)|",
  "opinion of|evaluat|bewert|zufrieden|\\bskala\\b|note[rz]|\\b\u00e9chelle\\b|satisfait|",
  "puntu|escala|valor[ae]|nota\\b|voto|punteggio|schaal|tevreden|beoordel"
)
counting_words <- paste0(
  "how many|number of|how much|how long|\\bage\\b|years?\\b|\\bkids\\b|children|wie viele|anzahl|",
  "combien|nombre|cu\u00e1nt|n\u00famero|quant[oaie]|hoeveel|aantal|\\bhours?\\b|minutes"
)

# A number of things, by its wording.
is_counted <- function(column) says_count(text_fold(paste(column$name, column$question)))

says_count <- function(folded) grepl(counting_words, folded)

says_rating <- function(folded) grepl(rating_words, folded)

# The ends that the wording names: `from 1 to 5`, `1-7`, `0 = not at all, 6 = completely`.
bounds_told <- function(folded) {
  pairs <- stringi::stri_match_all_regex(
    folded, "(-?[0-9]{1,2}) ?(?:=|:|means|bedeutet|signifie) ?([^,;()0-9]*)"
  )[[1]]
  if (!is.na(pairs[1, 1])) {
    answer <- is.na(gap_said(pairs[, 3]))
    ends <- as.numeric(pairs[answer, 2])
    if (length(ends) >= 2) return(range(ends))
  }
  spans <- stringi::stri_match_first_regex(
    folded, paste0(
      "(?:^|[^0-9.,/-])([01]) ?(?:-|to|bis|\u00e0|a|tot|through|until|and|und|et|y|e|en) ?",
      "([0-9]{1,2})(?![0-9/-])"
    )
  )
  ends <- as.numeric(spans[2:3])
  if (!anyNA(ends) && ends[2] >= 3 && ends[2] <= 11) ends
}

# `9 = no opinion`: numbers that the wording gives for a gap, by reason.
gaps_told <- function(folded) {
  pairs <- stringi::stri_match_all_regex(
    folded, "(-?[0-9]{1,2}) ?(?:=|:|means|bedeutet|signifie) ?([^,;()0-9]*)"
  )[[1]]
  if (is.na(pairs[1, 1])) return(list())
  reason <- gap_said(pairs[, 3])
  split(as.numeric(pairs[!is.na(reason), 2]), reason[!is.na(reason)])
}

gap_said <- function(text) {
  text <- stringi::stri_trim_both(text)
  gap <- missing_word(text)
  gap[is.na(gap) & grepl("no opinion|no view|keine meinung|sans opinion|undecided", text)] <-
    "dont_know"
  gap[is.na(gap) & grepl("can.?t say|cannot say|don.?t know", text)] <- "dont_know"
  gap[is.na(gap) & grepl("refus|prefer not|no answer|rather not", text)] <- "refused"
  gap
}

# From 0 or 1 as far as the answers go without a step left out.
bounds_answered <- function(value) {
  value <- sort(unique(value))
  inner <- value[value >= 0]
  if (length(inner) == 0 || inner[1] > 1) return(NULL)
  gap <- which(diff(inner) > 1)
  top <- if (length(gap) > 0) inner[gap[1]] else inner[length(inner)]
  if (top < 3 || top > 10) NULL else c(if (inner[1] == 0) 0 else 1, top)
}

# Neighbours of one stem or prefix that hold the same few steps are rated alike.
rate_neighbours <- function(columns) {
  number <- vapply(columns, function(profile) profile$kind == "number" && is.null(profile$rating),
    TRUE)
  stem <- vapply(columns, function(column) stem_of(asked_in(column))[1], "")
  prefix <- without_number(names(columns))
  group <- ifelse(nzchar(stem), stem, ifelse(prefix != names(columns), prefix, ""))
  for (of in split(which(number & nzchar(group)), group[number & nzchar(group)])) {
    if (length(of) < 3) next
    if (any(says_count(text_fold(group[of])))) next
    values <- lapply(columns[of], function(column) text_to_number(
      column$cells$text[is.na(column$cells$gap)]
    ))
    all <- unlist(values)
    if (anyNA(all) || !all(is_whole(all))) next
    range <- bounds_answered(all)
    outside <- unique(all[all < range[1] | all > range[2]])
    if (is.null(range) || range[1] != 1 || !all(outside %in% rating_missing)) next
    columns[of] <- lapply(columns[of], function(profile) {
      profile$rating <- list(range = range,
        gaps = if (length(outside) > 0) list(no_answer = outside))
      profile
    })
  }
  columns
}

rating_lines <- function(column, entry) {
  gaps <- column$rating$gaps
  counts <- vapply(unlist(gaps), function(number) sum(
    column$cells$count[text_to_number(column$cells$text) %in% number]
  ), 0)
  shown <- if (length(counts) > 0) paste0("; outside it ", paste0(
    number_to_text(unlist(gaps)), " (", grouped(counts), ")", collapse = ", "
  ))
  c(
    entry(
      level = "ordinal",
      range = paste0("[", paste(number_to_text(column$rating$range), collapse = ", "), "]"),
      missing = gaps,
      note = paste0("a rating in numbers, by its wording and answers", shown)
    ),
    odd_lines(column, "    ")
  )
}
