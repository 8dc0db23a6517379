# One variable counted as suits its level: codes, a number, or texts.

one_table <- function(name, study, rows, weights, groups, as_number = NULL) {
  variable <- study$book$variables[[name]]
  value <- study$data[[name]][rows]
  n <- length(rows)
  gaps <- count_gaps(study$reasons[[name]][rows], study$book, n)
  of <- list(
    variable = variable, value = value, reason = study$reasons[[name]][rows], weights = weights,
    groups = groups, persons = study$records$key[rows], study = study, n = n,
    answered = n - sum(gaps$count)
  )
  head <- list(
    variable = name, label = paste0(variable$label, ""), n = n, answered = of$answered, gaps = gaps
  )
  if (is_coded(variable) && !isTRUE(as_number) || !is.null(variable$texts))
    return(c(list(kind = "codes"), head, codes_table(of)))
  if (is.numeric(value) && !is_date(variable)) return(c(
    list(kind = "number", decimals = variable$decimals), head, number_table(of)
  ))
  text <- value_text(variable, if (is_date(variable)) as.double(value) else value)
  c(
    list(kind = "text", ungrouped = !is.null(groups)), head,
    list(table = text_statistics(text[!is.na(text)], variable))
  )
}

codes_table <- function(of) {
  counts <- count_codes(of$variable, of$value, of$n, of$answered)
  if (!is.null(of$variable$texts)) counts <- counts[counts$count > 0, ]
  if (!is.null(of$weights)) counts$weighted <- weighted_percent(
    match(of$value, counts$code), nrow(counts), of$weights
  )
  counts[c("low", "high")] <- interval_of_shares(counts, of$answered, of$value, of$weights)
  grouped <- if (!is.null(of$groups)) with_paired(cross_table(
    match(of$value, counts$code), counts$label, of$groups, of$weights, of$reason,
    of$study$book$reasons
  ), of, coded = TRUE)
  means <- if (has_mean(of$variable)) number_statistics(as.double(of$value), of$weights)
  shown <- c("mean", "sd", if (!is.null(of$weights)) "weighted_mean")
  c(list(table = counts), means[shown], grouped)
}

number_table <- function(of) {
  value <- as.double(of$value)
  grouped <- if (!is.null(of$groups)) with_paired(
    means_table(value, of$groups, of$weights), of, coded = FALSE
  )
  if (!is.null(grouped)) grouped$group_gaps <- gaps_by_group(
    of$reason, list(of = as.integer(of$groups), codes = levels(of$groups)), of$study$book$reasons
  )
  c(
    list(
      table = number_statistics(value, of$weights),
      bins = if (is.null(of$groups)) bins_of_weights(value, of$weights)
    ), grouped
  )
}

# The same persons are compared with themselves; no such test takes weights.
with_paired <- function(grouped, of, coded) {
  if (!is_paired(attr(of$groups, "name"), of$study$book)) return(grouped)
  grouped[c("test", "untested")] <- NULL
  value <- if (coded) of$value else as.double(of$value)
  c(grouped, tested(persons_test(value, of$groups, of$persons, coded, !is.null(of$weights))))
}

# Wilson's interval of each share, at the effective base.
interval_of_shares <- function(counts, answered, value, weights) {
  has <- !is.na(value)
  base <- if (is.null(weights)) answered else effective_base(
    sum(weights[has]), sum(weights[has]^2)
  )
  wilson_interval(if (is.null(weights)) counts$of_answered else counts$weighted, base)
}

weighted_percent <- function(place, size, weights) {
  sums <- group_weights(place, weights, size)
  share(sums, sum(sums))
}

number_statistics <- function(value, weights) {
  statistics <- tally_number(value, NULL)[c("n", "mean", "median", "sd", "min", "max")]
  out <- as.data.frame(as.list(statistics))
  moments <- group_moments(value, rep(1L, length(value)), 1L, as.double(weights))
  spread <- spread_at_base(moments)
  if (!is.null(weights)) out$weighted_mean <- spread$mean
  out[c("low", "high")] <- spread[c("low", "high")]
  out
}

# Counts (or sums of weights) between breaks, for a histogram.
bins_of_weights <- function(value, weights) {
  statistics <- statistics_of(value)
  bins <- if (!is.null(statistics)) bins_of(value, NULL, statistics)
  if (is.null(bins) || is.null(weights)) return(bins)
  interval <- findInterval(value, bins$breaks, rightmost.closed = TRUE)
  bins$counts <- group_weights(interval, weights, length(bins$breaks) - 1L)
  bins
}

weighted_mean <- function(value, weights) {
  has <- !is.na(value)
  if (sum(weights[has]) == 0) NA_real_ else sum(value[has] * weights[has]) / sum(weights[has])
}

# All different answers, the most frequent first. Those that differ in case, spaces and marks only
# are one, under the form that most wrote.
text_statistics <- function(text, variable) {
  if (is_date(variable)) return(data.frame(
    n = length(text), first = if (length(text) > 0) min(text) else "",
    last = if (length(text) > 0) max(text) else ""
  ))
  written <- unique(text)
  count <- tabulate(match(text, written), length(written))
  order <- order(-count, written, method = "radix")
  written <- written[order]
  count <- count[order]
  plain <- stringi::stri_replace_all_regex(written, "[\\p{P}\\p{S}]", "")
  key <- text_near(ifelse(nzchar(text_trim(plain)), plain, written))
  met <- match(key, unique(key))
  total <- as.integer(rowsum(count, met)[, 1])
  first <- !duplicated(key)
  out <- data.frame(
    text = written[first], count = total, of_answered = share(total, length(text)),
    forms = tabulate(met, length(total))
  )
  out <- out[order(-out$count, out$text, method = "radix"), ]
  rownames(out) <- NULL
  out
}
