# What the distinct cells of a raw column mean for a variable. In this order:
# blank; the variable's own missing forms; its codes, labels or number; its
# variants; its code list's missing forms; the study's. The rest is unlisted.
#
# `kinds` are those of a workbook's cells: its numbers know no decimal mark, and
# an error cell is no answer of any variable.

decode_cells <- function(cells, variable, export, book, kinds = NULL, role = NULL) {
  say <- if (!is.null(export$language)) book$spoken[[export$language]]
  if (!is.null(say)) {
    variable <- variable_in(variable, say, book)
    book <- shared_in(book, say)
  }
  way <- way_of(variable)
  if (identical(role, ".written") && holds_one(variable)) {
    return(decode_written_column(cells, book))
  }
  if (!is.null(way$decode)) return(way$decode(
    cells, variable, if (is.null(role)) names(way$reads(variable))[1] else role, export, book, kinds
  ))
  error <- if (is.null(kinds)) logical(length(cells)) else kinds == "error"
  if (variable$storage == "text") return(decode_words(cells, error, book))
  folded <- text_fold(cells)
  if (is_date(variable)) return(decode_dates(cells, folded, error, variable, export, book, kinds))
  number <- text_to_number(cells, export$decimal)
  if (!is.null(kinds)) number[kinds == "number"] <- number_parse(cells[kinds == "number"])
  decode_coded(folded, number, error, variable, export, book)
}

# Coded answers and numbers: each step takes of the cells that are still open.
decode_coded <- function(folded, number, error, variable, export, book) {
  n <- length(folded)
  held <- file_holds(variable, export)
  out <- list(
    value = if (variable$storage == "coded") rep(NA_integer_, n) else rep(NA_real_, n),
    reason = integer(n), kind = character(n), doubt = logical(n)
  )
  open <- rep(TRUE, n)
  take <- function(here, value = NULL, reason = NULL, kind = NULL) {
    here <- open & here
    if (!is.null(value)) out$value[here] <<- value[here]
    if (!is.null(reason)) out$reason[here] <<- reason[here]
    if (!is.null(kind)) out$kind[here] <<- kind
    open <<- open & !here
  }
  take(!nzchar(folded), reason = rep(reason_id(book, "no_answer"), n))
  take(error, reason = rep(reason_id(book, "set_aside"), n), kind = "unlisted")
  own <- missing_meant(own_forms(variable$missing, book), folded, number)
  take(!is.na(own), reason = own)

  list_forms <- if (is.null(variable$list)) list() else book$lists[[variable$list]]$missing
  shared <- join_forms(own_forms(list_forms, book), reason_forms(book$reasons, held))
  gap <- missing_meant(shared, folded, number)
  answer <- answers_meant(variable, folded, number, gap, held, book)
  # A number that could be either counts as missing only where the range rules it out.
  out$doubt <- open & answer$bare & !is.na(gap)
  take(!is.na(answer$value), value = answer$value)
  take(!is.na(answer$reason), reason = answer$reason)

  variant <- variants_meant(variable, folded)
  take(!is.na(variant), value = variant, kind = "variant")
  take(!is.na(gap), reason = gap)
  span <- if (!is.null(variable$spans)) text_to_span(folded, variable$spans, export$decimal)
  if (!is.null(span)) take(!is.na(span), value = span, kind = "variant")
  if (!is.null(variable$other)) {
    given <- write_in_codes(variable, folded)
    # A bare number that no code has is somebody's slip, in words or in codes.
    words <- is.null(variable$other$column) & !is_whole(number)
    code <- ifelse(is.na(given), variable$other$code, given)
    take(words | !is.na(given), value = code, kind = "write_in")
  }
  take(rep(TRUE, n), reason = rep(reason_id(book, "set_aside"), n), kind = "unlisted")
  if (variable$storage == "coded") out$value <- as.integer(out$value)
  out
}

# Texts and identifiers: only a blank is a gap.
decode_words <- function(cells, error, book) {
  value <- text_trim(cells)
  blank <- !nzchar(value)
  value[blank | error] <- NA
  reason <- ifelse(
    blank, reason_id(book, "no_answer"), ifelse(error, reason_id(book, "set_aside"), 0L)
  )
  list(
    value = value, reason = reason, kind = ifelse(error, "unlisted", ""),
    doubt = logical(length(cells))
  )
}

# Dates by the patterns of the variable, else of the export; a workbook's own
# date cells know no pattern. What names a whole month is read as its first day.
decode_dates <- function(cells, folded, error, variable, export, book, kinds) {
  patterns <- if (is.null(variable$dates)) export$dates else variable$dates
  fits <- Filter(
    function(pattern) date_form(pattern)$timed == (variable$level == "datetime"), patterns
  )
  read <- text_to_date(cells, variable$level, if (length(fits) > 0) fits)
  if (length(fits) > 0 && (!is.null(kinds) || is_typed(export))) {
    plain <- text_to_date(cells, variable$level)
    # Into a typed sheet a date goes as ISO 8601, whatever the raw files have.
    own <- if (is.null(kinds)) logical(length(cells)) else kinds == "date"
    if (is_typed(export)) own <- own | is.na(read$value)
    for (part in names(read)) read[[part]] <- ifelse(own, plain[[part]], read[[part]])
  }
  number <- text_to_number(cells)
  gap <- missing_meant(own_forms(variable$missing, book), folded, number)
  shared <- missing_meant(all_reason_forms(book), folded, number)
  variant <- variants_meant(variable, folded)
  # A date comes before the study's forms: `9999` is a year where a year can stand.
  later <- is.na(gap) & is.na(read$value) & is.na(variant)
  gap[later] <- shared[later]
  blank <- !nzchar(folded)
  unread <- !blank & !error & is.na(read$value) & is.na(gap)
  other <- unread & !is.na(variant)
  lost <- error | (unread & is.na(variant))
  value <- ifelse(blank | error | !is.na(gap), NA, ifelse(other, variant, read$value))
  reason <- ifelse(
    blank, reason_id(book, "no_answer"),
    ifelse(!is.na(gap) & !error, gap, ifelse(lost, reason_id(book, "set_aside"), 0L))
  )
  list(value = value, reason = as.integer(reason),
    kind = ifelse(lost, "unlisted", ifelse(other | (!is.na(value) & read$reduced), "variant", "")),
    doubt = logical(length(cells)), zone = read$zone & !is.na(value))
}

