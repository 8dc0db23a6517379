# Builds in parts say what builds in one piece say, to the byte, whoever does the work.

withr::local_options(mavik.least_held = 1L, .local_envir = testthat::teardown_env())

outputs_of <- function(study) digests_in(write_study(study, tempfile("out")))

# A build with files cut at any shares of their bytes, or read at once with what is decoded in files.
built_cut <- function(project, shares, exports = list()) core$build_book(
  core$compile_codebook(core$as_codebook(project)), exports, digests = TRUE,
  asked = if (is.null(shares)) list(at_once = TRUE) else list(count = length(shares) + 1L, shares = shares)
)

# All that a build in one piece tells, told by builds in parts.
expect_same_in_parts <- function(project, cuts = list(stats::runif(1), stats::runif(4), (1:6) / 7, NULL)) {
  # Where columns are plain vectors throughout.
  whole <- withr::with_options(list(mavik.least_held = NULL), tryCatch(outputs_of(build_study(project)), mavik_error = conditionMessage))
  for (shares in cuts) {
    parts <- tryCatch(outputs_of(built_cut(project, shares)), mavik_error = conditionMessage)
    expect_identical(parts, whole, info = paste("cut at", paste(shares, collapse = " ")))
  }
  whole
}

test_that("the demo is the same in any number of parts and with workers, and no private answer stays", {
  project <- demo_project(tempfile())
  whole <- outputs_of(build_study(project))
  for (parts in c(1, 7)) expect_identical(outputs_of(build_study(project, parts = parts)), whole)
  expect_identical(outputs_of(build_study(project, part_size = "20 KB")), whole)
  expect_false(dir.exists(file.path(project, ".mavik", "parts")))
  old <- future::plan(future::multisession, workers = 2)
  on.exit(future::plan(old))
  expect_identical(outputs_of(build_study(project, parts = 3)), whole)
})

test_that("projects made at random are the same in parts", {
  set.seed(5)
  done <- 0
  for (seed in sample(1e6, cases(25))) {
    p <- judged_project(seed)
    book <- judged_codebook(p)
    file <- tempfile("raw")
    dir.create(file)
    file <- file.path(file, "main.csv")
    core$write_csv(p$frame, file)
    book$exports$main$file <- file
    whole <- expect_same_in_parts(book, list(stats::runif(3), NULL))
    done <- done + (length(whole) > 1)
  }
  expect_gt(done, 0.6 * cases(25))
})

# Waves in one file or several, further exports, repeats, people who are purged.
awkward <- function(more, files, waves = "{one: {label: One}, two: {label: Two}}", design = "panel") project_with(c(
  "mavik: 1", paste0("study: {title: T, design: ", design, "}"), paste("waves:", waves), more, "variables:",
  "  id: {is: key, label: Id}", "  wave: {is: wave, label: Wave}",
  "  part: {column: part, label: Part, level: nominal, codes: {1: High, 2: Low}, other: {code: 8, label: Other, text: part_other}}",
  "  years: {column: years, label: Years, level: ratio, range: [0, 50]}",
  "  said: {column: said, label: Said, level: text}",
  "  months: {formula: 'years * 12', label: Months, level: ratio}"
), files)

made_rows <- function(n, ids, extra = NULL) {
  text <- c("High", "Low", "\"so, so\"", "\"two\nlines of \"\"it\"\"\"", "", "\u00e4lter")
  paste0(ids, ",", sample(text, n, TRUE), ",", sample(c(0:60, "", "x"), n, TRUE), ",", sample(text, n, TRUE), extra, collapse = "\n")
}

