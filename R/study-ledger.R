# The ledger is kept by column and rule, and written out row by row.

keep_rows <- function(entry, keep) {
  kept <- entry$rows %in% keep
  if (length(entry$note) == length(entry$rows)) entry$note <- entry$note[kept]
  for (part in c("rows", "was_index", "now_index")) entry[[part]] <- entry[[part]][kept]
  entry
}

#' The ledger of a study
#'
#' Every intervention of the build, a row each, in the order of the steps.
#' Undoing the rows from `corrected` on gives the decoded answers back; undoing
#' all gives the raw text of every cell that is named.
#'
#' @param study A study, from [build_study()].
#' @return A data frame with `wave`, `respondent`, `export`, `line` (where the
#'   record starts in its file), `variable`, `kind` (`variant`: another form of a
#'   label was read; `unlisted`: a cell that is no value was set aside;
#'   `corrected`: by the sheet of corrections; `range`, `universe`, `rule`: an
#'   answer was set aside by its range, its universe or a rule; `dropped`: the
#'   whole record, by a screen or as a duplicate), `rule` (the path in the
#'   codebook), `was`, `was_reason`, `now`, `now_reason` and `note` (who corrected
#'   and why; which screens a dropped record meets). `was` is the raw text for
#'   `variant` and `unlisted`, else the value. Private answers are masked. A blank that gets its
#'   reason is no intervention.
#' @examples
#' study <- build_study(demo_project(tempfile()))
#' head(ledger(study))
#' @export
ledger <- function(study) {
  keep_own_options()
  check_study_class(study)
  ledger_table(ledger_entries(study), study)
}

# The entries in the order of the steps, of what was chosen.
ledger_entries <- function(study) {
  entries <- study$ledger
  entries <- entries[order(match(vapply(entries, `[[`, "", "kind"), names(ledger_kinds)))]
  if (is.null(study$chosen)) entries else lapply(entries, keep_rows, keep = study$chosen)
}

# The same in pieces of some 200,000 rows, so that never all of them are texts at once.
ledger_pieces <- function(study) {
  entries <- ledger_entries(study)
  rows <- cumsum(as.double(lengths(lapply(entries, `[[`, "rows"))))
  pieces <- unname(split(seq_along(entries), rows %/% 2e5))
  if (length(pieces) == 0) pieces <- list(integer())
  lapply(pieces, function(piece) function() ledger_table(entries[piece], study))
}

ledger_table <- function(entries, study) {
  rows <- as.integer(unlist(lapply(entries, `[[`, "rows")))
  # Texts that come again are listed, and their places kept.
  sizes <- lengths(lapply(entries, `[[`, "rows"))
  each <- function(name) listed_texts(
    rep(seq_along(entries), sizes), vapply(entries, `[[`, "", name)
  )
  hidden <- private_variables(study$book)
  texts_at <- function(known, index) listed_texts(
    as.integer(unlist(index)) + rep(cumsum(c(0L, lengths(known)))[seq_along(known)], sizes),
    as.character(unlist(known))
  )
  text <- function(values, index) texts_at(lapply(entries, function(entry) {
    known <- as.character(entry[[values]])
    if (entry$variable %in% hidden) known[nzchar(known)] <- masked
    known
  }), lapply(entries, `[[`, index))
  notes <- lapply(entries, `[[`, "note")
  records <- study$records
  new_frame(
    wave = listed_rows(records$wave, rows), respondent = if (key_is_private(study$book)) rep(
      masked, length(rows)
    ) else listed_rows(records$key, rows),
    export = listed_rows(records$export, rows), line = records$line[rows],
    variable = each("variable"),
    kind = each("kind"), rule = each("rule"),
    was = text("was", "was_index"), was_reason = each("was_reason"),
    now = text("now", "now_index"), now_reason = each("now_reason"),
    note = texts_at(notes, Map(rep_len, lapply(notes, seq_along), sizes))
  )
}

listed_rows <- function(texts, rows) {
  listed <- listed_parts(texts)
  if (is.null(listed)) listed_texts(rows, texts) else
    listed_texts(listed$index[rows], listed$known)
}
