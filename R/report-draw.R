# Figures inside pages, as plain SVG made from counts: no device, nothing measured.
# Lengths are in units of a drawing 800 wide.

draw_width <- 800

# Answers to the items of a scale as stacked bars, centred on the middle of the answers,
# as they were given.
draw_items <- function(examined) {
  counts <- examined$answers$counts
  percent <- 100 * counts / pmax(rowSums(counts), 1)
  k <- ncol(percent)
  below <- pmax(pmin((k + 1) / 2 - seq_len(k) + 0.5, 1), 0)
  from <- t(apply(percent, 1, function(row) cumsum(c(0, row))[seq_len(k)])) -
    as.vector(percent %*% below)
  labels <- paste0(examined$items$label, ifelse(examined$items$reversed, " (r)", ""))
  fills <- centred_fills(k)
  legend <- draw_legend(examined$answers$labels, fills)
  rows <- draw_rows(labels, top = legend$height + 8, height = 34)
  scale <- draw_scale(range(0, from, from + percent), rows$right)
  y <- rep(rows$middle, k)
  light <- ifelse(is_dark(fills), "#ffffff", figure_colours[["ink"]])
  draw_figure(paste("Answers to the items of", examined$scale), rows$bottom + 42, c(
    legend$svg, rows$svg,
    svg_rect(scale(from), y - 13, scale(from + percent) - scale(from), 26,
      rep(fills, each = nrow(percent))),
    svg_line(scale(0), rows$top, scale(0), rows$bottom),
    svg_words(scale(from + percent / 2), y + 4,
      ifelse(percent >= 6, number_show(percent, 0), ""), "middle",
      rep(light, each = nrow(percent))),
    draw_axis(scale, rows, function(value) number_show(abs(value), 0),
      "Percent of the answered, centred on the middle")
  ))
}

# Item-rest correlations, the weakest at the bottom.
draw_rest <- function(examined) {
  items <- examined$items[order(-examined$items$item_rest, na.last = NA), ]
  rows <- draw_rows(paste0(items$label, ifelse(items$reversed, " (r)", "")), 6, 30)
  scale <- draw_scale(range(0, items$item_rest), rows$right)
  fill <- figure_colours[ifelse(items$item_rest < 0, "ochre", "plum")]
  draw_figure(paste("Item-rest correlations of", examined$scale), rows$bottom + 42, c(
    rows$svg, svg_line(scale(0), rows$top, scale(0), rows$bottom),
    svg_line(scale(0), rows$middle, scale(items$item_rest), rows$middle, "line", 4),
    svg_mark(1L, scale(items$item_rest), rows$middle, fill),
    draw_axis(scale, rows, function(value) number_show(value, 1), "Item-rest correlation")
  ))
}

# Counts between breaks, each as high as it is many.
draw_histogram <- function(breaks, counts, words, height = 170) {
  scale <- draw_scale(range(breaks), c(70, draw_width - 20), inner = FALSE)
  top <- max(counts, 1)
  rise <- function(count) (height - 40) * count / top
  from <- scale(breaks[-length(breaks)])
  floor <- height - 30
  marks <- pretty(c(0, top), 3)
  marks <- marks[marks <= top & marks == round(marks)]
  draw_figure(words, height, c(
    svg_line(70, floor - rise(marks), draw_width - 20, floor - rise(marks), "line"),
    svg_words(62, floor - rise(marks) + 4, grouped(marks), "end"),
    svg_rect(from, floor - rise(counts), scale(breaks[-1]) - from, rise(counts),
      figure_colours[["plum"]]),
    svg_words(scale(axis_marks(range(breaks))), height - 12,
      number_to_text(axis_marks(range(breaks))), "middle")
  ))
}

# Who was received, whom each screen dropped, who is retained: bars that hang where the
# one above ends, so that every step shows at its place in the whole.
draw_flow <- function(steps) {
  rows <- draw_rows(steps$name, 4, 28)
  scale <- draw_scale(c(0, max(steps$to, steps$from) * 1.24), rows$right)
  fill <- figure_colours[c(all = "wash", drop = "ochre", retained = "plum")[steps$part]]
  start <- pmin(steps$from, steps$to)
  end <- pmax(steps$from, steps$to)
  draw_figure(paste(steps$name, steps$label, collapse = "; "), rows$bottom + 42, c(
    rows$svg,
    svg_rect(scale(start), rows$middle - 10, scale(end) - scale(start), 20, unname(fill)),
    svg_words(scale(end) + 8, rows$middle + 4, steps$label),
    draw_axis(scale, rows, grouped, "Records", flow_breaks(max(end)))
  ))
}

