# Lines of the codebook that would settle findings. Each is one edit: a form
# under a value (`variants`), a code of its own (`codes`), or items of a list
# (`ignored`, `dates`). None reads a text as another but for a slip of the pen.

propose_lines <- function(study) {
  told <- findings(study)
  asked <- match(finding_id(open_findings(told)), vapply(study$findings, finding_id, ""))
  hidden <- private_variables(study$book)
  open <- study$findings[sort(unique(asked[!is.na(asked)]))]
  open <- Filter(function(finding) !finding$variable %in% hidden && !in_unread(finding, study),
    open)
  made <- unlist(lapply(open, propose_line, open = open, study = study), recursive = FALSE)
  if (length(made) == 0) return(list())
  id <- vapply(
    made, function(proposal) joined_list(
      c(proposal$path, proposal$key, proposal$target, proposal$items)), ""
  )
  lines <- lapply(unname(split(made, factor(id, unique(id)))), function(same) {
    first <- same[[1]]
    first$of <- unlist(lapply(same, `[[`, "of"))
    first$count <- sum(vapply(same, `[[`, 0, "count"))
    first
  })
  number_codes(lines, study)
}

finding_id <- function(finding) joined_id(
  finding$kind, finding$variable, finding$written, finding$path)

# Where a file as a whole was misread, no single cell of it says anything.
in_unread <- function(finding, study) {
  unread <- unlist(lapply(study$findings,
    function(other) if (other$kind == "cells_unread") other$path))
  entries <- vapply(study$book$exports[finding$exports], `[[`, "", "entry")
  length(entries) > 0 && all(paste("exports >", entries) %in% unread)
}

# A list of edits, mostly of one.
propose_line <- function(finding, open, study) {
  edits <- switch(finding$kind,
    unlisted = , write_in_or_label = propose_form(finding, open, study),
    unused_column = list(propose_ignored(finding)),
    code_invented = list(propose_code(finding, study))
  )
  lapply(Filter(Negate(is.null), edits), c, list(
    variable = finding$variable, of = finding_id(finding), count = finding$count
  ))
}

propose_ignored <- function(finding) {
  path <- strsplit(finding$path, " > ", fixed = TRUE)[[1]]
  list(path = path[-length(path)], key = "ignored", items = finding$columns)
}

# A coder's own code, unless it is the slip of one that there is.
propose_code <- function(finding, study) {
  variable <- study$book$variables[[finding$variable]]
  if (!is.null(slip_of(finding$written, variable$options$label))) return(NULL)
  list(
    path = where_in(variable, "coded"), key = "codes",
    target = invented_name(finding$written, variable), items = finding$written
  )
}

# A label with a slip of the pen, a text that many wrote, or a date in another pattern.
propose_form <- function(finding, open, study) {
  variable <- study$book$variables[[finding$variable]]
  if (is.null(variable) || !holds_one(variable)) return(NULL)
  # A text in a further language belongs into its sheet of translations.
  if (any(!vapply(study$book$exports[finding$exports], function(export) is.null(export$language),
    TRUE))) return(NULL)
  if (is_date(variable)) return(propose_dates(finding, variable, open, study$book))
  if (!is_coded(variable) || !is.na(text_to_number(finding$written))) return(NULL)
  label <- slip_of(finding$written, as.character(variable$codes$label))
  if (!is.null(label) && !is_rival(finding, variable, label, study)) {
    return(list(list(path = form_path(variable, "variants", finding, open, study$book),
      key = "variants", target = label, items = finding$written)))
  }
  if (finding$kind == "unlisted" && can_add_code(finding, variable, study$book)) {
    return(list(list(path = codes_path(variable), key = "codes",
      items = text_squeeze(finding$written))))
  }
  NULL
}

# A text that is about as common as the label beside it is no slip.
is_rival <- function(finding, variable, label, study) {
  rows <- study$records$export %in% finding$exports
  value <- study$data[[variable$name]]
  meant <- sum(rows & value %in% variable$codes$code[match(label, variable$codes$label)])
  meant > 0 && finding$count >= 5 && finding$count > meant / 4
}

# Codes without an order take another one at their end; recodes have to place it.
can_add_code <- function(finding, variable, book, least = 3) {
  placed <- Filter(
    function(other) variable$name %in% way_of(other)$places_codes_of(other), book$variables
  )
  variable$level == "nominal" && !is.null(variable$codes) && is.null(variable$other) &&
    is.null(variable$delivered) &&
    length(placed) == 0 && finding$count >= least && nchar(finding$written) <= 60 && nzchar(paste(
      letters_of(text_fold(finding$written)), collapse = ""
    ))
}

codes_path <- function(variable) {
  if (!is.null(variable$list)) return(c("code_lists", variable$list))
  origin <- variable$origin$codes
  origin[-length(origin)]
}

