# Lists that came as labels and come as bare numbers now: what the numbers stand for is a
# question for a person, with the evidence for every plausible answer.

# For each such pair the assignments, the likeliest first, as `pair$assignments`.
judge_forms <- function(pairs, own, study) {
  lapply(pairs, function(pair) {
    if (!is_form_changed(pair, own, study)) return(pair)
    pair$assignments <- rank_assignments(pair, own, study)
    pair
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
rank_assignments <- function(pair, own, study) {
  variable <- pair$slot$version
  raw <- own$export$columns[[pair$column]]
  number <- text_to_number(raw$cells)
  counts <- tabulate(raw$index, length(raw$cells))
  # Numbers that no assignment knows (9, 99) are looked at later; they make nothing sure.
  tried <- assignments_of(variable, pair, study)
  covered <- vapply(tried, function(one) sum(counts[number %in% one$file]), 0)
  tried <- tried[covered >= 0.98 * max(covered)]
  old <- shares_of(values_before(pair$slot, study), variable$codes$code)
  persons <- same_person_rows(pair, own, study)
  tried <- lapply(tried, function(one) {
    value <- one$code[match(number, one$file)]
    one$distance <- distance_of(old, shares_of(value[raw$index], variable$codes$code))
    one$agree <- if (is.null(persons)) NA_real_ else agreement_at(
      persons$before, value[raw$index][persons$now]
    )
    one
  })
  verdict <- pair$direction
  score <- vapply(tried, function(one) {
    lean <- if (is.null(verdict) || abs(verdict$votes) < 2) 0 else
      if (verdict$reversed == (one$name == "mirrored")) -0.2 else 0
    one$distance + lean - (if (is.na(one$agree)) 0 else one$agree)
  }, 0)
  tried[order(score)]
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
  all[!duplicated(lapply(all, function(one) with_names(one$code, one$file)[order(one$file)]))]
}

# The codes in the order in which their labels first stood in the earlier wave's data.
first_appearance <- function(slot, variable, study) {
  value <- study$data[[slot$variable]][study$records$wave == slot$wave]
  found <- unique(value[!is.na(value)])
  as.integer(found[found %in% variable$codes$code])
}

# In a panel the same persons: their earlier answers, and their rows in the new file.
same_person_rows <- function(pair, own, study) {
  key <- intersect(unlist(lapply(study$book$exports, `[[`, "key")), own$export$names)
  if (!is_panel(study$book) || length(key) == 0) return(NULL)
  keys <- read_texts(own$export, key[1])
  rows <- rows_retained(study)
  rows <- rows[study$records$wave[rows] == pair$slot$wave]
  at <- match(keys, study$records$key[rows])
  list(before = study$data[[pair$slot$variable]][rows][at[!is.na(at)]], now = which(!is.na(at)))
}

agreement_at <- function(before, now) {
  both <- !is.na(before) & !is.na(now)
  if (sum(both) < 20) NA_real_ else mean(before[both] == now[both])
}

# The best two side by side, in words.
assignments_said <- function(assignments) {
  said <- vapply(utils::head(assignments, 2), function(one) paste0(
    one$name, ": shares differ by ", number_show(100 * one$distance, 0), " points",
    if (!is.na(one$agree)) paste0(
      ", ", number_show(100 * one$agree, 0), " % of the same persons answered alike"
    )
  ), "")
  paste0(
    "came as labels before, as bare numbers now, and no labels of the codes are given: ",
    paste(said, collapse = "; "), ". A person has to say which"
  )
}

# All of what is accepted, in full.
delivered_by <- function(assignment, variable) {
  label <- label_of(variable, assignment$code)
  as.list(with_names(label, number_to_text(assignment$file)))
}
