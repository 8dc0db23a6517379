# What a proposed line would change, in words: told from what it writes, so that the two
# cannot disagree.

effect_of <- function(line, study) {
  if (length(line$edits) == 0) return(paste0("writes nothing: ", line$grounds))
  said <- unique(vapply(line$edits, edit_effect, "", study = study))
  paste(said[nzchar(said)], collapse = "; ")
}

edit_effect <- function(edit, study) {
  path <- edit$path
  value <- edit$value
  inner <- length(path) > 3
  switch(path[1],
    waves = paste0("adds the wave ", path[2], ", \u201c", value$label, "\u201d"),
    exports = if (length(path) == 3) paste0("leaves the column ", value, " aside") else
      paste0("reads ", value$file, " by ", value$key),
    code_lists = if (inner || length(path) == 3) added_codes(path[2], value) else
      paste0("adds the code list ", path[2]),
    variables = variable_effect(path, value, study), ""
  )
}

variable_effect <- function(path, value, study) {
  name <- path[length(path)]
  wave <- match("by_wave", path)
  if (!is.na(wave)) {
    of <- named_at(path[seq_len(wave - 1)], study)
    if (wave < length(path)) return(overlay_effect(of, path[wave + 1], value))
    return(paste0(of, " was not asked in ", names(value)[1]))
  }
  if ("options" %in% path) return(option_effect(path, value))
  if (name == "codes" || "codes" %in% path) return(added_codes(named_at(path, study), value))
  if (name == "variants") return(variants_words(value, named_at(path, study)))
  paste0(
    "a new question ", name, entry_columns(value), if (!is.null(value$by_wave)) paste0(
      ", not asked in ", some_of(names(value$by_wave), quote = FALSE)
    )
  )
}

# The variable or block that a path of an entry belongs to.
named_at <- function(path, study) {
  known <- c(names(study$book$variables), names(study$book$blocks))
  mine <- path[path %in% known]
  if (length(mine) > 0) mine[length(mine)] else path[2]
}

entry_columns <- function(value) {
  columns <- c(
    value$column, value$split$column, unlist(value$split$columns), value$split$other$column,
    unlist(lapply(value$items, function(item) c(item$column, item$split$column)))
  )
  if (length(columns) == 0) "" else paste0(
    " from ", if (length(columns) > 1) "the columns " else "the column ", some_of(
      columns, 9, quote = FALSE
    )
  )
}

overlay_effect <- function(of, wave, value) {
  if (is.character(value)) return(paste0(of, " was not asked in ", wave))
  delivered <- if (!is.null(value$delivered)) paste0(
    "the numbers of ", of, " stand for ",
    paste0(names(value$delivered), " = ", unlist(value$delivered), collapse = ", ")
  )
  columns <- c(value$column, value$split$column, unlist(value$split$columns), value$other$column)
  said <- c(
    if (length(columns) > 0) paste0(of, " is read from ", some_of(columns, 9, quote = FALSE)),
    if (!is.null(delivered)) delivered else if (!is.null(value$cells)) paste0(
      of, " holds ", value$cells
    ),
    if (!is.null(value$variants)) variants_words(value$variants, of),
    if (identical(value$split$other, "absent")) paste0("the write-in of ", of, " was not asked")
  )
  paste0("in ", wave, " ", paste(said, collapse = ", and "))
}

variants_words <- function(variants, of) paste0(
  paste0(
    vapply(variants, function(forms) paste0("\u201c", forms, "\u201d", collapse = ", "), ""),
    " is read as \u201c", names(variants), "\u201d", collapse = ", "
  ), " of ", of
)

option_effect <- function(path, value) {
  place <- match("options", path)
  of <- path[place - 2]
  if (place == length(path)) return(paste0(
    "a new option of ", of, ", \u201c", value[[1]]$label, "\u201d, not offered before"
  ))
  option <- path[place + 1]
  if (!is.null(value$by_wave)) return(paste0(
    "the option ", option, " of ", of, " was not offered in ", names(value$by_wave)[1]
  ))
  paste0(
    if (!is.null(value$label)) paste0("the option ", option, " is called \u201c", value$label,
      "\u201d, and "),
    "\u201c", paste(unlist(value$variants), collapse = "\u201d, \u201c"), "\u201d is read as it"
  )
}

added_codes <- function(of, value) {
  value <- if (is.list(value) && !is.null(value$codes)) value$codes else value
  if (!is.list(value)) return(paste0("a code of ", of, " is called \u201c", value, "\u201d"))
  paste0(
    "adds to ", of, " the code ", paste0(
      names(value), " \u201c", unlist(value), "\u201d", collapse = ", "
    )
  )
}
