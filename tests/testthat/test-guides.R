test_that("every guide runs on the demo, shows something, and is among the rendered ones", {
  skip_if_not_installed("knitr")
  guides <- list.files(file.path(source_folder(), "vignettes"), "[.]Rmd$", full.names = TRUE)
  expect_length(guides, 6)
  withr::local_dir(withr::local_tempdir())
  withr::local_options(cli.num_colors = 1L)
  index <- paste(readLines(file.path(source_folder(), "docs/index.html"), encoding = "UTF-8"), collapse = "\n")
  # An error in a guide stops, and is not shown in it.
  old <- knitr::opts_chunk$get("error")
  withr::defer(knitr::opts_chunk$set(error = old))
  knitr::opts_chunk$set(error = FALSE)
  expect_error(knitr::knit(text = "```{r}\nstop('seen')\n```", quiet = TRUE, envir = new.env()), "seen")
  for (guide in guides) {
    lines <- readLines(guide, encoding = "UTF-8")
    text <- knitr::knit(text = paste(lines[-seq_len(which(lines == "---")[2])], collapse = "\n"), quiet = TRUE, envir = new.env())
    expect_gt(lengths(regmatches(text, gregexpr("\n```\n", text))), 5)
    expect_match(index, sub("Rmd$", "html", basename(guide)), fixed = TRUE)
  }
})

test_that("the README's way from a raw export to a table runs as it is written", {
  lines <- readLines(file.path(source_folder(), "README.md"), encoding = "UTF-8")
  walk <- lines[seq(which(lines == "## From a raw export to a table"), which(lines == "## What a build leaves"))]
  code <- sub("^    ", "", walk[grepl("^    ", walk)])
  folder <- withr::local_tempdir()
  demo_project(file.path(folder, "choirs"))
  withr::local_dir(folder)
  copy <- regmatches(walk, regexec("^    mkdir -p (\\S+) && cp (\\S+) (\\S+)$", walk))
  copy <- copy[lengths(copy) == 4][[1]]
  dir.create(copy[2], recursive = TRUE)
  expect_true(file.copy(copy[3], copy[4]))
  commands <- sub("\\s+#.*$", "", sub("^\\./mavik ", "", code[startsWith(code, "./mavik ")]))
  expect_gt(length(commands), 6)
  for (line in commands) {
    run <- do.call(command, as.list(strsplit(line, " +")[[1]]))
    # A check that finds something to look at ends with 1.
    expect_equal(run$status, if (startsWith(line, "check")) 1 else 0, info = paste(c(line, run$err), collapse = "\n"))
  }
  script <- code[seq(which(startsWith(code, "library(mavik)")), length(code))]
  env <- new.env()
  withr::local_pdf(NULL)
  shown <- capture.output(for (line in parse(text = script)) print(eval(line, env)))
  expect_equal(nrow(env$table), 240)
  expect_gt(length(shown), 50)
})
