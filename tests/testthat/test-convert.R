same_document <- function(a, b, info = NULL) expect_equal(core$ordered_document(core$unclass_document(a)), core$ordered_document(core$unclass_document(b)), info = info)
there_and_back <- function(document, info = NULL) {
  for (ending in c(".xlsx", ".yml")) {
    file <- tempfile(fileext = ending)
    plain <- core$unclass_document(document)
    if (ending == ".xlsx") core$write_workbook(core$document_sheets(plain), file, spare = 5) else core$write_text(core$document_lines(plain), file)
    same_document(core$as_codebook(file), document, paste(info, ending))
  }
}

test_that("codebooks go to a workbook and to YAML and back without loss", {
  demo <- demo_project(tempfile())
  there_and_back(core$as_codebook(demo), "demo")
  there_and_back(core$parse_codebook(test_path("language.yml")), "language")
  for (name in names(way_examples)) there_and_back(core$as_codebook(way_book(way_examples[[name]])), name)
  draft <- tempfile(fileext = ".yml")
  core$write_text(draft_codebook(file.path(demo, "raw/spring.csv")), draft)
  there_and_back(core$as_codebook(draft), "draft")
  nasty <- c("{not a map}", "[not a list", "\"quoted\" and more", "'single", " edges ", "a: b", "a # b", "# c", "line\nbreak", "tab\there", "cr\rlf", "_x000D_ and _x0041_", "=1+1", "- dash", "010", "1.10",
    "yes", "~", "null", "%", "@at", "back\\slash", "it's", "\u00e9\u4e2d\u2028x", "{", "!tag", "&a", "*b", "|", ">", "?", "a,b", "1e5", "TRUE", "2026-03-02", "a   b")
  labels <- stats::setNames(as.list(nasty[!grepl("^ | $|\n|\r|\t|\u2028|   ", nasty)]), seq_along(nasty[!grepl("^ | $|\n|\r|\t|\u2028|   ", nasty)]))
  variables <- stats::setNames(lapply(nasty, function(text) list(column = "part", label = text, question = text, level = "text", note = text)), paste0("v", seq_along(nasty)))
  variables$coded <- list(column = "part", label = "x", level = "nominal", codes = labels, variants = list("it's" = nasty))
  there_and_back(core$as_codebook(do.call(small_codebook, variables)), "nasty")
})

test_that("a workbook is a codebook like any other, and its errors name sheet and cell", {
  project <- demo_project(tempfile())
  book <- write_codebook(project, file.path(project, "choirs.xlsx"))
  expect_match(message_of(write_codebook(project, book), "mavik_write_error"), "stands there already")
  out <- lapply(c("choirs.yml", "choirs.xlsx"), function(file) write_study(build_study(file.path(project, file)), tempfile()))
  for (name in c("analysis.csv", "gaps.csv", "ledger.csv", "findings.csv")) expect_equal(bytes_of(file.path(out[[1]], name)), bytes_of(file.path(out[[2]], name)), info = name)
  unlink(file.path(project, "choirs.yml"))
  expect_equal(core$codebook_file(project), book)
  # `cells` of a sheet, a key, a name and a text each.
  wrong <- function(...) {
    workbook <- openxlsx::loadWorkbook(book)
    for (cell in list(...)) {
      table <- openxlsx::read.xlsx(book, cell[1])
      openxlsx::writeData(workbook, cell[1], cell[4], startCol = match(cell[2], names(table)), startRow = match(cell[3], table$name) + 1)
    }
    file <- tempfile(fileext = ".xlsx")
    openxlsx::saveWorkbook(workbook, file)
    message_of(read_codebook(file), "mavik_codebook_error")
  }
  read <- wrong(c("variables", "level", "years", "ratioo"), c("screens", "if", "speeder", "years ++"), c("exports", "cells", "spring", "letters"))
  expect_match(read, "variables![A-Z]+14 variables > years > level: `ratioo` is not one of")
  expect_match(read, "screens![A-Z]+5 screens > speeder > if: .*cannot be read")
  expect_match(read, "exports![A-Z]+2 exports > spring > cells")
  typed <- wrong(c("variables", "range", "years", "[0, 80"), c("variables", "name", "weekly", "voice"))
  expect_match(typed, "variables![A-Z]+14: not well-formed")
  expect_match(typed, "variables!A[0-9]+: the name `voice` occurs twice")
})

