# Cross tables and means by group, with their tests.

# Counts and row percents by group, a total, and Pearson's chi-square; under weights at the
# effective base. `gaps` are those of each group by reason, so that all of a group add up.
cross_table <- function(place, labels, groups, weights, reason, reasons) {
  of <- list(of = as.integer(groups), codes = levels(groups))
  crossed <- cross_counts(of, place, length(labels), as.double(weights))
  counts <- t(crossed$counts)
  base <- t(crossed$weighted)
  base <- rbind(base, colSums(base))
  percent <- 100 * base / pmax(rowSums(base), .Machine$double.eps)
  percent[rowSums(base) == 0, ] <- NA
  counts <- rbind(counts, colSums(counts))
  c(
    list(
      by = attr(groups, "name"), by_label = attr(groups, "label"), ungrouped = sum(is.na(groups)),
      groups = list(
        group = c(levels(groups), "Total"), n = unname(rowSums(counts)), counts = unname(counts),
        percent = unname(percent), codes = labels, gaps = gaps_by_group(reason, of, reasons)
      )
    ), tested(share_test(crossed, !is.null(weights)))
  )
}

# A test as `test`, or why there is none as `untested`.
tested <- function(test) if (is.null(test$none)) list(test = test) else
  list(untested = test$none)

# Counts of the reasons that occur, a row each group and a total.
gaps_by_group <- function(reason, of, reasons) {
  counts <- gap_counts_of(of, reason, reasons)
  seen <- which(rowSums(counts) > 0)
  counts <- t(counts[seen, , drop = FALSE])
  list(reason = reasons$name[seen], label = as.character(reasons$label[seen]),
    counts = unname(rbind(counts, colSums(counts))))
}

# Statistics of each group and of all, the mean with its interval by t; under weights the means,
# sds and intervals are weighted, at the effective base.
means_table <- function(value, groups, weights) {
  of <- as.integer(groups)
  k <- nlevels(groups) + 1L
  total <- rep(k, length(of))
  total[is.na(of)] <- NA_integer_
  weights <- as.double(weights)
  moments <- rbind(
    group_moments(value, of, nlevels(groups), weights),
    group_moments(value, total, k, weights)[k, , drop = FALSE]
  )
  plain <- if (length(weights) == 0) moments else rbind(
    group_moments(value, of, nlevels(groups), numeric()),
    group_moments(value, total, k, numeric())[k, , drop = FALSE]
  )
  spread <- spread_at_base(moments)
  counted <- spread_at_base(plain)
  quartiles <- function(of, k) group_quantiles(
    list(of = of, codes = seq_len(k)), value, numeric()
  )[, 2]
  table <- data.frame(
    group = c(levels(groups), "Total"), n = plain[, 1], mean = counted$mean, sd = counted$sd,
    median = c(quartiles(of, k - 1L), quartiles(total, k)[k])
  )
  if (length(weights) > 0) table$weighted_mean <- spread$mean
  table[c("low", "high")] <- spread[c("low", "high")]
  test <- mean_test(moments[-k, , drop = FALSE], levels(groups), length(weights) > 0)
  c(
    list(
      by = attr(groups, "name"), by_label = attr(groups, "label"), ungrouped = sum(is.na(groups)),
      groups = table
    ), tested(test)
  )
}
