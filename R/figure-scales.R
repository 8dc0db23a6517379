# Answers to the items of a scale as stacked bars, centred on the middle of the
# answers, as they were given.

figure_items <- function(scale) {
  if (is.null(scale$answers)) return(figure_rest(scale))
  counts <- scale$answers$counts
  percent <- 100 * counts / pmax(rowSums(counts), 1)
  k <- ncol(percent)
  middle <- (k + 1) / 2
  left <- vapply(
    seq_len(nrow(percent)),
    function(i) sum(percent[i, seq_len(k) < middle]) +
      if (k %% 2 == 1) percent[i, middle] / 2 else 0,
    0
  )
  label <- paste0(wrap_label(scale$items$label, 36), ifelse(scale$items$reversed, " (r)", ""))
  from <- t(apply(percent, 1, function(row) cumsum(c(0, row))[seq_len(k)])) - left
  bars <- data.frame(
    item = rep(seq_along(label), k), from = as.vector(from), to = as.vector(from + percent),
    code = factor(rep(scale$answers$labels, each = length(label)), unique(scale$answers$labels))
  )
  bars$place <- length(label) + 1 - bars$item
  bars$share <- as.vector(percent)
  fills <- centred_fills(k)
  dark <- colSums(grDevices::col2rgb(fills) * c(0.3, 0.59, 0.11)) < 130
  ggplot2::ggplot(bars) + ggplot2::geom_vline(
    xintercept = 0, colour = figure_colours[["soft"]], linewidth = 0.4
  ) +
    ggplot2::geom_rect(
      ggplot2::aes(xmin = from, xmax = to, ymin = place - 0.38, ymax = place + 0.38, fill = code),
      colour = figure_colours[["ink"]], linewidth = 0.25
    ) +
    ggplot2::geom_text(
      ggplot2::aes(
        x = (from + to) / 2, y = place, label = ifelse(share >= 6, number_show(share, 0), ""),
        colour = code
      ),
      size = 3.1, show.legend = FALSE
    ) +
    ggplot2::scale_fill_manual(values = fills, name = NULL) +
      ggplot2::scale_colour_manual(values = ifelse(dark, "#FFFFFF", figure_colours[["ink"]])) +
    ggplot2::scale_y_continuous(breaks = seq_along(label), labels = rev(label)) +
      ggplot2::scale_x_continuous(labels = function(x) number_show(abs(x), 0)) +
    ggplot2::labs(x = "Percent of the answered, centred on the middle", y = NULL) + figure_theme() +
      legend_above(levels(bars$code), label)
}

wrap_label <- function(text, width) vapply(
  text, function(label) paste(strwrap(label, width), collapse = "\n"), "", USE.NAMES = FALSE
)

# Item-rest correlations, the weakest at the bottom.
figure_rest <- function(scale) {
  items <- scale$items[order(scale$items$item_rest), ]
  items$label <- factor(
    wrap_label(paste0(items$label, ifelse(items$reversed, " (r)", "")), 42),
    unique(wrap_label(paste0(items$label, ifelse(items$reversed, " (r)", "")), 42))
  )
  ggplot2::ggplot(items[!is.na(items$item_rest), ]) + ggplot2::geom_vline(
    xintercept = 0, colour = figure_colours[["soft"]], linewidth = 0.4
  ) +
    ggplot2::geom_segment(
      ggplot2::aes(x = 0, xend = item_rest, y = label, yend = label),
      colour = figure_colours[["line"]], linewidth = 1.6
    ) +
    ggplot2::geom_point(
      ggplot2::aes(x = item_rest, y = label, fill = item_rest < 0), shape = 21, size = 3,
      colour = figure_colours[["ink"]]
    ) +
    ggplot2::scale_fill_manual(
      values = c("FALSE" = figure_colours[["plum"]], "TRUE" = figure_colours[["ochre"]]),
      guide = "none"
    ) +
    ggplot2::labs(x = "Item-rest correlation", y = NULL) + figure_theme()
}
