# An entry of the ledger holds the rows it touched, and what was there and is there
# now as distinct values with an index.

new_entry <- function(
  kind, variable, rule, rows, was, was_index, now = "", now_index = NULL, was_reason = "",
  now_reason = "", note = ""
) {
  list(kind = kind, variable = variable, rule = paste(rule, collapse = " > "), rows = rows,
    was = was, was_index = was_index,
    now = now, now_index = if (is.null(now_index)) rep(1L, length(rows)) else now_index,
    was_reason = was_reason, now_reason = now_reason, note = note)
}

