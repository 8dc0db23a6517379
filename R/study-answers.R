# Variable by variable; raw cells go as soon as they are decoded. `placed` are the
# corrections by variable.
decode_answers <- function(inputs, book, records, placed) {
  offsets <- cumsum(c(0L, vapply(inputs, function(input) input$facts$records, 0L)))
  reading <- Filter(function(variable) length(columns_of(variable)) > 0, book$variables)
  who <- if (length(placed$of) > 0) joined_id(records$wave, ids_of(records))
  touched <- lapply(placed$of, function(sheet) {
    which(who %in% joined_id(sheet$wave, sheet$respondent))
  })
  beside <- decode_beside(reading, inputs, book, offsets, names(placed$of))
  on.exit(beside$stop_waiting())
  here <- reading[setdiff(names(reading), beside$names)]
  pending <- pending_columns(here, inputs, book)
  parts <- list()
  for (name in names(here)) {
    signal_progress("decode", name, match(name, names(reading)), length(reading))
    answers <- decode_variable(here[[name]], inputs, book, offsets, touched[[name]])
    if (!is.null(placed$of[[name]])) answers <- corrected_answers(
      answers, here[[name]], placed$of[[name]], records, book
    )
    answers$column <- held_column(answers$column, book$held)
    answers$ledger <- held_entries(answers$ledger, book$held)
    parts[[name]] <- answers[c("column", "ledger", "findings", "against", "problems")]
    gone <- used_up(here[[name]], book$exports[names(inputs)], pending)
    pending <- gone$pending
    inputs <- Map(let_go, inputs, gone$columns)
  }
  forget_waiting()
  parts <- c(parts, lapply(beside$wait(), fetched, folder = book$held))[names(reading)]
  all_of <- function(what) unlist(unname(lapply(parts, `[[`, what)), recursive = FALSE)
  problems <- c(placed$problems, all_of("problems"))
  if (length(problems) > 0) stop_mavik(
    "build_error", paste(problems, collapse = "\n"), facts = list(problems = problems)
  )
  list(
    values = lapply(parts, `[[`, "column"), ledger = all_of("ledger"),
    contradicted = contradicted_by_rule(parts),
    findings = c(alone_findings(inputs, offsets, book), merge_findings(all_of("findings")))
  )
}

corrected_answers <- function(answers, variable, placed, records, book) {
  of_rows <- function(rows) answers$texts[match(rows, answers$texts$row), ]
  fixed <- correct_answer(answers$column, variable, placed, records, book, of_rows)
  answers$column <- fixed$column
  answers$ledger <- c(answers$ledger, fixed$ledger)
  answers$problems <- fixed$problems
  answers
}

# By rule and variable, the rows in which two files contradict each other.
contradicted_by_rule <- function(parts) {
  out <- list()
  for (name in names(parts)) for (rule in names(parts[[name]]$against))
    out[[rule]][[name]] <- parts[[name]]$against[[rule]]
  out
}

# How many variables are still to read each column of each export.
pending_columns <- function(reading, inputs, book) lapply(
  book$exports[names(inputs)],
  function(export) table(as.character(unlist(lapply(reading, columns_in, export = export))))
)

# The columns of each export that no further variable reads.
used_up <- function(variable, exports, pending) {
  columns <- list()
  for (k in seq_along(exports)) {
    here <- columns_in(variable, exports[[k]])
    pending[[k]][here] <- pending[[k]][here] - 1L
    columns[[k]] <- here[pending[[k]][here] == 0L]
  }
  list(pending = pending, columns = columns)
}

# One variable in all exports: its column, what decoding tells, and the raw texts of what
# is corrected.
decode_variable <- function(variable, inputs, book, offsets, touched) {
  parts <- lapply(seq_along(inputs), function(k) {
    export <- book$exports[[names(inputs)[k]]]
    part <- decode_input(variable, inputs[[k]], export, book, offsets[k], touched)
    if (!is.null(touched)) part$texts <- source_texts(
      touched, variable, inputs[[k]], export, offsets[k]
    )
    part
  })
  told <- unlist(lapply(parts, `[[`, "parts"), recursive = FALSE)
  against <- list()
  for (role in told) for (rule in names(role$contradicted)) against[[rule]] <- c(
    against[[rule]], role$contradicted[[rule]]
  )
  list(
    column = bind_columns(lapply(parts, `[[`, "column")),
    ledger = unlist(lapply(told, `[[`, "ledger"), recursive = FALSE),
    findings = unlist(lapply(told, `[[`, "findings"), recursive = FALSE),
    against = against, texts = do.call(rbind, lapply(parts, `[[`, "texts"))
  )
}

alone_findings <- function(inputs, offsets, book) {
  unlist(
    lapply(seq_along(inputs), function(k) parallel_findings(inputs[[k]], offsets[k], book)),
    recursive = FALSE
  )
}

# One variable in one export, by the version that holds there.
decode_input <- function(variable, input, export, book, offset, touched) {
  version <- version_in(variable, export)
  n <- input$facts$records
  if (is_absent(version)) return(list(column = absent_column_of(variable, n, book)))
  roles <- way_of(version)$reads(version)
  parts <- lapply(with_names(names(roles), names(roles)), function(role) {
    part <- decode_column(
      source_of(version, roles[[role]], input, export), version, book, offset, touched, role
    )
    against <- contradictions(version, roles[[role]], input, export, book, offset, role)
    part$findings <- c(part$findings, against$findings)
    part$contradicted <- against$rows
    part
  })
  made <- way_of(version)$compute(version, lapply(parts, `[[`, "column"), book, list(n = n))
  own <- list(ledger = lapply(made$ledger, shift_rows, by = offset))
  list(column = made[c("value", "reason")], parts = c(unname(parts),
    if (length(made$ledger) > 0) list(own)))
}

