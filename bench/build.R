# A build next to a plain read of the same file, each in a process of its own.
#   Rscript bench/build.R [N ...] [--threads T] [--rounds R]    default: 100000 1000000, 1, 1
# Made-up respondents by 100 columns: a key, 60 rating items as labels, 20
# numbers, 12 nominal and 7 text columns; 2 % variants and unlisted cells, 15 %
# gaps. All outputs and digests; both with the same number of threads.

source("bench/helpers.R")

for (n in sizes_given(c(1e5, 1e6))) {
  project <- bench_project(n, make_export, make_codebook)
  file <- file.path(project, "raw/spring.csv")
  compare_jobs(n, file, c(
    "fread, all as text" = read_as_text(file),
    "build" = sprintf("library(mavik); write_study(build_study('%s'))", project)
  ), fresh = file.path(project, c("out", ".mavik")))
  unlink(project, recursive = TRUE)
}
