# The inputs of all exports, by name. `collect(path, expr)` gathers the problems of each
# file; `keep` is done with each input as soon as it is there; `parted` are files that were
# read in parts already.
read_inputs <- function(
  book, digests = FALSE, collect = function(path, expr) expr, keep = identity, parted = list()
) {
  read <- lapply(read_together(book$exports), function(names) {
    export <- book$exports[[names[1]]]
    collect(
      c("exports", export$entry, if (is.character(export$source)) "file"),
      lapply(read_file(book$exports[names], book, digests, parted[[names[1]]]), keep)
    )
  })
  unlist(read, recursive = FALSE)[names(book$exports)]
}

# Reads one raw file, of one export or of several waves, and keeps the columns that the
# codebook uses.
read_file <- function(exports, book, digests, parted = NULL) {
  export <- exports[[1]]
  signal_progress("read", export$shown)
  is_file <- is.character(export$source)
  if (is_file && is_pattern(export$file)) stop_mavik("read_error", "no file is called like `",
    export$file, "`")
  if (is_file) check_stands(export$file, book)
  before <- if (is_file && digests && is.null(parted)) times_of(export$source)
  raw <- if (!is.null(parted)) parted$raw else read_raw(
    export$source, export[c("heading", "skip", "delimiter", "encoding", "sheet")], export$shown
  )
  if (inherits(raw, "condition")) stop(raw)
  # Reading takes all cores; what comes next leaves some idle.
  digest <- if (!is.null(parted)) parted$digest else if (!is.null(before)) digest_as_read(
    digest_beside(export$source, later = shares_work(raw$records)), export$source, before,
    export$shown
  )
  if (is_typed(export)) raw <- typed_records(raw, export, book)
  findings <- c(heading_findings(exports, raw, book), raw$typed)
  if (is.null(export$apart)) {
    input <- input_of(raw, export, book, digest)
    input$findings <- findings
    return(with_names(list(input), names(exports)))
  }
  check_own_present(exports, raw, book)
  parts <- raw_by_wave(raw, exports, book)
  inputs <- Map(function(part, export) input_of(part, export, book, digest), parts, exports)
  inputs[[1]]$findings <- c(findings, empty_wave_findings(parts, exports))
  inputs
}

# `digest` gives the file's digest where it is wanted; the facts hold it until `await_digest()`.
input_of <- function(raw, export, book, digest = NULL) {
  is_file <- is.character(export$source)
  check_own_present(list(export), raw, book)
  key <- read_keys(export, raw)
  record <- if (!is.null(export$response)) read_texts(raw, export$response)
  id <- if (is_numbered(export) && !is.null(record)) record else key
  list(
    parallel = !is.null(export$adds_to),
    records = list(
      wave = same_text(export$wave, raw$records, book$held), key = key, id = id,
      export = same_text(export$name, raw$records, book$held), line = raw$lines
    ),
    record = record,
    columns = raw$columns[intersect(answer_columns(export, book), raw$names)],
    questions = raw$questions, names = raw$names,
    facts = list(
      export = export$name, wave = export$wave, file = if (is_file) export$file,
      blake2b = digest, bytes = if (is_file) file.size(export$source),
      records = raw$records, columns = length(raw$names),
      cells = raw$records * length(raw$names)
    )
  )
}

# A column may stand in the export or in one that adds to it. Waves of one file lack the
# same ones.
check_own_present <- function(exports, raw, book) {
  problems <- problem_collector(book$document)
  own <- own_columns(exports[[1]])
  for (role in names(own)) absent_column(
    own[[role]], c("exports", exports[[1]]$entry, role, if (role == "wave") "column"),
    exports[[1]], raw$names, problems
  )
  parallels <- unlist(lapply(book$exports, `[[`, "adds_to"))
  for (export in exports) if (is.null(export$adds_to) && !export$name %in% parallels)
    note_absent_answers(export, raw$names, book, problems)
  problems$stop_if_any()
}

check_answers_present <- function(input, book) {
  problems <- problem_collector(book$document)
  note_absent_answers(book$exports[[input$facts$export]], input$names, book, problems)
  problems$stop_if_any()
}

note_absent_answers <- function(export, names, book, problems) {
  for (variable in book$variables) {
    version <- version_in(variable, export)
    if (is_absent(version)) next
    for (column in columns_of(version)) absent_column(
      column, where_in(version, version$way), export, names, problems,
      absent_line(export, book)
    )
  }
}

