# A typed sheet as it is read: forms without an answer are passed over, and what cannot have been
# meant is an error with its cell.

typed_records <- function(raw, export, book) {
  raw <- typed_forms(raw, export)
  problems <- problem_collector(book$document)
  note <- function(message) problems$say(c("exports", export$entry), message)
  told <- sheet_columns_told(export)
  fields <- entry_fields(book, export)
  altered <- altered_headings(raw, told, export)
  changes <- sheet_changes(told, fields)
  odd <- if (length(altered) == 0) c(
    odd_forms(raw, export), odd_cells(raw, fields, export, book)
  )
  for (message in c(altered, odd)) note(message)
  lacks <- any(attr(changes, "lacks"))
  if (length(changes) > 0 && (lacks || length(odd) > 0)) note(paste0(
    export$shown, ": ", changes_said(changes), ". `mavik entry --from ", export$shown,
    " --out NEW.xlsx` makes a sheet of the codebook as it is, with what is typed in this one"
  ))
  problems$stop_if_any()
  raw$typed <- sheet_findings(export, changes, raw$records)
  raw
}

# Rows in which something was typed.
typed_forms <- function(raw, export) {
  passed <- c(export$response, typed_marks[c("progress", "open")])
  typed <- Reduce(`|`, lapply(
    raw$columns[!names(raw$columns) %in% passed],
    function(column) nzchar(text_trim(column$cells))[column$index]
  ), logical(raw$records))
  raw$columns <- each_column(raw$columns, keeping(which(typed)))
  raw$lines <- raw$lines[typed]
  raw$records <- sum(typed)
  raw
}

# The sheet `columns` of the workbook: what each column was when it was made; NULL without one.
sheet_columns_told <- function(export) {
  if (!is.character(export$source) || !is_workbook(export$source)) return(NULL)
  cells <- workbook_cells(export$source, export$shown)
  cells <- cells[cells$sheet == "columns", ]
  if (is.null(cells) || nrow(cells) == 0) return(NULL)
  heads <- cells[cells$row == 1, ]
  rows <- sort(unique(cells$row[cells$row > 1]))
  typed <- function(name) {
    here <- cells[cells$column == c(heads$column[heads$text == name], 0)[1], ]
    text <- here$text[match(rows, here$row)]
    ifelse(is.na(text), "", text)
  }
  told <- lapply(stats::setNames(nm = c("column", "heading", "question", "takes")), typed)
  if (all(nzchar(told$heading))) as.data.frame(told)
}

altered_headings <- function(raw, told, export) {
  if (is.null(told)) return(character())
  column <- column_number(told$column)
  now <- raw$names[column]
  asked <- unname(raw$questions[column])
  differs <- function(now, was) is.na(now) | text_fold(now) != text_fold(was)
  name <- which(differs(now, told$heading))
  question <- which(differs(asked, told$question) & !seq_along(column) %in% name)
  holds <- function(now) ifelse(is.na(now) | !nzchar(now), "it is empty", paste0("it says `",
    shorten_text(now, 60), "`"))
  c(
    few_said(paste0(
      cell_place(export, 2, told$column[name]), ": the heading `", told$heading[name],
      "` was altered: ", holds(now[name]), "; put it back", recycle0 = TRUE
    )),
    few_said(paste0(
      cell_place(export, 1, told$column[question]), ": the question above `",
      told$heading[question], "` was altered: ", holds(asked[question]),
      "; put `", shorten_text(told$question[question], 60), "` back", recycle0 = TRUE
    ))
  )
}

# What the codebook says otherwise than the sheet did; `lacks` marks what the sheet lacks.
sheet_changes <- function(told, fields) {
  if (is.null(told)) return(character())
  heading <- vapply(fields, `[[`, "", "heading")
  takes <- vapply(fields, entry_takes, "")
  asked <- told[nzchar(told$takes) & !told$heading %in% typed_marks, ]
  gone <- setdiff(asked$heading[asked$takes != "the key"], heading)
  new <- setdiff(heading, told$heading)
  place <- match(asked$heading, heading)
  other <- which(!is.na(place) & takes[place] != asked$takes)
  structure(
    c(
      paste0("`", new, "` is new", recycle0 = TRUE),
      paste0("`", gone, "` is not asked any more", recycle0 = TRUE),
      paste0(
        "`", asked$heading[other], "` took ", shorten_text(asked$takes[other], 80),
        " and takes ", shorten_text(takes[place[other]], 80), recycle0 = TRUE
      )
    ),
    lacks = rep(c(TRUE, FALSE), c(length(new), length(gone) + length(other)))
  )
}

