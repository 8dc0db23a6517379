#' Align a new wave with the codebook
#'
#' Compares the exports of a new wave with the codebook and its earlier waves:
#' which column is which variable, where code lists differ, and the lines of the
#' codebook that would decide it. Nothing is matched by position alone.
#'
#' @param codebook Path of a codebook file or its project folder.
#' @param wave The name of the wave.
#' @param files Paths of its exports; those that the codebook names already if not said.
#' @param decisions A data frame as [read_decisions()] gives it (at least `match`, `column`,
#'   `wording`, `variable`, `writes` and `decision`): `accept`, `reject`, the variable that a
#'   column is, or the column in which a question stands. What was rejected is not proposed again.
#' @param rules Which rules match a column: `"name"`, `"wording"` (both also but for capitals, marks
#'   at the end and the question's number), `"codes"` (the same code list, where only one question
#'   has it). Where words changed, the name counts only if no other question is worded as nearly.
#' @param merge_options Whether options that the new wave adds are proposed for the code list.
#' @param keep_label Where a label changed, whether the `"older"` is kept or the `"newer"` takes its
#'   place.
#' @param label The label of the wave.
#' @param sheet The sheet of a workbook that has several.
#' @return A `mavik_align`: a list with `wave`, `against` (the wave compared with),
#'   `columns` (a data frame, a row a column or question: `match`, one of `same`, `rule`,
#'   `possible`, `only_codebook`, `only_new`, `decided`, and `already_decided` and `already_absent`
#'   of what the codebook says of the wave; `column`, `wording`, `variable`,
#'   `rule`, `grounds`, `candidates`), `codes` (a data frame of code lists side by side:
#'   `variable`, `change`, `before`, `now`, `grounds`), `counts` (of each match, named),
#'   `lines` (a data frame of proposals: `line`, `match`, `column`, `wording`, `variable`,
#'   `grounds`, `candidates`, `writes`, `effect` (in words what it changes), `decision`, `sure`),
#'   `assignments` (where labels became bare numbers, for each reading: `variable`, `column`,
#'   `reading`, `distance` of the shares from 0 to 1, mean difference of the `correlations` with
#'   how many `others`, share of the `same_persons` who answered alike, `delivered`),
#'   `shares` (the answers of what differs side by side: `variable`, `column`, `reading` (where
#'   numbers may stand for several things), `answer`, the counts `before` and `now`, and what they
#'   are counted of, `of_before` and `of_now`), `stranger` (words where hardly a column is any of
#'   the codebook's) and `rejected`.
#' @section Direction: Where a file holds codes without labels, a list that runs the other way
#'   shows in shares that mirror those of the earlier wave, in correlations with items outside
#'   the list that change their sign (inside a list that flips as a whole they stay the same),
#'   and, in a panel, in the answers of the same persons.
#' @section Errors: Those of [read_codebook()], [build_study()] (of the earlier waves) and
#'   [read_export()].
#' @examples
#' project <- demo_project(tempfile())
#' alignment <- align_wave(project, "autumn", file.path(project, "raw/autumn.xlsx"))
#' alignment$counts
#' alignment$lines[, c("match", "variable", "writes")]
#' @export
align_wave <- function(
  codebook, wave, files = NULL, decisions = NULL, rules = c("name", "wording", "codes"),
  merge_options = TRUE, keep_label = c("older", "newer"), label = NULL, sheet = NULL
) {
  keep_own_options()
  path <- codebook_file(codebook)
  if (is_workbook(path)) stop_mavik(
    "codebook_error", basename(path),
    ": is a workbook; a wave is aligned with a codebook kept as YAML"
  )
  keep_label <- match.arg(keep_label)
  check_decisions(decisions)
  check_names(wave, "waves", part_name, function(path, message) stop_mavik("usage_error", message))
  odd <- setdiff(rules, c("name", "wording", "codes"))
  if (length(odd) > 0) stop_mavik(
    "usage_error", "`", odd[1], "` is not a rule; they are ", some_of(c("name", "wording", "codes"))
  )
  document <- parse_codebook(path)
  before <- compile_earlier(document, wave)
  own <- wave_exports(document, wave, files, before, sheet)
  study <- build_book(before)
  slots <- find_slots(study)
  paired <- pair_columns(
    slots, own, study, rules, forced_pairs(decisions, own, study),
    decided_pairs(document, wave, slots)
  )
  if (!is.null(decisions)) paired <- without_rejected(paired, decisions, study)
  own$extra <- paired$extra
  pairs <- lapply(paired$pairs, add_codes, own = own, study = study)
  own$cells <- cells_of_file(pairs)
  for (k in seq_along(pairs)) if (!is.na(pairs[[k]]$column) && !is_told(pairs[[k]]))
    pairs[[k]]$cells <- own$cells
  pairs <- judge_forms(judge_directions(pairs, own, study), own, study)
  changed <- vapply(pairs, function(pair) !is.null(pair$assignments), TRUE)
  # A file whose lists became numbers is read as labels until a person has said what the
  # numbers stand for: nothing is misread meanwhile.
  if (any(changed)) own$cells <- "labels"
  options <- list(merge = merge_options, keep_label = keep_label, label = label)
  alignment <- align_result(pairs, own, study, options, path)
  alignment$stranger <- stranger_hint(pairs, own, study)
  if (nzchar(alignment$stranger)) alignment$lines$sure[] <- FALSE
  drop_decided(alignment, decisions)
}

