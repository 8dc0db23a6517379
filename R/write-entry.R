#' Write a sheet in which answers from paper are typed
#'
#' A workbook with a row for each questionnaire and a column for each question, in the order of
#' the codebook: the question above, a list to choose from or limits that stop, reasons of gaps
#' offered, questions greyed that the answers before them rule out, and how far each row is. It
#' is an export as it stands: a build reads label or code.
#'
#' @param codebook A codebook, or what [read_codebook()] takes.
#' @param of,without Variables and blocks that are typed, or those that are not; all that are read
#'   from columns are typed if not said, but the platform's own times.
#' @param forms How many questionnaires: rows with the form numbers 1 and up.
#' @param file Where to write, `.xlsx`; by default the export's own file.
#' @param export,wave The export that the sheet is of, where the codebook has several that are
#'   typed; the wave of a new one, where it has several waves.
#' @param from A sheet that was typed before: what stands in it is taken over into the new one,
#'   answers by their codes where a label has changed.
#' @param onto Whether to add the export to the codebook's file, where it does not have it.
#' @return A list, invisibly: `file`, `export` (its name), `entry` (what the codebook has to say
#'   of it under `exports`; `NULL` where it does), `read` (the file that the codebook has for it;
#'   `NULL` for a new one), `questions` (how many columns are typed),
#'   `forms`, `taken_over` (forms taken over from another sheet), `left` (what of them found
#'   no place, as texts), and `drops` (screens that would drop every form, because what they read
#'   is not on the sheet, as texts).
#' @section Errors: A codebook without questions; several exports, or waves, that could take the
#'   sheet; a sheet that stands there already (what is typed is never written over); in a build
#'   each with its cell: a form number twice or missing, a heading that was altered, a cell that is
#'   no answer.
#' @examples
#' project <- demo_project(tempfile())
#' made <- entry_sheet(project, forms = 20, onto = TRUE)
#' made$export
#' @export
entry_sheet <- function(
  codebook, of = NULL, forms = 50, file = NULL, export = NULL, wave = NULL, from = NULL,
  onto = FALSE, without = NULL
) {
  keep_own_options()
  if (!is.numeric(forms) || length(forms) != 1 || is.na(forms) || forms < 1 || forms > 5000 ||
    forms != round(forms)) stop_mavik(
    "usage_error",
    "`forms` must be a whole number from 1 to 5,000: how many questionnaires there are"
  )
  target <- entry_export(
    codebook, of, export, wave, in_project(file, codebook), without
  )
  if (is.null(file)) file <- entry_file(target)
  if (!grepl("[.]xlsx$", file, ignore.case = TRUE)) stop_mavik(
    "write_error", file, ": a sheet to type in is written as .xlsx"
  )
  if (file.exists(file)) stop_mavik(
    "write_error", file, ": stands there already, and what is typed in a sheet is never written ",
    "over; name another file with `--out`, and with `--from` what is typed in this one is taken ",
    "over"
  )
  check_may_write(file, setdiff(raw_places(target$book), real_path(file)))
  fields <- fields_to_type(target)
  kept <- if (!is.null(from)) typed_before(from, fields, target)
  # Whether the codebook can take it is known before anything is written.
  lines <- if (onto && !is.null(target$entry)) lines_with_export(target)
  forms <- max(forms, length(kept$line))
  dir.create(dirname(file), recursive = TRUE, showWarnings = FALSE)
  write_entry_book(fields, target, as.integer(forms), kept, file)
  if (!is.null(lines)) write_edited(lines, target$book$file)
  invisible(list(
    file = file, export = target$export$name, entry = target$entry,
    read = if (is.null(target$entry)) export_path(target$export, target$book),
    questions = length(fields),
    forms = as.integer(forms), taken_over = length(kept$line), left = kept$left,
    drops = screens_of_sheet(target)
  ))
}

entry_file <- function(target) {
  if (is.null(target$export$file)) stop_mavik(
    "build_error", "exports > ", target$export$name, ": `file` is missing: say where to write"
  )
  if (is_pattern(target$export$file)) stop_mavik(
    "build_error", "exports > ", target$export$name, ": `", target$export$file,
    "` stands for many sheets: say which to write, `--out FILE.xlsx`"
  )
  export_path(target$export, target$book)
}

# A file as the codebook would name it.
in_project <- function(file, codebook) {
  if (is.null(file) || !is_text(codebook)) return(file)
  named_from(file, dirname(real_path(codebook_file(codebook))))
}

lines_with_export <- function(target) {
  file <- target$book$file
  if (is.null(file) || is_workbook(file)) stop_mavik(
    "codebook_error", "the export can be added to a codebook in a YAML file only"
  )
  old <- codebook_lines(file)
  document <- merge_at(
    unclass_document(parse_lines(old, file)), c("exports", target$name), target$entry
  )
  change_lines(old, file, document)
}

write_entry_book <- function(fields, target, forms, kept, file) make_workbook(file, function(book) {
  layout <- entry_layout(fields, target$export, target$book, forms)
  openxlsx::addWorksheet(book, typed_sheet)
  write_entry_help(book, target, forms)
  write_entry_columns(book, layout)
  lists <- entry_lists(layout)
  ranges <- with_names(add_choice_lists(book, lists), names(lists))
  write_entry_heads(book, layout)
  write_entry_cells(book, layout, kept)
  offer_entry(book, layout, ranges)
  gates <- gate_formulas(layout, target$book, ranges)
  grey_entry(book, layout, gates)
  count_entry(book, layout, gates)
  for (sheet in c(typed_sheet, "help", "columns")) openxlsx::protectWorksheet(
    book, sheet, lockFormattingColumns = FALSE, lockFormattingRows = FALSE
  )
})

