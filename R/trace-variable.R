# The story of a variable over all records: from its columns to its values, with
# a count at each step.

story_of_variable <- function(study, name) {
  book <- study$book
  variable <- book$variables[[name]]
  structure(list(
    variable = name, label = variable$label, level = variable$level,
    private = name %in% private_variables(book), kept = isTRUE(variable$kept),
    made = made_in_words(variable, book), path = paste(variable$path, collapse = " > "),
    where = where_shown(book, variable$path),
    columns = columns_read(study, variable), universe = variable$universe$text,
    steps = variable_steps(study, variable),
    uses = book$uses[[name]], used_by = uses_of(book, name)
  ), class = "mavik_why")
}

# How it is made, and what differs in a wave.
made_in_words <- function(variable, book) paste(
  setdiff(c(way_of(variable)$sentence(variable, book), differences_shown(variable, book)), ""),
  collapse = " "
)

where_shown <- function(book, path) {
  mark <- mark_of_path(book, path)
  if (is.null(mark)) return(paste(path, collapse = " > "))
  if (!is.null(mark$place)) paste(basename(book$file), mark$place) else at_line(
    basename(book$file), mark$key_line
  )
}

columns_read <- function(study, variable) {
  exports <- Filter(function(export) is.null(export$adds_to), study$book$exports)
  read <- lapply(unname(exports), function(export) {
    columns <- columns_in(variable, export)
    data.frame(
      column = columns, export = rep(export$name, length(columns)),
      file = rep(export$shown, length(columns))
    )
  })
  do.call(rbind, read)
}

# What reads this variable: made ones, universes, rules, screens.
uses_of <- function(book, name) {
  made <- names(Filter(function(uses) name %in% uses, book$uses))
  asked <- names(Filter(function(variable) name %in% universe_uses(variable), book$variables))
  rules <- names(Filter(function(rule) name %in% rule$reads, book$rules))
  screens <- names(Filter(function(screen) name %in% c(screen$reads, screen$counts), book$screens))
  kind <- rep(
    c("made of it", "universe", "rule", "screen"),
    c(length(made), length(asked), length(rules), length(screens))
  )
  data.frame(kind = kind, name = c(made, asked, rules, screens))
}

# Answers and gaps of all records, then step by step what was done to them.
variable_steps <- function(study, variable) {
  n <- nrow(study$data)
  reason <- study$reasons[[variable$name]]
  gaps <- count_gaps(reason, study$book, n)
  answered <- n - sum(gaps$count)
  touched <- touched_by_kind(study, variable)
  step <- function(name, count, words) {
    data.frame(step = name, count = as.integer(count), words = words)
  }
  some <- function(name, words) if (touched(name) > 0) step(name, touched(name), words)
  answer <- is_answer(variable)
  retained <- n_retained(study)
  here <- if (is.null(reason)) retained else sum(is.na(retained_of(reason, study)))
  range <- paste(range_shown(variable), collapse = " to ")
  rbind(
    step("records", n, "received, those of an `erase` screen apart"),
    step(
      if (answer) "decoded" else "made", answered + touched("", TRUE),
      if (answer) "answers read from their cells" else "values made"
    ),
    some("variant", "of them in another form"), some("write_in", "of them as a write-in"),
    some("unlisted", "cells that are none of its values: set aside"),
    some("corrected", "corrected by the sheet of corrections"),
    some("range", paste0("outside ", range, ": set aside")),
    some("universe", "answered although not asked: set aside"),
    some("rule", "against a rule: set aside"),
    some("exclusive", "ticked with what excludes it: set aside"), some("imputed", "gaps filled"),
    step("answered", answered, "hold a value"),
    if (nrow(gaps) > 0) step("gap", gaps$count, paste0(gaps$label, " (", gaps$name, ")")),
    if (retained < n) step("retained", here, paste0(
      "of these values stand in the analysis file's ", count_of(retained, "row")
    ))
  )
}

# How many cells each kind of the ledger touched; with `undone`, how many values more
# there were before.
touched_by_kind <- function(study, variable) {
  entries <- Filter(function(entry) entry$variable == variable$name, study$ledger)
  count <- function(kind, with_value = FALSE) sum(0L, unlist(lapply(entries, function(entry) {
    if (entry$kind != kind || (with_value && nzchar(entry$was_reason))) 0L else length(entry$rows)
  })))
  gained <- sum(0L, unlist(lapply(entries, function(entry) {
    if (entry$kind != "corrected") return(0L)
    length(entry$rows) * (nzchar(entry$was_reason) - nzchar(entry$now_reason))
  })))
  function(kind, undone = FALSE) {
    if (!undone) return(count(kind))
    count("range") + count("universe", TRUE) + count("rule") + count("exclusive") -
      count("imputed") - gained
  }
}
