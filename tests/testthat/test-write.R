outputs <- c("analysis.csv", "codebook.html", "findings.csv", "gaps.csv", "ledger.csv", "provenance.json", "report.html", "tables.html", "tables.xlsx")

demo_out <- function() {
  project <- demo_project(tempfile())
  list(project = project, out = write_study(build_study(project)))
}

test_that("the outputs agree with each other and with the study", {
  project <- demo_project(tempfile())
  study <- build_study(project)
  out <- write_study(study)
  expect_equal(normalizePath(out), normalizePath(file.path(project, "out")))
  expect_setequal(list.files(out), outputs)
  read <- function(name) utils::read.csv(file.path(out, name), colClasses = "character", na.strings = NULL, check.names = FALSE, encoding = "UTF-8")
  analysis <- read("analysis.csv")
  expect_equal(names(analysis), core$kept_variables(study$book))
  table <- study_table(study)
  for (name in names(table)) {
    text <- core$value_text(study$book$variables[[name]], table[[name]])
    expect_equal(analysis[[name]], ifelse(is.na(text), "", text), info = name)
  }
  gaps <- read("gaps.csv")
  expect_equal(gaps$respondent, analysis$singer)
  for (name in names(gaps)[-(1:4)]) expect_equal(nzchar(gaps[[name]]), !nzchar(analysis[[name]]), info = name)
  expect_equal(nrow(read("ledger.csv")), nrow(ledger(study)))
  record <- jsonlite::read_json(file.path(out, "provenance.json"))
  expect_equal(record$respondents, 221)
  expect_setequal(names(record$outputs), setdiff(outputs, "provenance.json"))
  for (name in names(record$outputs)) expect_equal(record$outputs[[name]]$blake2b, core$file_digest(file.path(out, name)))
  expect_equal(record$inputs[[1]]$blake2b, core$file_digest(file.path(project, "raw/spring.csv")))
})

test_that("equal inputs give equal bytes, whatever the time zone, locale, working folder and threads", {
  skip_on_os("windows")
  locales <- Sys.getenv("LOCPATH_MAVIK")
  if (!dir.exists(file.path(locales, "tr_TR.UTF-8"))) skip("the locales tr_TR.UTF-8 and de_DE.UTF-8 are not compiled")
  project <- demo_project(tempfile())
  text <- readLines(file.path(project, "raw/spring.csv"), encoding = "UTF-8")
  writeLines(enc2utf8(sub("Our conductor", "\u0130stanbul caf\u00e9 \u2014 our conductor", text)), file.path(project, "raw/spring.csv"), useBytes = TRUE)
  settings <- list(
    c("TZ=UTC", "LC_ALL=C", "R_DATATABLE_NUM_THREADS=1"), c("TZ=Pacific/Auckland", "LC_ALL=tr_TR.UTF-8", "R_DATATABLE_NUM_THREADS=2"),
    c("TZ=America/Lima", "LC_ALL=de_DE.UTF-8", "R_DATATABLE_NUM_THREADS=2")
  )
  folders <- c(tempdir(), project, "/")
  built <- Map(function(env, wd) {
    out <- tempfile("out")
    run <- command("build", project, "--out", out, env = c(env, paste0("LOCPATH=", locales)), wd = wd)
    expect_equal(run$status, 0, info = paste(run$err, collapse = "\n"))
    # Workbooks that people get are no output, and as fixed.
    sheets <- file.path(out, c("codebook.xlsx", "coding.xlsx"))
    calls <- list(c("convert", project, sheets[1]), c("coding", "best_codes", "--out", sheets[2], "--project", project))
    code <- paste0("for (call in ", deparse1(calls), ") mavik::run_command(call)")
    withr::with_dir(wd, system2(file.path(R.home("bin"), "Rscript"), c("-e", shQuote(code)), stdout = FALSE, stderr = FALSE,
      env = c(paste0("R_LIBS=", paste(.libPaths(), collapse = ":")), env, paste0("LOCPATH=", locales))))
    vapply(c(file.path(out, outputs), sheets), core$file_digest, "", USE.NAMES = FALSE)
  }, settings, folders)
  seen <- system2(file.path(R.home("bin"), "Rscript"), c("-e", shQuote("cat(tolower('I'), format(1.5, decimal.mark = Sys.localeconv()[['decimal_point']]))")),
    stdout = TRUE, env = c("LC_ALL=tr_TR.UTF-8", paste0("LOCPATH=", locales)))
  expect_match(seen, "\u0131", info = "the Turkish locale is a real one")
  expect_equal(built[[2]], built[[1]])
  expect_equal(built[[3]], built[[1]])
})

