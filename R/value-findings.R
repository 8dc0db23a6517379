# A finding is something a person should look at. `rows` are the study's rows it was
# seen in, of which up to five become examples.

new_finding <- function(level, kind, variable, written, count, rows, path, message) {
  list(level = level, kind = kind, variable = variable, written = written, count = count,
    rows = if (length(rows) > 5) rows[1:5] else rows,
    path = if (length(path) > 1) paste(path, collapse = " > ") else path, message = message)
}
