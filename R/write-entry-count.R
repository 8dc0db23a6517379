# How far each row of a sheet is, and the sheets that explain it.

# Two formulas a row: the share of the questions with an answer, and how many have none.
count_entry <- function(book, layout, gates) {
  counted <- counted_runs(layout, gates)
  letters <- layout$letters
  all <- letters[layout$lead + c(1, length(layout$fields))]
  open_at <- match(typed_marks[["open"]], layout$headings)
  done_at <- match(typed_marks[["progress"]], layout$headings)
  in_row <- function(formula, row) gsub("{row}", row, formula, fixed = TRUE)
  open <- counted$open
  if (nchar(in_row(open, 99999)) > 7500) open <- counted$plain
  any_typed <- paste0("COUNTA($", all[1], "{row}:$", all[2], "{row})=0")
  cell <- paste0("$", letters[open_at], "{row}")
  formulas <- c(
    paste0("IF(", any_typed, ",\"\",", open, ")"),
    paste0("IF(", cell, "=\"\",\"\",IFERROR((", counted$filled, ")/((", counted$filled, ")+", cell,
      "),1))")
  )
  for (k in 1:2) openxlsx::writeFormula(
    book, typed_sheet, vapply(layout$rows, in_row, "", formula = formulas[k]),
    startCol = c(open_at, done_at)[k], startRow = layout$rows[1]
  )
  mark_cells(
    book, typed_sheet, cells_of_column(layout, letters[open_at]),
    paste0("AND(", letters[open_at], layout$rows[1], "=0,", letters[open_at], layout$rows[1],
      "<>\"\")"),
    openxlsx::createStyle(bgFill = "#D9E8D9", textDecoration = "bold")
  )
}

# Formulas with `{row}`: answered, not answered though asked, and not answered at all. Boxes of a
# question count as one; texts do not count.
counted_runs <- function(layout, gates) {
  letters <- field_letters(layout)
  kind <- vapply(layout$fields, `[[`, "", "kind")
  owner <- vapply(layout$fields, `[[`, "", "variable")
  unit <- ifelse(kind == "tick", owner, paste0(kind, gates))
  keep <- which(kind %in% c("choice", "number", "date", "tick"))
  breaks <- diff(keep) != 1 | unit[keep][-1] != unit[keep][-length(keep)]
  runs <- split(keep, cumsum(c(TRUE, breaks)))
  first <- layout$rows[1]
  parts <- lapply(if (length(keep) > 0) runs, function(run) {
    cells <- paste0("$", letters[run[1]], "{row}:$", letters[rev(run)[1]], "{row}")
    boxes <- kind[run[1]] == "tick"
    answered <- paste0("COUNTA(", cells, ")")
    gate <- gsub(paste0("(\\$[A-Z]+)", first, "\\b"), "\\1{row}", gates[run[1]])
    filled <- if (boxes) paste0("IF(", answered, ">0,1,0)") else answered
    open <- if (boxes) paste0("IF(", answered, ">0,0,1)") else paste0("COUNTBLANK(", cells, ")")
    list(
      filled = filled, plain = open,
      open = if (nzchar(gate)) paste0("IF(", gate, ",0,", open, ")") else open
    )
  })
  lapply(
    stats::setNames(nm = c("filled", "open", "plain")),
    function(what) if (length(parts) == 0) "0" else paste(
      vapply(parts, `[[`, "", what), collapse = "+"
    )
  )
}

write_entry_help <- function(book, target, forms) {
  export <- target$export
  words <- c(
    paste0("A row of the sheet entry is a questionnaire. Its form number stands on the paper and ",
      "in the first column; each number once."),
    "Choose an answer from the list of its cell, or type its code: both are read alike.",
    paste0("Where nothing was answered leave the cell empty. Where the paper gives a reason ",
      "choose the reason: it stands at the end of each list."),
    "In a question with several answers put x under each that is ticked.",
    "A number or date outside its limits is stopped; a list only warns.",
    paste0("A grey cell was not asked, by the answers before it. Type what stands on the paper ",
      "all the same: the build sets it aside and says so."),
    paste0("Progress and Open fields count by themselves; several answers to one question count ",
      "as one, and free texts do not count."),
    paste0("The headings are locked: they say what each column is. What each column takes stands ",
      "on the sheet columns."),
    paste0(
      "The sheet is the export ", export$name, " of the study \u201c", target$book$study$title,
      "\u201d, wave ", target$book$waves[[export$wave]]$label, ", with rows for ", forms, " forms."
    )
  )
  openxlsx::addWorksheet(book, "help")
  openxlsx::addStyle(book, "help", openxlsx::createStyle(wrapText = TRUE, valign = "top"),
    rows = seq_along(words), cols = 1)
  openxlsx::writeData(book, "help", words, colNames = FALSE)
  openxlsx::setColWidths(book, "help", 1, 96)
  fit_rows(book, "help", data.frame(words = words), 96, first = 1)
}

# The sheet that a build compares headings with.
write_entry_columns <- function(book, layout) {
  told <- data.frame(
    column = layout$letters, heading = layout$headings, question = layout$questions,
    takes = layout$takes, asked = layout$asked
  )
  names(told)[5] <- "asked of"
  add_text_sheet(book, "columns", told, c(8, 18, 56, 64, 30))
}
