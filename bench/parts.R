# Builds in parts: time, the most memory of the main process and of any worker, and whether the
# outputs are the same.
#   Rscript bench/parts.R [RESPONDENTS ...] [--slurm] | --large
# A million respondents in one piece, and in 1, 4 and 16 parts with one worker and two; --slurm
# also through a Slurm of this machine (`make slurm` installs it). --large: ten million, in parts
# of 500 MB.

source("bench/helpers.R")

# One build as a process. Workers tell their own peak when they end.
built <- function(project, out, parts, workers) {
  unlink(file.path(project, ".mavik", "parts"), recursive = TRUE)
  seen <- tempfile("peaks")
  job <- c(
    "library(mavik)", "core <- asNamespace('mavik')", "data.table::setDTthreads(1)",
    sprintf("book <- core$known_book('%s')", project),
    sprintf("asked <- %s", parts),
    sprintf("core$with_plan(%s, book, {", workers),
    "  study <- core$build_book(book, digests = TRUE, asked = asked)",
    sprintf("  write_study(study, '%s')", out),
    "  if (isNamespaceLoaded('future') && future::nbrOfWorkers() > 1) {",
    "    told <- lapply(1:8, function(i) future::future({ Sys.sleep(0.2); c(Sys.getpid(), as.numeric(gsub('[^0-9]', '', grep('VmHWM', readLines('/proc/self/status'), value = TRUE))) / 1024) }, seed = NULL))",
    sprintf("    writeLines(as.character(max(vapply(told, function(one) future::value(one)[2], 0))), '%s')", seen),
    "  }", "})"
  )
  took <- measure(job)
  list(seconds = took[1], peak = took[2], worker = if (file.exists(seen)) as.numeric(readLines(seen)) else NA,
    digests = vapply(list.files(out, full.names = TRUE), function(file) paste(openssl::blake2b(file(file))), ""))
}

told <- function(what, one, first) cat(sprintf("  %-32s %7.1f s  %6.0f MiB, worker %6.0f MiB   %.2f of the first   %s\n", what, one$seconds, one$peak,
  one$worker, one$seconds / first$seconds, if (identical(unname(one$digests), unname(first$digests))) "same bytes" else "OTHER BYTES"))

of_parts <- function(count) sprintf("core$asked_parts(%d, NULL)", count)

# The same by jobs of a Slurm that is begun and ended here.
through_slurm <- function(project, first) {
  folder <- tempfile("slurm")
  up <- system2("tools/slurm/begin", folder, stdout = TRUE)
  on.exit(system2("tools/slurm/end", folder))
  if (!is.null(attr(up, "status"))) return(cat("  no Slurm can be set up here\n"))
  config <- tempfile("config")
  dir.create(file.path(config, "R", "mavik"), recursive = TRUE)
  writeLines(c("plan: batchtools_slurm", "workers: 2"), file.path(config, "R", "mavik", "plan.yml"))
  Sys.setenv(R_USER_CONFIG_DIR = config, SLURM_CONF = sub("^SLURM_CONF=", "", utils::tail(up, 1)))
  on.exit(Sys.unsetenv(c("R_USER_CONFIG_DIR", "SLURM_CONF")), add = TRUE)
  told("4 parts, jobs of a Slurm", built(project, tempfile("out"), of_parts(4), "NULL"), first)
}

for (n in if ("--large" %in% commandArgs(trailingOnly = TRUE)) c() else sizes_given(1e6)) {
  project <- bench_project(n, make_large_export, make_codebook)
  cat(sprintf("%s respondents, %.0f MiB\n", format(n, big.mark = ",", scientific = FALSE), file.size(file.path(project, "raw/spring.csv")) / 2^20))
  first <- built(project, tempfile("out"), "list(whole = TRUE)", "1L")
  told("one piece", first, first)
  for (workers in 1:2) for (parts in c(1, 4, 16)) told(sprintf("%d parts, %d worker(s)", parts, workers), built(project, tempfile("out"), of_parts(parts), sprintf("%dL", workers)), first)
  if ("--slurm" %in% commandArgs(trailingOnly = TRUE)) through_slurm(project, first)
  unlink(project, recursive = TRUE)
}

if ("--large" %in% commandArgs(trailingOnly = TRUE)) {
  project <- bench_project(1e7, make_large_export, make_codebook)
  first <- built(project, tempfile("out"), "core$asked_parts(NULL, '500MB')", "1L")
  cat("10,000,000 respondents in parts of 500 MB\n")
  told("one worker", first, first)
  told("two workers", built(project, tempfile("out"), "core$asked_parts(NULL, '500MB')", "2L"), first)
}