test_that("onto YAML that stands already only what differs is written", {
  project <- demo_project(tempfile())
  file <- file.path(project, "choirs.yml")
  before <- readLines(file)
  write_codebook(project, file)
  expect_equal(readLines(file), before)
  changes <- list(
    list(variables = list(years = list(range = c(0, 70)))), list(variables = list(voice = list(label = "Part: sung"))), list(study = list(licence = NULL)),
    list(variables = list(belong = list(items = list(belong3 = list(note = "asked last"))))),
    list(rules = list(late = list(must = "years <= 60"))), list(screens = list(straightliner = NULL)), list(accepted = NULL), list(variables = list(new = list(column = "Machine", label = "Machine", level = "text")))
  )
  for (change in changes) {
    if (!is.null(change$variables$new)) change$exports <- list(spring = list(ignored = c("Pages seen", "Seconds")))
    new <- do.call(edit_codebook, c(list(file), change))
    write_codebook(new, file)
    after <- readLines(file)
    same_document(core$as_codebook(file), new, names(change))
    expect_lte(length(setdiff(after, before)), 3)
    expect_gte(sum(grepl("#", after)), sum(grepl("#", before)) - 2)
    writeLines(before, file)
  }
  run <- command("convert", project, file.path(project, "book.xlsx"))
  expect_equal(run$status, 0)
  back <- command("convert", file.path(project, "book.xlsx"), file)
  expect_match(paste(back$out, collapse = "\n"), "Nothing differs")
  expect_equal(readLines(file), before)
  template <- tempfile(fileext = ".xlsx")
  expect_equal(command("convert", "--template", template)$status, 0)
  sheets <- core$workbook_cells(template, template)
  expect_setequal(unique(sheets$sheet), c(core$sheet_sections, "lists"))
  expect_true(all(c("name", "label", "universe", "way", "takes") %in% sheets$text[sheets$sheet == "variables"]))
  text <- tempfile(fileext = ".yml")
  expect_equal(command("convert", "--template", text)$status, 0)
  expect_match(message_of(read_codebook(text)), "no error")
})

test_that("a workbook has a row a code and a cell for the way, offers names, and keeps comments on the way back", {
  project <- demo_project(tempfile())
  yml <- file.path(project, "choirs.yml")
  book <- write_codebook(project, file.path(project, "choirs.xlsx"))
  codes <- openxlsx::read.xlsx(book, "codes")
  expect_equal(codes$label[codes$name == "voice"], c("Soprano", "Alto", "Tenor", "Bass"))
  variables <- openxlsx::read.xlsx(book, "variables")
  expect_false(any(grepl("^\\{1: ", variables$codes)))
  expect_equal(variables$way[variables$name %in% c("voice", "belonging", "singer")], c("is", "column", "score"))
  page <- function(sheet) {
    folder <- tempfile()
    utils::unzip(book, exdir = folder)
    at <- match(sheet, openxlsx::getSheetNames(book))
    paste(readLines(file.path(folder, "xl/worksheets", paste0("sheet", at, ".xml")), warn = FALSE), collapse = "")
  }
  for (list in c("nominal,ordinal,interval,ratio", "yes,no")) expect_match(page("variables"), list, fixed = TRUE)
  expect_match(page("variables"), "<dataValidation type=\"list\" errorStyle=\"stop\"[^>]* sqref=\"[A-Z]+2:[A-Z]+[0-9]+\"><formula1>'lists'")
  expect_match(page("exports"), "labels,codes,either", fixed = TRUE)
  new <- file.path(project, "again.yml")
  expect_equal(command("convert", book, new)$status, 0)
  expect_equal(readLines(new), readLines(yml))
  # `cells` of a sheet, a row, a column and what is typed each.
  typed <- function(...) {
    workbook <- openxlsx::loadWorkbook(book)
    for (cell in list(...)) openxlsx::writeData(workbook, cell[[1]], cell[[4]], startCol = cell[[3]], startRow = cell[[2]], colNames = FALSE)
    file <- tempfile(fileext = ".xlsx")
    openxlsx::saveWorkbook(workbook, file)
    list(file = file, message = message_of(read_codebook(file), "mavik_codebook_error"))
  }
  at <- function(key) match(key, unlist(openxlsx::read.xlsx(book, "variables", rows = 1, colNames = FALSE)))
  row <- function(name) match(name, variables$name) + 1
  cells <- typed(list("codes", nrow(codes) + 1, 1, "kindd"), list("codes", 3, 2, 1), list("variables", row("years"), at("way"), "colum"))$message
  expect_match(cells, paste0("codes!A", nrow(codes) + 1, ": `kindd` is not a row of the sheet `variables`; did you mean `kind`?"), fixed = TRUE)
  expect_match(cells, "codes!B3: the code `1` of `region` occurs twice", fixed = TRUE)
  expect_match(cells, "variables![A-Z]+[0-9]+: `colum` is not a way.*did you mean `column`")
  meant <- typed(list("codes", 3, 3, "Upper valley"), list("variables", row("weekly"), at("universe"), "member = \"Yes\""))$message
  expect_match(meant, "codes!C3 variables > region > codes > 2: the label `Upper valley` reads the same", fixed = TRUE)
  expect_match(meant, paste0("variables!", openxlsx::int2col(at("universe")), row("weekly"), " variables > weekly > universe"), fixed = TRUE)
  # A change in the workbook is the only one in the text.
  changed <- typed(list("codes", match("Completely", codes$label) + 1, 3, "Entirely"))
  expect_equal(changed$message, "no error")
  write_codebook(changed$file, new2 <- file.path(project, "changed.yml"))
  expect_equal(sum(readLines(new2) != readLines(yml)), 1)
})
