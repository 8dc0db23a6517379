# The ledger is kept by column and rule: an entry holds the rows it touched, and
# what was there and is there now as distinct values with an index.

ledger_kinds <- c("variant", "write_in", "unlisted", "corrected", "range", "universe", "rule", "exclusive", "imputed", "dropped")

new_entry <- function(kind, variable, rule, rows, was, was_index, now = "", now_index = NULL, was_reason = "", now_reason = "", note = "") {
  list(kind = kind, variable = variable, rule = paste(rule, collapse = " > "), rows = rows, was = was, was_index = was_index,
    now = now, now_index = if (is.null(now_index)) rep(1L, length(rows)) else now_index, was_reason = was_reason, now_reason = now_reason, note = note)
}

keep_rows <- function(entry, keep) {
  at <- entry$rows %in% keep
  if (length(entry$note) == length(entry$rows)) entry$note <- entry$note[at]
  for (part in c("rows", "was_index", "now_index")) entry[[part]] <- entry[[part]][at]
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
#'   `variant` and `unlisted`, else the value. Private answers are masked. A blank that gets its reason is no intervention.
#' @examples
#' study <- build_study(demo_project(tempfile()))
#' head(ledger(study))
#' @export
ledger <- function(study) {
  keep_own_options()
  check_study_class(study)
  entries <- study$ledger
  entries <- entries[order(match(vapply(entries, `[[`, "", "kind"), ledger_kinds))]
  if (!is.null(study$chosen)) entries <- lapply(entries, keep_rows, keep = study$chosen)
  rows <- unlist(lapply(entries, `[[`, "rows"))
  if (is.null(rows)) rows <- integer()
  each <- function(name) rep(vapply(entries, `[[`, "", name), lengths(lapply(entries, `[[`, "rows")))
  hidden <- private_variables(study$book)
  text <- function(values, index) unlist(lapply(entries, function(entry) {
    shown <- entry[[values]]
    if (entry$variable %in% hidden) shown[nzchar(shown)] <- masked
    shown[entry[[index]]]
  }))
  records <- study$records
  data.frame(
    wave = records$wave[rows], respondent = if (key_is_private(study$book)) rep(masked, length(rows)) else records$key[rows],
    export = records$export[rows], line = records$line[rows], variable = each("variable"), kind = each("kind"), rule = each("rule"),
    was = as.character(text("was", "was_index")), was_reason = each("was_reason"),
    now = as.character(text("now", "now_index")), now_reason = each("now_reason"),
    note = as.character(unlist(lapply(entries, function(entry) rep(entry$note, length.out = length(entry$rows)))))
  )
}
