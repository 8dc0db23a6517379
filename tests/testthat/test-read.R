quote_cell <- function(x, mark) ifelse(grepl(paste0("[\"\r\n", if (mark == "|") "\\|" else mark, "]"), x), paste0("\"", gsub("\"", "\"\"", x), "\""), x)

# A table of awkward cells and the text of a file that holds it.
awkward_table <- function(seed, rows = 30, columns = 5) {
  set.seed(seed)
  words <- c("", " ", "a", "NA", "say \"ah\"", "\"", "\"\"", "one,two", "x;y", "p|q", "tab\there", "two\nlines", "\u00e9t\u00e9", "007", " lead", "trail ", "#1", "5\" pipe")
  cells <- matrix(sample(words, rows * columns, TRUE), rows)
  cells[, 1] <- sprintf("k%03d", seq_len(rows))
  cells
}

file_text <- function(cells, mark, end) paste0(paste(apply(cells, 1, function(row) paste(quote_cell(row, mark), collapse = mark)), collapse = end), end)

test_that("threads are as many as data.table takes by itself, which is not loaded to be asked", {
  script <- tempfile(fileext = ".R")
  writeLines(c(
    "said <- c('', '1', '2', '3', '64', '0', '-1', 'two')", "told <- function(ask) paste(vapply(said, function(number) {",
    "  if (nzchar(number)) Sys.setenv(R_DATATABLE_NUM_THREADS = number) else Sys.unsetenv('R_DATATABLE_NUM_THREADS')", "  as.integer(ask())", "}, 0L), collapse = ' ')",
    "ours <- told(utils::getFromNamespace('threads_allowed', 'mavik'))", "loaded <- isNamespaceLoaded('data.table')",
    "theirs <- told(function() { suppressWarnings(data.table::setDTthreads(NULL)); data.table::getDTthreads() })",
    "writeLines(c(ours, theirs, as.character(loaded)))"
  ), script)
  told <- withr::with_envvar(
    c(R_LIBS = paste(.libPaths(), collapse = ":"), OMP_NUM_THREADS = NA, OMP_THREAD_LIMIT = NA, R_DATATABLE_NUM_PROCS_PERCENT = NA),
    system2(file.path(R.home("bin"), "Rscript"), c("--default-packages=NULL", script), stdout = TRUE)
  )
  expect_match(told[1], "^[1-9][0-9]*( [1-9][0-9]*){7}$")
  expect_equal(told[1], told[2])
  expect_equal(told[3], "FALSE")
})

test_that("any delimiter, line end and encoding reads to the same cells, and every record knows its line", {
  marks <- c(comma = ",", semicolon = ";", tab = "\t", pipe = "|")
  for (seed in 1:12) {
    cells <- awkward_table(seed)
    heading <- c("key", "Q1", "Q1", "", "Q \"2\"")
    asked <- c("", "What\nis it?", "b", "c", "d")
    name <- sample(names(marks), 1)
    end <- sample(c("\n", "\r\n"), 1)
    if (end == "\r\n") cells <- gsub("\n", "\r\n", cells)
    text <- file_text(rbind(heading, asked, cells), marks[[name]], end)
    encoding <- sample(c("UTF-8", "UTF-16", "windows-1252", "mark"), 1)
    bytes <- switch(encoding,
      "UTF-8" = charToRaw(enc2utf8(text)), mark = c(as.raw(c(0xEF, 0xBB, 0xBF)), charToRaw(enc2utf8(text))),
      iconv(text, "UTF-8", if (encoding == "UTF-16") "UTF-16LE" else encoding, toRaw = TRUE)[[1]]
    )
    if (encoding == "UTF-16") bytes <- c(as.raw(c(0xFF, 0xFE)), bytes)
    path <- tempfile(fileext = ".csv")
    writeBin(bytes, path)
    export <- read_export(path, c("names", "questions"), delimiter = name, encoding = if (encoding == "mark") "UTF-8" else encoding)
    expect_equal(unname(as.matrix(as.data.frame(export))), cells, info = paste(seed, name, encoding))
    expect_equal(export$names, c("key", "Q1", "Q1 (2)", "Column 4", "Q \"2\""))
    expect_equal(export$questions[["Q1"]], "What is it?")
    breaks <- rowSums(matrix(lengths(regmatches(cells, gregexpr("\n", cells))), nrow(cells)))
    expect_equal(export$lines, as.integer(4 + cumsum(c(0, 1 + breaks))[seq_len(nrow(cells))]))
  }
})

