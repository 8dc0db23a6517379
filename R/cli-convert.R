command_convert <- list(
  place = 8, summary = "Turn a codebook into a workbook, or a workbook into a codebook",
  arguments = "FROM [TO]", most = 2, example = "mavik convert choirs choirs/choirs.xlsx",
  options = function() list(
    value_option("--template", "FILE", "write an empty codebook for a new study, .xlsx or .yml"),
    value_option("--texts", "TAG",
      "make the sheet of translations into this language, or bring it up to date"),
    flag_option("--replace", "a workbook that stands there may be replaced")
  ),
  run = function(given) {
    if (!is.null(given$template)) {
      write_template(given$template, given$replace)
      show_lines(paste0("An empty codebook stands in ", given$template))
      return(0L)
    }
    if (!is.null(given$texts)) return(convert_texts(given))
    if (length(given$args) < 2) stop_mavik(
      "usage_error",
      "`mavik convert` needs a codebook and the file to write; `mavik convert --help` shows how"
    )
    from <- codebook_file(given$args[1])
    to <- given$args[2]
    if (same_file(to, from)) stop_mavik(
      "usage_error", "FROM and TO are one file"
    )
    old <- if (!is_workbook(to) && file.exists(to)) codebook_lines(to)
    write_codebook(from, to, given$replace)
    change <- if (!is.null(old)) text_change(old, codebook_lines(to))
    show_lines(c(
      if (!is.null(change)) if (nrow(change) > 0) change_shown(change, to) else paste0(
        "Nothing differs: ", to, " is as it was"
      ),
      if (is.null(change) || nrow(change) > 0) paste0("The codebook stands in ", to)
    ))
    0L
  }
)

convert_texts <- function(given) {
  if (length(given$args) == 0) given$args <- "."
  document <- as_codebook(given$args[1])
  book <- compile_codebook(document)
  file <- if (length(given$args) > 1) given$args[2] else translation_file(book, given$texts)
  sheet <- translation_sheet(document, given$texts, file)
  texts <- nzchar(sheet$text)
  changed <- nzchar(sheet$`changed since`)
  named <- !is.null(book$translations[[given$texts]])
  show_lines(c(
    paste0("The sheet of translations stands in ", file),
    columns_shown(list(
      count = grouped(c(
        sum(texts), sum(texts & nzchar(sheet$translation) & !changed), sum(texts & changed),
        sum(!texts)
      )),
      words = c("texts", "translated", "changed since", "not in the codebook any more")
    ), right = "count"),
    if (!named) paste0(
      "To use it, write into the codebook: translations: {", given$texts, ": ",
      named_from(file, book$project), "}"
    )
  ))
  0L
}
