#' Write or update a sheet of translations
#'
#' A row for each text of a codebook that readers or respondents see: labels, questions,
#' units, and how gaps are written. What was translated before is kept; where the text
#' has changed since, the former text stands beside it and the translation waits until
#' somebody has looked at it.
#'
#' @param codebook A codebook, or what [read_codebook()] takes.
#' @param language The language's tag, `"fr"`.
#' @param file Where to write, `.xlsx` or `.csv`; by default the sheet that the codebook
#'   names under `translations`, else `sheets/LANGUAGE.xlsx` in the project.
#' @return The sheet as a data frame, invisibly: `path` (where the text stands in the
#'   codebook), `text`, `translation` (empty where there is none), `changed since` (the text
#'   that was translated, where it has changed; empty it once the translation fits). Texts
#'   that are not in the codebook any more stand last, with an empty `text`.
#' @section Errors: A tag that is no language's; a sheet that lacks its columns.
#' @examples
#' project <- demo_project(tempfile())
#' head(translation_sheet(project, "cy", tempfile(fileext = ".csv")))
#' @export
translation_sheet <- function(codebook, language, file = NULL) {
  keep_own_options()
  book <- compile_codebook(as_codebook(codebook))
  if (!is_text(language) || !grepl(language_tag, language)) stop_mavik(
    "usage_error", "`", language, "` is not the tag of a language, like `fr`, `cy` or `pt-BR`"
  )
  if (is.null(file)) file <- translation_file(book, language)
  check_sheet_file(file, book)
  before <- if (file.exists(file)) read_sheet(
    file, list(project = getwd()), c("path", "text", "translation"), shown = file
  )
  sheet <- translation_rows(document_texts(book$document), before)
  write_sheet(sheet, file, function(file) write_translation_book(sheet, file, language))
  invisible(sheet)
}

translation_file <- function(book, language) {
  said <- book$translations[[language]]
  if (is.null(said) && is.null(book$project)) stop_mavik(
    "usage_error", "say where to write: this codebook has no folder"
  )
  export_path(list(file = if (is.null(said)) file.path(
    "sheets", paste0(language, ".xlsx")
  ) else said), book)
}

translation_rows <- function(texts, before) {
  place <- match(texts$path, before$path)
  was <- ifelse(is.na(place), "", before$text[place])
  own <- if (is.null(before$`changed since`)) rep("", length(before$path)) else
    before$`changed since`
  translation <- ifelse(is.na(place), "", before$translation[place])
  since <- ifelse(is.na(place), "", own[place])
  differs <- nzchar(translation) & !nzchar(since) & text_squeeze(was) != text_squeeze(texts$text)
  since[differs] <- was[differs]
  since[text_squeeze(since) == text_squeeze(texts$text)] <- ""
  gone <- which(!before$path %in% texts$path & nzchar(before$translation))
  sheet <- data.frame(
    path = c(texts$path, before$path[gone]), text = c(texts$text, rep("", length(gone))),
    translation = c(translation, before$translation[gone]),
    since = c(since, ifelse(nzchar(before$text[gone]), before$text[gone], own[gone]))
  )
  names(sheet) <- translation_columns
  sheet
}

write_translation_book <- function(sheet, file, language) make_workbook(file, function(book) {
  add_text_sheet(book, "texts", sheet, c(38, 46, 46, 30), "translation", c(
    path = "Where the text stands in the codebook", text = "The text of the codebook",
    translation = "How it is said in the language; an empty cell waits",
    `changed since` = paste0("The text that was translated, where it has changed since: empty ",
      "this cell once the translation fits")
  ))
  if (is_right_to_left(language)) openxlsx::addStyle(
    book, "texts", openxlsx::createStyle(halign = "right"),
    rows = seq_len(nrow(sheet)) + 1, cols = 3, stack = TRUE
  )
})
