#' Statistics of each wave
#'
#' @param study A study, from [build_study()].
#' @param variables Names of variables or blocks; all kept ones with codes or numbers if not said.
#' @param by A coded variable: statistics by its groups too.
#' @return A data frame, a row a variable, wave (where it was asked), group and
#'   statistic: `variable`, `wave`, `group` (empty without `by`), `n` (retained records),
#'   `answered`,
#'   `statistic` (`mean`, `sd`, or `share` in percent of the answered), `code`, `label` and `value`.
#'   Gaps by
#'   reason stand as `statistic` `gap`, with the reason as `label` and its count as `value`.
#' @examples
#' study <- build_study(demo_project(tempfile(), waves = 2))
#' head(wave_statistics(study, "belonging"))
#' @export
wave_statistics <- function(study, variables = NULL, by = NULL) {
  keep_own_options()
  check_study_class(study)
  book <- study$book
  names <- if (is.null(variables)) compared_variables(study) else setdiff(
    unlist(lapply(
      variables,
      function(name) if (name %in% names(book$blocks)) book$blocks[[name]] else named_variables(
        name, book
      )
    )),
    private_variables(book)
  )
  for (name in names) if (!book$variables[[name]]$storage %in% c("coded", "number")) stop_mavik(
    "build_error", "`", name, "` has neither codes nor numbers (level ",
    book$variables[[name]]$level, "): nothing of it can be compared over waves"
  )
  if (length(names) == 0) stop_mavik(
    "build_error", "there is no variable with codes or numbers to compare over waves"
  )
  check_by(by, book)
  rows <- rows_retained(study)
  group <- if (!is.null(by)) group_of(study, by, rows)
  parts <- unlist(lapply(names,
    function(name) lapply(waves_asked(book$variables[[name]], book), function(wave) {
    here <- study$records$wave[rows] == wave
    if (is.null(group)) return(list(wave_rows(study, name, wave, "", rows[here])))
    lapply(
      levels(group),
      function(one) wave_rows(study, name, wave, one, rows[here & !is.na(group) & group == one])
    )
  })), recursive = FALSE)
  out <- do.call(rbind, unlist(parts, recursive = FALSE))
  rownames(out) <- NULL
  out
}

wave_rows <- function(study, name, wave, group, rows) {
  variable <- study$book$variables[[name]]
  value <- study$data[[name]][rows]
  gaps <- count_gaps(study$reasons[[name]][rows], study$book, length(rows))
  answered <- length(rows) - sum(gaps$count)
  row <- function(statistic, code = "", label = "", value) data.frame(
    variable = name, wave = wave, group = group, n = length(rows), answered = answered,
    statistic = statistic, code = code, label = label, value = value
  )
  codes <- if (is_coded(variable)) count_codes(variable, value, length(rows), answered)
  rbind(
    if (has_mean(variable) && answered > 0) row(
      c("mean", "sd"),
      value = c(mean(as.double(value), na.rm = TRUE), stats::sd(as.double(value), na.rm = TRUE))
    ),
    if (!is.null(codes) && nrow(codes) > 0) row(
      "share", number_to_text(codes$code), codes$label, codes$of_answered
    ),
    if (nrow(gaps) > 0) row("gap", gaps$name, gaps$label, as.double(gaps$count))
  )
}

# All records of each wave.
rows_by_wave <- function(study) lapply(
  with_names(names(study$book$waves), names(study$book$waves)),
  function(wave) which(study$records$wave == wave)
)

has_mean <- function(variable) variable$storage == "number" || (
  is_coded(variable) && variable$level %in% ordered_levels
)

compared_variables <- function(study) {
  kept <- kept_variables(study$book)
  kept[vapply(
    study$book$variables[kept], function(variable) variable$storage %in% c("coded", "number"), TRUE
  )]
}

audit_waves <- list(findings = function(study) {
  c(export_findings(study), erased_findings(study), key_findings(study), wave_findings(study))
})

