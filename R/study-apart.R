# The records of one file, apart by wave.

# A raw export for each of `exports`, with the columns that it needs only.
raw_by_wave <- function(raw, exports, book) {
  rows <- rows_apart(raw, exports[[1]], book)
  lapply(with_names(names(exports), names(exports)), function(name) {
    export <- exports[[name]]
    part <- raw
    kept <- rows[[export$wave]]
    part$columns <- each_column(
      raw$columns[intersect(columns_needed(export, book), raw$names)], keeping(kept)
    )
    part$lines <- raw$lines[kept]
    part$records <- length(kept)
    part
  })
}

rows_apart <- function(raw, export, book) {
  column <- raw$columns[[export$apart$column]]
  if (is.null(column)) {
    problems <- problem_collector(book$document)
    absent_column(
      export$apart$column, c("exports", export$entry, "wave", "column"), export, raw$names,
      problems
    )
    problems$stop_if_any()
  }
  written <- export$apart$written
  wave <- rep(seq_along(written), lengths(written))[match(text_fold(column$cells), unlist(written))]
  stop_unlisted_waves(column, is.na(wave), raw, export, book)
  rows <- split(seq_len(raw$records), factor(wave[column$index], seq_along(written)))
  with_names(rows, names(written))
}

stop_unlisted_waves <- function(column, unlisted, raw, export, book) {
  if (!any(unlisted)) return(invisible())
  problems <- problem_collector(book$document)
  path <- c("exports", export$entry, "wave", "values")
  counts <- occurrences(column)
  for (k in which(unlisted & counts > 0)) {
    cell <- text_squeeze(column$cells[k])
    lines <- raw$lines[utils::head(which(column$index == k), 3)]
    problems$say(path, paste0(
      if (nzchar(cell)) paste0("`", cell, "` in the column `", export$apart$column, "`") else
        paste0("the column `", export$apart$column, "` is blank"),
      " in ", count_of(counts[k], "record"), " of ", export$shown, " (",
      if (counts[k] > 3) "the first in ", lines_of(lines), ")",
      if (nzchar(cell)) paste0(" is no wave: ", line_for_wave(cell, export)) else
        ": give each its wave, or take them out of the file"
    ))
  }
  problems$stop_if_any()
}

# The lines that would make a text a wave, or let it stand for one.
line_for_wave <- function(cell, export) {
  written <- export$apart$written
  before <- unique(ifelse(
    mapply(function(wave, texts) any(endsWith(wave, texts)), names(written), written),
    mapply(function(wave, texts) sub(paste0(
      "(", paste(texts[endsWith(wave, texts)], collapse = "|"), ")$"
    ), "", wave), names(written), written),
    ""
  ))
  own <- gsub("^_+|_+$", "", gsub("[^a-z0-9]+", "_", text_fold(cell)))
  name <- paste0(if (length(before) == 1) before, own)
  if (!grepl(part_name, name)) name <- "another"
  paste0(
    "add `", name, ": {label: ", yaml_word(cell), "}` under `waves` and `", name, ": ",
    yaml_word(cell), "` under the `values` here, or put it beside the texts of a wave, `",
    names(written)[1], ": [", paste(yaml_word(c(written[[1]], cell)), collapse = ", "), "]`"
  )
}

# A wave of which the file holds nothing.
empty_wave_findings <- function(parts, exports) {
  empty <- names(parts)[vapply(parts, `[[`, 0L, "records") == 0]
  lapply(empty, function(name) {
    export <- exports[[name]]
    new_finding("warning", "empty_wave", "", export$wave, 0L, integer(),
      c("exports", export$entry, "wave", "values"),
      paste0("no record of ", export$shown, " is of this wave"))
  })
}
