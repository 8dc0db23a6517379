# Numbers of a table: n, mean, spread, quartiles by group.

measure_section <- function(variable, study, declared, chosen, groups) {
  value <- as.double(study$data[[variable$name]][chosen$rows])
  shown <- intersect(mean_statistics, declared$show)
  if (length(shown) == 0) shown <- c("mean", "sd", "median")
  base <- moments_of(value, groups, chosen)
  n <- unlist(lapply(base, function(one) one[, 1]))
  effective <- unlist(lapply(base, function(one) effective_base(one[, 2], one[, 3])))
  lines <- bind_lines(
    base_lines(n, effective, declared), measure_lines(
      value, shown, declared, chosen, groups, base
    )
  )
  tests <- lapply(seq_along(groups)[-1], function(g) if (is.null(declared$over)) mean_test(
    value, base[[g]], groups[[g]], study, chosen
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

measure_lines <- function(
  value, shown, declared, chosen, groups, moments = moments_of(value, groups, chosen)
) {
  moments <- do.call(rbind, moments)
  n <- moments[, 1]
  effective <- effective_base(moments[, 2], moments[, 3])
  mean <- moments[, 4]
  sd <- ifelse(effective > 1, sqrt(moments[, 5] / moments[, 2] * effective / (effective - 1)), NA)
  half <- ifelse(
    effective > 1, stats::qt(0.975, pmax(effective - 1, 1e-9)) * sd / sqrt(effective), NA
  )
  quartiles <- if (any(c("median", "quartiles") %in% shown)) do.call(rbind, lapply(
    groups, group_quantiles, value = value, weights = chosen$weights
  ))
  cells <- list(
    mean = mean, sd = sd, lower_quartile = quartiles[, 1], median = quartiles[, 2],
    upper_quartile = quartiles[, 3], min = moments[, 6], max = moments[, 7]
  )
  wanted <- unlist(lapply(shown, function(one) if (one == "quartiles") c(
    "lower_quartile", "upper_quartile"
  ) else one))
  wanted <- intersect(names(cells), wanted)
  letters <- if ("differences" %in% declared$show) mean_letters(mean, sd, effective, groups)
  at_mean <- function(x, none) do.call(rbind, lapply(wanted, function(one) if (one == "mean") x
    else rep(none, length(n))))
  new_lines_of(
    data.frame(type = "statistic", code = "", label = "", statistic = wanted),
    do.call(rbind, cells[wanted]), n, at_mean(mean - half, NA_real_),
    at_mean(mean + half, NA_real_), if (is.null(letters)) "" else at_mean(letters, "")
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
      at <- which(sums >= p * total * (1 - 1e-12))[1]
      just <- abs(sums[at] - p * total) <= 1e-9 * total && at < length(own)
      if (just) mean(x[own[c(at, at + 1)]]) else x[own[at]]
    }, 0)
  }, numeric(3)))
}

# What boxes and histograms are drawn from.
wants_spread <- function(declared, groups) any(declared$figure %in% c("boxes", "histogram")) ||
  (is.null(declared$figure) && length(groups) == 1)

# Of each group its quartiles and the ends of its whiskers (the last values within one and a half
# boxes), and the counts in bins of all.
spread_of_groups <- function(value, groups, weights, bins = 20) {
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
  known <- value[!is.na(value)]
  if (length(known) == 0) return(list(boxes = boxes))
  whole <- all(known == round(known))
  breaks <- if (whole) {
    width <- max(1, ceiling((diff(range(known)) + 1) / bins))
    seq(min(known) - 0.5, max(known) + width - 0.5, by = width)
  } else pretty(known, bins)
  if (length(breaks) < 2) breaks <- breaks[1] + c(-0.5, 0.5)
  at <- findInterval(value, breaks, rightmost.closed = TRUE)
  at[is.na(value)] <- NA
  counts <- if (length(weights) == 0) tabulate(at, length(breaks) - 1) else
    group_weights(as.integer(at), weights, length(breaks) - 1L)
  list(boxes = boxes, breaks = breaks, counts = counts)
}
