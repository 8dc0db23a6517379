# The figure of a table of answers: bars of shares, or of means by group.

# Drawn is what the table says: weighted where it is weighted; title, base and weight are named.
figure_answers <- function(answer) {
  if (answer$kind == "several") return(figure_answers(answer$tables[[1]]))
  figure <- figure_of_kind(answer)
  if (is.null(figure)) return(NULL)
  base <- if (!is.null(answer$groups)) utils::tail(answer$groups$n, 1) else
    if (is.null(answer$answered)) answer$n else answer$answered
  figure + ggplot2::labs(title = wrap_label(answer$label, 80), caption = paste0(
    "Base ", grouped(base), if (!is.null(answer$weight)) paste0(", weighted by ", answer$weight)
  )) + ggplot2::theme(
    plot.title = ggplot2::element_text(size = 11, face = "bold"),
    plot.title.position = "plot", plot.caption.position = "plot"
  )
}

figure_of_kind <- function(answer) {
  if (!is.null(answer$groups) && answer$kind == "number") return(figure_means(answer))
  if (answer$kind == "number") return(figure_histogram(answer))
  if (!is.null(answer$groups) && answer$kind == "set") return(figure_sets(
    answer$groups, shorten(group_words(answer), 40)
  ))
  if (!is.null(answer$groups)) return(figure_groups(
    answer$groups$codes, answer$groups$group, answer$groups$percent,
    paste0("Percent of each group: ", group_words(answer))
  ))
  if (answer$kind == "items") return(figure_groups(
    answer$codes, shorten(answer$table$label, 60), answer$percent, "Percent of the answered"
  ))
  weighted <- !is.null(answer$table$weighted)
  if (answer$kind == "set") return(figure_bars(
    answer$table$label, if (weighted) answer$table$weighted else answer$table$of_respondents,
    "Percent of respondents"
  ))
  if (answer$kind == "codes") return(figure_bars(
    answer$table$label, if (weighted) answer$table$weighted else answer$table$of_answered,
    "Percent of the answered"
  ))
  NULL
}

figure_bars <- function(label, percent, title, digits = 1) {
  top <- max(percent, 1, na.rm = TRUE) * 1.14
  bars <- data.frame(
    label = factor(shorten(label, 50), rev(unique(shorten(label, 50)))),
    percent = ifelse(is.na(percent), 0, percent)
  )
  ggplot2::ggplot(bars) +
    ggplot2::geom_col(
      ggplot2::aes(x = percent, y = label), fill = figure_colours[["plum"]],
      colour = figure_colours[["ink"]], width = 0.66, linewidth = 0.3
    ) +
    ggplot2::geom_text(
      ggplot2::aes(x = percent, y = label, label = number_show(percent, digits)), hjust = 0,
      nudge_x = top * 0.01, size = 3.5, colour = figure_colours[["ink"]]
    ) +
    ggplot2::scale_x_continuous(
      limits = c(0, top), expand = c(0, 0),
      breaks = function(range) unique(round(pretty(range), digits))
    ) + ggplot2::labs(x = title, y = NULL) + figure_theme()
}

# Stacked shares, a bar a group, in steps of one hue that stay apart in print.
figure_groups <- function(codes, groups, percent, title) {
  groups <- wrap_label(groups, 36)
  bars <- data.frame(
    group = factor(rep(groups, length(codes)), rev(unique(groups))),
    code = factor(rep(shorten(codes, 30), each = length(groups)), unique(shorten(codes, 30))),
    percent = as.vector(percent)
  )
  bars$percent[is.na(bars$percent)] <- 0
  fills <- ordered_fills(nlevels(bars$code))
  dark <- colSums(grDevices::col2rgb(fills) * c(0.3, 0.59, 0.11)) < 130
  stacked <- ggplot2::position_stack(vjust = 0.5, reverse = TRUE)
  ggplot2::ggplot(bars) +
    ggplot2::geom_col(
      ggplot2::aes(x = percent, y = group, fill = code),
      position = ggplot2::position_stack(reverse = TRUE), colour = figure_colours[["ink"]],
      width = 0.7, linewidth = 0.25
    ) +
    ggplot2::geom_text(
      ggplot2::aes(
        x = percent, y = group, group = code,
        label = ifelse(percent >= 5, number_show(percent, 0), ""), colour = code
      ),
      position = stacked, size = 3.2, show.legend = FALSE
    ) +
    ggplot2::scale_fill_manual(values = fills, name = NULL) +
      ggplot2::scale_colour_manual(values = ifelse(dark, "#FFFFFF", figure_colours[["ink"]])) +
    ggplot2::scale_x_continuous(expand = c(0, 0)) + ggplot2::labs(x = title, y = NULL) +
      figure_theme() +
    ggplot2::theme(plot.margin = ggplot2::margin(4, 18, 4, 4)) + legend_above(
      levels(bars$code), groups
    )
}

