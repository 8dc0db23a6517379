# Which export a sheet for answers from paper is of: one of the codebook, or one to be added.

# A list of `export` (as compiled), `book` (which knows it), and for a new one `name` and `entry`,
# to be added under `exports`.
entry_export <- function(
  codebook, of = NULL, export = NULL, wave = NULL, file = NULL, without = NULL
) {
  document <- as_codebook(codebook)
  book <- compile_codebook(document)
  if (!is.null(of) && !is.null(without)) stop_mavik(
    "usage_error", "either what is typed or what is not: `of` and `without` do not go together"
  )
  check_entry_words(c(of, without), export, wave, book)
  typed <- typed_exports(book)
  if (!is.null(wave)) typed <- Filter(function(export) export$wave == wave, typed)
  if (!is.null(of)) typed <- Filter(function(export) setequal(export$typed$of, of), typed)
  if (!is.null(without)) typed <- Filter(
    function(export) all(without %in% export$typed$without), typed
  )
  if (!is.null(export)) typed <- typed[intersect(export, names(typed))]
  if (length(typed) > 1) stop_mavik(
    "build_error", "several exports could take the sheet: ", some_of(names(typed), 9),
    "; say which, `--export ", names(typed)[1], "`"
  )
  if (length(typed) == 1) return(list(export = typed[[1]], book = book))
  if (is.null(wave) && length(book$waves) > 1) stop_mavik(
    "build_error", "several waves could take the sheet: ", some_of(names(book$waves), 9),
    "; say which, `--wave ", names(book$waves)[1], "`"
  )
  if (is.null(wave)) wave <- names(book$waves)
  name <- if (is.null(export)) free_name(paste0(wave, "_paper"), names(book$exports)) else export
  entry <- new_typed_entry(name, wave, of, without, file, book)
  document <- with_export(document, name, entry)
  book <- compile_codebook(document)
  list(export = book$exports[[name]], book = book, name = name, entry = entry)
}

typed_exports <- function(book) {
  typed <- Filter(is_typed, book$exports)
  typed[!duplicated(vapply(typed, `[[`, "", "entry"))]
}

check_entry_words <- function(of, export, wave, book) {
  for (name in of) named_variables(name, book)
  check_waves(wave, book)
  other <- if (!is.null(export)) book$exports[[export]]
  if (!is.null(other) && !is_typed(other)) stop_mavik(
    "build_error", "`", export, "` is an export that is not typed: its file is ", other$file,
    "; give the sheet a name of its own"
  )
  if (!is.null(export) && !grepl(part_name, export)) stop_mavik(
    "build_error", "`", export, "` does not fit as a name: small letters, digits and _ only"
  )
}

# What an export of its own says of the sheet.
new_typed_entry <- function(name, wave, of, without, file, book) {
  same <- Filter(function(export) export$wave == wave && is.null(export$adds_to), book$exports)
  base <- c(unname(same), unname(book$exports))[[1]]
  taken <- unlist(lapply(book$exports, columns_needed, book = book))
  response <- setdiff(c(typed_response, "Form number", "Paper form"), taken)[1]
  unasked <- if (is.null(of)) union(platform_times(book), without)
  entry <- list(
    wave = wave, file = if (is.null(file)) paste0("sheets/", name, ".xlsx") else file,
    key = base$key, typed = if (!is.null(of)) of else if (length(unasked) > 0)
      list(without = unasked) else "all"
  )
  if (response != typed_response) entry$response <- response
  entry
}

# The platform's own times are on no paper.
platform_times <- function(book) names(Filter(
  function(variable) holds_one(variable) && identical(variable$level, "datetime") &&
    isFALSE(variable$kept),
  book$variables
))

with_export <- function(document, name, entry) {
  parts <- attributes(document)[c("file", "marks", "project")]
  changed <- merge_at(unclass_document(document), c("exports", name), entry)
  new_codebook(changed, parts$file, parts$marks, parts$project)
}