# The next free codes of each list, in the order of the lines. What a wave of its own
# has, or stands in some cell as a number without a label, is not free: it means something.
number_codes <- function(lines, study) {
  book <- study$book
  bare <- text_to_number(vapply(
    Filter(function(finding) finding$kind == "unlisted", study$findings),
    `[[`, "", "written"))
  taken <- list()
  unnumbered <- function(proposal) proposal$key == "codes" && is.null(proposal$target)
  for (k in which(vapply(lines, unnumbered, TRUE))) {
    line <- lines[[k]]
    id <- path_id(line$path)
    if (is.null(taken[[id]]))
      taken[[id]] <- c(unlist(lapply(all_versions(book$variables[[line$variable]]),
      function(version) version$codes$code)), book$reasons$code, bare)
    code <- setdiff(seq_len(length(taken[[id]]) + 1L), taken[[id]])[1]
    taken[[id]] <- c(taken[[id]], code)
    lines[[k]]$target <- number_to_text(code)
  }
  lines
}

# A pattern only where the unread dates of the variable tell day from month.
propose_dates <- function(finding, variable, open, book) {
  same <- Filter(function(other) other$kind == "unlisted" && other$variable == finding$variable &&
    identical(other$exports, finding$exports), open)
  said <- if (is.null(variable$dates)) unlist(lapply(book$exports[finding$exports], `[[`,
    "dates")) else variable$dates
  pattern <- sure_pattern(vapply(same, `[[`, "", "written"), variable$level, said)
  if (is.null(pattern) || is.na(text_to_date(finding$written, variable$level,
    pattern)$value)) return(NULL)
  list(list(path = form_path(variable, "dates", finding, open, book), key = "dates",
    items = pattern))
}

# Where the key stands already; else under the one wave that has the trouble; else
# the block where several of its items have it; else the entry.
form_path <- function(variable, key, finding, open, book) {
  wave <- only_wave(variable, finding, book)
  same <- Filter(function(other) other$kind == finding$kind &&
    text_fold(other$written) == text_fold(finding$written) && setequal(other$exports,
    finding$exports), open)
  shared <- !is.null(variable$block) && length(same) > 1
  entry <- if (shared) variable$path[seq_len(2)] else variable$path
  if (!is.null(wave)) return(c(entry, "by_wave", wave))
  origin <- variable$origin[[key]]
  if (!is.null(origin)) origin[-length(origin)] else entry
}

# The wave that alone holds a text, of a question that was asked in several.
only_wave <- function(variable, finding, book) {
  waves <- unique(vapply(book$exports[finding$exports], `[[`, "", "wave"))
  if (length(waves) == 1 && length(waves_asked(variable, book)) > 1) waves
}

proposal_table <- function(proposals, book) {
  words <- vapply(proposals, proposal_words, "")
  paths <- vapply(proposals, function(proposal) paste(proposal$path, collapse = " > "), "")
  out <- data.frame(number = seq_along(proposals), path = paths, adds = words,
    count = vapply(proposals, function(proposal) as.integer(proposal$count), 0L),
    line = vapply(paths, function(path) line_of_path(book, path), 0L, USE.NAMES = FALSE))
  attr(out, "edits") <- proposals
  out
}

proposal_words <- function(proposal) {
  if (proposal$key == "codes") return(
    paste0("codes: {", proposal$target, ": ", yaml_word(proposal$items), "}"))
  items <- paste0("[", paste(yaml_word(utils::head(proposal$items, 4)), collapse = ", "),
    if (length(proposal$items) > 4) paste0(" and ", length(proposal$items) - 4, " more"), "]")
  if (is.null(proposal$target)) paste0(proposal$key, ": ", items) else paste0(proposal$key, ": {",
    yaml_word(proposal$target), ": ", items, "}")
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
  keep_own_options()
  if (is.null(checked$file)) stop_mavik(
    "codebook_error", "this codebook is no file: change the list, or write it first"
  )
  if (is_workbook(checked$file)) stop_mavik(
    "codebook_error", basename(checked$file),
    ": is a workbook: add the lines there yourself, or keep the codebook as YAML"
  )
  odd <- setdiff(numbers, checked$proposals$number)
  if (length(odd) > 0) stop_mavik(
    "codebook_error", number_to_text(odd[1]), " is not the number of a proposed line: there are ",
    count_of(nrow(checked$proposals), "of them", "of them")
  )
  old <- codebook_lines(checked$file)
  new <- old
  for (edit in attr(checked$proposals, "edits")[match(numbers, checked$proposals$number)])
    new <- apply_edit(new, edit)
  compile_codebook(parse_lines(new, checked$file))
  change <- text_change(old, new)
  if (!write) return(change)
  if (nrow(change) > 0) write_edited(new, checked$file)
  invisible(change)
}

# Into what stands at the place already, else as a new key as deep as is needed.
apply_edit <- function(lines, edit) {
  whole <- c(edit$path, edit$key, edit$target)
  marks <- scan_yaml(lines)$marks
  there <- vapply(seq_along(whole), function(depth) path_id(whole[seq_len(depth)]) %in% marks$id,
    TRUE)
  depth <- sum(cumprod(there))
  if (depth == length(whole)) return(text_add_item(lines, whole, edit$items))
  value <- if (edit$key == "codes") edit$items else as.character(edit$items)
  listed <- edit$key != "codes"
  rest <- whole[-seq_len(depth + 1)]
  text <- if (listed) paste0("[", paste(vapply(value, yaml_word, ""), collapse = ", "),
    "]") else yaml_word(value)
  for (key in rev(rest)) text <- paste0("{", yaml_word(key), ": ", text, "}")
  text_add_pair(lines, whole[seq_len(depth)], whole[depth + 1], text)
}
