# The statistics of a variable with a wave a column, as the terminal and the page show them.

# `group` and `what` of each row, `waves` (labels), `cells` by wave, `n` answered in each wave.
waves_view <- function(own, study) {
  waves <- names(study$book$waves)
  id <- joined_id(own$group, own$statistic, own$code)
  rows <- split(own, factor(id, unique(id)))
  first <- lapply(rows, function(row) row[1, ])
  cell <- function(row, wave) {
    change <- row[match(wave, row$wave), ]
    if (is.na(change$value)) "\u2013" else if (change$statistic == "gap") grouped(change$value) else
      number_show(change$value, if (change$statistic == "share") 1 else 2)
  }
  list(
    group = unname(vapply(first, `[[`, "", "group")),
    what = unname(vapply(first, function(row) switch(
      row$statistic, share = paste0("% ", row$label), gap = paste0("gaps: ", row$label),
      effective_base = "effective base", row$statistic
    ), "")),
    waves = vapply(study$book$waves, `[[`, "", "label"),
    cells = lapply(with_names(waves, waves), function(wave) unname(
      vapply(rows, cell, "", wave = wave)
    )),
    n = vapply(waves, function(wave) paste0(grouped(own$answered[match(wave, own$wave)])), "")
  )
}