test_that("repeats across parts, waves in one file, parallels, purges and other layouts are the same in parts", {
  set.seed(8)
  head <- "id,part,years,said"
  rows <- function(n, ...) made_rows(n, ...)
  ids <- sprintf("k%03d", sample(80))
  two <- "exports: {one: {wave: one, file: raw/one.csv, key: id, cells: labels}, two: {wave: two, file: raw/two.csv, key: id, cells: labels}}"
  files <- list(one.csv = paste0(head, "\n", rows(100, c(ids, ids[1:20])), "\n"), two.csv = paste0("\ufeff", head, "\r\n", gsub("\n", "\r\n", rows(70, sample(ids, 70))), "\r\n"))
  for (keep in c("{keep: last, by: years}", "{keep: fullest}", "{keep: none}")) expect_gt(length(expect_same_in_parts(awkward(c(two, paste("duplicates:", keep)), files))), 1)
  # A repeat that nothing decides is an error, in the same words.
  expect_match(expect_same_in_parts(awkward(two, files)), "stand more than once")
  screens <- "screens: {gone: {if: 'years > 45', erase: yes}, short: {answered_less_than: 0.5, of: [part, years]}}"
  expect_gt(length(expect_same_in_parts(awkward(c(two, "duplicates: {keep: fullest}", screens), files))), 1)
  # A sheet of corrections for people in any part; the cells are known here.
  known <- "id,part,years,said\n"
  plain <- list(one.csv = paste0(known, paste0("p", 1:40, ",High,", 1:40, ",x", collapse = "\n"), "\n"),
    fix.csv = "respondent,variable,was,now\np3,part,High,Low\np38,years,38,39\n")
  fixed <- awkward(c("exports: {one: {wave: one, file: raw/one.csv, key: id, cells: labels}}", "corrections: raw/fix.csv"), plain, "{one: {label: One}}", "single")
  expect_gt(length(expect_same_in_parts(fixed)), 1)
  expect_equal(sum(ledger(built_cut(fixed, 0.5))$kind == "corrected"), 2)
  apart <- "exports: {all: {wave: {column: w}, file: raw/all.csv, key: id, cells: labels}}"
  expect_gt(length(expect_same_in_parts(awkward(apart, list(all.csv = paste0(head, ",w\n", rows(120, c(ids, ids[1:40]), c(rep(",One", 80), rep(",Two", 40))), "\n"))))), 1)
  parallel <- "exports: {one: {wave: one, file: raw/one.csv, key: id, cells: labels}, more: {adds_to: one, file: raw/more.csv, key: id, cells: labels}}"
  expect_gt(length(expect_same_in_parts(awkward(parallel, list(one.csv = paste0(head, "\n", rows(80, ids)), more.csv = paste0(head, "\n", rows(60, sample(ids, 60)))), "{one: {label: One}}"))), 1)
  layout <- "exports: {one: {wave: one, file: raw/one.csv, key: id, cells: labels, encoding: windows-1252, delimiter: semicolon, skip: 2, heading: [questions, names]}}"
  text <- paste0("Export\nof \"today\"\nWho;Part;Years;Said\nid;part;years;said\n", gsub(",", ";", rows(80, ids)))
  expect_gt(length(expect_same_in_parts(awkward(layout, list(one.csv = stringi::stri_encode(text, "UTF-8", "windows-1252", to_raw = TRUE)[[1]]), "{one: {label: One}}"))), 1)
  key <- "exports: {one: {wave: one, file: raw/one.csv, key: numbered, cells: labels}}"
  expect_gt(length(expect_same_in_parts(awkward(key, list(one.csv = paste0(head, "\n", rows(100, "x"))), "{one: {label: One}}", "single"))), 1)
})

test_that("a file with slips reads the same in parts, or is refused in the same words", {
  set.seed(3)
  bits <- c("a", ",", "\n", "\"", "b", "\r\n", "\r", "\u00e9", "\"\"", "\"x\ny\"")
  seen <- vapply(seq_len(cases(300)), function(i) {
    sound <- paste0(replicate(12, paste(sample(c("a", "\"b,\n\"", "\u00e9\u00e9", ""), 3, TRUE), collapse = ",")), collapse = "\n")
    cut <- sample(nchar(sound), 1)
    text <- if (i %% 3 == 0) paste0(substring(sound, 1, cut), sample(bits, 1), substring(sound, cut + 1)) else if (i %% 3 == 1) sound else
      paste(sample(bits, 40, TRUE), collapse = "")
    file <- tempfile()
    folder <- tempfile()
    dir.create(folder)
    on.exit(unlink(c(file, folder), recursive = TRUE))
    writeBin(charToRaw(enc2utf8(paste0("h1,h2,h3\n", text))), file)
    options <- list(heading = "names", skip = 0, delimiter = "comma", encoding = "UTF-8")
    table <- function(raw) list(lapply(core$with_names(raw$names, raw$names), function(name) raw$columns[[name]]), raw$lines, raw$records)
    whole <- tryCatch(table(core$read_raw(file, options, "f.csv")), mavik_error = conditionMessage)
    parts <- tryCatch({
      job <- core$parts_to_read(file, options, "f.csv", c("h1", "h2", "h3"), stats::runif(sample(5, 1)), folder)
      # Some as large parts are read: by processes of their own.
      apart <- list(mavik.least_apart = if (i %% 4 == 0) 1)
      if (is.null(job)) whole else table(core$join_parts(job, withr::with_options(apart, lapply(job$tasks, core$read_part_apart))))
    }, mavik_error = conditionMessage)
    expect_identical(parts, whole, info = text)
    if (is.list(whole)) "read" else sub(".*: ", "", whole)
  }, "")
  expect_gt(mean(seen == "read"), 1 / 3)
  expect_gt(length(unique(seen)), 4)
})