test_that("title lines are skipped, blank lines are none, one column is enough", {
  blank <- project_with(c("mavik: 1", "study: {title: Blank}", "waves: {one: {label: One}}", "exports: {main: {file: raw/a.csv, key: id}}",
    "variables: {id: {is: key, label: Id}, x: {column: x, label: X, level: text}}"), list(a.csv = "id,x\n1,a\n,\n\"\",\"\"\n2,\n,,\n"))
  expect_match(message_of(build_study(blank)), "a.csv:6: this record has 3 cells, the heading has 2")
  writeLines(c("id,x", "1,a", ",", "\"\",\"\"", "2,", ","), file.path(blank, "raw/a.csv"))
  expect_equal(build_study(blank)$records$line, c(2L, 5L))
  path <- tempfile(fileext = ".csv")
  writeLines(c("A title, with \"quotes", "", "id,x", "1,2", "", "3,4", "", ""), path)
  export <- read_export(path, skip = 2)
  expect_equal(as.data.frame(export), data.frame(id = c("1", "3"), x = c("2", "4")))
  expect_equal(export$lines, c(4L, 6L))
  writeLines(c("id", "1", "2"), path)
  expect_equal(as.data.frame(read_export(path))$id, c("1", "2"))
})

test_that("what does not fit is one clear error with its line", {
  cases <- list(
    list("a,b\n1,2\n3\n", ":3: this record has 1 cell, the heading has 2"),
    list("a,b\n1,2\n3,4,5\n6,7\n", ":3: this record has 3 cells"),
    list("a,b\n1,\"two\nlines\"\n3\n", ":4: this record has 1 cell"),
    list("a,b\n1,\"open\n3,4\n", ":2: a quote is opened here and never closed"),
    list("a,b\n1,\"x\"y\n", ":2: text follows a closing quote"),
    list("a,b\n", "only heading rows"),
    list("", "the file is empty"),
    list("\n\n", "holds no records"),
    list(as.raw(c(0x61, 0x2C, 0x62, 0x0A, 0x31, 0x2C, 0x00, 0x0A)), ":2: a NUL byte"),
    list(as.raw(c(0x61, 0x2C, 0x62, 0x0A, 0x31, 0x2C, 0xE9, 0x0A)), ":2: bytes that are not UTF-8.*windows-1252"),
    list(as.raw(c(0xFF, 0xFE, 0x61, 0x00)), "encoding: UTF-16"),
    list("a,b\r1,2\r3,4\r", ":1: a bare carriage return")
  )
  for (case in cases) {
    path <- tempfile(fileext = ".csv")
    writeBin(if (is.raw(case[[1]])) case[[1]] else charToRaw(case[[1]]), path)
    expect_match(message_of(read_export(path), "mavik_read_error"), case[[2]], info = case[[2]])
  }
  expect_match(message_of(read_export(tempdir())), "is a folder")
  folder <- tempfile()
  dir.create(folder)
  writeLines("a", file.path(folder, "spring.csv"))
  expect_match(message_of(read_export(file.path(folder, "sprimg.csv"))), "did you mean `spring.csv`")
})

