# The codebook as a workbook: cells of text, a list to choose from where a key takes one of a few
# words or a name, notes that say what each column is.

is_workbook <- function(path) grepl("[.](xlsx|ods)$", path, ignore.case = TRUE)

# `text` is the codebook's own text, whose comments a workbook cannot show: it is kept out of
# sight, and what is converted back starts from it.
write_workbook <- function(sheets, file, spare = 200, text = NULL) make_workbook(
  file,
  function(book) {
    for (name in names(sheets)) add_codebook_sheet(book, name, sheets[[name]], spare)
    lists <- Filter(length, named_lists(sheets))
    ranges <- if (length(lists) > 0) with_names(add_choice_lists(book, lists), names(lists))
    for (name in names(sheets)) offer_codebook_words(book, name, sheets[[name]], spare, ranges)
    if (!is.null(text)) {
      openxlsx::addWorksheet(book, "yaml", visible = FALSE)
      openxlsx::writeData(book, "yaml", text, colNames = FALSE)
    }
  }
)

# A sheet of texts with a row an entry, and room for more.
add_codebook_sheet <- function(book, name, rows, spare) {
  keys <- sheet_keys(name, rows)
  cells <- cells_of_rows(rows, keys)
  widths <- pmin(pmax(vapply(keys, longest_line, 0, cells = cells) + 2, 9), 38)
  add_text_sheet(
    book, name, cells, widths, notes = heading_notes(name, keys), spare = spare,
    fixed = if (keys[1] == "name") 1 else 0
  )
}

# What each column is, in the words of the reference.
heading_notes <- function(section, keys) {
  fields <- section_fields(section)
  own <- c(
    name = "The name of the entry: small letters, digits and _", block =
      "The block that it is an item of; the block has a row of its own",
    stem = "The question above the items of a block, on the block's row",
    way = "How the variable is made: choose from the list", takes =
      "What the way takes: a column's heading, or settings as in {of: voice, to: {1: [2, 3]}}"
  )
  notes <- lapply(with_names(keys, keys), function(key) {
    if (key %in% names(own)) return(own[[key]])
    field <- fields[[key]]
    if (is.null(field) || !nzchar(field$help)) return(NULL)
    paste0(
      toupper(substr(field$help, 1, 1)), substring(field$help, 2),
      if (!is.null(field$example)) paste0("\n", shorten_text(field$example, 120))
    )
  })
  unlist(Filter(Negate(is.null), notes))
}

# Names that other cells take.
named_lists <- function(sheets) {
  names_in <- function(sheet, keep = function(row) TRUE) unique(unlist(lapply(
    Filter(keep, sheets[[sheet]]), `[[`, "name"
  )))
  list(
    code_lists = names_in("code_lists"), waves = names_in("waves"),
    blocks = unique(unlist(lapply(sheets$variables, `[[`, "block"))),
    ways = names(open_ways())
  )
}

offer_codebook_words <- function(book, name, rows, spare, ranges) {
  keys <- sheet_keys(name, rows)
  last <- length(rows) + spare + 1
  lists <- list(
    variables = c(codes = "code_lists", block = "blocks", way = "ways"), exports = c(wave = "waves")
  )[[name]]
  for (k in seq_along(keys)) {
    letter <- letters_of_column(k)
    cells <- paste0(letter, "2:", letter, last)
    words <- closed_words(name, keys[k])
    list <- unname(lists[keys[k]])
    if (!is.null(words)) check_cells(
      book, name, cells, paste0("\"", paste(words, collapse = ","), "\""), stops = TRUE,
      title = keys[k], message = paste0("It takes one of: ", paste(words, collapse = ", "))
    ) else if (length(list) > 0 && !is.na(list) && list %in% names(ranges)) check_cells(
      book, name, cells, ranges[[list]], stops = list == "ways", title = keys[k],
      message = "Not a name on the list. It can be something else, if you mean it."
    )
  }
  if (name == "codes") check_cells(
    book, name, paste0("A2:A", last), "'variables'!$A$2:$A$2000", title = "name",
    message = "No row of the sheet variables has this name."
  )
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
  if (length(rows) == 0) return(setdiff(known, if (section == "variables") names(open_ways())))
  c(intersect(known, used), setdiff(used, known))
}

section_keys <- function(section) {
  fields <- section_fields(section)
  if (section == "code_lists") return(c("name", "codes", "label", "missing", "written"))
  if (section == "codes") return(c("name", "code", "label"))
  # A way may stand under its own key too.
  if (section == "variables") return(unique(c(
    "name", "block", "label", "way", "takes", "level", "codes", "range", "universe", "stem",
    names(fields), names(open_ways())
  )))
  c(if (!section %in% c("codebook", "study", "duplicates", "accepted")) "name", names(fields))
}

section_fields <- function(section) {
  beside <- function(kinds) unlist(
    lapply(unname(kinds), function(kind) kind$beside), recursive = FALSE
  )
  own <- function(kinds) lapply(kinds, `[[`, "value")
  switch(section,
    codebook = Filter(
      function(field) field$type %in% c("text", "texts", "choice"), codebook_fields()
    ),
    study = study_fields(), waves = wave_fields(), exports = export_fields(),
    duplicates = duplicate_fields(), accepted = accepted_fields(), missing = reason_fields(),
    subsets = list(condition = field("condition", "who is in it", "member == \"Yes\"")),
    codes = list(
      code = field("whole", "the code, a whole number", "1"),
      label = field("text", "its label", "Soprano")
    ),
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
  problems <- list()
  problem <- function(place, message) {
    problems[[length(problems) + 1]] <<- list(place = place, message = message)
    NULL
  }
  cells <- workbook_cells(path, shown)
  text <- cells[cells$sheet == "yaml" & cells$column == 1, ]
  cells <- cells[!cells$sheet %in% c("yaml", "lists"), ]
  if (!any(sheet_sections %in% cells$sheet)) {
    stop_mavik("codebook_error", shown,
      ": has none of the sheets of a codebook (`codebook`, `variables` and so on); if it is a ",
      "raw file, `mavik draft ",
      shown, "` drafts a codebook from it")
  }
  read <- sheets_document(cells, problem)
  if (length(problems) > 0) {
    stop_problems(data.frame(
      file = shown, line = NA_integer_, path = "", message = vapply(problems, `[[`, "", "message"),
      place = vapply(problems, `[[`, "", "place")
    ))
  }
  if (!is_map(read$document)) stop_mavik(
    "codebook_error", shown,
    ": holds no codebook; `mavik convert --template new.xlsx` writes an empty one"
  )
  marks <- data.frame(
    id = vapply(read$places, function(place) path_id(place$path), ""), key_line = vapply(
      read$places, function(place) as.integer(place$row), 0L
    ), style = "", flow = FALSE,
    place = vapply(read$places, function(place) place$place, "")
  )
  structure(
    new_codebook(read$document, path, marks, real_path(dirname(path)), file_digest(path)),
    text = if (nrow(text) > 0) ifelse(
      is.na(match(seq_len(max(text$row)), text$row)), "", text$text[match(seq_len(max(text$row)),
        text$row)]
    )
  )
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