test_that("what is held in files is the vector it was, and a change of a copy changes nothing else", {
  folder <- tempfile()
  dir.create(folder)
  set.seed(4)
  for (x in list(sample(c(NA, -3:9), 500, TRUE), stats::rnorm(500), c(NA, Inf, -Inf, NaN, 0.1), factor(sample(c("a", "b", NA), 99, TRUE)), as.Date("2026-03-01") + 0:40,
    sample(c("one", "two", NA, "\u00e9"), 300, TRUE), as.character(1:50), logical(3), integer(), .POSIXct(c(1, NA, 1e9), "UTF-8"))) {
    held <- core$held_vector(x, folder)
    at <- list(sample(c(seq_along(x), NA, length(x) + 1L), 60, TRUE), -1L, x == x[1], numeric(), length(x) + 0.5)
    for (i in at) expect_identical(held[i], x[i])
    changed <- held
    changed[2] <- x[1]
    mine <- x
    mine[2] <- x[1]
    expect_identical(changed, mine)
    expect_identical(held, x)
    core$rest_mapped()
    expect_identical(rev(held), rev(x))
    expect_identical(unserialize(serialize(held, NULL)), x)
    expect_identical(match(x[1:3], held), match(x[1:3], x))
    names(changed) <- NULL
    attr(changed, "note") <- "mine"
    expect_null(attr(held, "note"))
  }
  expect_equal(list.files(folder), character())
  expect_identical(core$seen_as(core$held_vector(1:3, folder), list(levels = letters[1:3], class = "factor")), factor(letters[1:3]))
})

plain_project <- function(n = 60, files = c("one", "two")) {
  exports <- paste0(files, ": {wave: ", files, ", file: raw/", files, ".csv, key: id, cells: codes}", collapse = ", ")
  rows <- lapply(core$with_names(files, paste0(files, ".csv")), function(file) paste0("id,x\n", paste0("k", seq_len(n), ",", seq_len(n) %% 7, collapse = "\n"), "\n"))
  project_with(c("mavik: 1", "study: {title: T, design: panel}", paste0("waves: {", paste0(files, ": {label: ", files, "}", collapse = ", "), "}"), paste0("exports: {", exports, "}"),
    "variables: {id: {is: key, label: Id}, x: {column: x, label: X, level: ratio}}"), rows)
}

test_that("parts are kept: only what is new is read again, and an altered part is refused once", {
  project <- plain_project()
  told <- function(...) command("build", project, "--parts", "3", ...)
  expect_equal(told()$status, 0)
  before <- digests_in(file.path(project, "out"))
  expect_match(told()$err, "6 parts of 6 kept by an earlier build", all = FALSE)
  expect_identical(digests_in(file.path(project, "out")), before)
  kept <- list.files(file.path(project, ".mavik", "parts", "read"), "[.]cells$", recursive = TRUE, full.names = TRUE)
  bytes <- bytes_of(kept[2])
  bytes[20] <- xor(bytes[20], as.raw(1))
  writeBin(bytes, kept[2])
  refused <- told()
  expect_equal(refused$status, 2)
  expect_match(refused$err, "part [1-3] of raw/(one|two).csv, kept by an earlier build, was altered since; it is removed now", all = FALSE)
  expect_identical(digests_in(file.path(project, "out")), before)
  expect_match(told()$err, "5 parts of 6 kept", all = FALSE)
  # A further wave: its parts alone are read.
  wide <- plain_project(files = c("one", "two", "three"))
  file.copy(file.path(wide, "study.yml"), project, overwrite = TRUE)
  file.copy(file.path(wide, "raw", "three.csv"), file.path(project, "raw"))
  expect_match(told()$err, "6 parts of 9 kept", all = FALSE)
  # A raw file that changed is read anew, and what nobody needs any more goes.
  cat("k99,3\n", file = file.path(project, "raw", "one.csv"), append = TRUE)
  expect_match(told()$err, "6 parts of 9 kept", all = FALSE)
  expect_length(list.files(file.path(project, ".mavik", "parts", "read")), 3)
})

