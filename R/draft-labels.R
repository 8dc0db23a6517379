# Labels of codes, from a label file or carried by the columns of a data frame, held against
# what the columns hold.

# The columns that become coded; others stay numbers, with the codes of their gaps.
with_labels <- function(seen, labels, ground) {
  labels <- labels[intersect(names(labels), names(seen$columns))]
  coded <- FALSE
  for (name in names(labels)) {
    list <- fitted_labels(labels[[name]], seen$columns[[name]])
    coded <- coded || list$coded
    seen$columns[[name]] <- if (list$coded) coded_column(seen$columns[[name]], list, ground) else
      labelled_number(seen$columns[[name]], list)
  }
  if (coded) seen$cells <- if (any(vapply(seen$columns, is_worded, TRUE))) "either" else "codes"
  seen
}

labels_carried <- function(export) Filter(length, lapply(export$columns, `[[`, "labelled"))

# The labels with the reason that each names (`gap`); whether the column becomes `coded`, and
# whether it is a rating of which some points, mostly the ends, have words (`rated`).
fitted_labels <- function(list, column) {
  list <- told_apart(list)
  list$gap <- gap_of_labels(list)
  held <- text_to_number(column$cells$text)
  number <- !is.na(held)
  named <- list$codes[is.na(list$gap)]
  points <- setdiff(held[number], list$codes)
  list$rated <- length(points) > 0 && is_rating(named, points)
  # A stray code beside a list that names most answers is left to be found.
  most <- sum(column$cells$count[number & held %in% list$codes]) >=
    sum(column$cells$count[number]) / 2
  list$coded <- length(named) > 0 && (list$rated || most) && !any(named %in% reserved_codes())
  if (list$coded && list$rated) with_points(list, points) else list
}

# Codes that reasons have, or would get.
reserved_codes <- function() c(
  standing_reasons$code, vapply(reason_drafts, function(reason) as.integer(reason[1]), 0L)
)

# Two codes of one label stay two answers.
told_apart <- function(list) {
  folded <- text_fold(list$labels)
  twice <- folded %in% folded[duplicated(folded)] & is.na(missing_word(list$labels))
  list$labels[twice] <- paste0(list$labels[twice], " (", list$codes[twice], ")")
  list
}

# The reason that a label names; one below zero on one side only is no answer either.
gap_of_labels <- function(list) {
  gap <- missing_word(list$labels)
  codes <- list$codes[is.na(gap)]
  both <- setequal(-codes[codes < 0], codes[codes > 0])
  if (!both) gap[is.na(gap) & list$codes %in% reserved_codes()] <- "coded_missing"
  gap
}

# Points between those that have words; where most have words, one without is no point but odd.
is_rating <- function(named, points) {
  length(named) >= 2 && all(is_whole(points)) && length(named) <= length(points) + 1 &&
    min(points) > min(named) && max(points) < max(named) && diff(range(named)) <= 11
}

with_points <- function(list, points) {
  order <- order(c(list$codes, points))
  utils::modifyList(list, list(
    codes = as.integer(c(list$codes, points))[order],
    labels = c(list$labels, number_to_text(points))[order],
    gap = c(list$gap, rep(NA, length(points)))[order]
  ))
}

coded_column <- function(column, list, ground) {
  answers <- list$labels[is.na(list$gap)]
  ordered <- scale_order(answers)
  straight <- list$rated || (!is.null(ordered) && is.null(ordered$range))
  column$kind <- if (straight) "scale" else "choice"
  what <- if (list$rated) "a rating with named points," else if (!straight) "codes" else
    if (grepl(" ", ordered$name)) paste("ordered by", ordered$name) else
      paste("a scale of", ordered$name)
  column$grounds <- paste0(what, " ", ground, labels_left_out(list, list$gap %in% "coded_missing"))
  column$scale <- answers
  column$codes <- list$codes[is.na(list$gap)]
  column$given <- TRUE
  column$variants <- column$odd <- column$range <- NULL
  with_gaps(column, list)
}

# What its gaps are is known: the rest is looked at anew, without them.
labelled_number <- function(column, list) {
  gaps <- list$codes[!is.na(list$gap)]
  column$cells <- column$cells[!text_to_number(column$cells$text) %in% gaps, ]
  column[c("filled", "distinct")] <- list(sum(column$cells$count), nrow(column$cells))
  base <- column[c(
    "name", "question", "records", "filled", "distinct", "cells", "unique"
  )]
  kind <- kind_of(
    base, base$cells[is.na(base$cells$gap), ], heading_signs(base$name, base$question)
  )
  left <- is.na(list$gap) | list$gap == "coded_missing"
  c(with_gaps(base, list), kind, list(left_out = labels_left_out(list, left)))
}

with_gaps <- function(column, list) {
  known <- !is.na(list$gap)
  column$missing <- split(list$codes[known], list$gap[known])
  column
}

# What the draft has no place for is said: a person may know better.
labels_left_out <- function(list, which) if (any(which)) paste0(
  "; it also labels ",
  paste0(list$codes[which], " \u201c", list$labels[which], "\u201d", collapse = ", "),
  if (any(list$gap[which] %in% "coded_missing")) ", a gap by its sign"
)

# Answers in words, of a column whose codes nothing says.
is_worded <- function(column) column$kind %in% c("scale", "choice", "several") &&
  is.null(column$given) && any(is.na(text_to_number(column$cells$text)))
