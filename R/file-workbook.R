# Workbooks that people type into: sheets of texts with a frozen heading, notes that explain each
# column, lists to choose from, limits that stop.

# `fill` puts sheets into the book. No clock, user or locale is in what comes out; what its writer
# could not finish does not open as an archive.
make_workbook <- function(file, fill) uncompiled(with_plain_locale({
  book <- openxlsx::createWorkbook(creator = "Mavik")
  fill(book)
  book$styleObjects <- pooled_styles(book$styleObjects)
  book$core <- sub("(<dcterms:created[^>]*>)[^<]*", "\\12000-01-01T00:00:00Z", book$core)
  write_beside(file, ending = ".xlsx", function(beside) {
    openxlsx::saveWorkbook(book, beside, overwrite = TRUE)
    tryCatch(utils::unzip(beside, list = TRUE),
      warning = function(w) stop("the workbook is cut off"))
    fix_zip_times(beside)
  })
}))

# R would compile the methods of the writer's classes anew in each process, which takes longer than
# they do.
uncompiled <- function(expr) {
  before <- compiler::enableJIT(0)
  on.exit(compiler::enableJIT(before))
  expr
}

# The writer takes its time for each style that is set, however few its cells: what looks alike on
# a sheet is set once. It copies each, which of an object of its class takes longest: what it reads
# of one stands in a list.
pooled_styles <- function(set) {
  if (length(set) == 0) return(set)
  fields <- names(set[[1]]$style$getRefClass()$fields())
  looks <- lapply(set, function(part) mget(fields, envir = as.environment(part$style)))
  look <- vapply(seq_along(set), function(k) paste(c(
    set[[k]]$sheet, looks[[k]]
  ), collapse = "\r"), "")
  lapply(unname(split(seq_along(set), factor(look, unique(look)))), function(alike) list(
    style = list(copy = function() looks[[alike[1]]]), sheet = set[[alike[1]]]$sheet,
    rows = unlist(lapply(set[alike], `[[`, "rows")), cols = unlist(lapply(set[alike], `[[`, "cols"))
  ))
}

# A sheet of a table of texts. `typed` are columns that people fill in, `notes` explain columns
# by name, `spare` are rows below for more.
add_text_sheet <- function(book, name, table, widths, typed = character(), notes = NULL,
  spare = 0, fixed = 0) {
  openxlsx::addWorksheet(book, name)
  rows <- seq_len(max(nrow(table) + spare, 1)) + 1
  columns <- seq_along(table)
  openxlsx::addStyle(book, name, plain_style("body"), rows, columns, gridExpand = TRUE)
  mine <- match(typed, names(table))
  if (length(mine) > 0) openxlsx::addStyle(
    book, name, plain_style("typed"), rows, mine, gridExpand = TRUE, stack = TRUE
  )
  openxlsx::writeData(book, name, table, headerStyle = plain_style("head"), keepNA = FALSE)
  openxlsx::setColWidths(book, name, columns, widths)
  fit_rows(book, name, table, widths)
  openxlsx::freezePane(book, name, firstActiveRow = 2, firstActiveCol = fixed + 1)
  openxlsx::pageSetup(
    book, name, orientation = "landscape", fitToWidth = TRUE, fitToHeight = FALSE,
    printTitleRows = 1
  )
  add_notes(book, name, names(table), notes)
}

# One for all: the writer takes its time for each.
plain_style <- function(name) once_a_session(paste("style", name), sheet_styles[[name]])

sheet_styles <- list(
  head = function(...) openxlsx::createStyle(
    textDecoration = "bold", fgFill = "#E3DCEA", border = "bottom", wrapText = TRUE,
    valign = "top", numFmt = "TEXT", ...
  ),
  body = function(...) openxlsx::createStyle(
    numFmt = "TEXT", wrapText = TRUE, valign = "top", ...
  ),
  typed = function(...) openxlsx::createStyle(
    fgFill = "#F7F4FA", border = "TopBottomLeftRight", borderColour = "#C4B8D0", ...
  ),
  note = function() openxlsx::createStyle(
    fontName = "Tahoma", fontSize = 9, fontColour = "black"
  )
)

# A note on the heading of each column that has one.
add_notes <- function(book, sheet, columns, notes, row = 1) {
  style <- plain_style("note")
  for (name in intersect(columns, names(notes))) openxlsx::writeComment(
    book, sheet, match(name, columns), row, openxlsx::createComment(
      notes[[name]], author = "Mavik", style = style, visible = FALSE, width = 3,
      height = 1 + ceiling(nchar(notes[[name]]) / 28)
    )
  )
}

