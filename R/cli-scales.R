command_scales <- list(
  place = 11, summary = "Examine scales: reliability, items, and what looks like a mistake",
  arguments = "[SCALE...]", most = 50, example = "mavik scales belonging --project choirs",
  options = function() list(
    project_option(),
    flag_option(
      "--pairwise", "for each pair of items whoever answered both (default: complete cases)"
    ),
    value_option("--by", "VARIABLE", "means of the score by the groups of this variable too"),
    value_option(
      "--thresholds", "LIST",
      "what is pointed out: negative=0,weak=0.2,floor_ceiling=0.15,blank=0.2", default = ""
    ),
    value_option("--html", "FILE", "an HTML page with tables and figures"),
    value_option("--figure", "FILE", "the figure of the first scale's items, .svg or .png"),
    replace_option(),
    language_option(),
    json_option()
  ),
  json = list(
    "scales" = c(
      title = "the title of the study",
      scales =
        paste0(
          "for each scale and wave: scale, label, wave, use, n, k, score, possible, ",
          "floor_ceiling, alpha, alpha_low, alpha_high, alpha_standard, mean_r, omega, ",
          "split_half, items, answers, straightlined, warnings"
        ),
      use = "`complete` or `pairwise`",
      thresholds = "what is pointed out: negative, floor_ceiling, blank, weak",
      language = "the language of the labels, or null"
    )
  ),
  run = function(given) {
    for (file in c(given$html, given$figure)) check_may_write(file,
      raw_places(known_book(given$project)), given$replace)
    examined <- examine_scales(
      given$project, if (length(given$args) > 0) given$args,
      if (given$pairwise) "pairwise" else "complete",
      thresholds = thresholds_meant(given$thresholds), language = given$language
    )
    names <- unique(vapply(examined$scales, `[[`, "", "scale"))
    means <- if (!is.null(given$by) && length(names) > 0) answers(
      given$project, names, by = given$by, language = given$language
    )
    if (!is.null(given$html)) write_text(scales_page(examined, means), given$html)
    if (!is.null(given$figure)) save_figure(if (length(examined$scales) > 0)
      figure_items(examined$scales[[1]]),
      given$figure)
    show_lines(if (given$json) json_of(unnamed_parts(examined, "scales"), c("scales", "possible",
      "warnings")) else c(scales_shown(examined), if (!is.null(means)) answers_shown(means)))
    say_written(given)
  }
)

thresholds_meant <- function(text) {
  pairs <- strsplit(strsplit(text, "[, ]+")[[1]], "=", fixed = TRUE)
  known <- c("negative", "weak", "floor_ceiling", "blank")
  for (pair in pairs) if (
    length(pair) != 2 || !pair[1] %in% known || is.na(text_to_number(pair[2]))
  ) stop_mavik(
    "usage_error", "--thresholds takes pairs like floor_ceiling=0.2, of ", some_of(known), "; `",
    paste(pair, collapse = "="), "` is none"
  )
  with_names(lapply(pairs, function(pair) text_to_number(pair[2])), vapply(pairs, `[`, "", 1))
}

#' @export
print.mavik_scales <- function(x, ...) {
  keep_own_options()
  show_lines(scales_shown(x))
  invisible(x)
}

scales_shown <- function(examined) if (
  length(examined$scales) == 0) "The codebook makes no score." else
  unlist(lapply(visible(examined$scales), scale_lines))

scale_lines <- function(examined) {
  c(
    heading_shown(paste0(
      examined$scale, ": ", examined$label,
      if (nzchar(examined$wave)) paste0(", wave ", examined$wave)
    )),
    cli::col_grey(paste0(
      "  ", count_of(examined$k, "item"), "; coefficients from ",
      if (examined$use == "complete") paste0(
        count_of(examined$n, "respondent"), " who answered all items")
      else paste0("pairs of items, ", grouped(examined$n), " respondents at least")
    )),
    score_shown(examined), "", coefficients_shown(examined), "", items_shown(examined$items),
    if (any(examined$items$reversed)) cli::col_grey("  (r) reversed; means as scored"),
    if (length(examined$warnings) > 0) c("", unlist(lapply(examined$warnings, warning_shown))), ""
  )
}

score_shown <- function(scale) {
  s <- scale$score
  possible <- if (length(scale$possible) == 2) {
    paste(number_to_text(round_half(scale$possible, 4)), collapse = " to ")
  } else "open"
  shown <- list(
    n = c("n", grouped(s[["n"]])), mean = c("mean", two_decimals(s[["mean"]])),
    sd = c("sd", two_decimals(s[["sd"]])), min = c("smallest", two_decimals(s[["min"]])),
    max = c("largest", two_decimals(s[["max"]])), skew = c("skew", two_decimals(s[["skew"]])),
    possible = c("possible", possible)
  )
  columns_shown(shown, right = names(shown))
}

coefficients_shown <- function(examined) {
  interval <- if (!is.na(examined$alpha_low)) paste0(
    "95 % interval ", three(examined$alpha_low), " to ", three(examined$alpha_high), "; "
  )
  columns_shown(list(
    what = c(
      "alpha", "alpha, standardised", "omega, one factor", "split half", "mean correlation"
    ),
    value = three(c(examined$alpha, examined$alpha_standard, examined$omega, examined$split_half,
      examined$mean_r)),
    words = c(
      paste0(interval, alpha_words(examined$alpha)), "", "",
      "odd against even items, Spearman-Brown", "between items"
    )
  ), right = "value")
}

items_shown <- function(items) {
  columns_shown(list(
    item = c("item", paste0(items$item, ifelse(items$reversed, " (r)", ""))),
    n = c("n", grouped(items$n)), mean = c("mean", two_decimals(items$mean)),
    sd = c("sd", two_decimals(items$sd)), rest = c("item-rest r", two_decimals(items$item_rest)),
    without = c("alpha without", three(items$alpha_without)),
    blank = c("gaps", paste0(number_show(100 * items$blank, 1), " %")),
    label = c("label", shorten(items$label, 50))
  ), right = c("n", "mean", "sd", "rest", "without", "blank"))
}

warning_shown <- function(text) {
  cli::ansi_strwrap(
    paste0(cli::col_yellow("review: "), text), width = max(cli::console_width(), 80) - 4,
    indent = 2, exdent = 10
  )
}
