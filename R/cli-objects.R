# What R users expect of an object: its size, its parts, its table, its summary, its text.

#' Sizes, tables and summaries of Mavik's objects
#'
#' @param x,object A study, export, codebook, or what [look()], [draft_codebook()], [answers()],
#'   [examine_scales()], [why()], [check_study()], [align_wave()], [compare_studies()],
#'   [compare_entries()] or [release_study()] returned.
#' @param i,j Rows and columns, as of a data frame; of answers and scales names or numbers.
#' @param drop Whether one column alone comes back as a vector.
#' @param row.names,optional Not used.
#' @param ... For a study and `as.data.frame()`: what [study_table()] takes. Not used otherwise.
#' @return `dim()` and so `nrow()` and `ncol()`: of a study the records and variables of the
#'   analysis file, of an export or a look its records and columns. `[`: of a study that part of
#'   its analysis table (`study[1:3, "voice"]`, `study["voice"]`), of an export of its cells; of
#'   answers and scales the same with those tables or scales only. `as.data.frame()`: a plain
#'   data frame, of a study [study_table()]; of a codebook a row a variable (`name`, `label`,
#'   `level`, `way`, `block`, `kept`, `private`); of answers a row a cell or code, with the
#'   variable in front; of scales a row an item (`scale`, `wave` and what `items` of the scale
#'   holds); of a story a row a step; of a check its findings; of an alignment its lines; of a
#'   comparison its changed cells; of two entries their differences; of a release its files.
#'   `summary()`: of a study a data frame with a row a variable of the analysis file: `name`,
#'   `label`, `level`, `answered`, `gaps`, `distinct`, and of numbers `mean`, `min`, `max` (`NA`
#'   for others); of a codebook or a draft its table; of scales a row a scale and wave (`scale`,
#'   `label`, `wave`, `k`, `n`, `alpha`, `alpha_low`, `alpha_high`, `omega`, `mean_r`); of a
#'   check its groups; of an alignment its counts (`decision`, `columns`); of a comparison its
#'   counts of changed cells; of the rest the table. `format()`: the lines that `print()` shows.
#' @examples
#' study <- build_study(demo_project(tempfile()))
#' dim(study)
#' head(summary(study))
#' head(as.data.frame(study, values = "labels")$voice)
#' as.data.frame(answers(study, "voice"))
#' @name objects
NULL

#' @rdname objects
#' @export
dim.mavik_study <- function(x) c(n_retained(x), length(kept_variables(x$book)))

#' @rdname objects
#' @export
dim.mavik_export <- function(x) c(x$records, length(x$names))

#' @rdname objects
#' @export
dim.mavik_look <- function(x) c(x$records, length(x$columns))

#' @rdname objects
#' @export
`[.mavik_study` <- function(x, i, j, drop = FALSE) {
  # With one index it is of columns, as of a data frame.
  if (nargs() - (!missing(drop)) < 3) study_table(x)[i] else study_table(x)[i, j, drop = drop]
}

#' @rdname objects
#' @export
`[.mavik_export` <- function(x, i, j, drop = FALSE) {
  table <- as.data.frame(x)
  if (nargs() - (!missing(drop)) < 3) table[i] else table[i, j, drop = drop]
}

#' @rdname objects
#' @export
`[.mavik_answers` <- function(x, i) some_parts(x, "tables", i)

#' @rdname objects
#' @export
`[.mavik_scales` <- function(x, i) some_parts(x, "scales", i)

#' @rdname objects
#' @export
`[.mavik_draft` <- function(x, i) {
  structure(unclass_lines(x)[i], class = class(x), project = attr(x, "project"))
}

some_parts <- function(x, of, i) {
  known <- names(x[[of]])
  lacking <- if (is.character(i)) setdiff(i, known) else setdiff(i[i > 0], seq_along(known))
  if (length(lacking) > 0) stop_mavik("usage_error", "`", lacking[1], "` is not among the ", of,
    ": ", some_of(known))
  x[[of]] <- if (is.character(i)) x[[of]][known %in% i] else x[[of]][i]
  x
}

#' @rdname objects
#' @export
as.data.frame.mavik_study <- function(x, row.names = NULL, optional = FALSE, ...) {
  study_table(x, ...)
}

#' @rdname objects
#' @export
as.data.frame.mavik_codebook <- function(x, row.names = NULL, optional = FALSE, ...) {
  keep_own_options()
  book <- compile_codebook(x)
  of <- function(key) vapply(book$variables, function(variable) paste0(variable[[key]], ""), "")
  data.frame(
    name = names(book$variables), label = of("label"), level = of("level"), way = of("way"),
    block = of("block"), kept = names(book$variables) %in% kept_variables(book),
    private = names(book$variables) %in% private_variables(book), row.names = NULL
  )
}

#' @rdname objects
#' @export
as.data.frame.mavik_answers <- function(x, row.names = NULL, optional = FALSE, ...) {
  bind_wide(lapply(unname(x$tables), function(answers) {
    table <- if (!is.null(answers$cells)) answers$cells else
      if (is.data.frame(answers$table)) answers$table else answers$groups
    if (!is.data.frame(table)) table <- as.data.frame(Filter(
      function(part) length(part) == 1 && is.atomic(part),
      answers[setdiff(names(answers), "variable")]
    ))
    data.frame(variable = rep(paste0(answers$variable, ""), nrow(table)), table,
      check.names = FALSE)
  }))
}