# The reader in plain R, a character at a time: what is wrong and where, or the line and
# the cells of each record.
plain_read <- function(bytes, mark = ",") {
  at <- line <- 1
  here <- function(by = 0) if (at + by > length(bytes)) "" else bytes[at + by]
  expected <- 0
  lines <- integer()
  rows <- list()
  while (at <= length(bytes)) {
    began <- line
    cells <- character()
    blank <- TRUE
    repeat {
      text <- character()
      if (here() == "\"") {
        blank <- FALSE
        opened <- line
        at <- at + 1
        repeat {
          if (here() == "") return(list("unclosed", opened))
          if (here() == "\n") line <- line + 1
          if (here() == "\"") {
            if (here(1) != "\"") break
            at <- at + 1
          }
          text <- c(text, here())
          at <- at + 1
        }
        at <- at + 1
        if (here() == "\r") {
          at <- at + 1
          returned <- TRUE
        } else returned <- FALSE
        if (!here() %in% c("", "\n", if (!returned) mark)) return(list("after_quote", line))
      } else {
        while (!here() %in% c("", mark, "\n")) {
          if (here() == "\r") {
            if (!here(1) %in% c("", "\n")) return(list("carriage", line))
          } else {
            blank <- FALSE
            text <- c(text, here())
          }
          at <- at + 1
        }
      }
      cells <- c(cells, paste(text, collapse = ""))
      after <- here()
      at <- at + 1
      if (after == "\n") line <- line + 1
      if (after != mark) break
      blank <- FALSE
    }
    if (blank) next
    if (expected == 0) expected <- length(cells)
    if (length(cells) == expected && expected > 1 && !any(nzchar(cells))) next
    lines <- c(lines, began)
    if (length(cells) != expected) return(list(if (length(cells) < expected) "short" else "long", began))
    rows <- c(rows, list(cells))
  }
  list("", lines, do.call(rbind, rows))
}

# The kernel, by one span or several, says the same as plain R.
expect_read_alike <- function(text) {
  path <- tempfile()
  on.exit(unlink(path))
  writeBin(charToRaw(enc2utf8(text)), path)
  plain <- plain_read(strsplit(text, "")[[1]])
  for (spans in c(1L, 2L, 5L)) {
    seen <- core$read_cells(path, ",", 0L, 0L, spans, 1)
    expect_identical(seen$problem, plain[[1]], info = text)
    expect_equal(if (plain[[1]] == "") seen$lines else seen$line, as.integer(plain[[2]]), info = text)
    if (plain[[1]] != "" || length(plain[[2]]) == 0) next
    cells <- vapply(seen$columns, function(column) column$cells[column$index], character(length(plain[[2]])))
    expect_identical(matrix(cells, length(plain[[2]])), enc2utf8(plain[[3]]), info = text)
    for (column in seen$columns) expect_identical(column$cells, unique(column$cells[column$index]))
  }
  plain[[1]]
}

test_that("the kernel reads any characters as plain R does, in one span or in several", {
  set.seed(2)
  said <- vapply(seq_len(cases(200)), function(i) {
    bits <- sample(c("a", ",", "\n", "\"", "b", "\r\n", "\r", "\u00e9", "\"\"", "long text of more than sixteen"), sample(1:60, 1), TRUE, c(3, 3, 2, 1.2, 1, 0.5, 0.05, 0.5, 0.5, 0.5))
    expect_read_alike(paste(bits, collapse = ""))
  }, "")
  expect_gt(length(unique(said)), 4)
  # Sound records of one width, with line ends and quotes inside cells.
  for (i in seq_len(cases(25))) {
    cells <- matrix(replicate(40, paste(sample(c("a", "", "\n", ",", "\"\"", "\u20ac 5", "yes and no and more"), 2), collapse = "")), 10)
    expect_equal(expect_read_alike(paste0(apply(cells, 1, function(row) paste0("\"", row, "\"", collapse = ",")), "\n", collapse = "")), "")
  }
})

