# A document becomes a checked book: typed, blocks spread out, every variable
# with its way, its codes and its place in the order of work.

compile_codebook <- function(document) {
  # A file of an instrument may have changed meanwhile.
  if (length(unlist(instrument_files(document))) > 0) return(compile_anew(document))
  # Where the document stands is no part of what it says.
  said <- list(unclass_document(document), attr(document, "marks"))
  book <- lately("book", said, function(said) compile_anew(document), 4L)
  book[c("document", "project", "file")] <-
    list(document, attr(document, "project"), attr(document, "file"))
  book
}

compile_anew <- function(document) {
  problems <- problem_collector(document)
  say <- problems$say
  if (!is.null(attr(document, "marks"))) say_unquoted_conditions(document, say)
  top <- read_fields(unclass_document(document), codebook_fields(), character(), say)
  if (is.null(top)) problems$stop_if_any()
  book <- new_book(
    document, attr(document, "project"), attr(document, "file"), top$study,
    waves = read_parts(top$waves, "waves", wave_fields(), part_name, say)
  )
  book$waves <- lapply(with_names(names(book$waves), names(book$waves)), function(name) {
    label <- book$waves[[name]]$label
    list(name = name, label = if (is.null(label)) name else label)
  })
  book$exports <- compile_exports(top$exports, book$waves, say)
  book$design <- design_of(book, say)
  book$lookups <- compile_lookups(top$lookups, say)
  book$reasons <- compile_reasons(top$missing, say)
  book$lists <- compile_lists(top$code_lists, book$reasons, say)
  book$instruments <- compile_instruments(top$instruments, book$project, say)
  book$subsets <- read_subsets(top$subsets, top$variables, say)
  book <- compile_variables(top$variables, book, say)
  check_subsets(book, say)
  check_study_weight(book, say)
  book <- compile_checks(top, book, say, troubled = problems$count() > 0)
  book$declared <- compile_tables(top$tables, book, say, troubled = problems$count() > 0)
  book$releases <- compile_releases(top$releases, book, say, troubled = problems$count() > 0)
  book$corrections <- top$corrections
  if (!is.null(book$corrections) && length(unaddressed(book)) > 0) say("corrections",
    numbered_said(unaddressed(book)))
  book$accepted <- top$accepted
  book$translations <- compile_translations(top$translations, say)
  check_languages(book, say)
  check_ignored(book, say)
  problems$stop_if_any()
  book
}

# Not said, several waves are of people of their own.
design_of <- function(book, say) {
  said <- book$study$design
  wording <- book$study$wording
  if (!is.null(wording) && !wording %in% names(book$waves)) say(
    c("study", "wording"),
    paste0(
      "`", wording, "` is not a wave of this codebook", did_you_mean(wording, names(book$waves))
    )
  )
  if (identical(said, "single") && length(book$waves) > 1) say(
    c("study", "design"),
    paste0(
      "is `single`, but there are ", length(book$waves),
      " waves: `panel` if a key is the same person in every wave, else `repeated`"
    )
  )
  if (identical(said, "panel") && any(vapply(book$exports, is_numbered, TRUE))) say(
    c("study", "design"),
    paste0(
      "is `panel`, but records are numbered by Mavik: in a panel a key names the same person in ",
      "every wave"
    )
  )
  if (!is.null(said)) said else if (length(book$waves) > 1) "repeated" else "single"
}

is_panel <- function(book) identical(book$design, "panel")

# Mavik numbers the records where nothing identifies a respondent.
is_numbered <- function(export) identical(export$key, "numbered")

# Exports of which no record can be named for good: a number changes with each row put before it.
unaddressed <- function(book) {
  names(Filter(function(export) is_numbered(export) && is.null(export$response), book$exports))
}

numbered_said <- function(exports) {
  paste0(
    "a sheet that names respondents cannot go with numbered keys: ",
    "one record more, and another person is meant. ",
    "Name the platform's own number of the response, `response: COLUMN`, under ", some_of(paste(
      "exports >", exports
    )),
    ": then `respondent` in the sheet is that number")
}

read_parts <- function(value, section, fields, pattern, say) {
  if (is.null(value)) return(list())
  if (!is_map(value)) {
    say(section, "must hold entries with names of their own")
    return(list())
  }
  check_names(names(value), section, pattern, say)
  parts <- lapply(with_names(names(value), names(value)), function(name) {
    read_fields(value[[name]], fields, c(section, name), say)
  })
  parts[!vapply(parts, is.null, TRUE)]
}

check_names <- function(names, path, pattern, say) {
  first <- if (pattern == study_name) "a letter" else "a letter or digit"
  for (name in names[!stringi::stri_detect_regex(names, pattern)]) {
    say(c(path, name), paste0("`", name, "` does not fit as a name: begin with ", first,
      ", then small letters, digits and _ only, 32 characters at most"))
  }
  for (name in unique(names[duplicated(names)])) say(
    c(path, name), paste0("`", name, "` occurs twice")
  )
}

compile_exports <- function(value, waves, say) {
  exports <- read_parts(value, "exports", export_fields(), part_name, say)
  for (name in names(exports)) {
    export <- exports[[name]]
    path <- c("exports", name)
    if (is.null(export$wave) && length(waves) == 1) export$wave <- names(waves)
    export$wave <- export_wave(export, name, value, exports, waves, say)
    if (!is.null(export$heading) && !any(c("names", "questions") %in% export$heading)) {
      say(c(path, "heading"), "one of the heading rows must be `names` or `questions`")
    }
    export$cells_said <- !is.null(export$cells)
    if (!export$cells_said) export$cells <- "labels"
    export <- as_typed_export(export, value[[name]], path, say)
    exports[[name]] <- do.call(new_export, c(list(name = name), export))
  }
  say_read_twice(exports, say)
  exports <- spread_columns_of_waves(exports, waves, say)
  wave_of <- vapply(exports, function(export) paste0(export$wave, ""), "")
  # What a wave that could not be read would have said is not missed.
  if (all(nzchar(wave_of))) say_odd_waves(exports, wave_of, names(waves), say)
  exports[order(match(wave_of, names(waves)))]
}

