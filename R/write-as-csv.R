# The data as comma-separated text, with three tables that describe it.

format_csv <- new_format(
  help = paste0(
    "`analysis.csv`, `gaps.csv` (the code of the reason in each gap of the same records), and ",
    "`variables.csv`, `codes.csv`, `missing.csv`, which describe them"
  ),
  cannot = "types: whoever reads it must say that keys are texts (the scripts and `datapackage` do)",
  files = function(edition) c(
    "analysis.csv", "gaps.csv", "variables.csv", "codes.csv", "missing.csv"
  ),
  write = function(edition, folder) {
    put <- function(table, file) write_csv(table, file.path(folder, file))
    put(edition_table(edition), "analysis.csv")
    put(edition_gaps(edition), "gaps.csv")
    put(describe_variables(edition), "variables.csv")
    put(describe_codes(edition), "codes.csv")
    put(describe_missing(edition), "missing.csv")
  },
  back = function(edition, folder) {
    data <- read_written(file.path(folder, "analysis.csv"))
    gaps <- read_written(file.path(folder, "gaps.csv"))
    list(
      n = data$n, names = setdiff(data$names, paste0(edition$names, ".gap")),
      column = function(name) list(
        value = data$column(name), reason = reason_of_code(
          gap_column(gaps$column, name, edition), edition
        )
      )
    )
  }
)

# A file that was just written, read as anybody would: distinct cells and an index.
read_written <- function(file) {
  raw <- tryCatch(read_raw(file, list(
    heading = "names", skip = 0, delimiter = "comma", encoding = "UTF-8"
  ), basename(file)), mavik_read_error = function(e) {
    # A heading alone is a table without rows.
    if (grepl("only heading rows", conditionMessage(e), fixed = TRUE)) NULL else stop(e)
  })
  if (is.null(raw)) return(list(n = 0L, names = character(), column = function(name) NULL))
  list(n = raw$records, names = raw$names, column = function(name) raw$columns[[name]])
}

# Codes of reasons as a column of the same kind, its cells the reasons' names.
reason_of_code <- function(column, edition) {
  if (is.null(column)) return(NULL)
  reasons <- edition$study$book$reasons
  column$cells <- reasons$name[match(column$cells, number_to_text(reasons$code))]
  column
}
