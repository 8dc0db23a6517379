# Who stands where: key, record and line of every record of every export. With
# it one person's lines are cut out of a large file without reading the rest.

# `read` are the inputs of all exports, parallels included.
index_of <- function(read) {
  index <- lapply(read, function(input) {
    list(
      key = input$records$key, record = input$record, line = input$records$line,
      wave = input$facts$wave, facts = input$facts, parallel = input$parallel
    )
  })
  base <- !vapply(index, `[[`, TRUE, "parallel")
  if (!any(vapply(index[base], function(export) has_gaps(export$key), TRUE))) return(index)
  keys <- bind_records(lapply(
    index[base],
    function(export) list(
      wave = rep(export$wave, length(export$key)), key = export$key, export = character(),
      line = export$line
    )
  ))$key
  sizes <- vapply(index[base], function(export) length(export$line), 0L)
  ends <- cumsum(sizes)
  for (k in seq_along(ends)) index[base][[k]]$key <- keys[
    seq_len(sizes[k]) + ends[k] - sizes[k]
  ]
  index
}

# The digests of the raw files are there by now. What was purged is not found by its key again.
finish_index <- function(index, purged) {
  index <- lapply(index, function(export) {
    export$facts <- await_digest(export$facts)
    export
  })
  if (is.null(purged)) return(index)
  purged <- purged[purged$whole, ]
  gone <- joined_id(purged$wave, purged$key)
  lapply(index, function(export) {
    purged_here <- joined_id(export$wave, export$key) %in% gone
    export$key[purged_here] <- NA
    if (!is.null(export$record)) export$record[purged_here] <- NA
    export
  })
}

# The checked book of a file, taken from the cache where the file's digest and
# this very build of Mavik are the same.
known_book <- function(codebook) {
  if (!is_text(codebook)) return(compile_codebook(as_codebook(codebook)))
  path <- codebook_file(codebook)
  file <- file.path(dirname(path), ".mavik", paste0(basename(path), ".rds"))
  stamp <- list(
    digest = file_digest(path), built = utils::packageDescription("mavik", fields = "Built"),
    project = real_path(dirname(path))
  )
  kept <- if (file.exists(file)) suppressWarnings(tryCatch(readRDS(file), error = function(e) NULL))
  if (identical(kept$stamp, stamp) && identical(kept$beside,
    digests_of(names(kept$beside)))) return(called_from_here(kept$book, path))
  book <- compile_codebook(as_codebook(path))
  keep_file(
    list(
      stamp = stamp,
      beside = digests_of(vapply(
        unlist(instrument_files(book$document)),
        function(file) export_path(list(file = file), book), "", USE.NAMES = FALSE
      )),
      book = book
    ),
    file
  )
  book
}

# A cache knows the codebook by the path of whoever wrote it.
called_from_here <- function(book, path) {
  book$file <- path
  attr(book$document, "file") <- path
  book
}

digests_of <- function(files) vapply(
  with_names(files, files), function(file) if (file.exists(file)) file_digest(file) else "", ""
)

# What must be the same for the index to hold: the files as they were, and how
# the codebook has them read.
index_stamp <- function(book) {
  files <- lapply(book$exports, function(export) {
    if (is.character(export$source)) unname(times_of(export$source)[1, ])
  })
  list(
    mavik = as.character(utils::packageVersion("mavik")), files = files,
    exports = lapply(book$exports, function(export) export[setdiff(names(export), "source")])
  )
}

# Private keys stay in the raw files: an index from before they were private goes.
keep_index <- function(study) {
  file <- index_file(study$book)
  if (key_is_private(study$book)) {
    unlink(file)
    return(invisible(FALSE))
  }
  if (
    is.null(file) ||
    !all(vapply(study$book$exports, function(export) is.character(export$source), TRUE))
  ) return(invisible(FALSE))
  index <- Map(with_starts, lapply(study$index, packed), study$book$exports[names(study$index)])
  keep_file(list(stamp = index_stamp(study$book), index = index), file)
  invisible(TRUE)
}

# Where every so-manieth line begins, so that one far behind is found at once.
with_starts <- function(kept, export) {
  if (cuts_lines(export)) kept$starts <- line_starts(local_path(export$source), lines_a_start)
  kept
}

lines_a_start <- 4096L

cuts_lines <- function(export) reader_for(export$source, export$shown)$laid_out == "text" &&
  export$encoding != "UTF-16"

# As it is kept: texts that nobody asks for are not made when it is read.
packed <- function(export) {
  for (name in c("key", "record")) if (!is.null(export[[name]])) export[[name]] <-
    packed_texts(export[[name]])
  export
}

# Texts of the index, as they are in a study or were kept.
index_texts <- function(texts, rows = NULL) {
  if (is.raw(texts)) return(if (is.null(rows)) unpack_texts(texts) else packed_at(texts, rows))
  if (is.null(rows)) texts else texts[rows]
}

