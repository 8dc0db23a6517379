# Releases of a million respondents by 100 variables, each format in a process of its own, beside
# the build: seconds and the most memory that the process held.
#
#   Rscript bench/release.R [N] [FORMAT ...]      default: 1000000, csv parquet sqlite

source("bench/helpers.R")

given <- commandArgs(TRUE)
n <- if (length(given) > 0) as.numeric(given[1]) else 1e6
wanted <- if (length(given) > 1) given[-1] else c("csv", "parquet", "sqlite")
project <- bench_project(n, make_export, make_codebook)
codebook <- list.files(project, "[.]yml$", full.names = TRUE)
# The seven texts go out too: every column counts.
cat("releases:\n", sprintf("  %s: {formats: [%s], with: [texts]}\n", wanted, wanted), file = codebook, append = TRUE, sep = "")
jobs <- c(
  "build" = sprintf("library(mavik); write_study(build_study('%s'))", project),
  # Keeps the study, so that a release starts from it as it does after any question to it.
  "kept" = sprintf("library(mavik); invisible(answers('%s', 'item1'))", project),
  structure(sprintf("library(mavik); invisible(release_study('%s', '%s'))", project, wanted), names = wanted)
)
for (name in names(jobs)) {
  took <- measure(jobs[[name]])
  cat(sprintf("%-8s %7.1f s  %6.0f MiB\n", name, took[1], took[2]))
}
unlink(project, recursive = TRUE)