#' @rdname objects
#' @export
as.data.frame.mavik_scales <- function(x, row.names = NULL, optional = FALSE, ...) {
  bind_wide(lapply(unname(x$scales), function(examined) data.frame(
    scale = rep(examined$scale, nrow(examined$items)),
    wave = rep(paste0(examined$wave, ""), nrow(examined$items)),
    examined$items, check.names = FALSE
  )))
}

#' @rdname objects
#' @export
as.data.frame.mavik_why <- function(x, row.names = NULL, optional = FALSE, ...) {
  if (is.null(x$stories)) return(x$steps)
  bind_wide(lapply(x$stories, function(story) data.frame(
    wave = rep(story$wave, nrow(story$steps)), story$steps
  )))
}

#' @rdname objects
#' @export
as.data.frame.mavik_check <- function(x, row.names = NULL, optional = FALSE, ...) x$findings

#' @rdname objects
#' @export
as.data.frame.mavik_align <- function(x, row.names = NULL, optional = FALSE, ...) x$lines

#' @rdname objects
#' @export
as.data.frame.mavik_comparison <- function(x, row.names = NULL, optional = FALSE, ...) x$changes

#' @rdname objects
#' @export
as.data.frame.mavik_differences <- function(x, row.names = NULL, optional = FALSE, ...) {
  x$differences
}

#' @rdname objects
#' @export
as.data.frame.mavik_release <- function(x, row.names = NULL, optional = FALSE, ...) x$files

#' @rdname objects
#' @export
summary.mavik_study <- function(object, ...) {
  keep_own_options()
  table <- study_table(object)
  book <- object$book
  number <- function(column, of) if (is.numeric(column) && any(!is.na(column)))
    of(column, na.rm = TRUE) else NA_real_
  variables <- book$variables[names(table)]
  measured <- vapply(variables, function(variable) identical(variable$storage, "number"), TRUE)
  each <- function(of) unname(ifelse(measured, vapply(table, number, 0, of = of), NA_real_))
  answered <- vapply(table, function(column) sum(!is.na(column)), 0L)
  data.frame(
    name = names(table),
    label = vapply(variables, function(variable) paste0(variable$label, ""), ""),
    level = vapply(variables, function(variable) paste0(variable$level, ""), ""),
    answered = answered, gaps = nrow(table) - answered,
    distinct = vapply(table, function(column) length(unique(column[!is.na(column)])), 0L),
    mean = each(mean), min = each(min), max = each(max), row.names = NULL
  )
}

#' @rdname objects
#' @export
summary.mavik_codebook <- function(object, ...) as.data.frame(object)

#' @rdname objects
#' @export
summary.mavik_draft <- function(object, ...) as.data.frame(read_codebook(object))

#' @rdname objects
#' @export
summary.mavik_scales <- function(object, ...) {
  facts <- c("k", "n", "alpha", "alpha_low", "alpha_high", "omega", "mean_r")
  bind_wide(lapply(unname(object$scales), function(scale) data.frame(
    scale = scale$scale, label = paste0(scale$label, ""), wave = paste0(scale$wave, ""),
    lapply(with_names(facts, facts), function(fact) if (is.null(scale[[fact]])) NA_real_ else
      as.double(scale[[fact]]))
  )))
}

#' @rdname objects
#' @export
summary.mavik_check <- function(object, ...) object$groups

#' @rdname objects
#' @export
summary.mavik_align <- function(object, ...) data.frame(
  decision = names(object$counts), columns = as.integer(object$counts)
)

#' @rdname objects
#' @export
summary.mavik_comparison <- function(object, ...) object$cells

#' @rdname objects
#' @export
summary.mavik_look <- function(object, ...) as.data.frame(object)

#' @rdname objects
#' @export
summary.mavik_answers <- function(object, ...) as.data.frame(object)

#' @rdname objects
#' @export
summary.mavik_why <- function(object, ...) as.data.frame(object)

#' @rdname objects
#' @export
summary.mavik_differences <- function(object, ...) as.data.frame(object)

#' @rdname objects
#' @export
summary.mavik_release <- function(object, ...) as.data.frame(object)

# Rows of tables that do not all have the same columns.
bind_wide <- function(tables) as.data.frame(data.table::rbindlist(tables, fill = TRUE))

#' @rdname objects
#' @export
format.mavik_study <- function(x, ...) printed_lines(x)
#' @rdname objects
#' @export
format.mavik_codebook <- function(x, ...) printed_lines(x)
#' @rdname objects
#' @export
format.mavik_draft <- function(x, ...) printed_lines(x)
#' @rdname objects
#' @export
format.mavik_export <- function(x, ...) printed_lines(x)
#' @rdname objects
#' @export
format.mavik_look <- function(x, ...) printed_lines(x)
#' @rdname objects
#' @export
format.mavik_answers <- function(x, ...) printed_lines(x)
#' @rdname objects
#' @export
format.mavik_scales <- function(x, ...) printed_lines(x)
#' @rdname objects
#' @export
format.mavik_why <- function(x, ...) printed_lines(x)
#' @rdname objects
#' @export
format.mavik_check <- function(x, ...) printed_lines(x)
#' @rdname objects
#' @export
format.mavik_align <- function(x, ...) printed_lines(x)
#' @rdname objects
#' @export
format.mavik_comparison <- function(x, ...) printed_lines(x)
#' @rdname objects
#' @export
format.mavik_differences <- function(x, ...) printed_lines(x)
#' @rdname objects
#' @export
format.mavik_release <- function(x, ...) printed_lines(x)

printed_lines <- function(x) utils::capture.output(print(x))
