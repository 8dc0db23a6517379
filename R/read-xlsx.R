# A sheet of an XLSX workbook as cells.

reader_xlsx <- new_reader(
  knows = function(source, first, entries) "xl/workbook.xml" %in% entries,
  laid_out = "sheet",
  # The cells of a sheet and its merged ranges.
  open = function(source, sheet, shown) {
    parts <- unzip_parts(source, shown, xlsx_parts)
    on.exit(unlink(attr(parts, "folder"), recursive = TRUE))
    book <- part_xml(parts, "xl/workbook.xml", shown)
    sheet <- part_xml(parts, xlsx_sheet(book, parts, sheet, shown), shown)
    merged <- xml2::xml_attr(xml2::xml_find_all(sheet, "//mergeCells/mergeCell"), "ref")
    list(
      cells = xlsx_cells(sheet, xlsx_strings(parts, shown), xlsx_dates(parts, book, shown), shown),
      merged = lapply(merged, merged_range)
    )
  },
  sheets = function(path, shown) {
    parts <- unzip_parts(path, shown, xlsx_parts)
    on.exit(unlink(attr(parts, "folder"), recursive = TRUE))
    book <- part_xml(parts, "xl/workbook.xml", shown)
    names <- xml2::xml_attr(xml2::xml_find_all(book, "//sheets/sheet"), "name")
    strings <- xlsx_strings(parts, shown)
    dates <- xlsx_dates(parts, book, shown)
    with_names(lapply(names, function(name) xlsx_cells(
      part_xml(parts, xlsx_sheet(book, parts, name, shown), shown), strings, dates, shown
    )), names)
  },
  read = function(source, options, shown) grid_of_sheet(reader_xlsx, source, options, shown)
)

xlsx_parts <- paste0(
  "^xl/(workbook|sharedStrings|styles)[.]xml$|^xl/_rels/workbook[.]xml[.]rels$|",
  "^xl/worksheets/[^/]+[.]xml$"
)

xlsx_sheet <- function(book, parts, wanted, shown) {
  sheets <- xml2::xml_find_all(book, "//sheets/sheet")
  names <- xml2::xml_attr(sheets, "name")
  sheet <- chosen_sheet(names, wanted, shown)
  id <- xml2::xml_attr(sheets, "id")[sheet]
  links <- xml2::xml_find_all(
    part_xml(parts, "xl/_rels/workbook.xml.rels", shown), "//Relationship"
  )
  target <- xml2::xml_attr(links, "Target")[match(id, xml2::xml_attr(links, "Id"))]
  if (startsWith(target, "/")) substring(target, 2) else paste0("xl/", target)
}

chosen_sheet <- function(names, wanted, shown) {
  if (is.null(wanted) && length(names) == 1) return(1L)
  if (is.null(wanted)) stop_read(
    shown, NULL, "has ", count_of(length(names), "sheet"), ": say which, `sheet: ", names[1],
    "` in a codebook, `--sheet` for a command (", some_of(names, 9), ")"
  )
  place <- match(wanted, text_trim(names))
  if (is.na(place)) stop_read(
    shown, NULL, "has no sheet `", wanted, "`", did_you_mean(wanted, names), " (",
    some_of(names, 9), ")"
  )
  place
}

xlsx_strings <- function(parts, shown) {
  if (!"xl/sharedStrings.xml" %in% names(parts)) return(character())
  xlsx_escapes(fields_of_nodes(
    part_xml(parts, "xl/sharedStrings.xml", shown), "//si", xsl_texts("t | r/t"), shown
  )[[1]])
}

# `_x000D_` and the like are characters that XML cannot hold.
xlsx_escapes <- function(text) {
  has <- grepl("_x[0-9A-Fa-f]{4}_", text)
  text[has] <- stringi::stri_replace_all_regex(text[has], "_x000[dD]_\n?", "\n")
  text
}

# Which styles show dates, and the day that serial numbers count from.
xlsx_dates <- function(parts, book, shown) {
  since <- if (xml2::xml_find_lgl(book, "boolean(//workbookPr[@date1904='1' or @date1904='true'])"))
    "1904-01-01" else "1899-12-30"
  if (!"xl/styles.xml" %in% names(parts)) return(list(since = since, styles = logical()))
  styles <- part_xml(parts, "xl/styles.xml", shown)
  formats <- xml2::xml_find_all(styles, "//numFmts/numFmt")
  own <- with_names(xml2::xml_attr(formats, "formatCode"), xml2::xml_attr(formats, "numFmtId"))
  used <- xml2::xml_attr(xml2::xml_find_all(styles, "//cellXfs/xf"), "numFmtId")
  # Texts in quotes, and what stands in brackets, but for hours, minutes or seconds gone by.
  code <- gsub("\"[^\"]*\"|\\\\.|\\[(?!(?i:h+|m+|s+)\\])[^\\]]*\\]|_.|[*].", "", own[used],
    perl = TRUE)
  number <- as.integer(used)
  list(
    since = since,
    styles = number %in% c(14:22, 27:36, 45:47, 50:58) | (
      !is.na(code) & grepl("[dyhsDYHS]|m{3}|M{3}", code)
    )
  )
}

