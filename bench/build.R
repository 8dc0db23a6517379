# A build next to a plain read of the same file, each in a process of its own.
#   Rscript bench/build.R [N ...]        default: 100000 1000000
# Made-up respondents by 100 columns: a key, 60 rating items as labels, 20
# numbers, 12 nominal and 7 text columns; 2 % variants and unlisted cells, 15 %
# gaps. Both processes leave data.table's number of threads as it is found.

source("bench/helpers.R")

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
