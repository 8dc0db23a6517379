#' Write what was decided on a new wave into the codebook
#'
#' @param alignment What [align_wave()] returned.
#' @param numbers Which of `alignment$lines`; those whose decision is `accept` if not said.
#' @param write Whether to change the file; else only the change is shown.
#' @return The change as a data frame with `change` (`-` old, `+` new), `line` and `text`,
#'   invisibly where it was written. Comments and order of the file stay.
#' @section Errors: A number that is no line; lines that need the wave's export
#'   while that is not accepted; a change after which the codebook would not
#'   hold. Then nothing is written.
#' @examples
#' project <- demo_project(tempfile())
#' alignment <- align_wave(project, "autumn", file.path(project, "raw/autumn.xlsx"))
#' accept_alignment(alignment, alignment$lines$line, write = FALSE)
#' @export
accept_alignment <- function(
  alignment, numbers = alignment$lines$line[alignment$lines$decision == "accept"], write = TRUE
) {
  keep_own_options()
  odd <- setdiff(numbers, alignment$lines$line)
  if (length(odd) > 0) stop_mavik(
    "codebook_error", number_to_text(odd[1]), " is not the number of a proposed line: there are ",
    count_of(nrow(alignment$lines), "of them", "of them")
  )
  export <- alignment$lines$line[alignment$lines$match == "export"]
  if (length(numbers) > 0 && length(export) > 0 && !export %in% numbers) stop_mavik(
    "codebook_error", "line ", export,
    " brings the wave's export into the codebook, and the others rest on it: accept it too"
  )
  old <- codebook_lines(alignment$file)
  document <- unclass_document(parse_lines(old, alignment$file))
  for (edits in attr(alignment, "edits")[match(sort(numbers), alignment$lines$line)]) for (
    edit in edits)
    document <- merge_at(document, edit$path, edit$value, edit$after)
  new <- change_lines(old, alignment$file, document)
  compile_codebook(parse_lines(new, alignment$file))
  change <- text_change(old, new)
  if (!write) return(change)
  if (nrow(change) > 0) write_edited(new, alignment$file)
  invisible(change)
}
