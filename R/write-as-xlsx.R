# The data as a workbook of five sheets.

format_xlsx <- new_format(
  help = paste0(
    "`analysis.xlsx`: the sheets data, gaps, variables, codes and missing; keys as texts, dates ",
    "as dates, frozen heading, filter"
  ),
  cannot = paste0(
    "more than 2 million cells, 1,048,575 records or 16,384 columns; texts above 32,767 letters; ",
    "dates before March 1900 (their column is text); digits behind the fifteenth; an order of ",
    "labels"
  ),
  files = function(edition) "analysis.xlsx",
  check = function(edition) c(check_sheet_size(edition), check_cell_texts(edition)),
  write = function(edition, folder) write_release_workbook(
    edition, file.path(folder, "analysis.xlsx")
  ),
  back = function(edition, folder) {
    path <- file.path(folder, "analysis.xlsx")
    data <- read_release_sheet(path, "data")
    gaps <- read_release_sheet(path, "gaps")
    texts <- sheet_texts(path, nrow(data))
    list(
      n = nrow(data), names = setdiff(names(data), paste0(edition$names, ".gap")),
      digits = 15,
      value = function(name) {
        read <- data[[name]]
        if (!is.numeric(read) && any(unique(read) %in% c(TRUE, FALSE))) read <- texts(name)
        from_sheet(read, edition_column(edition, name))
      },
      reason = function(name) gap_column(function(name) gaps[[name]], name, edition)
    )
  }
)

write_release_workbook <- function(edition, path) {
  sheets <- list(
    data = lapply(edition_table(edition), workbook_column),
    gaps = lapply(edition_gaps(edition, named = TRUE), workbook_column),
    variables = describe_variables(edition), codes = describe_codes(edition),
    missing = describe_missing(edition)
  )
  make_workbook(path, function(book) {
    for (name in names(sheets)) add_release_sheet(book, name, sheets[[name]])
    book$workbook$definedNames <- filter_names(sheets)
  })
}

# A filter shows in every program only where its range has this name too.
filter_names <- function(sheets) {
  rows <- vapply(sheets, function(columns) length(columns[[1]]), 0L)
  last <- vapply(sheets, function(columns) openxlsx::int2col(length(columns)), "")
  paste0(
    "<definedName name=\"_xlnm._FilterDatabase\" localSheetId=\"", seq_along(sheets) - 1,
    "\" hidden=\"1\">'", names(sheets), "'!$A$1:$", last, "$", rows + 1, "</definedName>"
  )[rows > 0]
}

most_sheet_cells <- 2e6

check_sheet_size <- function(edition) {
  gaps <- sum(edition$names %in% names(edition$study$reasons))
  columns <- length(edition$names) + if (edition$release$gaps == "beside") gaps else 0
  cells <- edition$n * (columns + gaps)
  said <- if (edition$n > 1048575) paste(
    grouped(edition$n), "records are more rows than a sheet has"
  ) else if (columns > 16384) paste(grouped(columns), "columns are more than a sheet has")
    else if (cells > most_sheet_cells) paste0(
      grouped(cells), " cells are more than a workbook is good for (",
      grouped(most_sheet_cells), ")"
    )
  if (is.null(said)) return(list())
  list(list(path = "formats", message = paste0(
    "`xlsx`: ", said, ": take `csv` or `parquet`, or fewer variables or records (`variables`, ",
    "`where`)"
  )))
}

check_cell_texts <- function(edition) {
  long <- function(texts) which(nchar(texts, "bytes") > 32767 & nchar(texts) > 32767)
  answers <- unlist(lapply(edition$names, function(name) {
    value <- edition_values(edition, name)$value
    long_rows <- if (is.character(value)) long(value)
    if (length(long_rows) > 0) list(list(path = "formats", message = paste0(
      "`xlsx`: a cell holds 32,767 letters at most, and ", count_of(length(long_rows), "answer"),
      " to `",
      name, "` ", if (length(long_rows) == 1) "is" else "are", " longer (record ",
      some_of(grouped(long_rows), 3, quote = FALSE), " of the release): leave it out, or take `csv`"
    )))
  }), recursive = FALSE)
  c(answers, check_labels(edition, "xlsx", function(text) ifelse(
    nchar(text) > 32767, "is longer than the 32,767 letters of a cell", ""
  )))
}

# What people wrote that a format cannot hold: `odd(text)` says why, "" if it can.
check_labels <- function(edition, format, odd) {
  book <- edition$study$book
  problems <- lapply(edition$names, function(name) {
    variable <- book$variables[[name]]
    texts <- unlist(c(
      variable[c("label", "question", "stem", "note", "unit")],
      with_names(as.list(variable$codes$label), rep("codes", length(variable$codes$label)))
    ))
    why <- vapply(texts, odd, "")
    lapply(which(nzchar(why)), function(k) list(
      path = where_in(variable, names(texts)[k]), message = paste0(
        "`", format, "` cannot hold this text: it ", why[k], "; change it, or leave `", name,
        "` out of the release"
      )
    ))
  })
  unname(unlist(problems, recursive = FALSE))
}

