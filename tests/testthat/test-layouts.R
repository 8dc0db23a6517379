# One made-up survey, in many layouts: each is a file (or a data frame) and
# what the codebook says of it. All must build to the same table.

survey <- data.frame(
  key = sprintf("%03d", 1:8), part = c("High", "Low", "High", "", "Low", "Refused", "High", "Low"),
  years = c("3", "2.5", "", "0", "17", "3", "80", "1"), note = c("", "caf\u00e9, \u201cno\u201d", "two\nlines", "=1+1", "007", "a;b|c", "tab\there", "it's"),
  mood = c("Yes", "No", "Yes", "Yes", "", "No", "Yes", "No")
)
asked <- c(key = "Your number", part = "Which part, \"high\" or low?", years = "Years in choirs", note = "Anything else?", mood = "Happy?")

build_laid_out <- function(source, ..., columns = stats::setNames(names(survey), names(survey))) {
  document <- list(
    mavik = 1, study = list(title = "Clothes"), waves = list(one = list(label = "One")),
    exports = list(main = list(file = if (is.character(source)) source, wave = "one", key = columns[["key"]], ...)),
    missing = list(refused = list(code = -2, label = "Refused")),
    variables = list(
      id = list(is = "key", label = "Id"),
      part = list(column = columns[["part"]], label = "Part", level = "nominal", codes = c("1" = "High", "2" = "Low")),
      years = list(column = columns[["years"]], label = "Years", level = "ratio", range = c(0, 90)),
      note = list(column = columns[["note"]], label = "Note", level = "text"),
      mood = list(column = columns[["mood"]], label = "Mood", level = "nominal", codes = c("1" = "Yes", "2" = "No"))
    )
  )
  study <- build_study(document, if (is.character(source)) list() else list(main = source))
  expect_equal(nrow(findings(study)), 0)
  study_table(study, "labels", "codes")
}

layout_file <- function(bytes, ending = ".csv") {
  path <- tempfile(fileext = ending)
  writeBin(if (is.raw(bytes)) bytes else charToRaw(enc2utf8(bytes)), path)
  path
}

layout_text <- function(table = survey, mark = ",", end = "\n", above = list(as.list(names(survey))), quote = FALSE) {
  rows <- c(lapply(above, unlist), lapply(seq_len(nrow(table)), function(i) unlist(table[i, ])))
  cell <- function(x) ifelse(quote | grepl("[\",;|\t\n]", x), paste0("\"", gsub("\"", "\"\"", x), "\""), x)
  paste0(paste(vapply(rows, function(row) paste(cell(row), collapse = mark), ""), collapse = end), end)
}

layout_xlsx <- function(build, numbers = TRUE) {
  path <- tempfile(fileext = ".xlsx")
  book <- openxlsx::createWorkbook()
  build(book)
  openxlsx::saveWorkbook(book, path)
  path
}

typed <- function() {
  table <- survey
  table$years <- as.numeric(table$years)
  table$note[table$note == ""] <- NA
  table$part[table$part == ""] <- NA
  table$mood[table$mood == ""] <- NA
  table
}

layout_ods <- function() {
  escape <- function(x) gsub("<", "&lt;", gsub("&", "&amp;", x))
  cell <- function(x, number) {
    if (x == "") return("<table:table-cell/>")
    if (number) return(paste0("<table:table-cell office:value-type=\"float\" office:value=\"", x, "\"><text:p>", x, ".00</text:p></table:table-cell>"))
    lines <- gsub("\t", "<text:tab/>", escape(strsplit(x, "\n")[[1]]))
    paste0("<table:table-cell office:value-type=\"string\">", paste0("<text:p>", lines, "</text:p>", collapse = ""), "</table:table-cell>")
  }
  row <- function(x, number) paste0("<table:table-row>", paste(mapply(cell, x, number), collapse = ""), "<table:table-cell table:number-columns-repeated=\"16000\"/></table:table-row>")
  body <- vapply(seq_len(nrow(survey)), function(i) row(unlist(survey[i, ]), names(survey) == "years"), "")
  content <- paste0(
    "<?xml version=\"1.0\" encoding=\"UTF-8\"?><office:document-content xmlns:office=\"urn:oasis:names:tc:opendocument:xmlns:office:1.0\" ",
    "xmlns:table=\"urn:oasis:names:tc:opendocument:xmlns:table:1.0\" xmlns:text=\"urn:oasis:names:tc:opendocument:xmlns:text:1.0\"><office:body><office:spreadsheet>",
    "<table:table table:name=\"Answers\">", row(names(survey), FALSE), paste(body, collapse = ""),
    "<table:table-row table:number-rows-repeated=\"1048000\"><table:table-cell table:number-columns-repeated=\"16384\"/></table:table-row></table:table>",
    "</office:spreadsheet></office:body></office:document-content>"
  )
  folder <- tempfile()
  dir.create(folder)
  writeLines(enc2utf8(content), file.path(folder, "content.xml"), useBytes = TRUE)
  path <- tempfile(fileext = ".ods")
  zip::zip(path, "content.xml", root = folder)
  path
}