test_that("a part of a file is the same by any number of threads", {
  set.seed(6)
  path <- tempfile()
  rows <- sprintf("%d,\"%s\",%s", 1:400, sample(c("a", "b\nc", "", "d\"\"e", "\u20ac 5"), 400, TRUE), sample(c("x", "long words of more than sixteen bytes", ""), 400, TRUE))
  bytes <- charToRaw(enc2utf8(paste0(rows, "\n", collapse = "")))
  writeBin(bytes, path)
  starts <- c(0, cumsum(nchar(enc2utf8(rows), "bytes") + 1))
  for (ends in list(c(1, 401), c(40, 401), c(17, 333), c(120, 121))) {
    of <- function(spans) core$read_span(path, ",", 0L, 0L, starts[ends[1]], starts[ends[2]], 0L, c(1L, 2L, 3L), Inf, spans, 1)
    plain <- of(1L)
    expect_equal(plain$columns[[1]]$cells, as.character(ends[1]:(ends[2] - 1)))
    for (spans in c(2L, 3L, 7L)) expect_identical(of(spans), plain)
  }
  # A slip in any of the pieces is told on the same line.
  for (at in c(30, 200, 390)) {
    writeBin(c(bytes[seq_len(starts[at])], charToRaw("too,few\n"), bytes[-seq_len(starts[at])]), path)
    told <- lapply(c(1L, 4L), function(spans) core$read_span(path, ",", 0L, 0L, 0, Inf, 0L, 1:3, Inf, spans, 1)[c("problem", "line", "found")])
    expect_identical(told[[1]]$problem, "short")
    expect_identical(told[[2]], told[[1]])
  }
})

test_that("the kernel reads a file with any slip as plain R does", {
  text <- paste(readLines(file.path(demo_project(tempfile()), "raw/spring.csv"), n = 12, encoding = "UTF-8"), collapse = "\n")
  whole <- strsplit(text, "")[[1]]
  set.seed(4)
  for (i in seq_len(cases(30))) {
    at <- sample(length(whole), 1)
    slip <- sample(c("\"", ",", "\n", "\r\n", "x"), 1)
    expect_read_alike(paste(switch(sample(3, 1), whole[-at], append(whole, slip, at), replace(whole, at, slip)), collapse = ""))
  }
})

test_that("a data frame reads like the file it would be", {
  frame <- data.frame(
    id = 1:3, size = c(0.1, NA, 1e5), yes = c(TRUE, NA, FALSE), when = as.Date(c("2026-03-02", NA, "2026-10-11")),
    part = factor(c("Low", NA, "High"), levels = c("High", "Low", "Unused")), check.names = FALSE
  )
  expect_equal(as.data.frame(read_export(frame)), data.frame(
    id = c("1", "2", "3"), size = c("0.1", "", "100000"), yes = c("TRUE", "", "FALSE"), when = c("2026-03-02", "", "2026-10-11"), part = c("Low", "", "High")
  ))
  expect_match(message_of(read_export(frame[0, ])), "no rows")
})

test_that("blank and repeated headings are noted with the names they get", {
  project <- project_with(c("mavik: 1", "study: {title: T}", "waves: {one: {label: One}}",
    "exports: {main: {file: raw/a.csv, key: id, ignored: [Other, Other (2), Column 3]}}", "variables: {id: {is: key, label: Id}}"), list("a.csv" = "id,Other,,Other\n1,a,b,c\n"))
  found <- findings(build_study(project))
  expect_equal(found$kind, c("blank_heading", "repeated_heading"))
  expect_match(found$message[1], "Column 3")
})

# A workbook of one sheet, from the XML of its cells and of its shared texts.
workbook_of <- function(cells, texts) {
  folder <- withr::local_tempdir()
  parts <- c(
    "xl/workbook.xml" = "<workbook xmlns:r=\"http://schemas.openxmlformats.org/officeDocument/2006/relationships\"><sheets><sheet name=\"S\" r:id=\"a\"/></sheets></workbook>",
    "xl/_rels/workbook.xml.rels" = "<Relationships><Relationship Id=\"a\" Target=\"worksheets/one.xml\"/></Relationships>",
    "xl/worksheets/one.xml" = paste0("<worksheet><sheetData>", cells, "</sheetData></worksheet>"),
    "xl/sharedStrings.xml" = paste0("<sst>", texts, "</sst>")
  )
  for (name in names(parts)) {
    dir.create(file.path(folder, dirname(name)), recursive = TRUE, showWarnings = FALSE)
    writeLines(parts[[name]], file.path(folder, name), useBytes = TRUE)
  }
  file <- tempfile(fileext = ".xlsx")
  zip::zip(file, "xl", root = folder)
  file
}

