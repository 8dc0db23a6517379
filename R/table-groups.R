# Cross tables and means by group, with their tests.

# Counts and row percents by group, a total, and Pearson's chi-square.
cross_table <- function(at, labels, groups, weights) {
  has <- !is.na(at) & !is.na(groups)
  size <- c(nlevels(groups), length(labels))
  counts <- matrix(
    tabulate(as.integer(groups)[has] + size[1] * (at[has] - 1L), prod(size)), size[1], size[2],
    dimnames = list(levels(groups), labels)
  )
  base <- counts
  if (!is.null(weights)) for (j in seq_len(size[2])) base[, j] <- vapply(
    seq_len(size[1]), function(i) sum(weights[has & as.integer(groups) == i & at == j]), 0
  )
  base <- rbind(base, Total = colSums(base))
  percent <- 100 * base / pmax(rowSums(base), .Machine$double.eps)
  percent[rowSums(base) == 0, ] <- NA
  counts <- rbind(counts, Total = colSums(counts))
  list(
    by = attr(groups, "name"), by_label = attr(groups, "label"), ungrouped = sum(is.na(groups)),
    groups = list(
      group = rownames(counts), n = unname(rowSums(counts)), counts = unname(counts),
      percent = unname(percent), codes = labels
    ),
    test = chi_square(counts[seq_len(size[1]), , drop = FALSE])
  )
}

chi_square <- function(counts) {
  counts <- counts[rowSums(counts) > 0, colSums(counts) > 0, drop = FALSE]
  if (min(dim(counts)) < 2) return(NULL)
  found <- suppressWarnings(stats::chisq.test(counts, correct = FALSE))
  list(
    name = "chi-square", statistic = unname(found$statistic), df = unname(found$parameter),
    p = found$p.value, n = sum(counts), sparse = mean(found$expected < 5) > 0.2
  )
}

means_table <- function(value, groups, weights) {
  has <- !is.na(value) & !is.na(groups)
  of_rows <- function(rows) {
    x <- value[rows]
    out <- c(
      n = length(x), mean = if (length(x) > 0) mean(x) else NA,
      sd = if (length(x) > 1) stats::sd(x) else NA,
      median = if (length(x) > 0) stats::median(x) else NA
    )
    if (!is.null(weights)) out <- c(
      out, weighted_mean = if (length(x) > 0) weighted_mean(x, weights[rows]) else NA
    )
    out
  }
  parts <- c(split(which(has), groups[has]), list(which(has)))
  table <- as.data.frame(do.call(rbind, lapply(parts, of_rows)))
  list(
    by = attr(groups, "name"), by_label = attr(groups, "label"), ungrouped = sum(is.na(groups)),
    groups = cbind(group = c(levels(groups), "Total"), `rownames<-`(table, NULL)),
    test = welch_test(value[has], droplevels(groups[has]))
  )
}

# Groups of one, or without any spread, tell nothing of a spread.
welch_test <- function(value, groups) {
  enough <- tapply(value, groups, function(x) length(x) > 1 && stats::var(x) > 0)
  if (length(enough) < 2 || !all(enough)) return(NULL)
  if (nlevels(groups) == 2) {
    found <- stats::t.test(value[as.integer(groups) == 1], value[as.integer(groups) == 2])
    return(list(
      name = "Welch's t", statistic = unname(found$statistic), df = unname(found$parameter),
      p = found$p.value, difference = unname(found$estimate[1] - found$estimate[2]),
      n = length(value)
    ))
  }
  found <- stats::oneway.test(value ~ groups)
  list(
    name = "Welch's F", statistic = unname(found$statistic), df = unname(found$parameter),
    p = found$p.value, n = length(value)
  )
}