test_that("a part that had to be read from another place is kept as such, and a stop within it does no harm", {
  folder <- tempfile()
  dir.create(folder)
  file <- tempfile()
  cat("id,said\n", paste0("k", 1:40, ",\"one\ntwo, ", 1:40, "\"\n"), file = file, sep = "")
  options <- list(heading = "names", skip = 0, delimiter = "comma", encoding = "UTF-8")
  job <- core$parts_to_read(file, options, "f.csv", c("id", "said"), c(0.21, 0.5, 0.83), folder)
  first <- core$join_parts(job, lapply(job$tasks, core$read_part))
  kept <- lapply(job$tasks, core$read_before)
  moved <- vapply(kept, `[[`, 0, "from") != vapply(job$tasks, `[[`, 0, "from")
  expect_true(any(moved))
  times <- file.mtime(list.files(folder, full.names = TRUE))
  again <- core$join_parts(job, kept)
  expect_identical(again$columns[["said"]], first$columns[["said"]])
  expect_identical(file.mtime(list.files(folder, full.names = TRUE)), times)
  # Stopped between the cells and what is known of them: the part is read anew.
  unlink(core$facts_beside(job$tasks[[2]]$file))
  expect_null(core$read_before(job$tasks[[2]]))
})

test_that("large raw files are read by all cores, small ones by as many threads as before", {
  expect_equal(core$threads_of_size(c(1e6, 2e8)), 1L)
  expect_null(core$asked_by_size(c(1e6, 2e8)))
  expect_true(isTRUE(core$asked_by_size(c(1e8, 2e8))$at_once) || core$free_memory() < 7e8)
  bytes <- core$asked_by_size(c(1e12, 2e8))$bytes
  expect_true(bytes > 0 && bytes <= 5e8)
  expect_equal(core$threads_of_size(c(1e8, 2e8)), min(8L, as.integer(future::availableCores())))
  before <- data.table::getDTthreads()
  expect_gte(core$with_threads(2L, data.table::getDTthreads()), min(2L, as.integer(future::availableCores())))
  expect_equal(data.table::getDTthreads(), before)
})

test_that("a kept study is opened out of its files, also where some variables are private", {
  project <- demo_project(tempfile())
  built <- core$study_with(project, NULL)
  kept <- core$study_with(project, NULL)
  expect_identical(kept$data, built$data)
  expect_identical(kept$reasons[names(built$reasons)], built$reasons)
  repeated <- vapply(built$data, function(x) !is.character(x), TRUE)
  expect_true(all(vapply(kept$data[repeated], core$is_mapped, TRUE)))
  expect_false(any(vapply(built$data, core$is_mapped, TRUE)))
  # Where a file of it is gone it is built again.
  folder <- core$study_folder(kept$book)
  unlink(list.files(folder, "^column-", full.names = TRUE)[1:3])
  expect_identical(core$study_with(project, NULL)$data, built$data)
})

test_that("a worker that dies is made up for once, then the part is named and nothing is written", {
  skip_on_os("windows")
  old <- future::plan(future::multisession, workers = 2)
  on.exit(future::plan(old))
  folder <- tempfile()
  dir.create(folder)
  dies <- function(times) function(task) {
    mark <- file.path(task$folder, paste0("tried-", task$at, "-", length(list.files(task$folder, paste0("tried-", task$at, "-")))))
    file.create(mark)
    tried <- length(list.files(task$folder, paste0("tried-", task$at, "-")))
    if (task$at == 2 && tried <= times) tools::pskill(Sys.getpid(), 9L)
    task$at * 10
  }
  environment(dies) <- baseenv()
  tasks <- lapply(1:4, function(at) list(at = at, folder = folder))
  expect_equal(unlist(core$at_work(tasks, dies(1), function(task) paste("part", task$at))), c(10, 20, 30, 40))
  unlink(list.files(folder, full.names = TRUE))
  expect_match(message_of(core$at_work(tasks, dies(2), function(task) paste("part", task$at))), "^part 2 failed twice \\(the worker is gone:.*nothing was written")
  file <- tempfile()
  cat("h\n", strrep("1\n", 50), file = file, sep = "")
  expect_equal(core$part_named(list(at = 2, of = 3, path = file, shown = "f.csv", from = 22, to = 42)), "part 2 of 3 of f.csv (lines 12 to 21)")
  # An error of the task, and one of ours, which is not tried again.
  fails <- function(task) if (task$at == 3) stop("no luck") else task$at
  expect_match(message_of(core$at_work(tasks, fails, function(task) paste("part", task$at))), "^part 3 failed twice \\(no luck\\)")
  expect_match(message_of(core$at_work(tasks, function(task) mavik:::stop_mavik("write_error", "full"), identity)), "^full$")
})

