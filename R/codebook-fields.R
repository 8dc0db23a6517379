# The language as tables. A field says what may stand at one key: its type,
# one line of help, an example of its value, whether it must be there and what
# holds where it is not. Checking, suggestions and the reference of the language
# all come from these tables.

field <- function(type, help = "", example = NULL, required = FALSE, default = NULL, ...) {
  list(type = type, help = help, example = example, required = required, default = default, ...)
}

map_field <- function(fields, help = "", example = NULL, required = FALSE) {
  field("map", help, example, required, fields = fields)
}

# Reads `value` by its field. `say(path, message)` takes note of a problem;
# what cannot be read comes back as NULL.
read_field <- function(value, field, path, say) {
  if (field$type == "map") return(read_fields(value, field$fields, path, say))
  field_types[[field$type]](value, field, path, function(..., at = NULL) {
    say(c(path, at), paste0(...))
    NULL
  })
}

read_fields <- function(value, fields, path, say, what = "keys") {
  if (!is_map(value)) {
    say(
      path,
      paste0(
        "must hold ", what, ": `", paste(utils::head(names(fields), 3), collapse = "`, `"), "` ..."
      )
    )
    return(NULL)
  }
  out <- lapply(fields, function(field) field$default)
  for (key in setdiff(names(value), names(fields))) {
    say(c(path, key), unknown_key(key, names(fields)))
  }
  for (key in intersect(names(fields), names(value))) {
    out[[key]] <- read_field(value[[key]], fields[[key]], c(path, key), say)
  }
  for (key in names(fields)[vapply(fields, function(field) field$required, TRUE)]) {
    if (!key %in% names(value)) say(
      path,
      paste0(
        "`", key, "` is missing", if (nzchar(fields[[key]]$help)) paste0(": ", fields[[key]]$help)
      )
    )
  }
  out
}

# The nearest key that can stand there, else all of them.
unknown_key <- function(key, known) {
  near <- did_you_mean(key, known)
  paste0("`", key, "` is not a key that can stand here",
    if (nzchar(near)) near else paste0("; those that can: ", some_of(known, 40)))
}

is_map <- function(value) is.list(value) && length(value) > 0 && !is.null(names(value)) &&
  all(nzchar(names(value)))
has_text <- function(value) is_text(value) && nzchar(value)
# What stands at a key, where the value has keys at all.
at_key <- function(value, key) if (is.list(value)) value[[key]]
is_text <- function(value) is.character(value) && length(value) == 1 && is.null(names(value))

study_name <- "^[a-z][a-z0-9_]{0,31}$"
part_name <- "^[a-z0-9][a-z0-9_]{0,31}$"

# Codes with their labels.
read_codes <- function(value, say) {
  if (!is_map(value))
    return(say("must be codes with their labels, `{1: Yes, 2: No}`, or the name of a code list"))
  numbers <- text_to_number(names(value))
  labels <- vapply(
    value, function(label) if (is_text(label)) text_trim(label) else NA_character_, ""
  )
  for (key in names(value)[!is_whole(numbers)]) say(
    "the code `", key, "` is not a whole number; say under `delivered` what the file holds",
    at = key
  )
  for (key in names(value)[is.na(labels)]) say("the label must be one text", at = key)
  for (key in names(value)[!is.na(labels) & !nzchar(labels)]) say("the label is empty", at = key)
  for (key in names(value)[is_whole(numbers) & duplicated(numbers)]) say(
    "the code ", key, " occurs twice", at = key
  )
  folded <- text_fold(labels)
  for (key in names(value)[!is.na(labels) & duplicated(folded)]) {
    first <- names(value)[match(text_fold(labels[[key]]), folded)]
    say(
      "the label `", labels[[key]], "` reads the same as that of ", first,
      ": no answer could tell them apart", at = key
    )
  }
  good <- is_whole(numbers) & !is.na(labels) & nzchar(labels) & !duplicated(numbers) &
    !duplicated(folded)
  list(code = as.integer(numbers[good]), label = unname(labels[good]))
}
