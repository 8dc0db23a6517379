# A check next to a plain read and a build, and the story of one respondent's cell with
# the kept index in place, each in a process of its own.
#   Rscript bench/trace.R [N ...] [--threads T] [--rounds R]    default: 1000000, 1, 1

source("bench/helpers.R")

for (n in sizes_given(1e6)) {
  project <- bench_project(n, make_export, make_codebook)
  file <- file.path(project, "raw/spring.csv")
  compare_jobs(n, file, c(
    "fread, all as text" = read_as_text(file),
    "check" = sprintf("library(mavik); checked <- check_study('%s')", project),
    "why, one respondent" = sprintf("library(mavik); told <- why('%s', 'score', 'M%07d')", project, n %/% 2)
  ), fresh = character())
  unlink(project, recursive = TRUE)
}
