# Skip patterns: a question that is blank where an earlier one has certain answers, and
# answered where it has others. Looked for in the first records, then counted over all.

skips_seen <- function(export, seen, plan, sample = 20000) {
  filters <- lapply(with_names(plan$used, plan$used), filter_seen, export, seen)
  filters <- Filter(Negate(is.null), filters)
  skips <- list()
  looked <- NULL
  for (k in seq_along(plan$used)) {
    column <- plan$used[k]
    profile <- seen$columns[[column]]
    if (profile$kind %in% c("ticks", "key", "response")) next
    here <- rows_of_waves(column, plan, export$records)
    if (length(here) == export$records) share <- profile$filled / export$records
    else share <- mean(is_full(export, column, here))
    if (share < 0.005 || share > 0.98) next
    # Most questions stand in the same records, whose answers are then at hand.
    early <- utils::head(here, sample)
    if (!identical(looked, early)) {
      looked <- early
      first <- lapply(filters, among_rows, looked)
    }
    before <- intersect(names(filters), plan$used[seq_len(k - 1)])
    skip <- best_skip(
      is_full(export, column, looked), first[rev(utils::tail(before, 40))], skips
    )
    if (is.null(skip)) next
    skip$counts <- skip_counts(is_full(export, column, here), skip$parts, filters, here)
    skip$universe <- paste(vapply(skip$parts, universe_of_part, "", plan = plan), collapse = " & ")
    skip$filter <- skip$parts[[1]]$column
    skips[[column]] <- skip
  }
  skips
}

# The records of the waves in which a question stands.
rows_of_waves <- function(column, plan, records) {
  without <- plan$without[[column]]
  if (is.null(without)) return(seq_len(records))
  which(!plan$waves$of %in% without)
}

is_full <- function(export, column, rows) {
  cells <- export$columns[[column]]
  nzchar(text_trim(cells$cells))[cells$index[rows]]
}

# A coded answer or a number that others may be asked by; gaps of it say nothing. `table` is what
# its distinct cells mean; each record's `value` is there once records are chosen.
filter_seen <- function(column, export, seen) {
  profile <- seen$columns[[column]]
  if (!profile$kind %in% c("scale", "choice", "number")) return(NULL)
  cells <- text_trim(export$columns[[column]]$cells)
  index <- export$columns[[column]]$index
  silent <- !nzchar(cells) | !is.na(missing_word(cells))
  if (profile$kind %in% c("scale", "choice") && length(profile$scale) <= 40) {
    as_code <- seen$cells == "codes" && all(is_whole(text_to_number(profile$scale)))
    label <- match(text_fold(cells), text_fold(if (as_code) profile$codes else profile$scale))
    if (NROW(profile$variants) > 0) {
      meant <- profile$variants$label[match(text_fold(cells), text_fold(profile$variants$text))]
      label[is.na(label)] <- match(text_fold(meant), text_fold(profile$scale))[is.na(label)]
    }
    # What is none of the labels is known to be none of them.
    label[is.na(label)] <- length(profile$scale) + 1L
    label[silent] <- NA
    return(list(
      column = column, kind = "coded", table = label, index = index,
      labels = c(profile$scale, NA), bare = as_code
    ))
  }
  if (profile$kind != "number") return(NULL)
  if (seen$cells == "codes" && is_code_like(profile)) {
    codes <- sort(text_to_number(profile$cells$text))
    return(list(
      column = column, kind = "coded", labels = number_to_text(codes), bare = TRUE,
      table = match(text_to_number(cells), codes), index = index
    ))
  }
  value <- text_to_number(cells, decimal_of(seen$form))
  value[silent | value %in% far_numbers(profile)$number] <- NA
  list(column = column, kind = "number", table = value, index = index)
}

