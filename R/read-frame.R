reader_frame <- list(
  read = function(source, options, shown) {
    if (nrow(source) == 0) stop_read(shown, NULL, "no rows: a data frame needs at least one record")
    list(
      heading = list(names = enc2utf8(as.character(names(source)))),
      columns = lapply(unname(as.list(source)), frame_column, shown = shown),
      lines = seq_len(nrow(source))
    )
  }
)

frame_column <- function(x, shown) {
  if (is.factor(x)) {
    index <- as.integer(x)
    cells <- c(enc2utf8(levels(x)), "")
    index[is.na(index)] <- length(cells)
    return(list(cells = cells, index = index))
  }
  if (is.list(x) || !is.null(dim(x))) {
    stop_read(shown, NULL, "a column that is a list or a table cannot be read; give one plain value a cell")
  }
  values <- unique(x)
  text <- frame_text(values)
  text[is.na(values)] <- ""
  distinct <- distinct_cells(enc2utf8(text))
  list(cells = distinct$cells, index = distinct$index[match(x, values)])
}

frame_text <- function(x) {
  if (inherits(x, "POSIXt")) return(format(x, "%Y-%m-%dT%H:%M:%S", tz = "UTC"))
  if (inherits(x, "Date")) return(format(x, "%Y-%m-%d"))
  if (is.numeric(x)) return(number_to_text(x))
  as.character(x)
}