# Options down, a mark a group: shapes tell the groups apart without colour.
figure_sets <- function(groups, by) {
  label <- shorten(groups$codes, 50)
  marks <- data.frame(
    option = factor(rep(label, each = length(groups$group)), rev(unique(label))),
    group = factor(rep(groups$group, length(label)), groups$group),
    percent = as.vector(groups$percent)
  )
  marks <- marks[!is.na(marks$percent), ]
  shapes <- rep(c(21, 22, 24, 23, 25), length.out = nlevels(marks$group))
  fills <- group_fills(nlevels(marks$group))
  ggplot2::ggplot(marks, ggplot2::aes(x = percent, y = option)) +
    ggplot2::geom_line(
      ggplot2::aes(group = option), colour = figure_colours[["line"]], linewidth = 1.2
    ) +
    ggplot2::geom_point(
      ggplot2::aes(shape = group, fill = group), size = 3, colour = figure_colours[["ink"]]
    ) +
    ggplot2::scale_shape_manual(values = shapes, name = by) + ggplot2::scale_fill_manual(
      values = fills, name = by
    ) +
    ggplot2::scale_x_continuous(limits = c(0, 100), expand = c(0, 1)) + ggplot2::labs(
      x = "Percent of respondents", y = NULL
    ) + figure_theme() +
    ggplot2::theme(plot.margin = ggplot2::margin(4, 18, 4, 4)) + legend_above(
      c(by, levels(marks$group)), label
    )
}

# Means by group with their 95 % interval (by t).
figure_means <- function(answer) {
  g <- answer$groups
  g$group <- factor(g$group, rev(g$group))
  if (!is.null(g$weighted_mean)) g$mean <- g$weighted_mean
  ggplot2::ggplot(g) +
    ggplot2::geom_errorbar(
      ggplot2::aes(xmin = low, xmax = high, y = group), width = 0.18,
      colour = figure_colours[["ink"]]
    ) +
    ggplot2::geom_point(
      ggplot2::aes(x = mean, y = group), size = 2.8, colour = figure_colours[["plum"]]
    ) +
    ggplot2::labs(x = "Mean, with its 95 % interval", y = NULL) +
      figure_theme()
}

# A comment at the end tells Mavik's own figures from other files.
sign_svg <- function(file) {
  text <- readBin(file, "raw", file.size(file))
  if (!grepl("</svg>", rawToChar(utils::tail(text, 20)),
    fixed = TRUE)) stop("the figure is cut off")
  write_checked(charToRaw(sub("</svg>\\s*$", "<!-- made by Mavik --></svg>\n", rawToChar(text),
    useBytes = TRUE)), file)
}

save_figure <- function(figure, file, width = 8, height = 4.5) {
  if (is.null(figure)) stop_mavik("usage_error", "a table of this kind has no figure")
  if (!grepl("[.](svg|png)$", file)) stop_mavik(
    "write_error", file, ": a figure is written as .svg or .png"
  )
  write_beside(file, function(beside) {
    if (grepl("[.]svg$", file)) svglite::svglite(beside, width = width,
      height = height) else grDevices::png(beside, width = width, height = height, units = "in",
      res = 150)
    tryCatch(print(figure), finally = grDevices::dev.off())
    if (grepl("[.]svg$", file)) sign_svg(beside)
    end <- utils::tail(readBin(beside, "raw", file.size(beside)), 12)
    if (!grepl("</svg>|IEND", rawToChar(end[end != 0]),
      useBytes = TRUE)) stop("the figure is cut off")
  })
}

# How often each span of a number was given.
figure_histogram <- function(answer) {
  if (is.null(answer$bins)) return(NULL)
  k <- length(answer$bins$counts)
  bars <- data.frame(
    from = answer$bins$breaks[-(k + 1)], to = answer$bins$breaks[-1], count = answer$bins$counts
  )
  ggplot2::ggplot(bars) +
    ggplot2::geom_rect(
      ggplot2::aes(xmin = from, xmax = to, ymin = 0, ymax = count),
      fill = figure_colours[["plum"]], colour = "#ffffff", linewidth = 0.3
    ) +
    ggplot2::scale_y_continuous(expand = ggplot2::expansion(c(0, 0.06))) +
    ggplot2::labs(x = NULL, y = if (is.null(answer$weight)) "Answers" else "Sum of weights") +
    figure_theme()
}