test_that("cells are read in every form that workbooks have for them", {
  texts <- paste0("<si><t>id</t></si><si><t xml:space=\"preserve\">  spaced </t></si><si><r><t>rich </t></r><r><rPr><b/></rPr><t>text</t></r>",
    "<rPh><t>KANA</t></rPh></si><si><t>line&#10;two</t></si><si><t>a_x000D_&#10;b</t></si><si/><si><t>&#xFDD0;</t></si>")
  cell <- function(type, value, tag = "v") sprintf("<c r=\"%%s2\" t=\"%s\"><%s>%s</%s></c>", type, tag, value, tag)
  cells <- c(
    cell("s", 1), cell("s", 2), cell("s", 3), cell("s", 4), cell("s", 5), cell("s", 6), cell("str", "f&#10;g"), cell("b", 1), cell("e", "#N/A"),
    cell("n", "1.50"), cell("inlineStr", "<r><t>in</t></r><r><t>line</t></r>", "is"), cell("d", "2026-01-02"), "<c r=\"%s2\"/>"
  )
  row <- paste0("<row>", paste(sprintf(cells, LETTERS[seq_along(cells)]), collapse = ""), "</row>")
  opened <- core$reader_xlsx$open(workbook_of(row, texts), NULL, "odd.xlsx")$cells
  expect_equal(opened$text, c("  spaced ", "rich text", "line\ntwo", "a\nb", "", "\ufdd0", "f\ng", "TRUE", "#N/A", "1.5", "inline", "2026-01-02"))
  expect_equal(opened$kind, rep(c("text", "boolean", "error", "number", "text", "date"), c(7, 1, 1, 1, 1, 1)))
  expect_equal(opened$column, 1:12)
  expect_equal(nrow(core$reader_xlsx$open(workbook_of("", ""), NULL, "none.xlsx")$cells), 0)
  expect_match(message_of(core$reader_xlsx$open(workbook_of("<row><c t=\"s\"><v>0</v></c></row>", texts), NULL, "odd.xlsx")), "^odd.xlsx: .*no addresses")
  expect_match(message_of(core$reader_xlsx$open(workbook_of("<row><c r=\"A1\" t=\"s\"><v>9</v></c></row>", texts), NULL, "odd.xlsx")), "cell A1 points to a text")
  expect_match(message_of(core$reader_xlsx$open(workbook_of("<row><c r=\"A1\" t=\"s\"><v>0</v></c></row>", "<si><t>&#xFDD0;&#xFDD1;&#xFDD2;</t></si>"), NULL, "odd.xlsx")), "U[+]FDD1")
})

