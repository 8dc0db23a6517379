# Forty declared tables over a million respondents, without figures: the seconds of counting.
#
#   Rscript bench/tables.R [RESPONDENTS]

suppressPackageStartupMessages({ library(mavik); library(data.table) })
given <- commandArgs(trailingOnly = TRUE)
n <- if (length(given) > 0) as.integer(given[1]) else 1000000L
set.seed(1)
project <- file.path(tempdir(), "tables")
dir.create(file.path(project, "raw"), recursive = TRUE, showWarnings = FALSE)
steps <- c("Never", "Rarely", "Sometimes", "Often", "Always")
table <- list(key = seq_len(n))
for (j in 1:20) table[[paste0("item", j)]] <- sample(c(steps, ""), n, TRUE)
for (j in 1:6) table[[paste0("number", j)]] <- sample(0:100, n, TRUE)
for (j in 1:4) table[[paste0("group", j)]] <- sample(paste0("G", 1:8), n, TRUE)
table$weight <- round(stats::rexp(n), 3)
fwrite(table, file.path(project, "raw/a.csv"), quote = FALSE)
coded <- function(labels) paste0("{", paste0(seq_along(labels), ": ", labels, collapse = ", "), "}")
declared <- function(name, rest) paste0("  ", name, ": {", rest, "}")
writeLines(c(
  "mavik: 1", "study: {title: Forty tables}", "waves: {one: {label: One}}", "exports: {a: {wave: one, file: raw/a.csv, key: key, cells: labels}}", "variables:", "  key: {is: key, label: Key}",
  sprintf("  item%d: {column: item%d, label: Item %d, level: ordinal, codes: %s}", 1:20, 1:20, 1:20, coded(steps)),
  sprintf("  number%d: {column: number%d, label: Number %d, level: ratio, range: [0, 100]}", 1:6, 1:6, 1:6),
  sprintf("  group%d: {column: group%d, label: Group %d, level: nominal, codes: %s}", 1:4, 1:4, 1:4, coded(paste0("G", 1:8))),
  "  weight: {column: weight, label: Weight, level: ratio, range: [0, up]}", "tables:",
  declared(paste0("a", 1:20), paste0("of: item", 1:20, ", by: [group1, group2], figure: none")),
  declared(paste0("b", 1:10), paste0("of: [item", 1:10, ", number1], by: group3, weight: weight, figure: none")),
  declared(paste0("c", 1:6), paste0("of: number", 1:6, ", by: group4, show: [n, mean, sd, median, quartiles], figure: none")),
  declared(paste0("d", 1:4), paste0("of: item", 11:14, ", by: [group1, group2], nested: yes, where: 'number1 > 50', figure: none"))
), file.path(project, "study.yml"))
study <- build_study(project, digests = FALSE)
seconds <- system.time(tables <- declared_tables(study))[["elapsed"]]
cat(sprintf("%d tables, %d cells, of %s respondents: %.1f s\n", length(tables), sum(vapply(tables, nrow, 0L)), format(n, big.mark = ","), seconds))
