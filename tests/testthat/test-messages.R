# What is said: where, in what words, in what shape, and never with the steering
# characters of a file.

head_lines <- c("mavik: 1", "study: {title: X}", "waves: {one: {label: One}}", "exports: {a: {file: raw/a.csv, key: id}}", "variables:", "  id: {is: key, label: Id}")

test_that("slips of a codebook's text are told at their own line with their own remedy", {
  cases <- list(
    list(c("  q: {column: q, label: q, level: text", "  r: {column: r, label: r, level: text}"), "study.yml:7: .*`\\{` is opened here, at column 6, and not closed before line 8"),
    list(c("  q:", "    column: q", "    range: [0, 80", "    label: q"), "study.yml:9: .*`\\[` is opened here, at column 12, and not closed before line 10"),
    list("  q: {column: q, label: q", "study.yml:7: .*`\\{` is opened here, at column 6, and never closed"),
    list("  q: {column: q, label: q, level: ratio, range: [0, 80}}", "study.yml:7: .*a comma or `\\]` is missing before `\\}\\}`"),
    list(c("  q: {column: q, label: q, level: text}", "  r: {column: r, label: r, level: text}", "  q: {column: q, label: z, level: text}"), "study.yml:9 variables > q: the key `q` occurs twice, in lines 7 and 9"),
    list("  q: {column: q, label: q, level: ratio, universe: 'x > \u22122'}", "study.yml:7 variables > q > universe: .*at character 5: `\u2212` is a typographic mark \\(a minus or dash\\): write `-`"),
    list("  q: {column: q, label: q, level: ratio, universe: 'id == \u201cA\u201d'}", "`\u201c` is a typographic mark: write `\"`"),
    list("  q: {colum: q, label: q}", "^study.yml:7 variables > q > colum: `colum` is not a key that can stand here; did you mean `column`\\?$"),
    list("  q: {label: q}", "study.yml:7 variables > q: does not say how it is made: one of `bands`"),
    list("  q: {column: q, label: q, level: text, zork: 1}", "`zork` is not a key that can stand here; those that can: `column`, `label`, `question`"),
    list(c("  a1: {label: A, formula: 'b1 + 1'}", "  b1: {label: A, formula: 'a1 + 1'}", "  q: {column: q, label: Q, level: ratio, universe: 'b1 > 2'}"), "^study.yml:7 variables > a1 > formula: goes in a circle: a1 <- b1 <- a1[^\n]*$"),
    list(paste0("  q: ", strrep("[", 3000)), "study.yml:7: .*nested deeper"), list(paste0("  q: ", strrep("{a: ", 3000)), "study.yml:7: .*nested deeper"),
    list(paste0("  q: {label: q, formula: '", strrep("(", 10000), "'}"), "study.yml:7 variables > q > formula: .*is longer than 2,000 characters"),
    list(paste0("  q: {column: q, label: q, level: ratio, universe: '", strrep("(", 6000), "id", strrep(")", 6000), "'}"), "study.yml:7 variables > q > universe: .*is longer than 2,000 characters")
  )
  for (case in cases) expect_match(message_of(read_codebook(project_with(c(head_lines, case[[1]])))), case[[2]], info = paste(substr(case[[1]], 1, 60), collapse = "\n"))
})

test_that("what is no codebook is told as what it is, and the way to one", {
  cases <- list(list(character(), "is empty; `mavik draft"), list("# only comments", "nothing but comments"), list(c("- a", "- b"), "is a list of entries"), list(c("id;x;y", "1;2;3"), "looks like a raw file"), list("hello", "is one text"))
  for (case in cases) expect_match(message_of(read_codebook(project_with(case[[1]]))), case[[2]])
  folder <- tempfile()
  dir.create(folder)
  expect_match(message_of(read_codebook(folder)), "holds no codebook.*`mavik draft FILE`.*`mavik convert --template NEW.yml`")
  picture <- file.path(folder, "x.png")
  writeBin(as.raw(c(0x89, 0x50, 0x4e, 0x47, 0, 1, 2)), picture)
  expect_match(message_of(read_codebook(picture)), "is no text")
  raw <- file.path(folder, "answers.csv")
  writeLines(c("id,x", "1,2"), raw)
  expect_match(message_of(read_codebook(raw)), "`mavik draft answers.csv`")
  book <- write_codebook(demo_project(tempfile()), tempfile(fileext = ".xlsx"))
  sheet <- openxlsx::read.xlsx(book, "variables", colNames = FALSE)
  sheet[1, which(sheet[1, ] == "label")] <- "lable"
  change <- openxlsx::loadWorkbook(book)
  openxlsx::writeData(change, "variables", sheet, colNames = FALSE)
  openxlsx::saveWorkbook(change, book, overwrite = TRUE)
  expect_match(message_of(read_codebook(book)), "^[^\n]*variables![A-Z]+1: the heading `lable` is not a key that can stand here; did you mean `label`\\?$")
})