own_forms <- function(missing, book) {
  text <- as.character(unlist(missing))
  reason <- rep(match(names(missing), book$reasons$name), lengths(missing))
  list(form = text_fold(text), reason = reason, text = text)
}

# What a file holds for a variable: labels, codes, or either.
file_holds <- function(variable, export) {
  if (is.null(variable$cells)) paste0(export$cells, "") else variable$cells
}

missing_meant <- function(forms, folded, number) {
  reason <- forms$reason[match(folded, forms$form)]
  as_number <- text_to_number(forms$form)
  by_number <- forms$reason[match(number, as_number, incomparables = NA)]
  ifelse(is.na(reason), by_number, reason)
}

# `bare` marks numbers that no list names: they are the ones in doubt.
answers_meant <- function(variable, folded, number, gap, held, book) {
  n <- length(folded)
  none <- list(value = rep(NA_real_, n), reason = rep(NA_integer_, n), bare = logical(n))
  if (variable$storage == "number") {
    range <- if (is.null(variable$range)) c(-Inf, Inf) else variable$range
    outside <- number < range[1] | number > range[2]
    none$value <- ifelse(outside & !is.na(gap), NA, number)
    none$bare <- !is.na(none$value)
    return(none)
  }
  codes <- if (is.null(variable$codes)) list(code = integer(), label = character()) else
    variable$codes
  if (held == "codes" && !is.null(variable$delivered)) return(delivered_meant(
    variable, folded, number, none, book
  ))
  by_code <- codes$code[match(number, codes$code, incomparables = NA)]
  by_label <- codes$code[match(folded, text_fold(codes$label))]
  none$value <- switch(held, codes = by_code, either = ifelse(is.na(by_label), by_code, by_label),
    by_label)
  if (!is.null(variable$range)) {
    code <- is_whole(number) & (
      number >= variable$range[1] & number <= variable$range[2] | number %in% codes$code
    )
    none$bare <- is.na(none$value) & code & !number %in% codes$code
    none$value <- ifelse(is.na(none$value) & code, number, none$value)
  }
  none
}

delivered_meant <- function(variable, folded, number, none, book) {
  keys <- names(variable$delivered)
  place <- match(folded, text_fold(keys))
  by_number <- match(number, text_to_number(keys), incomparables = NA)
  meant <- text_fold(unname(variable$delivered)[ifelse(is.na(place), by_number, place)])
  none$value <- variable$codes$code[match(meant, text_fold(variable$codes$label))]
  reason <- match(meant, text_fold(book$reasons$name))
  none$reason <- ifelse(is.na(reason), match(meant, text_fold(book$reasons$label)), reason)
  none
}

variants_meant <- function(variable, folded) {
  forms <- text_fold(as.character(unlist(variable$variants)))
  values <- unlist(lapply(names(variable$variants), function(target) {
    rep(variant_value(variable, target), length(variable$variants[[target]]))
  }))
  as.numeric(values)[match(folded, forms)]
}

variant_value <- function(variable, target) {
  if (is_date(variable)) return(text_to_date(target, variable$level)$value)
  place <- match(text_fold(target), text_fold(variable$codes$label))
  if (!is.na(place)) return(variable$codes$code[place])
  number <- text_to_number(target)
  if (variable$storage == "number" || (is_whole(number) && number %in% all_codes(variable)))
    number else NA
}

# Write-ins to which a person gave a code in the sheet.
write_in_codes <- function(variable, folded) {
  sheet <- variable$write_ins
  if (is.null(sheet)) return(rep(NA_real_, length(folded)))
  suppressWarnings(as.numeric(sheet$code[match(folded, sheet$folded)]))
}

decode_written_column <- function(cells, book) {
  value <- text_trim(cells)
  blank <- !nzchar(value)
  value[blank] <- NA
  list(
    value = value, reason = ifelse(blank, reason_id(book, "no_answer"), 0L),
    kind = character(length(cells)), doubt = logical(length(cells))
  )
}

# The written forms of the options, in the file's own kind.
option_forms <- function(variable, export) {
  options <- lapply(
    variable$options[c("label", "code", "variants")], `[`, is_offered(variable$options)
  )
  number <- which(is_offered(variable$options))
  held <- file_holds(variable, export)
  codes <- ifelse(is.na(options$code), options$label, number_to_text(options$code))
  first <- if (held == "codes") codes else options$label
  more <- if (held == "either") which(!is.na(options$code))
  forms <- new_frame(
    form = unname(c(first, codes[more], unlist(options$variants))),
    option = c(number, number[more], rep(number, lengths(options$variants)))
  )
  tick <- variable$settings$other$label
  if (!is.null(tick)) forms <- rbind(forms, data.frame(form = tick, option = 0L))
  forms
}

is_offered <- function(options) if (is.null(options$offered)) rep(TRUE, length(options$name)) else
  options$offered
