# How the answers of a matched question spread in the earlier wave and in the new file, for all
# that differs: codes by label, options by tick, numbers in bands.

# A data frame: `variable`, `column`, `reading` (where the new file can be read in more than one
# way), `answer`, the counts `before` and `now` (NA where the answer has no place), and what
# they are counted of (`of_before`, `of_now`).
distributions_of <- function(pairs, own, study) {
  some <- Filter(is_shown_apart, pairs)
  sides <- do.call(rbind, c(list(NULL), unlist(lapply(some, function(pair) lapply(
    readings_of(pair), sides_of, pair = pair, own = own, study = study
  )), recursive = FALSE)))
  if (is.null(sides)) return(data.frame(
    variable = character(), column = character(), reading = character(), answer = character(),
    before = integer(), now = integer(), of_before = integer(), of_now = integer()
  ))
  rownames(sides) <- NULL
  sides
}

is_shown_apart <- function(pair) !is.na(pair$column) && !isTRUE(pair$slot$version$private) && (
  pair$match %in% c("rule", "possible", "decided") || length(pair$changes) > 0 ||
    !is.null(pair$assignments) || !is.null(pair$overlay)
)

# The best two where the numbers may stand for several things; else as proposed.
readings_of <- function(pair) {
  if (!is.null(pair$assignments)) return(utils::head(pair$assignments, 2))
  list(list(name = ""))
}

sides_of <- function(reading, pair, own, study) {
  raw <- own$export$columns[[pair$column]]
  counts <- occurrences(raw)
  counts[!nzchar(text_trim(raw$cells))] <- 0L
  version <- pair$slot$version
  kind <- if (identical(pair$slot$role, "cell")) "options" else if (holds_several(version)) "box"
    else version$storage
  spread <- switch(kind,
    coded = coded_spread(reading, pair, raw, counts, own, study),
    number = number_spread(pair, raw, counts, own, study),
    options = option_spread(pair, raw, counts, study), NULL
  )
  if (is.null(spread)) spread <- list(
    answer = "answered", before = sum(!is.na(study$data[[pair$slot$variable]][rows_before(
      pair$slot, study
    )])), now = sum(counts)
  )
  rows <- length(rows_before(pair$slot, study))
  several <- kind %in% c("options", "box", "text", "date")
  data.frame(
    variable = pair$slot$variable, column = pair$column, reading = reading$name,
    answer = spread$answer, before = as.integer(spread$before), now = as.integer(spread$now),
    of_before = if (several) rows else sum(spread$before, na.rm = TRUE),
    of_now = if (several) own$export$records else sum(spread$now, na.rm = TRUE)
  )
}

rows_before <- function(slot, study) {
  rows <- rows_retained(study)
  rows[study$records$wave[rows] == slot$wave]
}

# Each code, then the texts of the new file that are none of the labels.
coded_spread <- function(reading, pair, raw, counts, own, study) {
  variable <- pair$slot$version
  codes <- variable$codes
  if (is.null(codes)) return(number_spread(pair, raw, counts, own, study))
  value <- if (is.null(reading$file)) proposed_values(pair, raw, own, study) else
    reading$code[match(text_to_number(raw$cells), reading$file)]
  decoded <- read_as(variable, pair$slot, raw, pair$cells, own, study)
  gap <- is.na(decoded$value) & !decoded$kind %in% c("unlisted", "write_in")
  odd <- which(is.na(match(value, codes$code)) & counts > 0 & !gap)
  texts <- rowsum(counts[odd], text_trim(raw$cells[odd]))
  texts <- texts[order(-texts[, 1]), 1]
  shown <- utils::head(texts, 8)
  rest <- sum(texts) - sum(shown)
  list(
    answer = c(codes$label, paste0("\u201c", names(shown), "\u201d", recycle0 = TRUE), if (
      rest > 0
    ) count_of(length(texts) - length(shown), "more text")),
    before = c(
      tabulate(match(values_before(pair$slot, study), codes$code), length(codes$code)),
      rep(NA, length(shown) + (rest > 0))
    ),
    now = c(counted_at(value, counts, codes$code), shown, if (rest > 0) rest)
  )
}

# The values of the cells with what the alignment proposes to say of them.
proposed_values <- function(pair, raw, own, study) {
  version <- pair$slot$version
  overlay <- pair$overlay
  if (!is.null(overlay$delivered)) version$delivered <- unlist(overlay$delivered)
  decoded <- read_as(version, pair$slot, raw, pair$cells, own, study)
  value <- decoded$value
  value[decoded$kind == "write_in"] <- NA
  for (change in pair$changes) if (change$change == "label_changed") value[
    text_fold(raw$cells) == text_fold(change$now)
  ] <- version$codes$code[match(change$before, version$codes$label)]
  value
}

counted_at <- function(value, counts, codes) vapply(
  codes, function(code) sum(counts[!is.na(value) & value == code]), 0
)

number_spread <- function(pair, raw, counts, own, study, bands = 8) {
  before <- values_before(pair$slot, study)
  value <- as.double(read_as(pair$slot$version, pair$slot, raw, pair$cells, own, study)$value)
  known <- c(before[!is.na(before)], value[!is.na(value) & counts > 0])
  if (length(known) == 0) return(NULL)
  whole <- all(known == round(known))
  if (whole && diff(range(known)) < 12) {
    values <- seq(min(known), max(known))
    return(list(
      answer = number_to_text(values), before = tabulate(match(before, values), length(values)),
      now = counted_at(value, counts, values)
    ))
  }
  breaks <- pretty(known, bands)
  if (whole) breaks <- unique(round(breaks))
  if (length(breaks) < 2) breaks <- breaks[1] + c(-0.5, 0.5)
  band <- function(x) findInterval(x, breaks, rightmost.closed = TRUE)
  list(
    answer = paste(number_to_text(breaks[-length(breaks)]), "to", number_to_text(breaks[-1])),
    before = tabulate(band(before[!is.na(before)]), length(breaks) - 1),
    now = counted_at(band(value), counts, seq_len(length(breaks) - 1))
  )
}

option_spread <- function(pair, raw, counts, study) {
  variable <- pair$slot$version
  variable$cells <- pair$cells
  full <- which(counts > 0)
  split <- split_cells(
    raw$cells[full], option_forms(variable, list(cells = pair$cells)), variable$settings$separator
  )
  names <- study$book$blocks[[variable$name]][seq_along(variable$options$name)]
  rows <- rows_before(pair$slot, study)
  fresh <- Filter(function(change) change$change == "added", pair$changes)
  fresh <- vapply(fresh, `[[`, "", "now")
  said <- function(label) sum(counts[grepl(label, raw$cells, fixed = TRUE)])
  list(
    answer = c(variable$options$label, paste0("\u201c", fresh, "\u201d", recycle0 = TRUE)),
    before = c(
      vapply(names, function(name) sum(study$data[[name]][rows] == 1, na.rm = TRUE), 0L),
      rep(NA, length(fresh))
    ),
    now = c(
      vapply(seq_along(names), function(k) sum(counts[full][set_holds(split$set, k)]), 0),
      vapply(fresh, said, 0)
    )
  )
}
