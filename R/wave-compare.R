# A wave beside the one before it: what looks like a mistake, and what changed much.

compare_waves <- function(study, name, before, now, rows, reversed, least) {
  variable <- study$book$variables[[name]]
  x <- as.double(study$data[[name]][rows[[1]]])
  y <- as.double(study$data[[name]][rows[[2]]])
  if (sum(!is.na(x)) < least || sum(!is.na(y)) < least) return(list())
  say <- function(level, kind, ...) list(new_finding(
    level, kind, name, now, sum(!is.na(y)), rows[[2]][!is.na(y)], variable$path, paste0(...)
  ))
  verdict <- reversed[[paste(name, now)]]
  if (!is.null(verdict)) return(say(
    "error", "direction_reversed", "looks as if the codes run the other way in ", now, " than in ",
    before, " (", verdict, "): if they do, say under `by_wave: {", now,
    ": {delivered: ...}}` what they stand for"
  ))
  became <- missing_became(study, name, rows, x, y)
  if (!is.null(became)) return(say(
    "error", "missing_became_answer", "looks as if a missing code became an answer in ", now, ": ",
    became
  ))
  codes <- if (is_coded(variable)) sort(unique(c(all_codes(variable), x, y)))
  shares <- if (!is.null(codes)) list(old = shares_of(x, codes), new = shares_of(y, codes))
  shifted <- if (length(codes) >= 4 && is_answer(variable)) shift_of(shares$old, shares$new)
  if (!is.null(shifted)) return(say(
    "error", "codes_shifted", "looks as if the codes of ", now, " are ",
    if (shifted > 0) "one higher" else "one lower", " than those of ", before,
    " for the same answers: does this file count from another number? Say so under `delivered`"
  ))
  changed <- change_of_wave(
    variable, x, y, codes, shares, wave_change_limits(study$book), before, now
  )
  if (is.null(changed)) list() else say("warning", "wave_change", changed)
}

# In words what changed by more than the limits.
change_of_wave <- function(variable, x, y, codes, shares, limits, before, now) {
  if (!is.null(codes)) {
    most <- which.max(abs(shares$new - shares$old))
    if (100 * abs(shares$new[most] - shares$old[most]) >= limits$share - 1e-9) return(paste0(
      "the share of \u201c", label_of(variable, codes[most]), "\u201d went from ",
      number_show(100 * shares$old[most], 1), " % in ", before, " to ",
      number_show(100 * shares$new[most], 1), " % in ", now,
      ": a change among people, or of the question?"
    ))
  }
  if (!has_mean(variable)) return(NULL)
  old <- mean(x, na.rm = TRUE)
  new <- mean(y, na.rm = TRUE)
  change <- (new - old) / stats::sd(x, na.rm = TRUE)
  if (isTRUE(abs(change) >= limits$mean - 1e-9)) paste0(
    "the mean went from ", number_show(old, 2), " in ", before, " to ", number_show(new, 2),
    " in ", now, ", ", number_show(abs(change), 2),
    " standard deviations: a change among people, or of the question or its unit?"
  )
}

# From which change on a wave is pointed out: points of share, standard deviations of the mean.
wave_change_limits <- function(book) utils::modifyList(
  list(share = 15, mean = 0.5), as.list(book$study$wave_change)
)

# Shares that fit much better one code further on, with the end that was left
# empty: where people only moved up a scale, somebody still gives the lowest code.
shift_of <- function(old, new) {
  k <- length(old)
  same <- distance_of(old, new)
  up <- distance_of(c(0, old[-k]), new) + old[k] / 2
  down <- distance_of(c(old[-1], 0), new) + old[1] / 2
  if (same < 0.15 || min(up, down) > 0.12 || min(up, down) > 0.5 * same) return(NULL)
  left <- if (up < down) c(old[1], new[1]) else c(old[k], new[k])
  if (left[1] < 0.02 || left[2] > 0.1 * left[1]) return(NULL)
  if (up < down) 1 else -1
}

# A reason that vanished, and a value, hardly there before, that took its place.
missing_became <- function(study, name, pair_rows, x, y) {
  reasons <- study$book$reasons
  # A text that was merely unlisted before is no missing code.
  told <- setdiff(which(reasons$listed), reason_id(study$book,
    c("not_asked", "not_in_wave", "no_answer", "set_aside")))
  counts <- lapply(
    pair_rows,
    function(rows) tabulate(as.integer(study$reasons[[name]][rows]), nrow(reasons)) / length(rows)
  )
  for (id in told) {
    before <- counts[[1]][id]
    if (before * length(x) < 3 || before < 0.01 || counts[[2]][id] > 0.25 * before) next
    values <- sort(unique(y[!is.na(y)]))
    share <- vapply(values, function(value) mean(y == value, na.rm = TRUE), 0)
    earlier <- vapply(values, function(value) mean(x == value, na.rm = TRUE), 0)
    rise <- share >= 0.5 * before & earlier < 0.25 * share & (
      values == max(values) | values == min(values)
    )
    if (!any(rise)) next
    hit <- which(rise)[which.max(share[rise])]
    return(paste0(
      "\u201c", reasons$label[id], "\u201d went from ", number_show(100 * before, 1), " % to ",
      number_show(100 * counts[[2]][id], 1), " %, while ", number_to_text(values[hit]),
      ", hardly there before, is ", number_show(100 * share[hit], 1),
      " % of the answers: add it under `missing`"
    ))
  }
  NULL
}