# What most of the code lists are in the file; a list counts once, however many items it has.
cells_of_file <- function(pairs) {
  told <- Filter(is_told, pairs)
  lists <- vapply(told, function(pair) list_of_codes(pair$slot$version), "")
  cells <- vapply(told, `[[`, "", "cells")[!duplicated(lists)]
  if (sum(cells == "codes") > sum(cells == "labels")) "codes" else "labels"
}

# Whether the cells of a column tell labels from codes.
is_told <- function(pair) !is.na(pair$column) && pair$slot$version$storage == "coded" &&
  !is.na(pair$cells) && pair$fit[["labels"]] != pair$fit[["codes"]]

# The codebook as it was before the wave: without it and all that is said of it.
compile_earlier <- function(document, wave) {
  old <- unclass_document(document)
  mine <- names(Filter(function(export) identical(at_key(export, "wave"), wave), old$exports))
  mine <- c(
    mine, names(Filter(function(export) isTRUE(at_key(export, "adds_to") %in% mine), old$exports))
  )
  old$waves[[wave]] <- NULL
  if (length(old$waves) == 0) stop_mavik(
    "build_error", "`", wave,
    "` is the only wave of the codebook: there is none to align it with; `mavik draft` makes a ",
    "first codebook"
  )
  if (identical(old$study$wording, wave)) old$study$wording <- NULL
  old$exports[mine] <- NULL
  drop <- function(entry) {
    if (!is_map(entry)) return(entry)
    for (by in c("by_wave", "by_export")) if (is_map(entry[[by]])) {
      entry[[by]] <- entry[[by]][setdiff(names(entry[[by]]), if (by == "by_wave") wave else mine)]
      if (length(entry[[by]]) == 0) entry[[by]] <- NULL
    }
    if (is_map(entry$items)) entry$items <- lapply(entry$items, drop)
    if (is_map(at_key(entry$split, "options"))) entry$split$options <- lapply(
      entry$split$options, drop
    )
    entry
  }
  old$variables <- lapply(old$variables, drop)
  # What only the new wave asks is not there before it.
  waves <- names(old$waves)
  new_only <- function(entry) is_map(entry) && is_map(entry$by_wave) && all(vapply(
    waves, function(wave) identical(entry$by_wave[[wave]], "absent"), TRUE
  ))
  old$variables <- old$variables[!vapply(old$variables, new_only, TRUE)]
  used <- setdiff(names(document$variables), names(old$variables))
  compiled <- function(doc) compile_codebook(new_codebook(
    doc, attr(document, "file"), NULL, attr(document, "project")
  ))
  # Where something is made of a question that only the new wave asks, it is kept.
  if (length(used) > 0) {
    lean <- tryCatch(compiled(old), mavik_codebook_error = function(e) NULL)
    if (!is.null(lean)) return(lean)
    old$variables <- lapply(unclass_document(document)$variables, drop)
  }
  compiled(old)
}