test_that("the same answers in any layout read the same", {
  skip_if_not_installed("openxlsx")
  skip_if_not_installed("zip")
  plain <- build_laid_out(layout_file(layout_text()))
  expect_equal(plain$id, survey$key)
  expect_equal(plain$note, ifelse(survey$note == "", "-3", survey$note))
  two <- list(as.list(names(survey)), as.list(asked))
  ids <- as.list(sprintf("{\"id\":\"q%d\"}", 1:5))
  by_question <- stats::setNames(unname(asked), names(asked))
  over <- stats::setNames(c("About you - number", "About you - part", "About you - years", "Anything else?", "Happy?"), names(survey))
  latin <- function(text) iconv(enc2utf8(text), "UTF-8", "windows-1252", toRaw = TRUE)[[1]]
  wide <- function(text, to, mark) c(as.raw(mark), iconv(enc2utf8(text), "UTF-8", to, toRaw = TRUE)[[1]])
  comma <- transform(survey, years = sub(".", ",", years, fixed = TRUE))
  codes <- transform(survey, part = c(High = "1", Low = "2.0", Refused = "-2")[part], mood = c(Yes = "1", No = "2")[mood])
  codes[is.na(codes)] <- ""
  frame <- transform(typed(), part = factor(part), mood = factor(mood))
  sheet <- function(above = 0, merged = FALSE) function(book) {
    openxlsx::addWorksheet(book, "Notes")
    openxlsx::writeData(book, "Notes", "nothing here")
    openxlsx::addWorksheet(book, "Answers")
    openxlsx::writeData(book, "Answers", typed(), startRow = 1 + above, na.string = "")
    if (above > 0) openxlsx::writeData(book, "Answers", "A title over the table")
  }
  layouts <- list(
    marked = build_laid_out(layout_file(c(as.raw(c(0xEF, 0xBB, 0xBF)), charToRaw(enc2utf8(layout_text()))))),
    carriage = build_laid_out(layout_file(gsub("two\r\nlines", "two\nlines", layout_text(end = "\r\n")))),
    semicolon = build_laid_out(layout_file(layout_text(mark = ";")), delimiter = "semicolon"),
    tab = build_laid_out(layout_file(layout_text(mark = "\t"), ".tsv"), delimiter = "tab"),
    pipe = build_laid_out(layout_file(layout_text(mark = "|")), delimiter = "pipe"),
    quoted = build_laid_out(layout_file(layout_text(quote = TRUE))),
    latin = build_laid_out(layout_file(latin(layout_text())), encoding = "windows-1252"),
    utf16 = build_laid_out(layout_file(wide(layout_text(), "UTF-16LE", c(0xFF, 0xFE))), encoding = "UTF-16"),
    utf16_big = build_laid_out(layout_file(wide(layout_text(), "UTF-16BE", c(0xFE, 0xFF))), encoding = "UTF-16"),
    comma = build_laid_out(layout_file(layout_text(comma, mark = ";")), delimiter = "semicolon", decimal = "comma"),
    codes = build_laid_out(layout_file(layout_text(codes)), cells = "codes"),
    two_rows = build_laid_out(layout_file(layout_text(above = two)), heading = c("names", "questions")),
    three_rows = build_laid_out(layout_file(layout_text(above = c(two, list(ids)))), heading = c("names", "questions", "marks")),
    questions = build_laid_out(layout_file(layout_text(above = list(as.list(asked)))), heading = "questions", columns = by_question),
    over = build_laid_out(layout_file(layout_text(above = list(list("About you", "", "", "Anything else?", "Happy?"), list("number", "part", "years", "", "")))),
      heading = c("questions", "options"), columns = over),
    title = build_laid_out(layout_file(paste0("The choirs, \"all\" of them\n\n", layout_text())), skip = 2),
    shuffled = build_laid_out(layout_file(layout_text(survey[, c(3, 5, 1, 2, 4)], above = list(as.list(names(survey)[c(3, 5, 1, 2, 4)]))))),
    xlsx = build_laid_out(layout_xlsx(sheet()), sheet = "Answers"),
    xlsx_title = build_laid_out(layout_xlsx(sheet(2)), sheet = "Answers", skip = 2),
    ods = build_laid_out(layout_ods()),
    frame = build_laid_out(frame)
  )
  if (requireNamespace("nanoparquet", quietly = TRUE)) {
    path <- tempfile(fileext = ".parquet")
    nanoparquet::write_parquet(frame, path)
    layouts$parquet <- build_laid_out(path)
  }
  expect_gte(length(layouts), 21)
  for (name in names(layouts)) expect_equal(layouts[[name]], plain, info = name)
})

