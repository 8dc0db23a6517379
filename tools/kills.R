# Kills builds in parts at random moments, and holds what is left against the bytes of a build
# in one piece: outputs are the old ones or the new ones, and the next build goes on.
#   Rscript tools/kills.R [TIMES]

times <- as.integer(c(commandArgs(trailingOnly = TRUE), 100)[1])
library(mavik)
core <- asNamespace("mavik")
project <- file.path(tempfile("kills"), "study")
dir.create(file.path(project, "raw"), recursive = TRUE)
rows <- function(from) paste0("id,x,y\n", paste0("k", from + 1:60000, ",", (from + 1:60000) %% 9, ",", c("High", "Low", "so, so")[1 + (1:60000) %% 2], collapse = "\n"), "\n")
for (wave in c("one", "two")) cat(rows(if (wave == "one") 0 else 5), file = file.path(project, "raw", paste0(wave, ".csv")))
writeLines(c("mavik: 1", "study: {title: T, design: panel}", "waves: {one: {label: One}, two: {label: Two}}",
  "exports: {one: {wave: one, file: raw/one.csv, key: id, cells: labels}, two: {wave: two, file: raw/two.csv, key: id, cells: labels}}",
  "variables:", "  id: {is: key, label: Id}", "  x: {column: x, label: X, level: ratio}", "  y: {column: y, label: Y, level: nominal, codes: {1: High, 2: Low}}",
  "  twice: {formula: 'x * 2', label: Twice, level: ratio}"), file.path(project, "study.yml"))
out <- file.path(project, "out")
digests <- function(folder) vapply(core$with_names(list.files(folder), list.files(folder)), function(name) core$file_digest(file.path(folder, name)), "")
versions <- lapply(list(FALSE, TRUE), function(changed) {
  if (changed) cat("k99999,4,Low\n", file = file.path(project, "raw", "two.csv"), append = TRUE)
  digests(write_study(build_study(project), out))
})
script <- system.file("exec", "mavik", package = "mavik")
build <- function(more = "") system(paste0("R_LIBS=", paste(.libPaths(), collapse = ":"), " ", more, file.path(R.home("bin"), "Rscript"), " --default-packages=NULL ", shQuote(script), " build ", shQuote(project), " --parts 5", if (stats::runif(1) < 0.3) " --workers 2", " > /dev/null 2>&1"))
took <- system.time(build())[["elapsed"]]
mixed <- stuck <- stopped <- 0
whole <- function() {
  there <- c(out, list.files(project, "^out[.]before", full.names = TRUE))
  any(vapply(there, function(folder) any(vapply(versions, identical, TRUE, y = digests(folder))), TRUE))
}
for (at in seq_len(times)) {
  if (at %% 4 == 0) unlink(file.path(project, ".mavik"), recursive = TRUE)
  stopped <- stopped + (build(paste("timeout --foreground -s KILL", round(stats::runif(1, 0.2, took * 1.1), 2), "")) != 0)
  mixed <- mixed + !whole()
  if (at %% 5 == 0 && (build() != 0 || !identical(digests(out), versions[[2]]))) stuck <- stuck + 1
}
if (build() != 0 || !identical(digests(out), versions[[2]])) stuck <- stuck + 1
left <- setdiff(list.files(project), c("raw", "study.yml", "out"))
cat(sprintf("%d builds, %d of them killed; outputs that are neither old nor new: %d; builds that did not go on to the same bytes: %d; left beside: %d\n", times, stopped, mixed, stuck, length(left)))
quit(save = "no", status = if (mixed + stuck + length(left) > 0 || stopped == 0) 1 else 0)
