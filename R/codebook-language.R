#' The codebook language
#'
#' A codebook is a YAML file, a workbook (see [write_codebook()]) or, in R, a
#' nested list. Every value is read as text and typed by the tables below, by
#' which Mavik checks a codebook. What stands in capitals is a name of your own.
#' `mavik reference KEY` shows the same on the command line, and
#' `mavik reference --html FILE` writes it as a page.
#'
#' @name codebook_language
#' @eval language_tags()
#' @section Words of the outputs: `mavik reference findings`, `ledger`, `gaps` and
#'   `waves` list the columns of these files and the kinds that stand in them;
#'   `mavik reference look` and the names of other commands what their JSON holds.
#' @seealso [read_codebook()], [edit_codebook()]
#' @examples
#' project <- demo_project(tempfile())
#' codebook <- read_codebook(project)
#' codebook$variables$years
NULL

# A section of the help page for each chapter.
language_tags <- function() {
  entries <- language_entries()
  chapter <- chapter_of(entries)
  unlist(lapply(intersect(names(language_chapters), chapter), function(name) {
    title <- gsub("[`:]", "", language_chapters[[name]])
    c(paste0("@section ", title, ":"), "", language_items(entries[chapter == name, ]), "")
  }))
}

# In the mark-up of help pages a per cent sign begins a comment.
language_items <- function(entries) {
  code <- function(text) paste0("`", text, "`")
  text <- paste0(
    "- ", code(paste0(
      ifelse(nzchar(entries$place) & entries$part != "function", paste0(entries$place, " > "), ""),
      entries$key
    )),
    ifelse(entries$required, " (needed)", ""), ": ", entries$help, ".",
    ifelse(nzchar(entries$type), paste0(" Takes ", entries$type, "."), ""),
    ifelse(nzchar(entries$default), paste0(" If not said: ", code(entries$default), "."), ""),
    ifelse(nzchar(entries$example), paste0(" Example: ", code(text_squeeze(entries$example))), "")
  )
  unique(gsub("%", "\\%", text, fixed = TRUE))
}
