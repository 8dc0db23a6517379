#' Draft a first codebook from exports
#'
#' Finds out the layout of the files and what each column seems to hold, and
#' writes a commented codebook that builds. Each guess has its grounds behind it,
#' to be reviewed: the draft may guess, a build never does.
#'
#' @param files Paths of the exports of one wave, or a data frame. A further file
#'   with the same respondents becomes an export that adds to the first, and
#'   where one holds words and the other codes, the codes are learnt from both;
#'   one with other respondents is stacked; one with other questions of the same
#'   respondents, a record each, adds to the first too, by their key; one of two or three columns
#'   (variable, code, label) gives the labels of codes.
#' @param sheet The sheet of a workbook that has several.
#' @param wave_column The heading of the column that tells the waves of one file apart:
#'   each of its texts becomes a wave.
#' @param project The folder in which the codebook will stand; the files are
#'   named from there.
#' @return The codebook's text, a character vector of lines of class
#'   `mavik_draft`. [build_study()] and whatever else takes a codebook takes it as it is
#'   (with `exports = df` where a data frame was drafted); [write_codebook()] and
#'   [writeLines()] write it, with its comments; `summary()` is the table of its variables.
#' @section Data frames: A factor gives its levels, an ordered one their order; the attribute
#'   `label` of a column is the label of the variable, and the attribute `labels` (whole numbers,
#'   named) its codes and their labels. Where it names gaps alone the column stays a number, where
#'   it names the ends of a rating the other points are codes too; a code beside a list that names
#'   most answers is left to be found by the build. Labels without a place stand in the comment.
#' @section Errors: Those of [read_export()]; files that share too few columns
#'   and no respondents.
#' @examples
#' project <- demo_project(tempfile())
#' draft <- draft_codebook(file.path(project, "raw/spring.csv"), project = project)
#' head(draft, 12)
#' build_study(draft)
#' singers <- data.frame(
#'   member = c("m1", "m2", "m3", "m4", "m5", "m6"), voice = factor(rep(c("Alto", "Bass"), 3)),
#'   years = c(3, 12, 7, 25, 1, 8)
#' )
#' build_study(draft_codebook(singers), exports = singers)
#' @export
draft_codebook <- function(files, sheet = NULL, project = NULL, wave_column = NULL) {
  keep_own_options()
  files <- if (is.data.frame(files)) list(files) else as.list(files)
  sorted <- sort_files(files, sheet)
  waves <- if (!is.null(wave_column)) waves_of_files(sorted, wave_column)
  restarts <- any(sorted$role == "restarts")
  sorted$role[sorted$role == "restarts"] <- "stacked"
  together <- sorted$role %in% c("base", "stacked")
  seen <- sorted$seen[[1]]
  whole <- if (sum(together) > 1) bind_exports(lapply(sorted$data[together], `[[`, "export")) else
    sorted$data[[1]]$export
  if (sum(together) > 1) seen <- look_at(whole, seen$form)
  if (restarts) stop_joined(sorted, "draft it apart: the keys stand for several people")
  for (k in which(sorted$role == "joined")) {
    file <- sorted$data[[k]]
    before <- whole$names
    whole <- join_questions(whole, file$export, seen$keys$column, file$joined)
    fresh <- sorted$seen[[k]]$columns[setdiff(whole$names, before)]
    seen$columns <- c(seen$columns, questions_alone(fresh))
  }
  seen <- with_labels(seen, sorted$labels, "by the label file")
  seen <- with_labels(seen, labels_carried(whole), "by the labels that the column carries")
  if (!is.null(waves)) {
    seen$columns <- key_within_waves(seen$columns, sorted$data[[1]]$export, waves)
    seen$columns[[waves$column]]$kind <- "wave"
  }
  plan <- plan_draft(seen)
  if (restarts) plan[c("key", "repeats", "restarts")] <- list("numbered", 0L, TRUE)
  if (!is.null(waves)) plan <- plan_waves(plan, sorted$data[[1]]$export, waves)
  seen$columns <- plan$columns
  plan$exports <- draft_exports(sorted, seen, plan, project)
  plan <- learn_codes(plan, sorted)
  plan$skips <- block_skips(skips_seen(whole, seen, plan), plan)
  structure(unname(enc2utf8(draft_lines(seen, plan))), class = "mavik_draft",
    project = if (!is.null(project)) real_path(project))
}

waves_of_files <- function(sorted, heading) {
  if (length(sorted$data) > 1) stop_mavik("draft_error",
    "a column tells the waves of one file apart, and there are ",
    count_of(length(sorted$data), "file"), ": draft them apart, or align one after the other")
  waves_seen(sorted$data[[1]]$export, heading)
}

# What each file says of itself in the codebook.
draft_exports <- function(sorted, seen, plan, project) {
  names <- make.unique(
    vapply(sorted$data, function(seen) export_name(drafted_file(seen$file, project)), ""), sep = "_"
  )
  used <- c(plan$used, plan$record, plan$waves$column)
  lapply(seq_along(names), function(k) {
    file <- sorted$data[[k]]
    here <- file$export$names
    parallel <- sorted$role[k] == "parallel"
    ground <- vapply(seen$columns[plan$ignored], function(column) comment_text(column$grounds), "")
    elsewhere <- setdiff(
      here, c(names(ground), used, if (plan$key != "numbered") plan$key, file$joined)
    )
    ignored <- c(
      if (!parallel) ground[names(ground) %in% here],
      with_names(
        rep(if (parallel) "in this file only" else "not in the other files", length(elsewhere)),
        elsewhere
      )
    )
    if (parallel) ignored <- ignored[!names(ignored) %in% plan$ignored]
    if (!is.null(file$paired)) {
      rest <- setdiff(here, file$paired$key)
      met <- names(file$paired$columns)[match(rest, file$paired$columns)]
      ignored <- with_names(ifelse(
        is.na(met), "in this file only",
        paste0("by its answers, the codes of \u201c", met, "\u201d")
      ), rest)
    }
    list(name = names[k], file = drafted_file(file$file, project), role = sorted$role[k],
      base = names[1], form = sorted$seen[[k]]$form,
      cells = if (k == 1 && !any(sorted$role == "joined")) seen$cells else sorted$seen[[k]]$cells,
      response = if (
        !is.null(plan$record) && plan$record %in% here
      ) plan$record, ignored = ignored, key = c(file$paired$key, file$joined)[1])
  })
}

# Codes that a parallel holds for the labels of the base.
learn_codes <- function(plan, sorted) {
  for (k in which(sorted$role == "parallel")) {
    if (sorted$seen[[k]]$cells != "codes" || plan$key == "numbered") next
    base <- sorted$data[[1]]$export
    parallel <- sorted$data[[k]]$export
    paired <- sorted$data[[k]]$paired
    if (!is.null(paired)) parallel <- under_base_names(parallel, paired)
    coded <- intersect(unlist(lapply(plan$lists, `[[`, "columns")), parallel$names)
    met <- codes_met(base, parallel, plan$key, coded)
    plan$lists <- lapply(plan$lists, function(list) {
      pairs <- do.call(rbind, unname(met[intersect(list$columns, coded)]))
      codes <- if (!is.null(pairs)) codes_learnt(list$labels, pairs)
      if (is.null(codes)) return(list)
      list$learnt <- met_comment(list$labels, codes, pairs)
      order <- if (list$kind == "scale") seq_along(codes) else order(codes)
      list$codes <- codes[order]
      list$labels <- list$labels[order]
      list
    })
  }
  plan
}

drafted_file <- function(file, project) if (is.character(file)) named_from(file, project) else
  "raw/data.csv"
