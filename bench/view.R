# The page of 20,000 records by 200 variables: how long it takes to write, how large it is, and
# how long it takes a browser to open it and to filter. Run: Rscript bench/view.R
library(mavik)
source("tests/testthat/helper-browser.R")
set.seed(1)
n <- 20000
folder <- tempfile("view")
dir.create(file.path(folder, "raw"), recursive = TRUE)
likert <- c("Strongly disagree", "Disagree", "Neither", "Agree", "Strongly agree")
columns <- c(
  stats::setNames(lapply(1:120, function(i) sample(c(likert, ""), n, TRUE, c(1, 2, 3, 4, 2, .3))), paste0("a", 1:120)),
  stats::setNames(lapply(1:50, function(i) as.character(round(stats::rgamma(n, 2, .1)))), paste0("b", 1:50)),
  stats::setNames(lapply(1:20, function(i) sample(c("x", ""), n, TRUE)), paste0("c", 1:20)),
  stats::setNames(lapply(1:9, function(i) paste("words", sample(n), "of a singer about the choir and its concerts", i)), paste0("d", 1:9))
)
data.table::fwrite(c(list(id = sprintf("%05d", seq_len(n))), columns), file.path(folder, "raw/a.csv"))
entry <- function(names, words) sprintf("  %s: {column: %s, label: Column %s, %s}", names, names, names, words)
writeLines(c(
  "mavik: 1", "study: {title: Broad}", "waves: {one: {label: One}}", "exports: {main: {file: raw/a.csv, key: id}}",
  "code_lists:", paste0("  agree: {codes: {", paste0(1:5, ": ", likert, collapse = ", "), "}}"), "variables:", "  id: {is: key, label: Id}",
  entry(paste0("a", 1:120), "level: ordinal, codes: agree"), entry(paste0("b", 1:50), "level: ratio, range: [0, 60]"),
  entry(paste0("c", 1:20), "level: nominal, codes: {1: x}"), entry(paste0("d", 1:9), "level: text")
), file.path(folder, "study.yml"))
took <- function(expr) unname(system.time(expr)[["elapsed"]])
build <- took(study <- build_study(folder))
file <- file.path(folder, "view.html")
write <- took(done <- view_study(folder, file))
again <- took(view_study(folder, file))
run <- function() {
  browser <- start_browser()
  opened <- browser$open(file)
  filter <- browser$run("(() => {
    document.getElementById('filters').click();
    const pick = document.querySelector('#side select'); pick.value = 'd1'; pick.dispatchEvent(new Event('change'));
    const word = document.querySelector(\"[data-filter='d1'] input[type=search]\"); word.value = '77';
    const start = performance.now(); word.dispatchEvent(new Event('input')); document.body.offsetHeight; return performance.now() - start; })()")
  met <- browser$run("page.rows().length")
  sort <- browser$run("(() => { const grid = document.getElementById('grid'); grid.focus(); const start = performance.now();
    for (const key of ['ArrowRight', 'ArrowRight', 's']) grid.dispatchEvent(new KeyboardEvent('keydown', { key: key })); document.body.offsetHeight; return performance.now() - start; })()")
  list(opened = opened, filter = filter, sort = sort, met = met)
}
seen <- run()
cat(sprintf("%d records by %d variables: build %.1f s, page %.1f s (again %.1f s), %.1f MB\n", done$records, done$variables, build, write, again, done$bytes / 1e6))
cat(sprintf("opens in %.2f s, filters texts in %.0f ms (%d met), sorts in %.0f ms\n", seen$opened, seen$filter, seen$met, seen$sort))
