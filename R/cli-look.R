command_look <- list(
  place = 3, summary = "Show what is in an export: its layout, what each column holds",
  arguments = "FILE", most = 1, example = "mavik look choirs/raw/spring.csv",
  options = function() list(
    value_option("--column", "NAME", "the whole of one column"),
    value_option("--sheet", "NAME", "the sheet of a workbook that has several"),
    value_option("--html", "FILE", "write an HTML page with the picture of gaps"),
    replace_option(),
    json_option()
  ),
  json = list(
    "look FILE" = c(
      file = "the file",
      records = "how many records",
      form = "its layout: encoding and delimiter of a text, skip, heading, sheet, decimal",
      cells = "`labels` or `codes`",
      columns = "a row for each column: name, question, kind, grounds, filled, distinct, commonest",
      totals = "why it looks like a table of totals or of one answer a record, else null",
      keys = "the column that identifies respondents: column, repeated, blank, near",
      blank_after_opening = "records that answered nothing after the opening questions",
      identical = "records that repeat another in every answer",
      gap_patterns = "which columns are blank together: count, blank"
    )
  ),
  run = function(given) {
    if (length(given$args) == 0) stop_mavik(
      "usage_error", "`mavik look` needs a file; `mavik look --help` shows how"
    )
    check_may_write(given$html, given$args, given$replace)
    seen <- look(given$args, given$sheet)
    if (!is.null(given$column) && is.null(seen$columns[[given$column]])) {
      stop_mavik(
        "usage_error", "`", given$column, "` is not a column",
        did_you_mean(given$column, names(seen$columns))
      )
    }
    if (!is.null(given$html)) {
      write_text(look_page(seen), given$html)
    }
    show_lines(if (given$json) look_json(seen,
      given$column) else if (is.null(given$column)) look_shown(seen) else
        column_shown(seen$columns[[given$column]]))
    if (!is.null(given$html) && !given$json) show_lines(c("",
      paste0("The picture of gaps stands in ",
      given$html)))
    0L
  }
)

look_shown <- function(seen, width = 118) {
  form <- form_shown(seen)
  seen <- visible(seen)
  c(
    heading_shown(seen$file),
    paste0("  ", count_of(seen$records, "record"), " by ", count_of(length(seen$columns), "column"),
      ", ", form, "; answers as ", seen$cells),
    if (!is.null(seen$totals)) paste0("  This looks like ", seen$totals),
    "", columns_by_kind(seen, width), "", heading_shown("Records"), keys_shown(seen$keys),
    paste0(
      "  ", grouped(seen$blank_after_opening), " answered nothing after the opening questions; ",
      grouped(seen$identical), " repeat another in every answer"
    ),
    "", heading_shown("Commonest patterns of blanks"),
    columns_shown(
      list(
        count = grouped(seen$gap_patterns$count),
        blank = shorten(seen$gap_patterns$blank, width - 12)
      ),
      right = "count"
    )
  )
}

form_shown <- function(seen) {
  form <- seen$form
  words <- words_read(seen)
  laid_out <- switch(
    form$laid_out, none = "with types",
    sheet = if (is.null(form$sheet)) "a sheet" else paste0("sheet `", form$sheet, "`"),
    paste0(form$encoding, if (length(words) > 0) paste0(" (reads ", quoted_words(words), ")"), ", ",
      form$delimiter)
  )
  paste0(
    laid_out, ", heading: ", paste(form$heading, collapse = ", "),
    if (form$skip > 0) paste0(", below ", count_of(form$skip, "title line"))
  )
}

# Only a text has an encoding and a delimiter.
form_told <- function(form) form[setdiff(
  names(form), c("laid_out", if (form$laid_out != "text") c("encoding", "delimiter"))
)]

