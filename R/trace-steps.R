# The steps of one cell, from the raw text to the value.

step_row <- function(step, value, words, path) list(
  step = step, value = value, words = words, path = paste(path, collapse = " > ")
)

step_table <- function(steps, book) {
  columns <- lapply(
    c(step = "step", value = "value", words = "words", path = "path"),
    function(name) vapply(steps, `[[`, "", name)
  )
  columns$line <- vapply(
    columns$path, function(path) line_of_path(book, path), 0L, USE.NAMES = FALSE
  )
  structure(columns, class = "data.frame", row.names = .set_row_names(length(steps)))
}

# The raw cell and what it decodes to.
cell_steps <- function(study, variable, column, row, mask, role) {
  place <- place_of_row(study, row)
  export <- study$book$exports[[names(study$sources)[place$input]]]
  read <- cells_at(variable, column, study$sources[[place$input]], export, place$position)
  source <- read$source
  index <- read$index
  line <- read$line
  if (is.na(index)) return(list(step_row(
    "cell", "", paste0("no record of `", source$export$name, "` goes with this one"), variable$path
  )))
  text <- source$raw$cells[index]
  decoded <- decode_cells(text, variable, source$export, study$book, source$raw$kinds[index], role)
  list(
    step_row(
      "cell", mask(text),
      paste0(at_line(source$export$shown, line), ", column \u201c", column, "\u201d"),
      c("exports", source$export$entry)
    ),
    decode_step(text, decoded, variable, study$book, mask, role)
  )
}

# Where a column's cells at these positions are read: the file it comes from (a parallel has its
# own lines), which of its distinct cells each is, and on which line it stands.
cells_at <- function(variable, column, input, export, position) {
  source <- source_of(variable, column, input, export)
  parallel <- if (source$export$name != export$name) input$parallels[[source$export$name]]
  list(
    source = source, index = source$raw$index[position], line = if (is.null(parallel))
      input$records$line[position] else parallel$lines[parallel$map[position]]
  )
}

# Which input a row of the study comes from, and where in it.
place_of_row <- function(study, row) {
  sizes <- vapply(study$sources, function(input) length(input$records$key), 0L)
  ends <- cumsum(sizes)
  input <- which(row <= ends)[1]
  list(input = input, position = row - c(0L, ends)[input])
}

decode_step <- function(text, decoded, variable, book, mask, role) {
  kind <- decoded$kind
  if (kind == "unlisted") return(step_row(
    "decoded", "", "not one of the values it can have: set aside", variable$path
  ))
  if (decoded$reason > 0L) {
    reason <- book$reasons[decoded$reason, ]
    blank <- !nzchar(text_fold(text))
    return(step_row("decoded", "",
      if (blank) "the cell is blank" else
        paste0("a written form of \u201c", reason$label, "\u201d"),
      if (blank || !reason$name %in% names(variable$missing)) if (!blank && reason$listed) c(
        "missing", reason$name
      ) else variable$path else where_in(variable, "missing", reason$name)))
  }
  shown <- if (role %in% c("answer", "cell")) value_shown(variable, decoded$value) else
    if (is.numeric(decoded$value)) c("not ticked", "ticked")[decoded$value + 1] else decoded$value
  if (kind == "write_in") return(step_row(
    "decoded", mask(shown), "with what was written in", variable$path
  ))
  if (kind == "variant") return(step_row(
    "decoded", mask(shown), "another form of this value", where_in(variable, "variants")
  ))
  if (role == ".written") return(step_row("decoded", mask(shown), "the words as they stand",
    variable$path))
  step_row(
    "decoded", mask(shown),
    if (is_coded(variable)) "its code and label" else
      if (variable$storage == "text") "the text as it stands" else
        if (variable$storage == "set") "the answers that it holds" else paste(
          "read as a", variable$storage
        ),
    variable$path
  )
}

value_shown <- function(variable, value) {
  if (is.na(value)) return("")
  text <- value_text(variable, value)
  label <- if (is_coded(variable)) label_of(variable, value) else text
  if (label == text) text else paste(text, label)
}

ledger_steps <- function(study, name, row, mask) {
  # What decoding did to the cell is told beside the cell; a code from a sheet is a step of its own.
  step <- function(entry) !entry$kind %in% c("variant", "unlisted",
    "write_in") || (entry$kind == "write_in" && any(nzchar(entry$note)))
  entries <- Filter(function(entry) entry$variable == name && row %in% entry$rows && step(entry),
    study$ledger)
  entries <- entries[order(match(vapply(entries, `[[`, "", "kind"), names(ledger_kinds)))]
  variable <- study$book$variables[[name]]
  lapply(entries, function(entry) {
    place <- match(row, entry$rows)
    note <- rep(entry$note, length.out = length(entry$rows))[place]
    now <- entry$now[entry$now_index[place]]
    if (nzchar(now) && is_coded(variable)) now <- value_shown(variable, as.integer(now))
    step_row(entry$kind, mask(now), step_words(study, entry, row, mask(note), study$book),
      entry$rule)
  })
}