# Lines over the waves, broken where a question was not asked; shapes tell them apart
# without colour.
draw_waves <- function(lines, waves, words) {
  some <- lines$some
  k <- nlevels(some$line)
  # Beyond five lines the shapes come again in other fills.
  fills <- group_fills(5)[(seq_len(k) - 1 + (seq_len(k) - 1) %/% 5) %% 5 + 1]
  legend <- if (k > 1) draw_legend(levels(some$line), fills, marks = TRUE) else
    list(svg = character(), height = 0)
  top <- legend$height + 14
  bottom <- top + 190
  ends <- range(some$value, if (lines$means) c(some$low, some$high) else c(0, 100), na.rm = TRUE)
  if (diff(ends) == 0) ends <- ends + c(-0.5, 0.5)
  y <- function(value) bottom - (value - ends[1]) / diff(ends) * (bottom - top)
  x <- draw_scale(c(0.7, length(waves) + 0.3), c(90, draw_width - 20), inner = FALSE)
  place <- x(some$at) + if (lines$means) 5 * (as.integer(some$line) - (k + 1) / 2) else 0
  marks <- axis_marks(ends)
  draw_figure(words, bottom + 34, c(
    legend$svg, svg_line(90, y(marks), draw_width - 20, y(marks), "line"),
    svg_words(82, y(marks) + 4, number_to_text(marks), "end"),
    svg_words(x(seq_along(waves)), bottom + 22, some_waves(waves), "middle"),
    if (lines$means) svg_line(place, y(some$low), place, y(some$high), "soft"),
    vapply(split(seq_along(place), factor(some$run, unique(some$run))), function(run)
      svg_path(place[run], y(some$value[run])), "", USE.NAMES = FALSE),
    svg_mark(as.integer(some$line), place, y(some$value), fills[as.integer(some$line)]),
    svg_turned(16, (top + bottom) / 2, lines$axis)
  ))
}

# Of many waves every second or fifth is named.
some_waves <- function(waves, most = 12) {
  step <- ceiling(length(waves) / most)
  ifelse((seq_along(waves) - 1) %% step == 0, shorten(waves, 22), "")
}

draw_figure <- function(words, height, svg) {
  htmltools::HTML(paste0(
    "<figure class=\"figure\"><svg class=\"drawn\" role=\"img\" aria-label=\"",
    htmltools::htmlEscape(words, TRUE), "\" viewBox=\"0 0 ", draw_width, " ", svg_place(height),
    "\">", paste(svg, collapse = ""), "</svg></figure>"
  ))
}

# Rows with a label left of each; `right` is the room for what is drawn.
draw_rows <- function(labels, top, height) {
  lines <- strsplit(wrap_label(shorten(labels, 76), 38), "\n", fixed = TRUE)
  left <- min(290, 24 + 6.6 * max(nchar(unlist(lines)), 4))
  middle <- top + height * (seq_along(labels) - 0.5)
  svg <- unlist(Map(function(lines, y) svg_words(
    left - 10, y + 4 + 14 * (seq_along(lines) - (length(lines) + 1) / 2), lines, "end"
  ), lines, middle))
  list(
    svg = svg, middle = middle, top = top, bottom = top + height * length(labels),
    right = c(left, draw_width - 16)
  )
}

# Places of values between two ends; `inner` leaves room for words at the ends.
draw_scale <- function(range, room, inner = TRUE) {
  if (diff(range) == 0) range <- range + c(-0.5, 0.5)
  if (inner) room <- room + c(10, -10)
  function(value) room[1] + (value - range[1]) / diff(range) * diff(room)
}

draw_axis <- function(scale, rows, shown, title, marks = NULL) {
  ends <- rows$right + c(10, -10)
  zero <- scale(0)
  value <- function(place) (place - zero) / (scale(1) - zero)
  if (is.null(marks)) marks <- axis_marks(value(ends))
  c(
    svg_line(ends[1], rows$bottom, ends[2], rows$bottom, "line"),
    svg_words(scale(marks), rows$bottom + 16, shown(marks), "middle"),
    svg_words(mean(rows$right), rows$bottom + 34, title, "middle", figure_colours[["soft"]])
  )
}

