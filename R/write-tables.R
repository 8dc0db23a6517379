# The declared tables as a workbook: an index with links, a sheet a table, real numbers.

output_tables_workbook <- list(
  file = "tables.xlsx",
  for_readers = TRUE,
  help = "the declared tables as a workbook: an index with links, a sheet a table",
  wanted = function(study) length(study$book$declared) > 0,
  write = function(study, path) write_tables(study$tabulated, study$book$study$title, path)
)

# The same tables make the same bytes, and a study is often built again for something else.
write_tables <- function(tables, title, path) {
  bytes <- lately("tables", list(tables, title), function(made) {
    make_tables_workbook(tables, title, path)
    readBin(path, "raw", file.size(path))
  }, 2L)
  write_beside(path, function(beside) write_checked(bytes, beside))
}

make_tables_workbook <- function(tables, title, path) make_workbook(path, function(book) {
  styles <- once_a_session("table_styles", table_styles)
  sheets <- sheet_names(names(tables))
  openxlsx::addWorksheet(book, "index")
  for (k in seq_along(tables)) {
    openxlsx::addWorksheet(book, sheets[k])
    write_table_sheet(book, sheets[k], tables[[k]], styles)
  }
  write_index_sheet(book, tables, sheets, title, styles)
})

# A sheet's name has 31 characters at most, and `index` is taken.
sheet_names <- function(names) {
  cut <- substr(names, 1, 31)
  cut[tolower_ascii(cut) == "index"] <- "index_"
  for (k in which(duplicated(cut))) cut[k] <- paste0(substr(cut[k], 1, 28), "_", k)
  cut
}

table_styles <- function() {
  style <- openxlsx::createStyle
  quiet <- style(fontColour = "#5F5868")
  net <- style(textDecoration = "italic")
  # For no decimals, one, two and three; a format of one's own has a number from 166 on.
  value <- lapply(1:4, function(k) {
    made <- style(numFmt = c("#,##0", "#,##0.0", "#,##0.00", "#,##0.000")[k])
    made$numFmt$numFmtId <- 165 + k
    made
  })
  list(
    head = style(
      textDecoration = "bold", fgFill = "#E3DCEA", border = "bottom", wrapText = TRUE,
      valign = "top", halign = "center"
    ),
    title = style(textDecoration = "bold", fontSize = 14), part = style(textDecoration = "bold"),
    quiet = quiet, net = net, plain_value = value,
    quiet_value = lapply(value, styled_too, "fontColour", quiet),
    net_value = lapply(value, styled_too, "fontDecoration", net)
  )
}

styled_too <- function(style, field, other) {
  style <- style$copy()
  style$field(field, other$field(field))
  style
}

write_index_sheet <- function(book, tables, sheets, title, styles) {
  openxlsx::writeData(book, "index", title, colNames = FALSE)
  openxlsx::addStyle(book, "index", styles$title, 1, 1)
  index <- data.frame(
    sheet = sheets, table = vapply(tables, function(table) table$title, ""),
    respondents = vapply(tables, `[[`, 0L, "n"),
    where = vapply(tables, function(table) paste0(table$where, ""), ""),
    weight = vapply(tables, function(table) paste0(table$weight, ""), "")
  )
  openxlsx::writeData(book, "index", index, startRow = 3, headerStyle = styles$head)
  for (k in seq_along(sheets)) openxlsx::writeFormula(
    book, "index", openxlsx::makeHyperlinkString(
      sheet = sheets[k], row = 1, col = 1, text = sheets[k]
    ), startRow = 3 + k, startCol = 1
  )
  openxlsx::setColWidths(book, "index", 1:5, c(18, 60, 13, 34, 14))
  openxlsx::freezePane(book, "index", firstActiveRow = 4)
  openxlsx::pageSetup(
    book, "index", orientation = "landscape", fitToWidth = TRUE, fitToHeight = FALSE
  )
}

