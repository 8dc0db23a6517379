# Typed columns, with labels, questions, codes and reasons in the file's metadata.

format_parquet <- new_format(
  help = paste0(
    "`analysis.parquet` (typed columns, labels in a dictionary) and `gaps.parquet` (the code of ",
    "the reason in each gap); title, labels, questions, codes and reasons stand as JSON in the ",
    "file's metadata, a key `mavik.variable.NAME` each"
  ),
  cannot = "metadata of a column at the column itself (it stands in the file's)",
  files = function(edition) c("analysis.parquet", "gaps.parquet"),
  check = function(edition) {
    if (requireNamespace("nanoparquet", quietly = TRUE)) return(list())
    list(list(path = "formats", message = paste0(
      "`parquet` needs the package nanoparquet, which is not installed: ",
      "install.packages(\"nanoparquet\")"
    )))
  },
  write = function(edition, folder) {
    write_parquet_file(edition_table(edition), file.path(
      folder, "analysis.parquet"
    ), parquet_notes(edition), edition$n)
    write_parquet_file(edition_gaps(edition), file.path(
      folder, "gaps.parquet"
    ), parquet_notes(edition)[c("mavik.title", "mavik.missing")], edition$n)
  },
  back = function(edition, folder) {
    data <- read_parquet_file(file.path(folder, "analysis.parquet"))
    gaps <- read_parquet_file(file.path(folder, "gaps.parquet"))
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
    facts <- Filter(function(one) !is.na(one) && nzchar(one), as.list(
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
