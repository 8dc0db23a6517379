# The sheets of translations: read, held against the codebook, and told of.

translation_columns <- c("path", "text", "translation", "changed since")

# For each language the texts that have a translation (`id`, `text`, `translation`,
# `line`), with what lacks one (`open`), was changed since (`changed`) or is gone.
read_translations <- function(book, problems) {
  if (length(book$translations) == 0) return(NULL)
  texts <- document_texts(book$document)
  languages <- names(book$translations)
  lapply(with_names(languages, languages), function(language) {
    path <- c("translations", language)
    problems$collect(path, {
      say <- read_language(book$translations[[language]], language, texts, book)
      for (problem in label_conflicts(say, book)) problems$say(path, problem)
      say
    })
  })
}

read_language <- function(file, language, texts, book) {
  if (!file.exists(export_path(list(file = file), book))) stop_mavik("build_error", file,
    ": there is no such sheet yet; `mavik convert PROJECT --texts ", language, "` writes it")
  sheet <- read_sheet(file, book, c("path", "text", "translation"), "changed since")
  place <- match(sheet$path, texts$path)
  twice <- which(duplicated(sheet$path) & nzchar(sheet$path))
  if (length(twice) > 0) stop_mavik("build_error", at_line(file, sheet$.line[twice[1]]), ": `",
    sheet$path[twice[1]], "` occurs twice: keep one line")
  changed <- if (is.null(sheet$`changed since`)) rep("", length(place)) else sheet$`changed since`
  known <- !is.na(place) & nzchar(sheet$translation)
  same <- known & text_squeeze(sheet$text) == text_squeeze(texts$text[place]) & !nzchar(changed)
  list(
    file = file, id = texts$id[place[same]], path = texts$path[place[same]],
    text = texts$text[place[same]],
    translation = sheet$translation[same], line = sheet$.line[same],
    open = setdiff(texts$path, texts$path[place[known]]),
    changed = texts$path[place[known & !same]],
    gone = sheet$path[is.na(place) & nzchar(sheet$translation)], texts = nrow(texts)
  )
}

# Labels of one variable, and missing reasons, that could not be told apart.
label_conflicts <- function(say, book) {
  spoken <- shared_in(book, say)
  findings <- lapply(names(book$variables), function(name) {
    variable <- book$variables[[name]]
    codes <- if (is.null(variable$options)) variable$codes else list(
      code = variable$options$name, label = variable$options$label
    )
    if (length(codes$label) == 0 || is_absent(variable)) return(NULL)
    labels <- if (is.null(variable$options)) code_labels_in(variable, say) else
      options_in(variable, say)$options$label
    conflicts_among(codes$label, labels, name, say)
  })
  unique(c(
    unlist(findings),
    conflicts_among(book$reasons$label, spoken$reasons$label, "the missing reasons", say)
  ))
}

conflicts_among <- function(old, new, what, say) {
  changed <- which(text_fold(old) != text_fold(new))
  unlist(lapply(changed, function(k) {
    others <- setdiff(seq_along(new), k)
    other <- others[
      text_fold(new[others]) == text_fold(new[k]) | text_fold(old[others]) == text_fold(new[k])
    ]
    if (length(other) == 0) return(NULL)
    line <- say$line[match(new[k], say$translation)]
    paste0(
      at_line(say$file, line), ": `", new[k], "`, for `", old[k], "` of ",
      if (what == "the missing reasons") what else paste0("`", what, "`"), ", is ",
      if (text_fold(old[other[1]]) == text_fold(new[k])) "the label of another code" else paste0(
        "given for `", old[other[1]], "` too"
      ), ": no answer could tell them apart"
    )
  }))
}

translation_findings <- function(book) {
  unlist(lapply(names(book$spoken), function(language) {
    say <- book$spoken[[language]]
    finding <- function(level, kind, paths, message) if (length(paths) > 0) list(new_finding(
      level, kind, "", language, length(paths), integer(), c("translations", language),
      paste0(message, some_of(paths, 12), "; `mavik convert PROJECT --texts ", language,
        "` brings the sheet up to date")
    ))
    c(
      finding("note", "untranslated", say$open,
        "texts without a translation, shown in the first language: "),
      finding("warning", "translation_outdated", say$changed, paste0(
        "texts that changed since they were translated, shown in the first language until ",
        "`changed since` is emptied: "
      )),
      finding("note", "translation_unmatched", say$gone,
        "translations of texts that are not in the codebook any more: ")
    )
  }), recursive = FALSE)
}

# A study whose labels, questions and reasons are in another language of its codebook.
study_in <- function(study, language) {
  if (is.null(language)) return(study)
  study$book <- book_in(study$book, language)
  study
}