# The writer takes its time for each range that is written: the words of the first two columns go
# in as one, the heads as one, and of each section its numbers and its letters.
write_table_sheet <- function(book, sheet, table, styles) {
  put <- function(x, row, column = 1) openxlsx::writeData(
    book, sheet, as.data.frame(x), startRow = row, startCol = column, colNames = FALSE,
    keepNA = FALSE
  )
  columns <- table$columns
  facts <- table_facts(table)
  top <- 4
  below <- c(facts[-1], table$note, unlist(lapply(table$sections, section_tests, table = table)))
  parts <- lapply(table$sections, section_part, headed = length(table$sections) > 1)
  from <- top + 2 + cumsum(c(0, vapply(parts, function(part) nrow(part$words), 0L)))
  put(do.call(rbind, c(
    list(cbind(c(table$title, facts[1], NA, NA, ""), c(rep(NA, 4), ""))),
    lapply(parts, `[[`, "words"), if (length(below) > 0) list(cbind(below, NA))
  )), 1)
  openxlsx::addStyle(book, sheet, styles$title, 1, 1)
  heads <- write_heads(book, sheet, table, top, put)
  openxlsx::addStyle(
    book, sheet, styles$head, rows = c(top, top + 1), cols = seq_len(nrow(columns) + 2),
    gridExpand = TRUE
  )
  for (k in seq_along(parts)) put_section(book, sheet, parts[[k]], from[k], styles, put)
  openxlsx::setColWidths(book, sheet, seq_len(nrow(columns) + 2), c(
    38, 15, pmin(pmax(nchar(heads) + 2, 11), 22)
  ))
  openxlsx::freezePane(book, sheet, firstActiveRow = top + 2, firstActiveCol = 3)
  openxlsx::pageSetup(
    book, sheet, orientation = "landscape", fitToWidth = TRUE, fitToHeight = FALSE,
    printTitleRows = c(top, top + 1)
  )
}

# Groups over their columns, and what each column is called.
write_heads <- function(book, sheet, table, top, put) {
  columns <- table$columns
  heads <- paste0(columns$label, ifelse(
    nzchar(columns$letter), paste0(" (", columns$letter, ")"), ""
  ))
  over <- rep(NA_character_, nrow(columns))
  for (group in unique(columns$group)) {
    here <- which(columns$group == group)
    over[here[1]] <- table$groups[[group]]$title
    if (length(here) > 1) openxlsx::mergeCells(book, sheet, cols = here + 2, rows = top)
  }
  put(rbind(over, heads), top, 3)
  openxlsx::setRowHeights(book, sheet, top, 30)
  heads
}

# Its words, a blank row behind them; the first of its lines is the row `lead` + 1. Letters stand
# in lines of their own.
section_part <- function(section, headed) {
  lines <- section$lines
  first <- !duplicated(paste(lines$type, lines$code, ifelse(
    lines$type %in% c("code", "option", "net"), "", lines$statistic
  )))
  marked <- which(rowSums(section$letters != "") > 0)
  list(
    section = section, lead = as.integer(headed), marked = marked,
    words = rbind(
      if (headed) c(section$label, NA),
      cbind(ifelse(first, line_words(lines), ""), unname(statistic_words[lines$statistic])),
      if (length(marked) > 0) cbind(line_words(lines)[marked], "higher than"), NA
    )
  )
}

put_section <- function(book, sheet, part, row, styles, put) {
  section <- part$section
  if (part$lead > 0) openxlsx::addStyle(book, sheet, styles$part, row, 1)
  row <- row + part$lead
  put(section$value, row, 3)
  height <- nrow(section$value)
  style_lines(
    book, sheet, section, row + seq_len(height) - 1, seq_len(ncol(section$value)) + 2, styles
  )
  if (length(part$marked) > 0) put(
    section$letters[part$marked, , drop = FALSE], row + height, 3
  )
}

# Each cell gets one style: to lay one over another takes the writer longer than all else.
style_lines <- function(book, sheet, section, rows, columns, styles) {
  type <- section$lines$type
  kind <- ifelse(type %in% c("base", "respondents", "gap"), "quiet", ifelse(
    type == "net", "net", "plain"
  ))
  decimals <- statistic_decimals(section$lines$statistic, section$decimals)
  style <- function(which, columns, style) if (any(which)) openxlsx::addStyle(
    book, sheet, style, rows = rows[which], cols = columns, gridExpand = TRUE
  )
  for (name in c("plain", "quiet", "net")) {
    for (d in unique(decimals)) style(
      kind == name & decimals == d, columns, styles[[paste0(name, "_value")]][[min(d, 3) + 1]]
    )
    if (name != "plain") style(kind == name, 1:2, styles[[name]])
  }
}
