#' Tables that a codebook declares
#'
#' Each table under `tables` of the codebook, counted from the study.
#'
#' @param study A study, from [build_study()].
#' @param tables Names of tables; all if not said.
#' @return A named list of plain data frames, one row a cell: `table`, `row_variable`,
#'   `row_code` and `row_label` (a code, an option, a net, a reason of gaps, or empty for a
#'   statistic of the whole variable), `column_variable` (empty for all respondents),
#'   `column_code`, `column_label`, `statistic`, `value`, `base` (the respondents that it is of),
#'   `low` and `high` (the 95 % interval of a mean or share) and `higher_than` (the letters of
#'   the columns than which it is higher, where `show` has `differences`). Percents are of 100.
#' @section Statistics: `respondents` are all of a column, `base` those of them who have a value,
#'   `gap` those with each reason: `respondents` are `base` and all gaps. Counts are never weighted.
#'   `effective_base` is (sum of weights)^2 / sum of squared weights (Kish 1965, Survey
#'   Sampling); intervals and tests take it as their n. The sd is the usual one with n - 1, with
#'   weights sum(w (x - m)^2) / sum(w) times e / (e - 1), e the effective base. Quartiles and
#'   medians are those of R's quantile() (type 7); with weights the smallest value at which the
#'   cumulated weight reaches the share, or the mean of two where it reaches it just there.
#'   The interval of a mean is m -/+ t(0.975, e - 1) sd / sqrt(e); that of a share is Wilson's
#'   (1927, Journal of the American Statistical Association 22, 209-212).
#' @section Tests: As in [answers()]; under weights Pearson's chi-square is of the weighted shares
#'   at the effective base, and Welch's of weighted means, weighted variances and effective bases.
#'   With `differences` each two columns of a group are compared, shares by the test of two
#'   proportions with a pooled variance, means by Welch's t; p by Holm within a row, 5 %.
#' @section Errors: An unknown name of a table; a codebook without tables.
#' @examples
#' study <- build_study(demo_project(tempfile()))
#' names(declared_tables(study))
#' head(declared_tables(study)[[1]])
#' @export
declared_tables <- function(study, tables = NULL) {
  keep_own_options()
  check_study_class(study)
  lapply(tabulate_declared(study, tables), cells_of_table)
}

# Each declared table as counted (`tabulate_table()`), by name.
tabulate_declared <- function(study, names = NULL) {
  declared <- study$book$declared
  if (length(declared) == 0) stop_mavik(
    "build_error", "the codebook declares no tables: `tables: {voices: {of: voice, by: member}}`"
  )
  if (is.null(names)) names <- names(declared)
  for (name in setdiff(names, names(declared))) stop_mavik(
    "build_error", "`", name, "` is not a table of this codebook",
    did_you_mean(name, names(declared))
  )
  lapply(with_names(names, names), function(name) {
    signal_progress("count", name)
    tabulate_table(study, declared[[name]])
  })
}

# One row a cell, in the order of the table.
cells_of_table <- function(table) {
  columns <- table$columns
  parts <- lapply(table$sections, function(section) {
    lines <- section$lines
    line <- rep(seq_len(nrow(lines)), each = nrow(columns))
    by <- rep(seq_len(nrow(columns)), nrow(lines))
    flat <- function(cells) as.vector(t(cells))
    data.frame(
      table = table$name, row_variable = section$variable, row_code = lines$code[line],
      row_label = lines$label[line], column_variable = columns$variable[by],
      column_code = columns$code[by], column_label = columns$label[by],
      statistic = lines$statistic[line], value = flat(section$value), base = flat(section$base),
      low = flat(section$low), high = flat(section$high), higher_than = flat(section$letters)
    )
  })
  cells <- do.call(rbind, parts)
  rownames(cells) <- NULL
  cells
}
