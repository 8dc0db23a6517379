# The demo with a typed sheet of `n` forms, and their raw lines.
paper_project <- function(n = 20, without = NULL) {
  project <- demo_project(tempfile("paper"))
  made <- entry_sheet(project, forms = n, onto = TRUE, without = without)
  c(list(project = project, sheet = made$file), paper_forms(project, n))
}

test_that("forms typed by label, by code or as cells of their kind build like their lines of CSV", {
  paper <- paper_project()
  by_csv <- demo_project(tempfile("csv"))
  utils::write.csv(paper$raw, file.path(by_csv, "raw/paper.csv"), row.names = FALSE, na = "")
  lines <- readLines(file.path(by_csv, "choirs.yml"))
  lines <- append(lines, c(
    "  spring_paper: {wave: spring, file: raw/paper.csv, key: Member no, response: Sheet no,",
    "    ignored: [\"Pages *\", Seconds, Machine, Opened, Sent]}"
  ), grep("^exports:", lines))
  lines <- sub("^(  (started|ended): +\\{.*level: datetime, )", "\\1by_export: {spring_paper: absent}, ", lines)
  writeLines(lines, file.path(by_csv, "choirs.yml"))
  as_cells <- paper$typed
  label_codes <- list(
    Q3 = c("Soprano", "Alto", "Tenor", "Bass"), Q16 = c("Yes", "No"),
    Q9 = c("Very dissatisfied", "Dissatisfied", "Neither", "Satisfied", "Very satisfied")
  )
  for (name in names(label_codes)) {
    code <- match(as_cells[[name]], label_codes[[name]])
    half <- seq_along(code) %% 2 == 0 & !is.na(code)
    as_cells[[name]] <- Map(function(text, code, half) if (half) code else text, as_cells[[name]], code, half)
  }
  as_cells$Q18 <- lapply(as_cells$Q18, function(text) {
    day <- as.Date(text, "%d/%m/%Y")
    if (is.na(day)) text else day
  })
  as_cells$Q4 <- lapply(as_cells$Q4, function(text) if (grepl("^[0-9]+$", text)) as.numeric(text) else text)
  frame <- as.data.frame(as_cells[!vapply(as_cells, is.list, TRUE)], optional = TRUE)
  for (name in names(as_cells)) if (is.list(as_cells[[name]])) frame[[name]] <- I(as_cells[[name]])
  type_forms(paper$sheet, frame)
  a <- build_study(paper$project)
  b <- build_study(by_csv)
  pick <- function(study) {
    rows <- which(study$records$export == "spring_paper")
    order <- rows[order(study$records$key[rows])]
    list(
      data = study$data[order, kept <- core$kept_variables(study$book)],
      reasons = lapply(study$reasons[intersect(kept, names(study$reasons))], function(x) as.character(x)[order])
    )
  }
  one <- pick(a)
  two <- pick(b)
  expect_equal(nrow(one$data), 20)
  expect_gt(sum(!is.na(one$data)), 400)
  for (name in names(one$data)) {
    expect_equal(one$data[[name]], two$data[[name]], info = name, ignore_attr = TRUE)
    expect_equal(one$reasons[[name]], two$reasons[[name]], info = name)
  }
  again <- command("build", paper$project, "--out", file.path(paper$project, "out"))
  expect_equal(again$status, 0)
})

