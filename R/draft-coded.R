# Drafted entries of coded answers.

is_write_in <- function(column, profile) grepl(paste0(
  "other|specify|andere|sonstig|autre|otro|outro|altro|anders|namelijk|n\u00e4mlich|pr\u00e9cise|",
  "[0-9][ _.(-]{1,2}(free ?|frei)?text[)]?$"
), text_fold(text_trim(paste(column, profile$question))))

coded_lines <- function(column, entry, seen, plan) {
  list <- list_of(column$name, plan)
  codes <- if (!is.null(column$range)) codes_text(list(codes = column$codes, labels = column$scale))
    else if (is_shared(list[[1]])) names(list) else codes_text(list[[1]])
  guessed <- length(list) > 0 && guessed_order(list[[1]])
  other <- if (length(list) > 0) other_text(column, list[[1]], plan)
  c(
    entry(cells = own_cells(column, seen),
      level = if (column$kind == "scale") "ordinal" else "nominal", codes = codes,
      range = if (!is.null(column$range)) paste0("[", column$range[1], ", ", column$range[2], "]"),
      variants = variants_text(column), other = other,
      missing = own_missing_text(column),
      note = paste0(column$grounds, if (guessed) ", in the order of frequency: check it")),
    if (length(list) > 0 && !is_shared(list[[1]]) && !is.null(list[[1]]$learnt)) paste0(
      "    # ", text_squeeze(list[[1]]$learnt)
    ),
    odd_lines(
      column, "    ", left_odd(column, plan), if (!is.null(other)) "taken as write-ins"
    )
  )
}

# But for numbers that the file as a whole takes for missing.
left_odd <- function(column, plan) {
  if (NROW(column$odd) == 0) return(column$odd)
  column$odd[!column$odd$text %in% plan$missing$coded_missing$forms, ]
}

# Several texts that are no label, a few each: what people wrote beside the list.
other_text <- function(profile, list, plan) {
  odd <- profile$odd[is.na(text_to_number(profile$odd$text)), ]
  # Which codes a list of the codebook's own has is not known here.
  if (profile$kind != "choice" || NROW(odd) < 3 || isTRUE(list$known)) return(NULL)
  # A list's own `Other` takes what is written behind it, and nothing else.
  own <- which(is_other_label(list$labels))
  if (length(own) > 0 && mean(tells_other(odd$text)) < 0.8) return(NULL)
  own <- own[1]
  paste0(
    "{code: ", if (is.na(own)) max(list$codes) + 1 else list$codes[own], ", label: ",
    if (is.na(own)) "Other" else yaml_word(list$labels[own]), ", text: ",
    substr(plan$names[[profile$name]], 1, 26),
    "_words}"
  )
}

own_missing_text <- function(column) {
  if (length(column$missing) > 0) forms_text(lapply(column$missing, number_to_text))
}

# `near one of them` are proposed as variants; the rest is left to be found.
variants_text <- function(column) {
  variants <- column$variants
  if (NROW(variants) == 0) return(NULL)
  variants <- variants[text_fold(variants$text) != text_fold(variants$label), ]
  if (nrow(variants) == 0) return(NULL)
  by <- split(variants$text, factor(variants$label, unique(variants$label)))
  forms_text(by)
}

forms_text <- function(by) {
  paste0(
    "{",
    paste0(
      yaml_word(names(by)), ": [",
      vapply(by, function(forms) paste(yaml_word(forms), collapse = ", "), ""), "]", collapse = ", "
    ),
    "}"
  )
}

odd_lines <- function(column, indent, odd = column$odd, said = NULL) {
  if (NROW(odd) == 0) return(NULL)
  shown <- utils::head(odd, 6)
  paste0(indent, "# ", if (is.null(said)) "left as findings" else said, ": ",
    comment_text(paste0(paste0("\u201c", shown$text, "\u201d (", shown$count, ")", collapse = ", "),
    if (nrow(odd) > 6) paste(" and", nrow(odd) - 6, "more"))))
}

# What a column holds, where the file as a whole holds the other.
own_cells <- function(column, seen) {
  number <- all(!is.na(text_to_number(column$cells$text[is.na(column$cells$gap)])))
  holds <- if (number && is.null(column$range)) "codes" else "labels"
  if (holds != seen$cells) holds
}
