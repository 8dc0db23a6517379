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
    of <- function(level, at) wave_rows(study, name, wave, level, rows[at], chosen$weights[at])
    if (is.null(group)) return(list(of("", here)))
    lapply(levels(group), function(level) of(level, here & !is.na(group) & group == level))
  })), recursive = FALSE)
  out <- do.call(rbind, unlist(parts, recursive = FALSE))
  rownames(out) <- NULL
  out
}

wave_rows <- function(study, name, wave, group, rows, weights) {
  variable <- study$book$variables[[name]]
  value <- study$data[[name]][rows]
  gaps <- count_gaps(study$reasons[[name]][rows], study$book, length(rows))
  answered <- length(rows) - sum(gaps$count)
  row <- function(statistic, code = "", label = "", value) data.frame(
    variable = name, wave = wave, group = group, n = length(rows), answered = answered,
    statistic = statistic, code = code, label = label, value = value
  )
  codes <- if (is_coded(variable)) count_codes(variable, value, length(rows), answered)
  shares <- if (is.null(weights)) codes$of_answered else weighted_percent(
    match(value, codes$code), length(codes$code), weights
  )
  at <- if (has_mean(variable) && answered > 0) spread_at_base(group_moments(
    as.double(value), rep(1L, length(value)), 1L, as.double(weights)
  ))
  rbind(
    if (!is.null(at)) row(c("mean", "sd"), value = c(at$mean, at$sd)),
    if (!is.null(at) && !is.null(weights)) row("effective_base", value = at$base),
    if (!is.null(codes) && nrow(codes) > 0) row(
      "share", number_to_text(codes$code), codes$label, shares
    ),
    if (nrow(gaps) > 0) row("gap", gaps$name, gaps$label, as.double(gaps$count))
  )
}

# All records of each wave.
rows_by_wave <- function(study) lapply(
  with_names(names(study$book$waves), names(study$book$waves)),
  function(wave) which(study$records$wave == wave)
)

compared_variables <- function(study) {
  kept <- kept_variables(study$book)
  kept[vapply(
    study$book$variables[kept], function(variable) variable$storage %in% c("coded", "number"), TRUE
  )]
}