test_that("an option that does not exist, lacks its value or occurs twice is told as that", {
  cases <- list(list(c("--bogus"), "`--bogus` is not an option of `mavik build`; `mavik build --help`"), list("--ou", "did you mean `--out`"), list("--out", "`--out` needs a value behind it (DIR)"), list(c("--out", "--json"), "`--out` needs a value"),
    list(c("--out", "a", "--out", "b"), "`--out` is given twice"), list(c("--where=years > 1", "--where", "x"), "`--where` is given twice"),
    list("--json=yes", "`--json` takes no value"), list(c("--out", "--huot"), "written `--out=--huot`"))
  for (case in cases) {
    expect_match(message_of(core$parse_arguments("build", core$commands()$build, c("p", case[[1]])), "mavik_usage_error"), case[[2]], fixed = TRUE)
  }
  given <- core$parse_arguments("why", core$commands()$why, c("--wave=a=b==", "R=", "-h", "--project", "ab="))
  expect_identical(given[c("wave", "project", "help", "json", "args")], list(wave = "a=b==", project = "ab=", help = TRUE, json = FALSE, args = "R="))
  expect_match(paste(command("--help")$out, collapse = " "), "Exit status: 0 done; 1 .*; 2 nothing was written")
})

# A terminal of its own, where `script` can make one.
on_terminal <- function(...) {
  line <- paste(command_words(...), collapse = " ")
  withr::with_envvar(c(R_LIBS = paste(.libPaths(), collapse = ":"), TERM = "xterm-256color"), suppressWarnings(system2("script", c("-qec", shQuote(line), "/dev/null"), stdout = TRUE, stderr = TRUE)))
}

test_that("what a file holds never steers the terminal or a page, with colours and without", {
  evil <- "id,no\u001b[31mred,\u202ex\n\u001b[32mk1,\u001b]0;title\u0007abc,\u009b31m\n2,q\u001b[2J,z\n3,\u001b[31mAgree,z\n"
  project <- project_with(c(head_lines, "  q: {column: \"no\\e[31mred\", label: \"Q \\e[31m\", level: nominal, codes: {1: Agree, 2: q}}"), list("a.csv" = evil))
  file <- file.path(project, "raw/a.csv")
  runs <- list(c("look", file), c("look", file, "--column", "id"), c("check", project), c("build", project), c("answers", "q", "--project", project), c("why", "q", "2", "--project", project), c("draft", file), c("look", file, "--json"), c("check", project, "--json"),
    c("look", "no/such\u001b[31m.csv"), c("why", "q", "\u001b[31mx", "--project", project))
  steers <- function(lines) any(grepl("[\u0001-\u0008\u000b-\u001f\u007f-\u009f\u202e]", lines, perl = TRUE))
  for (run in runs) {
    said <- command(run)
    expect_false(steers(c(said$out, said$err)), info = paste(run, collapse = " "))
  }
  expect_match(paste(command("look", file)$out, collapse = " "), "no\\u001b[31mred", fixed = TRUE)
  expect_equal(jsonlite::fromJSON(paste(command("look", file, "--json")$out, collapse = "\n"))$columns$name[2], "no\u001b[31mred")
  for (page in c("report.html", "codebook.html")) expect_false(steers(readLines(file.path(project, "out", page), encoding = "UTF-8")))
  skip_if_not(nzchar(Sys.which("script")), "no program `script` here")
  for (run in runs[c(1, 3, 4, 6, 10)]) {
    shown <- gsub("\r", "", on_terminal(run))
    expect_true(any(grepl("\033[1m", shown, fixed = TRUE)) || run[2] == "no/such\u001b[31m.csv")
    # Only our own bold and colours; progress moves the cursor and clears its line.
    expect_false(any(grepl("\033[2J", shown, fixed = TRUE) | grepl("\033]0;", shown, fixed = TRUE) | grepl("\u009b", shown, fixed = TRUE) | grepl("\033[32mk1", shown, fixed = TRUE) | grepl("\033[31mAgree", shown, fixed = TRUE)), info = paste(run, collapse = " "))
  }
})