test_that("what splits off is waited for, done here where it does not end, and told where it fails", {
  skip_on_os("windows")
  old <- future::plan(future::multisession, workers = 2)
  on.exit(future::plan(old))
  skip_if_not(future::supportsMulticore(), "no process can split off here")
  file <- tempfile()
  mine <- Sys.getpid()
  by <- function(work) {
    split <- core$split_off(work)
    split$wait()
    if (file.exists(file)) as.integer(readLines(file))
  }
  expect_false(by(function() writeLines(paste(Sys.getpid()), file)) == mine)
  unlink(file)
  expect_equal(by(function() if (Sys.getpid() == mine) writeLines(paste(mine), file) else tools::pskill(Sys.getpid(), 9L)), mine)
  expect_match(message_of(by(function() core$stop_mavik("write_error", "a disk that is full"))), "^a disk that is full$")
  slow <- core$split_off(function() Sys.sleep(60))
  expect_lt(system.time(slow$stop_waiting())[["elapsed"]], 10)
  # Of several things every other one is done there; the order stays, and so do names and refusals.
  shared <- core$by_two(c(a = 1, b = 2, c = 3), function(x) c(x, Sys.getpid()))
  expect_equal(vapply(shared, `[`, 0, 1), c(a = 1, b = 2, c = 3))
  expect_equal(vapply(shared, `[`, 0, 2) == mine, c(a = TRUE, b = FALSE, c = TRUE))
  # What a process that is gone had begun to write is written here, and nothing twice.
  for (dies in c("none", "a")) {
    written <- tempfile()
    each <- function(outputs) {
      name <- outputs[[1]]$file
      if (Sys.getpid() != mine && name == dies) tools::pskill(Sys.getpid(), 9L)
      # The other process is slow: what it has not begun is taken from it.
      Sys.sleep(if (Sys.getpid() == mine) 0 else 1)
      cat(name, "", file = written, append = TRUE)
      stats::setNames(list(function() toupper(name)), name)
    }
    rows <- core$begin_writing(list(list(file = "a"), list(file = "b")), each, list(data = data.frame()))
    Sys.sleep(0.3)
    sums <- rows$wait()
    expect_equal(vapply(sums, function(sum) sum(), "")[c("a", "b")], c(a = "A", b = "B"))
    expect_equal(sort(scan(written, "", quiet = TRUE)), c("a", "b"))
    rows$stop_waiting()
  }
  for (at in 1:2) expect_equal(message_of(core$by_two(1:2, function(x) if (x == at) core$stop_mavik("write_error", "no ", x))), paste("no", at))
  future::plan(future::sequential)
  expect_equal(unlist(core$by_two(list(), identity)), NULL)
  expect_equal(core$by_two(list(a = 1, b = 2), function(x) Sys.getpid()), list(a = mine, b = mine))
  expect_equal(by(function() writeLines(paste(Sys.getpid()), file)), mine)
  # What it comes to is handed over; digests are taken so.
  here <- core$split_off(Sys.getpid, really = TRUE)
  expect_false(here$wait() == mine)
  writeLines(strrep("x", 5000), file)
  beside <- core$digests_beside(c(file, file), large = 10)
  expect_equal(c(beside[[2]](), beside[[1]]()), rep(core$file_digest(file), 2))
})

