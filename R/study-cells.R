# Conditions over a built study, and its cells as people read them.

named_variables <- function(name, book) {
  if (name %in% names(book$blocks)) return(c(
    intersect(name, names(book$variables)), book$blocks[[name]]
  ))
  if (name %in% names(book$variables)) return(name)
  stop_mavik(
    "build_error", "`", name, "` is not a variable or block of this codebook",
    did_you_mean(name, c(names(book$variables), names(book$blocks)))
  )
}

checked_condition <- function(where, book) {
  condition <- compile_expression(
    where, book, character(),
    function(path, message) stop_mavik("build_error", "the condition: ", message)
  )
  hidden <- intersect(condition$uses, private_variables(book))
  if (length(hidden) > 0) stop_mavik(
    "build_error", "the condition reads ", some_of(hidden),
    ", which is private: nothing is shown of it"
  )
  condition
}

truth_of <- function(condition, study) {
  columns <- lapply(
    with_names(condition$uses, condition$uses), function(name) column_of(study, name)
  )
  evaluate_expression(condition, columns, nrow(study$data))
}

column_of <- function(study, name) {
  value <- study$data[[name]]
  if (is_date(study$book$variables[[name]])) value <- as.double(value)
  reason <- study$reasons[[name]]
  new_column(value, if (!is.null(reason)) ifelse(is.na(reason), 0L, as.integer(reason)))
}

# Values as people read them: labels, texts, and the label of the reason in a gap.
cells_shown <- function(study, name, rows) {
  variable <- study$book$variables[[name]]
  column <- column_of(study, name)
  value <- column$value[rows]
  reason <- reason_or_none(column)[rows]
  text <- if (is_coded(variable)) label_of(variable, value) else value_text(variable, value)
  ifelse(reason > 0L, paste0("(", study$book$reasons$label[pmax(reason, 1L)], ")"), text)
}