test_that("what cannot have been meant is an error with its cell, all of it at once, and nothing is written", {
  paper <- paper_project(6, "kind")
  first <- type_forms(paper$sheet, paper$typed, tempfile(fileext = ".xlsx"))
  spoil <- function(change) {
    book <- openxlsx::loadWorkbook(first)
    change(function(column, row, value) openxlsx::writeData(book, "entry", value, startCol = column, startRow = row, colNames = FALSE))
    openxlsx::saveWorkbook(book, paper$sheet, overwrite = TRUE)
    done <- command("build", paper$project)
    expect_equal(done$status, 2)
    expect_false(dir.exists(file.path(paper$project, "out")))
    paste(done$err, collapse = "\n")
  }
  heads <- unlist(openxlsx::read.xlsx(first, "entry", rows = 2, colNames = FALSE))
  at <- function(name) match(name, heads)
  cell <- function(name, row) paste0("entry!", openxlsx::int2col(at(name)), row)
  told <- spoil(function(put) {
    put(1, 4, 1)
    put(at("Member no"), 5, " ")
    put(at("Q3"), 6, "Alto or so")
    put(at("Q4"), 7, "a long time")
    put(at("Q18"), 8, "in summer")
    put(at("Q15_1"), 3, "perhaps")
    put(at("Q20"), 4, "x@y")
  })
  for (place in c("entry!A4", cell("Member no", 5), cell("Q3", 6), cell("Q4", 7), cell("Q18", 8), cell("Q15_1", 3)))
    expect_match(told, place, fixed = TRUE)
  expect_match(told, "the form number `1` stands in row 3 already", fixed = TRUE)
  expect_match(told, "`Alto or so` is no answer to voice, which takes 1 Soprano; 2 Alto", fixed = TRUE)
  expect_no_match(told, "x@y", fixed = TRUE)
  told <- spoil(function(put) {
    put(at("Q3"), 2, "Q33")
    put(at("Q5"), 1, "How often?")
  })
  expect_match(told, paste0(cell("Q3", 2), ": the heading `Q3` was altered: it says `Q33`"), fixed = TRUE)
  expect_match(told, paste0(cell("Q5", 1), ": the question above `Q5` was altered"), fixed = TRUE)
  told <- spoil(function(put) put(1, 3, ""))
  expect_match(told, "entry!A3: the form number is missing", fixed = TRUE)
  # Two clerks, two workbooks, one export: a form of both is told.
  file.copy(first, paper$sheet, overwrite = TRUE)
  book <- openxlsx::loadWorkbook(first)
  for (row in 3:8) openxlsx::writeData(book, "entry", paste0("8", row), startCol = 2, startRow = row, colNames = FALSE)
  for (row in 3:7) openxlsx::writeData(book, "entry", 100 + row, startCol = 1, startRow = row, colNames = FALSE)
  openxlsx::saveWorkbook(book, file.path(dirname(paper$sheet), "spring_paper_b.xlsx"))
  yml <- file.path(paper$project, "choirs.yml")
  writeLines(sub("sheets/spring_paper.xlsx", "sheets/spring_paper*.xlsx", readLines(yml), fixed = TRUE), yml)
  expect_match(message_of(build_study(paper$project)), "spring_paper_b.xlsx entry!A8: the form number `6` stands at sheets/spring_paper.xlsx entry!A8 already", fixed = TRUE)
})

