# Cells with several answers joined: taken apart, and put together with write-ins.

decode_set <- function(cells, variable, export, book, kinds) {
  n <- length(cells)
  # A list of nothing is a blank.
  cells <- opened_lists(cells, variable$settings$separator)
  error <- if (is.null(kinds)) logical(n) else kinds == "error"
  blank <- !nzchar(cells)
  spaced <- which(stringi::stri_startswith_charclass(cells, "\\p{Wspace}"))
  blank[spaced] <- !nzchar(text_trim(cells[spaced]))
  gap <- whole_gaps(cells, variable, export, book)
  gap[is.na(whole_gaps(cells, variable, NULL, book)) & is_option(cells, variable, export)] <- NA
  cut <- which(!blank & !error & is.na(gap))
  split <- split_cells(cells[cut], option_forms(variable, export), variable$settings$separator)
  settled <- settle_written(variable, split)
  worded <- nzchar(split$written)
  lost <- split$several | (worded & is.null(variable$settings$other))
  sets <- settled$set
  more <- which(nzchar(settled$written))
  sets[more] <- paste0(sets[more], set_mark, settled$written[more])
  sets[lost] <- NA
  set <- rep(NA_character_, n)
  set[cut] <- sets
  none <- variable$settings$blank == "none_ticked"
  if (none) set[blank] <- ""
  reason <- integer(n)
  reason[!is.na(gap)] <- as.integer(gap[!is.na(gap)])
  reason[error] <- reason_id(book, "set_aside")
  reason[blank] <- if (none) 0L else reason_id(book, "no_answer")
  reason[cut[lost]] <- reason_id(book, "set_aside")
  kind <- character(n)
  kind[error] <- "unlisted"
  kind[cut[split$variant]] <- "variant"
  kind[cut[worded]] <- "write_in"
  kind[cut[lost]] <- "unlisted"
  written <- character(n)
  written[cut] <- settled$written
  written[cut[lost]] <- ""
  list(
    value = as_sets(set), reason = reason, kind = kind, doubt = logical(n), written = written
  )
}

# A cell that is one option as it stands: that comes before the study's written forms.
is_option <- function(cells, variable, export) {
  separator <- variable$settings$separator
  forms <- plain_segments(option_forms(variable, export)$form, separator)
  # Where no option holds the separator, a cell that is parted by it is none.
  ends <- stringi::stri_trim_both(separator)
  may <- !nzchar(ends) | any(stringi::stri_detect_fixed(forms, "\u001f")) |
    !stringi::stri_detect_fixed(cells, separator)
  if (!all(may)) may <- may | stringi::stri_endswith_fixed(text_trim(cells), ends)
  option <- logical(length(cells))
  option[may] <- plain_segments(cells[may], separator) %in% forms
  option
}

# A cell that is as a whole a written form of a missing reason: without an export
# one of the variable's own.
whole_gaps <- function(cells, variable, export, book) {
  forms <- own_forms(variable$missing, book)
  if (!is.null(export)) {
    forms <- join_forms(forms, reason_forms(book$reasons, file_holds(variable, export)))
  }
  if (length(forms$form) == 0) return(rep(NA_integer_, length(cells)))
  numbers <- any(!is.na(text_to_number(forms$form)))
  missing_meant(
    forms, text_fold(cells), if (numbers) text_to_number(cells) else rep(NA_real_, length(cells))
  )
}

# Write-ins that a person gave an option in the sheet.
settle_written <- function(variable, split) {
  sheet <- variable$write_ins
  if (is.null(sheet)) return(split)
  place <- match(text_fold(split$written), sheet$folded)
  place[!nzchar(split$written)] <- NA
  known <- !is.na(place)
  split$set[known] <- merge_ticks(split$set[known], sheet$options[place[known]])
  split$written[known] <- ""
  split
}

merge_ticks <- function(sets, more) {
  pair <- joined_id(sets, more)
  first <- which(!duplicated(pair))
  merged <- vapply(first, function(i) {
    ticks <- unlist(strsplit(c(sets[i], more[i]), ",", fixed = TRUE))
    number <- as.integer(gsub("^[?]|=.*$", "", ticks))
    # What is ticked is known.
    ticks <- ticks[order(number, startsWith(ticks, "?"))]
    paste(ticks[!duplicated(sort(number))], collapse = ",")
  }, "")
  merged[match(pair, pair[first])]
}

# The write-in's own column beside a cell of several answers.
add_written <- function(variable, column, written) {
  text <- ifelse(is.na(written$value), "", written$value)
  has <- nzchar(text)
  if (!any(has)) return(column)
  set <- as.character(column$value)
  reason <- reason_or_none(column)
  # The cell may hold a write-in of its own, behind the mark.
  set[has] <- ifelse(is.na(set[has]), "", set[has])
  inside <- set_written(set[has])
  ticks <- stringi::stri_replace_first_regex(set[has], "\\x{1E}[\\s\\S]*$", "")
  coded <- settle_written(variable, list(set = ticks, written = text[has]))
  known <- has
  known[has] <- !nzchar(coded$written)
  both <- paste0(inside, ifelse(nzchar(inside) & nzchar(coded$written), "; ", ""), coded$written)
  set[has] <- paste0(coded$set, ifelse(nzchar(both), set_mark, ""), both)
  reason[has] <- 0L
  out <- new_column(as_sets(set), reason)
  c(out, list(ledger = set_sheet_entry(variable, which(known), text[known], out$value)))
}

# Rows that tick the excluding option beside another.
exclusive_rows <- function(column, variable) {
  if (variable$way != "split" || is.null(variable$settings$exclusive)) return(integer())
  sets <- levels(column$value)
  own <- match(variable$settings$exclusive, variable$options$name)
  held <- hold_option(sets, own) == 1L
  alone <- sets == number_to_text(own)
  which((held & !is.na(held) & !alone)[column$value])
}

set_sheet_entry <- function(variable, rows, words, value) {
  sheet_entry(variable, rows, words, value_text(variable, value[rows]),
    where_in(variable, "split", "other"))
}
