# Figures of objects, for the console and for documents.

#' Plot scales, studies and what was looked at
#'
#' @param x A study, or what [examine_scales()], [look()], [check_study()] or
#'   [compare_studies()] returned.
#' @param variables Of a study: names of variables or blocks, as for [answers()].
#' @param ... Not used.
#' @return A ggplot object: of a scale its items; of a study with `variables` what
#'   [plot.mavik_answers()] draws of them, without them the gaps of the analysis file by reason
#'   (in percent of all its cells); of a look the blanks by question and record, the records in the
#'   order of where their answers end; of a check the counts of what is open, by kind; of a
#'   comparison the changed cells by variable. Of several scales or variables a list of figures,
#'   which prints as one after the other.
#' @section Errors: Where there is nothing to draw (no score, no gap, nothing open, nothing
#'   changed) it is said.
#' @examples
#' project <- demo_project(tempfile())
#' study <- build_study(project)
#' plot(study)
#' plot(study, "voice")
#' plot(examine_scales(study))
#' plot(check_study(study))
#' plot(look(file.path(project, "raw/spring.csv")))
#' @name plots
NULL

#' @rdname plots
#' @export
plot.mavik_scales <- function(x, ...) {
  if (length(x$scales) == 0) stop_mavik("usage_error", "the codebook makes no score")
  figures <- lapply(x$scales, figure_items)
  if (length(figures) == 1) figures[[1]] else structure(figures, class = "mavik_figures")
}

#' @rdname plots
#' @export
plot.mavik_study <- function(x, variables = NULL, ...) {
  keep_own_options()
  if (!is.null(variables)) return(plot(answers(x, variables)))
  gaps <- gaps_by_reason(x)
  if (length(gaps) == 0) stop_mavik("usage_error", "the analysis file has no gap to draw")
  labels <- x$book$reasons$label[match(names(gaps), x$book$reasons$name)]
  figure_bars(labels, 100 * gaps / prod(dim(x)), "Percent of all cells of the analysis file",
    2)
}

# Cells of the analysis file that are empty for each reason that occurs, the commonest first.
gaps_by_reason <- function(study) {
  counts <- lapply(intersect(kept_variables(study$book), names(study$reasons)), function(name)
    table(retained_of(study$reasons[[name]], study)))
  if (length(counts) == 0) return(NULL)
  total <- colSums(do.call(rbind, counts))
  sort(total[total > 0], decreasing = TRUE)
}

#' @rdname plots
#' @export
plot.mavik_look <- function(x, ...) {
  keep_own_options()
  if (is.null(x$picture)) stop_mavik("usage_error", x$file, ": holds no question to draw")
  figure_blanks(x$picture)
}

#' @rdname plots
#' @export
plot.mavik_check <- function(x, ...) {
  keep_own_options()
  counts <- tapply(x$groups$count, x$groups$kind, sum)
  if (length(counts) == 0) stop_mavik("usage_error", "no finding is open: nothing to draw")
  counts <- sort(counts, decreasing = TRUE)
  figure_bars(names(counts), as.vector(counts), "Cells or records that wait", 0)
}

#' @rdname plots
#' @export
plot.mavik_comparison <- function(x, ...) {
  keep_own_options()
  if (nrow(x$cells) == 0) stop_mavik("usage_error", "no cell differs: nothing to draw")
  most <- utils::head(order(-x$cells$changed), 40)
  figure_bars(x$cells$variable[most], x$cells$changed[most], "Changed cells", 0)
}
