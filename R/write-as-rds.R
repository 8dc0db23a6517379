# One R object that needs nothing but base R.

format_rds <- new_format(
  help = paste0(
    "`analysis.rds`: a list of `data` (factors, ordered where the level is; the label of each ",
    "variable is its attribute `label`), `reasons` (the same rows: why a gap is one), ",
    "`variables`, `codes` and `missing`"
  ),
  cannot = "nothing; it is read by R alone. `values` and `gaps` change nothing in it",
  files = function(edition) "analysis.rds",
  write = function(edition, folder) {
    # The second version of the form names no locale: equal bytes everywhere.
    problem <- tryCatch(saveRDS(r_object(edition), file.path(
      folder, "analysis.rds"
    ), version = 2), error = conditionMessage)
    if (!is.null(problem)) stop("cannot be written (", problem, ")")
  },
  back = function(edition, folder) {
    read <- readRDS(file.path(folder, "analysis.rds"))
    list(
      n = nrow(read$data), names = names(read$data), labels = vapply(
        read$data, function(column) paste0(attr(column, "label"), ""), ""
      ), labelled = TRUE,
      value = function(name) plain_column(read$data[[name]]),
      reason = function(name) gap_column(function(name) read$reasons[[name]], name, edition)
    )
  }
)

r_object <- function(edition) {
  data <- lapply(with_names(edition$names, edition$names), function(name) r_column(edition, name))
  reasons <- edition_gaps(edition, named = TRUE)
  if (!is.null(edition$records$wave)) reasons$wave <- wave_shown(
    edition, edition$study$records$wave[rows_retained(edition$study)], labelled = TRUE
  )
  frame <- function(columns) structure(
    columns, class = "data.frame", row.names = .set_row_names(edition$n),
    names = as.character(names(columns))
  )
  list(
    data = frame(data), reasons = frame(reasons),
    variables = describe_variables(edition), codes = describe_codes(edition),
    missing = describe_missing(edition)
  )
}

r_column <- function(edition, name) {
  variable <- edition_variable(edition, name)
  value <- edition_values(edition, name)$value
  if (has_labels(variable)) {
    value <- coded_with_gaps(variable, list(value = value), NULL, TRUE)
    if (identical(variable$level, "ordinal")) class(value) <- c("ordered", "factor")
  }
  attr(value, "label") <- paste0(variable$label, "")
  value
}

plain_column <- function(column) {
  attr(column, "label") <- NULL
  column
}
