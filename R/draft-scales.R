# Answer scales known by their words, whatever the order of appearance.

known_scales <- function() once_a_session(
  "scales", function() read_scales(system.file("draft", "scales.txt", package = "mavik"))
)

read_scales <- function(path) {
  lines <- readLines(path, encoding = "UTF-8")
  lines <- lines[nzchar(lines) & !startsWith(lines, "#")]
  scales <- lapply(lines, function(line) {
    steps <- strsplit(
      strsplit(sub("^[^:]*: ", "", line), " < ", fixed = TRUE)[[1]], " | ", fixed = TRUE
    )
    with_names(rep(seq_along(steps), lengths(steps)), text_fold(unlist(steps)))
  })
  with_names(scales, sub(":.*", "", lines))
}

# The labels in the order of a scale from low to high, or NULL. A leading number
# says the order itself; else most labels must be words of one scale.
scale_order <- function(labels) {
  numbers <- leading_number(labels)
  if (length(labels) >= 3 && !anyNA(numbers) && !anyDuplicated(numbers)) {
    return(list(labels = labels[order(numbers)], codes = sort(numbers), name = "leading numbers"))
  }
  bare <- text_fold(sub("^[0-9]+[ ]*[-.:=)][ ]*", "", labels))
  ends <- ends_only(labels, bare)
  if (!is.null(ends)) return(ends)
  if (length(labels) < 3) return(NULL)
  known <- known_order(labels, bare)
  if (is.null(known)) known <- learnt_order(labels)
  if (is.null(known)) known <- known_order(labels, without_shared(bare))
  known
}

# The words of a known scale, each step once.
known_order <- function(labels, bare) {
  for (name in names(known_scales())) {
    step <- known_scales()[[name]][bare]
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
  vapply(words, function(one) paste(setdiff(one, shared), collapse = " "), "")
}

leading_number <- function(labels) {
  found <- stringi::stri_match_first_regex(labels, "^\\s*([0-9]{1,2})\\s*[-\\x{2013}.:=)]\\s*[^0-9\\s]")[
    , 2
  ]
  suppressWarnings(as.integer(found))
}

# Numbers between two worded ends: `Not at all`, 2, 3, 4, `Completely`.
ends_only <- function(labels, bare) {
  number <- text_to_number(labels)
  inner <- sort(number[is_whole(number)])
  worded <- which(is.na(number))
  if (length(worded) != 2 || length(inner) < 1 || length(inner) != length(labels) - 2) return(NULL)
  low <- min(inner) - 1
  high <- max(inner) + 1
  if (low < 0 || high - low > 11) return(NULL)
  step <- vapply(known_scales(), function(scale) scale[bare[worded]], c(0L, 0L))
  known <- which(colSums(is.na(step)) == 0)
  up <- if (length(known) > 0) step[1, known[1]] < step[2, known[1]] else NA
  if (is.na(up)) {
    low_word <- grepl(
      "^(not|no |none|very (bad|poor|low|un)|strongly disagree|extremely un|never|low|worst|least)",
      bare[worded]
    )
    up <- if (low_word[2] && !low_word[1]) FALSE else TRUE
  }
  ordered <- labels[worded][if (up) 1:2 else 2:1]
  list(labels = ordered, codes = c(low, high), range = c(low, high), name = "labelled ends")
}

# Words that stand for a missing reason, folded.
missing_words <- list(
  refused = c("prefer not to say", "prefer not to answer", "refused", "rather not say",
    "i'd rather not say", "i prefer not to answer", "no comment",
    "keine angabe", "je pr\u00e9f\u00e8re ne pas r\u00e9pondre", "prefiero no contestar",
    "prefiro n\u00e3o responder", "preferisco non rispondere", "zeg ik liever niet"),
  dont_know = c("don't know", "dont know", "do not know", "dk", "i don't know", "not sure",
    "unsure", "can't say", "cannot say", "can't choose", "don't know / can't say",
    "wei\u00df nicht", "wei\u00df ich nicht", "ne sait pas", "je ne sais pas", "no s\u00e9",
    "no sabe", "n\u00e3o sei", "non so", "weet niet", "weet ik niet"),
  not_applicable = c(
    "n/a", "na", "not applicable", "does not apply", "doesn't apply", "nicht zutreffend",
    "sans objet", "no aplica", "n\u00e3o se aplica", "non applicabile", "niet van toepassing"
  ),
  no_answer = c(
    ".", "*", "-", "--", "no answer", "no response", "missing", "null", "none given", "ohne angabe",
    "sans r\u00e9ponse", "sin respuesta", "sem resposta", "geen antwoord"
  )
)

missing_word <- function(cells) {
  folded <- text_fold(cells)
  at <- match(folded, text_fold(unlist(missing_words)))
  rep(names(missing_words), lengths(missing_words))[at]
}
