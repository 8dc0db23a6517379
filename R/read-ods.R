# OpenDocument sheets, from their XML. Repeated rows and cells are spread out
# only where they hold something.

reader_ods <- new_reader(
  knows = function(source, first, entries) {
    "content.xml" %in% entries && !"xl/workbook.xml" %in% entries
  },
  laid_out = "sheet",
  # The cells of a sheet and its merged ranges.
  open = function(source, sheet, shown) {
    parts <- unzip_parts(source, shown, "^content[.]xml$")
    on.exit(unlink(attr(parts, "folder"), recursive = TRUE))
    document <- part_xml(parts, "content.xml", shown)
    tables <- xml2::xml_find_all(document, ods_path("//spreadsheet/table"))
    ods_cells(tables[[chosen_sheet(xml2::xml_attr(tables, "name"), sheet, shown)]])
  },
  sheets = function(path, shown) {
    parts <- unzip_parts(path, shown, "^content[.]xml$")
    on.exit(unlink(attr(parts, "folder"), recursive = TRUE))
    tables <- xml2::xml_find_all(
      part_xml(parts, "content.xml", shown), ods_path("//spreadsheet/table")
    )
    with_names(
      lapply(tables, function(table) ods_cells(table)$cells), xml2::xml_attr(tables, "name")
    )
  },
  read = function(source, options, shown) {
    opened <- reader_ods$open(source, options$sheet, shown)
    sheet_grid(opened$cells, opened$merged, options, shown)
  }
)

# Elements by their local names: prefixes are the writing program's choice.
ods_path <- function(path) gsub("(?<=/)([a-z][a-z-]*)", "*[local-name()='\\1']", path, perl = TRUE)

ods_cells <- function(sheet) {
  rows <- xml2::xml_find_all(sheet, ods_path(".//table-row"))
  repeated <- as.integer(xml2::xml_attr(rows, "number-rows-repeated", default = "1"))
  from <- cumsum(c(0L, repeated))[seq_along(rows)] + 1L
  filled <- paste0(
    "boolean(./*[local-name()='table-cell'][*[local-name()='p'] ",
    "or @*[local-name()='value-type']])"
  )
  full <- which(xml2::xml_find_lgl(rows, filled))
  parts <- lapply(full, function(at) ods_row(rows[[at]], from[at], repeated[at]))
  none <- data.frame(
    text = character(), kind = character(), column = integer(), row = integer()
  )
  list(
    cells = do.call(rbind, c(list(none), lapply(parts, `[[`, "cells"))),
    merged = unlist(lapply(parts, `[[`, "merged"), recursive = FALSE)
  )
}

# The filled cells of a row, which may stand for several rows and its cells for several
# columns.
ods_row <- function(row, from, repeated) {
  nodes <- xml2::xml_find_all(row, ods_path("./table-cell | ./covered-table-cell"))
  times <- as.integer(xml2::xml_attr(nodes, "number-columns-repeated", default = "1"))
  column <- cumsum(c(0L, times))[seq_along(nodes)] + 1L
  has <- xml2::xml_find_lgl(
    nodes, "boolean(./*[local-name()='p'] or @*[local-name()='value-type'])"
  )
  line <- ods_values(nodes[has])
  across <- as.integer(xml2::xml_attr(nodes[has], "number-columns-spanned", default = "1"))
  down <- as.integer(xml2::xml_attr(nodes[has], "number-rows-spanned", default = "1"))
  spread <- rep(which(has), times[has])
  line <- line[rep(seq_len(nrow(line)), times[has]), ]
  line$column <- column[spread] + sequence(times[has]) - 1L
  copies <- seq_len(repeated)
  cells <- line[rep(seq_len(nrow(line)), length(copies)), ]
  cells$row <- rep(from + copies - 1L, each = nrow(line))
  list(cells = cells, merged = lapply(which(across > 1 | down > 1), function(i) {
    start <- column[has][i]
    list(rows = from + c(0L, down[i] - 1L), columns = start + c(0L, across[i] - 1L))
  }))
}

ods_values <- function(nodes) {
  type <- xml2::xml_attr(nodes, "value-type", default = "string")
  text <- vapply(
    nodes,
    function(node) paste(
      vapply(xml2::xml_find_all(node, ods_path("./p")), ods_text, ""), collapse = "\n"
    ),
    ""
  )
  number <- type %in% c("float", "currency", "percentage")
  text[number] <- number_to_text(number_parse(xml2::xml_attr(nodes[number], "value")))
  date <- type == "date"
  text[date] <- sub("T00:00:00$", "", xml2::xml_attr(nodes[date], "date-value"))
  truth <- type == "boolean"
  text[truth] <- toupper(xml2::xml_attr(nodes[truth], "boolean-value"))
  error <- type == "string" & grepl("^(#[A-Z]+[/!?A-Z0-9]*|Err:[0-9]+)$", text) &
    !is.na(xml2::xml_attr(nodes, "formula"))
  data.frame(
    text = text,
    kind = ifelse(
      error, "error",
      ifelse(number, "number", ifelse(date, "date", ifelse(truth, "boolean", "text")))
    )
  )
}

# `<s c="3"/>` stands for three spaces, `<tab/>` and `<line-break/>` for what they say.
ods_text <- function(node) {
  if (length(xml2::xml_find_all(node, ods_path(".//s | .//tab | .//line-break"))) == 0)
    return(xml2::xml_text(node))
  parts <- xml2::xml_find_all(node, paste(".//text() |", ods_path(".//s | .//tab | .//line-break")))
  name <- xml2::xml_name(parts)
  spaces <- strrep(" ", as.integer(xml2::xml_attr(parts, "c", default = "1")))
  paste(
    ifelse(
      name == "s", spaces,
      ifelse(name == "tab", "\t", ifelse(name == "line-break", "\n", xml2::xml_text(parts)))
    ),
    collapse = ""
  )
}
