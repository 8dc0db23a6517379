# Tables as CSV: verbatim cells, gaps empty, numbers in their shortest exact form.

# `rows` are the rows that are written, all of them if not said; they go `behind` what stands
# in the file, without a heading.
write_csv <- function(table, path, rows = NULL, behind = FALSE) {
  columns <- lapply(unname(as.list(table)), csv_column)
  count <- if (is.null(rows)) max(0L, lengths(columns)) else length(rows)
  problem <- write_rows(
    local_path(path), enc2utf8(names(table)), columns, rows,
    threads_for(count), behind
  )
  if (nzchar(problem)) stop("cannot be written (", problem, ")")
}

# Tables with the same columns one behind the other, each made when it is its turn.
write_csv_pieces <- function(pieces, path) {
  for (k in seq_along(pieces)) write_csv(pieces[[k]](), path, behind = k > 1)
}

csv_column <- function(column) {
  if (inherits(column, "Date")) return(date_to_text(as.double(column), "date"))
  if (inherits(column, "POSIXct")) return(date_to_text(as.double(column), "datetime"))
  if (is.logical(column)) return(as.character(column))
  in_utf8 <- !is.null(listed_parts(column)) || is_run(column)
  if (is.character(column) && !in_utf8) enc2utf8(column) else column
}
