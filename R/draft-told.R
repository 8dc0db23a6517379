# Codes that a heading or a question spells out: `Sex (1 = female, 2 = male)`.

# The codes and labels that are told of the numbers met, and which of them stand for gaps; with
# `range` where only its ends are. NULL where the numbers are others.
told_codes <- function(number, said) {
  told <- labels_told(said)
  if (is.null(told)) return(NULL)
  gap <- gap_said(text_fold(told$label))
  list <- told[is.na(gap), ]
  met <- setdiff(unique(number[!is.na(number)]), told$code[!is.na(gap)])
  met <- setdiff(met, rating_missing[rating_missing > max(list$code, -Inf)])
  if (nrow(list) < 2 || length(met) == 0 || !all(is_whole(met))) return(NULL)
  ends <- range(list$code)
  between <- nrow(list) == 2 && diff(ends) %in% 2:10 && all(met >= ends[1] & met <= ends[2])
  if (!between && !all(met %in% list$code)) return(NULL)
  list(codes = list$code, labels = list$label, range = if (between) ends,
    gaps = split(told$code[!is.na(gap)], gap[!is.na(gap)]))
}

labels_told <- function(said) {
  # Most say none, and looking for them takes its time.
  if (!isTRUE(stringi::stri_count_regex(said, "[0-9]+") >= 2)) return(NULL)
  pairs <- told_list(said)
  if (!is.null(pairs)) return(clear_pairs(pairs))
  text <- stringi::stri_replace_all_regex(said, paste0(
    "[.]{3}|\u2026|[-\u2013\u2014 ]+(to|bis|\u00e0|a|tot|and|und|et|y|e|en|or|oder|ou|o) ",
    "(?=-?[0-9]{1,2} ?[=:])"
  ), "; ")
  pairs <- told_pairs(text, paste0(
    "(?<![\\p{L}0-9.,])(-?[0-9]{1,2}) ?(?:=|:|means|bedeutet|signifie) ?",
    "([\\p{L}][^,;()=0-9/|\\[\\]]*)"
  ))
  # The number of the question: `5: Sex (1 = ...`.
  if (nrow(pairs) > 2 && grepl("^[0-9]{1,2}: [^(]*[(]", said)) pairs <- pairs[-1, ]
  # `yes = 1, no = 2`
  if (nrow(pairs) < 2) pairs <- told_pairs(
    text, "(?<![\\p{L}])([\\p{L}][^,;:()=0-9/|\\[\\]]*?) ?= ?(-?[0-9]{1,2})(?![0-9])", c(3, 2)
  )
  if (nrow(pairs) < 2) {
    pairs <- told_pairs(
      text, paste0(
        "(?:[:;,(] ?(?=[0-9]{1,2}[.)]? )|(?:^| )(?=[0-9]{1,2}(?:[.)]| ?[-\u2013]) ))",
        "([0-9]{1,2})(?:[.)]| ?[-\u2013])? ([\\p{L}][^,;()=0-9]*)"
      )
    )
    if (nrow(pairs) == 0 || !pairs$code[1] %in% 0:1 || any(diff(pairs$code) != 1)) return(NULL)
  }
  clear_pairs(pairs)
}

# `1=under 30; 2=30-59; 3=60+` to the end: then labels may hold numbers.
told_list <- function(said) {
  parts <- text_trim(strsplit(said, "[;|\n]")[[1]])
  told <- stringi::stri_match_first_regex(parts, "^(-?[0-9]{1,2}) ?= ?([^= ][^=]*)$")
  before <- max(0, which(is.na(told[, 1])))
  if (length(parts) - before < 2 || before > 0 && grepl("=", parts[before])) return(NULL)
  told <- told[seq_along(parts) > before, ]
  new_frame(code = as.numeric(told[, 2]), label = told[, 3])
}

# Each code once, with a label of its own.
clear_pairs <- function(pairs) {
  pairs <- pairs[!duplicated(paste(pairs$code, text_fold(pairs$label))), ]
  clear <- nrow(pairs) >= 2 && !anyDuplicated(pairs$code) && all(nchar(pairs$label) <= 60) &&
    !anyDuplicated(text_fold(pairs$label))
  if (clear) pairs[order(pairs$code), ]
}

told_pairs <- function(text, pattern, order = c(2, 3)) {
  parts <- stringi::stri_match_all_regex(text, pattern)[[1]]
  parts <- parts[!is.na(parts[, 1]), order, drop = FALSE]
  new_frame(code = as.numeric(parts[, 1]), label = text_trim(parts[, 2]))
}

# A heading without the codes that it tells in brackets.
without_told <- function(text) {
  rest <- text_trim(stringi::stri_replace_all_regex(
    text, paste0(
      " *[(\\[](?:[^()\\[\\]]*?(?:[0-9] ?(?:=|: ?\\p{L})|= ?[0-9])){2,}[^()\\[\\]]*[)\\]]"
    ), ""
  ))
  ifelse(nzchar(rest), rest, text)
}

told_lines <- function(column, entry, seen) {
  told <- column$told
  known <- scale_order(told$labels)$labels
  ordered <- !is.null(told$range) || identical(known, told$labels) ||
    identical(known, rev(told$labels))
  gaps <- told$gaps
  far <- setdiff(far_numbers(column)$number, c(told$codes, unlist(gaps)))
  if (length(far) > 0) gaps$no_answer <- c(gaps$no_answer, far)
  c(
    entry(
      level = if (ordered) "ordinal" else "nominal", codes = codes_text(told),
      range = if (!is.null(told$range)) paste0("[", told$range[1], ", ", told$range[2], "]"),
      cells = if (seen$cells != "codes") "codes", missing = gaps,
      note = paste0("its codes are told by its heading or question", far_counts(column))
    ),
    odd_lines(column, "    ")
  )
}
