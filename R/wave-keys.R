# Keys over exports and waves that cannot be trusted.

# Keys over exports and waves: what makes one person two, or two one.
key_findings <- function(study) {
  book <- study$book
  records <- study$records
  name <- key_variable(book)
  shown <- function(keys) {
    if (key_is_private(book)) masked else some_of(unique(keys), 5, quote = FALSE)
  }
  say <- function(level, kind, rows, path, ...) if (length(rows) > 0) list(new_finding(
    level, kind, name, shown(records$key[rows]), length(rows), rows, path, paste0(...)
  ))
  numbered <- vapply(book$exports, is_numbered, TRUE)
  exponent <- rows_holding(records$key, "E")
  exponent <- exponent[in_exponent_form(records$key[exponent])]
  c(
    keys_in_exports(records, rows_by_wave(study), numbered, say),
    say(
      "warning", "key_exponent", exponent, "exports",
      "keys in exponent form: a spreadsheet made numbers of them, and their last digits are ",
      "lost; take the export as it came from the platform"
    ),
    if (is_panel(book)) panel_keys(records, rows_by_wave(study), say),
    if (book$design == "repeated" && !any(numbered)) keys_in_waves(records, say)
  )
}

keys_in_exports <- function(records, by_wave, numbered, say) {
  unlist(lapply(names(by_wave), function(wave) {
    rows <- by_wave[[wave]]
    exports <- unique(texts_met(records$export, rows))
    if (length(exports) < 2 || any(numbered[exports])) return(NULL)
    pairs <- unique(data.frame(key = records$key[rows], export = records$export[rows]))
    twice <- rows[records$key[rows] %in% unique(pairs$key[duplicated(pairs$key)])]
    say(
      "warning", "in_two_exports", twice, "exports", "respondents of wave ", wave,
      " stand in more than one of its exports (", some_of(unique(records$export[twice]), 5),
      "): the same responses again (then `adds_to`), or did they answer twice?"
    )
  }), recursive = FALSE)
}

# Keys of a panel's later waves that are in none before.
panel_keys <- function(records, by_wave, say) {
  keys <- unique(records$key)
  id <- match(records$key, keys)
  # The first wave of each key; keys that nearly match share a number.
  wave_of_key <- match(records$wave, names(by_wave))[match(keys, records$key)]
  near_id <- match(text_near(keys), text_near(keys))
  unlist(lapply(seq_along(by_wave)[-1], function(k) {
    rows <- by_wave[[k]]
    wave <- names(by_wave)[k]
    earlier <- wave_of_key < k
    open <- rows[!earlier[id[rows]]]
    here <- logical(length(keys))
    here[id[rows]] <- TRUE
    near <- open[near_id[id[open]] %in% near_id[earlier & !here]]
    c(
      say(
        "warning", "key_near_earlier", near, "exports", "keys of wave ", wave,
        " that are in no earlier wave, but would be with other zeros in front, case or spaces: ",
        "the same people? Keys that became numbers in a spreadsheet lose their zeros"
      ),
      if (length(rows) > 0 && any(earlier) && length(open) == length(rows)) say(
        "warning", "no_key_again", rows, c("waves", wave), "nobody of wave ", wave,
        " is in an earlier wave, in a panel: does the key mean the same in both?"
      )
    )
  }), recursive = FALSE)
}

keys_in_waves <- function(records, say) {
  again <- repeated_rows(records$key)
  several <- unique(data.frame(key = records$key[again], wave = records$wave[again]))
  twice <- several$key[duplicated(several$key)]
  say(
    "note", "key_in_waves", again[records$key[again] %in% twice], c("study", "design"),
    "keys that stand in several waves, while each wave is of people of its own: ",
    "if they are the same people, say `design: panel`"
  )
}
