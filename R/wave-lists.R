# Questions found again by their labels, where names and wordings do not tell.

# The only column with this question's labels is that question by rule where its name or wording
# is like it, and no other question or column has that list: else another question may well have
# taken the list over, as where an item of a battery went and another came, and a person decides.
pair_by_list <- function(board, own, by) {
  is_sole <- function(slot, column) length(same_list(slot, own$export$names, own)) == 1 &&
    sum(lengths(lapply(board$slots, same_list, columns = column, own = own))) == 1
  like <- function(slot) {
    column <- same_list(slot, board$left(), own)
    alike <- length(column) == 1 && is_called_alike(slot, column, own) && is_sole(slot, column)
    if (alike) column else character()
  }
  by("rule", "same code list", like)
  asked <- board$open()
  columns <- lapply(board$slots[asked], function(slot) same_list(slot, board$left(), own))
  often <- table(unlist(columns))
  for (i in which(lengths(columns) == 1)) if (often[[columns[[i]]]] == 1) board$set(
    asked[i], columns[[i]], "possible", "", if (is_sole(board$slots[[asked[i]]], columns[[i]])) {
      "the same code list, which no other question has; name and wording differ"
    } else "the same code list, which others have too; of what is left only these two have it"
  )
}

is_called_alike <- function(slot, column, own, least = 0.5) {
  asked <- own$export$questions[[column]]
  wording <- if (length(slot$questions) == 0 || !nzchar(asked)) NA else max(
    wording_likeness(slot$questions, asked)
  )
  if (!is.na(wording)) return(wording >= least)
  max(vapply(slot$columns, name_likeness, 0, names = column)) >= least
}

# Some of the labels are there, and the name or wording shares a word: perhaps the same question
# with other answers (brackets that were split, options that came and went).
pair_partly <- function(pairs, columns, own) {
  taken <- vapply(pairs, function(pair) paste0(pair$column, ""), "")
  columns <- setdiff(columns, taken)
  open <- which(vapply(pairs, function(pair) pair$match == "only_codebook", TRUE))
  for (k in open) {
    slot <- pairs[[k]]$slot
    labels <- text_fold(slot$version$codes$label)
    if (slot$version$storage != "coded" || length(labels) < 2) next
    met <- vapply(columns, function(column) partly_alike(slot, labels, column, own), 0)
    if (length(met) == 0 || max(met) == 0 || sum(met == max(met)) > 1) next
    best <- columns[which.max(met)]
    pairs[[k]][c("column", "match", "rule", "grounds")] <- list(best, "possible", "", paste0(
      max(met), " of ", length(labels), " labels are there, and a word of its name or wording"
    ))
    columns <- setdiff(columns, best)
  }
  pairs
}

# How many of the labels a column has, where that is half of them or more and a word is shared.
partly_alike <- function(slot, labels, column, own) {
  answers <- setdiff(text_fold(own$export$columns[[column]]$cells), c("", NA))
  met <- sum(labels %in% answers)
  words <- function(texts) {
    letters <- unlist(lapply(text_fold(texts), letters_of))
    letters[nchar(letters) >= 3]
  }
  shared <- intersect(
    words(c(slot$columns, slot$questions)), words(c(column, own$export$questions[[column]]))
  )
  if (met >= 2 && met >= length(labels) / 2 && length(shared) > 0) met else 0
}

# The only open column that has this question's labels, all of them. Columns with the same
# answers are looked at once.
same_list <- function(slot, columns, own) {
  labels <- text_fold(slot$version$codes$label)
  if (slot$version$storage != "coded" || length(labels) < 3) return(character())
  ids <- own$answers$id[columns]
  met <- vapply(own$answers$sets[unique(ids)], function(answers) {
    length(answers) >= 3 && mean(labels %in% answers) >= 0.8 && mean(answers %in% labels) >= 0.9
  }, TRUE)
  columns[ids %in% unique(ids)[met]]
}

# The distinct sets of folded answers, and which of them each column has.
answer_sets <- function(export) {
  sets <- lapply(export$columns, function(column) sort_c(setdiff(
    text_fold(column$cells), c("", NA)
  )))
  key <- vapply(sets, paste, "", collapse = "\r")
  list(sets = unname(sets[!duplicated(key)]), id = with_names(
    match(key, unique(key)), export$names
  ))
}
