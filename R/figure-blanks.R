# The picture of blanks: a column a question, a row a band of records.

figure_blanks <- function(picture) {
  bands <- nrow(picture$blank)
  tiles <- data.frame(
    question = rep(seq_along(picture$questions), each = bands),
    band = rep(seq_len(bands), length(picture$questions)), blank = as.vector(picture$blank)
  )
  every <- seq(1, length(picture$questions), by = ceiling(length(picture$questions) / 40))
  ggplot2::ggplot(tiles) +
    ggplot2::geom_raster(
      ggplot2::aes(x = question, y = band * picture$each, fill = 100 * blank)
    ) +
    ggplot2::scale_fill_gradient(
      low = figure_colours[["wash"]], high = figure_colours[["plum"]], limits = c(0, 100),
      name = "Percent blank"
    ) +
    ggplot2::scale_x_continuous(
      breaks = every, labels = shorten(picture$questions[every], 16), expand = c(0, 0)
    ) +
    ggplot2::scale_y_reverse(labels = grouped, expand = c(0, 0)) +
    ggplot2::labs(x = NULL, y = "Records, by where their answers end") + figure_theme() +
    ggplot2::theme(axis.text.x = ggplot2::element_text(angle = 60, hjust = 1),
      panel.grid = ggplot2::element_blank(), legend.position = "top")
}
