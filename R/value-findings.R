# A finding is something a person should look at.

new_finding <- function(
    # `error`, `warning` or `note`, and one of the `finding_kinds`
    level, kind,
    # the variable, and the text in the file ("" where it is about none)
    variable, written,
    # how many cells, records or columns; the study's rows it was seen in, of which up to
    # five become examples
    count, rows,
    # where in the codebook, what it is and what to do
    path, message,
    # the exports whose cells it is about; the columns, where it is about several
    exports = NULL, columns = NULL) {
  finding <- list(
    level = level, kind = kind, variable = variable, written = written, count = count,
    rows = if (length(rows) > 5) rows[1:5] else rows,
    path = if (length(path) > 1) paste(path, collapse = " > ") else path, message = message
  )
  if (!is.null(exports)) finding$exports <- exports
  if (!is.null(columns)) finding$columns <- columns
  finding
}

# Several that differ in the text only and what is said of it.
new_findings <- function(level, kind, variable, written, count, rows, path, message) {
  path <- paste(path, collapse = " > ")
  lapply(seq_along(written), function(k) list(
    level = level, kind = kind, variable = variable, written = written[[k]], count = count[[k]],
    rows = rows[[k]], path = path, message = message[[k]]
  ))
}