changes_said <- function(changes) paste0(
  "the codebook has changed since this sheet was made: ",
  paste(utils::head(changes, 8), collapse = "; "),
  if (length(changes) > 8) paste("; and", length(changes) - 8, "more")
)

# Form numbers and keys: each there, a form number once.
odd_forms <- function(raw, export) {
  # A column that is not there is told by itself.
  if (!all(own_columns(export) %in% raw$names)) return(character())
  form <- read_texts(raw, export$response)
  keyless <- if (!is_numbered(export)) which(!nzchar(read_texts(raw, export$key)))
  blank <- which(!nzchar(form))
  again <- which(nzchar(form) & duplicated(form))
  place <- function(column, rows) cell_place(
    export, raw$lines[rows], letters_of_column(match(column, raw$names))
  )
  c(
    few_said(paste0(place(export$response, blank),
      ": the form number is missing: give the form one", recycle0 = TRUE)),
    few_said(paste0(
      place(export$response, again), ": the form number `", form[again], "` stands in row ",
      raw$lines[match(form[again], form)],
      " already: give one of the two its own number, or take the row out", recycle0 = TRUE
    )),
    if (length(keyless) > 0) few_said(paste0(
      place(export$key, keyless), ": the key `", export$key, "` is missing"
    ))
  )
}

# Where several workbooks are one export, a form number stands in one of them only.
check_forms_once <- function(inputs, book, say) {
  # A file that could not be read is told by itself.
  read <- Filter(Negate(is.null), inputs)
  typed <- Filter(function(input) is_typed(book$exports[[input$facts$export]]), read)
  entries <- vapply(typed, function(input) book$exports[[input$facts$export]]$entry, "")
  for (entry in unique(entries[duplicated(entries)])) {
    here <- typed[entries == entry]
    forms <- data.frame(
      form = unlist(lapply(here, `[[`, "record")), place = unlist(lapply(here, function(input) {
        export <- book$exports[[input$facts$export]]
        cell_place(export, input$records$line, "A")
      }))
    )
    again <- which(duplicated(forms$form))
    for (message in few_said(paste0(
      forms$place[again], ": the form number `", forms$form[again], "` stands at ",
      forms$place[match(forms$form[again], forms$form)], " already: give one of the two its own",
      recycle0 = TRUE
    ))) say(c("exports", entry), message)
  }
}

# Cells that no form of a question takes.
odd_cells <- function(raw, fields, export, book) {
  hidden <- private_variables(book)
  unlist(lapply(fields, function(field) {
    column <- raw$columns[[field$heading]]
    if (is.null(column)) return(NULL)
    version <- version_in(book$variables[[field$variable]], export)
    decoded <- decode_cells(column$cells, version, export, book, column$kinds, field$role)
    rows <- which((decoded$kind == "unlisted")[column$index])
    if (length(rows) == 0) return(NULL)
    cell <- column$cells[column$index[rows]]
    few_said(paste0(
      cell_place(export, raw$lines[rows], letters_of_column(match(field$heading, raw$names))), ": ",
      if (field$variable %in% hidden) masked else paste0("`", shorten_text(cell, 40), "`"),
      " is no answer to ", field$variable, ", which takes ", shorten_text(entry_takes(field), 160)
    ))
  }))
}

# A sheet that still reads although the codebook has changed, and one that waits.
sheet_findings <- function(export, changes, records) {
  told <- function(level, kind, count, words) list(new_finding(
    level, kind, "", export$shown, count, integer(), c("exports", export$entry, "typed"), words
  ))
  c(
    if (length(changes) > 0) told("warning", "sheet_outdated", length(changes), paste0(
      changes_said(changes), "; what is typed in it still reads"
    )),
    if (records == 0) told("note", "nothing_typed", 1, "no form is typed in this sheet yet")
  )
}

cell_place <- function(export, row, column) paste0(
  export$shown, " ", if (!is.null(export$sheet)) paste0(export$sheet, "!"), column, row,
  recycle0 = TRUE
)

few_said <- function(messages, most = 10) {
  if (length(messages) <= most) return(messages)
  c(messages[seq_len(most)], paste0(
    sub(":.*", "", messages[most + 1]), ": and ", length(messages) - most, " more like these"
  ))
}