# The way out where a question was not asked in a wave.
absent_line <- function(export, book) {
  if (length(book$waves) < 2) return("")
  paste0(
    "; if it has another name in this wave: `by_wave: {", export$wave,
    ": {column: ...}}`, if it was not asked there: `by_wave: {", export$wave, ": absent}`"
  )
}

absent_column <- function(column, path, export, names, problems, more = "") {
  if (column %in% names || !problems$once(joined_id(column, path_id(path)))) return()
  there <- if (length(names) > 1 && problems$once(export$shown)) paste0("; its columns are ",
    some_of(names, 12))
  problems$say(path,
    paste0("the column `", column, "` is not in ", export$shown, did_you_mean(column, names),
    if (length(names) == 1) paste0(" (it has one column only, `", names,
      "`: is its `delimiter` another?)"), there, more))
}

heading_findings <- function(exports, raw, book) {
  export <- exports[[1]]
  path <- c("exports", export$entry)
  base <- if (is.null(export$adds_to)) NULL else book$exports[[export$adds_to]]
  used <- c(
    unlist(lapply(exports, columns_needed, book = book)), base$key, base$response
  )
  passed <- ignored_among(c(export$ignored, base$ignored), raw$names)
  unused <- setdiff(raw$names, c(used, passed))
  absent <- ignored_without(export$ignored, raw$names)
  c(
    outside_findings(export, book),
    column_finding("warning", "unused_column", unused, c(path, "ignored"), if (length(unused) == 1)
      "no variable reads this column: make a variable of it, or list it under `ignored`" else
      paste0(count_of(length(unused), "column"),
        " that no variable reads: make variables of them, or list them under `ignored`")),
    column_finding("note", "ignored_absent", absent, c(path, "ignored"), if (length(absent) == 1)
      paste0("is listed as ignored but is not in the file", did_you_mean(absent, raw$names)) else
      "are listed as ignored but are not in the file"),
    if (raw$merged > 0) list(new_finding("warning", "merged_cells", "", paste0(export$sheet, ""),
      raw$merged, integer(), path,
      paste0(
        "cells below the heading are merged: only the first cell of each holds the answer, the ",
        "others are blank; unmerge them in the workbook"
      ))),
    if (length(raw$blank) > 0) list(new_finding("note", "blank_heading", "", "", length(raw$blank),
      integer(), path,
      paste0(
        "columns without a heading are called after their place: ", some_of(raw$names[raw$blank])
      ))),
    lapply(names(raw$repeated), function(column) {
      new_finding("note", "repeated_heading", "", column, raw$repeated[[column]], integer(), path,
        paste0(
          "several columns have this heading; from the second on they are called `", column,
          " (2)` and so on, left to right"
        ))
    })
  )
}

# Columns with one trouble are one finding, which lists them.
column_finding <- function(level, kind, columns, path, message) {
  if (length(columns) == 0) return(list())
  finding <- new_finding(level, kind, "", paste(columns, collapse = " | "), length(columns),
    integer(),
    path, message)
  finding$columns <- columns
  list(finding)
}

# The heading's question text where the codebook gives none.
fill_question <- function(variable, inputs, book) {
  if (!is_answer(variable)) return(variable)
  exports <- book$exports[names(inputs)]
  first <- order(vapply(exports, `[[`, "", "wave") != paste0(book$study$wording, ""))
  wording <- version_in(variable, exports[[first[1]]])
  if (!is_absent(wording) && !is.null(wording$question)) variable$question <- wording$question
  if (!is.null(variable$question)) return(variable)
  asked <- unlist(lapply(first, function(export) {
    columns <- columns_in(variable, exports[[export]])
    if (length(columns) > 0) inputs[[export]]$questions[columns[1]]
  }))
  asked <- asked[!is.na(asked) & nzchar(asked)]
  if (length(asked) > 0) variable$question <- unname(asked[1])
  variable
}

# Where the heading repeats a block's stem before each item, the stem is kept
# once as `asked`, and each question is its item.
split_stems <- function(variables, blocks) {
  for (block in blocks) {
    parts <- lapply(
      variables[block],
      function(variable) if (is.null(variable$question)) c("", "") else stem_of(variable$question)
    )
    stem <- unique(vapply(parts, `[`, "", 1))
    if (length(stem) != 1 || !nzchar(stem)) next
    for (name in block) {
      variables[[name]]$asked <- stem
      variables[[name]]$question <- parts[[name]][2]
    }
  }
  variables
}
