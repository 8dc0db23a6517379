# Tests between waves of a panel: the same persons answered in both, so only what
# each of them changed tells anything.

# `values` and `waves` (a factor) of the records, `persons` whose they are. Two
# waves give one test, more of them a test of each with the one before it.
paired_test <- function(values, waves, persons, coded) {
  names <- levels(droplevels(waves))
  if (length(names) < 2) return(NULL)
  pairs <- lapply(seq_along(names)[-1], function(k) paired_of(values, waves, persons, names[k - 1],
    names[k], coded))
  pairs <- Filter(Negate(is.null), pairs)
  if (length(pairs) == 0) return(NULL)
  if (length(names) == 2) return(c(pairs[[1]], list(paired = TRUE)))
  rows <- do.call(rbind, lapply(
    pairs, function(pair) data.frame(before = pair$before, now = pair$now,
    name = pair$name, statistic = pair$statistic, df = pair$df, n = pair$n, p = pair$p)))
  rows$p_holm <- stats::p.adjust(rows$p, "holm")
  list(name = "each wave with the one before it", pairs = rows, n = max(rows$n),
    p = min(rows$p_holm), paired = TRUE)
}

paired_of <- function(values, waves, persons, before, now, coded) {
  earlier <- which(waves == before & !is.na(values))
  two <- which(waves == now & !is.na(values))
  place <- match(persons[earlier], persons[two])
  x <- values[earlier][!is.na(place)]
  y <- values[two][place[!is.na(place)]]
  test <- if (coded) changed_codes(x, y) else paired_t(x, y)
  if (is.null(test)) return(NULL)
  c(test, list(n = length(x), before = before, now = now))
}

paired_t <- function(x, y) {
  if (length(x) < 2 || stats::var(y - x) == 0) return(NULL)
  test <- stats::t.test(y, x, paired = TRUE)
  list(name = "paired t", statistic = unname(test$statistic), df = unname(test$parameter),
    p = test$p.value, difference = mean(y - x))
}

# McNemar's test of two codes is that of more codes with one difference only:
# d'V^-1 d over all but one code, d the differences of the two margins, V their
# covariance where nothing changed.
changed_codes <- function(x, y) {
  known <- sort(unique(c(x, y)))
  counts <- table(factor(x, known), factor(y, known))
  moved <- rowSums(counts) + colSums(counts) - 2 * diag(counts)
  counts <- counts[moved > 0, moved > 0, drop = FALSE]
  k <- nrow(counts)
  if (k < 2) return(NULL)
  differ <- (rowSums(counts) - colSums(counts))[-k]
  spread <- -(counts + t(counts))
  diag(spread) <- rowSums(counts) + colSums(counts) - 2 * diag(counts)
  inverse <- tryCatch(solve(spread[-k, -k, drop = FALSE]), error = function(e) NULL)
  if (is.null(inverse)) return(NULL)
  statistic <- sum(differ * (inverse %*% differ))
  list(name = if (length(known) == 2) "McNemar's chi-square" else "Stuart-Maxwell chi-square",
    statistic = statistic, df = k - 1,
    p = stats::pchisq(statistic, k - 1, lower.tail = FALSE))
}

# Whether the groups are the waves of a panel.
is_paired <- function(name, book) is_panel(book) && name %in% names(book$variables) &&
  is_wave(book$variables[[name]])
