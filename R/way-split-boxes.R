# Tick boxes: what a mark means, and a set from the boxes of a question.

tick_forms <- c(
  "1", "yes", "x", "true", "ticked", "checked", "selected", "\u2713", "\u2714", "\u2611"
)

untick_forms <- c(
  "0", "no", "false", "unticked", "not ticked", "unchecked", "not checked", "not selected", "\u2610"
)

decode_tick <- function(cells, variable, role, book) {
  settings <- variable$settings
  folded <- text_fold(cells)
  place <- match(role, variable$options$name)
  ticked <- text_fold(c(
    if (is.null(settings$ticked)) tick_forms else settings$ticked, variable$options$label[place],
    variable$options$variants[[place]],
    if (!is.na(variable$options$code[place])) number_to_text(variable$options$code[place])
  ))
  unticked <- setdiff(
    text_fold(if (is.null(settings$unticked)) untick_forms else settings$unticked), ticked
  )
  number <- text_to_number(cells)
  own <- missing_meant(own_forms(variable$missing, book), folded, number)
  gap <- missing_meant(all_reason_forms(book), folded, number)
  blank <- !nzchar(folded)
  value <- ifelse(folded %in% ticked, 1L, ifelse(folded %in% unticked, 0L, NA))
  value[blank | !is.na(own)] <- NA
  gap[!is.na(own)] <- own[!is.na(own)]
  lost <- is.na(value) & !blank & is.na(gap)
  reason <- ifelse(
    blank, reason_id(book, "no_answer"),
    ifelse(lost, reason_id(book, "set_aside"), ifelse(is.na(value), gap, 0L))
  )
  list(
    value = value, reason = as.integer(reason), kind = ifelse(lost, "unlisted", ""),
    doubt = logical(length(cells))
  )
}

# Boxes side by side become one set. Where any box is marked a blank one is
# unticked; where none is, `blank` decides, or the gap that was written.
gather_ticks <- function(variable, inputs, book, n) {
  options <- variable$options
  id <- rep(1L, n)
  sets <- ""
  marked <- logical(n)
  gap <- rep(0L, n)
  blank_id <- reason_id(book, "no_answer")
  states <- nrow(book$reasons) + 2L
  for (k in which(is_offered(options))) {
    column <- inputs[[options$name[k]]]
    reason <- reason_or_none(column)
    real <- reason > 0L & reason != blank_id
    state <- ifelse(is.na(column$value), ifelse(real, 1L + reason, 0L), column$value)
    marked <- marked | !is.na(column$value) | reason == reason_id(book, "set_aside")
    gap <- ifelse(real & (gap == 0L | reason < gap), reason, gap)
    pair <- (id - 1L) * states + state
    known <- sort(unique(pair))
    add <- c("", number_to_text(k), paste0("?", k, "=",
      seq_len(nrow(book$reasons))))[known %% states + 1L]
    before <- sets[known %/% states + 1L]
    sets <- paste0(before, ifelse(nzchar(before) & nzchar(add), ",", ""), add)
    id <- match(pair, known)
  }
  written <- inputs$.written$value
  text <- if (is.null(written)) rep("", n) else ifelse(is.na(written), "", written)
  has <- marked | nzchar(text)
  set <- sets[id]
  coded <- settle_written(variable, list(set = set, written = text))
  known <- which(nzchar(text) & !nzchar(coded$written))
  set <- coded$set
  words <- text[known]
  text[known] <- ""
  set[nzchar(text)] <- paste0(set[nzchar(text)], set_mark, text[nzchar(text)])
  none <- variable$settings$blank == "none_ticked"
  set[!has & (!none | gap > 0L)] <- NA
  set[!has & none & gap == 0L] <- ""
  out <- new_column(as_sets(set), ifelse(is.na(set), ifelse(gap > 0L, gap, blank_id), 0L))
  c(out, list(ledger = set_sheet_entry(variable, known, words, out$value)))
}
