# Who was received, whom each screen dropped, who is retained: bars that hang where the one
# above ends, so that every step shows at its place in the whole.

figure_flow <- function(study) {
  steps <- flow_steps(study)
  steps$place <- rev(seq_len(nrow(steps)))
  steps$at <- pmax(steps$to, steps$from)
  top <- max(steps$at)
  ggplot2::ggplot(steps) +
    ggplot2::geom_rect(
      ggplot2::aes(xmin = from, xmax = to, ymin = place - 0.36, ymax = place + 0.36, fill = part),
      colour = figure_colours[["ink"]], linewidth = 0.3
    ) +
    ggplot2::geom_text(
      ggplot2::aes(x = at, y = place, label = label), hjust = 0, nudge_x = top * 0.012, size = 3.5,
      colour = figure_colours[["ink"]]
    ) +
    ggplot2::scale_fill_manual(
      values = c(
        all = figure_colours[["wash"]], drop = figure_colours[["ochre"]],
        retained = figure_colours[["plum"]]
      ),
      guide = "none"
    ) +
    ggplot2::scale_y_continuous(breaks = steps$place, labels = steps$name) +
    ggplot2::scale_x_continuous(
      limits = c(0, top * 1.22), breaks = flow_breaks(top), labels = grouped, expand = c(0, 0)
    ) +
    ggplot2::labs(x = "Records", y = NULL) + figure_theme()
}

flow_breaks <- function(top) pretty(c(0, top), 5)[pretty(c(0, top), 5) <= top]

# Each step from where the one before ended.
flow_steps <- function(study) {
  counts <- disposition_counts(study)
  own <- setdiff(names(dispositions), "duplicate")
  drops <- counts[!names(counts) %in% own]
  retained <- counts[names(counts) %in% own]
  came <- sum(counts)
  after <- came - cumsum(as.integer(drops))
  ends <- sum(retained) - cumsum(as.integer(retained))
  count <- c(came, as.integer(drops), as.integer(retained))
  data.frame(
    name = c("received", paste("\u2212", names(drops), recycle0 = TRUE),
      if (identical(names(retained), "retained")) "retained" else paste("retained:",
      tolower_ascii(dispositions[names(retained)]), recycle0 = TRUE)),
    from = c(0, after, ends), to = c(came, after + as.integer(drops), ends + as.integer(retained)),
    part = rep(c("all", "drop", "retained"), c(1, length(drops), length(retained))),
    label = paste0(grouped(count), " (", percent_shown(100 * count / came), ")")
  )
}
