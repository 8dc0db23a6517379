# The same responses delivered twice: the records of a parallel (`adds_to`) are
# matched to those of its base by record, else by key, never by position.

# Gives each base its parallels, with the parallel's record for each of its own.
match_parallels <- function(inputs, book) {
  parallel <- vapply(book$exports, function(export) !is.null(export$adds_to), TRUE)
  for (name in names(book$exports)[parallel]) {
    export <- book$exports[[name]]
    base <- inputs[[export$adds_to]]
    by <- if (!is.null(base$record) && !is.null(inputs[[name]]$record)) "response" else "key"
    ids <- lapply(
      list(base, inputs[[name]]),
      function(input) if (by == "key") input$records$key else input$record
    )
    for (side in 1:2) check_parallel_ids(
      ids[[side]], by, book$exports[[c(export$adds_to, name)[side]]],
      inputs[[c(export$adds_to, name)[side]]]$records$line
    )
    base$parallels[[name]] <- list(
      columns = inputs[[name]]$columns, export = export, facts = inputs[[name]]$facts,
      lines = inputs[[name]]$records$line, map = match(ids[[1]], ids[[2]]),
      alone = list(here = which(!ids[[1]] %in% ids[[2]]), there = which(!ids[[2]] %in% ids[[1]])),
      ids = ids[[2]]
    )
    base$findings <- c(base$findings, inputs[[name]]$findings)
    base$names <- c(base$names, inputs[[name]]$names)
    inputs[[export$adds_to]] <- base
  }
  inputs[!parallel]
}

check_parallel_ids <- function(ids, by, export, lines) {
  again <- which(duplicated(ids) | duplicated(ids, fromLast = TRUE) | !nzchar(ids))
  if (length(again) == 0) return()
  stop_build(export, lines[again[1]], "the ", by, " `", export[[by]],
    "` is blank or occurs twice (", lines_of(lines[again]),
    "): it must name one record where one export adds to another",
    if (by == "key") paste(
      "; if the platform numbers its responses,", "give that column as `response` in both"
    ))
}

# Where a column is read: the base, unless it lacks it or the variable says `from`.
source_of <- function(variable, column, input, export) {
  own <- list(raw = input$columns[[column]], export = export)
  if (is.null(variable$from) && !is.null(own$raw)) return(own)
  having <- Filter(function(parallel) column %in% names(parallel$columns), input$parallels)
  parallel <- if (is.null(variable$from)) having[1][[1]] else having[[variable$from]]
  if (is.null(parallel)) return(own)
  list(raw = through(parallel$columns[[column]], parallel$map), export = parallel$export)
}

# What is said of a parallel by its own name holds for its cells.
parallel_version <- function(variable, export, book) {
  whole <- book$variables[[variable$name]]
  if (!export$unspread %in% names(whole$version_of)) return(variable)
  version <- version_in(whole, export)
  if (is_absent(version)) variable else version
}

# A parallel's column in the order of the base's records; NA where it has none.
through <- function(raw, map) {
  raw$index <- raw$index[map]
  raw
}

parallel_findings <- function(input, offset, book) {
  unlist(lapply(names(input$parallels), function(name) {
    alone <- input$parallels[[name]]$alone
    difference <- function(count, rows, written, where, other) if (count > 0) list(
      new_finding("warning",
      "one_file_only", "", written, count, rows,
      c("exports", name), paste0(
        "records that stand in `", where, "` only; what is read from `", other,
        "` is not found for them"
      )))
    hidden <- key_is_private(book)
    c(
      difference(length(alone$here), alone$here + offset, "", input$facts$export, name),
      if (length(alone$there) > 0) list(new_finding("warning", "one_file_only", "",
        if (hidden) masked else some_of(input$parallels[[name]]$ids[alone$there], 5, quote = FALSE),
        length(alone$there), integer(), c("exports", name),
        paste0("records that stand in `", name, "` only: they are no part of the study")))
    )
  }), recursive = FALSE)
}

# Cells of base and parallel that mean different things, a pair of texts at a time.
contradictions <- function(variable, column, input, export, book, offset, role) {
  out <- list(findings = list(), rows = list())
  if (!column %in% names(input$columns)) return(out)
  for (parallel in input$parallels) {
    if (!column %in% names(parallel$columns)) next
    against <- compare_cells(
      variable, input$columns[[column]], export, through(parallel$columns[[column]], parallel$map),
      parallel$export, book, offset, role
    )
    out$findings <- c(out$findings, against$findings)
    pair <- c(export$name, parallel$export$name)
    for (rule in names(Filter(
      function(rule) !is.null(rule$files) && setequal(rule$files, pair), book$rules
    ))) out$rows[[rule]] <- against$rows
  }
  out
}

compare_cells <- function(variable, cell, one_export, other, other_export, book, offset, role) {
  mine <- decode_cells(cell$cells, variable, one_export, book, cell$kinds, role)
  theirs <- decode_cells(
    other$cells, parallel_version(variable, other_export, book), other_export, book, other$kinds,
    role
  )
  pair <- (cell$index - 1) * length(other$cells) + other$index
  seen <- unique(pair[!is.na(pair)])
  a <- (seen - 1) %/% length(other$cells) + 1
  b <- (seen - 1) %% length(other$cells) + 1
  same <- mine$reason[a] == theirs$reason[b] & (
    is.na(mine$value[a]) | (!is.na(theirs$value[b]) & mine$value[a] == theirs$value[b])
  )
  unlisted <- mine$kind[a] == "unlisted" | theirs$kind[b] == "unlisted"
  odd <- which(!same & !unlisted)
  contradictions <- lapply(odd, function(combination) {
    rows <- which(pair == seen[combination])
    new_finding("warning", "contradiction", variable$name,
      paste0(cell$cells[a[combination]], " | ", other$cells[b[combination]]), length(rows),
      rows[seq_len(min(5, length(rows)))] + offset,
      variable$path, paste0(
        "`", one_export$name, "` and `", other_export$name,
        "` hold different answers; the first is used, unless the variable says `from: ",
        other_export$name, "`"
      ))
  })
  list(findings = contradictions, rows = which(pair %in% seen[odd]) + offset)
}
