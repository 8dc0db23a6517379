#' Build a study
#'
#' Applies a codebook to its raw exports: reads, decodes, sets aside what cannot
#' be an answer, makes the made variables, and keeps account of all of it.
#'
#' @param codebook A codebook, or what [read_codebook()] takes.
#' @param exports Data frames to use in place of files, named by export.
#' @param digests Whether to work out the digest of each input file, for the
#'   record of the build.
#' @return A `mavik_study`: a list with `data` (a plain table of all variables,
#'   `NA` in every gap; coded variables as integers), `reasons` (the columns that
#'   have gaps, same rows, as factors of reasons), `records` (wave, key, export
#'   and line of each row), `codebook`, and what [ledger()], [findings()],
#'   [study_table()] and [write_study()] work on. Rows are in the order of
#'   waves, exports and lines.
#' @section Errors: Those of [read_codebook()] and [read_export()]; a column that
#'   an export lacks (the nearest name is suggested); a key that is blank or
#'   stands twice in a wave, with its lines.
#' @examples
#' study <- build_study(demo_project(tempfile()))
#' study
#' table(study$data$voice, useNA = "ifany")
#' @export
build_study <- function(codebook, exports = list(), digests = TRUE) {
  document <- as_codebook(codebook)
  book <- compile_codebook(document)
  book$exports <- locate_exports(book, exports)
  read <- lapply(book$exports, read_input, book = book, digests = digests)
  facts <- lapply(read, `[[`, "facts")
  inputs <- match_twins(read, book)
  for (input in inputs) check_answers_present(input, book)
  rm(read)
  records <- bind_records(lapply(inputs, `[[`, "records"))
  check_repeated(records, book)
  columns <- decode_answers(inputs, book, records)
  routed <- route_answers(columns$values, book)
  values <- make_variables(routed$values, book, records)
  findings <- c(unlist(lapply(inputs, `[[`, "findings"), recursive = FALSE), near_keys(records, book), columns$findings, routed$findings)
  book$variables <- lapply(book$variables, fill_question, questions = lapply(inputs, `[[`, "questions"))
  book$variables <- split_stems(book$variables, book$blocks)
  structure(
    list(
      data = data_of(values), reasons = reasons_of(values, book), records = records, codebook = document,
      findings = findings, ledger = c(columns$ledger, routed$ledger),
      inputs = facts, book = book
    ),
    class = "mavik_study"
  )
}

check_study_class <- function(study) {
  if (!inherits(study, "mavik_study")) stop_mavik("error", "`study` must be a study, as build_study() returns it")
}

locate_exports <- function(book, frames) {
  if (!is.list(frames) || is.data.frame(frames) || (length(frames) > 0 && is.null(names(frames)))) {
    stop_mavik("build_error", "`exports` must be a list of data frames, named by export")
  }
  unknown <- setdiff(names(frames), names(book$exports))
  if (length(unknown) > 0) {
    stop_mavik("build_error", "`", unknown[1], "` is not an export of the codebook", did_you_mean(unknown[1], names(book$exports)))
  }
  lapply(book$exports, function(export) {
    export$source <- frames[[export$name]]
    export$shown <- if (is.null(export$source)) export$file else paste0("data frame `", export$name, "`")
    if (is.null(export$source)) {
      if (is.null(export$file)) stop_mavik("build_error", "exports > ", export$name, ": `file` is missing, and no data frame was given")
      export$source <- export_path(export, book)
    } else {
      export$heading <- "names"
    }
    export
  })
}

export_path <- function(export, book) {
  absolute <- grepl("^(/|~|[A-Za-z]:[/\\\\])", export$file)
  if (absolute) path.expand(export$file) else file.path(book$project, export$file)
}

# Reads one export and keeps the columns that the codebook uses.
read_input <- function(export, book, digests) {
  signal_progress("read", export$shown)
  is_file <- is.character(export$source)
  digest <- if (is_file && digests && file.exists(export$source) && !dir.exists(export$source)) digest_beside(export$source)
  raw <- read_raw(export$source, export[c("heading", "skip", "delimiter", "encoding", "sheet")], export$shown)
  needed <- needed_columns(export, book)
  check_own_present(export, raw, needed, book)
  key <- read_keys(export, raw)
  list(
    records = list(wave = rep(export$wave, raw$records), key = key, export = rep(export$name, raw$records), line = raw$lines),
    record = if (!is.null(export$record)) read_texts(raw, export$record),
    columns = raw$columns[intersect(unlist(needed$answers), raw$names)], questions = raw$questions, names = raw$names,
    findings = heading_findings(export, raw, needed, book),
    facts = list(
      export = export$name, wave = export$wave, file = if (is_file) export$file,
      sha256 = if (!is.null(digest)) digest(), bytes = if (is_file) file.size(export$source),
      records = raw$records, columns = length(raw$columns), cells = raw$records * length(raw$columns)
    )
  )
}

