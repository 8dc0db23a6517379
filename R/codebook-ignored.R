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
  function(one) length(ignored_among(one, names)) == 0, as.character(ignored)
)

# Columns that are ignored and used at once.
check_ignored <- function(book, say) {
  for (name in names(book$exports)) {
    export <- book$exports[[name]]
    used <- unique(c(
      if (!is_numbered(export)) export$key, export$response,
      unlist(lapply(book$variables, columns_in, export = export))
    ))
    for (one in export$ignored) for (column in ignored_among(one, used)) say(
      c("exports", name, "ignored"),
      if (one == column) paste0("`", column, "` is ignored and used at once: keep one") else paste0(
        "the pattern `", one, "` meets `", column,
        "`, which is used: write a narrower pattern, or name the columns"
      )
    )
  }
}
