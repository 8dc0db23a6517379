# Made-up exports, and a fresh R that is timed.

suppressPackageStartupMessages(library(data.table))

labels <- c("Strongly disagree", "Disagree", "Neither", "Agree", "Strongly agree")
parts <- c("Soprano", "Alto", "Tenor", "Bass")

# `n` more records behind `before` others.
make_export <- function(n, path, before = 0) {
  set.seed(n + before)
  spoil <- function(x, variant, unlisted) {
    at <- stats::runif(n)
    x[at < 0.15] <- ""
    x[at >= 0.15 & at < 0.16] <- variant
    x[at >= 0.16 & at < 0.17] <- unlisted
    x
  }
  table <- list(key = sprintf("M%07d", before + seq_len(n)))
  for (j in 1:60) table[[paste0("item", j)]] <- spoil(sample(labels, n, TRUE), "Agre", "Hm perhaps")
  for (j in 1:20) table[[paste0("number", j)]] <- spoil(as.character(sample(0:100, n, TRUE)), "three", "a few")
  for (j in 1:12) table[[paste0("part", j)]] <- spoil(sample(parts, n, TRUE), "Sopranno", "Descant")
  for (j in 1:7) table[[paste0("text", j)]] <- spoil(paste("We sang", sample(5000, n, TRUE), "pieces"), "", "")
  fwrite(table, path, quote = FALSE, append = before > 0)
}

# A million at a time, so that any number fits.
make_large_export <- function(n, path) for (before in seq(0, n - 1, by = 1e6)) make_export(
  min(1e6, n - before), path, before
)

make_codebook <- function(path) {
  entry <- function(name, rest) sprintf("  %s: {column: %s, label: %s, %s}", name, name, name, rest)
  writeLines(c(
    "mavik: 1", "study: {title: Bench}", "waves: {spring: {label: Spring}}",
    "exports:", "  spring: {wave: spring, file: raw/spring.csv, key: key, cells: labels}",
    "code_lists:", sprintf("  agree5: {codes: {%s}}", paste0(1:5, ": ", labels, collapse = ", ")),
    "variables:", "  singer: {is: key, label: Singer}",
    entry(paste0("item", 1:60), "level: ordinal, codes: agree5, variants: {Agree: [Agre]}"),
    entry(paste0("number", 1:20), "level: ratio, range: [0, 100], variants: {3: [three]}"),
    entry(paste0("part", 1:12), sprintf("level: nominal, codes: {%s}, variants: {Soprano: [Sopranno]}", paste0(1:4, ": ", parts, collapse = ", "))),
    entry(paste0("text", 1:7), "level: text"),
    "  low: {label: Lower part, recode: {of: part1, to: {0: [Soprano, Alto], 1: [Tenor, Bass]}}, codes: {0: No, 1: Yes}}",
    sprintf("  score: {label: Score, score: {of: [%s], reversed: [item2], take: mean, at_least: 6}}", paste0("item", 1:10, collapse = ", "))
  ), path)
}

# Runs code in a fresh R, started with these arguments and variables; returns the seconds of
# the process and the most memory it held.
measure <- function(code, args = character(), env = character()) {
  script <- tempfile(fileext = ".R")
  writeLines(c(
    code,
    "peak <- grep('VmHWM', readLines('/proc/self/status'), value = TRUE)",
    "cat('RESULT', as.numeric(gsub('[^0-9]', '', peak)) / 1024, '\\n')"
  ), script)
  spent <- system.time(out <- system2(
    file.path(R.home("bin"), "Rscript"), c(args, script), stdout = TRUE, env = env
  ))[["elapsed"]]
  c(spent, as.numeric(sub("RESULT ", "", grep("^RESULT", out, value = TRUE))))
}

# What a command line says: sizes, and numbers behind words.
said <- function(name, default) {
  args <- commandArgs(trailingOnly = TRUE)
  if (name %in% args) as.integer(args[match(name, args) + 1]) else default
}

sizes_given <- function(default) {
  args <- commandArgs(trailingOnly = TRUE)
  behind <- c("", args[-length(args)]) %in% c("--threads", "--rounds")
  sizes <- as.numeric(args[!startsWith(args, "--") & !behind])
  if (length(sizes) > 0) sizes else default
}

read_as_text <- function(file) sprintf(
  "x <- data.table::fread('%s', colClasses = 'character', na.strings = NULL, showProgress = FALSE)", file)

# Jobs side by side, the first of them the measure of the others; `fresh` is what goes
# before each run. R is started for all of them as `mavik` starts it.
compare_jobs <- function(n, file, jobs, fresh) {
  env <- c("R_NSIZE=1500000", "R_VSIZE=64M", "GLIBC_TUNABLES=glibc.malloc.hugetlb=1",
    sprintf("R_DATATABLE_NUM_THREADS=%d", said("--threads", 1L)))
  # By turns, since a machine is not as fast in one minute as in the next, and once what the job
  # before left to be written stands on the disk.
  runs <- replicate(said("--rounds", 1L), vapply(jobs, function(job) {
    unlink(fresh, recursive = TRUE)
    system2("sync")
    measure(job, "--default-packages=NULL", env)
  }, numeric(2)), simplify = "array")
  took <- apply(runs, 1:2, stats::median)
  cat(sprintf("%s respondents, %.0f MiB, threads: %d, rounds: %d\n",
    format(n, big.mark = ",", scientific = FALSE), file.size(file) / 2^20, said("--threads", 1L), said("--rounds", 1L)))
  cat(sprintf("  %-24s %7.1f s %8.0f MiB   %.2f  %.2f of the first\n", names(jobs), took[1, ], took[2, ],
    took[1, ] / took[1, 1], took[2, ] / took[2, 1]), sep = "")
}

# A project folder of its own, and its one raw file, made by `export` and `codebook`.
bench_project <- function(n, export, codebook) {
  project <- tempfile("bench")
  dir.create(file.path(project, "raw"), recursive = TRUE)
  export(n, file.path(project, "raw/spring.csv"))
  codebook(file.path(project, "bench.yml"))
  project
}
