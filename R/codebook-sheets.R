# A codebook as sheets of cells and back. One sheet a section: a row an entry,
# the headings the language's own keys, beside `name`. Code lists are long: a row a code,
# and one a missing reason.

sheet_sections <- c(
  "codebook", "study", "waves", "exports", "translations", "duplicates", "accepted", "missing",
  "code_lists", "lookups", "instruments", "variables", "codes", "subsets", "rules", "screens",
  "tables", "releases"
)

# Sheets as lists of rows, each a named list of cell texts.
document_sheets <- function(document) {
  single <- names(Filter(is.character, document))
  sheets <- list(codebook = list(document[single]))
  for (section in setdiff(names(document), single)) {
    value <- document[[section]]
    if (section == "variables") sheets$codes <- own_code_rows(value)
    sheets[[section]] <- if (section == "code_lists") list_rows(value)
      else if (section == "variables") variable_rows(value)
      else if (section %in% names(plain_entries)) plain_rows(value, plain_entries[[section]])
      else if (!is_map(value)) value
      else if (section %in% c("study", "duplicates")) list(value)
      else entry_rows(value)
  }
  if (length(sheets$codes) == 0) sheets$codes <- NULL
  order <- c(intersect(sheet_sections, names(sheets)), setdiff(names(sheets), sheet_sections))
  lapply(sheets[order], function(rows) lapply(rows, function(row) lapply(row, cell_text)))
}

entry_rows <- function(entries) unname(Map(
  function(name, entry) c(list(name = name), entry), names(entries), entries
))

# Sections whose entries are one text each, and the heading it stands under.
plain_entries <- c(subsets = "condition", translations = "file")

plain_rows <- function(entries, key) unname(Map(
  function(name, text) with_names(list(name, text), c("name", key)), names(entries), entries
))

text_section <- function(rows, sheet, problem) {
  read <- entry_section(rows, sheet, problem)
  for (name in names(read$value)) read$value[[name]] <- read$value[[name]][[plain_entries[[sheet]]]]
  read$places <- lapply(read$places, function(place) {
    place$path <- place$path[seq_len(min(2, length(place$path)))]
    place
  })
  read
}

list_rows <- function(lists) {
  unlist(unname(Map(function(name, entry) c(
    unname(Map(
      function(code, label) list(name = name, codes = code, label = label), names(entry$codes),
      entry$codes
    )),
    unname(Map(
      function(reason, forms) list(name = name, missing = reason, written = forms),
      names(entry$missing), entry$missing
    )),
    if (length(setdiff(names(entry), c("codes", "missing"))) > 0) list(c(
      list(name = name), entry[setdiff(names(entry), c("codes", "missing"))]
    ))
  ), names(lists), lists)), recursive = FALSE)
}

# A plain text stands as it is, all else as in YAML; a text that would be taken
# for YAML, or loses its edges, stands in quotes.
cell_text <- function(value) {
  if (!is_text(value)) return(flow_text(value))
  if (stringi::stri_detect_regex(
    value,
    paste0(
      "^[\\[{\"']|\\r|^[\\p{White_Space}\\x{FEFF}\\x{200B}]|",
      "[\\p{White_Space}\\x{FEFF}\\x{200B}]$|^$|_x[0-9A-Fa-f]{4}_|[\\p{Cc}&&[^\\n\\t]]"
    )
  )) {
    return(scalar_text(value, quote = TRUE))
  }
  value
}

# From cells (`sheet`, `row`, `column`, `text`) to the document and where each
# of its entries stands.
sheets_document <- function(cells, problem) {
  document <- list()
  places <- list()
  for (sheet in intersect(
    c(sheet_sections, setdiff(unique(cells$sheet), sheet_sections)), cells$sheet
  )) {
    rows <- sheet_rows(cells[cells$sheet == sheet, ], sheet, problem)
    if (sheet == "codes") {
      own <- own_codes_section(rows, document, problem)
      document <- own$document
      places <- c(places, own$places)
      next
    }
    read <- switch(sheet, codebook = single_section(rows, character()), study = ,
      duplicates = single_section(rows, sheet), accepted = plain_section(rows, sheet),
      subsets = , translations = text_section(rows, sheet, problem),
      code_lists = list_section(rows, sheet, problem), variables = variable_section(
        rows, sheet, problem
      ), entry_section(rows, sheet, problem))
    if (sheet == "codebook") document <- c(document, read$value) else
      if (length(read$value) > 0) document[[sheet]] <- read$value
    places <- c(places, read$places)
  }
  list(document = document, places = places)
}

