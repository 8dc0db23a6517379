# Lines over waves: means of one or several variables, or the shares of a
# question's codes; shapes tell the lines apart without colour.

#' Lines over the waves
#'
#' @param statistics What [wave_statistics()] returned.
#' @param study The study, from [build_study()].
#' @return A ggplot2 figure: means (with their 95 % interval) where there are any, else
#'   shares in percent of the answered; a line a variable, code or group. Waves in
#'   which a question was not asked leave a break in its line. `NULL` where nobody
#'   answered in any wave.
#' @examples
#' study <- build_study(demo_project(tempfile(), waves = 2))
#' plot_waves(wave_statistics(study, "belonging"), study)
#' @export
plot_waves <- function(statistics, study) {
  keep_own_options()
  lines <- lines_of_waves(statistics, study)
  if (is.null(lines)) return(NULL)
  some <- lines$some
  k <- nlevels(some$line)
  if (lines$means && k > 1) some$at <- some$at + (as.integer(some$line) - (k + 1) / 2) * 0.04
  draw_lines(some, lines$means, k) + ggplot2::scale_x_continuous(
    breaks = seq_along(study$book$waves),
    labels = vapply(study$book$waves, `[[`, "", "label", USE.NAMES = FALSE),
    limits = c(0.7, length(study$book$waves) + 0.3),
    guide = ggplot2::guide_axis(check.overlap = TRUE)
  ) + ggplot2::labs(x = NULL, subtitle = lines$title, y = lines$axis)
}

# The statistics as lines, with what their axis says; NULL where there are none.
lines_of_waves <- function(statistics, study) {
  means <- any(statistics$statistic == "mean")
  some <- statistics[statistics$statistic == if (means) "mean" else "share", ]
  if (nrow(some) == 0) return(NULL)
  several <- length(unique(some$variable)) > 1
  # Of yes and no the share of yes says it all.
  if (!means && all(some$code %in% c("0", "1"))) some <- some[some$code == "1", ]
  variables <- study$book$variables[unique(some$variable)]
  labels <- vapply(variables, function(variable) paste0(variable$label, ""), "")
  some <- as_lines(some, labels, means, several, names(study$book$waves))
  list(
    some = if (means) with_interval(some, statistics) else some, means = means,
    title = if (!several) labels[[1]],
    axis = if (means) "Mean, with its 95 % interval" else "Percent of the answered"
  )
}

# The line that each statistic belongs to, where it stands on it, and its unbroken run.
as_lines <- function(some, labels, means, several, waves) {
  code <- !means && !(several && length(unique(some$code)) == 1)
  group <- paste0(if (several || !means) ", ", some$group)
  some$line <- paste0(
    if (several) labels[some$variable], if (code) paste0(if (several) ": ", some$label),
    ifelse(nzchar(some$group), group, "")
  )
  some$line[!nzchar(some$line)] <- labels[some$variable[!nzchar(some$line)]]
  some$line <- wrap_label(some$line, 34)
  some$line <- factor(some$line, unique(some$line))
  some$at <- match(some$wave, waves)
  some <- some[order(some$line, some$at), ]
  breaks <- lapply(split(some$at, some$line), function(steps) cumsum(c(TRUE, diff(steps) > 1)))
  some$run <- paste(some$line, unlist(breaks))
  some
}

with_interval <- function(some, statistics) {
  sd <- statistics[statistics$statistic == "sd", ]
  id <- function(table) paste(table$variable, table$wave, table$group)
  spread <- sd$value[match(id(some), id(sd))]
  effective <- statistics[statistics$statistic == "effective_base", ]
  base <- effective$value[match(id(some), id(effective))]
  base <- ifelse(is.na(base), some$answered, base)
  half <- stats::qt(0.975, pmax(base - 1, 1e-9)) * spread / sqrt(base)
  some$low <- some$value - half
  some$high <- some$value + half
  some
}

draw_lines <- function(some, means, k) {
  ggplot2::ggplot(some, ggplot2::aes(x = at, y = value)) +
    (if (means) ggplot2::geom_linerange(
      ggplot2::aes(ymin = low, ymax = high), colour = figure_colours[["soft"]], linewidth = 0.5
    )) +
    ggplot2::geom_line(
      ggplot2::aes(group = run), colour = figure_colours[["soft"]], linewidth = 0.6
    ) +
    ggplot2::geom_point(
      ggplot2::aes(shape = line, fill = line), size = 2.8, colour = figure_colours[["ink"]]
    ) +
    ggplot2::scale_shape_manual(
      values = rep(c(21, 22, 24, 23, 25), length.out = k), name = NULL
    ) +
    ggplot2::scale_fill_manual(values = group_fills(k), name = NULL) +
    ggplot2::expand_limits(y = if (means) NULL else c(0, 100)) + figure_theme() +
    ggplot2::theme(
      panel.grid.major.y = ggplot2::element_line(
        colour = figure_colours[["line"]], linewidth = 0.3
      ),
      panel.grid.major.x = ggplot2::element_blank(),
      legend.position = if (k > 1) "right" else "none"
    )
}
