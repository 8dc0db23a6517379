# Outputs are whole at every moment, and what a stopped build left is set right.

small_project <- function() project_with(c("mavik: 1", "study: {title: T}", "waves: {one: {label: One}}", "exports: {a: {file: raw/a.csv, key: id}}", "variables: {id: {is: key, label: Id}, x: {column: x, label: X, level: ratio}}"), list("a.csv" = "id,x\n1,2\n"))
beside <- function(project) setdiff(list.files(project, all.files = TRUE, no.. = TRUE), c("raw", "study.yml", "out", ".mavik"))
notes_of <- function(expr) {
  notes <- character()
  withCallingHandlers(expr, mavik_notice = function(notice) notes <<- c(notes, conditionMessage(notice)))
  notes
}

test_that("what a stopped build left goes, and the earlier outputs come back", {
  project <- small_project()
  out <- write_study(build_study(project))
  # Killed before the first rename, between the two, and after them.
  for (left in c(".writing-4711", ".locking-3")) dir.create(paste0(out, left))
  file.rename(out, paste0(out, ".before-12"))
  notes <- notes_of(write_study(build_study(project)))
  expect_match(notes, "the earlier outputs are put back", all = FALSE)
  expect_match(notes, "removed what a stopped build had left: .*`out.writing-4711`", all = FALSE)
  expect_equal(beside(project), character())
  dir.create(paste0(out, ".before-77"))
  file.copy(list.files(out, full.names = TRUE), paste0(out, ".before-77"))
  Sys.chmod(paste0(out, ".before-77"), "500")
  notes <- notes_of(write_study(build_study(project)))
  expect_match(notes, "out.before-77", all = FALSE)
  expect_equal(beside(project), character())
  expect_equal(notes_of(write_study(build_study(project))), character())
})

test_that("a lock holds as long as its process lives, and no longer", {
  project <- small_project()
  out <- file.path(project, "out")
  lock <- paste0(core$real_path(out), ".lock")
  locked <- function(owner) {
    dir.create(lock)
    writeLines(owner, file.path(lock, "owner"))
    told <- message_of(write_study(build_study(project)), "mavik_write_error")
    unlink(lock, recursive = TRUE)
    told
  }
  host <- Sys.info()[["nodename"]]
  expect_match(locked(core$this_process()), paste0("another build writes there \\(process ", Sys.getpid(), " of ", Sys.info()[["user"]], " on ", host))
  expect_match(locked(c("another-host", "1", "")), "process 1 on another-host")
  # A number that no process has, and one that another process has by now.
  expect_equal(locked(c(host, "2147483000", "x")), "no error")
  if (nzchar(core$process_began(Sys.getpid()))) expect_equal(locked(c(host, Sys.getpid(), "began at another time")), "no error")
  # One that has ended, of which its parent has taken no note.
  if (.Platform$OS.type == "unix" && dir.exists("/proc/self")) {
    job <- parallel::mcparallel({ Sys.sleep(0.3); NULL })
    owner <- c(host, job$pid, core$process_began(job$pid))
    tools::pskill(job$pid, tools::SIGKILL)
    Sys.sleep(0.5)
    expect_equal(core$process_began(job$pid), "ended")
    expect_equal(locked(owner), "no error")
    # One of many gets it, and it is never there without its owner.
    place <- core$real_path(out)
    taken <- parallel::mclapply(1:8, function(k) c(core$put_lock(place, lock, out), core$lock_owner(lock)[2]), mc.cores = 8, mc.preschedule = FALSE)
    expect_equal(sum(vapply(taken, `[`, "", 1) == "TRUE"), 1)
    expect_equal(lengths(taken), rep(2, 8))
    expect_length(unique(vapply(taken, `[`, "", 2)), 1)
    # Nor where a process is killed while it takes or lets go.
    unlink(lock, recursive = TRUE)
    ownerless <- vapply(seq(0.02, 0.06, length.out = 20), function(wait) {
      job <- parallel::mcparallel(repeat core$release_lock(place, core$take_lock(place, out)))
      Sys.sleep(wait)
      tools::pskill(job$pid, tools::SIGKILL)
      # It went on until it was killed.
      expect_null(suppressWarnings(parallel::mccollect(job))[[1]])
      left <- dir.exists(lock) && length(core$lock_owner(lock)) < 2
      unlink(c(lock, Sys.glob(paste0(place, ".locking-*"))), recursive = TRUE)
      left
    }, TRUE)
    expect_equal(sum(ownerless), 0)
    unlink(lock, recursive = TRUE)
    suppressWarnings(parallel::mccollect(job))
  }
  expect_equal(beside(project), character())
  writeLines("", file.path(out, "~$analysis.csv"))
  expect_match(message_of(write_study(build_study(project))), "`analysis.csv` is open in another program; close it there")
  unlink(file.path(out, "~$analysis.csv"))
})

