#' Count answers
#'
#' What suits the level of each variable: counts and percents, statistics of
#' numbers, several items as one table, several answers a person, cross tables.
#' Gaps stay in full view, by reason.
#'
#' @param codebook A study, a codebook, or what [read_codebook()] takes.
#' @param variables Names of variables and blocks.
#' @param by A variable with codes, for a table by group; its gaps are no group. Several
#'   variables stand side by side in one table.
#' @param nested Whether the groups of `by` stand within each other.
#' @param over An ordered variable, the wave or a date over which it is followed.
#' @param show What stands in the table: any of `n`, `count`, `row_percent`, `column_percent`,
#'   `mean`, `sd`, `median`, `quartiles`, `min`, `max`, `differences`.
#' @param nets A named list of codes or labels that are counted together,
#'   `list(Agree = c("4", "5"))`.
#' @param draw What its figure is: `bars`, `stacked`, `boxes`, `histogram`, `lines`, `means` or
#'   `none`.
#' @param where A condition in the codebook's language: only the records for which it is true.
#' @param weight A number variable: percents and means are weighted by it, counts
#'   stay as they are. A respondent whose weight is a gap or below 0 is left out. If not
#'   said it is the `weight` of the codebook's `study`; `"none"` counts without. `no_weight` of the
#'   result is how many are left out so.
#' @param as_number Whether ordinal answers are counted as their codes: n, mean, sd and so
#'   on in place of a count of each answer.
#' @param exports Data frames in place of files, as in [build_study()].
#' @param language A language of the codebook's `translations`, for its labels.
#' @return A `mavik_answers`: a list of tables, each with `variable`, `label`,
#'   `kind` (`codes`, `number`, `text`, `items`, `set`), `n`, `table` (a data
#'   frame), `gaps` (a data frame of reason, label, count, percent of all), and with
#'   `by` also `groups` (a data frame, a row a group and a total) and `test` (a list with `name`,
#'   statistics, `p` and `sparse`, whether more than a fifth of the expected counts are
#'   below 5). With several `by`, `nested`, `over`, `show`, `nets` or `draw` it is one table of
#'   `kind` `table`: `cells`, as [declared_tables()] gives them, and `tests`, in words. `pooled`
#'   names the waves that are counted together where neither `by` nor `where` tells them apart.
#'   Percents are of 100. Only retained respondents are counted.
#' @section Tests: Pearson's chi-square without correction for codes; Welch's t
#'   for the means of two groups, Welch's F (Welch 1951, Biometrika 38, 330-336)
#'   for more. Where the groups are the waves of a panel the same persons answered
#'   twice: then the persons in both are compared with themselves, numbers by the
#'   paired t, two codes by McNemar's test without correction (1947, Psychometrika
#'   12, 153-157), more codes by that of Stuart (1955, Biometrika 42, 412-416) and
#'   Maxwell (1970, British Journal of Psychiatry 116, 651-655). Of more than two
#'   waves each is set against the one before it, `pairs` in `test`, with p by
#'   Holm (1979, Scandinavian Journal of Statistics 6, 65-70) as `p_holm`. Under weights
#'   chi-square is of the weighted shares and Welch's tests of weighted means and variances, at
#'   the effective base (sum of weights)^2 / sum of squared weights (Kish 1965, Survey Sampling),
#'   `effective` in `test`; tests of the same persons take no weights. `smallest` is the smallest
#'   expected count. Where no test is possible `untested` says why. No test takes account of
#'   persons who stand in several pooled waves.
#' @section Intervals: `low` and `high` are the 95 % interval of what stands beside them: of a mean
#'   m -/+ t(0.975, e - 1) sd / sqrt(e), of a share Wilson's (1927, Journal of the American
#'   Statistical Association 22, 209-212), with e the (effective) base.
#' @section Errors: A name that is no variable or block, private variables, and a
#'   `by` without codes.
#' @examples
#' study <- build_study(demo_project(tempfile()))
#' answers(study, "voice")
#' answers(study, c("belong", "years"), by = "voice")
#' @export
answers <- function(
  codebook, variables, by = NULL, where = NULL, weight = NULL, exports = list(),
  as_number = FALSE, language = NULL, nested = FALSE, over = NULL, show = NULL, nets = list(),
  draw = NULL
) {
  keep_own_options()
  book <- if (inherits(codebook, "mavik_study")) codebook$book else known_book(codebook)
  if (!is.character(variables) || length(variables) == 0) stop_mavik("build_error",
    "name at least one variable or block")
  said <- list(
    of = variables, by = as.character(by), nested = nested, over = over, where = where,
    weight = weight, show = show, nets = nets, figure = draw
  )
  if (length(by) > 1 || nested || length(c(over, show, nets, draw)) > 0)
    return(answers_tabled(codebook, book, said, exports, language))
  asked <- asked_of_all(variables, book, as_number)
  if (!is.null(language)) stop_unknown_language(language, book)
  condition <- if (!is.null(where)) checked_condition(where, book)
  check_by(by, book)
  weight <- weight_meant(weight, book)
  check_weight(weight, book)
  carriers <- unlist(lapply(asked, function(question) question$carrier))
  study <- study_with(
    codebook,
    unique(c(
      unlist(lapply(asked, function(question) c(
        question$names, unlist(lapply(question$parts, `[[`, "names"))))),
      carriers, by, weight, condition$uses
    )),
    exports
  )
  if (!is.null(language)) {
    study <- study_in(study, language)
    asked <- asked_of_all(variables, study$book, as_number)
  }
  counted <- counted_rows(study, condition, weight)
  tables <- lapply(asked, function(question) with_weight(
    answer_table(question, study, counted$rows, counted$weights, by), weight
  ))
  names(tables) <- vapply(tables, function(table) paste0(table$variable, ""), "")
  structure(list(title = study$book$study$title, tables = tables, n = length(counted$rows),
    no_weight = counted$no_weight, pooled = pooled_waves(study, counted$rows, by, condition),
    where = where, by = by, weight = weight, language = language), class = "mavik_answers")
}

