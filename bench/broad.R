# A broad study: a million respondents by 120 columns become 211 variables, next to
# a plain read of the file and to what a skilled hand would write with data.table
# for the same data (one CSV and a ledger, no documentation), each in a process of
# its own.
#   Rscript bench/broad.R [N ...] [--threads T] [--rounds R]    default: 200000 1000000, 1, 1

source("bench/helpers.R")

options_of <- c("Radio", "Press", "Friends", "Posters")

# 60 rating items as labels, 20 numbers, 16 nominal and 6 text columns, ten questions
# with several answers and write-ins, paradata; 20,000 different unlisted cells.
make_broad <- function(n, path) {
  set.seed(n)
  table <- list(key = sprintf("M%07d", seq_len(n)))
  spoil <- function(x, variant, unlisted) {
    at <- stats::runif(n)
    x[at < 0.08] <- ""
    x[at >= 0.08 & at < 0.09] <- variant
    odd <- which(at >= 0.09 & at < 0.1)
    x[odd] <- rep_len(unlisted, length(odd))
    x
  }
  asked <- sample(c("Yes", "No"), n, TRUE, c(0.8, 0.2))
  for (j in 1:60) {
    x <- spoil(sample(labels, n, TRUE), "Agre", "Hm perhaps")
    if (j > 50) x[asked == "No"] <- ""
    table[[paste0("item", j)]] <- x
  }
  for (j in 1:20) table[[paste0("number", j)]] <- spoil(as.character(sample(0:100, n, TRUE)), "three", "a few")
  for (j in 1:15) {
    odd <- if (j <= 4) paste("Voice number", 5000 * (j - 1) + 1:5000) else "Descant"
    table[[paste0("part", j)]] <- spoil(sample(parts, n, TRUE), "Sopranno", odd)
  }
  table$part16 <- asked
  for (j in 1:6) table[[paste0("text", j)]] <- spoil(paste("We sang", sample(5000, n, TRUE), "pieces"), "", "")
  for (j in 1:10) {
    text <- rep("", n)
    for (option in options_of) {
      here <- stats::runif(n) < 0.35
      text[here] <- paste0(text[here], ifelse(nzchar(text[here]), ";", ""), option)
    }
    words <- which(stats::runif(n) < 0.02)
    text[words] <- paste0(text[words], ifelse(nzchar(text[words]), ";", ""), "my words ", sample(2000, length(words), TRUE))
    table[[paste0("heard", j)]] <- text
  }
  table$Opened <- format(as.POSIXct("2026-03-02", tz = "UTC") + sample(3e6, n, TRUE), "%Y-%m-%dT%H:%M")
  table$Machine <- sample(c("telephone", "tablet", "desk"), n, TRUE)
  for (j in 1:5) table[[paste0("Points ", j)]] <- as.character(sample(0:9, n, TRUE))
  fwrite(table, path, quote = FALSE)
}

broad_codebook <- function(path) {
  entry <- function(name, rest) sprintf("  %s: {column: %s, label: %s, %s}", name, name, name, rest)
  split <- function(j) sprintf(paste0("  heard%d: {label: Heard %d, split: {column: heard%d, separator: \";\", options: {%s}, ",
    "other: {flag: heard%d_other, text: heard%d_words, label: Other}}}"), j, j, j, paste0("heard", j, "_", 1:4, ": ", options_of, collapse = ", "), j, j)
  score <- function(j) sprintf("  score%d: {label: Score %d, score: {of: [%s], reversed: [item%d], take: mean, at_least: 4}}", j, j, paste0("item", (j - 1) %% 10 * 6 + 1:6, collapse = ", "), (j - 1) %% 10 * 6 + j %/% 11 + 1)
  writeLines(c(
    "mavik: 1", "study: {title: Broad bench}", "waves: {spring: {label: Spring}}", "exports:",
    sprintf("  spring: {wave: spring, file: raw/spring.csv, key: key, cells: labels, ignored: [Opened, Machine, %s]}", paste("Points", 1:5, collapse = ", ")),
    "code_lists:", sprintf("  agree5: {codes: {%s}}", paste0(1:5, ": ", labels, collapse = ", ")),
    "variables:", "  singer: {is: key, label: Singer}",
    entry("part16", "level: nominal, codes: {1: Yes, 2: No}"),
    entry(paste0("item", 1:50), "level: ordinal, codes: agree5, variants: {Agree: [Agre]}"),
    entry(paste0("item", 51:60), "level: ordinal, codes: agree5, variants: {Agree: [Agre]}, universe: 'part16 == \"Yes\"'"),
    entry(paste0("number", 1:20), "level: ratio, range: [0, 100], variants: {3: [three]}"),
    entry(paste0("part", 1:15), sprintf("level: nominal, codes: {%s}, variants: {Soprano: [Sopranno]}", paste0(1:4, ": ", parts, collapse = ", "))),
    entry(paste0("text", 1:6), "level: text"), vapply(1:10, split, ""), vapply(1:30, score, ""),
    sprintf("  low%d: {label: Lower part %d, recode: {of: part%d, to: {0: [Soprano, Alto], 1: [Tenor, Bass]}}, codes: {0: No, 1: Yes}}", 1:8, 1:8, 1:8),
    sprintf("  band%d: {label: Number %d in bands, bands: {of: number%d, starts: {1: 0, 2: 34, 3: 67}}, codes: {1: Low, 2: Middle, 3: High}}", 1:10, 1:10, 1:10)
  ), path)
}