needed_columns <- function(export, book) {
  list(
    answers = lapply(book$variables, columns_of),
    own = Filter(Negate(is.null), list(key = if (!is_numbered(export)) export$key, record = export$record))
  )
}

# A column may stand in the export or in one that adds to it.
check_own_present <- function(export, raw, needed, book) {
  problems <- problem_collector(book$document)
  for (role in names(needed$own)) absent_column(needed$own[[role]], c("exports", export$name, role), export, raw$names, problems)
  twins <- unlist(lapply(book$exports, `[[`, "adds_to"))
  if (is.null(export$adds_to) && !export$name %in% twins) note_absent_answers(export, raw$names, book, problems)
  problems$stop_if_any()
}

check_answers_present <- function(input, book) {
  problems <- problem_collector(book$document)
  note_absent_answers(book$exports[[input$facts$export]], input$names, book, problems)
  problems$stop_if_any()
}

note_absent_answers <- function(export, names, book, problems) {
  for (variable in book$variables) {
    for (column in columns_of(variable)) absent_column(column, where_in(variable, variable$way), export, names, problems)
  }
}

absent_column <- function(column, path, export, names, problems) {
  if (column %in% names) return()
  problems$say(path, paste0("the column `", column, "` is not in ", export$shown, did_you_mean(column, names),
    if (length(names) == 1) paste0(" (it has one column only, `", names, "`: is its `delimiter` another?)")))
}

heading_findings <- function(export, raw, needed, book) {
  path <- c("exports", export$name)
  base <- if (is.null(export$adds_to)) NULL else book$exports[[export$adds_to]]
  used <- c(unlist(needed$answers), unlist(needed$own), export$ignored, base$ignored, base$key, base$record)
  unused <- setdiff(raw$names, used)
  absent <- setdiff(export$ignored, raw$names)
  c(
    lapply(unused, function(column) {
      new_finding("warning", "unused_column", "", column, raw$records, integer(), c(path, "ignored"),
        "no variable reads this column: make a variable of it, or list it under `ignored`")
    }),
    lapply(absent, function(column) {
      new_finding("note", "ignored_absent", "", column, 1, integer(), c(path, "ignored"),
        paste0("is listed as ignored but is not in the file", did_you_mean(column, raw$names)))
    }),
    if (raw$merged > 0) list(new_finding("warning", "merged_cells", "", paste0(export$sheet, ""), raw$merged, integer(), path,
      "cells below the heading are merged: only the first cell of each holds the answer, the others are blank; unmerge them in the workbook")),
    if (length(raw$blank) > 0) list(new_finding("note", "blank_heading", "", "", length(raw$blank), integer(), path,
      paste0("columns without a heading are called after their place: ", some_of(raw$names[raw$blank])))),
    lapply(names(raw$repeated), function(column) {
      new_finding("note", "repeated_heading", "", column, raw$repeated[[column]], integer(), path,
        paste0("several columns have this heading; from the second on they are called `", column, " (2)` and so on, left to right"))
    })
  )
}

bind_records <- function(parts) {
  bind <- function(name) unlist(lapply(parts, `[[`, name), use.names = FALSE)
  records <- list(wave = bind("wave"), key = bind("key"), export = bind("export"), line = bind("line"))
  numbered <- is.na(records$key)
  records$key[numbered] <- number_to_text(stats::ave(seq_along(numbered), records$wave, FUN = seq_along)[numbered])
  records
}

# Column by column over all exports; raw cells go as soon as they are decoded.
decode_answers <- function(inputs, book, records) {
  offsets <- cumsum(c(0L, vapply(inputs, function(input) input$facts$records, 0L)))
  values <- ledger <- found <- list()
  reading <- Filter(function(variable) length(columns_of(variable)) > 0, book$variables)
  pending <- table(unlist(lapply(reading, columns_of)))
  for (done in seq_along(reading)) {
    variable <- reading[[done]]
    signal_progress("decode", variable$name, done, length(reading))
    roles <- ways()[[variable$way]]$reads(variable)
    parts <- lapply(seq_along(inputs), function(at) {
      export <- book$exports[[names(inputs)[at]]]
      lapply(roles, function(column) {
        part <- decode_column(source_of(variable, column, inputs[[at]], export), variable, book, offsets[at])
        part$findings <- c(part$findings, contradictions(variable, column, inputs[[at]], export, book, offsets[at]))
        part
      })
    })
    inputs_of <- lapply(stats_names(names(roles), names(roles)), function(role) bind_columns(lapply(parts, function(part) part[[role]]$column)))
    values[[variable$name]] <- ways()[[variable$way]]$compute(variable, inputs_of, book, list(n = length(records$key)))
    for (part in unlist(parts, recursive = FALSE)) {
      ledger <- c(ledger, part$ledger)
      found <- c(found, part$findings)
    }
    for (column in roles) {
      pending[[column]] <- pending[[column]] - 1L
      if (pending[[column]] == 0L) inputs <- lapply(inputs, let_go, column = column)
    }
  }
  alone <- unlist(lapply(seq_along(inputs), function(at) twin_findings(inputs[[at]], offsets[at], book)), recursive = FALSE)
  list(values = values, ledger = ledger, findings = c(alone, merge_findings(found)))
}

