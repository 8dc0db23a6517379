# A build next to a plain read of the same file, each in a process of its own.
#   Rscript bench/build.R [N ...]        default: 100000 1000000
# Made-up respondents by 100 columns: a key, 60 rating items as labels, 20
# numbers, 12 nominal and 7 text columns; 2 % variants and unlisted cells, 15 %
# gaps. Both processes leave data.table's number of threads as it is found.

suppressPackageStartupMessages(library(data.table))

labels <- c("Strongly disagree", "Disagree", "Neither", "Agree", "Strongly agree")
parts <- c("Soprano", "Alto", "Tenor", "Bass")

make_export <- function(n, path) {
  set.seed(n)
  spoil <- function(x, variant, unlisted) {
    at <- stats::runif(n)
    x[at < 0.15] <- ""
    x[at >= 0.15 & at < 0.16] <- variant
    x[at >= 0.16 & at < 0.17] <- unlisted
    x
  }
  table <- list(key = sprintf("M%07d", seq_len(n)))
  for (j in 1:60) table[[paste0("item", j)]] <- spoil(sample(labels, n, TRUE), "Agre", "Hm perhaps")
  for (j in 1:20) table[[paste0("number", j)]] <- spoil(as.character(sample(0:100, n, TRUE)), "three", "a few")
  for (j in 1:12) table[[paste0("part", j)]] <- spoil(sample(parts, n, TRUE), "Sopranno", "Descant")
  for (j in 1:7) table[[paste0("text", j)]] <- spoil(paste("We sang", sample(5000, n, TRUE), "pieces"), "", "")
  fwrite(table, path, quote = FALSE)
}

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

# Runs code in a fresh R; returns its seconds and the most memory it held.
measure <- function(code) {
  script <- tempfile(fileext = ".R")
  writeLines(c(
    "started <- proc.time()[['elapsed']]", code, "spent <- proc.time()[['elapsed']] - started",
    "peak <- grep('VmHWM', readLines('/proc/self/status'), value = TRUE)",
    "cat('RESULT', spent, as.numeric(gsub('[^0-9]', '', peak)) / 1024, '\\n')"
  ), script)
  out <- system2(file.path(R.home("bin"), "Rscript"), script, stdout = TRUE)
  as.numeric(strsplit(sub("RESULT ", "", grep("^RESULT", out, value = TRUE)), " ")[[1]][1:2])
}

args <- as.integer(commandArgs(trailingOnly = TRUE))
for (n in if (length(args) > 0) args else c(1e5, 1e6)) {
  project <- file.path(tempdir(), paste0("bench", n))
  dir.create(file.path(project, "raw"), recursive = TRUE)
  file <- file.path(project, "raw/spring.csv")
  make_export(n, file)
  make_codebook(file.path(project, "bench.yml"))
  read <- measure(sprintf("x <- data.table::fread('%s', showProgress = FALSE)", file))
  build <- "library(mavik); study <- build_study('%s', digests = %s); write_study(study, digests = %s)"
  with <- measure(sprintf(build, project, "TRUE", "TRUE"))
  without <- measure(sprintf(build, project, "FALSE", "FALSE"))
  cat(sprintf("%s respondents by 100 columns, %.0f MiB, %d threads\n", format(n, big.mark = ",", scientific = FALSE), file.size(file) / 2^20, getDTthreads()))
  cat(sprintf("  %-24s %7.1f s %8.0f MiB\n", c("fread", "build with digests", "build without digests"),
    c(read[1], with[1], without[1]), c(read[2], with[2], without[2])), sep = "")
  cat(sprintf("  ratio %.2f with digests, %.2f without; peak memory %.2f times the read's\n", with[1] / read[1], without[1] / read[1], with[2] / read[2]))
  unlink(project, recursive = TRUE)
}
