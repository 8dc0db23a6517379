# All cells of a study's analysis table as analysis.csv has them.
cells_of <- function(study) lapply(core$with_names(names(study_table(study)), names(study_table(study))), function(name) {
  text <- core$value_text(study$book$variables[[name]], study$data[[name]][core$rows_retained(study)])
  ifelse(is.na(text), "", text)
})

test_that("each story starts in the raw cell and ends in the analysis file, with and without the kept index", {
  project <- demo_project(tempfile())
  study <- build_study(project)
  raw <- as.data.frame(read_export(file.path(project, "raw/spring.csv"), c("names", "questions")))
  lines <- read_export(file.path(project, "raw/spring.csv"), c("names", "questions"))$lines
  cells <- cells_of(study)
  set.seed(11)
  touched <- unique(ledger(study)$respondent)
  keys <- c(sample(touched, 7), sample(cells$singer, 5))
  for (name in sample(names(cells), min(length(cells), cases(6 * length(cells))))) {
    for (key in sample(keys, cases(8))) {
      told <- why(project, name, key)
      row <- match(key, cells$singer)
      retained <- Filter(function(story) is.null(story$dropped), told$stories)
      if (is.na(row)) { expect_length(retained, 0); next }
      expect_length(retained, 1)
      story <- retained[[1]]
      expect_equal(story$value, cells[[name]][row], info = paste(name, key))
      expect_equal(utils::tail(story$steps$value, 1), cells[[name]][row], info = paste(name, key))
      column <- core$columns_of(study$book$variables[[name]])
      if (length(column) == 1) expect_equal(unname(story$raw), raw[[column]][match(story$at, lines)], info = paste(name, key))
      for (input in story$inputs) expect_true(length(input$raw) > 0 || length(input$inputs) > 0)
    }
  }
  unlink(file.path(project, ".mavik"), recursive = TRUE)
  expect_null(core$known_index(study$book))
  core$keep_index(study)
  expect_false(is.null(core$known_index(study$book)))
  with <- why(project, "belonging", "0278")
  unlink(file.path(project, ".mavik"), recursive = TRUE)
  expect_equal(with, why(project, "belonging", "0278"))
  # A study that purges keeps none before a build has told whom.
  expect_null(core$known_index(study$book))
})

test_that("a story is cut out of awkward files as if they were read whole", {
  text <- "note above\r\nid;part;say\r\n01;High;\"two\r\nlines; and \"\"more\"\"\"\r\n02;Low;caf\xe9\r\n\r\n01b;High;last"
  book <- c("mavik: 1", "study: {title: T}", "waves: {one: {label: One}}", "exports: {a: {file: raw/a.csv, key: id, skip: 1, delimiter: semicolon, encoding: windows-1252}}",
    "variables:", "  id: {is: key, label: Id}", "  part: {column: part, label: P, level: nominal, codes: {1: High, 2: Low}}", "  say: {column: say, label: S, level: text}")
  project <- project_with(book, list("a.csv" = text))
  whole <- build_study(project)
  core$keep_index(whole)
  expect_false(is.null(core$known_index(whole$book)))
  for (key in whole$data$id) {
    story <- why(project, "say", key)$stories[[1]]
    expect_equal(story$value, whole$data$say[whole$data$id == key])
    expect_equal(story$at, whole$records$line[whole$data$id == key])
  }
  unlink(file.path(project, ".mavik"), recursive = TRUE)
  expect_equal(why(project, "say", "02")$stories[[1]]$value, "caf\u00e9")
  expect_equal(core$known_index(whole$book)$a$line, whole$records$line)
  cat("\r\n03;Low;new\r\n", file = file.path(project, "raw/a.csv"), append = TRUE)
  expect_null(core$known_index(whole$book))
  expect_match(message_of(why(project, "say", "1")), "no respondent `1`.*did you mean `01`")
  numbered <- project_with(sub("key: id", "key: numbered", book), list("a.csv" = text))
  core$keep_index(build_study(numbered))
  expect_equal(why(numbered, "part", "2")$stories[[1]]$value, "2")
})

