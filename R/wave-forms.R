# Lists that came as labels and come as bare numbers now: what the numbers stand for is a
# question for a person, with the evidence for every plausible answer.

# For each such pair the assignments, the likeliest first, as `pair$assignments`.
judge_forms <- function(pairs, own, study) {
  changed <- which(vapply(pairs, is_form_changed, TRUE, own = own, study = study))
  if (length(changed) == 0) return(pairs)
  anchors <- anchor_values(pairs[-changed], own, study)
  tried <- lapply(pairs[changed], weigh_assignments, anchors, own, study)
  list <- vapply(pairs[changed], function(pair) list_of_codes(pair$slot$version), "")
  tried <- unsplit(lapply(split(tried, list), rank_together), list)
  for (k in seq_along(changed)) pairs[[changed[k]]]$assignments <- tried[[k]]
  pairs
}

# Items of one list run alike: ranked by what all of them say together, unless an item speaks
# clearly for itself. The first appearance is each item's own.
rank_together <- function(tried) {
  score <- function(assignments) with_names(
    vapply(assignments, `[[`, 0, "score"), vapply(assignments, `[[`, "", "name"))
  scores <- lapply(tried, score)
  names <- unique(unlist(lapply(scores, names)))
  pooled <- vapply(names, function(name) mean(unlist(lapply(scores, function(scored) scored[name])),
    na.rm = TRUE), 0)
  everywhere <- vapply(names, function(name) all(vapply(scores, function(scored)
    name %in% names(scored), TRUE)), TRUE)
  best <- names(which.min(pooled[everywhere]))
  lapply(seq_along(tried), function(k) {
    own <- scores[[k]]
    if (length(best) == 1 && min(own) > own[best] - 0.25) own[best] <- min(own) - 1e-9
    tried[[k]][order(own)]
  })
}

is_form_changed <- function(pair, own, study) {
  variable <- pair$slot$version
  !is.na(pair$column) && !is_form_decided(pair, own) && variable$storage == "coded" &&
    identical(pair$cells, "codes") && length(variable$codes$code) >= 2 &&
    is.null(own$code_labels[[pair$column]]) && !was_in_codes(plain_of(pair, study), study)
}

# The codebook says already what this wave's cells hold.
is_form_decided <- function(pair, own) pair$match == "already_decided" && (
  identical(pair$slot$version$cells, "codes") || !is.null(pair$slot$version$delivered) ||
    "codes" %in% own$known_cells
)

# Whether an earlier wave held codes of this list already: then it is known how they run.
was_in_codes <- function(variable, study) {
  any(vapply(study$book$exports, function(export) {
    version <- version_in(variable, export)
    !is_absent(version) && file_holds(version, export) == "codes"
  }, TRUE))
}

# What each number could stand for: as the list has them, mirrored, shifted by one, in the
# order in which the labels first stood in the file.
weigh_assignments <- function(pair, anchors, own, study) {
  variable <- pair$slot$version
  raw <- own$export$columns[[pair$column]]
  number <- text_to_number(raw$cells)
  counts <- occurrences(raw)
  # Numbers that no assignment knows (9, 99) are looked at later; they make nothing sure.
  tried <- assignments_of(variable, pair, study)
  covered <- vapply(tried, function(assignment) sum(counts[number %in% assignment$file]), 0)
  tried <- tried[covered >= 0.98 * max(covered)]
  before <- values_before(pair$slot, study)
  old <- shares_of(before, variable$codes$code)
  outside <- correlated_anchors(pair, before, anchors)
  persons <- same_person_rows(pair, own, study)
  lapply(tried, function(assignment) {
    value <- assignment$code[match(number, assignment$file)][raw$index]
    assignment$before <- tabulate(match(before, variable$codes$code), length(variable$codes$code))
    assignment$now <- tabulate(match(value, variable$codes$code), length(variable$codes$code))
    assignment$distance <- distance_of(old, shares_of(value, variable$codes$code))
    assignment$agree <- if (is.null(persons)) NA_real_ else agreement_at(
      persons$before, value[persons$now]
    )
    now <- vapply(outside, function(anchor) safe_cor(value, anchor$now), 0)
    assignment$apart <- if (all(is.na(now))) NA_real_ else mean(
      abs(now - vapply(outside, `[[`, 0, "r")), na.rm = TRUE
    )
    assignment$outside <- sum(!is.na(now))
    assignment$score <- assignment$distance +
      sum(assignment$apart, na.rm = TRUE) - sum(assignment$agree, na.rm = TRUE)
    assignment
  })
}