# Who is counted, with their weights.
counted_rows <- function(study, condition, weight) {
  chosen <- table_records(study, condition, weight)
  if (length(chosen$rows) == 0 && chosen$no_weight > 0) stop_mavik(
    "build_error", "no respondent has a weight `", weight, "` of 0 or more: nothing can be ",
    "weighted by it"
  )
  if (is.null(weight)) chosen["weights"] <- list(NULL)
  chosen
}

# Figures name the weight of what they show.
with_weight <- function(table, weight) {
  table$weight <- weight
  for (inner in intersect(c("tables", "by_items"), names(table))) table[[inner]] <- lapply(
    table[[inner]], with_weight, weight
  )
  table
}

asked_of_all <- function(variables, book, as_number) {
  asked <- lapply(variables, asked_of, book = book)
  if (as_number) lapply(asked, asked_as_number, book = book) else asked
}

# The waves whose records are counted together without anybody having asked for it.
pooled_waves <- function(study, rows, by, condition) {
  waves <- intersect(names(study$book$waves), study$records$wave[rows])
  named <- Filter(is_wave, study$book$variables[c(by, condition$uses)])
  if (length(waves) > 1 && length(named) == 0) waves
}

asked_of <- function(name, book) {
  near <- c(names(book$variables), names(book$blocks))
  carrier <- isTRUE(book$variables[[name]]$carrier)
  names <- if (name %in% names(book$blocks)) book$blocks[[name]] else
    if (name %in% names(book$variables)) name else
    stop_mavik(
      "build_error", "`", name, "` is not a variable or block of this codebook",
      did_you_mean(name, near)
    )
  hidden <- intersect(names, private_variables(book))
  if (length(hidden) > 0) stop_mavik(
    "build_error", "`", hidden[1], "` is private: nothing is shown of it"
  )
  variables <- book$variables[names]
  same <- length(names) > 1 && all(vapply(variables, is_coded, TRUE)) && length(unique(lapply(
    variables, function(variable) list(all_codes(variable), variable$codes$label)
  ))) == 1
  inner <- vapply(book$variables[names], function(variable) isTRUE(variable$carrier), TRUE)
  if (!carrier && any(inner)) return(list(
    name = name, names = names, kind = "each", parts = lapply(names, asked_of, book = book),
    carrier = names[inner]
  ))
  list(
    name = name, names = names, carrier = if (carrier) name,
    kind = if (carrier) "set" else if (same) "items" else "each"
  )
}

