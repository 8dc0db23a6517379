# A panel of thirty waves: time and peak memory of a build beside the size of its
# result and of its largest export.
#   Rscript bench/waves.R [N] [WAVES]        default: 1000000 30
# The exports of bench/build.R, one a wave; in every second wave the items of one
# block are called otherwise and hold codes that run the other way.

source("bench/helpers.R")

args <- as.integer(commandArgs(trailingOnly = TRUE))
total <- if (length(args) > 0) args[1] else 1e6
waves <- if (length(args) > 1) args[2] else 30
project <- file.path(tempdir(), "waves")
dir.create(file.path(project, "raw"), recursive = TRUE)
for (w in seq_len(waves)) {
  file <- file.path(project, "raw", paste0("w", w, ".csv"))
  make_export(total %/% waves + w, file)
  if (w %% 2 == 0) {
    table <- fread(file, colClasses = "character")
    for (j in 1:10) {
      code <- 6 - match(table[[paste0("item", j)]], labels)
      set(table, j = paste0("item", j), value = ifelse(is.na(code), "", code))
    }
    setnames(table, paste0("item", 1:10), paste0("belong", 1:10))
    fwrite(table, file, quote = FALSE)
  }
}
make_codebook(file.path(project, "bench.yml"))
text <- readLines(file.path(project, "bench.yml"))
text[2] <- "study: {title: Bench, design: panel}"
text[3] <- sprintf("waves: {%s}", paste0("w", seq_len(waves), ": {label: Wave ", seq_len(waves), "}", collapse = ", "))
text[5] <- paste0(sprintf("  w%d: {wave: w%d, file: raw/w%d.csv, key: key, cells: labels}", seq_len(waves), seq_len(waves), seq_len(waves)), collapse = "\n")
even <- seq(2, waves, 2)
over <- function(j) paste0("by_wave: {", paste0("w", even, ": {column: belong", j, ", cells: codes, delivered: {1: Strongly agree, 2: Agree, 3: Neither, 4: Disagree, 5: Strongly disagree}}", collapse = ", "), "}")
for (j in 1:10) text <- sub(sprintf("(  item%d: \\{.*)\\}$", j), paste0("\\1, ", over(j), "}"), text)
writeLines(text, file.path(project, "bench.yml"))

largest <- file.path(project, "raw", paste0("w", waves, ".csv"))
base <- measure("library(mavik); invisible(as.data.frame(read_export(textConnection_file <- { f <- tempfile(); writeLines(c('a,b', '1,2'), f); f })))")
export <- measure(sprintf("library(mavik); x <- read_export('%s'); size <- as.numeric(object.size(x)) / 2^20; writeLines(as.character(size), '%s')", largest, file.path(project, "export.txt")))
build <- measure(sprintf("library(mavik); study <- build_study('%s', digests = FALSE); size <- as.numeric(object.size(unclass(study)[c('data', 'reasons', 'records', 'ledger')])) / 2^20; writeLines(as.character(size), '%s')", project, file.path(project, "result.txt")))
result <- as.numeric(readLines(file.path(project, "result.txt")))
held <- as.numeric(readLines(file.path(project, "export.txt")))
read <- export[2] - base[2]
cat(sprintf("%s respondents in %d waves, %.0f MiB of raw files, the largest %.0f MiB\n", format(total, big.mark = ",", scientific = FALSE), waves, sum(file.size(list.files(file.path(project, "raw"), full.names = TRUE))) / 2^20, file.size(largest) / 2^20))
cat(sprintf("  build %.1f s; peak above R itself %.0f MiB; result %.0f MiB; largest export %.0f MiB as kept, %.0f MiB while it is read\n", build[1], build[2] - base[2], result, held, read))
cat(sprintf("  bound (result + 3 times the largest export while it is read): %.0f MiB, %s\n", result + 3 * read, if (build[2] - base[2] <= result + 3 * read) "kept" else "not kept"))
unlink(project, recursive = TRUE)
