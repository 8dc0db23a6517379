# Tests between the groups of a table, and the letters of columns that differ. Where none is
# possible, why.

# A test of codes in groups (`counts` as of `cross_counts()`), or `none` with the reason. Weighted
# shares are tested at the effective base.
share_test <- function(counts, weighted) {
  seen <- counts$counts[rowSums(counts$counts) > 0, colSums(counts$counts) > 0, drop = FALSE]
  if (ncol(seen) < 2) return(list(none = "only one group has answers"))
  if (nrow(seen) < 2) return(list(none = "all gave the same answer"))
  table <- counts$weighted
  if (weighted) table <- table * effective_base(sum(table), counts$squares) / sum(table)
  pearson_test(table, sum(counts$counts), weighted)
}

# Pearson's chi-square of a table of (effective) counts.
pearson_test <- function(table, n, weighted) {
  table <- table[rowSums(table) > 0, colSums(table) > 0, drop = FALSE]
  expected <- outer(rowSums(table), colSums(table)) / sum(table)
  statistic <- sum((table - expected)^2 / expected)
  df <- (nrow(table) - 1) * (ncol(table) - 1)
  list(
    name = "chi-square", statistic = statistic, df = df,
    p = stats::pchisq(statistic, df, lower.tail = FALSE), n = n,
    effective = if (weighted) sum(table), smallest = min(expected),
    sparse = mean(expected < 5) > 0.2
  )
}

# A test of the means in groups, by their moments.
mean_test <- function(moments, labels, weighted) {
  met <- moments[, 1] > 0
  if (sum(met) < 2) return(list(none = "only one group has answers"))
  spread <- spread_at_base(moments[met, , drop = FALSE])
  labels <- labels[met]
  lone <- spread$base <= 1 + 1e-9
  if (any(lone)) return(list(none = paste0(
    "one respondent only in ", some_of(labels[lone], quote = FALSE)
  )))
  if (any(spread$sd <= 0)) return(list(none = paste0(
    "all answers are the same in ", some_of(labels[spread$sd <= 0], quote = FALSE)
  )))
  c(welch_of(spread$mean, spread$sd^2, spread$base), list(
    n = sum(moments[, 1]), effective = if (weighted) sum(spread$base)
  ))
}

# Welch's test from means, variances and (effective) numbers: t of two groups, F (1951) of more.
welch_of <- function(mean, variance, n) {
  share <- variance / n
  if (length(mean) == 2) {
    t <- (mean[1] - mean[2]) / sqrt(sum(share))
    df <- sum(share)^2 / sum(share^2 / (n - 1))
    return(list(
      name = "Welch's t", statistic = t, df = df, p = 2 * stats::pt(-abs(t), df),
      difference = mean[1] - mean[2]
    ))
  }
  w <- 1 / share
  k <- length(mean)
  centre <- sum(w * mean) / sum(w)
  spread <- sum((1 - w / sum(w))^2 / (n - 1)) / (k^2 - 1)
  f <- sum(w * (mean - centre)^2) / ((k - 1) * (1 + 2 * (k - 2) * spread))
  df <- c(k - 1, 1 / (3 * spread))
  list(
    name = "Welch's F", statistic = f, df = df,
    p = stats::pf(f, df[1], df[2], lower.tail = FALSE)
  )
}

# Where the groups are the waves of a panel, the same persons are compared with themselves; no such
# test takes weights. `waves` is a factor of labels.
persons_test <- function(value, waves, persons, coded, weighted) {
  if (weighted) return(list(
    none = "the same persons stand in several waves, and no test of them takes weights"
  ))
  test <- paired_test(value, waves, persons, coded = coded)
  if (is.null(test)) list(none = "no persons who changed between the waves") else test
}

# For each row the letters of the columns than which a cell is higher, group by group.
share_letters <- function(together, groups) {
  p <- together$percent / 100
  differ <- function(i, a, b) {
    n <- together$effective[i, ]
    pooled <- (p[i, a] * n[a] + p[i, b] * n[b]) / (n[a] + n[b])
    z <- (p[i, a] - p[i, b]) / sqrt(pooled * (1 - pooled) * (1 / n[a] + 1 / n[b]))
    2 * stats::pnorm(-abs(z))
  }
  rows <- lapply(seq_len(nrow(p)), function(i) letters_of_row(p[i, ], groups, function(a, b)
    differ(i, a, b)))
  do.call(rbind, rows)
}

mean_letters <- function(mean, sd, n, groups) letters_of_row(mean, groups, function(a, b) {
  if (!isTRUE(n[a] > 1 && n[b] > 1 && sd[a] + sd[b] > 0)) return(NA_real_)
  welch_of(mean[c(a, b)], sd[c(a, b)]^2, n[c(a, b)])$p
})

# Each two columns of a group, p by Holm; the higher of two that differ takes the other's letter.
letters_of_row <- function(value, groups, p_of, level = 0.05) {
  out <- rep("", length(value))
  from <- 0L
  for (group in groups) {
    k <- length(group$codes)
    if (k > 1) {
      pairs <- utils::combn(k, 2)
      p <- mapply(function(a, b) p_of(from + a, from + b), pairs[1, ], pairs[2, ])
      p <- stats::p.adjust(p, "holm")
      for (i in which(p < level)) {
        two <- from + pairs[, i]
        high <- two[which.max(value[two])]
        low <- setdiff(two, high)
        out[high] <- paste0(out[high], letters_for(k)[low - from])
      }
    }
    from <- from + k
  }
  out
}