test_that("a sheet is asked for in full or not at all", {
  project <- demo_project(tempfile())
  said <- function(...) {
    done <- command("entry", ...)
    expect_equal(done$status, 2)
    paste(done$err, collapse = "\n")
  }
  cases <- list(
    list(c(project, "--of", "voices"), "`voices` is not a variable or block of this codebook; did you mean `voice`?"),
    list(c(project, "--forms", "0"), "must be a whole number from 1 to 5,000"),
    list(c(project, "--forms", "some"), "takes a whole number"),
    list(c(project, "--out", file.path(project, "raw/new.xlsx")), "is a raw file or lies among them"),
    list(c(project, "--out", file.path(tempdir(), "sheet.csv")), "is written as .xlsx"),
    list(c(project, "--export", "spring"), "is an export that is not typed"),
    list(c(project, "--of", "belonging"), "there is nothing to type"),
    list(c(project, "--of", "belong", "--without", "years"), "do not go together"),
    list(c(project, "--compare"), "needs two workbooks"),
    list(c(project, "--print", file.path(tempdir(), "form.pdf")), "is written as .html")
  )
  for (case in cases) expect_match(do.call(said, as.list(case[[1]])), case[[2]], fixed = TRUE)
  none <- project_with(c(
    "mavik: 1", "study: {title: None}", "waves: {one: {label: One}}",
    "exports: {main: {file: raw/a.csv, key: id}}", "variables: {id: {is: key, label: Id}}"
  ), list(a.csv = "id\n1\n"))
  expect_match(said(none), "no variable of this codebook is read from a column", fixed = TRUE)
  expect_false(any(grepl("xlsx$", list.files(none, recursive = TRUE))))
  some <- command("entry", demo_project(tempfile()), "--of", "belong", "years")
  expect_equal(some$status, 0)
  expect_match(paste(some$out, collapse = " "), "the screen `no_consent` would drop every form of it: it reads `consent`", fixed = TRUE)
  # Columns that the sheet has for itself.
  own <- function(column) project_with(c(
    "mavik: 1", "study: {title: Own}", "waves: {one: {label: One}}", "exports: {main: {file: raw/a.csv, key: id}}",
    "variables:", "  id: {is: key, label: Id}", paste0("  a: {column: ", column, ", label: A, level: text}"), "  b: {column: id, label: B, level: text}"
  ), list(a.csv = paste0("id,", column, "\n1,x\n")))
  expect_match(said(own("Clerk")), "the sheet has a column `Clerk` of its own", fixed = TRUE)
  form <- own("Form")
  expect_equal(command("entry", form, "--onto")$status, 0)
  expect_equal(unlist(openxlsx::read.xlsx(file.path(form, "sheets/one_paper.xlsx"), "entry", rows = 2, colNames = FALSE), use.names = FALSE), c("Form number", "id", "Progress", "Open fields", "Form", "Clerk", "Typed on"))
  type_forms(file.path(form, "sheets/one_paper.xlsx"), data.frame(id = "7", Form = "words"))
  built <- build_study(form)
  expect_equal(built$data[built$records$key == "7", c("a", "b")], data.frame(a = "words", b = "7"), ignore_attr = TRUE)
  list <- core$as_codebook(form)
  expect_match(message_of(entry_sheet(core$unclass_document(list), file = tempfile(fileext = ".xlsx"), onto = TRUE, export = "more")), "in a YAML file only", fixed = TRUE)
  both <- demo_project(tempfile(), 2)
  expect_match(said(both), "several waves could take the sheet: `spring` and `autumn`", fixed = TRUE)
  expect_equal(command("entry", both, "--wave", "autumn", "--onto")$status, 0)
  expect_equal(command("entry", both, "--wave", "spring", "--onto")$status, 0)
  expect_match(said(both, "--out", tempfile(fileext = ".xlsx")), "several exports could take the sheet", fixed = TRUE)
  expect_match(said(both, "--export", "spring_paper"), "what is typed in a sheet is never written over", fixed = TRUE)
})

test_that("two entries are compared field by field, and what is right comes back as corrections", {
  paper <- paper_project(12, "kind")
  second <- file.path(dirname(paper$sheet), "second.xlsx")
  file.copy(paper$sheet, second)
  type_forms(paper$sheet, paper$typed)
  other <- paper$typed
  # Planted: forms, columns and what the second clerk typed; a code for its label is no difference.
  other$Q16 <- ifelse(other$Q16 == "Yes", "1", other$Q16)
  plant <- list(
    list(2, "Q3", "Tenor"), list(3, "Q4", "13"), list(4, "Q18", "2001-05-17"), list(5, "Q17", ""),
    list(6, "Q12: reason_learn", if (nzchar(other[["Q12: reason_learn"]][6])) "" else "x"),
    list(7, "Q15_2", if (nzchar(other$Q15_2[7])) "" else "x"), list(8, "Q14", "the tea; the cake"),
    list(9, "Q20", "other@choirs.example"), list(10, "Q8_1", "Prefer not to say"), list(11, "Q15_4", "hanging the flags")
  )
  named <- c("voice", "years", "debut", "joined", "reasons", "tasks", "best", "email", "belong1", "tasks")
  for (one in plant) other[[one[[2]]]][one[[1]]] <- one[[3]]
  type_forms(second, other[-12, ])
  found <- command("entry", "--compare", paper$sheet, second, "--project", paper$project, "--json")
  expect_equal(found$status, 0)
  read <- jsonlite::fromJSON(paste(found$out, collapse = "\n"))
  expect_equal(read$forms, 11)
  expect_equal(read$only_first, "12")
  rows <- read$differences
  expect_setequal(paste(rows$form, rows$variable), paste(vapply(plant, function(one) one[[1]], 0), named))
  expect_true(all(rows$first[rows$variable == "email"] == "(private)"))
  agreement <- read$agreement
  expect_equal(agreement$same[agreement$variable == "voice"], 10)
  expect_equal(agreement$same[agreement$variable == "member"], 11)
  # The second is right, but for the private answer.
  sheet <- openxlsx::loadWorkbook(read$written)
  for (row in seq_len(nrow(rows))) if (rows$variable[row] != "email")
    openxlsx::writeData(sheet, "differences", rows$second[row], startCol = 8, startRow = row + 1, colNames = FALSE)
  openxlsx::saveWorkbook(sheet, read$written, overwrite = TRUE)
  lines <- readLines(file.path(paper$project, "choirs.yml"))
  lines <- sub("^corrections: .*", paste0("corrections: [sheets/corrections.csv, sheets/", basename(read$written), "]"), lines)
  writeLines(lines, file.path(paper$project, "choirs.yml"))
  mended <- build_study(paper$project)
  expect_equal(sum(ledger(mended)$kind == "corrected" & ledger(mended)$export == "spring_paper"), length(plant) - 1)
  # As the second entry alone builds.
  file.copy(second, paper$sheet, overwrite = TRUE)
  lines <- sub("^corrections: .*", "corrections: sheets/corrections.csv", lines)
  writeLines(lines, file.path(paper$project, "choirs.yml"))
  alone <- build_study(paper$project)
  of <- function(study) {
    rows <- which(study$records$export == "spring_paper" & study$records$key != "9012")
    list(study$data[rows, core$kept_variables(study$book)], lapply(study$reasons, function(x) as.character(x)[rows]))
  }
  expect_equal(of(mended), of(alone), ignore_attr = TRUE)
})

