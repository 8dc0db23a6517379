# What looks wrong over waves, as findings of a built study.

audit_waves <- list(findings = function(study) {
  c(
    export_findings(study), erased_findings(study), key_findings(study), reworded_questions(study),
    wave_findings(study)
  )
})

# Jumps between a wave and the one before it, and what they look like. Only what
# at least 20 people answered in both is compared.
wave_findings <- function(study, least = 20) {
  book <- study$book
  rows <- rows_retained(study)
  came <- rows_by_wave(study)
  kept <- logical(nrow(study$data))
  kept[rows] <- TRUE
  retained <- lapply(came, function(here) here[kept[here]])
  lost <- names(came)[lengths(came) >= least & lengths(retained) < 0.5 * lengths(came)]
  # A screen that takes most of a wave may rest on what went wrong in it.
  retained[lost] <- came[lost]
  if (sum(lengths(retained) >= least) < 2) return(list())
  names <- names(Filter(
    function(variable) variable$storage %in% c("coded", "number") && !is_disposition(variable) && (
      is_answer(variable) || isTRUE(variable$kept)
    ),
    book$variables
  ))
  names <- setdiff(names, private_variables(book))
  reversed <- reversed_lists(study, retained, least)
  each <- lapply(names, function(name) {
    waves <- Filter(
      function(wave) length(retained[[wave]]) >= least, waves_asked(book$variables[[name]], book)
    )
    lapply(
      seq_along(waves)[-1],
      function(k) compare_waves(
        study, name, waves[k - 1], waves[k], retained[waves[c(k - 1, k)]], reversed, least
      )
    )
  })
  c(unlist(unlist(each, recursive = FALSE), recursive = FALSE),
    turned_lists(study, retained, least, names(reversed)),
    lapply(lost,
      function(wave) new_finding("error", "wave_dropped", "", wave,
        length(setdiff(came[[wave]], rows)), setdiff(came[[wave]], rows), c("waves", wave),
    paste0(
      "most records of ", wave, " are dropped (",
      names(which.max(table(study$disposition[setdiff(came[[wave]], rows)]))),
      " takes the most): a screen that reads a question which changed in this wave?"
    ))))
}

# What an export as a whole is held against: cells of another kind, another language.
export_findings <- function(study) {
  book <- study$book
  coded <- names(Filter(
    function(variable) holds_one(variable) && is_coded(variable), book$variables
  ))
  exports <- Filter(function(export) is.null(export$adds_to), book$exports)
  place <- match_texts(study$records$export, names(exports))
  entries <- Filter(
    function(entry) entry$kind == "unlisted" && entry$variable %in% coded, study$ledger
  )
  # Without a cell that could not be read nothing is lost.
  some <- unique(vapply(entries, `[[`, "", "variable"))
  lost <- vapply(some, function(name) {
    unread <- lapply(entries, function(entry) if (entry$variable == name) place[entry$rows])
    unlisted <- tabulate(unlist(unread), length(exports))
    answered <- answered_by(study, name, place, length(exports))
    ifelse(unlisted + answered < 10, NA, unlisted / (unlisted + answered))
  }, numeric(length(exports)))
  lost <- matrix(lost, length(exports))
  Filter(Negate(is.null), lapply(seq_along(exports), function(k) {
    many <- some[which(lost[k, ] >= 0.8)]
    if (length(many) > 0) unread_finding(
      study, exports[[k]], many, entries, which(place == k), coded)
  }))
}

# How many have a value, for each export.
answered_by <- function(study, name, place, exports) {
  if (exports > 1) {
    here <- spread_of(place, exports, as.double(study$data[[name]]), NULL)
    return(here$n - here$gaps)
  }
  reason <- study$reasons[[name]]
  gaps <- if (is.null(reason)) 0L else count_between(reason, NULL, 1L, nlevels(reason))
  length(place) - sum(gaps)
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
  waves <- names(study$book$waves)
  gone <- with_names(tabulate(match(study$purged$wave, waves), length(waves)), waves)
  retained <- counted_each(study$records$wave, waves)
  lost <- names(gone)[gone >= 20 & gone > retained]
  lapply(lost,
    function(wave) new_finding("error", "wave_dropped", "", wave, gone[[wave]], integer(),
      c("waves", wave),
    paste0(
      "most records of ", wave, " are purged by ", some_of(names(study$erased)),
      ": does that screen read a question which changed in this wave?"
    )))
}
