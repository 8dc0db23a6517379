# JSON of one shape, whatever the counts: tables are arrays of rows, named values
# objects, and what can be several an array even when it is one or none.

# `arrays` names keys, or `parent.key`, that hold several.
json_of <- function(x, arrays = character()) {
  jsonlite::toJSON(json_shape(x, "", arrays), dataframe = "rows", pretty = TRUE, digits = NA,
    na = "null", null = "null", force = TRUE)
}

json_shape <- function(x, key, arrays, parent = "") {
  several <- key %in% arrays || paste0(parent, ".", key) %in% arrays
  if (is.null(x)) return(if (several) list() else NULL)
  if (is.data.frame(x)) return(json_rows(x))
  if (is.matrix(x)) return(unname(unclass(x)))
  if (is.factor(x)) x <- as.character(x)
  if (is.list(x)) {
    out <- lapply(seq_along(x), function(k) json_shape(x[[k]], c(names(x)[k], key)[1], arrays,
      key))
    return(if (length(x) == 0 && !several) with_names(list(), character()) else with_names(out,
      names(x)))
  }
  if (!is.null(names(x))) return(lapply(as.list(x), jsonlite::unbox))
  if (several || length(x) != 1) I(unname(x)) else jsonlite::unbox(x)
}

# A row of nothing but its own columns; lists in them stay arrays.
json_rows <- function(table) {
  rownames(table) <- NULL
  table[] <- lapply(table,
    function(column) if (is.factor(column)) as.character(column) else unname(column))
  table
}

# A list that has names in R is an array in JSON.
unnamed_parts <- function(x, part) {
  x <- unclass(x)
  x[[part]] <- unname(x[[part]])
  x
}