test_that("a sheet of an older codebook says what changed, and a new one takes over what is typed", {
  paper <- paper_project(5, "kind")
  type_forms(paper$sheet, paper$typed)
  file <- file.path(paper$project, "choirs.yml")
  old <- readLines(file)
  list <- "codes: {1: Very dissatisfied, 2: Dissatisfied, 3: Neither, 4: Satisfied, 5: Very satisfied}"
  edit <- function(to) writeLines(sub(list, to, old, fixed = TRUE), file)
  # A code more still reads.
  edit(sub("}", ", 6: Delighted}", list, fixed = TRUE))
  told <- findings(build_study(paper$project))
  expect_match(told$message[told$kind == "sheet_outdated"], "`Q9` took 1 Very dissatisfied; 2 Dissatisfied", fixed = TRUE)
  # A label that was typed and is no more does not.
  edit(sub("4: Satisfied", "4: Content", list, fixed = TRUE))
  message <- message_of(build_study(paper$project))
  expect_match(message, "is no answer to satisfied", fixed = TRUE)
  expect_match(message, "the codebook has changed since this sheet was made", fixed = TRUE)
  new <- file.path(paper$project, "sheets/new.xlsx")
  done <- command("entry", paper$project, "--from", paper$sheet, "--out", new)
  expect_equal(done$status, 0)
  expect_match(paste(done$out, collapse = "\n"), "5 forms taken over", fixed = TRUE)
  before <- read_export(paper$sheet, heading = c("questions", "names"), sheet = "entry")
  after <- read_export(new, heading = c("questions", "names"), sheet = "entry")
  cells <- function(export, name) head(export$columns[[name]]$cells[export$columns[[name]]$index], 5)
  expect_true("Satisfied" %in% cells(before, "Q9"))
  expect_equal(cells(after, "Q9"), sub("^Satisfied$", "Content", cells(before, "Q9")))
  for (name in c("Member no", "Q4", "Q18", "Q12: reason_learn", "Q14")) expect_equal(cells(after, name), cells(before, name))
})

# What the cells of a workbook's sheet take, as its XML says.
validations <- function(file, sheet) {
  folder <- tempfile()
  utils::unzip(file, exdir = folder)
  at <- match(sheet, openxlsx::getSheetNames(file))
  page <- xml2::xml_ns_strip(xml2::read_xml(file.path(folder, "xl/worksheets", paste0("sheet", at, ".xml"))))
  one <- xml2::xml_find_all(page, "//dataValidation")
  list(
    cells = xml2::xml_attr(one, "sqref"), type = xml2::xml_attr(one, "type"), style = xml2::xml_attr(one, "errorStyle"),
    error = xml2::xml_attr(one, "error"), formula = xml2::xml_text(xml2::xml_find_first(one, "formula1")),
    frozen = length(xml2::xml_find_all(page, "//pane[@state='frozen']")) > 0,
    protected = length(xml2::xml_find_all(page, "//sheetProtection[@sheet='1']")) > 0,
    grey = xml2::xml_text(xml2::xml_find_all(page, "//cfRule/formula"))
  )
}

