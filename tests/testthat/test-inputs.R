# Raw files and data frames as they come: all that is wrong at once, and nothing lost.

test_that("all problems of the raw files are told at once, each with its line, and where a file may be", {
  project <- project_with(c("mavik: 1", "study: {title: X}", "waves: {one: {label: One}, two: {label: Two}}", "exports:", "  a: {wave: one, file: raw/aa.csv, key: id}", "  b: {wave: one, file: raw/b.csv, key: id}",
    "  d: {wave: two, file: raw/d.csv, key: id}", "  e: {wave: two, file: 'raw/e*.csv', key: id}", "  g: {wave: two, file: raw/g.csv, key: id}", "corrections: sheets/none.csv", "lookups: {ros: {file: raw/ros.csv, key: k}}",
    "variables:", "  id: {is: key, label: Id}", "  q: {column: q, label: q, level: text}", "  r: {lookup: {in: ros, by: q, column: z}, label: R, level: text}"),
    list("a.csv" = "id,q\n1,2\n", "d.csv" = "id,qq\n1,2\n", "g.csv" = "id,q\n,2\n"))
  dir.create(file.path(project, "old"))
  file.copy(file.path(project, "raw/a.csv"), file.path(project, "old/b.csv"))
  for (door in list(build_study, check_study, function(project) why(project, "q"))) {
    said <- message_of(door(project))
    for (part in c("^7 problems in the raw files", "study.yml:5 exports > a > file: raw/aa.csv: no such file; did you mean `raw/a.csv`", "study.yml:6 exports > b > file: raw/b.csv: no such file.*stands at `old/b.csv`",
      "study.yml:14 variables > q > column: the column `q` is not in raw/d.csv; did you mean `qq`\\?; its columns are `id` and `qq`", "study.yml:8 exports > e > file: no file is called like", "study.yml:9 exports > g > file: raw/g.csv:2: the key",
      "study.yml:10 corrections: sheets/none.csv: no such file", "study.yml:11 lookups > ros > file: raw/ros.csv: no such file")) expect_match(said, part)
  }
  expect_equal(command("build", project)$status, 2)
  outside <- tempfile(fileext = ".csv")
  writeLines(c("id,q", "1,2"), outside)
  writeLines(c("mavik: 1", "study: {title: X}", "waves: {one: {label: One}}", paste0("exports: {a: {file: ", outside, ", key: id}}"), "variables: {id: {is: key, label: Id}, q: {column: q, label: q, level: text}}"), file.path(project, "study.yml"))
  found <- findings(build_study(project))
  expect_equal(found$level[found$kind == "outside_project"], "note")
})

test_that("data frames keep what they show: large whole numbers, clocks, infinities; classes nobody knows are told", {
  big <- structure(vapply(c(2, 3), function(k) { raw <- as.raw(c(k, rep(0, 6), 0x10)); readBin(raw, "double") }, 0), class = "integer64")
  frame <- data.frame(part = c("High", "Low"), when = as.POSIXct(c("2026-07-01 00:15:00", "2026-03-02 18:30:00"), tz = "Pacific/Auckland"), num = c(Inf, 2))
  frame$id <- big
  frame[["a\nb\t c"]] <- c("x", "y")
  book <- small_codebook(when = list(column = "when", label = "W", level = "datetime"), num = list(column = "num", label = "N", level = "ratio"), odd = list(column = "a  b c", label = "O", level = "text"))
  study <- build_study(book, list(main = frame))
  expect_equal(study$data$id, c("1152921504606846978", "1152921504606846979"))
  expect_equal(core$date_to_text(as.double(study$data$when), "datetime"), c("2026-07-01T00:15:00", "2026-03-02T18:30:00"))
  expect_equal(ledger(study)$was, "Inf")
  expect_equal(study$data$odd, c("x", "y"))
  expect_equal(look(frame)$records, 2)
  for (case in list(list(structure(1:2, class = "odd_thing"), "column `num` is of class `odd_thing`"), list(I(list(1, 2)), "column `num` is a list"), list(structure(1:2, class = "difftime", units = "days"), "class `difftime`"), list(c(1i, 2i), "type complex"))) {
    frame$num <- case[[1]]
    expect_match(message_of(build_study(book, list(main = frame))), case[[2]], fixed = TRUE)
  }
  expect_match(message_of(edit_codebook(book, variables = list(num = list(range = c(0, NA))))), "a bound is missing")
  file <- tempfile(fileext = ".csv")
  frame$num <- 1
  frame$id <- c("k1", "k2")
  data.table::fwrite(frame[rep(1:2, 20), setdiff(names(frame), "id")], file)
  draft <- tempfile(fileext = ".yml")
  writeLines(draft_codebook(file), draft)
  expect_true("a_b_c" %in% names(study_table(build_study(draft))))
})

