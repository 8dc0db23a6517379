# Columns that an export passes over: by name, or by a pattern in which `*` stands for
# any text.

# Those of `names` that `ignored` means.
ignored_among <- function(ignored, names) {
  names[names %in% ignored | Reduce(`|`, lapply(
    patterns_of(ignored), function(pattern) grepl(utils::glob2rx(pattern), names)
  ), logical(length(names)))]
}

patterns_of <- function(ignored) ignored[grepl("*", ignored, fixed = TRUE)]

# Names and patterns that mean none of `names`.
ignored_without <- function(ignored, names) Filter(
  function(pattern) length(ignored_among(pattern, names)) == 0, as.character(ignored)
)

# Columns that are ignored and used at once.
check_ignored <- function(book, say) {
  entries <- vapply(book$exports, `[[`, "", "entry")
  for (name in unique(entries)) {
    here <- book$exports[entries == name]
    export <- here[[1]]
    used <- unique(unlist(lapply(here, columns_needed, book = book)))
    for (pattern in export$ignored) for (column in ignored_among(pattern, used)) say(
      c("exports", name, if (is_typed(export) && pattern %in% typed_marks) "typed" else
        "ignored"),
      if (is_typed(export) && pattern %in% typed_marks) paste0(
        "the sheet has a column `", pattern, "` of its own, and a variable reads one of that ",
        "name: give it another here, `by_export: {", name, ": {column: ...}}`"
      ) else if (pattern == column) paste0(
        "`", column, "` is ignored and used at once: keep one"
      ) else paste0(
        "the pattern `", pattern, "` meets `", column,
        "`, which is used: write a narrower pattern, or name the columns"
      )
    )
  }
}

# The columns that a variable, or the export itself, reads.
columns_needed <- function(export, book) {
  unique(c(own_columns(export), answer_columns(export, book)))
}

answer_columns <- function(export, book) {
  unlist(lapply(book$variables, columns_in, export = export))
}

own_columns <- function(export) c(
  key = if (!is_numbered(export)) export$key, response = export$response,
  wave = export$apart$column
)
