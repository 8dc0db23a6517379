# Cells that are no possible answer: the rows of the ledger, and what is said of them.

decode_entries <- function(decoded, raw, variable, offset) {
  if (!any(nzchar(decoded$kind))) return(list())
  touched <- rows_among(raw$index, nzchar(decoded$kind))
  cell <- raw$index[touched]
  lapply(intersect(c("variant", "write_in", "unlisted"), decoded$kind), function(kind) {
    here <- (decoded$kind == kind)[cell]
    cells <- which(tabulate(cell[here], length(decoded$kind)) > 0)
    place <- integer(length(decoded$kind))
    place[cells] <- seq_along(cells)
    index <- place[cell[here]]
    read <- kind != "unlisted"
    new_entry(kind, variable$name, entry_of_kind(kind, variable),
      touched[here] + offset, raw$cells[cells], index,
      now = if (read) value_text(variable, decoded$value[cells]) else "",
      now_index = if (read) index,
      now_reason = if (read) "" else "set_aside")
  })
}

entry_of_kind <- function(kind, variable) {
  if (kind == "unlisted") return(variable$path)
  way_of(variable)$told_at(variable, kind)
}

unlisted_findings <- function(cells, counts, decoded, variable, rows_of) {
  odd <- which(decoded$kind == "unlisted" & counts > 0)
  if (length(odd) == 0) return(list())
  met <- unique(decoded$value[counts > 0 & !is.na(decoded$value)])
  new_findings("warning", "unlisted", variable$name, cells[odd], counts[odd], lapply(odd, rows_of),
    variable$path, unlisted_messages(cells[odd], counts[odd], variable, met))
}

unlisted_messages <- function(cells, counts, variable, met) {
  labels <- as.character(if (identical(variable$storage,
    "set")) variable$options$label else variable$codes$label)
  number <- text_to_number(cells)
  near <- labels_near(cells, labels)
  out <- rep("not one of its values, set aside; add it under `variants`, `missing` or `codes`",
    length(cells))
  # Of the rest there is no more to say.
  more <- which(!is_coded(variable) | lengths(near) > 0 | number %in% variable$codes$code)
  out[more] <- vapply(more, function(k) {
    said <- unlisted_message(cells[k], variable, met, counts[k], near[[k]], number[k])
    if (is.null(said)) out[k] else said
  }, "")
  out
}

unlisted_number <- function(cell) {
  marked <- grepl("^[+-]?[0-9]+[.,][0-9]+$", cell) && !marks_threes(cell)
  mark <- if (grepl(",", cell, fixed = TRUE)) "comma" else "point"
  paste0(
    "not a number, set aside; if it can be read as one, add `variants: {number: [this text]}`, ",
    "if it is a gap, `missing: {reason: [this text]}`",
    if (marked) paste0(
      "; where all decimals of the file are written so, its export needs `decimal: ", mark, "`"
    ),
    if (!marked && !is.na(text_to_span(text_fold(cell), "lower"))) paste0(
      "; for all spans at once there is `spans: middle` or `spans: lower`"
    )
  )
}

# `met` are the codes that some record of the file has.
# Nothing where no more can be said than of any.
unlisted_message <- function(cell, variable, met, count, labels, number) {
  if (identical(variable$storage, "set")) return(unlisted_set(cell, variable))
  if (is_date(variable)) return(unlisted_date(cell, variable))
  if (variable$storage == "number") return(unlisted_number(cell))
  near <- if (length(labels) > 0) slip_of(cell, as.character(variable$codes$label), labels)
  never <- if (is.na(number)) never_met(variable, met, labels, cell)
  said <- if (!is.null(never)) paste0(
    "`", never, "` is listed and no record of the file has it, while this text stands ",
    count_of(count, "time")
  )
  if (!is.null(said) && is.null(near)) return(paste0(
    "not a label, set aside; ", said,
    ": is the label mistyped in the codebook, or is this another answer?"
  ))
  if (!is.null(near)) return(paste0(
    "not a label, set aside; ", if (!is.null(said)) paste0(said, "; "), "if it means `", near,
    "`, add `variants: {", yaml_word(near), ": [", yaml_word(cell), "]}`"
  ))
  if (number %in% variable$codes$code) paste0(
    "a bare code among labels, set aside; somebody began to code? ",
    "Take the file as the platform gave it, or correct the cell"
  )
}

