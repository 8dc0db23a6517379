# Runs all tests against the installed package, or those of the files named, and closes with
# one line of counts:   Rscript tools/test.R [NAME]

suppressPackageStartupMessages(library(testthat))
# One more than there are cores: a test that waits for a browser or a process leaves its core idle.
if (!nzchar(Sys.getenv("TESTTHAT_CPUS"))) Sys.setenv(TESTTHAT_CPUS = max(1L, parallel::detectCores(), na.rm = TRUE) + 1L)
# Room for what the tests make, which R would else clear away again and again.
Sys.setenv(R_NSIZE = "8000000", R_VSIZE = "512M", R_GC_MEM_GROW = "3")
# What a test says once is not worth compiling; the package is compiled as ever.
Sys.setenv(R_ENABLE_JIT = "0")
Sys.setenv(LOCPATH_MAVIK = normalizePath(".build/locales", mustWork = FALSE), NOT_CRAN = "true")
named <- c(commandArgs(trailingOnly = TRUE), list(NULL))[[1]]
results <- as.data.frame(test_dir("tests/testthat", filter = named, package = "mavik", load_package = "installed", reporter = "check", stop_on_failure = FALSE))
# A file that cannot be read reports nothing, not even an error.
silent <- setdiff(list.files("tests/testthat", paste0("^test-.*(", named, ").*[.]R$")), results$file)
if (length(silent) > 0) cat("No result came from", paste(silent, collapse = ", "), "\n")
failed <- sum(results$failed) + sum(results$error) + length(silent)
cat(sprintf("%d passed, %d failed, %d skipped\n", sum(results$passed), failed, sum(results$skipped)))
quit(save = "no", status = if (failed > 0 || sum(results$passed) == 0) 1 else 0)
