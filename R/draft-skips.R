# Skip patterns: a question that is blank where an earlier one has certain
# answers, and answered where it has others. Looked for in the first records, then counted over all.

skips_seen <- function(export, seen, plan, sample = 20000) {
  coded <- Filter(
    function(column) seen$columns[[column]]$kind %in% c("scale", "choice") &&
      length(seen$columns[[column]]$scale) <= 12,
    plan$used
  )
  rows <- seq_len(min(sample, export$records))
  found <- list()
  for (column in plan$used) {
    one <- seen$columns[[column]]
    share <- one$filled / one$records
    if (share < 0.03 || share > 0.97) next
    full <- is_full(export, column, rows)
    before <- coded[match(coded, plan$used) < match(column, plan$used)]
    for (filter in rev(utils::tail(before, 15))) {
      answers <- filter_answers(export, filter, full, rows)
      if (is.null(answers)) next
      counts <- filter_counts(export, filter, column, answers)
      if (counts$against > 0.2 * counts$outside) next
      found[[column]] <- list(
        filter = filter, answers = answers, counts = counts,
        universe = filter_condition(filter, answers, seen, plan)
      )
      break
    }
  }
  found
}

# An entry where nearly nobody answered from outside; else the grounds alone.
# The items of a block are judged together.
block_skips <- function(found, plan) {
  for (block in lapply(plan$blocks, `[[`, "columns")) {
    here <- intersect(block, names(found))
    same <- unique(lapply(found[here], `[`, c("filter", "answers")))
    if (length(here) < length(block) || length(same) != 1) next
    counts <- as.list(colSums(do.call(rbind, lapply(found[here], function(one)
      unlist(one$counts)))))
    for (column in here) found[[column]][c("counts", "block")] <- list(counts, TRUE)
  }
  lapply(found, function(one) {
    one$sure <- one$counts$against <= (if (isTRUE(one$block)) 0.1 else 0.05) * one$counts$outside &&
      !is.null(one$universe)
    one
  })
}

skip_text <- function(skip, plan) {
  paste0("asked only where ", plan$names[[skip$filter]], " is ",
    paste0("\u201c", skip$answers, "\u201d", collapse = " or "), "; blank in ",
    grouped(skip$counts$outside - skip$counts$against), " of ",
    grouped(skip$counts$outside), " others and in ", grouped(skip$counts$missed), " of ",
    grouped(skip$counts$inside), " asked")
}

# The filter's answers as a condition; NULL where they are not its labels.
filter_condition <- function(filter, answers, seen, plan) {
  one <- seen$columns[[filter]]
  if (seen$cells == "codes") {
    if (!all(is_whole(text_to_number(answers)))) return(NULL)
    said <- unique(answers)
  } else {
    labels <- one$scale[match(text_fold(answers), text_fold(one$scale))]
    if (anyNA(labels)) return(NULL)
    said <- paste0(
      "\"", stringi::stri_replace_all_regex(text_squeeze(unique(labels)), "([\"\\\\])", "\\\\$1"),
      "\""
    )
  }
  if (length(said) == 1) paste(plan$names[[filter]], "==", said) else paste0(
    plan$names[[filter]], " %in% c(", paste(said, collapse = ", "), ")"
  )
}

is_full <- function(export, column, rows) {
  one <- export$columns[[column]]
  nzchar(text_trim(one$cells))[one$index[rows]]
}

# The filter's answers for which the question is asked, if they part it cleanly.
filter_answers <- function(export, filter, full, rows) {
  one <- export$columns[[filter]]
  size <- length(one$cells)
  n <- tabulate(one$index[rows], size)
  filled <- tabulate(one$index[rows][full], size)
  share <- ifelse(n > 0, filled / n, NA)
  often <- n >= max(3, 0.02 * length(rows))
  asked <- often & share >= 0.8
  outside <- often & share <= 0.2 & nzchar(text_trim(one$cells))
  if (!any(asked) || !any(outside) || any(often & !asked & !outside & nzchar(text_trim(one$cells))))
    return(NULL)
  asked <- asked & nzchar(text_trim(one$cells))
  if (!any(asked)) return(NULL)
  text_trim(one$cells[asked])
}

filter_counts <- function(export, filter, column, answers) {
  all <- seq_len(export$records)
  cells <- text_trim(export$columns[[filter]]$cells)
  inside <- (cells %in% answers)[export$columns[[filter]]$index]
  outside <- (nzchar(cells) & !cells %in% answers)[export$columns[[filter]]$index]
  full <- is_full(export, column, all)
  list(
    inside = sum(inside), outside = sum(outside), against = sum(full & outside),
    missed = sum(!full & inside)
  )
}
