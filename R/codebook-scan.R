# Where every key and value of a YAML text stands. The values themselves come
# from the yaml package; this scanner adds line and column, how a value is
# written, and refuses what YAML would swallow without a word.

scan_yaml <- function(lines) lately("scan", lines, function(lines) scan_text(lines, unquoted_key))

# What cannot be read the package says of the whole text.
unquoted_key <- function(token) {
  tryCatch(
    as.character(yaml::yaml.load(token, handlers = text_handlers, eval.expr = FALSE)),
    error = function(e) token
  )
}

# The mark of a path; of the nearest one above it where the path has none.
mark_of <- function(marks, path) {
  for (length in rev(seq_along(path))) {
    place <- match(path_id(path[seq_len(length)]), marks$id)
    if (!is.na(place)) return(marks[place, ])
  }
  NULL
}

path_id <- function(path) paste(path, collapse = "\u001f")
