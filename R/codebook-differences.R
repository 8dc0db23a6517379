# What differs in a wave or file, in words.

# The conditions under which it was asked, where waves differ one after the other.
universe_shown <- function(variable) {
  texts <- unlist(lapply(all_versions(variable), function(version) version$universe$text))
  paste(unique(text_squeeze(texts)), collapse = "; in other waves ")
}

# The waves in which a variable was asked; a derived one where anything that it is made of was.
waves_asked <- function(variable, book) {
  asked <- vapply(book$exports, function(export) !is_absent(version_in(variable, export)), TRUE)
  waves <- intersect(names(book$waves), vapply(book$exports[asked], `[[`, "", "wave"))
  if (takes_earlier(variable)) return(intersect(
    waves,
    names(book$waves)[seq_along(book$waves) > match(variable$settings$wave, names(book$waves))]
  ))
  uses <- book$uses[[variable$name]]
  if (is_answer(variable) || length(uses) == 0) waves else intersect(
    waves, unlist(lapply(book$variables[uses], waves_asked, book = book))
  )
}

# What differs, a sentence a version.
differences_shown <- function(variable, book) {
  vapply(names(variable$versions), function(id) {
    version <- variable$versions[[id]]
    exports <- names(variable$version_of)[variable$version_of == id]
    waves <- unique(vapply(book$exports, `[[`, "", "wave")[vapply(
      book$exports, function(export) export$unspread %in% exports, TRUE
    )])
    whole <- all(vapply(
      Filter(function(export) export$wave %in% waves, book$exports),
      function(export) export$unspread %in% exports, TRUE
    ))
    where <- if (whole) paste(if (length(waves) == 1) "wave" else "waves", some_of(waves, 40)) else
      paste("the export", some_of(exports, 40))
    if (is_absent(version)) return(paste0("Not in ", where, "."))
    said <- version_said(variable, version, book)
    if (length(said) == 0) "" else paste0("In ", where, ": ", paste(said, collapse = ", "), ".")
  }, "", USE.NAMES = FALSE)
}

version_said <- function(variable, version, book) {
  c(
    if (!identical(columns_of(version), columns_of(variable))) paste0(
      "column ",
      paste0(
        "\u201c", setdiff(columns_of(version), columns_of(variable)), "\u201d", collapse = ", "
      )
    ),
    if (!identical(version$cells, variable$cells)) paste("cells hold", version$cells),
    if (!identical(version$delivered, variable$delivered)) paste0(
      "code ",
      paste0(
        names(version$delivered), " stands for \u201c", version$delivered, "\u201d", collapse = ", "
      )
    ),
    if (!is.null(version$codes) && !identical(version$codes, variable$codes)) paste0(
      "labels ",
      paste0(version$codes$code, " \u201c", version$codes$label, "\u201d", collapse = ", ")
    ),
    if (!identical(version$range, variable$range)) paste(
      "range", paste(range_shown(version), collapse = " to ")
    ),
    if (!identical(version$universe$text, variable$universe$text)) paste0(
      "asked where `", text_squeeze(paste0(version$universe$text, "")), "`"
    ),
    if (!is.null(version$question) && !identical(version$question, variable$question)) paste0(
      "asked as \u201c", version$question, "\u201d"
    ),
    if (!is_answer(variable) && !identical(version$settings, variable$settings)) paste0(
      "made otherwise (", sub("[.]$", "", way_of(version)$sentence(version, book)), ")"
    ),
    further_forms(version$variants, variable$variants), further_forms(
      version$missing, variable$missing, book
    )
  )
}

# Forms that only this version reads, with what they are read as.
further_forms <- function(version, variable, book = NULL) {
  said <- lapply(names(version), function(target) {
    further <- setdiff(version[[target]], variable[[target]])
    if (length(further) == 0) return(NULL)
    label <- if (is.null(book)) target else book$reasons$label[match(target, book$reasons$name)]
    paste0(
      some_of(paste0("\u201c", further, "\u201d"), 12, quote = FALSE), " read as \u201c", label,
      "\u201d"
    )
  })
  unlist(said)
}