# Its values in some records, each as a place among codes or bounds, and how many stand at each.
among_rows <- function(filter, rows) {
  filter$index <- filter$index[rows]
  filter$value <- filter$table[filter$index]
  filter$place <- filter$value
  if (filter$kind == "number") {
    filter$bounds <- sort(unique(filter$value))
    filter$place <- match(filter$value, filter$bounds)
  }
  filter$n <- tabulate(filter$place, length(c(filter$labels, filter$bounds)))
  filter
}

# The condition that parts answered from blank best: of one filter, else of two. All are of the same
# records.
best_skip <- function(full, filters, before) {
  tried <- Filter(Negate(is.null), lapply(filters, skip_by, full = full, at = which(full)))
  if (length(tried) == 0) return(NULL)
  used <- lapply(before, function(skip) skip$parts)
  n <- length(full)
  tried <- lapply(tried, function(skip) {
    parts <- list(skip$part)
    again <- any(vapply(used, function(known) same_parts(known, parts), TRUE))
    list(parts = parts, wrong = skip$wrong, cost = skip$wrong + simplicity(skip$part) *
      0.004 * n - if (again) 0.01 * n else 0)
  })
  best <- tried[[which.min(vapply(tried, `[[`, 0, "cost"))]]
  # What is still blank among the asked may be asked by another question besides.
  own <- best$parts[[1]]$column
  inside <- which(part_holds(best$parts[[1]], filters[[own]]$value))
  if (length(inside) >= 20 && mean(!full[inside]) > 0.08) {
    more <- Filter(Negate(is.null), lapply(
      filters[setdiff(names(filters), own)],
      function(filter) skip_by(among_rows(filter, inside), full[inside])
    ))
    left <- vapply(more, `[[`, 0, "wrong")
    if (length(left) > 0 && min(left) < 0.5 * sum(!full[inside])) best$parts <- c(
      best$parts, list(more[[which.min(left)]]$part)
    )
  }
  best[c("parts", "wrong")]
}

same_parts <- function(a, b) identical(
  lapply(a, `[`, c("column", "asked", "from", "to")),
  lapply(b, `[`, c("column", "asked", "from", "to"))
)

# `!=` and `==` before lists of answers and bounds.
simplicity <- function(part) {
  if (part$kind == "number") return(2)
  min(length(part$asked), length(part$outside))
}

# A filter's answers for which the question is asked, if they part it cleanly; `at` are the records
# that answered it.
skip_by <- function(filter, full, at = which(full)) {
  answered <- tabulate(filter$place[at], length(filter$n))
  part <- if (filter$kind == "coded") part_of_codes(filter, answered) else
    part_of_number(filter, answered)
  if (is.null(part)) return(NULL)
  inside <- part_holds(part, filter$value)
  known <- !is.na(filter$value)
  outside <- known & !inside
  n <- c(sum(inside), sum(outside))
  if (min(n) < max(3, 0.005 * length(full))) return(NULL)
  both <- c(sum(full & inside), sum(full & outside))
  share <- both / n
  if (share[1] - share[2] < 0.5 || share[2] > 0.2) return(NULL)
  # Many conditions are tried, and a few blanks part themselves by chance.
  if (parted_by_chance(n[2], n[2] - both[2], sum(known), sum(known & !full)) > 0.001) return(NULL)
  # Answers of those without an answer to the filter speak against it.
  list(part = part, wrong = both[2] + n[1] - both[1] + sum(full & !known))
}

# How likely `blank` of `outside` records are blank, where `blanks` of `all` are and stand anywhere.
parted_by_chance <- function(outside, blank, all, blanks) stats::phyper(
  blank - 1, blanks, all - blanks, outside, lower.tail = FALSE
)

# `answered`: how many answered the question, of those at each place.
part_of_codes <- function(filter, answered) {
  n <- filter$n
  share <- answered / n
  asked <- which(n > 0 & share >= 0.4)
  outside <- setdiff(which(n > 0), asked)
  if (length(asked) == 0 || length(outside) == 0 || anyNA(filter$labels[asked])) return(NULL)
  # An answer that nobody gave goes with the smaller list, so that the condition is short.
  list(
    column = filter$column, kind = "coded", asked = asked, outside = outside,
    labels = filter$labels, bare = filter$bare
  )
}

