# Workbooks, from their XML: every cell with its kind (text, number, date,
# boolean, error), which the common readers do not keep apart. The whole sheet
# is held in memory as XML; `largest_part` bounds what is unpacked.

largest_part <- 2^28
largest_swelling <- 200

# A sheet's cells and merged ranges, for it to be a grid. A command looks at one several times: of
# a small workbook they are worked out once while its bytes stay the same.
open_sheet <- function(reader, path, sheet, shown) bytes_lately(
  path, list("sheet", sheet), function() reader$open(path, sheet, shown)
)

grid_of_sheet <- function(reader, path, options, shown) {
  opened <- open_sheet(reader, path, options$sheet, shown)
  sheet_grid(opened$cells, opened$merged, options, shown)
}

bytes_lately <- function(path, wanted, make, small = 2^18) {
  if (!isTRUE(file.size(path) <= small)) return(make())
  lately("workbook", list(file_digest(path), wanted), function(known) make(), 4L)
}

# The entries of a zip archive that are wanted, unpacked; never more than is allowed.
unzip_parts <- function(path, shown, wanted, largest = largest_part) {
  broken <- function(e) stop_read(
    shown, NULL, "the workbook is damaged or cut off: it cannot be unpacked"
  )
  entries <- tryCatch(utils::unzip(path, list = TRUE), error = broken, warning = broken)
  entries <- entries[grepl(wanted, entries$Name), ]
  whole <- sum(entries$Length)
  if (any(entries$Length > largest) || whole > 2 * largest) {
    stop_read(shown, NULL, "unpacks to ", number_show(whole / 2^20, 0),
      " MiB, more than a workbook may hold here: save the sheet as CSV")
  }
  if (whole > 2^24 && whole > largest_swelling * file.size(path)) {
    stop_read(shown, NULL, "unpacks to ", number_show(whole / file.size(path), 0),
      " times its size, which no workbook of answers does: save the sheet as CSV")
  }
  folder <- tempfile("workbook")
  for (row in seq_len(nrow(entries))) tryCatch(unpack_part(path, entries$Name[row],
    entries$Length[row], folder), error = broken, warning = broken)
  structure(with_names(file.path(folder, entries$Name), entries$Name), folder = folder)
}

# Piece by piece, and never beyond the size that the archive's list gives.
unpack_part <- function(path, name, size, folder) {
  to <- file.path(folder, name)
  dir.create(dirname(to), recursive = TRUE, showWarnings = FALSE)
  from <- unz(path, name, "rb")
  on.exit(close(from))
  out <- file(to, "wb")
  on.exit(close(out), add = TRUE)
  left <- size
  while (length(bytes <- readBin(from, "raw", min(2^22, left + 1))) > 0) {
    left <- left - length(bytes)
    if (left < 0) stop("larger than it says")
    writeBin(bytes, out)
  }
  if (left > 0) stop("shorter than it says")
}

part_xml <- function(parts, name, shown) {
  if (!name %in% names(parts)) stop_read(shown, NULL, "is no workbook: it holds no `", name, "`")
  bytes <- readBin(parts[[name]], "raw", file.size(parts[[name]]))
  top <- rawToChar(utils::head(bytes[bytes != as.raw(0)], 4000))
  # No part of a workbook declares entities; one that does is no workbook.
  if (grepl("<!DOCTYPE", top, fixed = TRUE, useBytes = TRUE)) {
    stop_read(shown, NULL, "is no workbook: its part `", name, "` declares a document type")
  }
  # The default namespace is blanked out in place: names then stand without it.
  namespace <- regexpr(" xmlns=(\"[^\"]*\"|'[^']*')", top, useBytes = TRUE)
  if (namespace > 0) bytes[namespace - 1 + seq_len(attr(namespace, "match.length"))] <- as.raw(0x20)
  tryCatch(xml2::read_xml(bytes, options = "HUGE"), error = function(e) {
    stop_read(shown, NULL, "the workbook is damaged: its part `", name, "` cannot be read")
  })
}

# From single cells to the heading and columns. Rows without a single cell are
# no records; a merged heading cell stands over all its columns.
sheet_grid <- function(cells, merged, options, shown) {
  cells <- cells[cells$row > options$skip & nzchar(cells$text), ]
  height <- length(options$heading)
  rows <- sort(unique(cells$row))
  if (length(rows) == 0) stop_read(
    shown, NULL, "the sheet holds nothing",
    if (options$skip > 0) paste0(" below its first ", count_of(options$skip, "row"))
  )
  first <- rows[1]
  heads <- first + seq_len(height) - 1L
  lines <- rows[rows > max(heads)]
  if (length(lines) == 0) stop_read(
    shown, first, "only heading rows, no records: `heading` says that there are ", height
  )
  width <- max(cells$column)
  head <- matrix("", height, width)
  in_head <- cells$row %in% heads
  head[cbind(cells$row[in_head] - first + 1L, cells$column[in_head])] <- cells$text[in_head]
  for (range in merged) {
    row <- range$rows[1] - first + 1L
    if (row < 1 || row > height) next
    across <- seq(range$columns[1], min(range$columns[2], width))
    head[row, across][!nzchar(head[row, across])] <- head[row, range$columns[1]]
  }
  body <- cells[!in_head, ]
  by_column <- split(seq_len(nrow(body)), factor(body$column, seq_len(width)))
  list(
    heading = with_names(lapply(seq_len(height), function(k) head[k, ]), options$heading),
    columns = lapply(by_column, function(cells) sheet_column(body[cells, ], lines)),
    lines = lines, merged = sum(vapply(merged, function(range) range$rows[2] > max(heads), TRUE))
  )
}

# Cells that look alike but are of different kinds stay apart.
sheet_column <- function(cells, lines) {
  id <- paste0(cells$kind, "\r", cells$text)
  known <- unique(id)
  place <- match(lines, cells$row)
  index <- match(id, known)[place]
  index[is.na(index)] <- length(known) + 1L
  first <- match(known, id)
  list(
    cells = c(enc2utf8(cells$text[first]), ""), kinds = c(cells$kind[first], "text"), index = index
  )
}

# All cells of all sheets of a workbook as texts.
workbook_cells <- function(path, shown) {
  sheets <- reader_for(path, shown)$sheets
  if (is.null(sheets)) stop_read(shown, NULL, "is no workbook (XLSX or ODS)")
  cells <- bytes_lately(path, "all", function() sheets(path, shown))
  cells <- Map(
    function(sheet_cells, name) data.frame(
      sheet = rep(text_trim(name), nrow(sheet_cells)), row = sheet_cells$row,
      column = sheet_cells$column,
      text = as.character(sheet_cells$text)
    ),
    cells, names(cells)
  )
  do.call(rbind, unname(cells))
}
