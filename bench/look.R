# `look` and a draft next to a plain read of the same file, each in a process of
# its own.
#   Rscript bench/look.R [N ...] [--threads T] [--rounds R]    default: 1000000, 1, 1

source("bench/helpers.R")

for (n in sizes_given(1e6)) {
  file <- tempfile(fileext = ".csv")
  make_export(n, file)
  compare_jobs(n, file, c(
    "fread, all as text" = read_as_text(file), "look" = sprintf("seen <- mavik::look('%s')", file),
    "draft" = sprintf("draft <- mavik::draft_codebook('%s')", file)
  ), fresh = character())
  unlink(file)
}