test_that("files with one column, doubled quotes and line breaks read like any other, and leave the reader sound", {
  set.seed(11)
  bits <- c("a", "\"\"", "\n", "b c", ",", ";", " ", "\u00e9", "\"\"\"\"", "\r\n", "1")
  for (width in c(1, 1, 2, 4)) for (time in 1:40) {
    cells <- matrix(replicate(4 * width, paste(sample(bits, sample(1:4, 1), TRUE), collapse = "")), 4)
    file <- tempfile()
    writeBin(charToRaw(enc2utf8(paste0(paste(paste0("h", seq_len(width)), collapse = ","), "\n", paste(apply(cells, 1, function(row) paste0("\"", row, "\"", collapse = ",")), collapse = "\n"), "\n"))), file)
    read <- vapply(read_export(file)$columns, function(column) column$cells[column$index], character(4))
    expect_identical(as.vector(read), enc2utf8(gsub("\"\"", "\"", as.vector(cells), fixed = TRUE)))
    unlink(file)
  }
  # The kernel reads what a common reader reads.
  file <- file.path(demo_project(tempfile()), "raw/spring.csv")
  ours <- core$read_cells(file, ",", 0L, 1L)
  theirs <- data.table::fread(file, colClasses = "character", na.strings = NULL, encoding = "UTF-8", strip.white = FALSE)
  expect_identical(ours$heading[[1]], names(theirs))
  expect_identical(lapply(ours$columns, function(column) column$cells[column$index]), unname(lapply(theirs, function(x) enc2utf8(gsub("\"\"", "\"", x, fixed = TRUE)))))
})

test_that("number formats with letters in brackets or quotes show no dates; a part that swells is refused unread", {
  book <- openxlsx::createWorkbook()
  openxlsx::addWorksheet(book, "a")
  openxlsx::writeData(book, 1, data.frame(id = 1, usd = 1234.5, chf = 3.5, white = 5, days = "x", hours = 1.5, day = 45000))
  formats <- c("[$USD] #,##0.00", "[$CHF-807] 0.0", "[White]0;[Red]-0", "0 \"days\"", "[h]:mm", "dd\\/mm\\/yyyy")
  for (k in seq_along(formats)) openxlsx::addStyle(book, 1, openxlsx::createStyle(numFmt = formats[k]), rows = 2, cols = k + 1)
  file <- tempfile(fileext = ".xlsx")
  openxlsx::saveWorkbook(book, file)
  expect_equal(unname(unlist(as.data.frame(read_export(file)))), c("1", "1234.5", "3.5", "5", "x", "1899-12-31T12:00:00", "2023-03-15"))
  folder <- tempfile()
  utils::unzip(file, exdir = folder)
  sheet <- file.path(folder, "xl/worksheets/sheet1.xml")
  writeLines(c(readLines(sheet, warn = FALSE), paste0("<!-- ", strrep(" ", 6e7), " -->")), sheet)
  bomb <- tempfile(fileext = ".xlsx")
  zip::zip(bomb, list.files(folder), root = folder)
  expect_lt(file.size(bomb), 3e5)
  expect_match(message_of(read_export(bomb), "mavik_read_error"), "times its size")
  expect_match(message_of(core$unpack_part(file, "xl/worksheets/sheet1.xml", 10, tempfile()), "error"), "larger than it says")
})

