# Waves of one file, told apart by a column.

# The waves that a column tells apart, in their order: `names`, the `texts` in the file,
# the wave of each record, and how many records each has.
waves_seen <- function(export, heading) {
  name <- export$names[match(text_squeeze(heading), export$names)]
  if (is.na(name)) stop_mavik("draft_error", "the column `", heading, "` is not in ", export$file,
    did_you_mean(heading, export$names))
  column <- export$columns[[name]]
  cells <- text_trim(column$cells)
  counts <- occurrences(column)
  blank <- which(!nzchar(cells[column$index]))
  if (length(blank) > 0) stop_mavik("draft_error", "the column `", name, "` is blank in ",
    count_of(length(blank), "record"), " of ", export$file, " (",
    lines_of(utils::head(export$lines[blank], 3)),
    "): give each its wave, or take them out of the file")
  texts <- unique(cells[counts > 0])
  folded <- text_fold(texts)
  forms <- split(texts, factor(folded, unique(folded)))
  if (length(forms) < 2 || length(forms) > most_waves) stop_mavik("draft_error", "the column `",
    name, "` holds ", count_of(length(forms), "text"), ", ", some_of(texts, 3),
    ": waves are 2 to ", most_waves, " of them")
  forms <- forms[wave_order(names(forms))]
  list(
    column = name, texts = unname(forms), names = wave_names(names(forms)),
    of = match(text_fold(cells), names(forms))[column$index]
  )
}

most_waves <- 200

# By number or date where they are such, else as they come.
wave_order <- function(texts) {
  number <- text_to_number(texts)
  if (anyNA(number)) number <- text_to_date(texts, "date")$value
  if (anyNA(number)) seq_along(texts) else order(number)
}

wave_names <- function(texts) {
  plain <- stringi::stri_trans_general(texts, "any-latin; latin-ascii; lower")
  plain <- substr(gsub("^_+|_+$", "", gsub("[^a-z0-9]+", "_", plain)), 1, 28)
  if (all(grepl("^[0-9]", plain))) plain <- paste0(
    if (all(grepl("^(19|20)[0-9]{2}$", plain))) "y" else "wave_", plain
  )
  plain[!grepl(part_name, plain)] <- "wave"
  make.unique(plain, sep = "_")
}

# What identifies a respondent within each wave, where nothing does over all of them.
key_within_waves <- function(columns, export, waves) {
  kinds <- vapply(columns, `[[`, "", "kind")
  if (any(kinds == "key" & vapply(columns, `[[`, TRUE, "unique"))) return(columns)
  can <- vapply(names(columns), function(name) {
    profile <- columns[[name]]
    name != waves$column && profile$filled == profile$records &&
      !profile$kind %in% c("personal", "date") &&
      max(nchar(profile$cells$text)) <= 60 && !has_twins(export$columns[[name]]$index, waves$of)
  }, TRUE)
  said <- grepl(key_words_strong, plain_heading(names(columns))) * 2 +
    grepl("(^| )(id|no|nr|number|code)( |$)|id$", plain_heading(names(columns)))
  if (!any(can)) return(columns)
  for (name in names(columns)[kinds == "key"]) columns[[name]]$kind <- "text"
  best <- which(can)[which.max(said[can])]
  columns[[best]]$kind <- "key"
  columns[[best]]$within_waves <- TRUE
  columns[[best]]$grounds <- "every record has one, and none twice in a wave"
  columns
}

has_twins <- function(index, wave) anyDuplicated(index + (max(index) + 1) * wave) > 0

# Questions of which a wave holds nothing: the numbers of those waves.
waves_without <- function(export, columns, waves) {
  size <- length(waves$names)
  waves_filled <- lapply(with_names(columns, columns), function(name) {
    cells <- export$columns[[name]]
    full <- nzchar(text_trim(cells$cells))[cells$index]
    which(tabulate(waves$of[full], size) == 0)
  })
  Filter(function(waves) length(waves) > 0 && length(waves) < size, waves_filled)
}

absent_in_waves <- function(columns, plan) {
  without <- Reduce(intersect, lapply(columns, function(name) plan$without[[name]]))
  if (length(without) == 0) return(NULL)
  paste0("{", paste0(plan$waves$names[without], ": absent", collapse = ", "), "}")
}

drafted_waves <- function(plan, seen) {
  if (is.null(plan$waves)) return(c("  one: {label: First wave}", waves_hinted(seen$columns)))
  counts <- tabulate(plan$waves$of, length(plan$waves$names))
  paste0(
    "  ", plan$waves$names, ": {label: ",
    yaml_word(vapply(plan$waves$texts, `[`, "", 1)), "}   # ", grouped(counts), " records"
  )
}

# A column that is called a wave may tell several apart.
waves_hinted <- function(columns) {
  called <- grepl(
    paste0(
      "^(wave|welle|vague|ola|onda|golf|fala|round|runde|(survey|study|data) (wave|round|year))",
      "( (no|number|id))?$"
    ),
    plain_heading(names(columns))
  )
  several <- vapply(columns, function(column) {
    column$distinct >= 2 && column$distinct <= 60 && column$filled == column$records
  }, TRUE)
  column <- names(columns)[called & several][1]
  if (!is.na(column)) paste0(
    "  # If \u201c", comment_text(column), "\u201d tells waves apart, draft with `--wave-column ",
    comment_text(column), "`."
  )
}

wave_key_lines <- function(plan) {
  if (is.null(plan$waves)) return("    wave: one")
  texts <- vapply(plan$waves$texts, function(texts) {
    words <- yaml_word(texts)
    if (length(words) == 1) words else paste0("[", paste(words, collapse = ", "), "]")
  }, "")
  c(
    "    wave:", paste0("      column: ", yaml_word(plan$waves$column)), "      values:",
    paste0("        ", plan$waves$names, ": ", texts)
  )
}

# What a plan knows of waves: which questions they lack, and whether keys are people.
plan_waves <- function(plan, export, waves) {
  plan$waves <- waves
  plan$without <- waves_without(export, plan$used, waves)
  if (plan$key == "numbered") return(plan)
  coded <- setdiff(names(plan$columns), c(plan$key, waves$column))
  coded <- coded[vapply(plan$columns[coded], `[[`, "", "kind") %in% c("choice", "number", "ticks")]
  plan$people <- people_compared(
    column_texts(export$columns[[plan$key]]), waves$of, export$columns[coded]
  )
  plan
}

design_lines <- function(plan) {
  if (is.null(plan$people)) return(NULL)
  ground <- paste0("   # ", comment_text(plan$people$ground))
  switch(plan$people$verdict,
    panel = paste0("  design: panel", ground),
    open = paste0(
      "  design: repeated", ground, ": if a key is the same person in every wave, `panel`"
    ),
    paste0("  design: repeated", ground)
  )
}
