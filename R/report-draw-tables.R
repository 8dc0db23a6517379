# Figures of declared tables, from the numbers that stand in them.

table_figures <- function(table) {
  figure <- figure_wanted(table)
  if (figure == "none") return(character())
  if (figure == "stacked" && length(table$groups) == 1) return(stacked_items(table))
  unlist(lapply(table$sections, function(section) {
    kind <- fitting_figure(figure, section)
    drawn <- switch(kind,
      bars = draw_bars(section, table), stacked = draw_stacked(
        table$columns$label, shares_in(section), section
      ), means = draw_means(section, table), boxes = draw_boxes(section, table),
      histogram = draw_counts(section), lines = draw_over(section, table), NULL
    )
    if (!is.null(drawn)) figure_with_caption(drawn, section, table)
  }))
}

figure_wanted <- function(table) {
  said <- table$declared$figure
  if (!is.null(said)) return(said)
  if (!is.null(table$declared$over)) return("lines")
  kinds <- vapply(table$sections, `[[`, "", "kind")
  grouped <- length(table$groups) > 1
  if (kinds[1] == "number") return(if (grouped) "means" else "histogram")
  many <- nrow(answers_in(table$sections[[1]])) > 10
  stacked <- kinds[1] == "codes" && !many && (grouped || same_codes(table$sections))
  if (stacked) "stacked" else "bars"
}

# What suits the section where the table's figure does not.
fitting_figure <- function(figure, section) {
  if (figure == "lines") return(figure)
  numbers <- c("means", "boxes", "histogram")
  if (section$kind == "number") return(if (figure %in% numbers) figure else "means")
  if (section$kind == "options") return("bars")
  if (figure == "means" && any(section$lines$statistic == "mean")) return("means")
  if (figure %in% numbers) "bars" else figure
}

shares_in <- function(section) {
  lines <- section$lines
  places <- which(lines$type %in% c("code", "option") & lines$statistic == "column_percent")
  if (length(places) == 0) {
    places <- which(is_answer_line(section))
    base <- section$value[which(lines$statistic == "base")[1], ]
    return(100 * section$value[places, , drop = FALSE] / rep(pmax(base, 1), each = length(places)))
  }
  section$value[places, , drop = FALSE]
}

figure_with_caption <- function(drawn, section, table) {
  base <- section$value[which(section$lines$statistic == "base")[1], 1]
  if (!is.null(table$declared$over)) base <- sum(section$value[which(
    section$lines$statistic == "base"
  )[1], table$columns$group == 1])
  words <- paste0(
    table$title, if (section$label != table$title) paste0(": ", section$label), ". Base ",
    grouped(base), if (!is.null(table$weight)) paste0(", weighted by ", table$weight)
  )
  sub("</figure>", paste0(
    "<figcaption>", htmltools::htmlEscape(words), "</figcaption></figure>"
  ), as.character(drawn), fixed = TRUE)
}

# A bar an answer; with groups a bar each, beside one another, where these are not too many to
# be told apart.
draw_bars <- function(section, table, most = 60) {
  shares <- shares_in(section)
  columns <- if (length(table$groups) > 1) which(table$columns$group == 2) else 1
  if (length(columns) > 5 || length(columns) * nrow(shares) > most) columns <- 1
  k <- length(columns)
  thick <- if (k == 1) 20 else max(9, min(16, 60 / k))
  fills <- if (k == 1) figure_colours[["plum"]] else group_fills(k)
  legend <- if (k > 1) draw_legend(table$columns$label[columns], fills) else
    list(svg = character(), height = 0)
  rows <- draw_rows(answers_in(section)$label, legend$height + 6, k * (thick + 2) + 10)
  scale <- draw_scale(c(0, max(shares[, columns], 1, na.rm = TRUE) * 1.12), rows$right)
  bars <- unlist(lapply(seq_len(k), function(j) {
    y <- rows$middle + (j - (k + 1) / 2) * (thick + 2)
    value <- shares[, columns[j]]
    value[is.na(value)] <- 0
    c(
      svg_bar(scale(0), y - thick / 2, scale(value) - scale(0), thick, fills[j]),
      svg_words(scale(value) + 6, y + 4, number_show(shares[, columns[j]], 1))
    )
  }))
  draw_figure(paste("Shares of", section$label), rows$bottom + 42, c(
    legend$svg, rows$svg, bars,
    draw_axis(scale, rows, number_to_text, if (section$kind == "options")
      "Percent of the respondents who answered" else "Percent of the answered")
  ))
}

svg_bar <- function(x, y, width, height, fill) sub("/>", paste0(
  " stroke=\"", figure_colours[["ink"]], "\" stroke-width=\"0.5\"/>"
), svg_rect(x, y, width, height, fill), fixed = TRUE)

