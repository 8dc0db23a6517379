# Exports of any cells: numbers of every size, dates, signs, marks, gaps, under odd headings.

odd_cells <- list(
  large = function(n) format(round(10^stats::runif(n, 0, 300)), scientific = FALSE, trim = TRUE), exponents = function(n) sprintf("%.3e", 10^stats::runif(n, -300, 300)),
  below = function(n) as.character(-round(10^stats::runif(n, 0, 15))), tiny = function(n) format(stats::runif(n) * 1e-12, digits = 5), whole = function(n) as.character(round(stats::rnorm(n, 0, 10^stats::runif(1, 0, 12)))),
  years = function(n) drawn(1900:2030, n), seconds = function(n) drawn(1.7e9 + 1:1e5, n), codes = function(n) drawn(c(1:5, 9, 98, 99, -1, -9), n),
  dates = function(n) format(as.Date("2026-01-01") + sample(-40000:400, n, TRUE), drawn(c("%d/%m/%Y", "%Y-%m-%d", "%d.%m.%y", "%b %d, %Y", "%d-%b-%Y"), 1)), times = function(n) sprintf("%02d:%02d", sample(0:23, n, TRUE), sample(0:59, n, TRUE)),
  words = function(n) drawn(c("Yes", "No", "Maybe", "N/A", "-", "?", "None"), n), gaps = function(n) drawn(c("N/A", "-", "?", "NULL", "don't know"), n), mixed = function(n) drawn(c(1:20, "about 5", "ten", "<1", "5-6", "6+", "0.5", "1,5", "1.000"), n),
  long = function(n) strrep("la ", sample(3000, n, TRUE)), odd = function(n) drawn(c("a\tb", "a\nb", "\u200bx", "x\u0001", "\"q\"", "'", "=1+1", "{a: b}", "[", "- x", "# y", "null", "~", "on", "0x1F", "1_000"), n),
  signs = function(n) drawn(c("\U0001F600", "\u2605\u2605", "\u202eabc", "&#65;", "&#99999999999;", "a &amp; b", "<b>x</b>"), n), one = function(n) rep(drawn(c("x", 1, "2026-01-01"), 1), n),
  several = function(n) vapply(seq_len(n), function(i) paste(sample(c("Folk", "Jazz", "Soul", "Other: x;y"), sample(0:4, 1)), collapse = drawn(c(";", ", ", "|"), 1)), ""), money = function(n) sprintf(drawn(c("$%d", "%d \u20ac", "\u00a3%d.50", "%d%%"), 1), sample(1e5, n)),
  options = function(n) paste("Option", sample(300, n, TRUE)), logical = function(n) drawn(c("TRUE", "false", "T", "0", "1"), n), blank = character
)
odd_headings <- c("Q%d", "Q%d (1 = a, 2 = b)", "How many %d?", "Age %d", "Rate %d from 1 to 5", "<i>x</i> %d", "id %d", "", "Other %d", "Q%d_1", "name %d", "Date %d", "%d", "1=1, 2=2", "Q [%d]", "Q - %d", "'%d'", "null", "%d: x: y", "key")

drawn <- function(from, n) sample(as.character(from), n, TRUE)

odd_export <- function(seed, folder) {
  set.seed(seed)
  n <- sample(c(1, 10, 60, 200), 1)
  cells <- lapply(seq_len(sample(8, 1)), function(k) {
    x <- odd_cells[[sample(length(odd_cells), 1)]](n)
    replace(x, stats::runif(n) < sample(c(0, 0.1, 0.5, 0.9), 1), "")
  })
  headings <- vapply(seq_along(cells), function(k) gsub("%d", k, drawn(odd_headings, 1), fixed = TRUE), "")
  file <- file.path(folder, "odd.csv")
  data.table::fwrite(data.table::setnames(data.table::as.data.table(c(list(seq_len(n)), cells)), c("no", headings)), file)
  file
}

# An answer whose draft gives it another meaning, or "". What a draft leaves out is a finding.
meaning_moved <- function(seed, build = build_study) {
  folder <- tempfile("odd")
  dir.create(folder)
  file <- odd_export(seed, folder)
  utils::capture.output(print(look(file)))
  draft <- file.path(folder, "draft.yml")
  writeLines(draft_codebook(file), draft, useBytes = TRUE)
  study <- build(draft)
  write_study(study, file.path(folder, "out"))
  raw <- core$read_raw(file, list(heading = "names", skip = 0, delimiter = "comma", encoding = "UTF-8"), "odd.csv")
  decimal <- study$book$exports[[1]]$decimal
  document <- core$unclass_document(study$codebook)$variables
  names <- Filter(function(name) is.character(document[[name]]$column), intersect(names(document), names(study$data)))
  said <- vapply(names, function(name) {
    cells <- raw$columns[[document[[name]]$column]]
    cells <- core$text_squeeze(cells$cells)[cells$index]
    value <- study$data[[name]]
    at <- which(!is.na(value))
    at <- at[!duplicated(paste(cells[at], value[at]))]
    wrong <- at[!mapply(means, cells[at], value[at], MoreArgs = list(codes = study$book$variables[[name]]$codes, spelt = document[[name]]$variants, other = document[[name]]$other, decimal = decimal))]
    if (length(wrong) > 0) paste0(name, ": ", cells[wrong[1]], " became ", value[wrong[1]]) else ""
  }, "")
  unlink(folder, recursive = TRUE)
  paste(said[nzchar(said)], collapse = "; ")
}

# Whether a value is what a cell says: its label or code, a form that the draft lists, its number.
means <- function(cell, value, codes, spelt, other, decimal) {
  # A write-in is what stands beside the list.
  if (!is.null(other) && value == other$code) return(TRUE)
  forms <- if (!is.null(codes)) codes$label[codes$code == value] else value
  listed <- unlist(spelt[core$text_fold(names(spelt)) %in% core$text_fold(as.character(forms))])
  if (core$text_fold(cell) %in% core$text_fold(as.character(c(forms, value, listed)))) return(TRUE)
  if (!is.numeric(value)) return(is.character(value) && core$text_squeeze(value) == cell || inherits(value, c("Date", "POSIXct")))
  number <- core$text_to_number(cell, decimal)
  is.null(codes) && !is.na(number) && isTRUE(all.equal(number, as.double(value)))
}