# The bound that parts best, from below or from above.
part_of_number <- function(filter, answered) {
  bounds <- filter$bounds
  if (sum(filter$n) < 20 || length(bounds) < 3) return(NULL)
  blank <- filter$n - answered
  below <- function(x) c(0, cumsum(x)[-length(x)])
  up <- below(answered) + sum(blank) - below(blank)
  down <- below(blank) + sum(answered) - below(answered)
  ends <- c(which.min(up[-1]), which.min(down[-1])) + 1
  rising <- up[ends[1]] <= down[ends[2]]
  list(
    column = filter$column, kind = "number",
    from = if (rising) bounds[ends[1]], to = if (!rising) bounds[ends[2]]
  )
}

part_holds <- function(part, value) {
  inside <- if (part$kind == "coded") value %in% part$asked else
    if (!is.null(part$from)) value >= part$from else value < part$to
  inside & !is.na(value)
}

skip_counts <- function(full, parts, filters, rows) {
  value <- lapply(parts, function(part) {
    filter <- filters[[part$column]]
    filter$table[filter$index[rows]]
  })
  inside <- Reduce(`&`, Map(part_holds, parts, value))
  known <- Reduce(`&`, lapply(value, Negate(is.na)))
  outside <- known & !inside
  list(
    inside = sum(inside), outside = sum(outside), against = sum(full & outside),
    missed = sum(!full & inside)
  )
}

universe_of_part <- function(part, plan) {
  name <- plan$names[[part$column]]
  if (part$kind == "number") return(if (!is.null(part$from)) paste(
    name, ">=", number_to_text(part$from)
  ) else paste(name, "<", number_to_text(part$to)))
  said <- function(places) if (part$bare) part$labels[places] else paste0("\"",
    stringi::stri_replace_all_regex(text_squeeze(part$labels[places]), "([\"\\\\])", "\\\\$1"),
    "\"")
  condition <- function(sign, places) paste(name, sign, said(places))
  several <- function(places) paste0(name, " %in% c(", paste(said(places), collapse = ", "), ")")
  if (length(part$asked) == 1) condition("==", part$asked)
  else if (anyNA(part$labels[part$outside])) several(part$asked)
  else if (length(part$outside) == 1) condition("!=", part$outside)
  else if (length(part$outside) < length(part$asked)) paste0("!(", several(part$outside), ")")
  else several(part$asked)
}

# An entry where nearly nobody answered from outside; else the grounds alone.
# The items of a block are judged together.
block_skips <- function(skips, plan) {
  for (block in lapply(plan$blocks, `[[`, "columns")) {
    here <- intersect(block, names(skips))
    same <- unique(vapply(skips[here], `[[`, "", "universe"))
    if (length(here) < length(block) || length(same) != 1) next
    counts <- as.list(colSums(do.call(rbind, lapply(skips[here], function(skip)
      unlist(skip$counts)))))
    for (column in here) skips[[column]][c("counts", "block")] <- list(counts, TRUE)
  }
  lapply(skips, function(skip) {
    # An answer from outside would be set aside: then a person decides.
    skip$sure <- skip$counts$against == 0
    skip
  })
}

skip_text <- function(skip) {
  paste0(
    if (skip$sure) "asked only where " else "perhaps asked only where ",
    skip$universe, ": blank in ", grouped(skip$counts$outside - skip$counts$against), " of ",
    grouped(skip$counts$outside), " others and in ", grouped(skip$counts$missed), " of ",
    grouped(skip$counts$inside), " asked",
    if (!skip$sure) paste0("; as `universe` it would set ", count_of(
      skip$counts$against, "answer"
    ), " aside")
  )
}
