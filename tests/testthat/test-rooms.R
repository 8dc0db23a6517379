rooms <- c("signal", "file", "value", "read", "text", "draft", "codebook", "expr", "way", "rule", "screen", "study", "scale", "wave", "trace", "table", "write",
  "figure", "report", "cli")
interface <- c("figure", "report", "cli")
# What speaks, asks, draws or ends: nothing for the core.
doors <- c("print", "cat", "message", "warning", "writeLines", "readline", "invokeRestart", "quit", "q", "plot", "format_error", "packageStartupMessage")

room_of <- function(file) sub("-.*", "", basename(file))
source_files <- function(folder) setdiff(list.files(file.path(folder, "R"), "\\.R$", full.names = TRUE), file.path(folder, "R", c("RcppExports.R", "mavik-package.R")))

# The names that a file defines at its top, and all that its code calls or mentions.
defined_in <- function(code) unlist(lapply(code, function(one) if (is.call(one) && identical(one[[1]], as.name("<-")) && is.name(one[[2]])) as.character(one[[2]])))
mentioned_in <- function(code) unique(all.names(as.call(c(as.name("{"), as.list(code))), unique = TRUE))
called_in <- function(code) {
  calls <- character()
  walk <- function(one) {
    if (is.call(one)) {
      head <- one[[1]]
      if (is.name(head)) calls <<- c(calls, as.character(head))
      if (is.call(head) && as.character(head[[1]]) %in% c("::", ":::")) calls <<- c(calls, paste0(head[[2]], "::", head[[3]]))
    }
    if (is.call(one) || is.pairlist(one) || is.expression(one)) for (part in as.list(one)) if (!missing(part)) walk(part)
  }
  walk(as.expression(code))
  unique(calls)
}

# Every breach of the rooms in a folder of sources, in words.
breaches <- function(folder) {
  files <- source_files(folder)
  code <- lapply(files, parse, keep.source = FALSE, encoding = "UTF-8")
  room <- room_of(files)
  owner <- unlist(Map(function(code, room) { names <- defined_in(code); stats::setNames(rep(room, length(names)), names) }, code, room))
  found <- paste(basename(files)[!room %in% rooms], "stands in no room")[any(!room %in% rooms)]
  for (i in which(!room %in% interface)) {
    called <- called_in(code[[i]])
    speaks <- intersect(called, doors)
    outside <- grep("^(cli|htmltools|ggplot2|optparse)::", called, value = TRUE)
    across <- intersect(mentioned_in(code[[i]]), names(owner)[owner %in% interface])
    if (length(c(speaks, outside, across)) > 0) found <- c(found, paste(basename(files[i]), "calls", c(speaks, outside, across)))
  }
  found
}

test_that("no name is defined twice", {
  names <- unlist(lapply(source_files(source_folder()), function(file) defined_in(parse(file, keep.source = FALSE, encoding = "UTF-8"))))
  expect_gt(length(names), 1000)
  expect_equal(names[duplicated(names)], character())
})

test_that("the core calls no interface, and the test sees it when it does", {
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
  expect_equal(spoil("text-fold.R", "shout <- function(x) lapply(x, say_error)"), "text-fold.R calls say_error")
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
