# The codebook as a workbook: cells of text, a drop-down where a key takes one
# of a few words, a frozen heading and readable widths.

is_workbook <- function(path) grepl("[.](xlsx|ods)$", path, ignore.case = TRUE)

write_workbook <- function(sheets, file, spare = 200) make_workbook(file, function(book) {
  for (name in names(sheets)) add_codebook_sheet(book, name, sheets[[name]], spare)
})

# A sheet of texts with a row an entry, and room for more.
add_codebook_sheet <- function(book, name, rows, spare) {
  head <- openxlsx::createStyle(textDecoration = "bold", numFmt = "TEXT", border = "bottom")
  body <- openxlsx::createStyle(numFmt = "TEXT", wrapText = TRUE, valign = "top")
  keys <- sheet_keys(name, rows)
  cells <- cells_of_rows(rows, keys)
  written <- seq_len(length(rows) + spare) + 1
  openxlsx::addWorksheet(book, name)
  openxlsx::addStyle(book, name, body, rows = written, cols = seq_along(keys), gridExpand = TRUE)
  openxlsx::writeData(book, name, cells, headerStyle = head, keepNA = FALSE)
  widths <- pmin(pmax(vapply(keys, longest_line, 0, cells = cells) + 2, 9), 48)
  openxlsx::setColWidths(book, name, seq_along(keys), widths)
  first <- if (keys[1] == "name") 2 else 1
  openxlsx::freezePane(book, name, firstActiveRow = 2, firstActiveCol = first)
  fit_rows(book, name, cells, widths)
  openxlsx::pageSetup(
    book, name, orientation = "landscape", fitToWidth = TRUE, fitToHeight = FALSE,
    printTitleRows = 1
  )
  for (at in seq_along(keys)) {
    words <- closed_words(name, keys[at])
    if (!is.null(words)) suppressWarnings(openxlsx::dataValidation(
      book, name, cols = at, rows = written, type = "list",
      value = paste0("\"", paste(words, collapse = ","), "\""), allowBlank = TRUE
    ))
  }
}

cells_of_rows <- function(rows, keys) {
  of_key <- function(key) {
    vapply(rows, function(row) if (is.null(row[[key]])) NA_character_ else row[[key]], "")
  }
  cells <- matrix(
    vapply(keys, of_key, character(length(rows))), ncol = length(keys), dimnames = list(NULL, keys)
  )
  as.data.frame(cells, optional = TRUE)
}

longest_line <- function(key, cells) {
  text <- c("", cells[[key]][!is.na(cells[[key]])])
  lines <- strsplit(paste(text, collapse = "\n"), "\n", fixed = TRUE)[[1]]
  max(nchar(key), nchar(lines), 0)
}

# The keys of a sheet in the order of the language: those in use, or all of them
# where it has no row.
sheet_keys <- function(section, rows) {
  known <- section_keys(section)
  used <- unique(unlist(lapply(rows, names)))
  if (length(rows) == 0) return(known)
  c(intersect(known, used), setdiff(used, known))
}

section_keys <- function(section) {
  fields <- section_fields(section)
  if (section == "code_lists") return(c("name", "codes", "label", "missing", "written"))
  if (section == "variables") return(unique(c(
    "name", "block", "stem", "label", "is", "column", "level", "codes", "range", "universe",
    setdiff(names(open_ways()), c("is", "column")), names(fields)
  )))
  c(if (!section %in% c("codebook", "study", "duplicates", "accepted")) "name", names(fields))
}

section_fields <- function(section) {
  beside <- function(kinds) unlist(
    lapply(unname(kinds), function(kind) kind$beside), recursive = FALSE
  )
  own <- function(kinds) lapply(kinds, `[[`, "value")
  switch(section,
    codebook = Filter(function(one) one$type %in% c("text", "choice"), codebook_fields()),
    study = study_fields(), waves = wave_fields(), exports = export_fields(),
    duplicates = duplicate_fields(), accepted = accepted_fields(), missing = reason_fields(),
    subsets = list(condition = field("condition", "who is in it", "member == \"Yes\"")),
    translations = list(file = field("text", "its sheet", "sheets/french.xlsx")),
    lookups = lookup_fields(), instruments = instrument_fields(),
    variables = {
      fields <- c(variable_fields(), beside(open_ways()), list(is = ways()$is$value))
      fields[!duplicated(names(fields))]
    },
    rules = {
      fields <- c(own(rules()), rule_fields(), beside(rules()))
      fields[!duplicated(names(fields))]
    },
    screens = {
      fields <- c(own(screens()), screen_fields(), beside(screens()))
      fields[!duplicated(names(fields))]
    }, tables = table_fields(), releases = release_fields(), list())
}

# The words a key is closed to.
closed_words <- function(section, key) {
  field <- section_fields(section)[[key]]
  if (is.null(field)) return(NULL)
  if (field$type == "choice") field$values else if (field$type == "yes_no") c("yes", "no")
}

# A workbook as a codebook, with the place of each entry for messages.
parse_workbook <- function(path) {
  shown <- basename(path)
  found <- list()
  problem <- function(place, message) {
    found[[length(found) + 1]] <<- list(place = place, message = message)
    NULL
  }
  cells <- workbook_cells(path, shown)
  if (!any(sheet_sections %in% cells$sheet)) {
    stop_mavik("codebook_error", shown,
      ": has none of the sheets of a codebook (`codebook`, `variables` and so on); if it is a ",
      "raw file, `mavik draft ",
      shown, "` drafts a codebook from it")
  }
  read <- sheets_document(cells, problem)
  if (length(found) > 0) {
    stop_problems(data.frame(
      file = shown, line = NA_integer_, path = "", message = vapply(found, `[[`, "", "message"),
      place = vapply(found, `[[`, "", "place")
    ))
  }
  if (!is_map(read$document)) stop_mavik(
    "codebook_error", shown,
    ": holds no codebook; `mavik convert --template new.xlsx` writes an empty one"
  )
  marks <- data.frame(
    id = vapply(read$places, function(one) path_id(one$path), ""), key_line = vapply(
      read$places, function(one) as.integer(one$row), 0L
    ), style = "", flow = FALSE,
    place = vapply(read$places, function(one) one$place, "")
  )
  new_codebook(read$document, path, marks, normalizePath(dirname(path)), file_digest(path))
}

# A workbook of the codebook beside the YAML file that is built, edited since: which
# of the two is built is said, and how the other's changes come in.
note_newer_workbook <- function(book) {
  if (is.null(book$file) || is_workbook(book$file)) return(invisible())
  beside <- list.files(dirname(book$file), "^[^~.].*[.]xlsx$", full.names = TRUE)
  notes <- character()
  for (file in beside[file.mtime(beside) > file.mtime(book$file)]) {
    other <- if (is_codebook_workbook(file)) tryCatch(unclass_document(parse_workbook(file)),
      mavik_error = function(e) NULL)
    if (is.null(other) || identical(ordered_document(other),
      ordered_document(unclass_document(book$document)))) next
    notes <- c(notes, signal_notice(basename(book$file), " is built; ", basename(file),
      " beside it is newer and says something else. `mavik convert ",
      file, " ", book$file, "` brings its changes in"))
  }
  invisible(notes)
}

# A workbook that has the sheets of a codebook.
is_codebook_workbook <- function(path) {
  names <- tryCatch(unique(workbook_cells(path, path)$sheet), mavik_error = function(e) character())
  all(c("codebook", "variables") %in% names)
}
