# Taking a cell of several answers apart. A set is written as the numbers of its
# options, `1,3`; `?4=2` for an option of which it is not known, for the second of
# the reasons; what was written in stands behind the mark of a set.

set_mark <- "\u001e"

# Cells as segments of folded text.
fold_segments <- function(cells, separator) text_fold(stringi::stri_replace_all_fixed(
  cells, separator, "\u001f"
))

# Two forms that read the same have the same segments.
plain_segments <- function(forms, separator) {
  text <- stringi::stri_replace_all_regex(fold_segments(forms, separator), " *\\x{1F} *", "\u001f")
  stringi::stri_replace_first_regex(text, "\\x{1F}+$", "")
}

# `options` is a data frame of `form` and `option`. Gives the set of each cell,
# what was written in (as it stands in the cell), whether it can be cut in
# several ways, and whether another form than the first of an option was read.
split_cells <- function(cells, options, separator) {
  cells <- opened_lists(cells, separator)
  # A separator at the end may have lost its own space.
  ends <- stringi::stri_trim_both(separator)
  bare <- cells
  if (ends != separator && nzchar(ends)) {
    last <- which(stringi::stri_endswith_fixed(stringi::stri_trim_right(cells), ends))
    bare[last] <- stringi::stri_replace_first_regex(
      cells[last], paste0("(\\s*\\Q", ends, "\\E)+\\s*$"), ""
    )
  }
  plain <- stringi::stri_enc_isascii(bare)
  texts <- bare
  texts[!plain] <- fold_segments(bare[!plain], separator)
  forms <- plain_segments(options$form, separator)
  keep <- !duplicated(paste(forms, options$option))
  tiled <- tile_cells(texts, plain, separator, forms[keep], as.integer(options$option[keep]))
  written <- rep("", length(cells))
  over <- which(nzchar(tiled$rest))
  written[over] <- pick_segments(bare[over], tiled$rest[over], separator)
  other_form <- logical(length(cells))
  variants <- unique(forms[duplicated(options$option)])
  if (length(variants) > 0) {
    bounded <- paste0("\u001f", plain_segments(bare, separator), "\u001f")
    for (form in setdiff(variants, forms[!duplicated(options$option)])) other_form <- other_form |
      stringi::stri_detect_fixed(bounded, paste0("\u001f", form, "\u001f"))
  }
  list(set = tiled$set, written = written, several = tiled[["ways"]] > 1L, variant = other_form)
}

# `["Folk", "Jazz"]`: a list of texts in JSON stands for its texts.
opened_lists <- function(cells, separator) {
  text <- "\"(?:[^\"\\\\]|\\\\.)*\""
  lists <- which(stringi::stri_startswith_charclass(cells, "[\\[]"))
  lists <- lists[stringi::stri_detect_regex(
    cells[lists], sprintf("^\\[\\s*(?:%s(?:\\s*,\\s*%s)*)?\\s*\\]$", text, text)
  )]
  cells[lists] <- vapply(cells[lists], function(cell) tryCatch(
    paste(unlist(jsonlite::fromJSON(cell)), collapse = separator), error = function(e) cell
  ), "", USE.NAMES = FALSE)
  cells
}

# Sets as the values of a column: a factor, whose levels are its sets.
as_sets <- function(sets) {
  known <- unique(sets[!is.na(sets)])
  structure(match(sets, known), levels = known, class = "factor")
}

# For each set: is the option in it? NA where that is not known.
set_holds <- function(sets, option) hold_option(ifelse(is.na(sets), "", sets), option) == 1L

# Why it is not known of each set whether the option is in it; 0 where it is known.
set_reasons <- function(sets, option) {
  counts <- stringi::stri_match_first_regex(sets, paste0("(?:^|,)[?]", option, "=([0-9]+)"))[, 2]
  ifelse(is.na(counts), 0L, suppressWarnings(as.integer(counts)))
}

set_written <- function(sets) {
  out <- rep("", length(sets))
  mark <- marked_at(sets)
  out[mark$has] <- stringi::stri_sub(sets[mark$has], mark$at + 1L)
  out
}

set_ticks <- function(sets) {
  mark <- marked_at(sets)
  sets[mark$has] <- stringi::stri_sub(sets[mark$has], 1L, mark$at - 1L)
  sets
}

# Which sets have a write-in, and where it begins.
marked_at <- function(sets) {
  at <- stringi::stri_locate_first_fixed(sets, set_mark)[, 1]
  has <- which(!is.na(at))
  list(has = has, at = at[has])
}

ticks_shown <- function(ticks, labels, separator) {
  number <- function(text) suppressWarnings(as.integer(text))
  paste(ifelse(
    startsWith(ticks, "?"),
    paste0("(unknown: ", labels[number(gsub("^[?]|=.*$", "", ticks))], ")"), labels[number(ticks)]
  ), collapse = separator)
}

set_text <- function(sets, labels, separator = "; ") {
  ticks <- set_ticks(sets)
  known <- unique(ticks)
  shown <- vapply(
    strsplit(known, ",", fixed = TRUE), ticks_shown, "", labels = labels, separator = separator
  )
  written <- set_written(sets)
  place <- match(ticks, known)
  out <- ifelse(nzchar(shown), shown, "none")[place]
  also <- which(nzchar(written))
  out[also] <- paste0(
    ifelse(nzchar(shown), paste0(shown, separator), "")[place[also]], written[also]
  )
  out
}
