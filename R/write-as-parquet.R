# Typed columns, with labels, questions, codes and reasons in the file's metadata.

format_parquet <- new_format(
  help = paste0(
    "`analysis.parquet` (typed columns, labels in a dictionary) and `gaps.parquet` (the code of ",
    "the reason in each gap); title, labels, questions, codes and reasons stand as JSON in the ",
    "file's metadata, a key `mavik.variable.NAME` each; of more than a million records a file ",
    "for each million, `analysis-1.parquet` and so on"
  ),
  cannot = "metadata of a column at the column itself (it stands in the file's)",
  files = function(edition) unlist(lapply(c("analysis", "gaps"), parquet_files, edition$n)),
  check = function(edition) {
    if (requireNamespace("nanoparquet", quietly = TRUE)) return(list())
    list(list(path = "formats", message = paste0(
      "`parquet` needs the package nanoparquet, which is not installed: ",
      "install.packages(\"nanoparquet\")"
    )))
  },
  write = function(edition, folder) {
    notes <- parquet_notes(edition)
    rows <- parts_of_rows(edition$n, rows_in_file())
    several <- length(rows) > 1
    whole <- if (several) with_gapped(edition)
    # What a code or label would mean twice is refused here, wherever the two stand.
    levels <- if (several) lapply(with_names(edition$names, edition$names), function(name) levels(
      edition_column(edition, name)
    ))
    for (k in seq_along(rows)) {
      part <- if (several) edition_part(whole, rows[[k]]) else edition
      to <- file.path(folder, c(
        parquet_files("analysis", edition$n)[k], parquet_files("gaps", edition$n)[k]
      ))
      if (several) signal_progress("write", basename(to[1]), k, length(rows))
      write_parquet_file(with_levels_of(edition_table(part), levels), to[1], notes, part$n)
      write_parquet_file(edition_gaps(part), to[2], notes[c("mavik.title", "mavik.missing")],
        part$n)
    }
  },
  back = function(edition, folder) {
    data <- read_parquet_files(file.path(folder, parquet_files("analysis", edition$n)))
    gaps <- read_parquet_files(file.path(folder, parquet_files("gaps", edition$n)))
    list(
      n = data$n, names = setdiff(data$names, paste0(edition$names, ".gap")),
      value = data$column, reason = function(name) gap_column(gaps$column, name, edition)
    )
  }
)

write_parquet_file <- function(columns, path, notes, n) nanoparquet::write_parquet(
  structure(columns, class = "data.frame", row.names = .set_row_names(n)), path, metadata = notes,
  options = nanoparquet::parquet_options(write_minmax_values = FALSE)
)

# Every file knows all labels of the whole, in their order.
with_levels_of <- function(table, levels) {
  for (name in intersect(names(table), names(Filter(length, levels)))) {
    here <- table[[name]]
    table[[name]] <- structure(match(levels(here), levels[[name]])[here], levels = levels[[name]],
      class = class(here))
  }
  table
}

rows_in_file <- function() getOption("mavik.rows_in_file", 1000000L)

parquet_files <- function(name, n) {
  count <- length(parts_of_rows(n, rows_in_file()))
  if (count == 1) return(paste0(name, ".parquet"))
  numbers <- formatC(seq_len(count), width = nchar(count), flag = "0", format = "d")
  paste0(name, "-", numbers, ".parquet")
}

# Those of several files one under the other.
read_parquet_files <- function(paths) {
  files <- lapply(paths, read_parquet_file)
  if (length(files) == 1) return(files[[1]])
  list(
    n = sum(vapply(files, `[[`, 0L, "n")), names = files[[1]]$names,
    column = function(name) {
      parts <- lapply(files, function(file) file$column(name))
      if (is.list(parts[[1]]) || is.null(parts[[1]])) parts[[1]] else do.call(c, parts)
    }
  )
}

# Some columns at a time, so that a large file is never held twice.
read_parquet_file <- function(path) {
  facts <- nanoparquet::read_parquet_info(path)
  schema <- nanoparquet::read_parquet_schema(path)
  names <- schema$name[!is.na(schema$type)]
  n <- as.integer(facts$num_rows)
  options <- nanoparquet::parquet_options(class = "data.frame")
  list(n = n, names = names, column = in_batches(names, n, function(some) {
    nanoparquet::read_parquet(path, col_select = some, options = options)
  }))
}

# JSON by key: the study, the missing reasons, and each variable.
parquet_notes <- function(edition) {
  json <- function(value) as.character(jsonlite::toJSON(value, auto_unbox = TRUE, digits = NA))
  variables <- describe_variables(edition)
  codes <- describe_codes(edition)
  own <- vapply(edition$names, function(name) {
    facts <- Filter(function(fact) !is.na(fact) && nzchar(fact), as.list(
      variables[variables$variable == name, ]
    ))
    here <- codes[codes$variable == name, c("code", "label", "count")]
    json(c(facts, if (nrow(here) > 0) list(codes = here)))
  }, "")
  c(
    mavik.title = edition$study$book$study$title,
    mavik.missing = json(describe_missing(edition)),
    with_names(own, paste0("mavik.variable.", edition$names))
  )
}
