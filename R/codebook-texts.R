# The texts of a codebook that readers or respondents see, each with its path: what is
# translated.

# A data frame of `id` (the path as one text), `path` (as people read it) and `text`.
document_texts <- function(document) {
  texts <- walk_texts(unclass_document(document)[text_sections], character())
  standing <- setdiff(standing_reasons$name, names(document$missing))
  reasons <- lapply(seq_along(standing), function(k) list(
    path = c("missing", standing[k], "label"),
    text = standing_reasons$label[match(standing[k], standing_reasons$name)]
  ))
  texts <- c(texts[which(has_letters(vapply(texts, `[[`, "", "text")))], reasons)
  paths <- lapply(texts, `[[`, "path")
  data.frame(
    id = vapply(paths, path_id, ""), path = vapply(paths, paste, "", collapse = " > "),
    text = vapply(texts, `[[`, "", "text")
  )
}

text_sections <- c("study", "waves", "missing", "code_lists", "instruments", "variables")

# Keys that hold a text, keys whose entries are texts by code or name, and keys that hold
# written forms.
text_keys <- c("title", "row", "label", "question", "stem", "unit")
labelled_keys <- c("codes", "options", "items")

walk_texts <- function(value, path) {
  if (is.null(value)) return(NULL)
  key <- path[length(path)]
  above <- c("", path)[length(path)]
  if (is_text(value)) {
    told <- key %in% text_keys || key == "written" || is_forms_key(path) ||
      (length(path) > 3 && above %in% labelled_keys && !is_item_key(path))
    return(if (told) list(list(path = path, text = value)))
  }
  if (is.character(value)) {
    if (!(key == "written" || is_forms_key(path))) return(NULL)
    return(lapply(seq_along(value), function(k) list(
      path = c(path, number_to_text(k)), text = value[[k]]
    )))
  }
  unlist(lapply(names(value), function(name) walk_texts(value[[name]], c(path, name))),
    recursive = FALSE)
}

# `missing: {refused: [no comment]}` of a variable or a list.
is_forms_key <- function(path) length(path) > 3 && path[length(path) - 1] == "missing"

# An item of a block that is called like one of these keys.
is_item_key <- function(path) length(path) > 4 && path[length(path) - 2] == "items"

has_letters <- function(text) stringi::stri_detect_regex(text, "\\p{L}")