xlsx_cells <- function(sheet, strings, dates, shown) {
  fields <- fields_of_nodes(
    sheet, "//sheetData/row/c[(v and not(@t='inlineStr')) or (is and @t='inlineStr')]",
    c(xsl_value("@r"), xsl_value("@s"), xsl_value("@t"), xsl_texts(
      "v[not(../@t='inlineStr')] | is[../@t='inlineStr']/t | is[../@t='inlineStr']/r/t"
    )), shown
  )
  place <- fields[[1]]
  if (!all(nzchar(place))) stop_read(
    shown, NULL,
    "the workbook's cells have no addresses: open it in a spreadsheet program and save it again"
  )
  style <- suppressWarnings(as.integer(fields[[2]])) + 1L
  style[is.na(style)] <- 1L
  type <- ifelse(nzchar(fields[[3]]), fields[[3]], "n")
  raw <- fields[[4]]
  shared <- type == "s"
  text <- raw
  text[shared] <- strings[as.integer(raw[shared]) + 1L]
  if (anyNA(text[shared])) stop_read(
    shown, NULL, "the workbook is damaged: cell ", place[shared][is.na(text[shared])][1],
    " points to a text that is not there"
  )
  number <- type == "n"
  shows_date <- unname(number & !is.na(dates$styles[style]) & dates$styles[style])
  text[shows_date] <- serial_dates(as.numeric(raw[shows_date]), dates$since)
  plain <- number & !shows_date & nzchar(raw)
  text[plain] <- number_to_text(as.numeric(raw[plain]))
  text[type == "b"] <- ifelse(raw[type == "b"] == "1", "TRUE", "FALSE")
  kind <- unname(c(n = "number", b = "boolean", e = "error", d = "date")[type])
  kind[is.na(kind)] <- "text"
  kind[shows_date] <- "date"
  with_unreckoned(place, text, kind, sheet)
}

placed_cells <- function(place, text, kind) data.frame(
  row = as.integer(gsub("[A-Z]", "", place)), column = column_number(gsub("[0-9]", "", place)),
  text = text, kind = kind
)

# Programs that write a formula may leave its result to whoever opens the workbook: such a cell is
# no blank, and no answer.
with_unreckoned <- function(place, text, kind, sheet) {
  open <- xml2::xml_find_all(sheet, paste0(
    "//sheetData/row/c[f and not(is) and not(v[string-length() > 0]) and not(v and @t='str')]"
  ))
  if (length(open) == 0) return(placed_cells(place, text, kind))
  formulas <- paste0("=", xml2::xml_text(xml2::xml_find_first(open, "f")))
  there <- xml2::xml_attr(open, "r")
  known <- !place %in% there
  cells <- placed_cells(
    c(place[known], there), c(text[known], formulas), c(kind[known], rep("error", length(there)))
  )
  cells <- cells[order(cells$row, cells$column), ]
  rownames(cells) <- NULL
  cells
}

column_number <- function(letters) {
  distinct <- unique(letters)
  value <- vapply(
    strsplit(distinct, ""),
    function(letter_run) Reduce(
      function(sum, letter) sum * 26 + letter, match(letter_run, LETTERS), 0), 0
  )
  as.integer(value[match(letters, distinct)])
}

# ISO 8601: a day, a day with its time, or a time alone.
serial_dates <- function(serial, since) {
  day <- floor(serial)
  second <- round((serial - day) * 86400)
  day <- day + (second == 86400)
  second[second == 86400] <- 0
  time <- sprintf("%02d:%02d:%02d", second %/% 3600, second %/% 60 %% 60, second %% 60)
  date <- format(as.Date(since) + day, "%Y-%m-%d")
  ifelse(
    is.na(serial), "",
    ifelse(serial < 1 & second > 0, time, ifelse(second > 0, paste0(date, "T", time), date))
  )
}

merged_range <- function(ref) {
  ends <- strsplit(ref, ":", fixed = TRUE)[[1]]
  row <- as.integer(gsub("[A-Z]", "", ends))
  column <- column_number(gsub("[0-9]", "", ends))
  list(rows = c(row[1], row[length(row)]), columns = c(column[1], column[length(column)]))
}
