# Skip patterns: a question that is blank exactly where an earlier one has
# certain answers. Looked for in the first records, then counted over all.

skips_seen <- function(export, seen, plan, sample = 20000) {
  coded <- Filter(function(column) seen$columns[[column]]$kind %in% c("scale", "choice") && length(seen$columns[[column]]$scale) <= 12, plan$used)
  rows <- seq_len(min(sample, export$records))
  found <- list()
  for (column in plan$used) {
    one <- seen$columns[[column]]
    share <- one$filled / one$records
    if (share < 0.03 || share > 0.97) next
    full <- is_full(export, column, rows)
    for (gate in rev(utils::tail(coded[match(coded, plan$used) < match(column, plan$used)], 15))) {
      answers <- gate_answers(export, gate, column, full, rows)
      if (is.null(answers)) next
      counts <- gate_counts(export, gate, column, answers)
      if (counts$against > 0.02 * counts$outside) next
      found[[column]] <- paste0("asked only where ", plan$names[[gate]], " is ", paste0("\u201c", answers, "\u201d", collapse = " or "), "; blank in ", grouped(counts$outside - counts$against), " of ",
        grouped(counts$outside), " others and in ", grouped(counts$missed), " of ", grouped(counts$inside), " asked")
      break
    }
  }
  found
}

is_full <- function(export, column, rows) {
  one <- export$columns[[column]]
  nzchar(text_trim(one$cells))[one$index[rows]]
}

# The gate's answers for which the question is put, if they part it cleanly.
gate_answers <- function(export, gate, column, full, rows) {
  one <- export$columns[[gate]]
  size <- length(one$cells)
  n <- tabulate(one$index[rows], size)
  filled <- tabulate(one$index[rows][full], size)
  share <- ifelse(n > 0, filled / n, NA)
  often <- n >= max(3, 0.02 * length(rows))
  asked <- often & share >= 0.8
  outside <- often & share <= 0.02
  if (!any(asked) || !any(outside) || any(often & !asked & !outside & nzchar(text_trim(one$cells)))) return(NULL)
  asked <- asked & nzchar(text_trim(one$cells))
  if (!any(asked)) return(NULL)
  text_trim(one$cells[asked])
}

gate_counts <- function(export, gate, column, answers) {
  all <- seq_len(export$records)
  inside <- (text_trim(export$columns[[gate]]$cells) %in% answers)[export$columns[[gate]]$index]
  full <- is_full(export, column, all)
  list(inside = sum(inside), outside = sum(!inside), against = sum(full & !inside), missed = sum(!full & inside))
}
