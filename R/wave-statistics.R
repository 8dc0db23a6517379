# Shares, means and gaps of each wave.

#' Statistics of each wave
#'
#' @param study A study, from [build_study()].
#' @param variables Names of variables or blocks; all kept ones with codes or numbers if not said.
#' @param by A coded variable: statistics by its groups too.
#' @param weight A number variable by which means, sds and shares are weighted; who has none, or one
#'   below 0, is left out.
#' @return A data frame, a row a variable, wave (where it was asked), group and statistic:
#'   `variable`, `wave`, `group` (empty without `by`), `n` (retained records), `answered`,
#'   `statistic` (`mean`, `sd`, or `share` in percent of the answered), `code`, `label` and
#'   `value`. Gaps by reason stand as `statistic` `gap`, with the reason as `label` and its
#'   count as `value`. With a weight `effective_base` is (sum of weights)^2 / sum of squared
#'   weights of the answered.
#' @examples
#' study <- build_study(demo_project(tempfile(), waves = 2))
#' head(wave_statistics(study, "belonging"))
#' @export
wave_statistics <- function(study, variables = NULL, by = NULL, weight = NULL) {
  keep_own_options()
  check_study_class(study)
  book <- study$book
  names <- if (is.null(variables)) compared_variables(study) else setdiff(
    unlist(lapply(
      variables,
      function(name) if (name %in% names(book$blocks)) book$blocks[[name]] else named_variables(
        name, book
      )
    )),
    private_variables(book)
  )
  for (name in names) if (!book$variables[[name]]$storage %in% c("coded", "number")) stop_mavik(
    "build_error", "`", name, "` has neither codes nor numbers (level ",
    book$variables[[name]]$level, "): nothing of it can be compared over waves"
  )
  if (length(names) == 0) stop_mavik(
    "build_error", "there is no variable with codes or numbers to compare over waves"
  )
  check_by(by, book)
  check_weight(weight, book)
  chosen <- counted_rows(study, NULL, weight)
  rows <- chosen$rows
  group <- if (!is.null(by)) group_of(study, by, rows)
  parts <- unlist(lapply(names,
    function(name) lapply(waves_asked(book$variables[[name]], book), function(wave) {
    here <- study$records$wave[rows] == wave
    of <- function(level, own) wave_rows(study, name, wave, level, rows[own], chosen$weights[own])
    if (is.null(group)) return(list(of("", here)))
    lapply(levels(group), function(level) of(level, here & !is.na(group) & group == level))
  })), recursive = FALSE)
  rows_of_lists(unlist(parts, recursive = FALSE))
}

# Those of all, counted once for the outputs that show them.
told_statistics <- function(study) {
  if (is.null(study$tallies$waves)) wave_statistics(study) else study$tallies$waves
}

wave_rows <- function(study, name, wave, group, rows, weights) {
  variable <- study$book$variables[[name]]
  value <- study$data[[name]][rows]
  gaps <- count_gaps(study$reasons[[name]][rows], study$book, length(rows))
  answered <- length(rows) - sum(gaps$count)
  codes <- if (is_coded(variable)) count_codes(variable, value, length(rows), answered)
  shares <- if (is.null(weights)) codes$of_answered else weighted_percent(
    match(value, codes$code), length(codes$code), weights
  )
  spread <- if (has_mean(variable) && answered > 0) spread_at_base(group_moments(
    as.double(value), rep(1L, length(value)), 1L, as.double(weights)
  ))
  number <- c(mean = spread$mean, sd = spread$sd,
    effective_base = if (!is.null(weights)) spread$base)
  blank <- rep("", length(number))
  list(
    variable = name, wave = wave, group = group, n = length(rows), answered = answered,
    statistic = c(names(number), rep("share", length(shares)), rep("gap", nrow(gaps))),
    code = c(blank, if (!is.null(codes)) number_to_text(codes$code), gaps$name),
    label = c(blank, codes$label, gaps$label),
    value = c(unname(number), shares, as.double(gaps$count))
  )
}

# Rows that were made as lists of columns, where what is said once holds for all of a list.
rows_of_lists <- function(lists) {
  sizes <- vapply(lists, function(list) length(list$value), 0L)
  columns <- lapply(with_names(names(lists[[1]]), names(lists[[1]])), function(name) {
    parts <- lapply(lists, `[[`, name)
    if (any(lengths(parts) != sizes)) parts <- Map(rep_len, parts, sizes)
    unlist(parts, use.names = FALSE)
  })
  as.data.frame(columns)
}

# All records of each wave.
rows_by_wave <- function(study) lapply(
  with_names(names(study$book$waves), names(study$book$waves)),
  function(wave) rows_with(study$records$wave, wave)
)

compared_variables <- function(study) {
  kept <- kept_variables(study$book)
  kept[vapply(
    study$book$variables[kept], function(variable) variable$storage %in% c("coded", "number"), TRUE
  )]
}