test_that("cells offer what their questions take; limits stop and lists only warn", {
  paper <- paper_project(4)
  heads <- unlist(openxlsx::read.xlsx(paper$sheet, "entry", rows = 2, colNames = FALSE))
  found <- validations(paper$sheet, "entry")
  expect_true(found$frozen && found$protected)
  of <- function(name) match(paste0(openxlsx::int2col(match(name, heads)), "3:", openxlsx::int2col(match(name, heads)), "6"), found$cells)
  lists <- openxlsx::read.xlsx(paper$sheet, "lists", colNames = FALSE, skipEmptyCols = FALSE)
  offered <- function(name) {
    range <- regmatches(found$formula[of(name)], gregexpr("[A-Z]+\\$[0-9]+", found$formula[of(name)]))[[1]]
    column <- openxlsx::col2int(sub("\\$.*", "", range[1]))
    lists[seq_len(as.integer(sub(".*\\$", "", range[2]))), column]
  }
  expect_equal(offered("Q3"), c("Soprano", "Alto", "Tenor", "Bass", "Prefer not to say", "Don't know"))
  expect_equal(offered("Q6")[1:7], c("Not at all", 2:6, "Completely"))
  expect_equal(offered("Q15_1"), c("x", "Prefer not to say", "Don't know"))
  expect_equal(found$style[c(of("Q3"), of("Q4"), of("Q18"), of("Form"))], c("warning", "stop", "stop", "stop"))
  expect_match(found$error[of("Q4")], "a number from 0 to 80", fixed = TRUE)
  expect_match(found$formula[of("Q18")], "<=46102", fixed = TRUE)
  expect_true(is.na(of("Q14")))
  # Writing it twice gives equal bytes.
  again <- file.path(dirname(paper$sheet), "again.xlsx")
  withr::with_locale(c(LC_COLLATE = "C"), entry_sheet(paper$project, forms = 4, file = again))
  expect_equal(bytes_of(again), bytes_of(paper$sheet))
})