keys_shown <- function(keys) {
  if (is.null(keys)) return("  nothing identifies a respondent")
  twice <- keys$repeated
  c(
    paste0("  key ", keys$column, ": ",
      if (nrow(twice) == 0 && keys$blank == 0) "each record has one, none twice" else
      paste0(count_of(nrow(twice), "key"), " more than once, ", grouped(keys$blank), " blank")),
    if (nrow(twice) > 0) paste0(
      "    ",
      paste0(utils::head(twice$text, 8), " \u00d7 ", utils::head(twice$count, 8), collapse = ", "),
      if (nrow(twice) > 8) " ..."
    ),
    if (length(keys$near) > 0) paste0(
      "    nearly the same: ", paste(utils::head(keys$near, 5), collapse = "; "),
      if (length(keys$near) > 5) " ..."
    ),
    if (nrow(keys$shortened) > 0) paste0("    ", shortened_keys(keys$shortened$text))
  )
}

columns_by_kind <- function(seen, width) {
  kinds <- vapply(seen$columns, `[[`, "", "kind")
  columns <- seen$columns[order(match(kinds, column_kinds))]
  lines <- columns_shown(list(
    kind = c("kind", unname(kind_words[vapply(columns, `[[`, "", "kind")])), column = c(
      "column", shorten(names(columns), 20)
    ),
    filled = c(
      "filled",
      paste0(number_show(100 * vapply(columns, function(column) column$filled / column$records, 0),
        0), " %")
    ),
    distinct = c("distinct", grouped(vapply(columns, `[[`, 0L, "distinct"))), common = c(
      "commonest, with counts", shorten(vapply(columns, commonest_shown, ""), width - 66)
    ),
    odd = c("does not fit", shorten(vapply(columns, odd_shown, ""), 30))
  ), right = c("filled", "distinct"))
  c(cli::col_grey(lines[1]), lines[-1])
}

hidden_kinds <- c("personal")

commonest_shown <- function(column, most = 4) {
  if (column$kind %in% hidden_kinds) return(if (column$filled > 0) masked else "")
  if (column$unique) return("all different")
  top <- utils::head(column$cells, most)
  paste0(shorten(top$text, 22), " ", grouped(top$count), collapse = ", ")
}

odd_shown <- function(column) {
  odd <- c(column$odd$text, column$variants$text)
  if (length(odd) == 0 || column$kind %in% hidden_kinds) "" else paste0(
    "\u201c", utils::head(odd, 3), "\u201d", collapse = " "
  )
}

column_shown <- function(column) {
  column <- visible(column)
  c(
    heading_shown(column$name), if (nzchar(column$question)) paste0("  ", column$question),
    paste0("  ", kind_words[[column$kind]], ": ", column$grounds),
    paste0(
      "  ", grouped(column$filled), " of ", grouped(column$records), " filled, ",
      grouped(column$distinct),
      " distinct"
    ), "",
    if (column$kind %in% hidden_kinds) paste0("  ", masked)
    else if (column$filled > 0) columns_shown(list(
      count = grouped(column$cells$count), share = paste0(
        number_show(100 * column$cells$count / column$records, 1), " %"
      ), text = shorten(column$cells$text, 90),
      gap = ifelse(is.na(column$cells$gap), "", paste0("(", column$cells$gap, ")"))
    ), right = c("count", "share")),
    if (column$filled < column$records) paste0(
      "  ", grouped(column$records - column$filled), " blank")
  )
}

look_json <- function(seen, column = NULL) {
  columns <- lapply(if (is.null(column)) seen$columns else seen$columns[column], function(profile) {
    hidden <- profile$kind %in% hidden_kinds
    list(name = profile$name, question = profile$question, kind = profile$kind,
      grounds = profile$grounds,
      filled = profile$filled, distinct = profile$distinct,
      commonest = utils::head(profile$cells[c("text", "count")],
        if (hidden) 0 else if (is.null(column)) 20 else Inf))
  })
  json_of(list(file = seen$file, records = seen$records, form = form_told(seen$form),
    cells = seen$cells,
    columns = unname(columns), totals = seen$totals, keys = seen$keys,
    blank_after_opening = seen$blank_after_opening,
    identical = seen$identical, gap_patterns = seen$gap_patterns), c("heading", "columns", "near"))
}