# The new wave's files as read, and what each is.
wave_exports <- function(document, wave, files, before, sheet) {
  project <- attr(document, "project")
  of_wave <- function(export) identical(at_key(export, "wave"), wave)
  known <- Filter(of_wave, unclass_document(document)$exports)
  if (length(files) == 0) files <- known_files(known, wave, project)
  for (file in files) check_file(file, file)
  inside <- with_names(vapply(files, named_from, "", project = project, USE.NAMES = FALSE), files)
  earlier <- unlist(lapply(before$exports, export_files, book = before))
  twice <- inside[inside %in% earlier]
  if (length(twice) > 0) stop_mavik(
    "usage_error", twice[1], ": is an export of an earlier wave already"
  )
  # What the codebook says of a file beats what a look at it finds.
  form_of <- function(file) {
    said <- Filter(function(export) identical(export$file, inside[[file]]), known)
    if (length(said) == 0) return(find_form(file, sheet))
    stop_at <- function(path, message) stop_mavik("codebook_error", "exports: ", message)
    read_fields(said[[1]], export_fields(), "exports", stop_at)[
      c("heading", "skip", "delimiter", "encoding", "sheet")
    ]
  }
  sorted <- sort_files(as.list(unname(files)), sheet, form_of)
  stop_joined(sorted, "align that one, then add this with `mavik draft FILE --onto CODEBOOK`")
  data <- lapply(seq_along(sorted$data), function(k) c(
    sorted$data[[k]][c("form", "export")],
    list(inside = inside[[sorted$data[[k]]$file]], parallel = sorted$role[k] == "parallel")
  ))
  own <- lapply(sorted$data[sorted$role != "parallel"], `[[`, "export")
  bound <- if (length(own) == 1) own[[1]] else bind_exports(own)
  seen <- if (length(own) == 1) sorted$seen[[1]] else look_at(bound, data[[1]]$form)
  list(
    wave = wave, files = data, export = bound, answers = answer_sets(bound),
    seen = seen, known = names(known),
    known_cells = unlist(lapply(known, at_key, "cells")), decimal = seen$form$decimal,
    code_labels = sorted$labels
  )
}

# The files of the exports that the codebook names for the wave.
known_files <- function(known, wave, project) {
  if (length(known) == 0) stop_mavik(
    "usage_error", "the codebook knows no export of wave `", wave,
    "`: name its files, `mavik align ", wave, " raw/", wave, ".xlsx`"
  )
  book <- list(project = project)
  unlist(lapply(known, function(export) {
    paths <- lapply(export_files(export, book), function(file) export_path(list(file = file), book))
    unlist(paths)
  }), use.names = FALSE)
}

# Every raw column that the codebook reads, as it was called and asked before,
# the latest wave first.
find_slots <- function(study) {
  book <- study$book
  exports <- rev(platform_exports(book$exports))
  slots <- list()
  for (variable in book$variables) {
    if (!is_answer(variable) || (holds_words(variable) && !isTRUE(variable$settings$own))) next
    for (export in exports) {
      version <- version_in(variable, export)
      if (is_absent(version)) next
      reads <- way_of(version)$reads(version)
      # Beside a single choice the words of a write-in have a place of their own.
      for (role in setdiff(names(reads), if (holds_one(variable)) ".written")) {
        id <- paste(variable$name, role)
        if (is.null(slots[[id]])) slots[[id]] <- list(
          variable = variable$name, role = role, version = version, wave = export$wave,
          export = export
        )
        slots[[id]]$columns <- unique(c(slots[[id]]$columns, reads[[role]]))
        slots[[id]]$questions <- unique(c(
          slots[[id]]$questions, question_at(study, export, reads[[role]])
        ))
        if (is.null(slots[[id]]$place)) slots[[id]]$place <- match(
          reads[[role]], study$asked[[export$name]]$names
        ) / length(study$asked[[export$name]]$names)
      }
    }
  }
  # A question with its own column of write-ins reads it twice.
  first <- vapply(slots, function(slot) slot$columns[1], "")
  lead <- !duplicated(first)
  for (k in which(!lead)) slots[[match(first[k], first)]]$also <- c(
    slots[[match(first[k], first)]]$also, list(slots[[k]][c("variable", "role")])
  )
  unname(slots[lead])
}

question_at <- function(study, export, column) {
  asked <- study$asked[[export$name]]$questions
  if (is.null(asked) || is.na(asked[column]) || !nzchar(asked[column])) character() else
    unname(asked[column])
}

# A file of which hardly a column is any of the codebook's is perhaps of another study.
stranger_hint <- function(pairs, own, study) {
  met <- sum(vapply(pairs, function(pair) !is.na(pair$column) && pair$match != "possible", TRUE))
  columns <- length(own$export$names)
  if (met >= 0.2 * min(length(pairs), columns)) return("")
  paste0(
    "of ", count_of(columns, "column"), " of this file ", if (met == 0) "none is" else
      paste(met, if (met == 1) "is" else "are"), " a question of ", study$book$study$title,
    ": is it the right file, and its heading found?"
  )
}