test_that("a folder and a pattern with letters outside ASCII work in every locale", {
  project <- demo_project(tempfile())
  folder <- file.path(tempfile(), "chor\u00e4le \u5408\u5531")
  dir.create(folder, recursive = TRUE)
  file.copy(list.files(project, full.names = TRUE), folder, recursive = TRUE)
  file.rename(file.path(folder, "raw/spring.csv"), file.path(folder, "raw/fr\u00fchjahr.csv"))
  text <- readLines(file.path(folder, "choirs.yml"), encoding = "UTF-8")
  writeLines(enc2utf8(sub("raw/spring.csv", "raw/fr\u00fchj*.csv", text)), file.path(folder, "choirs.yml"), useBytes = TRUE)
  study <- build_study(folder)
  expect_equal(why(folder, "voice", "0278")$stories[[1]]$file, "raw/fr\u00fchjahr.csv")
  for (locale in c("LC_ALL=C", "LC_ALL=C.UTF-8")) {
    run <- command("build", folder, env = locale)
    expect_equal(run$status, 0, info = paste(locale, paste(run$err, collapse = " ")))
  }
  expect_equal(nrow(study_table(study)), nrow(utils::read.csv(file.path(folder, "out/analysis.csv"))))
})

test_that("dates of any year and fractions of a second are written and read back the same", {
  days <- c(-719162, -354285, 0, 20000, 2932896)
  expect_equal(core$date_to_text(days, "date"), c("0001-01-01", "1000-01-01", "1970-01-01", "2024-10-04", "9999-12-31"))
  expect_equal(core$text_to_date(core$date_to_text(days, "date"), "date")$value, days)
  expect_equal(core$moment_to_text(c(86399.9999997, 0.5, 59.999999)), c("1970-01-02T00:00:00", "1970-01-01T00:00:00.5", "1970-01-01T00:00:59.999999"))
  seen <- build_small(data.frame(id = 1:4, part = "High", d = c("2000-05-04", "2000-05-05", "2027-12-31", "2028"), n = c("12345678901234567", "1234567890123456", "0.1", "7")), d = list(column = "d", label = "D", level = "date", range = c("2000-05-05", "2027")), n = list(column = "n", label = "N", level = "ratio"))
  expect_equal(is.na(seen$data$d), c(TRUE, FALSE, FALSE, TRUE))
  found <- findings(seen)
  expect_equal(found$written[found$kind == "digits_lost"], "12345678901234567")
})

test_that("records without keys are corrected by the platform's own number, or not at all", {
  sheet <- tempfile(fileext = ".csv")
  writeLines(c("respondent,variable,was,now", "a3,part,Lwo,Low"), sheet)
  book <- small_codebook()
  book$exports$main$key <- "numbered"
  book$corrections <- sheet
  frame <- data.frame(no = c("a1", "a2", "a3"), part = c("High", "Low", "Lwo"))
  expect_match(message_of(build_study(book, list(main = frame))), "cannot go with numbered keys.*`response: COLUMN`")
  book$exports$main$response <- "no"
  expect_equal(build_study(book, list(main = frame))$data$part, c(1L, 2L, 2L))
  # One row more before it, and the same response is corrected.
  expect_equal(build_study(book, list(main = rbind(data.frame(no = "a0", part = "Lwo"), frame)))$data$part, c(NA, 1L, 2L, 2L))
  expect_equal(why(book, "part", "3", exports = list(main = frame))$stories[[1]]$value, "2")
  expect_match(message_of(build_study(book, list(main = transform(frame, no = "a3")))), "stands for several records")
  book$corrections <- NULL
  coders <- tempfile(fileext = ".csv")
  writeLines(c("wave,respondent,answer,code 1", "one,a3,hello,Warm"), coders)
  book$variables$t <- list(column = "t", label = "T", level = "text")
  book$variables$k <- list(label = "K", coded = list(of = "t", sheet = coders, codes = list(k_warm = "Warm")))
  expect_equal(build_study(book, list(main = transform(frame, t = "hello")))$data$k_warm, c(NA, NA, 1L))
  book$exports$main$response <- NULL
  expect_match(message_of(build_study(book, list(main = transform(frame, t = "hello")))), "cannot go with numbered keys")
})