# Each row with its number, its cells read, and the place of each.
sheet_rows <- function(cells, sheet, problem) {
  cells <- cells[nzchar(text_trim(cells$text)), ]
  heads <- cells[cells$row == 1, ]
  names <- text_trim(heads$text)
  known <- if (sheet %in% sheet_sections) c(section_keys(sheet), if (sheet == "variables") "items")
  for (k in which(!names %in% known & !is.null(known))) {
    problem(paste0(sheet, "!", place_name(1, heads$column[k])),
      paste0("the heading ", unknown_key(names[k], known)))
  }
  for (name in unique(names[duplicated(names)])) problem(
    paste0(sheet, "!", place_name(1, heads$column[match(name, names)])),
    paste0("the heading `", name, "` occurs twice")
  )
  body <- cells[cells$row > 1, ]
  lost <- body[!body$column %in% heads$column, ]
  if (nrow(lost) > 0) problem(
    paste0(sheet, "!", place_name(lost$row[1], lost$column[1])),
    "a cell without a heading above it: give the column the key it is meant for, or empty it"
  )
  lapply(sort(unique(body$row)), function(row) {
    here <- body[body$row == row & body$column %in% heads$column, ]
    keys <- names[match(here$column, heads$column)]
    place <- paste0(sheet, "!", place_name(row, here$column))
    values <- Map(function(text, place) cell_value(text, place, problem), here$text, place)
    list(
      row = row, cells = with_names(unname(values), keys), places = with_names(place, keys),
      first = paste0(sheet, "!", place_name(row, 1))
    )
  })
}

cell_value <- function(text, place, problem) {
  text <- text_trim(text)
  if (!grepl("^[[{\"']", text)) return(text)
  quoted <- grepl("^[\"']", text)
  lines <- strsplit(text, "\n", fixed = TRUE)[[1]]
  scan <- scan_yaml(lines)
  read <- if (is.null(scan$lost)) tryCatch(
    yaml::yaml.load(text, handlers = text_handlers, eval.expr = FALSE), error = function(e) NULL
  )
  # A text that merely begins with a quote is that text.
  if (quoted && !is_text(read)) return(text)
  if (length(scan$refused) > 0) return(problem(place, scan$refused[[1]]$message))
  if (is.null(read)) return(problem(
    place,
    paste0(
      "not well-formed: ",
      if (is.null(scan$lost)) "look for a bracket or quote too many or missing" else
        scan$lost$message
    )
  ))
  read
}

place_list <- function(row, path, keys = names(row$cells)) {
  c(
    list(list(path = path, place = row$first, row = row$row)),
    lapply(keys, function(key) list(path = c(path, key), place = row$places[[key]], row = row$row))
  )
}

single_section <- function(rows, path) {
  if (length(rows) == 0) return(list(value = list(), places = list()))
  list(value = rows[[1]]$cells, places = place_list(rows[[1]], path))
}

plain_section <- function(rows, path) {
  list(
    value = lapply(rows, `[[`, "cells"),
    places = unlist(
      lapply(seq_along(rows), function(k) place_list(rows[[k]], c(path, k))), recursive = FALSE
    )
  )
}

named_rows <- function(rows, problem) {
  unnamed <- vapply(rows, function(row) !is_text(row$cells$name), TRUE)
  for (row in rows[unnamed]) problem(
    row$first, "`name` is missing: every row needs the name of its entry"
  )
  rows[!unnamed]
}

entry_section <- function(rows, sheet, problem) {
  rows <- named_rows(rows, problem)
  names <- vapply(rows, function(row) row$cells$name, "")
  for (row in rows[duplicated(names)]) problem(
    row$places[["name"]], paste0("the name `", row$cells$name, "` occurs twice")
  )
  list(value = with_names(lapply(rows, function(row) row$cells[names(row$cells) != "name"]), names),
    places = unlist(
      lapply(
        rows,
        function(row) place_list(row, c(sheet, row$cells$name), setdiff(names(row$cells), "name"))
      ),
      recursive = FALSE
    ))
}

list_section <- function(rows, sheet, problem) {
  rows <- named_rows(rows, problem)
  value <- places <- list()
  for (row in rows) {
    name <- row$cells$name
    cells <- row$cells
    if (is.null(value[[name]])) places <- c(
      places, list(list(path = c(sheet, name), place = row$first, row = row$row))
    )
    add <- function(part, key, to) {
      if (!is.null(value[[name]][[part]][[key]])) problem(
        row$first, paste0("`", key, "` occurs twice in the list `", name, "`")
      )
      value[[name]][[part]][[key]] <<- to
      places <<- c(
        places, list(list(path = c(sheet, name, part, key), place = row$first, row = row$row))
      )
    }
    if (is.null(cells$codes) != is.null(cells$label)) problem(
      row$first, "a code and its label stand in one row: one of them is missing"
    )
    else if (is.null(cells$missing) != is.null(cells$written)) problem(
      row$first, "a missing reason stands with its written forms: one of them is missing"
    )
    else {
      if (!is.null(cells$codes)) add("codes", cells$codes, cells$label)
      if (!is.null(cells$missing)) add("missing", cells$missing, cells$written)
    }
    for (key in setdiff(names(cells), c("name", "codes", "label", "missing", "written")))
      value[[name]][[key]] <- cells[[key]]
  }
  list(value = value, places = places)
}