# Codes that have an order count as numbers; of others nothing can be averaged.
asked_as_number <- function(asked, book) {
  for (name in asked$names) {
    variable <- book$variables[[name]]
    if (is_coded(variable) && !variable$level %in% ordered_levels) stop_mavik(
      "build_error", "`", name, "` is ", variable$level,
      ": its codes have no order and no mean"
    )
  }
  if (asked$kind == "set") stop_mavik(
    "build_error", "`", asked$name, "` is a question with several answers: it has no mean"
  )
  asked$as_number <- TRUE
  asked$parts <- lapply(asked$parts, asked_as_number, book = book)
  if (length(asked$parts) == 0) asked["parts"] <- list(NULL)
  if (asked$kind == "items") asked$kind <- "each"
  asked
}

check_by <- function(by, book) if (!is.null(by)) check_group(
  by, "by", book, function(path, ...) stop_mavik("build_error", ...)
)

check_weight <- function(weight, book) {
  if (is.null(weight)) return()
  problem <- weight_problem(weight, book)
  if (!is.null(problem)) stop_mavik("build_error", problem)
}

answer_table <- function(asked, study, rows, weights, by) {
  groups <- if (!is.null(by)) group_of(study, by, rows)
  switch(asked$kind,
    set = set_table(asked, study, rows, weights, groups),
    items = items_table(asked, study, rows, weights, groups),
    each = if (!is.null(asked$parts)) list(
      kind = "several", variable = asked$name,
      tables = lapply(
        asked$parts, answer_table, study = study, rows = rows, weights = weights, by = by
      )
    )
      else if (length(asked$names) == 1) one_table(
        asked$names, study, rows, weights, groups, asked$as_number
      )
      else list(
        kind = "several", variable = asked$name,
        tables = lapply(
          asked$names, one_table, study = study, rows = rows, weights = weights, groups = groups,
          as_number = asked$as_number
        )
      )
  )
}

# The group of each row as a factor of labels, gaps as NA.
group_of <- function(study, by, rows) {
  variable <- study$book$variables[[by]]
  value <- study$data[[by]][rows]
  known <- if (is.null(variable$texts)) all_codes(variable) else variable$texts$value
  known <- known[known %in% value]
  labels <- if (is.null(variable$texts)) label_of(variable, known) else variable$texts$label[match(
    known, variable$texts$value
  )]
  structure(
    match(value, known), levels = make.unique(as.character(labels)), class = "factor",
    label = paste0(variable$label, ""), name = by
  )
}

# The records themselves: values, and the reason in each gap.
answer_rows <- function(project, names, where, values) {
  book <- known_book(project)
  asked <- unique(unlist(lapply(names, function(name) asked_of(name, book)$names)))
  condition <- if (!is.null(where)) checked_condition(where, book)
  study <- study_with(project, unique(c(asked, condition$uses)))
  rows <- rows_retained(study)
  if (!is.null(condition)) rows <- intersect(rows, which(truth_of(condition, study)))
  table <- data.frame(wave = study$records$wave[rows], respondent = respondents_shown(study)(rows))
  for (name in asked) table[[name]] <- if (values == "labels") cells_shown(study, name, rows) else {
    column <- column_of(study, name)
    gap <- reason_or_none(column)[rows]
    ifelse(
      gap > 0L, number_to_text(study$book$reasons$code[pmax(gap, 1L)]),
      value_text(study$book$variables[[name]], column$value[rows])
    )
  }
  table
}