step_words <- function(study, entry, row, note, book) {
  variable <- version_at(study, entry$variable, row)
  if (entry$kind == "corrected") return(paste0(
    "by the sheet of corrections", if (nzchar(note)) paste0(" (", note, ")")
  ))
  if (entry$kind == "range") return(paste0(
    "outside ", paste(range_shown(variable), collapse = " to "), ": set aside"
  ))
  if (entry$kind == "universe") return(paste0(
    "answered although not asked: set aside; ", condition_words(study, variable$universe, row)
  ))
  if (entry$kind == "rule") {
    rule <- Filter(function(rule) paste(rule$path, collapse = " > ") == entry$rule, book$rules)[[1]]
    return(paste0(
      "against the rule \u201c", rules()[[rule$kind]]$sentence(rule, book), "\u201d: set aside"
    ))
  }
  if (entry$kind == "exclusive") return("ticked together with what excludes all others: set aside")
  if (entry$kind == "imputed") return("a gap filled")
  if (entry$kind == "write_in") return(paste0("what was written in was ", note))
  paste0(entry$kind, if (nzchar(note)) paste0(": ", note))
}

# A condition with what it read in this record.
condition_words <- function(study, condition, row) {
  truth <- evaluate_expression(
    condition,
    lapply(with_names(condition$uses, condition$uses), function(name) column_at(study, name, row)),
    1L
  )
  read <- vapply(
    condition$uses,
    function(name) paste0(
      name, " is ",
      if (name %in% private_variables(study$book)) masked else said_shown(study, name, row)
    ),
    ""
  )
  paste0(
    "`", text_squeeze(condition$text), "` is ",
    if (is.na(truth)) "unknown" else if (truth) "true" else "false", " (",
    paste(read, collapse = ", "), ")"
  )
}

column_at <- function(study, name, row) {
  reason <- study$reasons[[name]]
  value <- study$data[[name]][row]
  if (is_date(study$book$variables[[name]])) value <- as.double(value)
  new_column(value, if (!is.null(reason)) ifelse(is.na(reason[row]), 0L, as.integer(reason[row])))
}

said_shown <- function(study, name, row) {
  end <- end_of(study, name, row)
  if (nzchar(end$reason)) paste0("empty: ", end$label) else end$shown
}

# A blank outside its universe leaves no row in the ledger, but has its reason here.
universe_steps <- function(study, variable, row) {
  if (is.null(variable$universe)) return(NULL)
  reason <- end_of(study, variable$name, row)$reason
  touched <- any(vapply(
    study$ledger,
    function(entry) entry$variable == variable$name && entry$kind == "universe" &&
      row %in% entry$rows,
    TRUE
  ))
  if (touched) return(NULL)
  list(step_row(
    "universe", "",
    paste0(
      if (reason == "not_asked") "not asked: " else "",
      condition_words(study, variable$universe, row)
    ),
    where_in(variable, "universe")
  ))
}

end_of <- function(study, name, row) {
  variable <- study$book$variables[[name]]
  column <- column_at(study, name, row)
  id <- if (is.null(column$reason)) 0L else column$reason
  list(
    value = if (is.na(column$value)) "" else value_text(variable, column$value),
    shown = value_shown(variable, column$value),
    reason = if (id > 0L) study$book$reasons$name[id] else "",
    label = if (id > 0L) study$book$reasons$label[id] else ""
  )
}

# The value that a way gave, before rules and ranges: it stands in the first row
# of the ledger that touched it, else at the end.
made_text <- function(study, name, row, mask) {
  variable <- study$book$variables[[name]]
  touched <- Filter(function(entry) entry$variable == name && row %in% entry$rows, study$ledger)
  if (length(touched) == 0) return(mask(end_of(study, name, row)$shown))
  touched <- touched[order(match(vapply(touched, `[[`, "", "kind"), names(ledger_kinds)))][[1]]
  was <- touched$was[touched$was_index[match(row, touched$rows)]]
  mask(if (nzchar(was) && is_coded(variable)) value_shown(variable, as.integer(was)) else was)
}

# How the value comes about in this record; a way may say it in numbers.
made_steps <- function(study, variable, row, mask, hidden) {
  way <- way_of(variable)
  made <- step_row(
    "made", made_text(study, variable$name, row, mask), way$sentence(variable, study$book),
    variable$path
  )
  uses <- study$book$uses[[variable$name]]
  if (is.null(way$explain) || hidden || any(uses %in% private_variables(study$book)))
    return(list(made))
  inputs <- lapply(with_names(uses, uses), function(name) column_at(study, name, row))
  list(made, step_row("worked", "", way$explain(variable, inputs, study$book), variable$path))
}
