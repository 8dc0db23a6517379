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
    ods_cells(document, chosen_sheet(xml2::xml_attr(tables, "name"), sheet, shown), shown)
  },
  sheets = function(path, shown) {
    parts <- unzip_parts(path, shown, "^content[.]xml$")
    on.exit(unlink(attr(parts, "folder"), recursive = TRUE))
    document <- part_xml(parts, "content.xml", shown)
    tables <- xml2::xml_find_all(document, ods_path("//spreadsheet/table"))
    with_names(
      lapply(seq_along(tables), function(k) ods_cells(document, k, shown)$cells),
      xml2::xml_attr(tables, "name")
    )
  },
  read = function(source, options, shown) grid_of_sheet(reader_ods, source, options, shown)
)

# Elements by their local names: prefixes are the writing program's choice.
ods_path <- function(path) gsub("(?<=/)([a-z][a-z-]*)", "*[local-name()='\\1']", path, perl = TRUE)

# The filled cells of one table. A row may stand for several rows, and a cell for several columns.
ods_cells <- function(document, number, shown) {
  all_rows <- paste0("(", ods_path("//spreadsheet/table"), ")[", number, "]",
    ods_path("//table-row"))
  rows <- with_names(fields_of_nodes(document, all_rows, c(
    xsl_value(ods_attribute("number-rows-repeated")),
    xsl_value(paste0("count(", ods_cell, ")")),
    xsl_value(paste0("boolean(*[local-name()='table-cell'][", ods_filled, "])"))
  ), shown), c("repeated", "cells", "full"))
  cells <- ods_fields(document, all_rows, shown)
  repeated <- times_said(rows$repeated)
  row <- rep(seq_along(repeated), as.integer(rows$cells))
  times <- times_said(cells$repeated)
  # Each row may end in thousands of blanks: over all rows they are more than integers count.
  before <- cumsum(as.double(times)) - times
  column <- as.integer(before - before[match(row, row)] + 1)
  kept <- which(cells$filled == "true" & rows$full[row] == "true")
  from <- as.integer(cumsum(repeated) - repeated + 1)
  across <- times_said(cells$across)[kept]
  down <- times_said(cells$down)[kept]
  list(
    cells = spread_cells(
      ods_values(lapply(cells, `[`, kept)), from[row[kept]], repeated[row[kept]], column[kept],
      times[kept]
    ),
    merged = lapply(which(across > 1 | down > 1), function(i) list(
      rows = from[row[kept[i]]] + c(0L, down[i] - 1L),
      columns = column[kept[i]] + c(0L, across[i] - 1L)
    ))
  )
}

# Each as often as it stands there, row by row.
spread_cells <- function(values, row, rows, column, columns) {
  each <- rep(seq_along(row), rows * columns)
  copy <- sequence(rows * columns) - 1L
  out <- data.frame(
    values[each, ], column = column[each] + copy %% columns[each],
    row = row[each] + copy %/% columns[each], row.names = NULL
  )
  if (any(rows > 1)) out <- out[order(out$row, out$column), ]
  rownames(out) <- NULL
  out
}

times_said <- function(said) {
  times <- suppressWarnings(as.integer(said))
  times[is.na(times)] <- 1L
  times
}

ods_attribute <- function(name) paste0("@*[local-name()='", name, "']")

ods_cell <- "*[local-name()='table-cell' or local-name()='covered-table-cell']"

ods_filled <- "*[local-name()='p'] or @*[local-name()='value-type']"

# `<s c="3"/>` stands for three spaces, `<tab/>` and `<line-break/>` for what they say.
ods_templates <- paste0(
  "<xsl:template match=\"*[local-name()='s']\"><xsl:choose>",
  "<xsl:when test=\"", ods_attribute("c"), "\"><xsl:value-of xmlns:str='http://exslt.org/strings' ",
  "select=\"str:padding(number(", ods_attribute("c"), "), ' ')\"/></xsl:when>",
  "<xsl:otherwise><xsl:text> </xsl:text></xsl:otherwise></xsl:choose></xsl:template>",
  "<xsl:template match=\"*[local-name()='tab']\"><xsl:text>&#9;</xsl:text></xsl:template>",
  "<xsl:template match=\"*[local-name()='line-break']\"><xsl:text>&#10;</xsl:text></xsl:template>"
)

ods_fields <- function(document, all_rows, shown) {
  attributes <- c(
    repeated = "number-columns-repeated", across = "number-columns-spanned",
    down = "number-rows-spanned", type = "value-type", value = "value", date = "date-value",
    truth = "boolean-value"
  )
  fields <- c(
    vapply(attributes, function(name) xsl_value(ods_attribute(name)), ""),
    filled = xsl_value(paste0("boolean(", ods_filled, " or ", ods_attribute("formula"), ")")),
    formula = xsl_value(ods_attribute("formula")),
    text = xsl_each("*[local-name()='p']", paste0(
      "<xsl:if test=\"position() &gt; 1\"><xsl:text>&#10;</xsl:text></xsl:if>",
      "<xsl:apply-templates select=\"node()\"/>"
    ))
  )
  with_names(fields_of_nodes(
    document, paste0(all_rows, "/", ods_cell), fields, shown, ods_templates
  ), names(fields))
}

ods_values <- function(cells) {
  text <- cells$text
  type <- ifelse(nzchar(cells$type), cells$type, "string")
  number <- type %in% c("float", "currency", "percentage")
  text[number] <- number_to_text(number_parse(cells$value[number]))
  date <- type == "date"
  text[date] <- sub("T00:00:00$", "", cells$date[date])
  truth <- type == "boolean"
  text[truth] <- toupper(cells$truth[truth])
  error <- type == "string" & nzchar(cells$formula) &
    grepl("^(#[A-Z]+[/!?A-Z0-9]*|Err:[0-9]+)$", text)
  # A formula whose result is not there is no blank, and no answer.
  open <- nzchar(cells$formula) & !nzchar(cells$type) & !nzchar(text)
  text[open] <- sub("^[a-z]+:", "", cells$formula[open])
  error <- error | open
  data.frame(
    text = text,
    kind = ifelse(
      error, "error",
      ifelse(number, "number", ifelse(date, "date", ifelse(truth, "boolean", "text")))
    )
  )
}
