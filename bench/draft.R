# The judge of drafts: tables whose truth is known, drafted, and held against the truth
# entry by entry. One half is kept aside while the draft is worked on.
#
#   Rscript bench/draft.R [open|aside] [--show]

suppressPackageStartupMessages({ library(mavik); library(data.table) })
core <- asNamespace("mavik")
if (!exists("here")) here <- dirname(normalizePath(sub("--file=", "", grep("--file=", commandArgs(), value = TRUE))))
source(file.path(here, "draft", "made.R"))
work <- file.path(tempdir(), "draft")
dir.create(work, showWarnings = FALSE)

# ---- the sets ----

# The tables of a package from its source, fetched once into a folder of the system.
package_table <- function(package, name) {
  kept <- file.path(tools::R_user_dir("mavik", "cache"), "bench")
  dir.create(kept, recursive = TRUE, showWarnings = FALSE)
  source <- list.files(kept, paste0("^", package, "_.*gz$"), full.names = TRUE)
  if (length(source) == 0) source <- utils::download.packages(package, kept, type = "source", quiet = TRUE)[1, 2]
  folder <- file.path(work, package)
  if (!dir.exists(folder)) utils::untar(source[1], exdir = work)
  held <- new.env()
  load(list.files(file.path(folder, "data"), paste0("^", name, "[.]r"), full.names = TRUE, ignore.case = TRUE)[1], held)
  as.data.frame(held[[ls(held)[1]]])
}

real_sets <- function() {
  lapply(yaml::read_yaml(file.path(here, "draft", "real.yml"), handlers = list("bool#yes" = identity, "bool#no" = identity)), function(one) {
    frame <- do.call(package_table, as.list(strsplit(one$from, " ")[[1]]))
    if (!is.null(one$every)) frame <- frame[(seq_len(nrow(frame)) - 1) %% (2 * one$every) == 0, ]
    if (!is.null(one$rows)) frame <- utils::head(frame, one$rows)
    frame <- frame[names(one$columns)]
    frame[] <- lapply(frame, function(x) { x <- as.character(x); x[is.na(x)] <- ""; x })
    list(frame = frame, truth = one$columns, layout = one$layout, set = one$set)
  })
}

made_sets <- function() {
  layouts <- c("plain", "semicolon", "two_rows", "titled", "tab", "plain", "semicolon")
  of <- function(half, set, seed) Map(function(questions, name, at) {
    c(made_set(questions, c(1040, 320, 700, 260, 900, 400, 500)[at], seed + at), list(layout = layouts[at], set = set))
  }, half, names(half), seq_along(half))
  made <- c(of(open_half, "open", 100), of(aside_half, "aside", 200))
  names(made) <- paste0("made_", names(made), ifelse(vapply(made, `[[`, "", "set") == "open", "", "_2"))
  made
}

# Writes a set as a file of its layout; gives the path.
write_set <- function(name, one) {
  path <- file.path(work, paste0(name, ".csv"))
  mark <- c(plain = ",", semicolon = ";", titled = ",", tab = "\t", two_rows = ",")[[one$layout]]
  quote <- function(x) ifelse(grepl(paste0("[\"\n", mark, "]"), x), paste0("\"", gsub("\"", "\"\"", x), "\""), x)
  head <- names(one$frame)
  lines <- c(
    if (one$layout == "titled") c("The survey of the valley", ""),
    if (one$layout == "two_rows") paste(paste0("Q", seq_along(head)), collapse = mark),
    paste(quote(head), collapse = mark),
    do.call(paste, c(lapply(one$frame, quote), sep = mark))
  )
  writeLines(enc2utf8(lines), path, useBytes = TRUE)
  path
}

# ---- the judgement ----

judge_set <- function(name, one) {
  path <- write_set(name, one)
  file <- file.path(work, paste0(name, ".yml"))
  writeLines(enc2utf8(unclass(draft_codebook(path, project = work))), file, useBytes = TRUE)
  book <- core$compile_codebook(core$as_codebook(file))
  study <- tryCatch(build_study(file), error = function(e) e)
  if (inherits(study, "error")) {
    cat(name, "does not build:", conditionMessage(study), "\n")
    return(data.frame(set = one$set, name = name, column = names(one$truth), mistake = "build", lost = 0L, moved = 0L))
  }
  columns <- names(one$frame)
  at <- if (one$layout == "two_rows") paste0("Q", seq_along(columns)) else gsub("[ \n]+", " ", columns)
  edits <- attr(check_study(study)$proposals, "edits")
  rows <- lapply(seq_along(columns), function(i) {
    judge_column(columns[i], at[i], one, book, study, edits)
  })
  data.frame(set = one$set, name = name, do.call(rbind, rows))
}

judge_column <- function(heading, column, one, book, study, edits) {
  truth <- one$truth[[heading]]
  cells <- trimws(one$frame[[heading]])
  export <- book$exports[[1]]
  variable <- Filter(function(v) v$way == "column" && column %in% core$columns_of(v), book$variables)[1][[1]]
  key <- identical(export$key, column)
  role <- if (key) "key" else if (identical(export$response, column)) "key" else if (column %in% export$ignored) "paradata" else
    if (is.null(variable)) "none" else if (isTRUE(variable$private)) "private" else "question"
  wanted <- if (is.null(truth$role)) "question" else truth$role
  mistakes <- c()
  lost <- moved <- 0L
  if (role != wanted) mistakes <- "role"
  else if (role == "question") {
    mistakes <- c(
      if (!variable$level %in% truth$level) "level", codes_wrong(variable, truth, cells),
      missing_wrong(variable, truth, book, export), range_wrong(variable, truth, cells),
      universe_wrong(variable, truth, one, study, heading, column)
    )
    gaps <- unlist(truth$missing)
    value <- core$column_of(study, variable$name)
    lost <- sum(is.na(study$data[[variable$name]]) & nzchar(cells) & !cells %in% gaps)
    moved <- moved_by(variable, edits, cells, truth, study)
  }
  data.frame(column = heading, mistake = paste(mistakes, collapse = "+"), lost = lost, moved = moved)
}

