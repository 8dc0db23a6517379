#' Add to a codebook what a newer file brings
#'
#' Columns, labels and spellings that the codebook does not know yet are added to
#' its text; every edit, comment and order in it stays. A file with other questions of the
#' same respondents, a record each, becomes an export that adds to theirs.
#'
#' @param codebook Path of a codebook file or its project folder.
#' @param files Paths of the newer exports of one wave, or a data frame.
#' @param sheet The sheet of a workbook that has several.
#' @return A list with `lines` (the new text), `added` (what was added, a line
#'   each, in words) and `left` (what only a person can add: a label that a recode
#'   would have to place). Nothing is written.
#' @section Errors: Those of [read_codebook()] and [read_export()].
#' @examples
#' project <- demo_project(tempfile())
#' draft_onto(project, file.path(project, "raw/spring.csv"))$added
#' @export
draft_onto <- function(codebook, files, sheet = NULL) {
  keep_own_options()
  path <- codebook_file(codebook)
  book <- compile_codebook(parse_codebook(path))
  files <- if (is.data.frame(files)) list(files) else as.list(files)
  sorted <- sort_files(files, sheet)
  stop_joined(sorted, "add one file after the other")
  exports <- lapply(sorted$data, `[[`, "export")
  seen <- if (length(exports) > 1) look_at(bind_exports(exports), sorted$seen[[1]]$form) else
    sorted$seen[[1]]
  edits <- list(lines = codebook_lines(path), added = character(), left = character())
  for (variable in book$variables) edits <- add_answers(edits, variable, seen, book)
  met <- if (length(files) == 1) exports_joined(sorted$data[[1]], book)
  left <- not_added(exports[[1]], met, book)
  if (is.null(left)) {
    joined <- if (length(met) == 1) met[[1]]
    edits <- add_columns(add_export(edits, joined, seen), seen, book, joined)
  } else edits$left <- c(edits$left, paste0(left, "; no column of it was added"))
  # The edited text must read, or nothing is given out.
  compile_codebook(parse_lines(edits$lines, path))
  edits
}

# Why columns of a file are no questions of the study; NULL where they are.
not_added <- function(export, met, book) {
  if (length(met) > 1) return(paste0(
    "the respondents of this file stand in ", some_of(vapply(met, `[[`, "", "base")),
    ": say under `exports` to which of them it `adds_to`"
  ))
  if (length(met) == 1) return(NULL)
  if (is_later_wave(export, book)) paste0(
    "this file is not the one that the codebook reads, by its respondents and their answers: if ",
    "it is a later wave, `mavik align WAVE FILE` adds it"
  ) else if (!reads_alike(export, book))
    "this file has other columns than the codebook reads, and no key of its respondents"
}

# A file of other questions that the same respondents answered is an export of its own.
add_export <- function(edits, met, seen) {
  if (is.null(met)) return(edits)
  edits$lines <- text_add_entries(edits$lines, "exports", c(
    paste0("  ", met$name, ":"), paste0("    adds_to: ", met$base),
    paste0("    file: ", yaml_word(met$file)), paste0("    key: ", yaml_word(met$key)),
    paste0("    cells: ", seen$cells), form_lines(seen$form, character())
  ))
  edits$added <- c(edits$added, paste0(
    "export ", met$name, " of ", met$file, ": more questions of the people of ", met$base
  ))
  edits
}

# Whether a file holds other responses than the export of the codebook: hardly one of its
# respondents, or the same ones with other answers.
is_later_wave <- function(export, book) {
  first <- platform_exports(book$exports)[[1]]
  if (is_numbered(first) || is.null(first$file) || !first$key %in% export$names) return(FALSE)
  path <- export_path(first, book)
  if (is_pattern(first$file) || !file.exists(path)) return(FALSE)
  known <- read_raw(
    path, first[c("heading", "skip", "delimiter", "encoding", "sheet")], first$file
  )
  if (!first$key %in% known$names) return(FALSE)
  mine <- text_trim(known$columns[[first$key]]$cells)
  theirs <- text_trim(export$columns[[first$key]]$cells)
  if (mean(mine %in% theirs) < 0.5) return(TRUE)
  same <- same_answers(known, export, first$key)
  !is.null(same) && same < 0.8
}

# Spellings and labels that a coded variable does not know yet.
add_answers <- function(edits, variable, seen, book) {
  if (
    !holds_one(variable) || !is_coded(variable) || !is.null(variable$delivered) ||
    is.null(seen$columns[[variable$settings]])
  ) return(edits)
  cells <- seen$columns[[variable$settings]]$cells
  held <- file_holds(variable, seen)
  export <- list(cells = held, decimal = seen$form$decimal)
  decoded <- decode_cells(cells$text, variable, export, book)
  fresh <- cells[decoded$kind == "unlisted" & is.na(cells$gap), ]
  if (nrow(fresh) == 0 || held == "codes") return(edits)
  near <- near_spellings(fresh$text, variable$codes$label)
  for (k in which(!is.na(near))) edits <- add_variant(edits, variable, near[k], fresh$text[k])
  frequent <- is.na(near) & fresh$count >= max(2, 0.01 * sum(cells$count)) &
    is.na(text_to_number(fresh$text)) & is.null(variable$range)
  users <- recodes_of(variable, book)
  if (length(users) > 0 && any(frequent)) {
    edits$left <- c(edits$left, paste0(
      "label \u201c", fresh$text[frequent], "\u201d of ", variable$name, " (",
      grouped(fresh$count[frequent]), " cells): ", some_of(users),
      " must say where it goes, so add it to both"
    ))
    return(edits)
  }
  for (k in which(frequent)) {
    edits <- add_code(edits, variable, fresh$text[k], fresh$count[k])
  }
  edits
}

