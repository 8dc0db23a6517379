# A check next to a build, and the story of one respondent's cell with the kept
# index in place, each in a process of its own.
#   Rscript bench/trace.R [N]        default: 1000000

source("bench/helpers.R")

args <- as.integer(commandArgs(trailingOnly = TRUE))
n <- if (length(args) > 0) args[1] else 1e6
project <- file.path(tempdir(), "bench")
dir.create(file.path(project, "raw"), recursive = TRUE)
make_export(n, file.path(project, "raw/spring.csv"))
make_codebook(file.path(project, "bench.yml"))
build <- measure(sprintf("library(mavik); write_study(build_study('%s', digests = FALSE), digests = FALSE)", project))
check <- measure(sprintf("library(mavik); checked <- check_study('%s')", project))
cell <- measure(sprintf("library(mavik); told <- why('%s', 'score', 'M%07d')", project, n %/% 2))
cat(sprintf("%s respondents by 100 columns\n", format(n, big.mark = ",", scientific = FALSE)))
cat(sprintf("  %-34s %7.1f s %8.0f MiB\n", c("build", "check", "why, one respondent"), c(build[1], check[1], cell[1]), c(build[2], check[2], cell[2])), sep = "")
unlink(project, recursive = TRUE)
