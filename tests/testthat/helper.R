core <- asNamespace("mavik")

# testthat draws up each comparison before it compares, which takes longer than most of what
# is tested: of what is plainly met none is drawn up, of anything else the usual one.
met <- function(object) {
  succeed()
  invisible(object)
}

expect_true <- function(object, info = NULL, label = NULL) {
  if (isTRUE(object)) met(object) else testthat::expect_true(object, info, label)
}

expect_false <- function(object, info = NULL, label = NULL) {
  if (isFALSE(object)) met(object) else testthat::expect_false(object, info, label)
}

expect_equal <- function(object, expected, ..., label = deparse1(substitute(object))) {
  if (identical(object, expected)) return(met(object))
  testthat::expect_equal(object, expected, ..., label = label)
}

expect_identical <- function(object, expected, ..., label = deparse1(substitute(object))) {
  if (identical(object, expected)) return(met(object))
  testthat::expect_identical(object, expected, ..., label = label)
}

expect_length <- function(object, n) {
  if (identical(length(object), as.integer(n))) return(met(object))
  testthat::expect_length(object, n)
}

expect_match <- function(
  object, regexp, perl = FALSE, fixed = FALSE, ..., all = TRUE, info = NULL, label = deparse1(substitute(object))
) {
  found <- if (is.character(object) && length(object) > 0 && ...length() == 0) grepl(regexp, object, perl = perl, fixed = fixed)
  if (length(found) > 0 && (if (all) all(found) else any(found))) return(met(object))
  testthat::expect_match(object, regexp, perl = perl, fixed = fixed, ..., all = all, info = info, label = label)
}

# A small study as a list; `...` replaces or adds variables.
small_codebook <- function(..., cells = "labels", missing = list(refused = list(code = -2, label = "Refused", written = "REF"))) {
  variables <- utils::modifyList(list(
    id = list(is = "key", label = "Id"),
    part = list(column = "part", label = "Part", level = "nominal", codes = c("1" = "High", "2" = "Low"))
  ), list(...))
  list(
    mavik = 1, study = list(title = "Small"), waves = list(one = list(label = "One")),
    exports = list(main = list(wave = "one", key = "id", cells = cells)), missing = missing, variables = variables
  )
}

build_small <- function(frame, ...) build_study(small_codebook(...), list(main = frame))

# Writes a project folder with raw files and a codebook text; returns its path.
project_with <- function(codebook, files = list()) {
  folder <- tempfile("project")
  dir.create(file.path(folder, "raw"), recursive = TRUE)
  writeLines(codebook, file.path(folder, "study.yml"), useBytes = TRUE)
  for (name in names(files)) writeBin(if (is.raw(files[[name]])) files[[name]] else charToRaw(files[[name]]), file.path(folder, "raw", name))
  folder
}

message_of <- function(expr, class = "mavik_error") {
  tryCatch({ force(expr); "no error" }, error = function(e) {
    if (!inherits(e, class)) return(paste("another error:", conditionMessage(e)))
    conditionMessage(e)
  })
}

# The words by which the installed command is called, as the launcher of install_command() does.
command_words <- function(...) c(
  file.path(R.home("bin"), "Rscript"), "--default-packages=NULL", shQuote(c(system.file("exec", "mavik", package = "mavik"), ...))
)

# The installed command as a process: its output, messages and status.
installed <- function(..., env = character(), wd = getwd()) {
  out <- tempfile()
  err <- tempfile()
  words <- command_words(...)
  status <- withr::with_dir(wd, system2(words[1], words[-1], stdout = out, stderr = err,
    env = c(paste0("R_LIBS=", paste(.libPaths(), collapse = ":")), env)))
  list(status = status, out = readLines(out, warn = FALSE), err = readLines(err, warn = FALSE))
}

# The same, killed after so many seconds and gone when this returns.
killed_after <- function(wait, ...) {
  job <- processx::process$new(
    "/bin/sh", c("-c", paste(c("exec", command_words(...)), collapse = " ")),
    env = c("current", R_LIBS = paste(.libPaths(), collapse = ":"))
  )
  job$wait(wait * 1000)
  job$kill()
  job$wait()
}

# The same within this process, which need not start R and load packages first.
command <- function(..., env = character(), wd = getwd()) {
  if (length(env) > 0) return(installed(..., env = env, wd = wd))
  said <- tempfile(c("out", "err"))
  streams <- lapply(said, file, "w")
  status <- local({
    withr::local_dir(wd)
    withr::local_options(cli.num_colors = NULL, warn = 0L)
    withr::local_preserve_seed()
    sink(streams[[1]])
    withr::defer(sink())
    sink(streams[[2]], type = "message")
    withr::defer(sink(type = "message"))
    tryCatch(run_command(c(...)), error = function(e) conditionMessage(e))
  })
  for (stream in streams) close(stream)
  list(status = status, out = readLines(said[1], warn = FALSE), err = readLines(said[2], warn = FALSE))
}

# What was worked out before in this session is no answer to whether it comes out the same again.
forget <- function() rm(list = ls(core$session, all.names = TRUE), envir = core$session)

# How many of the cases that a test draws at random are tried: all by `make thorough`.
cases <- function(all) if (nzchar(Sys.getenv("MAVIK_THOROUGH"))) all else as.integer(ceiling(all / 12))

# The same of moments at which something is killed: the first two.
moments <- function(all) if (nzchar(Sys.getenv("MAVIK_THOROUGH"))) all else all[1:2]

bytes_of <- function(path) readBin(path, "raw", file.size(path))

# The digest of each file of a folder, by name.
digests_in <- function(folder) {
  files <- list.files(folder)
  vapply(core$with_names(files, files), function(name) core$file_digest(file.path(folder, name)), "")
}

source_folder <- function() {
  folder <- Sys.getenv("MAVIK_SOURCE")
  if (!nzchar(folder)) testthat::skip("the sources are not at hand")
  folder
}