test_that("an OpenDocument sheet is read in every form that it has for cells, however many they are", {
  spaces <- "urn:oasis:names:tc:opendocument:xmlns:"
  sheet_of <- function(rows) {
    folder <- withr::local_tempdir()
    writeLines(paste0("<o:document-content xmlns:o=\"", spaces, "office:1.0\" xmlns:t=\"", spaces, "table:1.0\" xmlns:x=\"", spaces,
      "text:1.0\"><o:body><o:spreadsheet><t:table t:name=\"S\">", paste(rows, collapse = ""), "</t:table></o:spreadsheet></o:body></o:document-content>"),
    file.path(folder, "content.xml"), useBytes = TRUE)
    file <- tempfile(fileext = ".ods")
    zip::zip(file, "content.xml", root = folder)
    core$reader_ods$open(file, NULL, "odd.ods")
  }
  row <- function(..., more = "") paste0("<t:table-row ", more, ">", ..., "</t:table-row>")
  cell <- function(type, text, more = "") sprintf("<t:table-cell o:value-type=\"%s\" %s><x:p>%s</x:p></t:table-cell>", type, more, text)
  blank <- "<t:table-cell t:number-columns-repeated=\"3\"/>"
  odd <- sheet_of(c(
    "<t:table-header-rows>", row(cell("string", "id"), cell("string", "x", "t:number-columns-repeated=\"2\""), blank, cell("string", "last")), "</t:table-header-rows>",
    row(cell("string", "a<x:s/>b<x:s x:c=\"4\"/>c<x:tab/>d<x:line-break/>e</x:p><x:p>second<x:span> in <x:a>link</x:a></x:span>"),
      cell("float", "1,5", "o:value=\"1.50\""), cell("date", "x", "o:date-value=\"2026-01-02T00:00:00\""), cell("date", "x", "o:date-value=\"2026-01-02T10:30:00\""),
      cell("boolean", "yes", "o:boolean-value=\"true\""), cell("string", "#N/A", "t:formula=\"of:=NA()\""), cell("string", "#REF!")),
    row(blank, more = "t:number-rows-repeated=\"4\""),
    row(cell("string", "wide", "t:number-columns-spanned=\"2\" t:number-rows-spanned=\"2\""), "<t:covered-table-cell/>", cell("percentage", "50%", "o:value=\"0.5\""), more = "t:number-rows-repeated=\"2\""),
    row(blank, more = "t:number-rows-repeated=\"1048000\"")
  ))
  cells <- odd$cells
  expect_equal(cells$text, c("id", "x", "x", "last", "a b    c\td\ne\nsecond in link", "1.5", "2026-01-02", "2026-01-02T10:30:00", "TRUE", "#N/A", "#REF!", "wide", "0.5", "wide", "0.5"))
  expect_equal(cells$kind[5:13], c("text", "number", "date", "date", "boolean", "error", "text", "text", "number"))
  expect_equal(cells$row, rep(c(1, 2, 7, 8), c(4, 7, 2, 2)))
  expect_equal(cells$column, c(1, 2, 3, 7, 1:7, 1, 3, 1, 3))
  expect_equal(odd$merged, list(list(rows = c(7, 8), columns = c(1, 2))))
  expect_equal(nrow(sheet_of("")$cells), 0)
  wide <- sheet_of(rep(row(cell("string", "one"), "<t:table-cell t:number-columns-repeated=\"2000000000\"/>"), 3))$cells
  expect_equal(wide[c("row", "column")], data.frame(row = 1:3, column = 1L))
  many <- row(rep(cell("string", "one"), 40))
  took <- system.time(found <- sheet_of(rep(many, 500)))[["elapsed"]]
  expect_equal(dim(found$cells), c(20000, 4))
  expect_lt(took, 20)
})

test_that("texts of a large file that hardly come again are one run of bytes, and read as any others", {
  set.seed(44)
  n <- 105000
  frame <- data.frame(
    id = sprintf("K%06d", sample(n)), part = sample(c("High", "Low", "", "Hm"), n, TRUE),
    said = paste0("Said ", seq_len(n), ifelse(seq_len(n) %% 900 == 0, " ", "")), sign = ifelse(seq_len(n) %% 50 == 0, "", paste0("S-", n - seq_len(n))),
    amount = ifelse(seq_len(n) %% 100 == 0, "few", core$number_to_text(seq_len(n) / 8))
  )
  dir.create(folder <- tempfile("large"))
  file <- file.path(folder, "large.csv")
  data.table::fwrite(frame, file, quote = FALSE)
  read <- read_export(file)
  expect_equal(vapply(read$columns, function(column) core$is_run(column$cells), TRUE), c(id = TRUE, part = FALSE, said = TRUE, sign = TRUE, amount = TRUE))
  for (name in names(frame)) expect_identical(core$read_texts(read, name), trimws(frame[[name]]))
  expect_true(core$is_run(core$read_texts(read, "id")))
  book <- small_codebook(
    said = list(column = "said", label = "Said", level = "text"), sign = list(column = "sign", label = "Sign", level = "identifier"),
    amount = list(column = "amount", label = "Amount", level = "ratio")
  )
  plain <- build_study(book, list(main = frame))
  book$exports$main$file <- file
  study <- build_study(book)
  expect_false(core$run_is_spread(study$records$key))
  expect_identical(lapply(study$data, `[`), lapply(plain$data, `[`))
  expect_identical(study$reasons, plain$reasons)
  expect_identical(findings(study), findings(plain))
  out <- lapply(list(study, plain), function(study) digests_in(write_study(study, file.path(tempfile(), "out"))))
  same <- c("analysis.csv", "findings.csv")
  expect_identical(out[[1]][same], out[[2]][same])
})
