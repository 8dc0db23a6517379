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