# What a skilled hand writes: match, findInterval, rowMeans, whole columns throughout.
hand_written <- function(file, out) sprintf(paste(c(
  "library(data.table)",
  "raw <- fread('%s', colClasses = 'character', na.strings = NULL, showProgress = FALSE)",
  "agree <- c('Strongly disagree', 'Disagree', 'Neither', 'Agree', 'Strongly agree'); voices <- c('Soprano', 'Alto', 'Tenor', 'Bass')",
  "ledger <- list(); d <- list(singer = raw$key, part16 = match(raw$part16, c('Yes', 'No')))",
  "note <- function(name, text, value) { odd <- which(is.na(value) & nzchar(text)); if (length(odd)) ledger[[name]] <<- data.table(respondent = raw$key[odd], variable = name, was = text[odd]) }",
  "coded <- function(name, labels, from, to) { text <- trimws(raw[[name]]); u <- unique(text); v <- u; v[v == from] <- to; code <- match(v, labels)[match(text, u)]; note(name, text, code); code }",
  "for (j in 1:60) d[[paste0('item', j)]] <- coded(paste0('item', j), agree, 'Agre', 'Agree')",
  "for (j in 51:60) { x <- d[[paste0('item', j)]]; x[d$part16 %%in%% 2L] <- NA; d[[paste0('item', j)]] <- x }",
  "for (j in 1:20) { name <- paste0('number', j); text <- raw[[name]]; u <- unique(text); v <- u; v[v == 'three'] <- '3'; x <- suppressWarnings(as.numeric(v))[match(text, u)]; note(name, text, x); x[x < 0 | x > 100] <- NA; d[[name]] <- x }",
  "for (j in 1:15) d[[paste0('part', j)]] <- coded(paste0('part', j), voices, 'Sopranno', 'Soprano')",
  "for (j in 1:6) d[[paste0('text', j)]] <- raw[[paste0('text', j)]]",
  "for (j in 1:10) { text <- raw[[paste0('heard', j)]]; u <- unique(text); cut <- strsplit(u, ';', fixed = TRUE); at <- match(text, u); known <- c('Radio', 'Press', 'Friends', 'Posters')",
  "  long <- data.table(id = rep(seq_along(cut), lengths(cut)), part = unlist(cut)); for (k in 1:4) d[[paste0('heard', j, '_', k)]] <- as.integer(seq_along(u) %%in%% long$id[long$part == known[k]])[at]",
  "  words <- long[!part %%in%% known]; d[[paste0('heard', j, '_other')]] <- as.integer(seq_along(u) %%in%% words$id)[at]; d[[paste0('heard', j, '_words')]] <- words$part[match(seq_along(u), words$id)][at] }",
  "for (j in 1:30) { of <- (j - 1) %%%% 10 * 6 + 1:6; m <- as.matrix(as.data.table(d[paste0('item', of)])); r <- j %%/%% 11 + 1; m[, r] <- 6 - m[, r]; x <- rowMeans(m, na.rm = TRUE); x[rowSums(!is.na(m)) < 4] <- NA; d[[paste0('score', j)]] <- x }",
  "for (j in 1:8) d[[paste0('low', j)]] <- c(0L, 0L, 1L, 1L)[d[[paste0('part', j)]]]",
  "for (j in 1:10) d[[paste0('band', j)]] <- findInterval(d[[paste0('number', j)]], c(0, 34, 67))",
  "setDT(d); dir.create('%s'); fwrite(d, file.path('%s', 'analysis.csv'), showProgress = FALSE); fwrite(rbindlist(ledger), file.path('%s', 'ledger.csv'), showProgress = FALSE)"
), collapse = "\n"), file, out, out, out)

for (n in sizes_given(c(2e5, 1e6))) {
  project <- bench_project(n, make_broad, broad_codebook)
  file <- file.path(project, "raw/spring.csv")
  compare_jobs(n, file, c(
    "fread, all as text" = read_as_text(file),
    "by hand, data.table" = hand_written(file, file.path(project, "hand")),
    "build" = sprintf("library(mavik); write_study(build_study('%s'))", project)
  ), fresh = file.path(project, c("hand", "out", ".mavik")))
  unlink(project, recursive = TRUE)
}