# Answers one after the other in each row, in steps of one hue.
draw_stacked <- function(labels, shares, section) {
  keep <- colSums(is.na(shares)) == 0
  shares <- t(shares[, keep, drop = FALSE])
  labels <- labels[keep]
  if (nrow(shares) == 0) return(NULL)
  fills <- ordered_fills(ncol(shares))
  legend <- draw_legend(answers_in(section)$label, fills)
  rows <- draw_rows(labels, legend$height + 8, 30)
  from <- t(apply(shares, 1, function(row) cumsum(c(0, row))[seq_along(row)]))
  if (ncol(shares) == 1) from <- matrix(0, nrow(shares), 1)
  scale <- draw_scale(c(0, 100), rows$right)
  y <- rep(rows$middle, ncol(shares))
  light <- ifelse(is_dark(fills), "#ffffff", figure_colours[["ink"]])
  draw_figure(paste("Shares of", section$label), rows$bottom + 42, c(
    legend$svg, rows$svg, svg_bar(
      scale(from), y - 11, scale(from + shares) - scale(from), 22,
      rep(fills, each = nrow(shares))
    ),
    svg_words(
      scale(from + shares / 2), y + 4, ifelse(shares >= 6, number_show(shares, 0), ""), "middle",
      rep(light, each = nrow(shares))
    ), draw_axis(scale, rows, number_to_text, "Percent of the answered")
  ))
}

# The items of a block as one figure where they have the same codes, else one each.
stacked_items <- function(table) {
  if (!same_codes(table$sections)) return(vapply(table$sections, function(section)
    figure_with_caption(if (section$kind == "codes") draw_stacked(
      "All", shares_in(section), section
    ) else draw_bars(section, table), section, table), ""))
  first <- table$sections[[1]]
  shares <- do.call(cbind, lapply(table$sections, function(section) shares_in(section)[, 1]))
  drawn <- draw_stacked(vapply(table$sections, `[[`, "", "label"), shares, first)
  if (is.null(drawn)) return(character())
  first$label <- table$title
  figure_with_caption(drawn, first, table)
}

# A mark a group with its 95 % interval.
draw_means <- function(section, table) {
  places <- which(section$lines$statistic == "mean")
  if (length(places) == 0) return(NULL)
  value <- section$value[places, ]
  low <- section$low[places, ]
  high <- section$high[places, ]
  some <- which(!is.na(value))
  if (length(some) == 0) return(NULL)
  rows <- draw_rows(table$columns$label[some], 6, 30)
  scale <- draw_scale(range(value[some], low[some], high[some], na.rm = TRUE), rows$right)
  draw_figure(paste("Means of", section$label), rows$bottom + 42, c(
    rows$svg, svg_line(scale(low[some]), rows$middle, scale(high[some]), rows$middle, "soft", 3),
    svg_mark(1L, scale(value[some]), rows$middle, figure_colours[["plum"]]),
    draw_axis(scale, rows, number_to_text, "Mean, with its 95 % interval")
  ))
}

# Quartiles as a box, the median in it, whiskers to the last value within one and a half boxes.
draw_boxes <- function(section, table) {
  boxes <- section$spread$boxes
  some <- which(!is.na(boxes[, "median"]))
  if (length(some) == 0) return(NULL)
  boxes <- boxes[some, , drop = FALSE]
  rows <- draw_rows(table$columns$label[some], 6, 34)
  scale <- draw_scale(range(boxes), rows$right)
  y <- rows$middle
  draw_figure(paste("Quartiles of", section$label), rows$bottom + 42, c(
    rows$svg, svg_line(scale(boxes[, "low"]), y, scale(boxes[, "high"]), y, "soft"),
    svg_bar(
      scale(boxes[, "lower"]), y - 9, scale(boxes[, "upper"]) - scale(boxes[, "lower"]), 18,
      figure_colours[["lilac"]]
    ),
    svg_line(scale(boxes[, "median"]), y - 9, scale(boxes[, "median"]), y + 9, "ink", 3),
    draw_axis(scale, rows, number_to_text,
      "Quartiles and median; lines to the last value within one and a half boxes")
  ))
}

draw_counts <- function(section) {
  if (is.null(section$spread$breaks)) return(NULL)
  draw_histogram(
    section$spread$breaks, round(section$spread$counts), paste("Answers to", section$label)
  )
}

# A line a group (or an answer) over the steps; broken where nobody answered.
draw_over <- function(section, table) {
  lines <- section$lines
  means <- any(lines$statistic == "mean")
  grouped <- length(table$groups) > 1
  group <- table$groups[[if (grouped) 2 else 1]]
  columns <- which(table$columns$group == if (grouped) 2 else 1)
  steps <- unique(group$inner)
  some <- if (means) {
    places <- which(lines$statistic == "mean")
    data.frame(
      line = factor(group$outer, unique(group$outer)), at = match(group$inner, steps),
      value = section$value[places, columns], low = section$low[places, columns],
      high = section$high[places, columns]
    )
  } else {
    shares <- shares_in(section)[, which(table$columns$group == 1), drop = FALSE]
    label <- answers_in(section)$label
    data.frame(
      line = factor(rep(label, ncol(shares)), label),
      at = rep(seq_len(ncol(shares)), each = length(label)), value = as.vector(shares), low = NA,
      high = NA
    )
  }
  some <- some[order(some$line, some$at), ]
  gone <- is.na(some$value)
  some$run <- paste(some$line, stats::ave(gone, some$line, FUN = cumsum))
  some <- some[!gone, ]
  if (nrow(some) == 0) return(NULL)
  draw_waves(list(
    some = some, means = means,
    axis = if (means) paste("Mean, 95 % interval") else "Percent of the answered"
  ), steps, paste("Lines over", table$declared$over))
}
