# A codebook's text changed into another document, in place: only what differs
# is touched, so that comments, order and quoting of the rest stay.

change_lines <- function(lines, file, document) {
  old <- read_lines(lines, basename(file))$document
  lines <- change_map(lines, old, document, character())
  got <- read_lines(lines, basename(file))$document
  if (!identical(ordered_document(got), ordered_document(document))) {
    stop_mavik(
      "write_error", file, ": cannot be changed in place to what is wanted; write it to a new file"
    )
  }
  lines
}

change_map <- function(lines, old, new, path) {
  for (key in setdiff(names(old), names(new))) lines <- text_remove(lines, c(path, key))
  for (key in intersect(names(new), names(old))) {
    if (identical(old[[key]], new[[key]])) next
    deep <- is_map(old[[key]]) && is_map(new[[key]])
    lines <- if (deep) change_map(lines, old[[key]], new[[key]], c(path, key)) else text_set(
      lines, c(path, key), new[[key]]
    )
  }
  before <- NULL
  for (key in names(new)) {
    if (!key %in% names(old)) lines <- text_insert(lines, path, key, new[[key]], before)
    before <- key
  }
  lines
}

# Keys of an entry in one order; the order of entries, where it has a meaning, retained.
ordered_document <- function(value, path = character()) {
  if (!is_map(value)) return(if (is.list(value))
    lapply(value, ordered_document, path = c(path, "")) else value)
  value <- lapply(
    with_names(names(value), names(value)),
    function(key) ordered_document(value[[key]], c(path, key))
  )
  if (path_matters(path)) value else value[sort_c(names(value))]
}

# Puts a value into a document: maps are merged, lists of forms and of ignored
# columns grow, all else is replaced. A new entry comes right behind `after`.
merge_at <- function(document, path, value, after = NULL) {
  key <- path[1]
  old <- document[[key]]
  if (length(path) > 1) {
    if (is_text(old)) old <- list(label = old)
    document[[key]] <- merge_at(if (is.null(old)) list() else as.list(old), path[-1], value, after)
    return(document)
  }
  if (is.null(old)) {
    entry <- with_names(list(value), key)
    place <- match(after, names(document))
    return(append(document, entry, c(place[!is.na(place)], length(document))[1]))
  }
  document[[key]] <- merge_value(key, old, value)
  document
}

merge_value <- function(key, old, value) {
  if (is_text(old) && is_map(value) && !"label" %in% names(value)) old <- list(label = old)
  if (is_map(old) && is_map(value)) {
    for (part in names(value)) old[[part]] <- if (is.null(old[[part]])) value[[part]] else
      if (key == "variants") unique(c(old[[part]], value[[part]])) else merge_value(
        part, old[[part]], value[[part]]
      )
    return(old)
  }
  if (key %in% c("ignored", "variants") && is.character(old) && is.character(value))
    return(unique(c(old, value)))
  value
}

# Where the order of keys has a meaning.
path_matters <- function(path) length(path) == 1 && path %in% c(
  "waves", "exports", "missing", "variables", "rules", "screens"
) || (length(path) == 3 && path[3] == "items")