rows_called <- function(texts, text) {
  if (is_run(texts)) texts <- run_bytes(texts)
  if (is.raw(texts) && !is.na(text)) packed_rows(texts, text) else which(texts == text)
}

# The kept index where it still holds, else NULL. A file of which only the time
# changed is vouched for by its digest.
known_index <- function(book) {
  file <- index_file(book)
  if (is.null(file) || !file.exists(file) || key_is_private(book)) return(NULL)
  kept <- suppressWarnings(tryCatch(readRDS(file), error = function(e) NULL))
  now <- index_stamp(book)
  if (
    is.null(kept$stamp) || !identical(kept$stamp[c("mavik", "exports")], now[c("mavik", "exports")])
  ) return(NULL)
  for (name in names(now$files)) {
    was <- kept$stamp$files[[name]]
    is <- now$files[[name]]
    if (is.null(was) || is.null(is) || anyNA(is) || was[1] != is[1]) return(NULL)
    if (!identical(was, is) && !identical(kept$index[[name]]$facts$blake2b,
      file_digest(book$exports[[name]]$source))) return(NULL)
  }
  kept$index
}

# The inputs of one person: every record under the key (in a panel, of all
# waves), and what parallels hold of them.
person_inputs <- function(book, respondent) {
  index <- known_index(book)
  person <- if (!is.null(index)) person_of(book, index, NULL, respondent)
  if (!identical(person, "stale") && !is.null(index)) return(person)
  read <- read_inputs(book)
  index <- index_of(read)
  # Who is to be purged only a build tells, and is not to be found by what is kept.
  if (length(erasing_screens(book)) == 0) keep_index(list(book = book, index = index))
  person_of(book, index, read, respondent)
}

# NULL where nobody is called so; "stale" where a line does not hold the key that
# the index says.
person_of <- function(book, index, read, respondent) {
  hers <- rows_of_person(index, respondent)
  if (sum(lengths(hers)) == 0) return(NULL)
  inputs <- lapply(with_names(names(index), names(index)), function(name) {
    rows <- hers[[name]]
    input <- if (is.null(read)) cut_input(book$exports[[name]], book, index, rows) else
      drop_records(read[name], setdiff(seq_along(index[[name]]$line), rows))[[1]]
    if (!index[[name]]$parallel) {
      kept <- index_texts(index[[name]]$key, rows)
      input$stale <- !is_numbered(book$exports[[name]]) && !identical(input$records$key, kept)
      input$records$key <- kept
    }
    input
  })
  if (is.null(read) && any(vapply(inputs, function(input) isTRUE(input$stale),
    TRUE))) return("stale")
  match_parallels(inputs, book)
}

rows_of_person <- function(index, respondent) {
  parallel <- vapply(index, `[[`, TRUE, "parallel")
  rows <- lapply(index, function(export) rows_called(export$key, respondent))
  records <- unlist(Map(
    function(export, rows) index_texts(export$record, rows), index[!parallel], rows[!parallel]
  ))
  records <- unique(records[!is.na(records)])
  for (name in names(index)[parallel]) rows[[name]] <- sort(union(
    rows[[name]], unlist(lapply(records, rows_called, texts = index[[name]]$record))
  ))
  rows
}

# Heading and the wanted records' lines as a small file of its own, read like
# the whole; other formats are read whole.
cut_input <- function(export, book, index, rows) {
  kept <- index[[export$name]]
  if (!cuts_lines(export) || length(rows) == 0) {
    input <- read_inputs(with_exports_of(book, export))[[export$name]]
    return(drop_records(list(input), setdiff(seq_along(kept$line), rows))[[1]])
  }
  file <- tempfile(fileext = ".csv")
  on.exit(unlink(file))
  starts <- starts_of_records(index[names(with_exports_of(book, export)$exports)])
  part <- findInterval(kept$line[rows], starts)
  to <- starts[part + 1L] - 1L
  to[is.na(to)] <- .Machine$integer.max
  cut_lines(
    local_path(export$source), file, c(1L, kept$line[rows]), c(starts[1] - 1L, to),
    as.double(kept$starts), lines_a_start
  )
  raw <- read_raw(
    file, export[c("heading", "skip", "delimiter", "encoding", "sheet")], export$shown
  )
  raw$lines <- kept$line[rows]
  input_of(raw, export, book)
}

# The lines of one file, however many exports read it; those of one alone are in order already.
starts_of_records <- function(index) {
  starts <- if (length(index) == 1) index[[1]]$line else unlist(lapply(index, `[[`, "line"))
  if (is.unsorted(starts)) sort(starts) else starts
}

# The exports that are read together with this one.
with_exports_of <- function(book, export) {
  together <- Filter(function(names) export$name %in% names, read_together(book$exports))[[1]]
  book$exports <- book$exports[together]
  book
}