test_that("every reader keeps the contract", {
  sheet <- function(book) {
    openxlsx::addWorksheet(book, "Answers")
    openxlsx::writeData(book, "Answers", typed(), na.string = "")
  }
  parquet <- tempfile(fileext = ".parquet")
  nanoparquet::write_parquet(typed(), parquet)
  sources <- list(delimited = layout_file(layout_text()), xlsx = layout_xlsx(sheet), ods = layout_ods(), frame = typed(), parquet = parquet)
  expect_setequal(names(sources), names(core$readers()))
  for (name in names(sources)) conform_reader(core, name, sources[[name]], survey)
})

test_that("a workbook's numbers, dates, booleans, errors and merged headings are told apart", {
  skip_if_not_installed("openxlsx")
  path <- layout_xlsx(function(book) {
    openxlsx::addWorksheet(book, "A")
    openxlsx::writeData(book, "A", data.frame(id = 1:3, day = as.Date(c("2026-03-02", NA, "1999-12-31")), time = as.POSIXct("2026-03-02 10:30:00", tz = "UTC"),
      yes = c(TRUE, FALSE, NA), size = c(0.1, 1e6, 2.675)), startRow = 2)
    openxlsx::writeData(book, "A", t(c("Who", "When", "", "", "How")), colNames = FALSE)
    openxlsx::mergeCells(book, "A", cols = 2:4, rows = 1)
  })
  export <- read_export(path, heading = c("questions", "options"))
  expect_equal(export$names, c("Who - id", "When - day", "When - time", "When - yes", "How - size"))
  cells <- as.data.frame(export)
  expect_equal(cells[[2]], c("2026-03-02", "", "1999-12-31"))
  expect_equal(cells[[3]], rep("2026-03-02T10:30:00", 3))
  expect_equal(cells[[4]], c("TRUE", "FALSE", ""))
  expect_equal(cells[[5]], c("0.1", "1000000", "2.675"))
  expect_equal(export$columns[[4]]$kinds[export$columns[[4]]$index], c("boolean", "boolean", "text"))
  book <- core$compile_codebook(core$as_codebook(small_codebook(x = list(column = "x", label = "X", level = "ratio"), t = list(column = "x", label = "T", level = "text"))))
  for (name in c("x", "t")) {
    out <- core$decode_cells(c("#N/A", "1.5", "#N/A"), book$variables[[name]], list(cells = "labels", decimal = "comma"), book, c("error", "number", "text"))
    expect_equal(out$kind, c("unlisted", "", if (name == "x") "unlisted" else ""))
    expect_equal(as.character(out$value[2]), "1.5")
  }
})