test_that("the story of a variable counts each step, and says what rests on it", {
  project <- demo_project(tempfile())
  study <- build_study(project)
  for (name in names(study$book$variables)) {
    told <- core$story_of_variable(study, name)
    count <- function(step) sum(told$steps$count[told$steps$step == step])
    expect_equal(count("answered") + count("gap"), nrow(study$data), info = name)
    expect_equal(count("decoded") + count("made") - count("range") - count("rule") - count("exclusive") + count("imputed") - sum(ledger(study)$variable == name & ledger(study)$kind == "universe" & ledger(study)$was_reason == "") +
      sum(ledger(study)$variable == name & ledger(study)$kind == "corrected" & ledger(study)$was_reason != "") - sum(ledger(study)$variable == name & ledger(study)$kind == "corrected" & ledger(study)$now_reason != ""), count("answered"), info = name)
  }
  told <- core$story_of_variable(study, "belong2")
  expect_equal(told$used_by$name, c("belonging", "opened_only", "straightliner"))
  asked <- why(project, "belong1", "1089")$stories[[1]]
  expect_match(asked$steps$words[asked$steps$step == "universe"], "false (member is 2 No)", fixed = TRUE)
  worked <- why(project, "belonging", "0278")$stories[[1]]
  expect_match(worked$steps$words[worked$steps$step == "worked"], "= 19; 19 / 6 = 3.17", fixed = TRUE)
  expect_match(message_of(why(project, "belongin", "0278")), "did you mean `belonging`")
})

test_that("check groups what is one trouble, and counts what a build sets aside", {
  wide <- data.frame(id = 1:3, part = c("High", "Low", "n/a"), as.list(stats::setNames(rep(list(c("x", "y", "z")), 180), paste0("extra", 1:180))))
  checked <- check_study(small_codebook(), list(main = wide))
  expect_equal(checked$groups$count[checked$groups$kind == "unused_column"], 180L)
  expect_equal(nrow(checked$groups), 2)
  expect_equal(checked$proposals$count, 180L)
  project <- demo_project(tempfile())
  study <- build_study(project)
  checked <- check_study(project)
  expect_equal(sum(checked$groups$count), sum(core$open_findings(findings(study))$count))
  for (kind in c("range", "universe", "rule")) expect_equal(sum(checked$aside$answers[checked$aside$kind == kind]), sum(ledger(study)$kind == kind))
  expect_equal(checked$unchecked$variable, c("choir", "started", "ended", "email", "voice_note", "best", "remarks"))
  file <- file.path(project, "choirs.yml")
  before <- readLines(file)
  change <- apply_proposals(checked, write = FALSE)
  expect_equal(readLines(file), before)
  expect_equal(apply_proposals(checked), change)
  after <- readLines(file)
  expect_equal(length(after), length(before))
  expect_equal(sum(grepl("#", after)), sum(grepl("#", before)))
  again <- check_study(project)
  expect_equal(nrow(again$proposals), 0)
  expect_equal(sum(again$groups$count) + sum(checked$findings$count[checked$findings$written == "5/3/2021"]), sum(checked$groups$count))
  found <- find_records(study, "is_missing(years, \"refused\") | years > 60")
  expect_equal(nrow(found), sum((study$data$years > 60 & !is.na(study$data$years)) | study$reasons$years %in% "refused"))
  expect_match(message_of(find_records(study, "email == \"x\"")), "private")
})

test_that("check and why as commands: statuses, JSON, and nothing private anywhere", {
  project <- demo_project(tempfile())
  run <- command("check", project)
  expect_equal(run$status, 1)
  expect_match(paste(run$out, collapse = "\n"), "Of 246 records 221 would be retained")
  expect_equal(list.files(project), c("choirs.yml", "raw", "sheets"))
  facts <- jsonlite::fromJSON(paste(command("check", project, "--json")$out, collapse = "\n"))
  expect_equal(facts$retained, 221)
  clean <- project_with(c("mavik: 1", "study: {title: T}", "waves: {one: {label: One}}", "exports: {a: {file: raw/a.csv, key: id}}", "variables: {id: {is: key, label: Id}}"), list("a.csv" = "id\n1\n"))
  expect_equal(command("check", clean)$status, 0)
  expect_equal(command("check", file.path(project, "none"))$status, 2)
  texts <- c(run$out, jsonlite::toJSON(facts), command("check", project, "--respondent", "0278")$out, command("why", "email", "0278", "--project", project)$out,
    command("why", "email", "--project", project)$out, command("check", project, "--variable", "email", "--json")$out, command("check", project, "--where", "years > 30")$out)
  expect_false(any(grepl("choirs.example", texts, fixed = TRUE)))
  told <- command("why", "weekly", "0278", "--project", project, "--json")
  expect_equal(jsonlite::fromJSON(paste(told$out, collapse = "\n"), simplifyVector = FALSE)$stories[[1]]$variable, "weekly")
  expect_match(command("check", project, "--apply", "--only", "7")$err, "not the number of a proposed line")
  applied <- command("check", project, "--apply", "--only", "1")
  expect_equal(applied$status, 0)
  expect_match(paste(applied$out, collapse = "\n"), "dates: [dd/MM/yyyy, d/M/yyyy]", fixed = TRUE)
})