# Jumps between a wave and the one before it, and what they look like. Only what
# at least 20 people answered in both is compared.
wave_findings <- function(study, least = 20) {
  book <- study$book
  rows <- rows_retained(study)
  came <- rows_by_wave(study)
  kept <- logical(nrow(study$data))
  kept[rows] <- TRUE
  at <- lapply(came, function(here) here[kept[here]])
  lost <- names(came)[lengths(came) >= least & lengths(at) < 0.5 * lengths(came)]
  # A screen that takes most of a wave may rest on what went wrong in it.
  at[lost] <- came[lost]
  if (sum(lengths(at) >= least) < 2) return(list())
  names <- names(Filter(
    function(variable) variable$storage %in% c("coded", "number") && !is_disposition(variable) && (
      is_answer(variable) || isTRUE(variable$kept)
    ),
    book$variables
  ))
  names <- setdiff(names, private_variables(book))
  reversed <- reversed_lists(study, at, least)
  each <- lapply(names, function(name) {
    let_go_after(nrow(study$data))
    waves <- Filter(
      function(wave) length(at[[wave]]) >= least, waves_asked(book$variables[[name]], book)
    )
    lapply(
      seq_along(waves)[-1],
      function(k) compare_waves(
        study, name, waves[k - 1], waves[k], at[waves[c(k - 1, k)]], reversed, least
      )
    )
  })
  c(unlist(unlist(each, recursive = FALSE), recursive = FALSE),
    lapply(lost,
      function(wave) new_finding("error", "wave_dropped", "", wave,
        length(setdiff(came[[wave]], rows)), setdiff(came[[wave]], rows), c("waves", wave),
    paste0(
      "most records of ", wave, " are dropped (",
      names(which.max(table(study$disposition[setdiff(came[[wave]], rows)]))),
      " takes the most): a screen that reads a question which changed in this wave?"
    ))))
}

