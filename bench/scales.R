# Ten scales of six items scored and examined, next to fread reading the export.
#   Rscript bench/scales.R [N]        default: 1000000

suppressPackageStartupMessages({ library(data.table); library(mavik) })
core <- asNamespace("mavik")
n <- { args <- as.integer(commandArgs(trailingOnly = TRUE)); if (length(args) > 0) args[1] else 1e6 }
set.seed(2)
labels <- c("Strongly disagree", "Disagree", "Neither", "Agree", "Strongly agree")
file <- tempfile(fileext = ".csv")
table <- list(id = sprintf("M%07d", seq_len(n)))
codes <- list()
for (j in 1:60) {
  code <- sample(c(1:5, NA), n, TRUE, c(rep(0.19, 5), 0.05))
  codes[[paste0("i", j)]] <- code
  table[[paste0("i", j)]] <- ifelse(is.na(code), "", labels[code])
}
fwrite(table, file)
rm(table)
seconds <- function(expr) system.time(expr)[["elapsed"]]
fread_time <- min(replicate(2, { gc(); seconds(fread(file, sep = ",", colClasses = "character", na.strings = NULL, showProgress = FALSE)) }))
entry <- function(j) list(column = paste0("i", j), label = paste("Item", j), level = "ordinal", range = c(1, 5))
scale <- function(s) list(label = paste("Scale", s), score = list(of = paste0("i", 6 * s - 5:0), reversed = paste0("i", 6 * s), take = "mean", at_least = 4))
document <- list(mavik = 1, study = list(title = "Bench"), waves = list(one = list(label = "One")), exports = list(a = list(key = "id", cells = "codes")), variables = c(list(id = list(is = "key", label = "Id")), setNames(lapply(1:60, entry), paste0("i", 1:60)), setNames(lapply(1:10, scale), paste0("s", 1:10))))
book <- core$compile_codebook(core$as_codebook(document))
columns <- lapply(codes, function(code) list(value = code, reason = ifelse(is.na(code), core$reason_id(book, "no_answer"), 0L)))
score <- function() lapply(book$variables[paste0("s", 1:10)], function(one) core$way_score$compute(one, columns[book$uses[[one$name]]], book, list(n = n)))
score_time <- min(replicate(2, seconds(made <- score())))
made <- score()
as_reason <- function(reason) structure(ifelse(reason == 0L, NA, reason), levels = book$reasons$name, class = "factor")
study <- structure(list(book = book, data = as.data.frame(c(codes, lapply(made, `[[`, "value"))), reasons = as.data.frame(lapply(c(columns, made), function(one) as_reason(core$reason_or_none(one)))), records = list(wave = rep("one", n), key = NULL)), class = "mavik_study")
examine_time <- min(replicate(2, seconds(examine_scales(study))))
cat(sprintf("%d respondents, 10 scales of 6 items\n  fread %.2f s; scored %.2f s (ratio %.2f); examined %.2f s (ratio %.2f)\n", n, fread_time, score_time, score_time / fread_time, examine_time, examine_time / fread_time))
