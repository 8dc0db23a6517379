test_that("the demo is laid out and built by the installed command", {
  folder <- tempfile("choirs")
  laid <- installed("demo", folder)
  expect_equal(laid$status, 0)
  expect_match(paste(laid$out, collapse = "\n"), "choirs.yml")
  built <- installed("build", folder)
  expect_equal(built$status, 0)
  expect_equal(built$err, character())
  shown <- paste(built$out, collapse = "\n")
  for (part in c("246 records by 48 columns", "variant", "set aside", "Counter-tenor", "analysis.csv", "62 variables", "-4  no_consent", "221  retained", file.path(folder, "out"))) expect_match(shown, part, fixed = TRUE)
  expect_false(any(grepl("\033", built$out, fixed = TRUE)))
  again <- command("build", wd = folder)
  expect_equal(again$status, 0)
  json <- command("build", folder, "--json", "--out", tempfile())
  facts <- jsonlite::fromJSON(paste(json$out, collapse = "\n"))
  expect_equal(facts$respondents, 221)
  expect_equal(facts$interventions, list(variant = 14L, write_in = 16L, unlisted = 9L, corrected = 3L, range = 3L, universe = 9L, rule = 37L, exclusive = 1L, imputed = 16L, dropped = 21L))
  expect_equal(command("demo", folder)$status, 0)
  cat("# mine\n", file = file.path(folder, "choirs.yml"), append = TRUE)
  expect_match(command("demo", folder)$err, "`choirs.yml` was changed and is kept")
})

test_that("whatever goes wrong is said on standard error, with status 2 and nothing written", {
  project <- project_with("mavik: 1\nstudy: {title: X}\nwaves: {one: {label: One}}\nexports: {a: {file: raw/a.csv, key: id}}\nvariables: {id: {is: key, label: Id}}", list("a.csv" = "id,x\n1\n"))
  cases <- list(
    list(c("build", project), "raw/a.csv:2: this record has 1 cell"), list(c("build", file.path(project, "nowhere")), "no such file"),
    list(c("build", tempdir(), "--out"), "--help"), list(c("biuld"), "did you mean `build`"), list(c("build", "--ouT", "x"), "did you mean `--out`"),
    list(c("build", "a", "b"), "1 argument at most"), list(c("build", project, "--out", file.path(project, "raw")), "never written to"),
    list(c("demo", project), "holds")
  )
  for (case in cases) {
    run <- (if (identical(case, cases[[1]])) installed else command)(case[[1]])
    expect_equal(run$status, 2, info = paste(case[[1]], collapse = " "))
    expect_match(paste(run$err, collapse = "\n"), case[[2]], info = paste(case[[1]], collapse = " "))
    expect_equal(run$out, character())
  }
  expect_equal(list.files(project), c("raw", "study.yml"))
  expect_equal(list.files(file.path(project, "raw")), "a.csv")
})

test_that("help has an example for every command", {
  overview <- installed()
  expect_equal(overview$status, 0)
  for (name in names(core$commands())) {
    expect_match(paste(overview$out, collapse = "\n"), paste0("  ", name, " "))
    help <- command(name, "--help")
    expect_equal(help$status, 0)
    expect_match(paste(help$out, collapse = "\n"), paste0("Example:\n  mavik ", name))
    expect_equal(command("help", name)$out, help$out)
  }
  expect_equal(installed("--version")$out, paste("mavik", utils::packageVersion("mavik")))
})

test_that("the command stands on the PATH once it is put there", {
  skip_on_os("windows")
  folder <- tempfile()
  dir.create(folder)
  suppressMessages(install_command(folder))
  out <- system2("mavik", "--version", stdout = TRUE, env = c(paste0("PATH=", folder, ":", Sys.getenv("PATH")), "R_LIBS="))
  expect_equal(out, paste("mavik", utils::packageVersion("mavik")))
  suppressMessages(install_command(folder))
  writeLines("other", file.path(folder, "mavik"))
  expect_match(message_of(install_command(folder)), "another file")
  checkout <- file.path(source_folder(), "mavik")
  skip_if_not(file.exists(checkout))
  expect_equal(system2(checkout, "--version", stdout = TRUE, env = paste0("R_LIBS=", paste(.libPaths(), collapse = ":"))), out)
})