# What an ordered list (or one of two) went together with before, outside the list.
correlated_anchors <- function(pair, before, anchors) {
  variable <- pair$slot$version
  if (!variable$level %in% ordered_levels && length(variable$codes$code) != 2) return(list())
  mine <- list_of_codes(variable)
  outside <- Filter(function(anchor) anchor$list_id != mine && anchor$wave == pair$slot$wave,
    anchors)
  outside <- lapply(outside, function(anchor) c(anchor, list(r = safe_cor(before, anchor$before))))
  Filter(function(anchor) isTRUE(abs(anchor$r) >= 0.15), outside)
}

assignments_of <- function(variable, pair, study) {
  codes <- sort(variable$codes$code)
  first <- first_appearance(pair$slot, variable, study)
  all <- list(
    list(name = "as they stand", file = codes, code = codes),
    list(name = "mirrored", file = codes, code = rev(codes)),
    list(name = "shifted by one up", file = codes + 1, code = codes),
    list(name = "shifted by one down", file = codes - 1, code = codes),
    if (length(first) == length(codes)) list(
      name = "in the order of first appearance", file = seq_along(first), code = first
    )
  )
  all <- Filter(Negate(is.null), all)
  all[!duplicated(lapply(all, function(assignment) with_names(
    assignment$code, assignment$file)[order(assignment$file)]))]
}

# The codes in the order in which their labels first stood in the earlier wave's data.
first_appearance <- function(slot, variable, study) {
  value <- study$data[[slot$variable]][study$records$wave == slot$wave]
  codes <- unique(value[!is.na(value)])
  as.integer(codes[codes %in% variable$codes$code])
}

# In a panel the same persons: their earlier answers, and their rows in the new file.
same_person_rows <- function(pair, own, study) {
  key <- intersect(unlist(lapply(study$book$exports, `[[`, "key")), own$export$names)
  if (!is_panel(study$book) || length(key) == 0) return(NULL)
  keys <- read_texts(own$export, key[1])
  rows <- rows_retained(study)
  rows <- rows[study$records$wave[rows] == pair$slot$wave]
  place <- match(keys, study$records$key[rows])
  list(before = study$data[[pair$slot$variable]][rows][place[!is.na(place)]],
    now = which(!is.na(place)))
}

agreement_at <- function(before, now) {
  both <- !is.na(before) & !is.na(now)
  if (sum(both) < 20) NA_real_ else mean(before[both] == now[both])
}

# The best two side by side, in words, with the counts of the labels in their order.
assignments_said <- function(assignments) {
  said <- vapply(utils::head(assignments, 2), function(assignment) paste0(
    assignment$name, " ", paste(assignment$now, collapse = ", "), " (shares differ by ",
    number_show(100 * assignment$distance, 0), " points",
    if (!is.na(assignment$apart)) paste0(
      ", correlations with ", count_of(assignment$outside, "other item"), " by ",
      number_show(assignment$apart, 2)
    ),
    if (!is.na(assignment$agree)) paste0(
      ", ", number_show(100 * assignment$agree, 0), " % of the same persons answered alike"
    ), ")"
  ), "")
  paste0(
    "came as labels before, as bare numbers now, and no labels of the codes are given: before ",
    paste(assignments[[1]]$before, collapse = ", "), "; now ", paste(said, collapse = ", or "),
    ". A person has to say which"
  )
}

# The evidence for every plausible reading of bare numbers, the likeliest first.
assignments_found <- function(pairs) {
  some <- Filter(function(pair) !is.null(pair$assignments), pairs)
  readings <- unlist(lapply(some, function(pair) lapply(
    pair$assignments, function(assignment) data.frame(
    variable = pair$slot$variable, column = pair$column, reading = assignment$name,
    distance = assignment$distance, correlations = assignment$apart, others = assignment$outside,
    same_persons = assignment$agree,
    delivered = flow_text(delivered_by(assignment, pair$slot$version), "delivered")
  ))), recursive = FALSE)
  do.call(rbind, c(list(data.frame(
    variable = character(), column = character(), reading = character(), distance = double(),
    correlations = double(), others = integer(), same_persons = double(), delivered = character()
  )), readings))
}

# All of what is accepted, in full.
delivered_by <- function(assignment, variable) {
  label <- label_of(variable, assignment$code)
  as.list(with_names(label, number_to_text(assignment$file)))
}