# The wave of an export: its own, or that of the export which it adds to.
export_wave <- function(export, name, value, exports, waves, say) {
  path <- c("exports", name)
  if (!is.null(export$adds_to)) {
    base <- exports[[export$adds_to]]
    if (is.list(base$wave)) say(c(path, "adds_to"), paste0(
      "`", export$adds_to, "` holds several waves, told apart by a column: what adds to it ",
      "cannot be told apart; give this file the columns that it lacks, or split it by wave"
    ))
    if (is.null(base) || !is.null(base$adds_to)) say(c(path, "adds_to"), paste0(
      "`", export$adds_to, "` is not an export of its own",
      did_you_mean(export$adds_to, setdiff(names(value), name))
    ))
    if (!is.null(value[[name]]$wave)) say(
      c(path, "wave"), paste0("goes without saying: it is the wave of `", export$adds_to, "`")
    )
    wave <- value[[export$adds_to]]$wave
    return(if (is_text(wave)) wave else names(waves)[1])
  }
  if (is.list(export$wave)) return(export$wave)
  if (is.null(export$wave)) {
    if (is.null(value[[name]]$wave)) say(
      path, paste0("`wave` is missing: which of ", some_of(names(waves)), "?")
    )
  } else if (!export$wave %in% names(waves)) say(c(path, "wave"), paste0(
    "`", export$wave, "` is not one of the waves", did_you_mean(export$wave, names(waves))
  ))
  export$wave
}

# Waves without an export, and those with keys in one and numbers in another.
say_odd_waves <- function(exports, wave_of, waves, say) {
  if (length(exports) > 0) for (wave in setdiff(waves, wave_of)) {
    say(c("waves", wave), "no export belongs to this wave")
  }
  for (wave in waves) {
    kinds <- unique(vapply(exports[wave_of == wave], is_numbered, TRUE))
    if (length(kinds) > 1) say("exports", paste0(
      "wave `", wave, "` has exports with keys and numbered ones: ",
      "its respondents could not be told apart"
    ))
  }
}

# A file that two exports read would count each record twice.
say_read_twice <- function(exports, say) {
  files <- vapply(
    exports,
    function(export) if (is.null(export$file)) NA_character_ else paste(
      gsub("(^|/)[.]/", "\\1", gsub("/+", "/", export$file)), export$sheet
    ),
    ""
  )
  for (k in which(duplicated(files) & !is.na(files))) say(
    c("exports", names(exports)[k], "file"),
    paste0(
      exports[[k]]$file, " is read by `", names(exports)[match(files[k], files)],
      "` already: its records would count twice; take one of the two out"
    )
  )
  for (name in names(exports)) {
    export <- exports[[name]]
    base <- if (!is.null(export$adds_to)) exports[[export$adds_to]]
    if (is_pattern(export$file) && !is.null(export$adds_to) || is_pattern(base$file)) say(
      c("exports", name, "file"),
      "a pattern of file names cannot go with `adds_to`: name each file as an export of its own"
    )
    if (is_pattern(export$file) && grepl("[*?]", dirname(export$file))) say(
      c("exports", name, "file"),
      "`*` and `?` can stand in the file's name only, not in that of its folder"
    )
  }
}

is_pattern <- function(file) is_text(file) && grepl("[*?]", file)

compile_lookups <- function(value, say) {
  lookups <- read_parts(value, "lookups", lookup_fields(), part_name, say)
  lapply(with_names(names(lookups), names(lookups)), function(name) {
    if (is.null(lookups[[name]]$cells)) lookups[[name]]$cells <- "labels"
    c(list(name = name), lookups[[name]])
  })
}

compile_lists <- function(value, reasons, say) {
  lists <- read_parts(value, "code_lists", code_list_fields(), part_name, say)
  for (name in names(lists)) {
    path <- c("code_lists", name)
    lists[[name]]$path <- path
    check_own_missing(lists[[name]]$missing, lists[[name]]$codes, reasons, c(path, "missing"), say)
    check_reason_codes(lists[[name]]$codes, NULL, reasons, c(path, "codes"), say)
  }
  lists
}

# Whether a name alone stands at a path. A document that was edited in R may lack what its
# marks still show.
is_bare_name <- function(document, path) {
  for (key in path) {
    if (!is.list(document)) return(FALSE)
    keys <- if (is.null(names(document))) seq_along(document) else names(document)
    document <- document[match(key, keys)][[1]]
  }
  is_text(document) && stringi::stri_detect_regex(document, study_name)
}

# A condition is full of commas: inside { } it stands in quotes, unless it is a name alone.
say_unquoted_conditions <- function(document, say) {
  marks <- attr(document, "marks")
  conditions <- c("if", "must", "universe", "formula")
  for (k in which(marks$flow & marks$style == "plain")) {
    path <- strsplit(marks$id[k], "\u001f", fixed = TRUE)[[1]]
    if (path[length(path)] %in% conditions && !is_bare_name(document, path)) {
      say(path, "a condition inside { } must stand in quotes, or YAML cuts it at its commas")
    }
  }
}

columns_of <- function(variable) {
  way <- way_of(variable)
  if (is.null(way$reads)) character() else unname(way$reads(variable))
}