test_that("the shell completes commands and options, the manual is one, and switches go with every command", {
  bash <- tempfile(fileext = ".sh")
  writeLines(installed("completions", "bash")$out, bash)
  completed <- function(...) {
    words <- c("mavik", ...)
    script <- c(paste("source", shQuote(bash)), paste0("COMP_WORDS=(", paste(shQuote(words), collapse = " "), ")"), paste0("COMP_CWORD=", length(words) - 1), "_mavik", "printf '%s\\n' \"${COMPREPLY[@]}\"")
    file <- tempfile(fileext = ".sh")
    writeLines(script, file)
    withr::with_dir(demo, system2("bash", file, stdout = TRUE))
  }
  demo <- demo_project(tempfile())
  expect_setequal(completed(""), c(names(core$commands()), "--help", "--version"))
  expect_equal(completed("sca"), "scales")
  for (name in names(core$commands())) {
    flags <- vapply(c(core$commands()[[name]]$options(), core$help_option()), `[[`, "", "flag")
    expect_setequal(completed(name, "--"), flags)
  }
  expect_equal(completed("build", "--out", "ra"), "raw")
  expect_equal(completed("why", "--wave", ""), "")
  zsh <- command("completions", "zsh")
  expect_equal(zsh$status, 0)
  expect_true(all(paste0("    ", names(core$commands()), ") _arguments \\") %in% zsh$out))
  manual <- command("completions", "man")$out
  for (name in names(core$commands())) expect_true(any(startsWith(gsub("\\\\-", "-", manual), paste0(".SS mavik ", name))), info = name)
  expect_equal(command("completions", "fish")$status, 2)
  # Quiet: the work is done, and nothing but errors is said.
  quiet <- installed("build", demo, "--quiet")
  expect_equal(quiet[c("status", "out", "err")], list(status = 0L, out = character(), err = character()))
  expect_true(file.exists(file.path(demo, "out/analysis.csv")))
  expect_match(command("--quiet", "why", "yeers", "--project", demo)$err, "did you mean `years`", all = FALSE)
  old <- options(cli.num_colors = 256L)
  on.exit(options(old))
  escapes <- function(...) any(grepl("\033[", utils::capture.output(run_command(c("why", "years", "--project", demo, ...))), fixed = TRUE))
  expect_true(escapes())
  expect_false(escapes("--no-color"))
  withr::with_envvar(c(NO_COLOR = "1"), expect_false(escapes()))
  expect_equal(getOption("cli.num_colors"), 256L)
  expect_null(getOption("mavik.quiet"))
})

test_that("a command loads what it needs: of Rcpp nothing, until a kernel fails", {
  demo <- demo_project(tempfile())
  script <- tempfile(fileext = ".R")
  writeLines(c(
    "core <- loadNamespace('mavik')",
    "for (call in list(c('look', 'raw/spring.csv'), c('answers', 'voice'), c('why', 'years', '0188'))) if (core$run_command(call) != 0) stop(call[1])",
    "before <- isNamespaceLoaded('Rcpp')",
    # A kernel is handed a vector of the wrong kind.
    "failed <- tryCatch({ core$pair_counts('x', new.env(), 1L, 1L); FALSE }, error = function(e) TRUE)",
    "counts <- core$pair_counts(c(1L, 2L, 2L), c(1L, 1L, 1L), 2L, 1L)",
    "cat('told', before, failed, isNamespaceLoaded('Rcpp'), counts)"
  ), script)
  told <- withr::with_dir(demo, system2(file.path(R.home("bin"), "Rscript"), c("--default-packages=NULL", shQuote(script)),
    stdout = TRUE, stderr = FALSE, env = paste0("R_LIBS=", paste(.libPaths(), collapse = ":"))))
  expect_equal(utils::tail(told, 1), "told FALSE TRUE TRUE 1 2")
})

test_that("a project is found from its folders, and a folder without a codebook says what comes next", {
  demo <- demo_project(tempfile())
  inside <- file.path(demo, "raw")
  expect_match(installed("why", "years", "0188", wd = inside)$out[1], "respondent 0188", fixed = TRUE)
  expect_equal(command("build", wd = inside)$status, 0)
  expect_true(file.exists(file.path(demo, "out/analysis.csv")))
  expect_false(dir.exists(file.path(inside, "out")))
  expect_false(any(grepl("no codebook here", command(wd = inside)$out)))
  fresh <- tempfile("fresh")
  dir.create(fresh)
  expect_match(command(wd = fresh)$out[1], "Mavik turns raw")
  file.copy(file.path(inside, "spring.csv"), file.path(fresh, "my answers.csv"))
  told <- command(wd = fresh)
  expect_equal(told$status, 0)
  expect_match(told$out, "mavik draft 'my answers.csv'", fixed = TRUE, all = FALSE)
})
