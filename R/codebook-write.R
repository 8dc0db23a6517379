#' Write a codebook
#'
#' Writes a codebook as YAML or as a workbook, by the ending of `file`. Into a
#' YAML file that stands already, only what differs is written: comments, order
#' and quoting of the rest stay.
#'
#' @param codebook A codebook, or what [read_codebook()] takes: also a workbook
#'   that was written so.
#' @param file Path ending in `.yml`, `.yaml` or `.xlsx`.
#' @param replace Whether a workbook that stands there may be replaced.
#' @return `file`, invisibly.
#' @section The workbook: One sheet a section; the headings are the language's own
#'   keys, beside `name` (of the entry), `block` (of an item), `way` and `takes` (how a
#'   variable is made, and of what). All cells are
#'   text. What is more than one text stands as in YAML: `[0, 80]`, `{1: [Yes, yes]}`. A code list
#'   has a row a code, and the codes of a variable stand on the sheet `codes`. Cells that take one
#'   of a few words or names offer them, and a note on each heading says what it is.
#'   [read_codebook()] reads it back to the same document, and names sheet and cell
#'   (`variables!F12`) where something is wrong. The text of a YAML file goes along out of sight,
#'   so that its comments are there when the workbook becomes YAML again.
#' @section Errors: A workbook that stands there already, unless `replace`; a YAML
#'   file that cannot be changed in place (entries in another order).
#' @examples
#' project <- demo_project(tempfile())
#' book <- write_codebook(project, tempfile(fileext = ".xlsx"))
#' identical(names(read_codebook(book)$variables), names(read_codebook(project)$variables))
#' @export
write_codebook <- function(codebook, file, replace = FALSE) {
  keep_own_options()
  document <- as_codebook(codebook)
  book <- compile_codebook(document)
  check_target(file, replace)
  if (!same_file(file, book$file)) check_may_write(file,
    raw_places(book[c("exports", "lookups", "project")]), replace = TRUE)
  if (is_workbook(file)) write_workbook(
    document_sheets(unclass_document(document)), file, text = text_of(document)
  ) else write_edited(yaml_over(document, file), file)
  invisible(file)
}

check_target <- function(file, replace) {
  if (!is_text(file) || !grepl("[.](ya?ml|xlsx)$", file, ignore.case = TRUE)) stop_mavik(
    "write_error", file, ": a codebook is written as .yml or .xlsx"
  )
  if (is_workbook(file) && file.exists(file) && !replace) stop_mavik(
    "write_error", file,
    ": stands there already; choose another name, or say that it may be replaced"
  )
}

# The text for `file`: anew, or what stands there with the differences put in.
yaml_over <- function(document, file) {
  if (!file.exists(file)) {
    anew <- document_lines(unclass_document(document))
    text <- text_of(document)
    # Entries that stand in another order now are written anew, without the comments.
    return(if (is.null(text)) anew else tryCatch(
      change_lines(text, paste0(attr(document, "file"), ""), unclass_document(document)),
      mavik_error = function(e) anew
    ))
  }
  change_lines(codebook_lines(file), file, unclass_document(document))
}

# The text that a document was read from, or that its workbook keeps; NULL for a list in R.
text_of <- function(document) {
  file <- attr(document, "file")
  if (!is.null(attr(document, "text"))) return(attr(document, "text"))
  if (!is.null(file) && !is_workbook(file) && file.exists(file)) codebook_lines(file)
}

yaml_width <- 110

# A document as YAML: sections apart, an entry on a line of its own where it fits.
document_lines <- function(document) {
  lines <- unlist(lapply(names(document), function(key) {
    part <- yaml_block(document[[key]], key, "", deep = is_map(document[[key]]))
    if (is_map(document[[key]])) c("", part) else part
  }))
  lines
}

yaml_block <- function(value, key, indent, deep = FALSE) {
  head <- paste0(indent, scalar_text(key), ":")
  flat <- paste(head, flow_text(value, key, top = TRUE))
  if (!deep && nchar(flat) <= yaml_width && !"items" %in% names(value)) return(flat)
  inner <- paste0(indent, "  ")
  if (is_map(value)) return(c(
    head, unlist(lapply(names(value), function(name) yaml_block(value[[name]], name, inner)))
  ))
  if (is.list(value)) return(c(
    head, unlist(lapply(value, function(item) paste0(inner, "- ", flow_text(item))))
  ))
  if (length(value) > 1) return(c(head, paste0(inner, "- ", vapply(value, scalar_text, ""))))
  flat
}

# Flow style: `{1: Yes, 2: No}`, `[0, 80]`. A condition inside { } stands in quotes.
flow_text <- function(value, key = "", top = FALSE) {
  if (is_text(value)) return(scalar_text(
    value, quote = !top && key %in% c("if", "must", "universe", "formula")
  ))
  if (is_map(value)) return(paste0(
    "{",
    paste0(
      vapply(names(value), scalar_text, ""), ": ",
      vapply(names(value), function(name) flow_text(value[[name]], name), ""), collapse = ", "
    ),
    "}"
  ))
  paste0("[", paste(vapply(value, flow_text, ""), collapse = ", "), "]")
}

# A text as YAML reads it back to the letter.
scalar_text <- function(text, quote = FALSE) {
  # What looks like an escaped character of a workbook would be read as that character.
  escape <- grepl("_x", text, fixed = TRUE) && grepl("_x[0-9A-Fa-f]{4}_", text)
  if (!quote && !escape && is_plain_scalar(text)) return(text)
  if (!escape && !stringi::stri_detect_regex(text, "[\\p{Cc}\\x{2028}\\x{2029}\\x{FEFF}]"))
    return(paste0("'", stringi::stri_replace_all_fixed(text, "'", "''"), "'"))
  points <- utf8ToInt(enc2utf8(text))
  known <- c("34" = "\\\"", "92" = "\\\\", "10" = "\\n", "9" = "\\t", "13" = "\\r")
  escaped <- vapply(points, function(point) {
    own <- known[as.character(point)]
    if (!is.na(own)) own else
      if (point < 32 || point %in% c(0x7f:0x9f, 0x2028, 0x2029, 0xfeff))
        sprintf("\\u%04x", point) else intToUtf8(point)
  }, "")
  paste0("\"", gsub("_x", "\\u005fx", paste(escaped, collapse = ""), fixed = TRUE), "\"")
}

# Letters of all scripts take the slower patterns.
is_plain_scalar <- function(text) {
  number <- "^-?[0-9]+([.][0-9]+)?\\z"
  word <- "^[A-Za-z0-9/](?:[A-Za-z0-9 '().?!/+_-]*[A-Za-z0-9).?!])?\\z"
  if (stringi::stri_enc_isascii(text)) return(grepl(paste0(number, "|", word), text, perl = TRUE))
  stringi::stri_detect_regex(
    text, "^[\\p{L}\\p{N}/](?:[\\p{L}\\p{N} '().?!/+_-]*[\\p{L}\\p{N}).?!])?\\z"
  )
}

# An empty codebook: all sections, nothing said yet.
write_template <- function(file, replace = FALSE) {
  check_target(file, replace)
  if (is_workbook(file)) {
    sections <- setdiff(sheet_sections, "codebook")
    return(write_workbook(
      c(
        list(codebook = list(list(mavik = "1"))),
        with_names(rep(list(list()), length(sections)), sections)
      ),
      file
    ))
  }
  if (file.exists(file)) stop_mavik(
    "write_error", file, ": stands there already and is kept; choose another name"
  )
  write_text(
    readLines(system.file("template", "study.yml", package = "mavik"), encoding = "UTF-8"), file
  )
}
