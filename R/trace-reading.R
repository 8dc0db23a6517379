# How the cells of a variable are read, in words: who was asked, which other forms
# a value has, and how gaps are written.

reading_in_words <- function(variable, book) {
  question <- parent_of(variable)
  source <- if (is.null(question)) variable else book$variables[[question]]
  c(
    if (!is.null(variable$universe)) paste0(
      "Asked where `", text_squeeze(variable$universe$text), "`."
    ),
    variants_in_words(reading_variants(variable, source)),
    if (!is.null(variable$spans)) paste0(
      "A number typed as a span, \u201c10-12\u201d, counts as its ",
      if (variable$spans == "middle") "middle." else "lower end."
    ),
    if (is_answer(source) || !is.null(way_of(source)$asks(source))) gaps_in_words(
      source, book
    )
  )
}

# An option of several has its own other forms.
reading_variants <- function(variable, source) {
  if (is.null(parent_of(variable))) return(variable$variants)
  option <- variable$settings$at
  if (option == 0L || is.null(source$options$variants)) return(NULL)
  with_names(list(source$options$variants[[option]]), source$options$label[option])
}

variants_in_words <- function(variants, most = 12) {
  variants <- Filter(length, variants)
  if (length(variants) == 0) return(character())
  said <- vapply(
    names(variants), function(target) paste(quoted(variants[[target]], most), "as", quoted(target)),
    ""
  )
  paste0("Other forms are read too: ", paste(said, collapse = "; "), ".")
}

quoted <- function(text, most = 12) some_of(paste0("\u201c", text, "\u201d"), most, quote = FALSE)

gaps_in_words <- function(variable, book) {
  blank <- if (identical(at_key(variable$settings, "blank"), "none_ticked"))
    "a blank means that nothing was ticked" else
    paste0("a blank is ", quoted(book$reasons$label[reason_id(book, "no_answer")]))
  forms <- written_gaps(variable, book)
  said <- vapply(names(forms), function(label) {
    if (identical(text_fold(forms[[label]]), text_fold(label))) quoted(label) else paste(
      quoted(forms[[label]]), "for", quoted(label)
    )
  }, "")
  paste0("Gaps in the file: ", paste(c(said, blank), collapse = "; "), ".")
}

# The written forms of each reason, as the codebook writes them, its label first; for
# text and identifiers only a blank is a gap.
written_gaps <- function(variable, book) {
  if (identical(variable$storage, "text")) return(list())
  shared <- if (!is.null(variable$list)) book$lists[[variable$list]]$missing
  forms <- do.call(join_forms, c(
    list(own_forms(variable$missing, book), own_forms(shared, book)),
    lapply(held_cells(variable, book), reason_forms, reasons = book$reasons)
  ))
  forms <- forms_at(forms, !duplicated(forms$form))
  is_label <- forms$form == text_fold(book$reasons$label)[forms$reason]
  forms <- forms_at(forms, order(forms$reason, !is_label))
  label <- book$reasons$label[forms$reason]
  split(forms$text, factor(label, unique(label)))
}

# What the files hold for a variable; dates and boxes take labels and codes alike.
held_cells <- function(variable, book) {
  if (is_date(variable) || !is.null(at_key(variable$settings, "columns"))) return(c(
    "labels", "codes"
  ))
  asked <- way_of(variable)$asks(variable)
  if (!is.null(asked)) return(file_holds(variable, book$lookups[[asked]]))
  versions <- lapply(
    book$exports, function(export) list(export = export, version = version_in(variable, export))
  )
  versions <- Filter(function(version) !is_absent(version$version), versions)
  unique(vapply(versions, function(held) file_holds(held$version, held$export), "",
    USE.NAMES = FALSE))
}