test_that("a universe as a sheet's formula is false, true or open where the condition is", {
  codebook <- small_codebook(
    age = list(column = "age", label = "Age", level = "ratio", range = c(0, 99)),
    pet = list(column = "pet", label = "Pet", level = "nominal", codes = c("1" = "Cat", "2" = "Dog", "3" = "Not one")),
    likes = list(label = "Likes", split = list(column = "likes", options = c(tea = "Tea", cake = "Cake")))
  )
  conditions <- c(
    "pet == \"Dog\"", "pet != \"Dog\" | age >= 18", "!(pet %in% c(\"Cat\", \"Not one\")) & age < 60",
    "is_missing(pet, \"refused\")", "tea == \"Yes\" | pet == \"Cat\"", "age != 20", "n_answered(age, pet) > 1"
  )
  cells <- expand.grid(pet = c("", "Cat", "2", "Not one", "Refused"), age = c("", "17", "20", "60"), tea = c("", "x"), cake = c("", "x"), stringsAsFactors = FALSE)
  frame <- data.frame(
    id = seq_len(nrow(cells)), part = "High", pet = sub("^2$", "Dog", cells$pet), age = cells$age,
    likes = ifelse(cells$tea == "x" & cells$cake == "x", "Tea;Cake", ifelse(cells$tea == "x", "Tea", ifelse(cells$cake == "x", "Cake", "")))
  )
  study <- build_study(codebook, list(main = frame))
  names <- c(pet = "$A3", age = "$B3", tea = "$C3", cake = "$D3")
  reading <- function(formula, row) {
    # The few functions of a sheet that stand in these formulas, over one row of cells.
    value <- function(cell) cells[[names(names)[names == cell]]][row]
    text <- gsub("\\$C3:\\$D3", "'boxes'", formula)
    text <- gsub("COUNTIF\\([^,]+,(\\$[A-D]3)\\)=0", "TRUE", text)
    for (cell in names) text <- gsub(paste0("\\", cell), paste0("'", value(cell), "'"), text)
    text <- gsub("<>", "!=", gsub("([^<>!])=([^=])", "\\1==\\2", text))
    text <- gsub("==<|==>", "==", text)
    world <- list(AND = function(...) all(...), OR = function(...) any(...), NOT = function(x) !x,
      ISNUMBER = function(x) !is.na(suppressWarnings(as.numeric(x))), COUNTA = function(x) sum(cells[row, c("tea", "cake")] != ""),
      "==" = function(a, b) if (is.character(a) && is.numeric(b)) identical(suppressWarnings(as.numeric(a)), as.numeric(b)) else a == b,
      ">=" = function(a, b) isTRUE(as.numeric(a) >= b), "<" = function(a, b) isTRUE(as.numeric(a) < b),
      "!=" = function(a, b) if (is.numeric(b)) !identical(suppressWarnings(as.numeric(a)), as.numeric(b)) else a != b,
      ">" = function(a, b) isTRUE(as.numeric(a) > b))
    eval(parse(text = text), world, baseenv())
  }
  book <- study$book
  gaps <- core$entry_gaps(book)
  cells_of <- function(name) {
    field <- core$entry_fields(book, book$exports$main)
    owner <- vapply(field, `[[`, "", "variable")
    if (name %in% c("tea", "cake")) return(list(kind = "tick", states = core$cell_states(list(kind = "tick", gaps = gaps), names[[name]], "$C3:$D3", "gaps")))
    one <- field[[match(name, owner)]]
    c(one, list(cell = names[[name]], states = if (one$kind == "choice") core$cell_states(one, names[[name]], "", "gaps")))
  }
  certain <- 0
  for (text in conditions) {
    checked <- core$checked_condition(text, book)
    truth <- core$truth_of(checked, study)
    formula <- core$not_asked_formula(checked, cells_of, book)
    if (is.null(formula)) next
    said <- vapply(seq_len(nrow(cells)), reading, TRUE, formula = formula)
    # Never grey where it may have been asked.
    expect_true(all(truth[said] %in% FALSE), info = text)
    certain <- certain + sum(said)
    expect_gt(sum(said), 0)
  }
  expect_gt(certain, 150)
})

test_that("a questionnaire to print has each question, its codes, and whom to skip it in words", {
  project <- demo_project(tempfile())
  page <- file.path(project, "form.html")
  done <- command("entry", project, "--print", page, "--without", "kind", "--forms", "2")
  expect_equal(done$status, 0)
  html <- xml2::read_html(page)
  text <- function(path) trimws(gsub("\\s+", " ", xml2::xml_text(xml2::xml_find_all(html, path))))
  expect_equal(text("//span[@class='blank']")[c(1, 3)], c("1", "2"))
  questions <- text("(//section)[1]//p[@class='question']")
  expect_match(questions, "^[0-9]+[.]")
  expect_true(any(grepl("Do you sing in a choir at present?", questions, fixed = TRUE)))
  asked <- as.integer(sub("[.].*", "", questions[grepl("at present", questions)]))
  gates <- text("(//section)[1]//p[@class='asked']")
  expect_match(gates, paste0("only if you answered \u201cYes\u201d to question ", asked, ". Otherwise go on to question "), fixed = TRUE)
  expect_length(text("((//section)[1]//table)[1]//tbody/tr"), 6)
  expect_no_match(paste(readLines(page), collapse = ""), "http")
  words <- function(condition) {
    study <- build_study(project)
    core$condition_to_people(core$checked_condition(condition, study$book)$tree, function(name) if (name != "belonging") "question 1", study$book)
  }
  cases <- c(
    "voice %in% c(\"Alto\", \"Bass\")" = "you answered \u201cAlto\u201d or \u201cBass\u201d to question 1",
    "voice != \"Alto\"" = "you answered question 1 otherwise than \u201cAlto\u201d",
    "years >= 10 & member == \"No\"" = "your answer to question 1 is 10 or more, and you answered \u201cNo\u201d to question 1",
    "5 > years" = "your answer to question 1 is less than 5", "!is_missing(years)" = "you answered question 1",
    "reason_learn == \"Yes\"" = "you ticked \u201cTo learn\u201d in question 1"
  )
  for (condition in names(cases)) expect_equal(words(condition), cases[[condition]])
  expect_null(words("belonging > 3"))
  # A question of one box has no code to show.
  project <- project_with(c(
    "mavik: 1", "study: {title: Solo}", "waves: {one: {label: One}}", "exports: {main: {wave: one, file: raw/a.csv, key: id, cells: labels}}",
    "variables: {id: {is: key, label: Id}, alone: {label: Alone, split: {columns: {solo: Solo}, options: {solo: I sang alone}}}}"
  ))
  writeLines(c("id,Solo", "1,x"), file.path(project, "raw/a.csv"))
  expect_equal(command("entry", project, "--print", page, "--replace")$status, 0)
  expect_equal(trimws(xml2::xml_text(xml2::xml_find_first(xml2::read_html(page), "//div[starts-with(@class, 'boxes')]"))), "I sang alone")
})