test_that("every step that is signalled has its word", {
  code <- unlist(lapply(list.files(file.path(source_folder(), "R"), full.names = TRUE), readLines))
  steps <- regmatches(code, regexpr("(?<=signal_progress\\(\")[a-z]+", code, perl = TRUE))
  expect_setequal(c(steps, "decode"), names(core$progress_words))
})

test_that("the line of progress leaves no rest of a longer one", {
  skip_if_not(nzchar(Sys.which("script")), "no program `script` here")
  profile <- tempfile()
  writeLines("options(cli.progress_show_after = 0)", profile)
  shown <- withr::with_envvar(c(R_PROFILE_USER = profile), on_terminal("build", demo_project(tempfile())))
  lines <- cli::ansi_strip(unlist(strsplit(shown, "\r", fixed = TRUE)))
  lines <- grep("(Reading|Decoding|Making|Counting|Writing) ", lines, value = TRUE)
  expect_gt(length(lines), 3)
  expect_length(unique(nchar(sub("^[^A-Z]*", "", lines))), 1)
})

test_that("JSON has one shape whatever the counts", {
  shape <- function(lines) jsonlite::fromJSON(paste(lines, collapse = "\n"), simplifyVector = FALSE)
  project <- project_with(c(head_lines, "  q: {column: q, label: Q, level: nominal, codes: {1: Agree, 2: Not}}", "  z: {label: Z, recode: {of: q, to: {1: Agree, 2: Not}}, codes: {1: One, 2: Two}}"), list("a.csv" = "id,q\n1,Agree\n"))
  seen <- shape(command("look", file.path(project, "raw/a.csv"), "--json", "--html", tempfile(fileext = ".html"))$out)
  expect_equal(seen$form$heading, list("names"))
  expect_equal(seen$columns[[2]]$commonest, list(list(text = "Agree", count = 1L)))
  story <- shape(command("why", "z", "1", "--project", project, "--json")$out)
  expect_equal(names(story$stories[[1]]$inputs), "q")
  expect_equal(story$stories[[1]]$inputs$q$raw, list("Agree"))
  expect_equal(shape(command("why", "z", "--project", project, "--json")$out)$uses, list("q"))
  table <- shape(command("answers", "q", "--by", "z", "--project", project, "--json")$out)$tables[[1]]
  expect_equal(table$groups$group, list("One", "Total"))
  expect_equal(lengths(table$groups$percent), c(2L, 2L))
  built <- shape(command("build", project, "--json")$out)
  expect_equal(names(built$interventions), character())
  expect_equal(length(built$inputs), 1)
  old <- file.path(project, "before")
  file.rename(file.path(project, "out"), old)
  command("build", project)
  compared <- shape(command("compare", old, file.path(project, "out"), "--json")$out)
  expect_equal(compared$variables, list(came = list(), gone = list()))
  expect_equal(compared$respondents$came, list())
  checked <- shape(command("check", project, "--json")$out)
  expect_equal(lapply(checked[c("groups", "proposals", "aside")], is.list), list(groups = TRUE, proposals = TRUE, aside = TRUE))
})

test_that("a workbook of the codebook that was edited since is told, with the line that brings it back", {
  project <- project_with(c(head_lines, "  q: {column: q, label: Q, level: nominal, codes: {1: Agree, 2: Disagree}}"), list("a.csv" = "id,q\n1,Agree\n2,Disagree\n"))
  book <- file.path(project, "study.xlsx")
  command("convert", project, book)
  expect_equal(command("build", project)$err, character())
  change <- openxlsx::loadWorkbook(book)
  openxlsx::writeData(change, "study", "Another title", startCol = 1, startRow = 2)
  openxlsx::saveWorkbook(change, book, overwrite = TRUE)
  Sys.setFileTime(book, Sys.time() + 5)
  for (run in list(c("build", project), c("answers", "q", "--project", project), c("check", project))) {
    said <- command(run)$err
    expect_match(said, "study.yml is built; study.xlsx beside it is newer", fixed = TRUE)
    expect_match(said, paste0("mavik convert ", book, " ", file.path(project, "study.yml")), fixed = TRUE)
  }
  expect_equal(command("convert", book, file.path(project, "study.yml"))$status, 0)
  expect_equal(command("build", project)$err, character())
})
