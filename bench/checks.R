# A build with 30 universes, 10 rules and 5 screens next to the same build
# without, each in a process of its own.
#   Rscript bench/checks.R [N] [BROKEN]      default: 1000000, and 0.02 of the skips not kept

source("bench/helpers.R")

add_checks <- function(path) {
  lines <- readLines(path)
  for (j in 1:30) {
    filter <- sprintf("part%d %%in%% c(\"Soprano\", \"Alto\")", (j - 1) %% 6 + 1)
    if (j > 20) filter <- sprintf("number%d > 30 | is_missing(number%d)", j - 20, j - 20)
    at <- grep(sprintf("^  item%d:", 30 + j), lines)
    lines[at] <- sub("}}$", sprintf("}, universe: '%s'}", filter), lines[at])
  }
  rules <- c(
    sprintf("  must%d: {must: 'number%d + number%d <= 180', sets_aside: all}", 1:5, 10 + 1:5, 15 + 1:5), "  adds: {adds_up: {parts: [number1, number2], to: 100, within: 95, blank: 0}}",
    "  ranks: {ranks: {of: [item1, item2, item3], from: 1, to: 5}}", "  same: {same_as: [part11, part12]}", "  low: {must: 'n_answered(item4, item5, item6) >= 1'}", "  high: {must: 'number9 <= 99', sets_aside: [number9]}"
  )
  screens <- c(
    "  first: {if: 'number1 == 100 & number2 == 100'}", sprintf("  silent: {unanswered: [%s]}", paste0("item", 1:10, collapse = ", ")), sprintf("  little: {answered_less_than: 0.5, of: [%s]}", paste0("item", 11:30, collapse = ", ")),
    "  second: {if: 'part1 == \"Bass\" & number3 < 2'}", "  gone: {if: 'is_missing(number4) & is_missing(number5) & is_missing(number6)', report: yes}"
  )
  writeLines(c(lines, "rules:", rules, "screens:", screens), path)
}

# Answers outside a filter are blank, but for a share of skips that were not kept.
keep_skips <- function(path, broken) {
  table <- fread(path, colClasses = "character", na.strings = NULL)
  blank <- function(item, asked) table[[item]] <<- ifelse(asked | stats::runif(nrow(table)) < broken, table[[item]], "")
  for (j in 1:20) blank(paste0("item", 30 + j), table[[paste0("part", (j - 1) %% 6 + 1)]] %in% c("Soprano", "Sopranno", "Alto"))
  for (j in 21:30) {
    number <- suppressWarnings(as.integer(table[[paste0("number", j - 20)]]))
    blank(paste0("item", 30 + j), is.na(number) | number > 30)
  }
  fwrite(table, path, quote = FALSE)
}

args <- as.numeric(commandArgs(trailingOnly = TRUE))
n <- if (length(args) > 0) args[1] else 1e6
broken <- if (length(args) > 1) args[2] else 0.02
project <- file.path(tempdir(), "bench")
dir.create(file.path(project, "raw"), recursive = TRUE)
make_export(n, file.path(project, "raw/spring.csv"))
keep_skips(file.path(project, "raw/spring.csv"), broken)
make_codebook(file.path(project, "bench.yml"))
build <- sprintf("library(mavik); study <- build_study('%s', digests = FALSE); write_study(study, digests = FALSE)", project)
without <- measure(build)
add_checks(file.path(project, "bench.yml"))
with <- measure(build)
cat(sprintf("%s respondents by 100 columns\n", format(n, big.mark = ",", scientific = FALSE)))
cat(sprintf("  %-34s %7.1f s %8.0f MiB\n", c("build", "30 universes, 10 rules, 5 screens"), c(without[1], with[1]), c(without[2], with[2])), sep = "")
cat(sprintf("  ratio %.2f\n", with[1] / without[1]))
unlink(project, recursive = TRUE)