# Dates that no workbook knows stand as texts; control characters in the form that it has for them.
workbook_column <- function(column) {
  if (inherits(column, c("Date", "POSIXct"))) {
    early <- as.Date("1900-03-01")
    if (any(as.Date(column) < early, na.rm = TRUE)) return(csv_column(column))
    return(column)
  }
  if (is.factor(column)) column <- as.character(column)
  if (is.character(column)) sheet_text(column) else column
}

sheet_text <- function(text) {
  odd <- which(stringi::stri_detect_regex(
    text, "[\\x{01}-\\x{08}\\x{0B}-\\x{1F}]|_x[0-9A-Fa-f]{4}_"
  ))
  for (k in odd) {
    text[k] <- stringi::stri_replace_all_regex(text[k], "_(x[0-9A-Fa-f]{4}_)", "_x005F_$1")
    marks <- unique(stringi::stri_extract_all_regex(
      text[k], "[\\x{01}-\\x{08}\\x{0B}-\\x{1F}]"
    )[[1]])
    for (mark in stats::na.omit(marks)) text[k] <- stringi::stri_replace_all_fixed(
      text[k], mark, sprintf("_x%04X_", utf8ToInt(mark))
    )
  }
  text
}

plain_sheet_text <- function(text) {
  odd <- which(stringi::stri_detect_regex(text, "_x[0-9A-Fa-f]{4}_"))
  for (k in odd) {
    marks <- unique(stringi::stri_extract_all_regex(text[k], "_x[0-9A-Fa-f]{4}_")[[1]])
    for (mark in setdiff(marks, "_x005F_")) text[k] <- stringi::stri_replace_all_regex(
      text[k], paste0("(?<!_x005F)", mark), intToUtf8(strtoi(substr(mark, 3, 6), 16L))
    )
    text[k] <- stringi::stri_replace_all_fixed(text[k], "_x005F_", "_")
  }
  text
}

add_release_sheet <- function(book, sheet, columns) {
  style <- openxlsx::createStyle
  n <- length(columns[[1]])
  rows <- seq_len(n) + 1
  openxlsx::addWorksheet(book, sheet)
  head <- style(textDecoration = "bold", fgFill = "#E3DCEA", border = "bottom", numFmt = "TEXT")
  kinds <- vapply(columns, function(column) {
    if (inherits(column, "POSIXct")) "yyyy-mm-dd hh:mm:ss" else if (inherits(column, "Date"))
      "yyyy-mm-dd" else if (is.character(column)) "TEXT" else ""
  }, "")
  openxlsx::writeData(
    book, sheet, structure(lapply(columns, sheet_number), class = "data.frame",
      row.names = .set_row_names(n)), headerStyle = head, keepNA = FALSE
  )
  if (n > 0) openxlsx::addFilter(book, sheet, 1, seq_along(columns))
  for (kind in setdiff(unique(kinds), "")) if (n > 0) openxlsx::addStyle(
    book, sheet, style(numFmt = kind), rows = rows, cols = which(kinds == kind), gridExpand = TRUE
  )
  openxlsx::setColWidths(book, sheet, seq_along(columns), sheet_widths(columns))
  openxlsx::freezePane(book, sheet, firstActiveRow = 2, firstActiveCol = 2)
}

# Days and moments as the numbers that a workbook keeps them as, whatever the time zone.
sheet_number <- function(column) {
  if (inherits(column, "POSIXct")) return(as.double(column) / 86400 + 25569)
  if (inherits(column, "Date")) as.double(column) + 25569 else column
}

sheet_widths <- function(columns) mapply(function(column, name) {
  some <- utils::head(unique(column), 200)
  widest <- if (inherits(column, "POSIXct")) 19 else if (inherits(column, "Date")) 10 else
    max(0, nchar(sub("\n.*", "", as.character(some[!is.na(some)]))))
  min(max(widest, nchar(name) + 3, 8) + 1, 50)
}, columns, names(columns))

read_release_sheet <- function(path, sheet) suppressWarnings(openxlsx::read.xlsx(
  path, sheet, check.names = FALSE, skipEmptyRows = FALSE, skipEmptyCols = FALSE, sep.names = " ",
  na.strings = ""
))

# The texts of a column that has truth values by that reader, which takes `true` and `false` for
# them.
sheet_texts <- function(path, n) {
  whole <- NULL
  function(name) {
    if (is.null(whole)) whole <<- read_export(path, sheet = "data")
    column <- whole$columns[[name]]
    texts <- rep("", n)
    texts[whole$lines - 1L] <- column$cells[column$index]
    texts
  }
}

# As it was written: dates from their numbers, texts from the form of their control characters.
from_sheet <- function(read, written) {
  if (is.null(read)) return(rep(NA, length(written)))
  if (is.numeric(read) && inherits(workbook_column(written), "POSIXct"))
    return(.POSIXct(round((read - 25569) * 86400, 3), "UTC"))
  if (is.numeric(read) && inherits(workbook_column(written), "Date"))
    return(structure(read - 25569, class = "Date"))
  if (is.character(read)) plain_sheet_text(read) else read
}
