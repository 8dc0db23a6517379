# The export of a new wave as a line of the codebook.

export_line <- function(pairs, own, study, options) {
  if (length(own$known) > 0) return(NULL)
  before <- platform_exports(study$book$exports)
  key <- key_of_wave(own, study)
  responses <- as.character(unlist(lapply(before, `[[`, "response")))
  response <- c(intersect(responses, own$export$names), NA)[1]
  called <- export_names(own, study)
  exports <- with_names(lapply(seq_along(own$files), function(k) {
    export_entry(own$files[[k]], called[1], key, response, pairs, own, study)
  }), called)
  label <- options$label
  if (is.null(label)) label <- paste0(
    toupper(substr(own$wave, 1, 1)), gsub("_", " ", substring(own$wave, 2))
  )
  by <- if (is.na(key)) "; no column names the respondent" else paste0(", by ", key)
  faults <- if (!is.na(key)) key_faults(own$export$columns[[key]], study$book)
  kept <- unique(unlist(lapply(
    Filter(function(pair) keeps_name(pair, study), pairs), function(pair) pair$slot$variable
  )))
  new_line(
    "export", "",
    c(
      list(new_edit(c("waves", own$wave), list(label = label))),
      lapply(called, function(name) new_edit(c("exports", name), exports[[name]])),
      wave_edit(study$book)
    ),
    grounds = paste0(
      count_of(own$export$records, "record"), by, faults, if (length(kept) > 0) paste0(
        "; with this alone ", some_of(kept, 3), " would be read as before, by the column's name: ",
        "decide that first"
      )
    ),
    sure = !is.na(key) && length(kept) == 0 && is.null(faults)
  )
}

# What keeps a build from reading the wave by this key.
key_faults <- function(column, book) {
  count <- occurrences(column)
  told <- nzchar(column$cells)
  blank <- sum(count[!told])
  again <- if (is.null(book$duplicates)) sum(count[told] > 1) else 0
  if (blank + again > 0) paste0(
    if (again > 0) paste0("; ", count_of(again, "key"), " stand", if (again == 1) "s",
      " more than once: ", retain_one),
    if (blank > 0) paste0("; ", count_of(blank, "record"), " without a key")
  )
}

# A study of one wave seldom says of which each row is; with a second the analysis file must.
wave_edit <- function(book) {
  name <- wave_name(book)
  if (!is.null(name)) list(new_edit(
    c("variables", name), list(is = "wave", label = "Wave"), after = key_variable(book)
  ))
}

# What its variable of waves will be called; NULL where it has one, or has done without.
wave_name <- function(book) {
  if (length(book$waves) != 1 || any(vapply(book$variables, is_wave, TRUE))) return(NULL)
  setdiff(c("wave", "survey_wave", "wave_of_survey"), names_taken(book))[1]
}

# The column that names the respondents of a wave: as it was called before, or by its looks.
key_of_wave <- function(own, study) {
  before <- platform_exports(study$book$exports)
  base <- before[[length(before)]]
  names <- own$export$names
  key <- intersect(c(base$key, vapply(before, `[[`, "", "key")), names)[1]
  if (!is.na(key) || is_numbered(base)) return(key)
  c(intersect(as.character(own$seen$keys$column), names), NA)[1]
}

# One file of the wave as the codebook says it, without what goes without saying.
export_entry <- function(file, first, key, response, pairs, own, study) {
  form <- file$form
  used <- c(key, response, vapply(pairs, function(pair) paste0(pair$column, ""), ""))
  met <- function(pattern) {
    columns <- ignored_among(pattern, own$export$names)
    length(columns) > 0 && !any(columns %in% used)
  }
  ignored <- Filter(met, as.character(ignored_before(study)))
  Filter(Negate(is.null), list(
    wave = if (!file$parallel) own$wave, adds_to = if (file$parallel) first,
    file = file$inside, sheet = form$sheet, key = if (is.na(key)) "numbered" else key,
    response = if (!is.na(response)) response,
    cells = if (file$parallel) cells_of_parallel(file$export, pairs, own, study) else own$cells,
    heading = form$heading, skip = if (form$skip > 0) number_to_text(form$skip),
    delimiter = if (form$delimiter != "comma") form$delimiter,
    decimal = if (own$decimal != "point") own$decimal,
    encoding = if (form$encoding != "UTF-8") form$encoding,
    ignored = if (length(ignored) > 0) ignored
  ))
}

# What the wave's exports are called, or will be.
export_names <- function(own, study) {
  if (length(own$known) > 0) return(own$known)
  names <- if (length(own$files) == 1) own$wave else paste0(own$wave, "_", seq_along(own$files))
  ifelse(names %in% names(study$book$exports), paste0(names, "_export"), names)
}

# The same responses again: what this file of them holds.
cells_of_parallel <- function(export, pairs, own, study) {
  own$export <- export
  cells_of_file(lapply(
    Filter(function(pair) isTRUE(pair$column %in% export$names), pairs), add_codes, own = own,
    study = study
  ))
}
