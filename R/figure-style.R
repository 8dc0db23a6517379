# One look for all figures, readable in print and without colour.

figure_colours <- c(ink = "#1d2a2f", soft = "#56656b", line = "#d9d6cc", wash = "#f1eee6", leaf = "#2c6e63", clay = "#c98a63")

figure_theme <- function() {
  ggplot2::theme_minimal(base_size = 11) + ggplot2::theme(
    text = ggplot2::element_text(colour = figure_colours[["ink"]]), axis.text = ggplot2::element_text(colour = figure_colours[["ink"]], size = 10),
    panel.grid.major.y = ggplot2::element_blank(), panel.grid.minor = ggplot2::element_blank(),
    panel.grid.major.x = ggplot2::element_line(colour = figure_colours[["line"]], linewidth = 0.3), plot.margin = ggplot2::margin(4, 8, 4, 4)
  )
}

# A figure as SVG inside a page; `words` say what it shows to who cannot see it.
figure_svg <- function(figure, words, width = 8, height = 3) {
  file <- tempfile(fileext = ".svg")
  on.exit(unlink(file))
  svglite::svglite(file, width = width, height = height, bg = "transparent")
  tryCatch(print(figure), finally = grDevices::dev.off())
  svg <- sub("<\\?xml[^>]*\\?>\\s*", "", paste(readLines(file, encoding = "UTF-8"), collapse = "\n"))
  svg <- sub("<svg ", paste0("<svg role=\"img\" aria-label=\"", htmltools::htmlEscape(words, TRUE), "\" "), svg, fixed = TRUE)
  htmltools::HTML(paste0("<figure class=\"figure\">", svg, "</figure>"))
}
