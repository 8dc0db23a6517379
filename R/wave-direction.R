# Does a list of codes run the other way? By shares that mirror the earlier
# wave's, by the sign of correlations with what stands outside the list, and by
# the same persons' answers in a panel.

judge_directions <- function(pairs, own, study) {
  plain <- which(vapply(
    pairs,
    function(pair) identical(pair$cells, "codes") && is_directed(pair$slot$version) &&
      is.null(own$code_labels[[pair$column]]),
    TRUE
  ))
  if (length(plain) == 0) return(pairs)
  anchors <- anchor_values(pairs, own, study)
  for (group in split(
    plain, vapply(pairs[plain], function(pair) list_of_codes(pair$slot$version), "")
  )) {
    verdicts <- judge_items(lapply(
      pairs[group], direction_evidence, anchors = anchors, own = own, study = study
    ))
    for (k in seq_along(group)) pairs[[group[k]]] <- add_direction(pairs[[group[k]]], verdicts[[k]])
  }
  pairs
}

is_directed <- function(variable) is_coded(variable) && variable$level == "ordinal" &&
  length(all_codes(variable)) >= 3

add_direction <- function(pair, verdict) {
  pair$direction <- verdict
  if (verdict$reversed) pair$changes <- c(
    pair$changes, list(new_change("direction_reversed", "", "", verdict$grounds))
  )
  else if (!verdict$sure) pair$changes <- c(
    pair$changes,
    list(new_change(
      "unsure", "", "",
      paste0(
        "the file holds codes without labels, and nothing tells which way they run (",
        verdict$grounds, "): look at the questionnaire"
      )
    ))
  )
  pair
}

list_of_codes <- function(variable) paste(
  c(variable$codes$code, variable$codes$label, variable$range), collapse = "|"
)

# What correlations are taken with: numbers and ordered codes, in both waves.
anchor_values <- function(pairs, own, study) {
  fit <- Filter(function(pair) {
    variable <- pair$slot$version
    !is.na(pair$column) && (
      variable$storage == "number" ||
      (
        variable$storage == "coded" &&
        (variable$level %in% ordered_levels || nrow(as.data.frame(variable$codes)) == 2)
      )
    )
  }, pairs)
  lapply(fit, function(pair) list(
    list_id = list_of_codes(pair$slot$version), wave = pair$slot$wave,
    before = values_before(pair$slot, study), now = values_now(
      relabelled_slot(pair), pair$column, own, study, pair$cells
    )
  ))
}

# A changed label reads as the one it was.
relabelled_slot <- function(pair) {
  slot <- pair$slot
  for (change in pair$changes) if (change$change == "label_changed")
    slot$version$variants[[change$before]] <- c(slot$version$variants[[change$before]], change$now)
  slot
}

direction_evidence <- function(pair, anchors, own, study) {
  codes <- sort(all_codes(pair$slot$version))
  before <- values_before(pair$slot, study)
  now <- values_now(pair$slot, pair$column, own, study, "codes")
  old <- shares_of(before, codes)
  new <- shares_of(now, codes)
  mine <- list_of_codes(pair$slot$version)
  outside <- Filter(function(anchor) anchor$list_id != mine && anchor$wave == pair$slot$wave,
    anchors)
  r <- vapply(
    outside, function(anchor) c(safe_cor(before, anchor$before), safe_cor(now, anchor$now)),
    numeric(2)
  )
  evidence_of(old, new, matrix(r, 2), sum(!is.na(now)), same_persons(pair, now, own, study))
}

# `r` has the correlations with what stands outside, a row for the earlier wave and
# one for this. z weighs those of this wave by those of the earlier: far below 0
# where all turn.
evidence_of <- function(old, new, r, n, persons) {
  keep <- !is.na(r[1, ]) & !is.na(r[2, ]) & abs(r[1, ]) >= 0.15
  z <- if (any(keep)) sum(r[1, keep] * r[2, keep]) / sqrt(sum(r[1, keep]^2)) * sqrt(n) else NA
  list(
    same = distance_of(old, new), mirrored = distance_of(old, rev(new)), z = z, outside = sum(keep),
    flipped = sum(r[1, keep] * r[2, keep] < 0), persons = persons
  )
}

safe_cor <- function(x, y) {
  both <- !is.na(x) & !is.na(y)
  if (sum(both) < 20 || stats::sd(x[both]) == 0 || stats::sd(y[both]) == 0) NA_real_ else
    stats::cor(x[both], y[both])
}

same_persons <- function(pair, now, own, study) {
  key <- intersect(unlist(lapply(study$book$exports, `[[`, "key")), own$export$names)
  if (!is_panel(study$book) || length(key) == 0) return(NA_real_)
  keys <- read_texts(own$export, key[1])
  rows <- rows_retained(study)
  rows <- rows[study$records$wave[rows] == pair$slot$wave]
  safe_cor(
    as.double(study$data[[pair$slot$variable]])[rows][match(keys, study$records$key[rows])], now
  )
}

# A list is judged as a whole, unless an item of it speaks clearly for itself.
judge_items <- function(evidence) {
  whole <- judge_list(evidence)
  lapply(seq_along(evidence), function(k) {
    alone <- judge_list(evidence[k])
    if (abs(alone$votes) >= 2 || (sign(alone$lead) != sign(whole$lead) && abs(alone$lead) > 0.2))
      alone else whole
  })
}

# Votes: shares count once, correlations outside the list and the same persons twice.
judge_list <- function(evidence) {
  of <- function(name) mean(
    vapply(evidence, function(piece) as.numeric(piece[[name]]), 0), na.rm = TRUE
  )
  lead <- of("same") - of("mirrored")
  z <- of("z")
  persons <- of("persons")
  vote <- c(
    shares = if (abs(lead) > 0.1) sign(lead) else 0,
    outside = if (isTRUE(abs(z) > 1.5)) -2 * sign(z) else 0,
    persons = if (isTRUE(abs(persons) > 0.2)) -2 * sign(persons) else 0
  )
  grounds <- c(
    paste0(
      "shares differ by ", number_show(100 * of("same"), 0), " points as they stand, by ",
      number_show(100 * of("mirrored"), 0), " mirrored"
    ),
    if (!is.na(z) && of("outside") > 0) paste0(
      "of correlations with items outside the list ",
      number_show(100 * of("flipped") / of("outside"), 0), " % change their sign"
    ),
    if (!is.na(persons)) paste0(
      "the same persons' answers go together by ", number_show(persons, 2)
    )
  )
  list(
    reversed = sum(vote) > 0, sure = abs(sum(vote)) >= 1, votes = sum(vote), lead = lead,
    clear = is_clearly_better(of("same"), of("mirrored")),
    grounds = paste(grounds, collapse = "; ")
  )
}

# Distances of two fits: the other one leaves little of a difference that is not small.
is_clearly_better <- function(same, other) isTRUE(same - other >= 0.12 && other <= 0.6 * same)
