# Numbers of a table: n, mean, spread, quartiles by group.

measure_section <- function(variable, study, declared, chosen, groups) {
  value <- as.double(study$data[[variable$name]][chosen$rows])
  shown <- intersect(mean_statistics, declared$show)
  if (length(shown) == 0) shown <- c("mean", "sd", "median")
  base <- moments_of(value, groups, chosen)
  all <- do.call(rbind, base)
  lines <- bind_lines(
    base_lines(all[, 1], effective_base(all[, 2], all[, 3]), declared), measure_lines(
      value, shown, declared, chosen, groups, base
    )
  )
  tests <- tests_by_group(groups, declared, study, chosen, value, FALSE, function(g) mean_test(
    base[[g]], groups[[g]]$labels, length(chosen$weights) > 0
  ))
  c(lines, list(
    kind = "number", tests = tests, spread = if (wants_spread(declared, groups)) spread_of_groups(
      value, groups, chosen$weights
    )
  ))
}

moments_of <- function(value, groups, chosen) lapply(groups, function(group) group_moments(
  value, group$of, length(group$codes), chosen$weights
))

# Mean, sd and the mean's 95 % interval by t, of moments (`group_moments()`, a row a group), at the
# effective base. Of one respondent there is a mean only.
spread_at_base <- function(moments) {
  base <- effective_base(moments[, 2], moments[, 3])
  several <- base > 1
  sd <- ifelse(several, sqrt(moments[, 5] / moments[, 2] * base / (base - 1)), NA_real_)
  half <- ifelse(several, stats::qt(0.975, pmax(base - 1, 1e-9)) * sd / sqrt(base), NA_real_)
  list(
    mean = moments[, 4], sd = sd, base = base, low = moments[, 4] - half,
    high = moments[, 4] + half
  )
}

measure_lines <- function(
  value, shown, declared, chosen, groups, moments = moments_of(value, groups, chosen)
) {
  moments <- do.call(rbind, moments)
  n <- moments[, 1]
  spread <- spread_at_base(moments)
  quartiles <- if (any(c("median", "quartiles") %in% shown)) do.call(rbind, lapply(
    groups, group_quantiles, value = value, weights = chosen$weights
  ))
  cells <- list(
    mean = spread$mean, sd = spread$sd, lower_quartile = quartiles[, 1], median = quartiles[, 2],
    upper_quartile = quartiles[, 3], min = moments[, 6], max = moments[, 7]
  )
  wanted <- unlist(lapply(shown, function(statistic) if (statistic == "quartiles") c(
    "lower_quartile", "upper_quartile"
  ) else statistic))
  wanted <- intersect(names(cells), wanted)
  letters <- if ("differences" %in% declared$show) mean_letters(
    spread$mean, spread$sd, spread$base, groups)
  at_mean <- function(x, none) do.call(
    rbind, lapply(wanted, function(statistic) if (statistic == "mean") x
    else rep(none, length(n))))
  new_lines_of(
    data.frame(type = "statistic", code = "", label = "", statistic = wanted),
    do.call(rbind, cells[wanted]), n, at_mean(spread$low, NA_real_),
    at_mean(spread$high, NA_real_), if (is.null(letters)) "" else at_mean(letters, "")
  )
}

# Lower quartile, median and upper quartile of each group, a row each.
group_quantiles <- function(group, value, weights) {
  k <- length(group$codes)
  order <- order(group$of, value, method = "radix", na.last = NA)
  x <- value[order]
  n <- tabulate(group$of[order], k)
  start <- cumsum(c(0L, n))[seq_len(k)]
  if (length(weights) > 0) return(weighted_quantiles(x, weights[order], n, start))
  do.call(cbind, lapply(c(0.25, 0.5, 0.75), function(p) {
    place <- 1 + (n - 1) * p
    low <- x[start + floor(place)]
    high <- x[start + ceiling(place)]
    ifelse(n > 0, low + (place - floor(place)) * (high - low), NA_real_)
  }))
}

# The smallest value at which the cumulated weight reaches the share; where it reaches it just
# there, the mean of that value and the next.
weighted_quantiles <- function(x, w, n, start) {
  t(vapply(seq_along(n), function(g) {
    if (n[g] == 0) return(rep(NA_real_, 3))
    own <- start[g] + seq_len(n[g])
    own <- own[w[own] > 0]
    if (length(own) == 0) return(rep(NA_real_, 3))
    sums <- cumsum(w[own])
    total <- sums[length(sums)]
    vapply(c(0.25, 0.5, 0.75), function(p) {
      place <- which(sums >= p * total * (1 - 1e-12))[1]
      just <- abs(sums[place] - p * total) <= 1e-9 * total && place < length(own)
      if (just) mean(x[own[c(place, place + 1)]]) else x[own[place]]
    }, 0)
  }, numeric(3)))
}

# What boxes and histograms are drawn from.
wants_spread <- function(declared, groups) any(declared$figure %in% c("boxes", "histogram")) ||
  (is.null(declared$figure) && length(groups) == 1)

# Of each group its quartiles and the ends of its whiskers (the last values within one and a half
# boxes), and the counts in bins of all.
spread_of_groups <- function(value, groups, weights) {
  boxes <- do.call(rbind, lapply(groups, function(group) {
    q <- group_quantiles(group, value, weights)
    reach <- 1.5 * (q[, 3] - q[, 1])
    inside <- !is.na(value) & !is.na(group$of) & value >= (q[, 1] - reach)[group$of] &
      value <= (q[, 3] + reach)[group$of]
    ends <- group_moments(
      ifelse(inside, value, NA_real_), group$of, length(group$codes), numeric()
    )
    cbind(q, ends[, 6:7, drop = FALSE])
  }))
  colnames(boxes) <- c("lower", "median", "upper", "low", "high")
  bins <- bins_of_weights(value, if (length(weights) > 0) weights)
  list(boxes = boxes, breaks = bins$breaks, counts = bins$counts)
}