let_go <- function(input, column) {
  input$columns[column] <- list(NULL)
  input$twins <- lapply(input$twins, function(twin) {
    twin$columns[column] <- list(NULL)
    twin
  })
  input
}

decode_column <- function(source, variable, book, offset) {
  raw <- source$raw
  decoded <- decode_cells(raw$cells, variable, source$export, book, raw$kinds)
  counts <- tabulate(raw$index, length(raw$cells))
  rows_of <- function(at) utils::head(which(raw$index == at), 5) + offset
  list(
    column = gather(decoded, raw$index, book),
    ledger = decode_entries(decoded, raw, variable, book, offset),
    findings = c(unlisted_findings(raw$cells, counts, decoded, variable, rows_of), doubt_findings(raw$cells, counts, decoded, variable, rows_of))
  )
}

# A record that a twin does not have is not found in it.
gather <- function(decoded, index, book) {
  reason <- if (any(decoded$reason > 0L)) decoded$reason[index]
  if (anyNA(index)) {
    if (is.null(reason)) reason <- integer(length(index))
    reason[is.na(index)] <- reason_id(book, "not_found")
  }
  new_column(decoded$value[index], reason)
}

decode_entries <- function(decoded, raw, variable, book, offset) {
  if (!any(nzchar(decoded$kind))) return(list())
  touched <- which(nzchar(decoded$kind)[raw$index])
  cell <- raw$index[touched]
  lapply(intersect(c("variant", "unlisted"), decoded$kind), function(kind) {
    cells <- which(decoded$kind == kind)
    here <- cell %in% cells
    index <- match(cell[here], cells)
    variant <- kind == "variant"
    new_entry(kind, variable$name, if (variant) where_in(variable, "variants") else variable$path,
      touched[here] + offset, raw$cells[cells], index,
      now = if (variant) number_to_text(decoded$value[cells]) else "", now_index = if (variant) index,
      now_reason = if (variant) "" else "set_aside")
  })
}

bind_columns <- function(columns) {
  if (length(columns) == 1) return(columns[[1]])
  new_column(unlist(lapply(columns, `[[`, "value")), unlist(lapply(columns, reason_or_none)))
}

# The same cell in several exports is one finding.
merge_findings <- function(found) {
  id <- vapply(found, function(one) paste(one$kind, one$variable, one$written, sep = "\r"), "")
  lapply(unname(split(found, factor(id, unique(id)))), function(same) {
    one <- same[[1]]
    one$count <- sum(vapply(same, `[[`, 0, "count"))
    one$rows <- utils::head(unlist(lapply(same, `[[`, "rows")), 5)
    one
  })
}

make_variables <- function(values, book, records) {
  rows <- list(n = length(records$key), key = records$key, wave = records$wave)
  for (name in setdiff(book$order, names(values))) {
    variable <- book$variables[[name]]
    signal_progress("make", name)
    values[[name]] <- ways()[[variable$way]]$compute(variable, values[book$uses[[name]]], book, rows)
  }
  values[names(book$variables)]
}

data_of <- function(values) {
  data <- lapply(values, `[[`, "value")
  if (length(data) == 0) return(data.frame())
  structure(data, class = "data.frame", row.names = .set_row_names(length(data[[1]])))
}

reasons_of <- function(values, book) {
  gaps <- Filter(function(column) !is.null(column$reason), values)
  rows <- if (length(values) > 0) length(values[[1]]$value) else 0L
  reasons <- lapply(gaps, function(column) {
    code <- column$reason
    code[code == 0L] <- NA_integer_
    structure(code, levels = book$reasons$name, class = "factor")
  })
  structure(reasons, class = "data.frame", row.names = .set_row_names(rows), names = as.character(names(reasons)))
}

# The heading's question text where the codebook gives none.
fill_question <- function(variable, questions) {
  columns <- columns_of(variable)
  if (!is.null(variable$question) || length(columns) == 0) return(variable)
  asked <- unlist(lapply(questions, function(texts) texts[columns[1]]))
  asked <- asked[!is.na(asked) & nzchar(asked)]
  if (length(asked) > 0) variable$question <- unname(asked[1])
  variable
}

# Where the heading repeats a block's stem before each item, the stem is kept
# once as `asked`, and each question is its item.
split_stems <- function(variables, blocks) {
  for (block in blocks) {
    parts <- lapply(variables[block], function(variable) if (is.null(variable$question)) c("", "") else stem_of(variable$question))
    stem <- unique(vapply(parts, `[`, "", 1))
    if (length(stem) != 1 || !nzchar(stem)) next
    for (name in block) {
      variables[[name]]$asked <- stem
      variables[[name]]$question <- parts[[name]][2]
    }
  }
  variables
}
