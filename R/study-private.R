# What a study hands on, or keeps, holds no private cell: only the reasons of gaps,
# which are counted, and rows of the ledger without what they touched.

without_private <- function(study) {
  book <- study$book
  hidden <- private_variables(book)
  study$data[intersect(hidden, names(study$data))] <- NULL
  for (k in seq_along(study$ledger)) {
    if (study$ledger[[k]]$variable %in% hidden)
      study$ledger[[k]] <- masked_entry(study$ledger[[k]])
  }
  study$findings <- lapply(study$findings, masked_finding, hidden = hidden)
  if (key_is_private(book)) {
    study$records$key <- numbered_keys(study$records$key)
    study["index"] <- list(NULL)
    study$records$id <- NULL
  }
  study$book <- without_sources(book, hidden, !is.null(study$purged))
  study$purged <- NULL
  study
}

holds_secrets <- function(book) length(private_variables(book)) > 0 || key_is_private(book)

# Each key's place among the different ones.
numbered_keys <- function(keys) {
  if (is_run(keys) && length(repeated_rows(keys)) == 0) return(run_of_numbers(seq_along(keys)))
  number_to_text(match(keys, unique(keys)))
}

masked_entry <- function(entry) {
  for (part in c("was", "now")) {
    entry[[part]][!is.na(entry[[part]]) & nzchar(entry[[part]])] <- masked
  }
  entry$note[nzchar(entry$note)] <- masked
  entry
}

# Neither what was written nor what it is near to is shown.
masked_finding <- function(finding, hidden) {
  if (!finding$variable %in% hidden || !nzchar(finding$written)) return(finding)
  finding$message <- private_words(finding$kind)
  finding$written <- masked
  finding
}

private_words <- function(kind) {
  said <- switch(kind,
    unlisted = "not one of its values, set aside", range = "outside its range, set aside",
    write_in_or_label = "taken as a write-in, but near to a label, or written by many",
    contradiction = "two files hold different answers; the first is used",
    exclusive = "ticked together with what excludes all others: the whole set is set aside",
    missing_or_number = "a missing form that is a possible value here: read as the value",
    lookup_near_match = , not_found = "keys that are not in the file that is looked up",
    key_near_match = "keys that differ only in case, spaces or leading zeros",
    "something to look at"
  )
  paste0(said, " (private: look into the raw file)")
}

# Sheets and look-up files were read to be applied; of them only their size stays.
without_sources <- function(book, hidden, purged) {
  for (name in names(book$variables)) {
    book$variables[[name]][c("write_ins", "coding")] <- NULL
    book$variables[[name]] <- in_all_versions(book$variables[[name]], c("write_ins", "coding"))
  }
  # A data frame that was read is the user's own: the study keeps no copy of it.
  book$exports <- lapply(book$exports, function(export) {
    if (is.data.frame(export$source)) export["source"] <- list(NULL)
    export
  })
  book$tables <- lapply(book$tables, without_cells, hidden = hidden, purged = purged, book = book)
  book
}

# Its keys stay where they are no secret: nobody's purged or private key is among them.
without_cells <- function(table, hidden, purged, book) {
  table$columns <- names(table$columns)
  by <- Filter(function(variable) {
    identical(way_of(variable)$asks(variable), table$export$name)
  }, book$variables)
  secret <- purged || any(vapply(by, function(variable) variable$settings$by %in% hidden, TRUE))
  if (secret) table["key"] <- list(NULL)
  table["told"] <- list(NULL)
  table
}