# The questions as they were asked, taken from the headings of the wave's other exports.
with_questions <- function(book, export) {
  others <- Filter(function(export) {
    path <- if (is_text(export$file) && !is_pattern(export$file)) export_path(export, book)
    is.null(export$adds_to) && !is_typed(export) && !is.null(path) && file.exists(path)
  }, book$exports)
  others <- others[order(vapply(others, `[[`, "", "wave") != export$wave)]
  inputs <- lapply(others, function(other) list(questions = read_raw(
    export_path(other, book), other[c("heading", "skip", "delimiter", "encoding", "sheet")],
    other$file
  )$questions))
  inputs <- Filter(function(input) any(nzchar(input$questions)), inputs)
  if (length(inputs) == 0) return(book)
  book$variables <- lapply(book$variables, function(variable) {
    question <- fill_question(variable, inputs, book)$question
    if (is.null(variable$question)) variable$question <- question
    for (id in names(variable$versions)) {
      version <- variable$versions[[id]]
      if (!is_absent(version) && is.null(version$question))
        variable$versions[[id]]$question <- variable$question
    }
    variable
  })
  book
}

# Fields of a sheet, with their questions; a sheet without any is refused.
fields_to_type <- function(target) {
  book <- with_questions(target$book, target$export)
  fields <- entry_fields(book, target$export)
  if (length(fields) == 0) stop_mavik(
    "build_error", "there is nothing to type: no variable of this codebook is read from a column",
    if (!is.null(target$export$typed$of)) paste(" and in", some_of(target$export$typed$of, 9))
  )
  fields
}

# What was typed in a sheet, for a new one of the codebook as it is: `line`, `form`, `columns` (the
# texts by heading) and `left`, what found no place.
typed_before <- function(file, fields, target) {
  if (!file.exists(file)) stop_mavik("read_error", file, ": no such file")
  export <- target$export
  export[c("source", "shown")] <- list(file, file)
  raw <- typed_forms(read_raw(
    file, list(heading = typed_heading, skip = 0, delimiter = "comma", encoding = "UTF-8",
      sheet = if (is_workbook(file)) typed_sheet), file
  ), export)
  told <- sheet_columns_told(export)
  headings <- c(
    typed_marks[c("clerk", "date")], if (!is_numbered(export)) export$key,
    vapply(fields, `[[`, "", "heading")
  )
  have <- intersect(headings, raw$names)
  columns <- lapply(with_names(have, have), function(name) read_texts(raw, name))
  by_code <- Filter(function(field) field$kind == "choice" && field$heading %in% have, fields)
  for (field in by_code) columns[[field$heading]] <- by_their_codes(
    columns[[field$heading]], field, told
  )
  passed <- c(headings, export$response, typed_marks)
  lost <- setdiff(raw$names[vapply(raw$columns, function(column) any(nzchar(
    text_trim(column$cells[column$index])
  )), TRUE)], passed)
  list(
    line = raw$lines, form = read_texts(raw, export$response), columns = columns,
    left = if (length(lost) > 0) paste0("`", lost, "` is not asked any more")
  )
}

# An answer by the label that its code has now.
by_their_codes <- function(texts, field, told) {
  takes <- told$takes[match(field$heading, told$heading)]
  if (length(takes) == 0 || is.na(takes)) return(texts)
  old <- stringi::stri_match_first_regex(
    strsplit(takes, "; ", fixed = TRUE)[[1]], "^(?:or )?(-?[0-9]+) (.+)$"
  )
  now <- c(field$codes$label, field$gaps$label)
  code <- old[match(text_fold(texts), text_fold(old[, 3])), 2]
  place <- match(code, number_to_text(c(field$codes$code, field$gaps$code)))
  gone <- !is.na(place) & !text_fold(texts) %in% text_fold(now)
  texts[gone] <- now[place[gone]]
  texts
}

# Screens that drop every form, because they read what is not on the sheet.
screens_of_sheet <- function(target) {
  book <- target$book
  absent <- names(Filter(
    function(variable) is_absent(version_in(variable, target$export)), book$variables
  ))
  gap <- reason_id(book, "not_in_wave")
  drops <- Filter(function(screen) {
    if (is.null(screen$condition) || !any(screen$reads %in% absent)) return(FALSE)
    columns <- lapply(with_names(screen$reads, screen$reads), function(name) new_column(
      if (book$variables[[name]]$storage == "text") NA_character_ else NA_real_,
      if (name %in% absent) gap else 0L
    ))
    isTRUE(evaluate_expression(screen$condition, columns, 1L))
  }, book$screens)
  vapply(drops, function(screen) paste0(
    "the screen `", screen$name, "` would drop every form of it: it reads ",
    some_of(intersect(screen$reads, absent)), ", which is not on the sheet"
  ), "", USE.NAMES = FALSE)
}
