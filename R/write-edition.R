# An edition: what one release holds of a study, column by column, for all formats alike.

new_edition <- function(
    # the study cut down to the records and variables that go out, and the release
    study, release,
    # names of the variables in their order; how many records
    names, n,
    # the variable that is the key, the one that is the wave ("" where it does not go out)
    key = "", wave = "",
    # columns by which a record is known in the files beside the data
    records = NULL,
    # what was changed against disclosure (variable, change, cells), how many respondents were
    # in rare combinations
    changes = NULL, rare = NULL,
    # of a part: the variables that have a gap in the whole
    gapped = NULL) {
  said_fields(environment())
}

# `disclose(study)` changes what must not go out as it is.
edition_of <- function(study, release, disclose = NULL) {
  study <- choose_records(study, release$waves, release$where_text)
  for (name in setdiff(names(study$book$variables), release$variables))
    study$book$variables[[name]]$kept <- FALSE
  changed <- if (!is.null(disclose)) disclose(study)
  if (!is.null(changed)) study <- changed$study
  names <- kept_variables(study$book)
  variables <- study$book$variables[names]
  first <- function(names) c(names(names), "")[1]
  edition <- new_edition(
    study, release, names, n_retained(study), first(Filter(is_key, variables)),
    first(Filter(is_wave, variables)), changes = changed$changes, rare = changed$rare
  )
  edition$records <- edition_records(edition)
  edition
}

# Wave and key where they go out, else the number of the record within the release.
edition_records <- function(edition) {
  study <- edition$study
  has_wave <- any(vapply(study$book$variables, is_wave, TRUE))
  records <- rows_retained(study)
  with <- edition$release$with
  with_wave <- nzchar(edition$wave) || !has_wave
  known <- nzchar(edition$key) && (with_wave || !has_several_waves(edition))
  columns <- list(
    wave = if (with_wave) wave_shown(edition, study$records$wave[records]),
    respondent = if (nzchar(edition$key)) study$records$key[records],
    row = if (!known) seq_len(edition$n),
    export = if ("addresses" %in% with) study$records$export[records],
    line = if ("addresses" %in% with) study$records$line[records],
    response = if ("responses" %in% with) response_numbers(study, records)
  )
  Filter(Negate(is.null), columns)
}

has_several_waves <- function(edition) {
  study <- edition$study
  length(unique(study$records$wave[rows_retained(study)])) > 1
}

# The variables that together identify a record; none where they do not all go out.
edition_key <- function(edition) {
  enough <- nzchar(edition$key) && (nzchar(edition$wave) || !has_several_waves(edition))
  if (enough) Filter(nzchar, c(edition$wave, edition$key)) else character()
}

# As the data have it, so that the two can be joined.
wave_shown <- function(edition, waves, labelled = edition$release$values == "labels") {
  variable <- if (nzchar(edition$wave)) edition_variable(edition, edition$wave)
  if (!labelled || is.null(variable)) return(waves)
  variable$texts$label[match(waves, variable$texts$value)]
}

# The platform's own numbers, from the index of the raw files.
response_numbers <- function(study, rows) {
  index <- if (is.null(study$index)) known_index(study$book) else study$index
  if (is.null(index) && !is.null(study$book$project)) index <- index_of(read_inputs(study$book))
  out <- rep(NA_character_, length(rows))
  for (export in unique(study$records$export[rows])) {
    here <- study$records$export[rows] == export
    kept <- index[[export]]
    if (!is.null(kept$record)) out[here] <- index_texts(
      kept$record, match(study$records$line[rows[here]], kept$line)
    )
  }
  out
}

# A variable with gaps that is called like one of these columns would stand there twice.
check_record_names <- function(edition) {
  gaps <- names(edition$study$reasons)
  taken <- intersect(edition$names, intersect(gaps, names(edition$records)))
  lapply(taken, function(name) if (!is.null(edition_values(edition, name)$reason)) list(
    path = edition_variable(edition, name)$path, message = paste0(
      "`", name, "` has gaps, and is the name of a column that stands beside the gaps of each ",
      "record: give the variable another name, or leave it out of the release"
    )
  ))
}

edition_variable <- function(edition, name) edition$study$book$variables[[name]]

# Values as R users take them, and reasons as a factor (NULL where there is no gap).
edition_values <- function(edition, name) {
  study <- edition$study
  reason <- retained_of(study$reasons[[name]], study)
  list(
    value = retained_of(study$data[[name]], study),
    reason = if (!is.null(reason) && (name %in% edition$gapped || !all(is.na(reason)))) reason
  )
}

# The values of some rows, by variable.
values_at <- function(edition, records) {
  rows <- if (is.null(edition$study$retained)) records else edition$study$retained[records]
  lapply(with_names(edition$names, edition$names), function(name) edition$study$data[[name]][rows])
}

# Some of its rows, with columns of the kinds that the whole has.
edition_part <- function(edition, records) {
  edition$study$retained <- if (is.null(edition$study$retained)) records else
    edition$study$retained[records]
  edition$n <- length(records)
  edition$records <- lapply(edition$records, `[`, records)
  edition
}

