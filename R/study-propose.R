# Lines of the codebook that would settle findings. Each is one edit: a form
# under a value (`variants`), or an item of a list (`ignored`, `dates`).

propose_lines <- function(study) {
  found <- open_findings(findings(study))
  hidden <- private_variables(study$book)
  made <- lapply(which(!found$variable %in% hidden), function(at) propose_line(found[at, ], found, study$book))
  made <- Filter(Negate(is.null), made)
  id <- vapply(made, function(one) paste(c(one$path, one$key, one$target, one$item), collapse = "\r"), "")
  lapply(unname(split(made, factor(id, unique(id)))), function(same) {
    one <- same[[1]]
    one$of <- vapply(same, `[[`, "", "of")
    one
  })
}

propose_line <- function(finding, found, book) {
  edit <- switch(finding$kind, unlisted = propose_form(finding, found, book), write_in_or_label = propose_form(finding, found, book), unused_column = propose_ignored(finding, book))
  if (is.null(edit)) return(NULL)
  c(edit, list(variable = finding$variable, of = paste(finding$kind, finding$variable, finding$written)))
}

propose_ignored <- function(finding, book) {
  path <- strsplit(finding$path, " > ", fixed = TRUE)[[1]]
  list(path = path[-length(path)], key = "ignored", item = finding$written, exists = length(book$exports[[path[2]]]$ignored) > 0)
}

# A text very near to a label, a bare code among labels, or a date in another pattern.
propose_form <- function(finding, found, book) {
  variable <- book$variables[[finding$variable]]
  if (is.null(variable) || variable$way != "column") return(NULL)
  if (is_date(variable)) {
    pattern <- fitting_pattern(finding$written, variable$level)
    if (is.null(pattern)) return(NULL)
    return(list(path = entry_path(variable, "dates", finding, found), key = "dates", item = pattern, exists = !is.null(variable$dates)))
  }
  if (!is_coded(variable)) return(NULL)
  label <- nearest(finding$written, variable$codes$label, most = 0.34)
  number <- text_to_number(finding$written)
  if (is.null(label) && !is.na(number) && number %in% variable$codes$code) label <- variable$codes$label[match(number, variable$codes$code)]
  if (is.null(label)) return(NULL)
  list(path = entry_path(variable, "variants", finding, found), key = "variants", target = label, item = finding$written, exists = length(variable$variants) > 0)
}

# Where the key stands already; else the block where several of its items have
# the same trouble; else the entry.
entry_path <- function(variable, key, finding, found) {
  origin <- variable$origin[[key]]
  if (!is.null(origin)) return(origin[-length(origin)])
  same <- found$kind == finding$kind & text_fold(found$written) == text_fold(finding$written)
  if (!is.null(variable$block) && sum(same) > 1) variable$path[seq_len(2)] else variable$path
}

proposal_table <- function(proposals, book) {
  words <- vapply(proposals, function(one) if (is.null(one$target)) paste0(one$key, ": [", yaml_word(one$item), "]") else paste0(one$key, ": {", yaml_word(one$target), ": [", yaml_word(one$item), "]}"), "")
  paths <- vapply(proposals, function(one) paste(one$path, collapse = " > "), "")
  out <- data.frame(number = seq_along(proposals), path = paths, adds = words, line = vapply(paths, function(path) line_of_path(book, path), 0L, USE.NAMES = FALSE))
  attr(out, "edits") <- proposals
  out
}

#' Add proposed lines to the codebook
#'
#' @param checked What [check_study()] returned for a codebook that is a file.
#' @param numbers Which of `checked$proposals`; all of them if not said.
#' @param write Whether to change the file; else only the change is shown.
#' @return The change as a data frame, invisibly where it was written: `line` and
#'   `text`, and `change` (`-` for the old line, `+` for the new). Comments and
#'   order of the file stay.
#' @section Errors: A number that is no proposal; a codebook that is no file, or
#'   was changed since; a change after which the codebook would not hold: then
#'   nothing is written.
#' @examples
#' project <- demo_project(tempfile())
#' apply_proposals(check_study(project), write = FALSE)
#' @export
apply_proposals <- function(checked, numbers = checked$proposals$number, write = TRUE) {
  if (is.null(checked$file)) stop_mavik("codebook_error", "this codebook is no file: change the list, or write it first")
  if (is_workbook(checked$file)) stop_mavik("codebook_error", basename(checked$file), ": is a workbook: add the lines there yourself, or keep the codebook as YAML")
  odd <- setdiff(numbers, checked$proposals$number)
  if (length(odd) > 0) stop_mavik("codebook_error", number_to_text(odd[1]), " is not the number of a proposed line: there are ", count_of(nrow(checked$proposals), "of them", "of them"))
  old <- codebook_lines(checked$file)
  new <- old
  for (one in attr(checked$proposals, "edits")[match(numbers, checked$proposals$number)]) new <- apply_edit(new, one)
  compile_codebook(parse_lines(new, checked$file))
  change <- text_change(old, new)
  if (!write) return(change)
  if (nrow(change) > 0) write_text(new, checked$file)
  invisible(change)
}

apply_edit <- function(lines, edit) {
  marks <- scan_yaml(lines)$marks
  there <- function(...) path_id(c(edit$path, edit$key, ...)) %in% marks$id
  if (is.null(edit$target)) {
    if (there()) return(text_add_item(lines, c(edit$path, edit$key), edit$item))
    return(text_add_pair(lines, edit$path, edit$key, paste0("[", yaml_word(edit$item), "]")))
  }
  if (there(edit$target)) return(text_add_item(lines, c(edit$path, edit$key, edit$target), edit$item))
  if (there()) return(text_add_pair(lines, c(edit$path, edit$key), edit$target, paste0("[", yaml_word(edit$item), "]")))
  text_add_pair(lines, edit$path, edit$key, paste0("{", yaml_word(edit$target), ": [", yaml_word(edit$item), "]}"))
}
