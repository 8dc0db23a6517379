# The data and reasons of a study as tables.

# The columns that have gaps, as factors of reasons.
reasons_of <- function(values, book, n) {
  reasons <- list()
  for (name in names(values)) {
    reasons[[name]] <- reason_factor(values[[name]]$reason, book)
    values[name] <- list(NULL)
  }
  structure(
    reasons, class = "data.frame", row.names = .set_row_names(n),
    names = as.character(names(reasons))
  )
}

data_of <- function(values, book) {
  data <- lapply(
    with_names(names(values), names(values)),
    function(name) value_as_r(book$variables[[name]], values[[name]]$value)
  )
  if (length(data) == 0) return(data.frame())
  structure(data, class = "data.frame", row.names = .set_row_names(length(data[[1]])))
}

# NULL where a column has no gap.
reason_factor <- function(reason, book) {
  if (is.null(reason)) return(NULL)
  as_factor <- list(levels = book$reasons$name, class = "factor")
  looked <- looked_parts(reason)
  if (!is.null(looked)) {
    gaps <- looked$table
    gaps[gaps == 0L] <- NA
    return(looked_up(looked$index, gaps, looked$folder, as_factor))
  }
  reason[reason == 0L] <- NA
  attributes(reason) <- as_factor
  reason
}

# The retained rows, of whatever has one element a row.
retained_of <- function(x, study) if (is.null(study$retained)) x else x[study$retained]

rows_retained <- function(study) if (is.null(study$retained)) seq_len(nrow(study$data)) else
  study$retained

n_retained <- function(study) if (is.null(study$retained)) nrow(study$data) else
  length(study$retained)
