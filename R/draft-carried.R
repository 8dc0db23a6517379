# Labels that the columns of a data frame carry for their codes, held against what they hold.

# `labels` as of a label file, of the columns that are codes; the other columns of `seen` stay
# numbers, with the codes of their gaps.
labels_carried <- function(seen, export) {
  labels <- Filter(length, lapply(export$columns, `[[`, "labelled"))
  for (name in names(labels)) {
    list <- told_apart(labels[[name]])
    one <- seen$columns[[name]]
    held <- text_to_number(one$cells$text)
    gap <- gap_of_labels(list)
    rest <- setdiff(held[!is.na(held)], list$codes)
    scale <- is.na(gap)
    coded <- any(scale) && (length(rest) == 0 || is_rating(c(rest, list$codes[scale]))) &&
      !any(list$codes[scale] %in% reserved_codes)
    if (!coded) {
      seen$columns[[name]] <- with_gaps(one, list$codes, gap)
      labels[name] <- list(NULL)
    } else {
      list$gap <- gap
      labels[[name]] <- if (length(rest) == 0) list else with_points(list, rest)
    }
  }
  list(seen = seen, labels = Filter(length, labels))
}

# Codes that reasons have of themselves.
reserved_codes <- -12:-1

# Two codes of one label stay two answers.
told_apart <- function(list) {
  folded <- text_fold(list$labels)
  twice <- folded %in% folded[duplicated(folded)]
  list$labels[twice] <- paste0(list$labels[twice], " (", list$codes[twice], ")")
  list
}

# The reason that a label names; one below zero on one side only is no answer either.
gap_of_labels <- function(list) {
  gap <- missing_word(list$labels)
  codes <- list$codes[is.na(gap)]
  both <- setequal(-codes[codes < 0], codes[codes > 0])
  if (!both) gap[is.na(gap) & list$codes %in% reserved_codes] <- "coded_missing"
  gap
}

# Points of a rating of which only some, mostly the ends, have words.
is_rating <- function(codes) all(is_whole(codes)) && length(unique(codes)) <= 12 &&
  diff(range(codes)) <= 11

with_points <- function(list, rest) {
  order <- order(c(list$codes, rest))
  list(
    codes = as.integer(c(list$codes, rest))[order],
    labels = c(list$labels, number_to_text(rest))[order],
    gap = c(list$gap, rep(NA, length(rest)))[order], rated = TRUE
  )
}

with_gaps <- function(column, codes, gap) {
  known <- !is.na(gap)
  column$missing <- split(codes[known], gap[known])
  column
}