# The rows of each part, `size` at most.
parts_of_rows <- function(n, size) {
  from <- seq(1L, max(1L, as.integer(n)), by = as.integer(size))
  lapply(from, function(start) seq_len(min(size, n - start + 1L)) + start - 1L)
}

with_gapped <- function(edition) {
  edition$gapped <- Filter(
    function(name) !is.null(edition_values(edition, name)$reason), edition$names
  )
  edition
}

# The column as tables hold it: integers, doubles, texts, dates or factors.
edition_column <- function(edition, name, gaps = edition$release$gaps) {
  variable <- edition_variable(edition, name)
  column <- edition_values(edition, name)
  labelled <- edition$release$values == "labels" && has_labels(variable)
  inside <- gaps %in% c("codes", "labels") && !is.null(column$reason)
  if (!inside && !labelled) return(column$value)
  if (!labelled && gaps == "codes" && is.numeric(column$value) && !is_date(variable)) return(
    number_with_gaps(variable, column, edition$study$book$reasons$code)
  )
  texts <- if (inside) reason_texts(edition$study$book, gaps)
  if (!has_labels(variable)) return(text_with_gaps(variable, column, texts, gaps))
  coded_with_gaps(variable, column, texts, labelled, gaps)
}

has_labels <- function(variable) is_coded(variable) || !is.null(variable$texts)

reason_texts <- function(book, gaps) if (gaps == "labels") book$reasons$label else number_to_text(
  book$reasons$code
)

number_with_gaps <- function(variable, column, codes) {
  gap <- !is.na(column$reason)
  code <- codes[as.integer(column$reason)[gap]]
  stop_two_meanings(variable, intersect(column$value[!gap], code), "codes")
  column$value[gap] <- code
  column$value
}

text_with_gaps <- function(variable, column, texts, gaps) {
  value <- column$value
  if (is_date(variable)) value <- as.double(value)
  text <- value_text(variable, value)
  gap <- !is.na(column$reason)
  said <- texts[as.integer(column$reason)[gap]]
  stop_two_meanings(variable, intersect(text[!gap], said), gaps)
  text[gap] <- said
  text
}

coded_with_gaps <- function(variable, column, texts, labelled, gaps) {
  codes <- released_codes(variable, column$value)
  shown <- if (labelled) codes$label else as.character(codes$code)
  twice <- shown[duplicated(shown)]
  if (length(twice) > 0) stop_mavik(
    "release_error", "`", variable$name, "` has two codes that read `", twice[1],
    "`: labels alone could not tell them apart; say `values: codes`, or give one another label"
  )
  code <- match(column$value, codes$code)
  used <- if (!is.null(texts)) sort(unique(as.integer(column$reason)))
  if (length(used) > 0) {
    stop_two_meanings(variable, intersect(shown, texts[used]), gaps)
    gap <- !is.na(column$reason)
    code[gap] <- length(shown) + match(as.integer(column$reason)[gap], used)
  }
  structure(code, levels = c(shown, texts[used]), class = "factor")
}

stop_two_meanings <- function(variable, both, gaps) if (length(both) > 0) stop_mavik(
  "release_error", "`", variable$name, "` has the answer `", both[1],
  "`, which is the ", if (gaps == "labels") "label" else "code",
  " of a missing reason too: say `gaps: beside`, or give that reason another ",
  if (gaps == "labels") "label" else "code", " under `missing`"
)

# All codes that a variable can have, and bare ones that it has besides.
released_codes <- function(variable, value) {
  if (!is.null(variable$texts)) return(data.frame(
    code = variable$texts$value, label = variable$texts$label
  ))
  known <- all_codes(variable)
  # With an open range there are bare codes that nobody can list beforehand.
  if (!is.null(variable$range) && !all(is.finite(variable$range))) known <- c(
    known, sort(setdiff(unique(value), c(known, NA)))
  )
  data.frame(code = known, label = label_of(variable, known))
}

# All columns of the data, with those of reasons after their variables where `gaps` says so.
edition_table <- function(edition) {
  out <- list()
  for (name in edition$names) {
    out[[name]] <- edition_column(edition, name)
    if (edition$release$gaps != "beside") next
    reason <- edition_values(edition, name)$reason
    if (!is.null(reason)) out[[paste0(name, ".gap")]] <- reason
  }
  out
}

# Beside the gaps stand wave and key of the records, under these very names.
gap_column <- function(column, name, edition) if (!name %in% names(edition$records)) column(name)

# The same records with the reason in each gap, for the variables that have gaps: its code, or a
# factor of names.
edition_gaps <- function(edition, named = FALSE) {
  codes <- edition$study$book$reasons$code
  columns <- lapply(with_names(edition$names, edition$names), function(name) {
    reason <- edition_values(edition, name)$reason
    if (named || is.null(reason)) reason else codes[as.integer(reason)]
  })
  c(edition$records, Filter(Negate(is.null), columns))
}