test_that("the sheet of corrections offers waves, respondents and variables, and keeps its lines", {
  project <- demo_project(tempfile())
  done <- command("coding", "--corrections", "--project", project)
  expect_equal(done$status, 0)
  file <- file.path(project, "sheets/corrections.xlsx")
  expect_match(paste(done$out, collapse = "\n"), "write `corrections: sheets/corrections.xlsx` in place of", fixed = TRUE)
  rows <- openxlsx::read.xlsx(file, "corrections")
  expect_equal(rows$variable, c("joined", "points_trips", "satisfied"))
  found <- validations(file, "corrections")
  expect_equal(substr(found$cells, 1, 1), c("A", "B", "C"))
  lists <- openxlsx::read.xlsx(file, "lists", colNames = FALSE)
  expect_true(all(c("0766", "0278") %in% lists[[2]]))
  expect_false("email" %in% lists[[3]])
  before <- build_study(project)
  yml <- file.path(project, "choirs.yml")
  writeLines(sub("corrections.csv", "corrections.xlsx", readLines(yml), fixed = TRUE), yml)
  expect_equal(build_study(project)$data, before$data)
  expect_equal(nrow(correction_sheet(project)), 3)
})

test_that("`cells: either` takes a label, else a code, and what is said of one sheet stays with it", {
  frame <- data.frame(
    id = 1:8, part = c("High", "1", "low", "2.0", "REF", "-2", "3", ""),
    likes = c("Tea", "1", "2;Tea", "Cake;1", "Refused", "-2", "7", "")
  )
  likes <- list(label = "Likes", split = list(column = "likes", options = list(tea = list(label = "Tea", code = 1), cake = list(label = "Cake", code = 2))))
  study <- build_small(frame, likes = likes, cells = "either")
  expect_equal(study$data$part, c(1, 1, 2, 2, NA, NA, NA, NA))
  expect_equal(as.character(study$reasons$part)[5:8], c("refused", "refused", "set_aside", "no_answer"))
  expect_equal(study$data$tea, c(1, 1, 1, 1, NA, NA, NA, NA))
  expect_equal(study$data$cake, c(0, 0, 1, 1, NA, NA, NA, NA))
  expect_equal(as.character(study$reasons$tea)[5:8], c("refused", "refused", "set_aside", "no_answer"))
  # A label that is another code's number could be either.
  twisted <- list(column = "part", label = "P", level = "nominal", codes = c("1" = "2", "2" = "1"))
  expect_match(message_of(build_small(frame, part = twisted, cells = "either")), "is another code's number")
  # A typed sheet reads by the codebook's codes; what is said of this very sheet beats that.
  document <- small_codebook(cells = "codes")
  document$variables$part$delivered <- c("1" = "Low", "2" = "High")
  document$exports$paper <- list(wave = "one", key = "id", typed = "all")
  typed <- function() build_study(document, list(main = data.frame(id = 1, part = "1"), paper = data.frame(Form = 1:2, id = 2:3, part = c("1", "Low"))))$data$part
  expect_equal(typed(), c(2L, 1L, 2L))
  document$variables$part$by_export <- list(paper = list(cells = "codes", delivered = c("1" = "Low", "2" = "High", "Low" = "Low")))
  expect_equal(typed(), c(2L, 2L, 2L))
})