test_that("kills at any moment leave whole outputs and nothing beside", {
  skip_on_os("windows")
  project <- demo_project(tempfile())
  write_study(build_study(project))
  whole <- list.files(file.path(project, "out"))
  for (wait in moments(c(1.2, 2, 1.6, 2.6, 3.2))) {
    killed_after(wait, "build", project)
    there <- c(file.path(project, "out"), list.files(project, "^out[.]before", full.names = TRUE))
    expect_true(any(vapply(there, function(folder) setequal(list.files(folder), whole), TRUE)))
  }
  expect_equal(installed("build", project)$status, 0)
  expect_equal(list.files(project, "^out[.]"), character())
})

test_that("a disk that is full stops the build, and the old outputs stand", {
  skip_on_os("windows")
  full <- tempfile("full")
  dir.create(full)
  mounted <- system(paste("mount -t tmpfs -o size=600k tmpfs", shQuote(full), "2> /dev/null"), ignore.stderr = TRUE) == 0
  skip_if_not(mounted, "no small disk can be made here")
  on.exit(system(paste("umount", shQuote(full))))
  project <- small_project()
  for (file in c("raw", "study.yml")) file.copy(file.path(project, file), full, recursive = TRUE)
  out <- write_study(build_study(full))
  before <- digests_in(out)
  free <- as.numeric(strsplit(trimws(system(paste("df -k --output=avail", shQuote(full)), intern = TRUE)[2]), " ")[[1]][1]) * 1024
  # So little room that the last files do not fit, or not even the first.
  size <- sum(file.size(list.files(out, full.names = TRUE)))
  for (left in round(size * c(0.8, 0.4, 0.05, 0))) {
    filler <- file.path(full, "filler")
    # What does not fit of it fills the disk as well.
    suppressWarnings(writeBin(raw(free - left), filler))
    run <- installed("build", full)
    unlink(filler)
    expect_equal(run$status, 2, info = left)
    expect_match(paste(run$err, collapse = " "), "cannot be written|disk|No space", info = left)
    expect_equal(digests_in(out), before, info = left)
    expect_equal(list.files(full, "^out[.]"), character())
  }
  expect_match(core$write_bytes(as.raw(rep(1, 100)), "/dev/full"), "space", ignore.case = TRUE)
})

test_that("no option writes over raw files, or over what Mavik did not write", {
  project <- demo_project(tempfile())
  raw <- file.path(project, "raw/spring.csv")
  digest <- core$file_digest(raw)
  own <- file.path(project, "notes.html")
  writeLines("my own page", own)
  svg <- tempfile(fileext = ".svg")
  cases <- list(c("answers", "voice", "--project", project, "--html", raw), c("answers", "voice", "--project", project, "--html", file.path(project, "raw/new.html")),
    c("answers", "voice", "--project", project, "--html", own), c("scales", "--project", project, "--html", own), c("look", raw, "--html", own), c("look", raw, "--html", raw),
    c("answers", "voice", "--project", project, "--figure", file.path(project, "raw/f.svg")), c("coding", "best_codes", "--project", project, "--out", file.path(project, "raw/x.csv")),
    c("align", "autumn", file.path(project, "raw/autumn.xlsx"), "--project", project, "--sheet", file.path(project, "raw/x.xlsx")), c("convert", project, file.path(project, "raw/roster.xlsx")))
  for (case in cases) {
    run <- command(case)
    expect_equal(run$status, 2, info = paste(case, collapse = " "))
    expect_match(paste(run$err, collapse = " "), "never written to|not known to be Mavik's", info = paste(case, collapse = " "))
  }
  expect_equal(core$file_digest(raw), digest)
  expect_equal(readLines(own), "my own page")
  expect_equal(sort(list.files(file.path(project, "raw"))), c("autumn.xlsx", "roster.csv", "spring.csv"))
  for (twice in 1:2) expect_equal(command("answers", "voice", "--project", project, "--figure", svg, "--html", sub("svg", "html", svg))$status, 0)
  expect_equal(command("answers", "voice", "--project", project, "--html", own, "--replace")$status, 0)
})
