# Raw columns that wait in files: one is read where it is asked for by name, out of all the
# parts that the export was read in. Elsewhere they are taken for a list of columns.

# `parts` are what `store_cells()` gives; `names` the columns that are of use.
new_waiting <- function(parts, names) structure(
  list(parts = parts, names = names, then = list()), class = "mavik_waiting"
)

is_waiting <- function(columns) inherits(columns, "mavik_waiting")

# The columns of one part, a piece each, in one file.
store_cells <- function(columns, file) {
  pieces <- lapply(columns, function(column) {
    # Texts in one run of bytes: to take millions apart one by one would take longer than reading.
    column$cells <- pack_texts(column$cells)
    serialize(column, connection = NULL, xdr = FALSE)
  })
  sizes <- lengths(pieces)
  bytes <- do.call(c, c(list(raw()), unname(pieces)))
  # Whoever reads the file meanwhile, or writes the same part, sees it whole.
  beside <- paste0(file, ".writing-", random_name())
  on.exit(unlink(beside))
  problem <- write_bytes(bytes, enc2native(beside))
  if (!nzchar(problem) && !file.rename(beside, file)) problem <- "it could not be put in place"
  if (nzchar(problem)) stop_full(dirname(file), problem)
  list(file = file, from = cumsum(c(0, unname(sizes)))[seq_along(sizes)], size = unname(sizes),
    names = names(columns), digest = bytes_digest(bytes))
}

# An input's columns let go of into a file.
park_cells <- function(input, folder) {
  if (is.null(folder) || is_waiting(input$columns)) return(input)
  part <- store_cells(input$columns, tempfile("cells-", folder))
  input$columns <- new_waiting(list(part), names(input$columns))
  input
}

# Does something to each column, now or when it is read.
each_column <- function(columns, act) {
  if (!is_waiting(columns)) return(lapply(columns, act))
  held <- unclass(columns)
  held$then <- c(held$then, list(act))
  structure(held, class = "mavik_waiting")
}

#' @export
names.mavik_waiting <- function(x) unclass(x)$names

#' @export
length.mavik_waiting <- function(x) length(unclass(x)$names)

#' @export
`[.mavik_waiting` <- function(x, i) {
  held <- unclass(x)
  held$names <- with_names(held$names, held$names)[i]
  held$names <- unname(held$names)
  structure(held, class = "mavik_waiting")
}

#' @export
`[[.mavik_waiting` <- function(x, i) {
  held <- unclass(x)
  if (!i %in% held$names) return(NULL)
  asked <- list(held$parts[[1]]$file, i, held$then)
  # The last one is often asked for again.
  if (identical(session$waiting$asked, asked)) return(session$waiting$column)
  column <- merge_cells(lapply(held$parts, read_piece, name = i))
  for (act in held$then) column <- act(column)
  assign("waiting", list(asked = asked, column = column), envir = session)
  column
}

#' @export
`[<-.mavik_waiting` <- function(x, i, value) {
  held <- unclass(x)
  held$names <- setdiff(held$names, i)
  structure(held, class = "mavik_waiting")
}

forget_waiting <- function() assign("waiting", NULL, envir = session)

read_piece <- function(part, name) {
  column <- read_packed(part, name)
  column$cells <- unpack_texts(column$cells)
  column
}

# The trimmed text of each row in a run of bytes; NULL where that takes more than to put them
# behind each other.
waiting_texts <- function(columns, name) {
  held <- unclass(columns)
  if (length(held$then) > 0) return(NULL)
  parts <- lapply(held$parts, function(part) {
    piece <- read_packed(part, name)
    run_rows(piece$cells, piece$index)
  })
  if (any(vapply(parts, is.null, TRUE))) NULL else run_texts(do.call(c, parts))
}

read_packed <- function(part, name) {
  place <- match(name, part$names)
  bytes <- tryCatch({
    con <- file(part$file, "rb")
    on.exit(close(con))
    seek(con, part$from[place])
    readBin(con, "raw", part$size[place])
  }, error = function(e) raw(), warning = function(w) raw())
  if (length(bytes) != part$size[place]) stop_mavik("build_error", part$file,
    ": a file of the work folder is gone or was cut short while the build ran: build again")
  unserialize(bytes)
}

# Distinct cells in order of first appearance, whatever the parts. Keys never come again.
merge_cells <- function(pieces) {
  if (length(pieces) == 1) {
    pieces[[1]]$index <- as_places(pieces[[1]]$index)
    return(pieces[[1]])
  }
  cells <- unlist(lapply(pieces, `[[`, "cells"))
  sizes <- lengths(lapply(pieces, `[[`, "cells"))
  if (anyDuplicated(cells)) {
    cells <- unique(cells)
    places <- lapply(pieces, function(piece) match(piece$cells, cells))
  } else places <- Map(function(size, end) seq_len(size) + (end - size), sizes, cumsum(sizes))
  list(cells = cells, index = join_index(
    lapply(pieces, `[[`, "index"), places, length(cells)
  ))
}
