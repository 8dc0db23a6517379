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