test_that("builds in parts keep out of each other's way, and say what stands in theirs", {
  skip_on_os("windows")
  project <- plain_project()
  lock <- file.path(project, ".mavik", "parts.lock")
  dir.create(lock, recursive = TRUE)
  writeLines(core$this_process(), file.path(lock, "owner"))
  refused <- installed("build", project, "--parts", "2")
  expect_equal(refused$status, 2)
  expect_match(refused$err, paste0("process ", Sys.getpid(), " of ", Sys.info()[["user"]], " on ", Sys.info()[["nodename"]]), all = FALSE)
  expect_false(dir.exists(file.path(project, "out")))
  unlink(lock, recursive = TRUE)
  for (wrong in list(c("--parts", "0"), c("--parts", "two"), c("--part-size", "5 apples"), c("--workers", "none"), c("--parts", "2", "--part-size", "1MB"))) {
    refused <- command("build", project, wrong)
    expect_equal(refused$status, 2)
    expect_match(refused$err, "whole number from 1|number with a unit|not both", all = FALSE)
  }
  # A raw file that changes while its parts are read.
  changing <- withCallingHandlers(
    message_of(build_study(project, parts = 2)),
    mavik_progress = function(p) if (p$step == "read" && isTRUE(p$done == 1)) cat("k77,1\n", file = file.path(project, "raw", "two.csv"), append = TRUE)
  )
  expect_match(changing, "two.csv: changed while it was read; build again")
  expect_equal(installed("build", project, "--parts", "2", "--workers", "2")$status, 0)
})

test_that("a plan file is a document: closed words, and a machine that is not there is told soon", {
  project <- plain_project()
  config <- tempfile()
  dir.create(file.path(config, "R", "mavik"), recursive = TRUE)
  said <- function(..., run = command) {
    writeLines(c(...), file.path(config, "R", "mavik", "plan.yml"))
    withr::with_envvar(c(R_USER_CONFIG_DIR = config), run("build", project, "--parts", "2"))
  }
  expect_match(said("plan: multisesion")$err, "plan.yml: `plan` is one of .*did you mean `multisession`", all = FALSE)
  expect_match(said("plan: cluster", "hosts: [a]")$err, "`hosts` is not one of its keys", all = FALSE)
  expect_match(said("plan: cluster")$err, "names its machines", all = FALSE)
  expect_match(said("plan: [")$err, "cannot be read as YAML", all = FALSE)
  took <- system.time(told <- said("plan: cluster", "workers: [no-such-host.invalid]", run = installed))[["elapsed"]]
  expect_equal(told$status, 2)
  expect_match(told$err, "the machine `no-such-host.invalid` cannot be reached", all = FALSE)
  expect_lt(took, 60)
  expect_false(dir.exists(file.path(project, "out")))
  expect_equal(said("plan: multisession", "workers: 2", run = installed)$status, 0)
})

test_that("a work folder that is full stops the build, and the old outputs stand", {
  skip_on_os("windows")
  full <- tempfile("full")
  dir.create(full)
  mounted <- system(paste("mount -t tmpfs -o size=100k tmpfs", shQuote(full), "2> /dev/null"), ignore.stderr = TRUE) == 0
  skip_if_not(mounted, "no small disk can be made here")
  on.exit(system(paste("umount", shQuote(full))))
  project <- plain_project(20000)
  expect_equal(installed("build", project)$status, 0)
  before <- digests_in(file.path(project, "out"))
  for (workers in c("1", "2")) {
    refused <- installed("build", project, "--parts", "2", "--workers", workers, env = paste0("MAVIK_WORK=", full))
    expect_equal(refused$status, 2)
    expect_match(refused$err, "the work folder cannot be written \\(No space left", all = FALSE)
    expect_identical(digests_in(file.path(project, "out")), before)
  }
})

test_that("killed at any moment, a build in parts leaves whole outputs and goes on to the same bytes", {
  skip_on_os("windows")
  project <- plain_project(30000)
  expect_equal(installed("build", project)$status, 0)
  before <- digests_in(file.path(project, "out"))
  for (wait in moments(c(0.9, 1.5, 0.7, 1.1, 1.9))) {
    killed_after(wait, "build", project, "--parts", 5)
    there <- c(file.path(project, "out"), list.files(project, "^out[.]before", full.names = TRUE))
    expect_true(any(vapply(there, function(folder) identical(digests_in(folder), before), TRUE)))
  }
  again <- installed("build", project, "--parts", "5")
  expect_equal(again$status, 0, info = paste(again$err, collapse = "\n"))
  expect_identical(digests_in(file.path(project, "out")), before)
  expect_equal(list.files(file.path(project, ".mavik", "parts")), "read")
})