unlisted_set <- function(cell, variable) {
  if (!is.null(variable$settings$columns)) return(paste0(
    "neither a tick nor a box without one, that box is set aside; ",
    "say under `ticked` or `unticked` what it means"
  ))
  forms <- option_forms(variable, list(cells = "labels"))
  split <- split_cells(cell, forms, variable$settings$separator)
  if (split$several) return(paste0(
    "can be cut apart in two ways, set aside; ",
    "give one of the options another form, or correct the cell"
  ))
  near <- slip_of(split$written, variable$options$label)
  paste0(
    "`", split$written, "` is none of the options, the whole set is set aside; ",
    if (is.null(near)) "list it, "
    else paste0("if it means `", near, "`, add it to that option's `variants`, "),
    "or declare `other` for write-ins"
  )
}

unlisted_date <- function(cell, variable) {
  fits <- in_order_of(fitting_patterns(cell, variable$level), variable$dates)
  fitting <- paste0(
    "it fits ", paste0("`dates: ", fits, "`", collapse = " and "), "; say so if that is meant, or "
  )
  paste0(
    "not a ", if (variable$level == "date") "date" else "date with its time",
    " by its pattern, set aside; ", if (length(fits) > 0) fitting else "if a date is meant, ",
    "add `variants: {2026-03-02: [this text]}`"
  )
}

# For each text the labels that few letters tell from it; of all texts at once.
labels_near <- function(texts, labels, most = 6) {
  if (length(labels) == 0) return(rep(list(character()), length(texts)))
  distance <- utils::adist(gsub(" ", "", text_fold(texts), fixed = TRUE),
    gsub(" ", "", text_fold(labels), fixed = TRUE))
  lapply(seq_along(texts), function(k) labels[distance[k, ] <= most])
}

# The common patterns that a text fits, one for each order of day and month.
fitting_patterns <- function(text, level) {
  tried <- if (level == "date") c(common_days, "yyyy-MM-dd") else common_moments
  # What has other marks between its digits cannot fit, which takes less to see than to try.
  marks <- once_a_session(paste("date marks", level), function() marks_between(tried))
  tried <- tried[marks == marks_between(text[1])]
  fits <- tried[vapply(tried, function(pattern) all(!is.na(text_to_date(text, level,
    pattern)$value)), TRUE)]
  meant <- vapply(fits, function(pattern) paste(text_to_date(text, level, pattern)$value,
    collapse = " "), "")
  unname(fits[!duplicated(meant)])
}

marks_between <- function(texts) stringi::stri_replace_all_regex(
  texts, "(?<=\\p{L})[.](?= )|'[^']*'|[\\p{L}0-9']", ""
)

# Where the codebook says one order of day and month already, patterns of that order.
in_order_of <- function(fits, said) {
  orders <- unique(vapply(as.character(said), pattern_order, ""))
  if (length(orders) == 1) fits[vapply(fits, pattern_order, "") == orders] else fits
}

# A label near to the text that no record has.
never_met <- function(variable, met, labels, cell) {
  if (length(labels) == 0) return(NULL)
  left <- !variable$codes$code %in% met & variable$codes$label %in% labels
  if (!any(left)) return(NULL)
  nearest(cell, as.character(variable$codes$label)[left], most = 0.5)
}

# `d/M/yyyy` and `dd.MM.yyyy` have one order of day and month.
pattern_order <- function(pattern) gsub(
  "(.)\\1+", "\\1", gsub("'[^']*'|[^dMy]", "", pattern)
)