test_that("raw files and whatever Mavik did not write are never touched", {
  demo <- demo_out()
  before <- core$file_digest(file.path(demo$project, "raw/spring.csv"))
  study <- build_study(demo$project)
  refused <- function(out, why) {
    there <- list.files(demo$project, recursive = TRUE, all.files = TRUE, include.dirs = TRUE)
    expect_match(message_of(write_study(study, out), "mavik_write_error"), why)
    expect_equal(list.files(demo$project, recursive = TRUE, all.files = TRUE, include.dirs = TRUE), there)
  }
  refused(file.path(demo$project, "raw"), "raw files")
  refused(file.path(demo$project, "raw/out"), "raw files")
  refused(file.path(demo$project, "out/../raw/new"), "raw files")
  refused(demo$project, "holds `choirs.yml` and `raw`|holds .*did not write")
  refused(file.path(demo$project, "choirs.yml"), "is a file")
  file.symlink(file.path(demo$project, "raw"), file.path(demo$project, "link"))
  refused(file.path(demo$project, "link/out"), "raw files")
  unlink(file.path(demo$project, "link"))
  writeLines("mine", file.path(demo$out, "notes.txt"))
  refused(demo$out, "holds `notes.txt`, which Mavik did not write")
  unlink(file.path(demo$out, "notes.txt"))
  cat("edited", file = file.path(demo$out, "analysis.csv"), append = TRUE)
  refused(demo$out, "holds `analysis.csv`")
  expect_equal(core$file_digest(file.path(demo$project, "raw/spring.csv")), before)
})

test_that("a build that fails leaves the old outputs whole; one that works replaces them", {
  demo <- demo_out()
  digests <- function() vapply(list.files(demo$out, full.names = TRUE), core$file_digest, "")
  before <- digests()
  study <- build_study(demo$project)
  broken <- study
  broken$ledger <- list(list())
  expect_error(write_study(broken, demo$out))
  expect_equal(digests(), before)
  expect_equal(list.files(demo$project), c("choirs.yml", "out", "raw", "sheets"))
  expect_equal(write_study(study, demo$out, digests = FALSE), demo$out)
  expect_equal(unname(digests()[c(1:5)]), unname(before[c(1:5)]))
  expect_equal(write_study(study, demo$out), demo$out)
  expect_equal(digests(), before)
})

# Every tag that is opened is closed, in order.
well_nested <- function(page) {
  page <- gsub("<(script|style)>.*?</\\1>", "", page, perl = TRUE)
  tags <- regmatches(page, gregexpr("</?[a-z0-9]+[^>]*>", page))[[1]]
  tags <- tags[!grepl("/>$|^<(meta|input|!)", tags)]
  open <- character()
  for (tag in tags) {
    name <- sub("^</?([a-z0-9]+).*", "\\1", tag)
    if (!startsWith(tag, "</")) { open <- c(open, name); next }
    if (length(open) == 0 || open[length(open)] != name) return(FALSE)
    open <- open[-length(open)]
  }
  length(open) == 0
}

test_that("text that looks like markup or a formula comes out as text", {
  nasty <- "<script>alert(1)</script> & \"<b>\""
  study <- build_small(data.frame(id = c("<i>1</i>", "2"), part = c("=1+1", "<img src=x>")), note = list(column = "part", label = nasty, level = "text", question = nasty))
  out <- write_study(study, tempfile())
  page <- paste(readLines(file.path(out, "codebook.html"), encoding = "UTF-8"), collapse = "\n")
  expect_false(grepl("<script>alert|<img src=x|<b>", page))
  expect_match(page, "&lt;script&gt;alert(1)&lt;/script&gt;", fixed = TRUE)
  expect_true(well_nested(page))
  expect_equal(utils::read.csv(file.path(out, "analysis.csv"))$note, c("=1+1", "<img src=x>"))
})

test_that("the page documents every kept variable with its counts, and stands alone", {
  demo <- demo_out()
  study <- build_study(demo$project)
  page <- paste(readLines(file.path(demo$out, "codebook.html"), encoding = "UTF-8"), collapse = "\n")
  for (name in core$kept_variables(study$book)) expect_match(page, paste0("id=\"v-", name, "\""), fixed = TRUE)
  expect_match(page, core$file_digest(file.path(demo$project, "raw/spring.csv")), fixed = TRUE)
  expect_false(grepl("(src|href)=\"(http|//)", page))
  article <- sub("</article>.*", "", sub(".*id=\"v-belong2\"", "", page))
  counts <- core$count_variable(study, "belong2")
  for (count in c(counts$codes$count, counts$gaps$count)) expect_match(article, paste0(">", count, "<"))
  expect_match(article, "Read from the column")
  expect_match(page, "Mean of 6 items \\(belong1, .*after reversing belong2, belong5; at least 4 must be answered. Possible range 1 to 5")
})