# Every column of the sheet from left to right: form, key and how far the row is stay in sight;
# then the questions; who typed it stands at the end. `rows` are those of the forms.
entry_layout <- function(fields, export, book, forms) {
  keyed <- !is_numbered(export)
  key <- if (keyed) Filter(is_key, book$variables)[1][[1]]
  lead <- c(export$response, if (keyed) export$key, typed_marks[c("progress", "open")])
  about <- c(
    "Number of the form", if (keyed) c(key$label, "The key")[1], "Share of the questions answered",
    "Questions still without an answer"
  )
  headings <- c(
    unname(lead), vapply(fields, `[[`, "", "heading"), unname(typed_marks[c("clerk", "date")])
  )
  list(
    fields = fields, lead = length(lead), keyed = keyed, headings = headings,
    questions = c(
      about, vapply(fields, `[[`, "", "question"), "Who typed this row", "On which day, 2026-03-21"
    ),
    takes = c(
      "", if (keyed) "the key", "", "", vapply(fields, entry_takes, ""), "", "a day, 2026-03-21"
    ),
    asked = c(rep("", length(lead)), vapply(fields, `[[`, "", "asked_of"), "", ""),
    width = c(6, if (keyed) 11, 9, 7, vapply(fields, entry_width, 0), 12, 12),
    format = c(
      "GENERAL", if (keyed) "TEXT", "0%", "0", vapply(fields, entry_format, ""), "GENERAL",
      "yyyy-mm-dd"
    ),
    letters = letters_of_column(seq_along(headings)), rows = seq_len(forms) + 2L
  )
}

field_letters <- function(layout) layout$letters[layout$lead + seq_along(layout$fields)]

cells_of_column <- function(layout, letter) paste0(
  letter, layout$rows[1], ":", letter, layout$rows[length(layout$rows)]
)

# As wide as its answers, and so wide that a long question takes few lines.
entry_width <- function(field) {
  answers <- switch(field$kind,
    choice = min(max(nchar(field$codes$label), 8) + 4, 24),
    date = if (field$level == "datetime") 17 else 12, text = if (
      identical(field$level, "identifier")
    ) 12 else 34, words = 26, tick = 12, 13
  )
  max(answers, nchar(field$heading) + 2, min(nchar(field$question) / 6, 30))
}

entry_format <- function(field) switch(field$kind,
  date = if (field$level == "datetime") "yyyy-mm-dd hh:mm" else "yyyy-mm-dd",
  text = , words = "TEXT", "GENERAL"
)

write_entry_heads <- function(book, layout) {
  sheet <- typed_sheet
  all <- seq_along(layout$headings)
  heads <- rbind(layout$questions, layout$headings)
  # Neighbouring questions are told apart by their tint.
  group <- c(rep(0, layout$lead), cumsum(!duplicated(entry_groups(layout))), 0, 0)
  for (tint in 0:1) openxlsx::addStyle(book, sheet, openxlsx::createStyle(
    fgFill = c("#E3DCEA", "#F2EFF5")[tint + 1], wrapText = TRUE, valign = "top", fontSize = 8,
    border = "TopBottomLeftRight", borderColour = "#C4B8D0", numFmt = "TEXT"
  ), rows = 1, cols = all[group %% 2 == tint], gridExpand = TRUE)
  openxlsx::addStyle(book, sheet, sheet_styles$head(fontSize = 9), rows = 2, cols = all)
  openxlsx::writeData(book, sheet, heads, colNames = FALSE)
  openxlsx::setColWidths(book, sheet, all, layout$width)
  lines <- ceiling(nchar(layout$questions) / (layout$width * 1.25))
  openxlsx::setRowHeights(book, sheet, 1:2, c(min(max(lines) * 11 + 8, 110), 26))
  openxlsx::freezePane(book, sheet, firstActiveRow = 3, firstActiveCol = layout$lead + 1)
  openxlsx::pageSetup(
    book, sheet, orientation = "landscape", fitToWidth = FALSE, fitToHeight = FALSE,
    printTitleRows = 1:2, printTitleCols = 1:2
  )
}

# The items of a block, and the boxes of a question, belong together.
entry_groups <- function(layout) vapply(layout$fields, function(field) {
  if (is.null(field$block)) field$variable else field$block
}, "")

write_entry_cells <- function(book, layout, kept) {
  sheet <- typed_sheet
  counted <- layout$headings %in% typed_marks[c("progress", "open")]
  for (format in unique(layout$format)) for (open in c(TRUE, FALSE)) {
    columns <- which(layout$format == format & counted != open)
    if (length(columns) > 0) openxlsx::addStyle(book, sheet, openxlsx::createStyle(
      numFmt = format, locked = !open, fgFill = if (!open) "#F2EFF5",
      border = "TopBottomLeftRight", borderColour = "#DAD6DE"
    ), rows = layout$rows, cols = columns, gridExpand = TRUE)
  }
  write_words(book, sheet, entry_numbers(kept, length(layout$rows)), 1, 3)
  for (heading in names(kept$columns)) write_words(
    book, sheet, kept$columns[[heading]], match(heading, layout$headings), 3
  )
}

# Form numbers of what was taken over, then those that are free.
entry_numbers <- function(kept, forms) {
  free <- setdiff(seq_len(forms + length(kept$form)), suppressWarnings(as.numeric(kept$form)))
  c(kept$form, number_to_text(free))[seq_len(forms)]
}

