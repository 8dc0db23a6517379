# From decoded to routed: what a variable's own range rules out is set aside,
# and where its universe is false it was not asked. `truth` is the universe's.

route_answer <- function(column, variable, truth, filter_reason, book) {
  ranged <- if (identical(variable$storage, "set")) set_exclusive_aside(column, variable, book)
    else if (has_own_range(variable)) set_outside_aside(column, variable, book) else
      list(column = column)
  if (is.null(variable$universe)) return(ranged)
  asked <- keep_to_universe(ranged$column, variable, truth, filter_reason, book)
  list(
    column = asked$column, ledger = c(ranged$ledger, asked$ledger),
    findings = c(ranged$findings, asked$findings), skips = asked$skips
  )
}

# A range that the entry itself says, whatever its way.
has_own_range <- function(variable) {
  variable$storage %in% c("number",
    "date") && !is.null(variable$range) && "range" %in% variable$said
}

# What excludes all others, ticked beside another: which of them is meant nobody knows.
set_exclusive_aside <- function(column, variable, book) {
  rows <- exclusive_rows(column, variable)
  if (length(rows) == 0) return(list(column = column))
  was <- distinct_of(column$value[rows])
  path <- where_in(variable, variable$way, "exclusive")
  list(
    column = set_aside(column, rows, book),
    ledger = list(new_entry(
      "exclusive", variable$name, path, rows, value_text(variable, was$value), was$index,
      now_reason = "set_aside"
    )),
    findings = list(new_finding("warning", "exclusive", variable$name,
      value_text(variable, was$value[which.max(tabulate(was$index))]), length(rows), rows, path,
      "ticked together with what excludes all others: the whole set is set aside"))
  )
}

set_outside_aside <- function(column, variable, book) {
  rows <- rows_outside(column$value, variable$range[1], variable$range[2])
  if (length(rows) == 0) return(list(column = column))
  was <- distinct_of(column$value[rows])
  path <- where_in(variable, "range")
  shown <- paste(range_shown(variable), collapse = " to ")
  list(
    column = set_aside(column, rows, book),
    ledger = list(new_entry(
      "range", variable$name, path, rows, value_text(variable, was$value), was$index,
      now_reason = "set_aside"
    )),
    findings = Map(function(written, rows) new_finding("warning", "range", variable$name, written,
      length(rows), rows, path, paste0("outside ", shown, ", set aside")),
      value_text(variable, was$value), split(rows, was$index), USE.NAMES = FALSE)
  )
}

set_aside <- function(column, rows, book) {
  reason <- reason_or_none(column)
  reason[rows] <- reason_id(book, "set_aside")
  column$value[rows] <- NA
  new_column(column$value, reason)
}

# Outside, a blank was not asked, and whatever else a cell held is set aside;
# what is set aside already, or was never in the file, retained as it is. Where the
# filter is unknown, an answer is retained and a blank takes the filter's own reason.
keep_to_universe <- function(column, variable, truth, filter_reason, book) {
  id <- function(...) reason_id(book, c(...))
  path <- where_in(variable, "universe")
  kept <- keep_universe(
    gaps_in(column$value), as.integer(column$reason), truth, as.integer(filter_reason),
    id("no_answer"), id("not_asked"), id("set_aside"),
    id("not_asked", "not_in_wave", "not_found", "set_aside")
  )
  against <- kept$against
  entries <- universe_entries(column, reason_or_none(column), against, variable, path, book)
  if (length(against) > 0) column$value[against] <- NA
  list(
    column = new_column(column$value, kept$reason), ledger = entries,
    findings = universe_findings(variable, path, against, kept$unsure), skips = kept$skips
  )
}

universe_entries <- function(column, reason, rows, variable, path, book) {
  lapply(unname(split(rows, reason[rows])), function(rows) {
    was <- distinct_of(column$value[rows])
    gap <- reason[rows[1]]
    new_entry("universe", variable$name, path, rows,
      if (gap > 0) "" else value_text(variable, was$value),
      if (gap > 0) rep(1L, length(rows)) else was$index,
      was_reason = if (gap > 0) book$reasons$name[gap] else "", now_reason = "set_aside")
  })
}

universe_findings <- function(variable, path, against, unsure) {
  shown <- paste0("`", text_squeeze(variable$universe$text), "`")
  c(
    if (length(against) > 0) list(new_finding("warning", "universe", variable$name, "",
      length(against), against, path,
      paste0(
        "answered by people who were not asked (", shown,
        " is false), set aside; was the skip not kept, or is the filter wrong?"
      ))),
    if (length(unsure) > 0) list(new_finding("note", "universe_unknown", variable$name, "",
      length(unsure), unsure, path,
      paste0(
        "answered, and whether the question was asked is unknown (", shown,
        " rests on a gap): the answers stay"
      )))
  )
}
