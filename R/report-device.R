# Figures of tables are drawn as SVG; the same marks go onto any device of R.

#' Plot answers
#'
#' @param x What [answers()] returned.
#' @param ... Not used.
#' @return For frequencies, cross tables and numbers a ggplot object (of several tables a list of
#'   them, which prints as one figure after the other); a table
#'   with several groups, nets or statistics is drawn onto the current device, and `x` comes
#'   back invisibly.
#' @examples
#' study <- build_study(demo_project(tempfile()))
#' plot(answers(study, "voice"))
#' @export
plot.mavik_answers <- function(x, ...) {
  if (length(x$tables) > 1) {
    figures <- lapply(x$tables, function(table) plot(one_of_answers(x, table)))
    return(structure(figures, class = "mavik_figures"))
  }
  drawn <- x$tables[[1]]
  if (drawn$kind != "table") return(figure_answers(drawn))
  figures <- table_figures(attr(drawn, "tabulated"))
  if (length(figures) == 0) stop_mavik("usage_error", "this table has no figure")
  for (figure in figures) draw_on_device(svg_inside(figure))
  invisible(x)
}

one_of_answers <- function(x, table) {
  x$tables <- list(table)
  x
}

#' @export
print.mavik_figures <- function(x, ...) {
  for (figure in unclass(x)) if (inherits(figure, "ggplot")) print(figure)
  invisible(x)
}

# Writes the figure of answers as .svg or .png.
save_answers_figure <- function(counted, file) {
  table <- counted$tables[[1]]
  if (table$kind != "table") return(save_figure(figure_answers(table), file))
  figures <- table_figures(attr(table, "tabulated"))
  if (length(figures) == 0) stop_mavik("usage_error", "a table of this kind has no figure")
  svg <- svg_inside(figures[1])
  if (grepl("[.]svg$", file)) return(write_text(svg_alone(svg), file))
  if (!grepl("[.]png$", file)) stop_mavik(
    "write_error", file, ": a figure is written as .svg or .png"
  )
  size <- svg_size(svg)
  write_beside(file, function(beside) {
    grDevices::png(beside, width = size[1] / 100, height = size[2] / 100, units = "in", res = 200)
    tryCatch(draw_on_device(svg), finally = grDevices::dev.off())
  })
}

# The drawing of a figure, its caption as the last line of it.
svg_inside <- function(figure) {
  svg <- regmatches(figure, regexpr("<svg.*</svg>", figure))
  caption <- sub(".*<figcaption>(.*)</figcaption>.*", "\\1", figure)
  if (identical(caption, figure)) return(svg)
  size <- svg_size(svg)
  svg <- sub(
    paste0("0 0 ", size[1], " ", size[2]), paste0("0 0 ", size[1], " ", size[2] + 24), svg,
    fixed = TRUE
  )
  sub("</svg>", paste0(
    "<text x=\"10\" y=\"", size[2] + 14, "\" text-anchor=\"start\" fill=\"",
    figure_colours[["soft"]], "\">", caption, "</text></svg>"
  ), svg, fixed = TRUE)
}

svg_size <- function(svg) as.numeric(strsplit(
  sub(".*viewBox=\"0 0 ([0-9. ]+)\".*", "\\1", svg), " "
)[[1]])

svg_alone <- function(svg) paste0(sub(
  "<svg ", paste0(
    "<svg xmlns=\"http://www.w3.org/2000/svg\" font-family=\"Helvetica, Arial, sans-serif\" ",
    "font-size=\"12\" "
  ), svg, fixed = TRUE
), "<!-- made by Mavik -->")

# Rectangles, lines, polygons, circles and words of a drawing, on the current device.
draw_on_device <- function(svg) {
  size <- svg_size(svg)
  grid::grid.newpage()
  view <- grid::viewport(xscale = c(0, size[1]), yscale = c(size[2], 0))
  grid::pushViewport(view)
  on.exit(grid::popViewport())
  page <- xml2::xml_children(xml2::read_xml(svg))
  scale <- grid::convertWidth(grid::unit(1, "npc"), "points", valueOnly = TRUE) / size[1]
  for (node in page) draw_node(node, scale)
}

draw_node <- function(node, scale) {
  a <- as.list(xml2::xml_attrs(node))
  number <- function(name) as.numeric(a[[name]])
  native <- function(x) grid::unit(x, "native")
  size <- function(x) grid::unit(x * scale, "points")
  paint <- grid::gpar(
    fill = if (is.null(a$fill) || a$fill == "none") NA else a$fill,
    col = if (is.null(a$stroke)) NA else a$stroke,
    lwd = if (is.null(a$`stroke-width`)) 1 else number("stroke-width")
  )
  corners <- function() matrix(as.numeric(strsplit(a$points, "[ ,]+")[[1]]), 2)
  switch(xml2::xml_name(node),
    rect = grid::grid.rect(native(number("x")), native(number("y")), size(number("width")),
      size(number("height")), just = c("left", "top"), gp = paint),
    line = grid::grid.segments(native(number("x1")), native(number("y1")), native(number("x2")),
      native(number("y2")), gp = paint),
    polyline = grid::grid.lines(native(corners()[1, ]), native(corners()[2, ]), gp = paint),
    polygon = grid::grid.polygon(native(corners()[1, ]), native(corners()[2, ]), gp = paint),
    circle = grid::grid.circle(
      native(number("cx")), native(number("cy")), size(number("r")), gp = paint),
    text = grid::grid.text(xml2::xml_text(node), native(number("x")), native(number("y")),
      just = c(switch(a$`text-anchor`, middle = "centre", end = "right", "left"), "bottom"),
      rot = if (is.null(a$transform)) 0 else 90,
      gp = grid::gpar(col = a$fill, fontsize = 12 * scale))
  )
}
