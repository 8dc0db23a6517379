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
  inputs <- lapply(book$exports, read_input, book = book, digests = digests)
  records <- bind_records(lapply(inputs, `[[`, "records"))
  check_repeated(records, book)
  columns <- decode_answers(inputs, book, records)
  routed <- route_answers(columns$values, book)
  values <- make_variables(routed$values, book, records)
  findings <- c(unlist(lapply(inputs, `[[`, "findings"), recursive = FALSE), near_keys(records, book), columns$findings, routed$findings)
  book$variables <- lapply(book$variables, fill_question, questions = lapply(inputs, `[[`, "questions"))
  structure(
    list(
      data = data_of(values), reasons = reasons_of(values, book), records = records, codebook = document,
      findings = findings, ledger = c(columns$ledger, routed$ledger),
      inputs = lapply(inputs, function(input) input$facts), book = book
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
  check_present(export, raw, needed, book)
  key <- read_keys(export, raw)
  list(
    records = list(wave = rep(export$wave, raw$records), key = key, export = rep(export$name, raw$records), line = raw$lines),
    columns = raw$columns[unique(unlist(needed$answers))], questions = raw$questions,
    findings = heading_findings(export, raw, needed),
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

check_present <- function(export, raw, needed, book) {
  problems <- problem_collector(book$document)
  absent <- function(path, column) {
    problems$say(path, paste0("the column `", column, "` is not in ", export$shown, did_you_mean(column, raw$names),
      if (length(raw$names) == 1) paste0(" (it has one column only, `", raw$names, "`: is its `delimiter` another?)")))
  }
  for (role in names(needed$own)) if (!needed$own[[role]] %in% raw$names) absent(c("exports", export$name, role), needed$own[[role]])
  for (name in names(needed$answers)) {
    variable <- book$variables[[name]]
    for (column in setdiff(needed$answers[[name]], raw$names)) absent(where_in(variable, variable$way), column)
  }
  problems$stop_if_any()
}

heading_findings <- function(export, raw, needed) {
  path <- c("exports", export$name)
  used <- c(unlist(needed$answers), unlist(needed$own), export$ignored)
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
    lapply(raw$repeated, function(column) {
      new_finding("note", "repeated_heading", "", column, sum(startsWith(raw$names, column)), integer(), path,
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
      lapply(roles, function(column) decode_column(inputs[[at]]$columns[[column]], variable, book$exports[[at]], book, offsets[at]))
    })
    inputs_of <- lapply(stats_names(names(roles), names(roles)), function(role) bind_columns(lapply(parts, function(part) part[[role]]$column)))
    values[[variable$name]] <- ways()[[variable$way]]$compute(variable, inputs_of, book, list(n = length(records$key)))
    for (part in unlist(parts, recursive = FALSE)) {
      ledger <- c(ledger, part$ledger)
      found <- c(found, part$findings)
    }
    for (column in roles) {
      pending[[column]] <- pending[[column]] - 1L
      if (pending[[column]] == 0L) for (at in seq_along(inputs)) inputs[[at]]$columns[column] <- list(NULL)
    }
  }
  list(values = values, ledger = ledger, findings = merge_findings(found))
}

decode_column <- function(raw, variable, export, book, offset) {
  decoded <- decode_cells(raw$cells, variable, export, book, raw$kinds)
  counts <- tabulate(raw$index, length(raw$cells))
  rows_of <- function(at) utils::head(which(raw$index == at), 5) + offset
  list(
    column = gather(decoded, raw$index),
    ledger = decode_entries(decoded, raw, variable, book, offset),
    findings = c(unlisted_findings(raw$cells, counts, decoded, variable, rows_of), doubt_findings(raw$cells, counts, decoded, variable, rows_of))
  )
}

gather <- function(decoded, index) {
  new_column(decoded$value[index], if (any(decoded$reason > 0L)) decoded$reason[index])
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