test_that("a workbook that is damaged, locked, too large or no workbook is one clear error", {
  skip_if_not_installed("openxlsx")
  skip_if_not_installed("zip")
  path <- layout_xlsx(function(book) {
    openxlsx::addWorksheet(book, "Answers")
    openxlsx::writeData(book, "Answers", typed(), na.string = "")
    openxlsx::addWorksheet(book, "Other")
  })
  bytes <- bytes_of(path)
  archive <- function(...) {
    folder <- tempfile()
    files <- list(...)
    for (name in names(files)) {
      dir.create(dirname(file.path(folder, name)), recursive = TRUE, showWarnings = FALSE)
      writeLines(files[[name]], file.path(folder, name))
    }
    out <- tempfile(fileext = ".xlsx")
    zip::zip(out, names(files), root = folder)
    out
  }
  said <- function(path, ...) message_of(read_export(path, ...), "mavik_read_error")
  expect_match(said(layout_file(bytes[seq_len(length(bytes) %/% 2)], ".xlsx")), "damaged or cut off")
  expect_match(said(layout_file(c(as.raw(c(0xD0, 0xCF, 0x11, 0xE0)), raw(600)), ".xlsx")), "with a password, or one of an old format")
  expect_match(said(archive("notes.txt" = "x")), "no workbook")
  expect_match(said(archive("content.xml" = "<!DOCTYPE x [<!ENTITY a 'b'>]><x>&a;</x>")), "declares a document type")
  expect_match(said(archive("xl/workbook.xml" = "<workbook><sheets><sheet")), "is damaged: its part")
  expect_match(said(path), "has 2 sheets: say which, `sheet: Answers`")
  expect_match(said(path, sheet = "Answer"), "did you mean `Answers`")
  expect_match(said(path, sheet = "Other"), "the sheet holds nothing")
  expect_match(said(path, sheet = "Answers", skip = 8), "only heading rows")
  # A formula whose result is not in the file is no blank, and no answer.
  sums <- layout_xlsx(function(book) {
    openxlsx::addWorksheet(book, "Answers")
    openxlsx::writeData(book, "Answers", data.frame(id = 1:3, x = 4:6))
    openxlsx::writeFormula(book, "Answers", "B4+1", startRow = 3, startCol = 2)
  })
  cell <- function(text, more = "") sprintf("<c%s><p>%s</p></c>", more, text)
  ods <- sprintf("<spreadsheet><table name='a'><table-row>%s%s</table-row><table-row>%s%s</table-row></table></spreadsheet>", cell("id"), cell("x"), cell("1"), c("<c formula='of:=1'/>", cell("1", " formula='of:=1'"), "<c formula='of:=1' value-type='string'/>"))
  files <- vapply(gsub("(</?)c\\b", "\\1table-cell", ods), function(content) archive(mimetype = "application/vnd.oasis.opendocument.spreadsheet", "content.xml" = content), "")
  told <- lapply(c(sums, files), function(file) {
    study <- build_study(project_with(c(
      "mavik: 1", "study: {title: Sums}", "waves: {one: {label: One}}", "exports: {main: {file: raw/a.xlsx, key: id}}",
      "variables: {id: {is: key, label: Id}, x: {column: x, label: X, level: ratio}, t: {column: x, label: T, level: text}}"
    ), list(a.xlsx = bytes_of(file))))
    list(study$data$x, with(findings(study), written[kind == "unlisted"]))
  })
  expect_equal(unname(told), list(list(c(4, NA, 6), rep("=B4+1", 2)), list(NA_real_, rep("=1", 2)), list(1, character()), list(NA_real_, character())))
  # Its value may stand there and be empty: of a text that is a result, of a number none.
  number <- function(place, value, more = "") sprintf("<c r='%s'%s><v>%s</v></c>", place, more, value)
  sheet <- paste0("<worksheet><sheetData><row>", number("A1", 1), number("B1", 2), "</row><row>", number("A2", 1), "<c r='B2'><f>A2+1</f><v></v></c></row><row>", number("A3", 2),
    "<c r='B3' t='str'><f>A2</f><v></v></c></row><row>", number("A4", 3), number("B4", ""), "</row></sheetData></worksheet>")
  file <- archive(
    "xl/workbook.xml" = "<workbook xmlns:r='r'><sheets><sheet name='A' r:id='r1'/></sheets></workbook>",
    "xl/_rels/workbook.xml.rels" = "<Relationships><Relationship Id='r1' Target='worksheets/sheet1.xml'/></Relationships>", "xl/worksheets/sheet1.xml" = sheet
  )
  column <- read_export(file)$columns[[2]]
  expect_equal(column$cells[column$index], c("=A2+1", "", ""))
  expect_equal(column$kinds[column$index][1], "error")
  expect_match(command("look", sums, "--sheet", "Answer")$err, "did you mean `Answers`")
  expect_equal(nrow(as.data.frame(read_export(layout_file(layout_text(), ".xlsx")))), 8)
  expect_match(message_of(core$unzip_parts(path, "big.xlsx", "workbook", largest = 100)), "big.xlsx: unpacks to .* more than a workbook may hold here: save the sheet as CSV")
})

test_that("records are numbered where nothing identifies a respondent", {
  document <- small_codebook()
  document$exports <- list(a = list(wave = "one", key = "numbered"), b = list(wave = "one", key = "numbered"))
  study <- build_study(document, list(a = data.frame(part = c("Low", "High")), b = data.frame(part = "Low")))
  expect_equal(study$data$id, c("1", "2", "3"))
  document$exports$b$key <- "id"
  expect_match(message_of(build_study(document, list())), "keys and numbered ones")
})