# Rows as high as what is wrapped in them.
fit_rows <- function(book, sheet, cells, widths, first = 2) {
  lines <- Map(
    function(column, width) vapply(
      strsplit(paste0(ifelse(is.na(column), "", column), " "), "\n", fixed = TRUE),
      function(parts) sum(pmax(1, ceiling(nchar(parts) / width))), 0
    ),
    cells, widths
  )
  high <- do.call(pmax, c(list(rep(1, nrow(cells))), unname(lines)))
  rows <- which(high > 1)
  if (length(rows) > 0) openxlsx::setRowHeights(
    book, sheet, rows + first - 1, 15 * pmin(high[rows], 20)
  )
}

# Lists to choose from stand on a hidden sheet; gives the range of each.
add_choice_lists <- function(book, lists, name = "lists") {
  openxlsx::addWorksheet(book, name, visible = FALSE)
  vapply(seq_along(lists), function(k) {
    write_words(book, name, lists[[k]], k, 1)
    list_range_of(name, k, 1, length(lists[[k]]))
  }, "")
}

# Texts down a column, numbers among them as numbers.
write_words <- function(book, sheet, words, column, row) {
  number <- suppressWarnings(as.numeric(words))
  kind <- ifelse(!nzchar(words), "none", ifelse(
    !is.na(number) & number_to_text(number) == words, "number", "text"
  ))
  for (run in split(seq_along(words), cumsum(c(TRUE, kind[-1] != kind[-length(kind)])))) {
    if (kind[run[1]] != "none") openxlsx::writeData(
      book, sheet, if (kind[run[1]] == "number") number[run] else words[run], startCol = column,
      startRow = row + run[1] - 1, colNames = FALSE
    )
  }
}

list_range_of <- function(sheet, column, from, to) {
  letter <- letters_of_column(column)
  paste0("'", sheet, "'!$", letter, "$", from, ":$", letter, "$", to)
}

# What cells take. A list warns, so that something else passes; `stops` lets nothing else in.
check_cells <- function(
  book, sheet, cells, formula, type = "list", stops = FALSE, message = NULL, prompt = NULL,
  title = NULL
) {
  text <- function(key, value, width) if (length(value) > 0 && nzchar(value)) paste0(
    " ", key, "=\"", escaped_xml(shorten_text(value, width)), "\""
  )
  place <- match(sheet, names(book))
  validation <- paste0(
    "<dataValidation type=\"", type, "\" errorStyle=\"", if (stops) "stop" else "warning",
    "\" allowBlank=\"1\" showInputMessage=\"1\" showErrorMessage=\"",
    if (stops || !is.null(message)) 1 else 0, "\"", text("errorTitle", title, 32),
    text("error", message, 250), text("promptTitle", if (!is.null(prompt)) title, 32),
    text("prompt", prompt, 250), " sqref=\"", cells, "\"><formula1>", escaped_xml(formula),
    "</formula1></dataValidation>"
  )
  book$worksheets[[place]]$dataValidations <-
    c(book$worksheets[[place]]$dataValidations, validation)
  invisible()
}

# Cells that are drawn in another style while a formula is true.
mark_cells <- function(book, sheet, cells, formula, style) {
  place <- match(sheet, names(book))
  rule <- paste0(
    "<cfRule type=\"expression\" dxfId=\"", book$addDXFS(style), "\" priority=\"",
    length(book$worksheets[[place]]$conditionalFormatting) + 1, "\"><formula>",
    escaped_xml(formula),
    "</formula></cfRule>"
  )
  book$worksheets[[place]]$conditionalFormatting <- c(
    book$worksheets[[place]]$conditionalFormatting, with_names(rule, cells)
  )
  invisible()
}

escaped_xml <- function(text) {
  text <- gsub("&", "&amp;", text, fixed = TRUE)
  text <- gsub("<", "&lt;", text, fixed = TRUE)
  text <- gsub(">", "&gt;", text, fixed = TRUE)
  gsub("\n", "&#10;", gsub("\"", "&quot;", text, fixed = TRUE), fixed = TRUE)
}

# `F12` of a row and columns.
place_name <- function(row, column) {
  letters <- vapply(column, function(n) {
    out <- ""
    while (n > 0) {
      out <- paste0(LETTERS[(n - 1) %% 26 + 1], out)
      n <- (n - 1) %/% 26
    }
    out
  }, "")
  paste0(letters, row)
}

letters_of_column <- function(column) place_name("", column)
