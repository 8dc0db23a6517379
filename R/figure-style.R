# One look for all figures, readable in print and without colour.

figure_colours <- c(
  ink = "#221c2b", soft = "#5f5868", line = "#dad6de", wash = "#f2eff5",
  plum = "#5d3f78", ochre = "#d2a443", lilac = "#b9a3cb", deep = "#2d1b40"
)

# Steps of one hue for codes in order, of two for what lies on both sides of a
# middle, and fills for groups. Each differs in lightness from its neighbours,
# so that grey prints and colour-blind readers tell them apart.
ordered_fills <- function(k) {
  grDevices::colorRampPalette(figure_colours[c("wash", "lilac", "plum", "deep")])(k)
}

centred_fills <- function(k) {
  grDevices::colorRampPalette(c("#a9741a", "#e6cf9b", "#f6f4f2", "#b9a3cb", "#4a2d63"))(k)
}

group_fills <- function(k) {
  unname(rep(figure_colours[c("plum", "wash", "ochre", "deep", "lilac")], length.out = k))
}

figure_theme <- function() {
  ggplot2::theme_minimal(base_size = 11) + ggplot2::theme(
    text = ggplot2::element_text(colour = figure_colours[["ink"]]),
    axis.text = ggplot2::element_text(colour = figure_colours[["ink"]], size = 10),
    panel.grid.major.y = ggplot2::element_blank(), panel.grid.minor = ggplot2::element_blank(),
    panel.grid.major.x = ggplot2::element_line(colour = figure_colours[["line"]], linewidth = 0.3),
    plot.margin = ggplot2::margin(4, 8, 4, 4)
  )
}

# A legend above the panel in as many rows as it needs; `beside` are the labels
# left of the panel.
legend_above <- function(labels, beside) {
  lines <- unlist(strsplit(as.character(beside), "\n", fixed = TRUE))
  room <- max(20, 95 - max(nchar(lines), 0))
  rows <- max(1, ceiling(sum(nchar(labels) + 6) / room))
  list(
    ggplot2::guides(fill = ggplot2::guide_legend(nrow = rows, byrow = TRUE)),
    ggplot2::theme(legend.position = "top")
  )
}

# A figure as SVG inside a page; `words` say what it shows to who cannot see it.
figure_svg <- function(figure, words, width = 8, height = 3) {
  file <- tempfile(fileext = ".svg")
  on.exit(unlink(file))
  svglite::svglite(file, width = width, height = height, bg = "transparent")
  tryCatch(print(figure), finally = grDevices::dev.off())
  svg <- sub(
    "<\\?xml[^>]*\\?>\\s*", "", paste(readLines(file, encoding = "UTF-8"), collapse = "\n")
  )
  svg <- sub(
    "<svg ", paste0("<svg role=\"img\" aria-label=\"", htmltools::htmlEscape(words, TRUE), "\" "),
    svg, fixed = TRUE
  )
  htmltools::HTML(paste0("<figure class=\"figure\">", svg, "</figure>"))
}
