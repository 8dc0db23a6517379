# What a release changes so that nobody is known again, checked before any data.

disclosure_fields <- function() {
  list(
    pseudonyms = field("texts", paste0("identifiers in whose place pseudonyms stand, from a ",
      "secret that is kept outside the project"), "[singer]", default = character()),
    coarsen = field("coarser", paste0("what goes out coarser: a date by `month`, `quarter` or ",
      "`year`, a number in bands (`starts` or `ends`), codes in fewer (`to`); `codes` labels them"),
      "{ended: month, years: {starts: {0: 0, 1: 2, 2: 10}}}", default = list()),
    shift_dates = field("texts", paste0("dates that are moved by as many days as the secret says ",
      "for each person: the days between them stay"), "[started, ended]", default = character()),
    limits = field("spans", "numbers that stop at a bound: what lies beyond becomes the bound",
      "{minutes: [down, 3000]}", default = list()),
    without = field("texts", "variables that do not go out", "[choir]", default = character()),
    order = field("choice", "`shuffled`: the records in an order that the secret says",
      values = "shuffled"),
    smallest_cell = map_field(smallest_cell_fields(),
      "how many respondents each combination of some variables must hold",
      "{of: [region, voice], at_least: 5, rare: drop}")
  )
}

smallest_cell_fields <- function() {
  list(
    of = field("texts", "the variables that others may know of a person", "[region, voice]",
      required = TRUE),
    at_least = field("whole", "the smallest number of respondents", "5", required = TRUE,
      least = 2),
    rare = field("choice", paste0("what is done with rarer ones: their records go (`drop`), the ",
      "answers that `blank` names are emptied (`blank`), or nothing, with a `note` (`accepted`)"),
      values = c("drop", "blank", "accepted")),
    blank = field("texts", "the variables that are emptied", "[region]", default = character()),
    note = field("text", "why rare combinations are accepted", "No choir is named.")
  )
}

# `out` are the variables of the release. Gives what is done to each of them.
compile_disclosure <- function(said, out, with, book, note) {
  if (is.null(said)) return(NULL)
  for (extra in intersect(with, c("addresses", "responses", "ledger"))) note(
    "with", "`", extra, "` would give away what `disclosure` hides: take one of the two out"
  )
  changes <- c(
    lapply(with_names(said$pseudonyms, said$pseudonyms), function(name) list(kind = "pseudonym")),
    lapply(said$coarsen, function(how) c(list(kind = "coarsen"), how)),
    lapply(with_names(said$shift_dates, said$shift_dates), function(name) list(kind = "shift")),
    lapply(said$limits, function(range) list(kind = "limit", range = range))
  )
  twice <- names(changes)[duplicated(names(changes))]
  for (name in unique(twice)) note("disclosure", "`", name, "` is changed twice: say one change")
  for (name in names(changes)) check_change(name, changes[[name]], out, book, note)
  for (name in said$without) if (!name %in% c(names(book$variables), names(book$blocks))) note(
    c("disclosure", "without"), "`", name, "` is not a variable or block of this codebook",
    did_you_mean(name, names(book$variables))
  )
  check_smallest(said$smallest_cell, said, out, book, note)
  list(
    changes = changes, order = said$order, smallest = said$smallest_cell,
    secret = length(said$pseudonyms) > 0 || length(said$shift_dates) > 0 || !is.null(said$order)
  )
}

change_keys <- c(
  pseudonym = "pseudonyms", coarsen = "coarsen", shift = "shift_dates", limit = "limits"
)

check_change <- function(name, change, out, book, note) {
  path <- c("disclosure", change_keys[[change$kind]])
  variable <- book$variables[[name]]
  if (name %in% book$unread || isTRUE(variable$failed)) return()
  if (is.null(variable)) return(note(
    path, "`", name, "` is not a variable of this codebook",
    did_you_mean(name, names(book$variables))
  ))
  if (!name %in% out) return(note(
    path, "`", name, "` does not go out: there is nothing to change"
  ))
  number <- identical(variable$storage, "number")
  problem <- switch(change$kind,
    pseudonym = if (variable$storage != "text" || !is.null(variable$texts))
      "is no identifier: a pseudonym stands for a key or an identifier",
    shift = if (!is_date(variable)) "is no date",
    limit = if (!number) "is no number: only numbers stop at a bound",
    coarsen = coarsen_problem(change, variable)
  )
  if (!is.null(problem)) note(c(path, if (change$kind %in% c("coarsen", "limit")) name), "`", name,
    "` ", problem)
}

coarsen_problem <- function(change, variable) {
  if (!is.null(change$by)) return(if (!is_date(variable)) paste0(
    "is no date: `", change$by, "` is a step of dates"
  ))
  if (is.null(change$to)) {
    if (variable$storage != "number") return("is no number: only numbers are banded")
    edges <- if (is.null(change$starts)) change$ends else change$starts
    if (is.unsorted(edges$at, strictly = TRUE)) return("has bands that do not rise")
    return(if (!is.null(change$starts) && isTRUE(variable$range[1] < edges$at[1]))
      "can be lower than the first band starts: give it a band too")
  }
  if (!is_coded(variable)) return("has no codes: only codes are put together")
  old <- old_codes(variable, unlist(change$to))
  if (anyNA(old)) return(paste0("has no code `", unlist(change$to)[is.na(old)][1], "`"))
  if (anyDuplicated(old)) return("names a code twice")
  left <- setdiff(all_codes(variable), old)
  if (length(left) > 0) paste0("leaves out the code `", label_of(variable, left[1]), "`")
}

check_smallest <- function(cell, said, out, book, note) {
  if (is.null(cell)) return()
  path_of <- function(key) c("disclosure", "smallest_cell", key)
  for (name in setdiff(c(cell$of, cell$blank), out)) note(
    path_of(if (name %in% cell$of) "of" else "blank"), "`", name, "` does not go out",
    did_you_mean(name, out)
  )
  for (name in intersect(cell$of, out)) {
    variable <- book$variables[[name]]
    banded <- !is.null(said$coarsen[[name]])
    if (!is_coded(variable) && is.null(variable$texts) && !banded) note(
      path_of("of"), "`", name,
      "` has no codes: nearly everybody would be alone with it; make bands ",
      "of it first, or put it under `coarsen`"
    )
  }
  if (identical(cell$rare, "blank") && length(cell$blank) == 0) note(
    path_of("rare"), "`blank` needs the variables that are emptied: `blank: [region]`"
  )
  for (name in setdiff(cell$blank, cell$of)) note(
    path_of("blank"), "`", name,
    "` is not one of `of`: to empty it would make no combination larger"
  )
  if (identical(cell$rare, "accepted") && is.null(cell$note)) note(
    path_of("rare"), "`accepted` needs a `note` that says why"
  )
}

date_steps <- c("month", "quarter", "year")

# What says how a number or codes become coarser.
coarser_fields <- function() list(
  starts = field("bounds", "where each code starts", "{0: 0, 1: 2}"),
  ends = field("bounds", "where each code ends", "{0: 2, 1: 10}"),
  to = field("groups", "for each new code its old ones", "{1: [Tenor, Bass]}"),
  codes = field("codes", "the labels of the new codes", "{0: Under 2, 1: 2 and more}")
)
