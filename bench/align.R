# The judge of alignments: pairs of waves with planted differences of every kind, aligned, and
# held against the truth. One half is kept aside while the alignment is worked on.
#
#   Rscript bench/align.R [open|aside] [--show]

suppressPackageStartupMessages(library(mavik))
if (!exists("here")) here <- dirname(normalizePath(sub("--file=", "", grep("--file=", commandArgs(), value = TRUE))))
source(file.path(here, "align", "made.R"))
source(file.path(here, "align", "plant.R"))
work <- file.path(tempdir(), "align")

judge_pair <- function(name, words, set, seed) {
  made <- made_pair(words, seed)
  project <- file.path(work, name)
  dir.create(file.path(project, "raw"), recursive = TRUE, showWarnings = FALSE)
  write_pair(made, project)
  found <- align_wave(project, "second", file.path(project, "raw/b.csv"))
  told <- vapply(made$plants, is_told_of, TRUE, found = found, made = made)
  # A possible match is decided too, so that the wave builds; it is not judged as a sure line.
  accept_alignment(found, found$lines$line[found$lines$sure | found$lines$match == "possible"])
  wrong <- wrong_after(project, made, found)
  data.frame(
    set = set, name = name, plant = c(vapply(made$plants, `[[`, "", "kind"), "(sure lines)"),
    of = c(vapply(made$plants, `[[`, "", "of"), paste(wrong, collapse = "; ")),
    right = c(told, length(wrong) == 0), lines = c(rep(NA, length(told)), sum(found$lines$sure)), wrong = c(rep(NA, length(told)), length(wrong))
  )
}

# What the sure lines made wrong: answers of the new wave that read as something else than was
# answered, questions called absent that are there, columns called new or left aside that are old.
# What a line leaves open may read wrongly until a person decides; then the build must warn of it.
wrong_after <- function(project, made, found) {
  study <- build_study(project)
  table <- study_table(study, "labels")
  here <- table[study$records$wave == "second", ]
  stopifnot(nrow(here) > 0)
  lines <- found$lines
  of_lines <- function(lines) unlist(strsplit(lines$variable, ", "))
  open <- of_lines(lines[!lines$sure, ])
  open <- c(open, unlist(study$book$blocks[intersect(open, names(study$book$blocks))]))
  warned <- findings(study)
  warned <- unlist(strsplit(warned$variable[warned$kind %in% c("direction_reversed", "codes_turned", "codes_shifted", "cells_unread")], ", "))
  out <- character()
  for (q in made$questions) {
    if (q$kind %in% c("text", "several") || is.null(here[[q$name]])) next
    if (q$name %in% of_lines(lines[lines$match == "possible", ])) next
    read <- as.character(here[[q$name]])
    truth <- made$truth[[q$name]]
    if (is.null(truth)) { if (any(!is.na(read))) out <- c(out, paste(q$name, "is absent, yet answered")); next }
    odd <- which(!is.na(read) & !is.na(truth) & read != truth)
    if (length(odd) > 0 && !(q$name %in% open && q$name %in% warned)) out <- c(out, paste0(q$name, ": ", truth[odd[1]], " reads ", read[odd[1]], if (q$name %in% open) ", left open without a warning"))
  }
  sure <- lines[lines$sure, ]
  c(out,
    setdiff(of_lines(sure[sure$match == "only_codebook", ]), made$gone),
    setdiff(unlist(strsplit(sure$column[sure$match == "only_new"], ", ")), made$fresh)
  )
}

run_bench <- function(sets, show) {
  dir.create(work, showWarnings = FALSE)
  found <- NULL
  for (set in sets) for (seed in 1:12) found <- rbind(found, judge_pair(
    paste0(set, seed), if (set == "open") open_words else aside_words, set, seed + if (set == "open") 0 else 500
  ))
  if (show) print(found[!found$right, c("name", "plant", "of")], row.names = FALSE)
  for (set in sets) {
    mine <- found[found$set == set, ]
    lines <- mine[mine$plant == "(sure lines)", ]
    plants <- mine[mine$plant != "(sure lines)", ]
    cat(sprintf("%s: %d of %d planted differences told (%.1f %%); %d sure lines, %d wrong (precision %.1f %%)\n",
      set, sum(plants$right), nrow(plants), 100 * mean(plants$right), sum(lines$lines), sum(lines$wrong), 100 * (1 - sum(lines$wrong) / sum(lines$lines))))
    kinds <- tapply(plants$right, plants$plant, function(x) paste0(sum(x), " of ", length(x)))
    cat(paste0("  ", names(kinds), " ", kinds, collapse = "\n"), "\n", sep = "")
  }
  invisible(found)
}

# Three hundred columns against three hundred, all names changed.
run_broad <- function() {
  project <- file.path(work, "broad")
  dir.create(file.path(project, "raw"), recursive = TRUE, showWarnings = FALSE)
  set.seed(9)
  words <- function(k) vapply(seq_len(k), function(i) paste(sample(c("song", "hall", "tea", "voice", "part", "evening", "score", "break", "choir", "tune", "page", "chair", "piano", "tenor", "alto", "season"), 6), collapse = " "), "")
  asked <- words(300)
  steps <- open_words$lists$agree
  draw <- function() as.data.frame(lapply(seq_along(asked), function(i) sample(steps, 2000, TRUE, (1:5)^(i %% 3))))
  write <- function(file, names, asked, frame) {
    lines <- c(paste(c("id", names), collapse = ","), paste(c("id", asked), collapse = ","), do.call(paste, c(list(seq_len(nrow(frame))), frame, sep = ",")))
    writeLines(lines, file.path(project, "raw", file))
  }
  write("a.csv", paste0("q", 1:300), asked, draw())
  write("b.csv", paste0("n", sample(1000:1999, 300)), sub("^(\\w+) ", "the \\1 and ", asked), draw())
  writeLines(c("mavik: 1", "study: {title: Broad}", "waves: {first: {label: First}}", "exports: {a: {wave: first, file: raw/a.csv, key: id, cells: labels, heading: [names, questions]}}",
    "code_lists:", paste0("  agree5: {codes: {", paste0(1:5, ": ", steps, collapse = ", "), "}}"), "variables:", "  id: {is: key, label: Id}", "  wave: {is: wave, label: Wave}",
    sprintf("  q%d: {column: q%d, label: %s, level: ordinal, codes: agree5}", 1:300, 1:300, asked)), file.path(project, "study.yml"))
  seconds <- system.time(found <- align_wave(project, "second", file.path(project, "raw/b.csv")))[["elapsed"]]
  cat(sprintf("300 x 300 columns, all renamed and reworded: %.1f s, %d matched\n", seconds, sum(found$columns$match %in% c("rule", "possible"))))
}

if (sys.nframe() == 0) {
  given <- commandArgs(trailingOnly = TRUE)
  sets <- intersect(given, c("open", "aside"))
  run_bench(if (length(sets) == 0) c("open", "aside") else sets, "--show" %in% given)
  run_broad()
}