test_that("a comparison names exactly what differs", {
  project <- demo_project(tempfile())
  codebook <- read_codebook(project)
  old <- write_study(build_study(project), tempfile())
  differ <- function(change) {
    other <- demo_project(tempfile())
    edit <- function(file, from, to) {
      path <- file.path(other, file)
      text <- readLines(path, encoding = "UTF-8")
      expect_equal(sum(grepl(from, text)), 1, info = from)
      writeLines(sub(from, to, text), path, useBytes = TRUE)
    }
    change(edit, other)
    compare_studies(old, write_study(build_study(other), tempfile()))
  }
  expect_true(differ(function(edit, other) NULL)$same)
  cell <- differ(function(edit, other) edit("raw/spring.csv", "^(S410014,.*,0188,Yes,[^,]*,KV05,)Alto,", "\\1Soprano,"))
  expect_equal(cell$cells$variable, "voice")
  expect_equal(cell$changes[, c("respondent", "was", "now")], data.frame(respondent = "0188", was = "2 Alto", now = "1 Soprano"))
  expect_equal(c(nrow(cell$codebook), cell$sources$file), c("0", "raw/spring.csv"))
  line <- differ(function(edit, other) edit("choirs.yml", "range: \\[0, 80\\]", "range: [0, 50]"))
  expect_equal(line$codebook, data.frame(path = "variables > years > range", change = "changed", was = "[0, 80]", now = "[0, 50]"))
  expect_equal(c(line$cells$variable, line$cells$causes, nrow(line$sources)), c("years", "years_band", rep("variables > years > range", 2), "0"))
  expect_equal(line$moved$what[1], "mean")
  sheet <- differ(function(edit, other) cat("spring,0188,ease,3,4,x,office,2026-03-24\n", file = file.path(other, "sheets/corrections.csv"), append = TRUE))
  expect_equal(c(sheet$sources$file, sheet$changes$variable, sheet$changes$was, sheet$changes$now, nrow(sheet$codebook)), c("sheets/corrections.csv", "ease", "3", "4", "0"))
  gone <- differ(function(edit, other) edit("raw/spring.csv", "^S410014,.*", "S410014,2026-03-02 15:07:25,2026-03-02 15:15:01,Trial,9,456,Phone,0188,Yes,a@choirs.example,KV05,Alto,,12,Yes,2020,1,3,,,,,,,,,,,,,,,,,,,,,,,,,,,,,,"))
  expect_equal(gone$respondents$gone$respondent, "0188")
  expect_equal(nrow(gone$changes), 0)
  run <- command("compare", old, old)
  expect_equal(c(run$status, run$out), c("0", "The two builds are the same: respondents, cells, codebook, raw files and sheets."))
  cat("x", file = file.path(old, "analysis.csv"), append = TRUE)
  expect_match(command("compare", old, old)$err, "analysis.csv was changed after the build")
})

test_that("the story of a variable from what is kept is that of a fresh build, whatever of it is lost", {
  project <- demo_project(tempfile())
  fresh <- why(project, "years")
  folder <- file.path(project, ".mavik/study")
  expect_equal(why(project, "years"), fresh)
  for (lost in c("years.rds", "ledger.rds", "study.rds")) {
    unlink(file.path(folder, lost))
    expect_equal(why(project, "years"), fresh, info = lost)
    writeLines("spoilt", file.path(folder, "ledger.rds"))
    expect_equal(why(project, "years"), fresh, info = lost)
  }
  expect_gt(sum(fresh$steps$count[fresh$steps$step == "variant"]), 0)
})

test_that("where only an empty record of a person is purged, the other keeps its story and its corrections", {
  project <- demo_project(tempfile())
  cat("spring,1038,years,7,8,the paper says 8,office,2026-03-24\n", file = file.path(project, "sheets/corrections.csv"), append = TRUE)
  for (time in 1:2) {
    told <- why(project, "years", "1038")$stories
    expect_length(told, 1)
    expect_equal(c(told[[1]]$at, told[[1]]$raw, told[[1]]$value), c("139", "7", "8"))
  }
  study <- build_study(project)
  expect_equal(study$data$years[study$records$key == "1038"], 8)
  expect_false(272L %in% study$records$line)
})