compare_waves <- function(study, name, before, now, at, reversed, least) {
  variable <- study$book$variables[[name]]
  let_go_after(4 * sum(lengths(at)))
  x <- as.double(study$data[[name]][at[[1]]])
  y <- as.double(study$data[[name]][at[[2]]])
  if (sum(!is.na(x)) < least || sum(!is.na(y)) < least) return(list())
  limits <- wave_change_limits(study$book)
  say <- function(level, kind, ...) list(new_finding(
    level, kind, name, now, sum(!is.na(y)), at[[2]][!is.na(y)], variable$path, paste0(...)
  ))
  verdict <- reversed[[paste(name, now)]]
  if (!is.null(verdict)) return(say(
    "error", "direction_reversed", "looks as if the codes run the other way in ", now, " than in ",
    before, " (", verdict, "): if they do, say under `by_wave: {", now,
    ": {delivered: ...}}` what they stand for"
  ))
  codes <- if (is_coded(variable)) sort(unique(c(all_codes(variable), x, y)))
  old <- if (!is.null(codes)) shares_of(x, codes)
  new <- if (!is.null(codes)) shares_of(y, codes)
  became <- missing_became(study, name, at, x, y)
  if (!is.null(became)) return(say(
    "error", "missing_became_answer", "looks as if a missing code became an answer in ", now, ": ",
    became
  ))
  shifted <- if (length(codes) >= 4 && is_answer(variable)) shift_of(old, new)
  if (!is.null(shifted)) return(say(
    "error", "codes_shifted", "looks as if the codes of ", now, " are ",
    if (shifted > 0) "one higher" else "one lower", " than those of ", before,
    " for the same answers: does this file count from another number? Say so under `delivered`"
  ))
  if (!is.null(codes)) {
    most <- which.max(abs(new - old))
    if (100 * abs(new[most] - old[most]) >= limits$share - 1e-9) return(say(
      "warning", "wave_change", "the share of \u201c", label_of(variable, codes[most]),
      "\u201d went from ", number_show(100 * old[most], 1), " % in ", before, " to ",
      number_show(100 * new[most], 1), " % in ", now, ": a change among people, or of the question?"
    ))
  }
  if (has_mean(variable)) {
    spread <- stats::sd(x, na.rm = TRUE)
    change <- (mean(y, na.rm = TRUE) - mean(x, na.rm = TRUE)) / spread
    if (isTRUE(abs(change) >= limits$mean - 1e-9)) return(say(
      "warning", "wave_change", "the mean went from ", number_show(mean(x, na.rm = TRUE), 2),
      " in ", before, " to ", number_show(mean(y, na.rm = TRUE), 2), " in ", now, ", ",
      number_show(abs(change), 2),
      " standard deviations: a change among people, or of the question or its unit?"
    ))
  }
  list()
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
missing_became <- function(study, name, at, x, y) {
  reasons <- study$book$reasons
  # A text that was merely unlisted before is no missing code.
  told <- setdiff(which(reasons$listed), reason_id(study$book,
    c("not_asked", "not_in_wave", "no_answer", "set_aside")))
  counts <- lapply(
    at,
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

# Items whose list runs the other way, by the same evidence as for a new wave.
reversed_lists <- function(study, at, least) {
  book <- study$book
  items <- Filter(function(variable) is_answer(variable) && is_directed(variable), book$variables)
  if (length(items) == 0) return(list())
  list_id <- vapply(items, list_of_codes, "")
  outside <- utils::head(
    names(Filter(function(variable) has_mean(variable) && is_answer(variable), book$variables)), 40
  )
  let_go_after(10 * nrow(study$data))
  waves <- lapply(at, wave_correlations, study = study, items = names(items), outside = outside)
  answered <- vapply(names(items), function(name) {
    let_go_after(nrow(study$data))
    vapply(at, function(rows) sum(!is.na(study$data[[name]][rows])), 0L)
  }, integer(length(at)))
  answered <- matrix(answered, length(at))
  out <- list()
  for (k in seq_along(at)[-1]) {
    same <- if (is_panel(book)) match(
      study$records$key[waves[[k]]$rows], study$records$key[at[[k - 1]]]
    )
    for (id in unique(list_id)) {
      here <- names(items)[list_id == id & answered[k - 1, ] >= least & answered[k, ] >= least]
      others <- outside[vapply(book$variables[outside], list_of_codes, "") != id]
      evidence <- lapply(
        with_names(here, here),
        function(name) turned_evidence(
          study, items[[name]], at[c(k - 1, k)], waves[c(k - 1, k)], others, same
        )
      )
      reversed <- reversed_among(evidence)
      out[paste(names(reversed), names(at)[k], recycle0 = TRUE)] <- reversed
    }
  }
  out
}

# What looks reversed for sure: an answer of last wave may well have moved by itself.
reversed_among <- function(evidence) {
  if (length(evidence) == 0) return(list())
  verdicts <- with_names(judge_items(evidence), names(evidence))
  lapply(
    Filter(
      function(verdict) verdict$votes >= 2 || (verdict$votes == 1 && verdict$lead > 0.3), verdicts
    ),
    `[[`, "grounds"
  )
}

# Correlations of items with what stands outside; a few thousand records tell a sign.
wave_correlations <- function(rows, study, items, outside, most = 4000) {
  rows <- if (length(rows) > most) rows[round(seq(1, length(rows), length.out = most))] else rows
  values <- function(names) vapply(
    names, function(name) as.double(study$data[[name]][rows]), numeric(length(rows))
  )
  x <- matrix(values(items), length(rows), dimnames = list(NULL, items))
  y <- matrix(values(outside), length(rows), dimnames = list(NULL, outside))
  let_go_after(length(rows) * (length(items) + length(outside)))
  if (length(rows) < 3) return(list(
    r = matrix(NA_real_, length(items), length(outside), dimnames = list(items, outside)),
    rows = rows
  ))
  r <- suppressWarnings(stats::cor(x, y, use = "pairwise.complete.obs"))
  r[crossprod(!is.na(x), !is.na(y)) < 20] <- NA
  list(r = r, rows = rows)
}

# `same` are the places of the sampled persons in the earlier wave.
turned_evidence <- function(study, variable, pair, waves, outside, same) {
  let_go_after(4 * sum(lengths(pair)))
  value <- study$data[[variable$name]]
  codes <- sort(all_codes(variable))
  sampled <- waves[[2]]$rows
  persons <- if (is.null(same)) NA_real_ else safe_cor(value[pair[[1]]][same], value[sampled])
  evidence_of(
    shares_of(value[pair[[1]]], codes), shares_of(value[pair[[2]]], codes),
    rbind(waves[[1]]$r[variable$name, outside], waves[[2]]$r[variable$name, outside]),
    sum(!is.na(value[sampled])), persons
  )
}

# What an export as a whole is held against: cells of another kind, another language.
export_findings <- function(study) {
  book <- study$book
  let_go_after(nrow(study$data))
  coded <- names(Filter(
    function(variable) variable$way == "column" && is_coded(variable), book$variables
  ))
  exports <- Filter(function(export) is.null(export$adds_to), book$exports)
  at <- match(study$records$export, names(exports))
  entries <- Filter(
    function(entry) entry$kind == "unlisted" && entry$variable %in% coded, study$ledger
  )
  # Without a cell that could not be read nothing is lost.
  some <- unique(vapply(entries, `[[`, "", "variable"))
  unread <- lapply(
    with_names(some, some),
    function(name) at[unlist(lapply(entries, function(entry) if (entry$variable == name)
      entry$rows))]
  )
  lost <- vapply(some, function(name) {
    let_go_after(nrow(study$data))
    unlisted <- tabulate(unread[[name]], length(exports))
    answered <- tabulate(at[!is.na(study$data[[name]])], length(exports))
    ifelse(unlisted + answered < 10, NA, unlisted / (unlisted + answered))
  }, numeric(length(exports)))
  lost <- matrix(lost, length(exports))
  Filter(Negate(is.null), lapply(seq_along(exports), function(k) {
    many <- some[which(lost[k, ] >= 0.8)]
    if (length(many) > 0) unread_finding(study, exports[[k]], many, entries, which(at == k), coded)
  }))
}

unread_finding <- function(study, export, many, entries, rows, coded) {
  texts <- unlist(lapply(
    entries,
    function(entry) if (entry$variable %in% many) entry$was[entry$was_index[entry$rows %in% rows]]
  ))
  numbers <- mean(!is.na(text_to_number(texts))) > 0.8
  lists <- vapply(study$book$variables[coded], list_of_codes, "")
  all <- length(unique(lists[many])) >= max(2, 0.5 * length(unique(lists)))
  new_finding("error", "cells_unread", if (length(many) == 1) many else "", "", length(texts), rows,
    c("exports", export$entry), paste0(
    "hardly an answer of ", some_of(many, 6), " can be read: ", if (numbers) paste0(
      "the cells hold codes, not labels? Say `cells: codes`",
      if (!all) paste0(" under their `by_wave: {", export$wave, ": ...}`")
    )
    else if (all) paste(
      "is the file in another language, in another encoding,",
      "or does it hold labels in place of codes?"
    ) else "were the labels changed in this wave? `mavik align` compares them"))
}

# A wave of which an `erase` screen took most: what it reads may have changed there.
erased_findings <- function(study) {
  gone <- table(factor(study$purged$wave, names(study$book$waves)))
  retained <- table(factor(study$records$wave, names(study$book$waves)))
  lost <- names(gone)[gone >= 20 & gone > retained]
  lapply(lost,
    function(wave) new_finding("error", "wave_dropped", "", wave, gone[[wave]], integer(),
      c("waves", wave),
    paste0(
      "most records of ", wave, " are purged by ", some_of(names(study$erased)),
      ": does that screen read a question which changed in this wave?"
    )))
}

# Keys over exports and waves: what makes one person two, or two one.
key_findings <- function(study) {
  let_go_after(4 * nrow(study$data))
  book <- study$book
  records <- study$records
  name <- key_variable(book)
  shown <- function(keys) if (key_is_private(book)) masked else some_of(
    unique(keys), 5, quote = FALSE
  )
  say <- function(level, kind, rows, path, ...) if (length(rows) > 0) list(new_finding(
    level, kind, name, shown(records$key[rows]), length(rows), rows, path, paste0(...)
  ))
  at <- rows_by_wave(study)
  numbered <- vapply(book$exports, is_numbered, TRUE)
  keys <- unique(records$key)
  id <- match(records$key, keys)
  # The first wave of each key; keys that nearly match share a number.
  wave_of_key <- match(records$wave, names(at))[match(keys, records$key)]
  let_go_after(4 * length(keys))
  near_id <- if (is_panel(book)) { near <- text_near(keys); match(near, near) }
  c(
    unlist(lapply(names(at), function(wave) {
      rows <- at[[wave]]
      exports <- unique(records$export[rows])
      if (length(exports) < 2 || any(numbered[exports])) return(NULL)
      pairs <- unique(data.frame(key = records$key[rows], export = records$export[rows]))
      twice <- unique(pairs$key[duplicated(pairs$key)])
      say("warning", "in_two_exports", rows[records$key[rows] %in% twice], "exports",
        "respondents of wave ", wave, " stand in more than one of its exports (",
        some_of(unique(records$export[rows[records$key[rows] %in% twice]]), 5),
        "): the same responses again (then `adds_to`), or did they answer twice?")
    }), recursive = FALSE),
    say(
      "warning", "key_exponent", which(grepl("^[0-9]([.,][0-9]+)?E[+]?[0-9]+$", records$key)),
      "exports",
      paste0(
        "keys in exponent form: a spreadsheet made numbers of them, and their last digits are ",
        "lost; take the export as it came from the platform"
      )
    ),
    if (is_panel(book)) unlist(lapply(seq_along(at)[-1], function(k) {
      rows <- at[[k]]
      earlier <- wave_of_key < k
      open <- rows[!earlier[id[rows]]]
      here <- logical(length(keys))
      here[id[rows]] <- TRUE
      near <- open[near_id[id[open]] %in% near_id[earlier & !here]]
      c(
        say(
          "warning", "key_near_earlier", near, "exports", "keys of wave ", names(at)[k],
          paste0(
            " that are in no earlier wave, but would be with other zeros in front, case or ",
            "spaces: the same people? Keys that became numbers in a spreadsheet lose their zeros"
          )
        ),
        if (length(rows) > 0 && any(earlier) && length(open) == length(rows)) say(
          "warning", "no_key_again", rows, c("waves", names(at)[k]), "nobody of wave ",
          names(at)[k], " is in an earlier wave, in a panel: does the key mean the same in both?"
        )
      )
    }), recursive = FALSE),
    if (book$design == "repeated") {
      several <- unique(data.frame(key = records$key, wave = records$wave))
      twice <- several$key[duplicated(several$key)]
      if (!any(numbered)) say(
        "note", "key_in_waves", which(records$key %in% twice), c("study", "design"),
        paste0(
          "keys that stand in several waves, while each wave is of people of its own: if they ",
          "are the same people, say `design: panel`"
        )
      )
    }
  )
}
