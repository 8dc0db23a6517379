# Two entries of the same forms, field by field.

one_typed_export <- function(book, file, export) {
  typed <- typed_exports(book)
  if (!is.null(export)) typed <- typed[intersect(export, names(typed))]
  own <- Filter(function(candidate) is_text(candidate$file) &&
    same_file(file, export_path(candidate, book)), typed)
  if (length(own) == 1) typed <- own
  if (length(typed) == 1) return(typed[[1]])
  if (length(typed) > 1) stop_mavik(
    "build_error", "several exports could be meant: ", some_of(names(typed), 9),
    "; say which, `--export ", names(typed)[1], "`"
  )
  stop_mavik(
    "build_error", "this codebook has no export that is typed",
    if (!is.null(export)) paste0(" and called `", export, "`"), "; `mavik entry` makes one"
  )
}

# One workbook as its export: decoded columns by variable, texts and cells.
read_entry <- function(file, export, book) {
  check_file(file, file)
  export[c("source", "shown", "file")] <- list(file, file, file)
  input <- read_file(with_names(list(export), export$name), book, digests = FALSE)[[1]]
  if (length(input$record) == 0) stop_mavik(
    "build_error", file, ": no form is typed in this sheet yet"
  )
  variables <- Filter(function(variable) !is_absent(version_in(variable, export)) &&
    length(columns_in(variable, export)) > 0 && way_of(variable)$correctable(variable),
    book$variables)
  columns <- lapply(variables, function(variable) decode_input(
    variable, input, export, book, 0L, integer()
  )$column)
  list(
    form = input$record, key = input$records$id, line = input$records$line, columns = columns,
    texts = lapply(variables, entry_texts, input = input, export = export),
    letters = letters_of_column(seq_along(input$names)), names = input$names, export = export
  )
}

# What stands in the cell; of several boxes nothing, they are told by their labels.
entry_texts <- function(variable, input, export) {
  columns <- columns_in(variable, export)
  if (is_boxed(version_in(variable, export))) return(NULL)
  column_texts(input$columns[[columns[[1]]]])
}

is_boxed <- function(version) !is.null(at_key(version$settings, "columns"))

compare_read <- function(first, second, export, book) {
  forms <- intersect(first$form, second$form)
  if (length(forms) == 0) stop_mavik(
    "build_error", first$export$shown, " and ", second$export$shown, " have no form in common"
  )
  a <- match(forms, first$form)
  b <- match(forms, second$form)
  questions <- with_questions(book, export)$variables
  each <- lapply(names(first$columns), function(name) compare_variable(
    name, first, second, a, b, export, book, entry_question(questions[[name]])
  ))
  rows <- do.call(rbind, c(list(compare_keys(first, second, a, b, export, book)),
    lapply(each, `[[`, "rows")))
  rows <- rows[order(match(rows$form, forms)), ]
  rownames(rows) <- NULL
  structure(list(
    differences = rows, agreement = do.call(rbind, lapply(each, `[[`, "agreement")),
    forms = length(forms), only_first = setdiff(first$form, second$form),
    only_second = setdiff(second$form, first$form)
  ), class = "mavik_differences")
}

compare_variable <- function(name, first, second, a, b, export, book, question) {
  left <- lapply(first$columns[[name]], `[`, a)
  right <- lapply(second$columns[[name]], `[`, b)
  gap <- function(column) reason_or_none(column)
  same <- (is.na(left$value) & is.na(right$value) & gap(left) == gap(right)) |
    same_value(left$value, right$value)
  places <- which(!same)
  variable <- book$variables[[name]]
  hidden <- isTRUE(variable$private)
  shown <- function(column, texts) if (hidden) rep(masked, length(places)) else
    reading_shown(variable, lapply(column, `[`, places), texts, book)
  rows <- difference_rows(
    name, question, first, second, a[places], b[places], export,
    shown(left, first$texts[[name]][a[places]]),
    shown(right, second$texts[[name]][b[places]]), columns_in(variable, export)
  )
  if (hidden) rows$note <- rep("private: look into the cells, and put the workbook itself right",
    nrow(rows))
  list(rows = rows, agreement = data.frame(
    variable = name, question = question, compared = length(same), same = sum(same),
    percent = 100 * mean(same)
  ))
}

# A reading as a sheet of corrections takes it: what was typed, a blank by its reason's name.
reading_shown <- function(variable, column, texts, book) {
  reason <- reason_or_none(column)
  text <- if (!is.null(texts)) texts else if (variable$storage == "set") set_reading(
    as.character(column$value), variable
  ) else value_text(variable, column$value)
  blank <- is.na(text) | !nzchar(text)
  text[blank] <- book$reasons$name[pmax(reason[blank], 1L)]
  text
}

set_reading <- function(sets, variable) {
  text <- set_text(sets, variable$options$label, variable$settings$separator)
  ifelse(!is.na(sets) & !nzchar(sets), none_ticked, text)
}

# A key that was typed in two ways is put right in the workbook itself.
compare_keys <- function(first, second, a, b, export, book) {
  places <- which(first$key[a] != second$key[b])
  variable <- Filter(is_key, book$variables)[1][[1]]
  rows <- difference_rows(
    variable$name, variable$label, first, second, a[places], b[places], export,
    first$key[a[places]],
    second$key[b[places]],
    export$key
  )
  if (key_is_private(book)) rows[c("first", "second", "respondent")] <- rep(list(rep(
    masked, nrow(rows)
  )), 3)
  rows$note <- rep("a key: put the workbook itself right", nrow(rows))
  rows
}

difference_rows <- function(name, question, first_entry, second_entry, a, b, export, first, second,
  columns) {
  cell <- function(entry, rows) {
    letters <- entry$letters[match(columns, entry$names)]
    ends <- unique(letters[c(1, length(letters))])
    vapply(entry$line[rows], function(line) paste(paste0(ends, line), collapse = ":"), "")
  }
  n <- length(a)
  out <- data.frame(
    form = first_entry$form[a], wave = rep(export$wave, n), respondent = first_entry$key[a],
    variable = rep(name, n), question = rep(paste0(question, ""), n), first = first,
    second = second, right = rep("", n), note = rep("", n), who = rep("", n), date = rep("", n),
    first_cell = if (n > 0) cell(first_entry, a) else character(),
    second_cell = if (n > 0) cell(second_entry, b) else character()
  )
  names(out) <- difference_columns
  out
}