shift_rows <- function(entry, by) {
  entry$rows <- entry$rows + by
  entry
}

absent_column_of <- function(variable, n, book) {
  none <- switch(variable$storage,
    text = NA_character_, coded = NA_integer_, set = as_sets(NA_character_), NA_real_
  )
  reason <- reason_id(book, "not_in_wave")
  if (is.character(none) || is.factor(none)) return(list(
    value = rep(none, n), reason = rep(reason, n)
  ))
  index <- as_places(as.raw(rep(1L, n)))
  list(value = at_places(none, index, book$held), reason = at_places(reason, index, book$held))
}

# The raw text of those rows that are in this export, and the file it was read from.
source_texts <- function(rows, variable, input, export, offset) {
  here <- rows[rows > offset & rows <= offset + input$facts$records]
  out <- new_frame(
    row = here, text = rep("", length(here)), export = rep(export$name, length(here))
  )
  columns <- columns_in(variable, export)
  if (length(columns) == 0 || length(here) == 0) return(out)
  # A set out of several boxes has no cell of its own.
  if (!is.null(at_key(version_in(variable, export)$settings, "columns"))) {
    out$text <- rep(NA_character_, length(here))
    return(out)
  }
  source <- source_of(version_in(variable, export), columns[[1]], input, export)
  cells <- source$raw$cells[source$raw$index[here - offset]]
  out$text <- ifelse(is.na(cells), "", cells)
  out$export <- rep(source$export$name, length(here))
  out
}

let_go <- function(input, columns) {
  if (length(columns) == 0) return(input)
  here <- intersect(columns, names(input$columns))
  input$columns[here] <- list(NULL)
  input$parallels <- lapply(input$parallels, function(parallel) {
    there <- intersect(columns, names(parallel$columns))
    parallel$columns[there] <- list(NULL)
    parallel
  })
  input
}

# Cells that were corrected (`touched`) leave no finding.
decode_column <- function(source, variable, book, offset, touched, role) {
  raw <- source$raw
  if (!is.null(source$export$adds_to)) variable <- parallel_version(variable, source$export, book)
  decoded <- decode_cells(raw$cells, variable, source$export, book, raw$kinds, role)
  seen <- without_rows(raw$index, touched - offset)
  tally <- tally_cells(seen, length(raw$cells), told_of(decoded), 5L)
  counts <- tally$counts
  rows_of <- first_rows(tally$first, told_of(decoded), offset)
  told <- function(...) lapply(
    c(...), function(finding) c(finding, list(exports = source$export$name)))
  list(
    column = gather(decoded, raw$index, book),
    ledger = decode_entries(decoded, raw, variable, offset),
    findings = told(written_findings(raw$cells, counts, decoded, variable, rows_of),
      unlisted_findings(raw$cells, counts, decoded, variable, rows_of), doubt_findings(raw$cells,
      counts, decoded, variable, rows_of),
      digits_findings(raw$cells, counts, decoded, variable, rows_of),
      zone_findings(counts, decoded, raw, variable, rows_of))
  )
}

# The places, none in some rows; nothing is copied where none of them is here.
without_rows <- function(index, rows) {
  rows <- rows[rows > 0 & rows <= length(index)]
  if (length(rows) > 0) index[rows] <- NA
  index
}

# Cells that a finding may be about.
told_of <- function(decoded) {
  nzchar(decoded$kind) | decoded$doubt | !is.na(decoded$value) & is.numeric(decoded$value)
}

# The study's rows in which a cell stands first.
first_rows <- function(first, told, offset) {
  place <- cumsum(told)
  function(distinct) {
    rows <- first[, place[distinct]]
    rows[!is.na(rows)] + offset
  }
}

bind_columns <- function(columns) {
  if (length(columns) == 1) return(columns[[1]])
  if (all(vapply(columns, is_by_places, TRUE))) return(bind_places(columns))
  new_column(unlist(lapply(columns, `[[`, "value")), unlist(lapply(columns, reason_or_none)))
}

# Value and reason are looked up by the same places.
is_by_places <- function(column) !is.null(looked_parts(column$value)) &&
  (is.null(column$reason) || same_places(column$value, column$reason))

# Table behind table, so that value and reason still share their places.
bind_places <- function(columns) {
  parts <- lapply(columns, function(column) looked_parts(column$value))
  values <- lapply(parts, `[[`, "table")
  reasons <- lapply(columns, function(column) {
    if (!is.null(column$reason)) looked_parts(column$reason)$table
  })
  bare <- vapply(reasons, is.null, TRUE)
  reasons[bare] <- lapply(lengths(values)[bare], integer)
  sizes <- lengths(values)
  places <- Map(function(size, end) seq_len(size) + (end - size), sizes, cumsum(sizes))
  index <- join_index(lapply(parts, `[[`, "index"), places, sum(sizes))
  folder <- parts[[1]]$folder
  new_column(
    looked_up(index, unlist(values), folder, list()),
    if (!all(bare)) looked_up(index, unlist(reasons), folder, list())
  )
}

# The same cell in several exports is one finding.
merge_findings <- function(findings) {
  text <- function(part) vapply(findings, `[[`, "", part)
  id <- joined_id(text("kind"), text("variable"), text("written"))
  again <- duplicated(id)
  if (!any(again)) return(findings)
  several <- id %in% id[again]
  met <- match(id, id[!again])
  findings[!again & several] <-
    lapply(unname(split(findings[several], met[several])), function(same) {
    first <- same[[1]]
    first$count <- sum(vapply(same, `[[`, 0, "count"))
    first$rows <- utils::head(unlist(lapply(same, `[[`, "rows")), 5)
    first$exports <- unique(unlist(lapply(same, `[[`, "exports")))
    first
  })
  findings[!again]
}
