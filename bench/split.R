# A split of cells with 12 options and write-ins next to fread reading the same
# file; the whole build for comparison.
#   Rscript bench/split.R [N]        default: 1000000

suppressPackageStartupMessages({ library(data.table); library(mavik) })
core <- asNamespace("mavik")

n <- { args <- as.integer(commandArgs(trailingOnly = TRUE)); if (length(args) > 0) args[1] else 1e6 }
set.seed(5)
options <- c("Radio", "TV; and press", "Friends", "Posters", "The web", "A newsletter", "School", "Work", "Neighbours", "The hall", "By chance", "None of these")
chances <- c(0.4, 0.3, 0.5, 0.2, 0.3, 0.1, 0.05, 0.08, 0.2, 0.1, 0.03, 0.02)
ticks <- vapply(chances, function(chance) runif(n) < chance, logical(n))
text <- rep("", n)
for (j in seq_along(options)) text <- ifelse(ticks[, j], paste0(text, ifelse(nzchar(text), ";", ""), options[j]), text)
words <- which(runif(n) < 0.05)
text[words] <- paste0(text[words], ";", "my words no ", sample(40000, length(words), TRUE))
project <- file.path(tempdir(), "bench")
dir.create(file.path(project, "raw"), recursive = TRUE)
file <- file.path(project, "raw/a.csv")
fwrite(list(id = sprintf("M%07d", seq_len(n)), q = text), file)
names <- paste0("o", seq_along(options))
writeLines(c("mavik: 1", "study: {title: Bench}", "waves: {one: {label: One}}", "exports: {a: {file: raw/a.csv, key: id, cells: labels}}", "variables:", "  id: {is: key, label: Id}",
  "  q:", "    label: Q", "    split:", "      column: q", "      separator: \";\"", paste0("      options: {", paste0(names, ": '", options, "'", collapse = ", "), "}"), "      other: {flag: q_other, text: q_words}"), file.path(project, "study.yml"))
seconds <- function(expr) system.time(expr)[["elapsed"]]
fread_time <- min(replicate(3, seconds(fread(file, sep = ",", colClasses = "character", na.strings = NULL, showProgress = FALSE))))
raw <- core$read_raw(file, list(heading = "names", skip = 0, delimiter = "comma", encoding = "UTF-8", sheet = NULL), "a.csv")
split_time <- min(replicate(3, {
  book <- core$compile_codebook(core$as_codebook(project))
  variable <- book$variables$q
  seconds({
    decoded <- core$decode_cells(raw$columns$q$cells, variable, book$exports$a, book)
    set <- core$gather(decoded, raw$columns$q$index, book)
    made <- lapply(book$variables[c(names, "q_other", "q_words")], function(one) core$ways()[[one$way]]$compute(one, list(q = set), book, list(n = n)))
  })
}))
cat(sprintf("%s cells of several answers, %s different\n  fread %.2f s, split into 14 variables %.2f s, ratio %.2f\n", format(n, big.mark = ","), format(length(raw$columns$q$cells), big.mark = ","), fread_time, split_time, split_time / fread_time))
unlink(project, recursive = TRUE)
