# Random projects built and judged one value at a time, for a long run:
#   Rscript tools/fuzz.R [PROJECTS] [FIRST SEED]
# A difference is printed with its seed; `differs(SEED)` makes it again. Then a tenth as many exports
# of any cells are drafted and built; `meaning_moved(SEED)` makes one again.

library(mavik)
core <- asNamespace("mavik")
source("tests/testthat/helper-judge.R")
source("tests/testthat/helper-cells.R")
given <- as.integer(commandArgs(TRUE))
projects <- c(given[1], 10000L)[if (length(given) > 0) 1 else 2]
first <- if (length(given) > 1) given[2] else as.integer(Sys.time()) %% 1000000L * 1000L
cores <- if (.Platform$OS.type == "unix") parallel::detectCores() else 1L
cat("seeds", first + 1L, "to", first + projects, "\n")
odd <- unbuilt <- 0L
for (start in seq(1L, projects, by = 500L)) {
  seeds <- first + start:min(start + 499L, projects)
  told <- parallel::mclapply(seeds, function(seed) tryCatch(differs(seed), error = function(e) paste("fault:", conditionMessage(e))), mc.cores = cores)
  told <- vapply(told, function(one) if (is.character(one)) one[1] else "the process ended", "")
  unbuilt <- unbuilt + sum(is.na(told))
  at <- which(!is.na(told) & nzchar(told))
  odd <- odd + length(at)
  for (k in at) cat("seed", seeds[k], told[k], "\n")
  cat(start + length(seeds) - 1L, "projects,", unbuilt, "of them not to be built,", odd, "differ\n")
}
seeds <- first + seq_len(ceiling(projects / 10))
told <- unlist(parallel::mclapply(seeds, function(seed) tryCatch(meaning_moved(seed), error = function(e) paste("fault:", conditionMessage(e))), mc.cores = cores))
for (k in which(nzchar(told))) cat("seed", seeds[k], told[k], "\n")
cat(length(seeds), "exports drafted,", sum(nzchar(told)), "with a fault\n")
odd <- odd + sum(nzchar(told)) + (length(told) < length(seeds))
quit(save = "no", status = if (odd > 0) 1 else 0)