# A new label takes the next free code of the variable or of its list.
add_code <- function(edits, variable, text, count) {
  where <- if (is.null(variable$list)) where_in(variable, "codes") else
    c("code_lists", variable$list, "codes")
  lines <- paste(edits$lines, collapse = "\n")
  known <- yaml::yaml.load(lines, handlers = text_handlers, eval.expr = FALSE)[[where]]
  if (text_fold(text) %in% text_fold(unlist(known))) return(edits)
  code <- number_to_text(max(max(variable$codes$code) + 1L, text_to_number(names(known)) + 1))
  edits$lines <- text_add_pair(edits$lines, where, code, yaml_word(text_squeeze(text)))
  edits$added <- c(edits$added, paste0(
    "label ", code, " \u201c", text, "\u201d of ", paste(where, collapse = " > "), " (",
    grouped(count), " cells)"
  ))
  edits
}

# Recodes name every old code, so a new one is theirs to place.
recodes_of <- function(variable, book) {
  sharing <- names(Filter(
    function(unit) identical(unit$name, variable$name) || (
      !is.null(variable$list) && identical(unit$list, variable$list)
    ),
    book$variables
  ))
  names(Filter(
    function(other) any(way_of(other)$places_codes_of(other) %in% sharing), book$variables
  ))
}

add_variant <- function(edits, variable, label, form) {
  entry <- variable$path
  lines <- edits$lines
  ids <- scan_yaml(lines)$marks$id
  own <- c(entry, "variants")
  if (path_id(c(own, label)) %in% ids) lines <- text_add_item(lines, c(own, label), form)
  else if (path_id(own) %in% ids) lines <- text_add_pair(
    lines, own, label, paste0("[", yaml_word(form), "]")
  )
  else {
    # A block's variants are replaced by an item's own, so they are taken along.
    known <- variable$variants
    known[[label]] <- c(known[[label]], form)
    lines <- text_add_pair(lines, entry, "variants", forms_text(known))
  }
  list(
    lines = lines, left = edits$left,
    added = c(
      edits$added,
      paste0("variant \u201c", form, "\u201d of \u201c", label, "\u201d in ", variable$name)
    )
  )
}

reads_alike <- function(export, book) ask_alike(export, list(names = unique(c(
  columns_asked(book), ignored_among(unlist(lapply(book$exports, `[[`, "ignored")), export$names)
))))

columns_asked <- function(book) unlist(c(
  lapply(book$variables, columns_of),
  lapply(book$exports, function(export) c(export$key, export$response))
))

# Columns that no variable reads and no export ignores.
add_columns <- function(edits, seen, book, met) {
  export <- c(met$name, names(book$exports))[1]
  known <- c(met$key, columns_asked(book))
  passed <- ignored_among(
    unlist(lapply(book$exports, `[[`, "ignored")), names(seen$columns)
  )
  fresh <- seen
  fresh$columns <- seen$columns[setdiff(names(seen$columns), c(known, passed))]
  if (length(fresh$columns) == 0) return(edits)
  plan <- plan_beside(fresh, book)
  for (column in plan$ignored) {
    path <- c("exports", export, "ignored")
    there <- path_id(path) %in% scan_yaml(edits$lines)$marks$id
    edits$lines <- if (there) text_add_item(edits$lines, path, column) else text_add_pair(
      edits$lines, path[1:2], "ignored", paste0("[", yaml_word(column), "]")
    )
    edits$added <- c(
      edits$added, paste0("ignored column `", column, "` (", fresh$columns[[column]]$grounds, ")")
    )
  }
  edits <- add_lists(edits, plan)
  for (entry in entries_beside(fresh, plan)) {
    edits$lines <- text_add_entries(edits$lines, "variables", entry$lines)
    edits$added <- c(edits$added, paste0(
      "variable ", entry$name, " of the ", counted_columns(entry$columns)
    ))
  }
  edits
}

counted_columns <- function(columns) paste0(
  if (length(columns) == 1) "column " else "columns ", paste0("`", columns, "`", collapse = ", ")
)

# Code lists that several new questions share.
add_lists <- function(edits, plan) {
  text <- list_lines(list(lists = Filter(function(list) !isTRUE(list$known), plan$lists)))
  if (is.null(text)) return(edits)
  place <- grep("^code_lists:", edits$lines)
  edits$lines <- if (length(place) > 0) text_add_entries(
    edits$lines, "code_lists", text[-c(1, length(text))]
  ) else append(edits$lines, text, grep("^variables:", edits$lines)[1] - 1)
  edits
}