axis_marks <- function(ends) {
  marks <- round_half(pretty(ends, 5), 9)
  marks[marks >= ends[1] - 1e-9 & marks <= ends[2] + 1e-9]
}

# Boxes and words above a figure, in as many lines as they need.
draw_legend <- function(labels, fills, marks = FALSE) {
  labels <- shorten(gsub("\n", " ", labels, fixed = TRUE), 60)
  wide <- 34 + 6.6 * nchar(labels)
  line <- integer(length(labels))
  x <- numeric(length(labels))
  left <- 10
  row <- 0L
  for (k in seq_along(labels)) {
    if (left + wide[k] > draw_width && left > 10) {
      row <- row + 1L
      left <- 10
    }
    x[k] <- left
    line[k] <- row
    left <- left + wide[k]
  }
  y <- 12 + 20 * line
  list(svg = c(
    if (marks) svg_mark(seq_along(labels), x + 6, y, fills) else svg_rect(x, y - 6, 12, 12, fills),
    svg_words(x + 20, y + 4, labels)
  ), height = 24 + 20 * row)
}

is_dark <- function(fills) colSums(grDevices::col2rgb(fills) * c(0.3, 0.59, 0.11)) < 130

svg_place <- function(x) number_to_text(round_half(x, 1))

svg_rect <- function(x, y, width, height, fill) paste0(
  "<rect x=\"", svg_place(x), "\" y=\"", svg_place(y), "\" width=\"",
  svg_place(pmax(width, 0)), "\" height=\"", svg_place(height), "\" fill=\"", fill, "\"/>",
  recycle0 = TRUE
)

svg_line <- function(x1, y1, x2, y2, colour = "soft", width = 1) paste0(
  "<line x1=\"", svg_place(x1), "\" y1=\"", svg_place(y1), "\" x2=\"", svg_place(x2),
  "\" y2=\"", svg_place(y2), "\" stroke=\"", figure_colours[[colour]], "\" stroke-width=\"",
  width, "\"/>", recycle0 = TRUE
)[!is.na(x1 + y1 + x2 + y2)]

svg_path <- function(x, y) paste0(
  "<polyline fill=\"none\" stroke=\"", figure_colours[["soft"]], "\" points=\"",
  paste0(svg_place(x), ",", svg_place(y), collapse = " "), "\"/>"
)

svg_words <- function(x, y, text, anchor = "start", fill = figure_colours[["ink"]]) {
  words <- paste0(
    "<text x=\"", svg_place(x), "\" y=\"", svg_place(y), "\" text-anchor=\"", anchor,
    "\" fill=\"", fill, "\">", htmltools::htmlEscape(text), "</text>", recycle0 = TRUE
  )
  words[nzchar(rep_len(text, length(words)))]
}

svg_turned <- function(x, y, text) paste0(
  "<text x=\"", svg_place(x), "\" y=\"", svg_place(y), "\" text-anchor=\"middle\" fill=\"",
  figure_colours[["soft"]], "\" transform=\"rotate(-90 ", svg_place(x), " ", svg_place(y),
  ")\">", htmltools::htmlEscape(text), "</text>"
)

# A mark of one of five shapes, each with an edge in ink.
svg_mark <- function(shape, x, y, fill) {
  outlines <- list(
    c(-5, -5, 5, -5, 5, 5, -5, 5), c(0, -6.5, 6, 5, -6, 5), c(0, -7, 7, 0, 0, 7, -7, 0),
    c(0, 6.5, 6, -5, -6, -5)
  )
  edge <- paste0("\" fill=\"", fill, "\" stroke=\"", figure_colours[["ink"]], "\"/>")
  shape <- rep_len((shape - 1L) %% 5L, length(x))
  points <- vapply(seq_along(x), function(k) {
    if (shape[k] == 0L || is.na(x[k] + y[k])) return("")
    corner <- outlines[[shape[k]]]
    paste0(svg_place(x[k] + corner[c(TRUE, FALSE)]), ",",
      svg_place(y[k] + corner[c(FALSE, TRUE)]), collapse = " ")
  }, "")
  ifelse(shape == 0L, paste0(
    "<circle cx=\"", svg_place(x), "\" cy=\"", svg_place(y), "\" r=\"5.5", edge
  ), paste0("<polygon points=\"", points, edge))
}
