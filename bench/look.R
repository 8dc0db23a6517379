# `look` and a draft next to a plain read of the same file, each in a process of
# its own.
#   Rscript bench/look.R [N ...]        default: 1000000

source("bench/helpers.R")

args <- as.integer(commandArgs(trailingOnly = TRUE))
for (n in if (length(args) > 0) args else 1e6) {
  file <- tempfile(fileext = ".csv")
  make_export(n, file)
  read <- measure(sprintf("x <- data.table::fread('%s', showProgress = FALSE)", file))
  seen <- measure(sprintf("seen <- mavik::look('%s')", file))
  draft <- measure(sprintf("draft <- mavik::draft_codebook('%s')", file))
  cat(sprintf("%s respondents by 100 columns, %.0f MiB\n", format(n, big.mark = ",", scientific = FALSE), file.size(file) / 2^20))
  cat(sprintf("  %-8s %7.1f s %8.0f MiB\n", c("fread", "look", "draft"), c(read[1], seen[1], draft[1]), c(read[2], seen[2], draft[2])), sep = "")
  cat(sprintf("  ratio %.2f for look, %.2f for the draft\n", seen[1] / read[1], draft[1] / read[1]))
  unlink(file)
}