# The labels, and the order of those that have one.
codes_wrong <- function(variable, truth, cells) {
  if (isTRUE(truth$bare) || isTRUE(truth$free)) return(NULL)
  if (is.null(truth$codes)) return(if (length(variable$codes$label) > 0) "codes")
  wanted <- as.character(unlist(truth$codes))
  mine <- if (is.null(variable$codes)) character() else variable$codes$label[order(variable$codes$code)]
  if (!setequal(mine, wanted)) return("codes")
  ordered <- "ordinal" %in% truth$level && is.null(truth$any)
  if (!ordered) return(NULL)
  if (!identical(mine, wanted) && !(isTRUE(truth$down) && identical(mine, rev(wanted)))) "order"
}

# Forms of gaps are gaps; answers are none.
missing_wrong <- function(variable, truth, book, export) {
  forms <- as.character(unlist(truth$missing))
  reads <- function(texts) core$decode_cells(texts, variable, export, book)
  if (length(forms) > 0) {
    read <- reads(forms)
    reason <- book$reasons$name[pmax(read$reason, 1)]
    if (any(read$reason == 0 | reason %in% c("set_aside", "no_answer") & is.na(core$text_to_number(forms)) | read$kind == "unlisted")) return("missing")
  }
  labels <- as.character(unlist(truth$codes))
  if (length(labels) > 0 && any(reads(labels)$reason > 0 & reads(labels)$kind != "unlisted")) return("missing")
  NULL
}

# A range holds every answer and none of the missing codes.
range_wrong <- function(variable, truth, cells) {
  if (is.null(variable$range)) return(if (isTRUE(truth$bare) && "ordinal" %in% truth$level && !is.null(truth$range) && length(variable$codes$label) == 0) "range")
  number <- suppressWarnings(as.numeric(sub(",", ".", cells[!cells %in% unlist(truth$missing)])))
  gaps <- suppressWarnings(as.numeric(unlist(truth$missing)))
  inside <- function(x) x >= variable$range[1] & x <= variable$range[2]
  exact <- is.null(truth$range) || identical(as.numeric(variable$range), as.numeric(truth$range))
  if (!all(inside(number), na.rm = TRUE) || any(inside(gaps), na.rm = TRUE) || !exact) "range"
}

# The same respondents are asked.
universe_wrong <- function(variable, truth, one, study, heading, column) {
  n <- nrow(one$frame)
  asked <- if (is.null(truth$universe)) rep(TRUE, n) else {
    where <- eval(str2lang(truth$universe), lapply(one$frame, function(x) { number <- suppressWarnings(as.numeric(x)); if (all(is.na(number) == !nzchar(x))) number else x }))
    where & !is.na(where)
  }
  mine <- if (is.null(variable$universe)) rep(TRUE, n) else {
    condition <- core$checked_condition(variable$universe$text, study$book)
    truth_value <- core$truth_of(condition, study)
    line <- order(study$records$line)
    # Where the filter itself is blank nobody knows.
    unknown <- is.na(truth_value[line])
    asked[unknown] <- TRUE
    (truth_value %in% TRUE)[line] | unknown
  }
  if (mean(asked == mine) < 0.985) "universe"
}

# Cells that are an answer of the truth and are read, or proposed to be read, as another.
moved_by <- function(variable, edits, cells, truth, study) {
  labels <- as.character(unlist(truth$codes))
  proposed <- unlist(lapply(edits, function(one) if (identical(one$variable, variable$name) && identical(one$key, "variants")) one$items))
  as_drafted <- character()
  if (length(labels) > 0 && length(variable$codes$label) > 0) {
    read <- variable$codes$label[match(study$data[[variable$name]], variable$codes$code)][order(study$records$line)]
    as_drafted <- cells[cells %in% labels & !is.na(read) & core$text_fold(read) != core$text_fold(cells)]
  }
  length(as_drafted) + sum(cells %in% labels & cells %in% proposed)
}

main <- function() {
  given <- commandArgs(TRUE)
  sets <- c(real_sets(), made_sets())
  half <- intersect(given, c("open", "aside"))
  if (length(half) > 0) sets <- Filter(function(one) one$set %in% half, sets)
  found <- do.call(rbind, Map(judge_set, names(sets), sets))
  if ("--show" %in% given) {
    wrong <- found[nzchar(found$mistake) | found$lost > 0 | found$moved > 0, ]
    print(wrong[c("name", "column", "mistake", "lost", "moved")], row.names = FALSE, right = FALSE)
  }
  for (half in unique(found$set)) for (kind in c("real", "made", "all")) {
    one <- found[found$set == half & (kind == "all" | startsWith(found$name, "made_") == (kind == "made")), ]
    if (nrow(one) == 0) next
    share <- function(what) sprintf("%3.0f%%", 100 * mean(!grepl(what, one$mistake)))
    cat(sprintf("%-6s %-5s %3d entries: wholly %3.0f%%", half, kind, nrow(one), 100 * mean(!nzchar(one$mistake))),
      paste0(" role ", share("role"), " level ", share("level"), " codes ", share("codes"), " order ", share("codes|order"),
        " missing ", share("missing"), " range ", share("range"), " universe ", share("universe"),
        " lost ", sum(one$lost), " moved ", sum(one$moved)), "\n")
  }
}

if (sys.nframe() == 0L) {
  options(width = 160)
  main()
}
