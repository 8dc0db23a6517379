# Every breach of the rooms in a folder of sources, in words.
breaches <- function(folder) {
  files <- source_files(folder)
  code <- read_code(files)
  speaking <- unlist(lapply(which(!room_of(files) %in% interface), function(i) {
    calls <- used_in(code[[i]])$calls
    wrong <- c(intersect(calls, doors), grep("^(cli|htmltools|ggplot2|optparse)::", calls, value = TRUE))
    paste(basename(files[i]), "calls", wrong, recycle0 = TRUE)
  }))
  arrows <- room_arrows(folder)
  c(speaking, arrows_upward(folder, arrows), paste(rooms_in_circle(arrows), "goes in a circle", recycle0 = TRUE))
}

test_that("no name is defined twice", {
  names <- unlist(lapply(read_code(source_files(source_folder())), defined_in))
  expect_gt(length(names), 1000)
  expect_equal(names[duplicated(names)], character())
})

test_that("rooms call only those before them, the core speaks to nobody, and the test sees it when they do", {
  folder <- source_folder()
  expect_equal(breaches(folder), character())
  copy <- tempfile()
  dir.create(copy)
  file.copy(file.path(folder, "R"), copy, recursive = TRUE)
  spoil <- function(file, line) {
    path <- file.path(copy, "R", file)
    old <- readLines(path, encoding = "UTF-8")
    writeLines(c(old, line), path, useBytes = TRUE)
    on.exit(writeLines(old, path, useBytes = TRUE))
    breaches(copy)
  }
  expect_equal(spoil("study-build.R", "shout <- function(x) print(x)"), "study-build.R calls print")
  expect_equal(spoil("way-score.R", "shout <- function(x) cli::cli_text(x)"), "way-score.R calls cli::cli_text")
  expect_equal(spoil("part-lists.R", "shout <- function(x) lapply(x, say_error)")[1], "part-lists.R -> cli-messages.R: say_error")
  round <- spoil("table-counts.R", "shout <- function(x) examine_scales(x)")
  expect_true("table-counts.R -> scale-examine.R: examine_scales" %in% round)
  expect_true(all(c("table goes in a circle", "scale goes in a circle") %in% round))
  writeLines("x <- 1", file.path(copy, "R", "misc.R"))
  expect_equal(breaches(copy), "misc.R stands in no room")
})

test_that("the core builds and writes a study on its own, without a word", {
  folder <- source_folder()
  alone <- new.env(parent = parent.env(core))
  for (name in grep("^_mavik", names(core), value = TRUE)) assign(name, core[[name]], alone)
  files <- source_files(folder)
  for (file in c(files[!room_of(files) %in% interface], file.path(folder, "R/RcppExports.R"))) sys.source(file, alone)
  assign("topenv", function(...) alone, alone)
  project <- demo_project(tempfile())
  said <- utils::capture.output(type = "message", shown <- utils::capture.output(out <- alone$write_study(alone$build_study(project), tempfile())))
  expect_equal(c(said, shown), character())
  full <- write_study(build_study(project), tempfile())
  expect_setequal(list.files(out), setdiff(list.files(full), c("codebook.html", "report.html")))
  for (name in setdiff(list.files(out), "provenance.json")) expect_equal(bytes_of(file.path(out, name)), bytes_of(file.path(full, name)), info = name)
})
