# What people read: the printed text of every command and of every class, held as it is.
# A change here is looked at, and taken over with `testthat::snapshot_accept("print")`.

printed <- function(...) {
  withr::local_options(cli.width = 100, width = 100)
  lines <- utils::capture.output(status <- run_command(c(...)))
  c(lines, paste("exit status", status))
}

test_that("every command prints what it printed", {
  folder <- withr::local_tempdir()
  withr::local_dir(folder)
  calls <- list(
    demo = c("demo", "choirs"), look = c("look", "choirs/raw/spring.csv"), column = c("look", "choirs/raw/spring.csv", "--column", "Q4"),
    build = c("build", "choirs"), check = c("check", "choirs"), record = c("check", "choirs", "--respondent", "0188"), where = c("check", "choirs", "--where", "years > 60"),
    answers = c("answers", "voice", "belong", "reasons", "years", "--project", "choirs"), cross = c("answers", "voice", "reasons", "years", "--by", "member", "--project", "choirs"),
    scales = c("scales", "--project", "choirs"), variable = c("why", "belonging", "--project", "choirs"), person = c("why", "belonging", "0278", "--project", "choirs"),
    view = c("view", "choirs"), coding = c("coding", "best_codes", "--project", "choirs"), entry = c("entry", "choirs", "--forms", "12"), onto = c("entry", "choirs", "--out", "choirs/sheets/second.xlsx", "--onto"), align = c("align", "autumn", "choirs/raw/autumn.xlsx", "--project", "choirs", "--dry-run"),
    convert = c("convert", "choirs", "choirs/choirs.xlsx"), compare = c("compare", "choirs/out", "choirs/out"), reference = c("reference", "score"), overview = "--help",
    release = c("release", "archive", "--project", "choirs", "--dry-run"), draft = c("draft", "choirs/raw/spring.csv", "--out", "drafted.yml")
  )
  expect_true(all(setdiff(names(core$commands()), c("install", "completions")) %in% vapply(calls, `[`, "", 1)))
  for (name in names(calls)) {
    lines <- gsub(normalizePath(folder), "FOLDER", do.call(printed, as.list(calls[[name]])), fixed = TRUE)
    # How far a page can be deflated is the system's affair.
    lines <- sub("is written [(][0-9.]+ kB[)]", "is written (SIZE)", lines)
    expect_snapshot_output(cat(paste("mavik", paste(calls[[name]], collapse = " ")), lines, sep = "\n"))
  }
})

# Two entries of three forms with a difference.
entries_of_two <- function(project) {
  made <- entry_sheet(project, of = c("voice", "years"), forms = 3, onto = TRUE)
  second <- file.path(dirname(made$file), "second.xlsx")
  file.copy(made$file, second)
  cells <- data.frame(`Member no` = c("9001", "9002", "9003"), Q3 = c("Alto", "Bass", "Alto"), check.names = FALSE)
  type_forms(made$file, cells)
  cells$Q3[2] <- "Tenor"
  type_forms(second, cells[-3, ])
  compare_entries(project, made$file, second)
}

test_that("every class prints what it printed", {
  withr::local_options(cli.width = 100, width = 100)
  project <- demo_project(withr::local_tempfile(fileext = ""))
  withr::local_dir(project)
  study <- build_study(".")
  objects <- list(
    study, read_codebook("."), read_export("raw/spring.csv", c("names", "questions")), look("raw/roster.csv"), draft_codebook("raw/roster.csv"),
    answers(study, "voice"), examine_scales(study), why(".", "years", "0188"), check_study("."), align_wave(".", "autumn", "raw/autumn.xlsx"), compare_studies(study, study),
    release_study(study, "archive", "handed-on", dry_run = TRUE), entries_of_two(".")
  )
  classes <- vapply(objects, function(object) class(object)[1], "")
  methods <- sub("^print\\.", "", grep("^print\\.mavik_", ls(core), value = TRUE))
  # Figures are drawn, not printed.
  expect_setequal(classes, setdiff(methods, "mavik_figures"))
  for (object in objects) expect_snapshot_output({ cat("<", class(object)[1], ">\n", sep = ""); print(object) })
})
