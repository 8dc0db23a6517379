# What a variable holds, as everybody counts it: codes with their shares, gaps
# by reason, and the statistics of a number. `rows` are those counted; all if NULL.

count_variable <- function(study, name) {
  variable <- study$book$variables[[name]]
  value <- study$data[[name]]
  rows <- study$retained
  n <- n_retained(study)
  gaps <- count_gaps(study$reasons[[name]], study$book, n, rows)
  answered <- n - sum(gaps$count)
  number <- is.numeric(value) && variable$level %in% c("interval", "ratio")
  statistics <- if (number) statistics_of(value, rows)
  list(
    n = n, answered = answered, gaps = gaps,
    codes = if (is_coded(variable) || !is.null(variable$texts)) count_codes(
      variable, value, n, answered, rows
    ),
    statistics = statistics,
    bins = if (!is.null(statistics) && !is_date(variable)) bins_of(value, rows, statistics),
    distinct = if (is.character(value)) count_distinct(value, rows),
    span = if (is_date(variable) && answered > 0) value_text(
      variable, range(as.double(retained_of(value, study)), na.rm = TRUE)
    )
  )
}

# How many different texts there are; of texts that are listed the list tells.
count_distinct <- function(value, rows = NULL) {
  value <- texts_met(value, rows)
  again <- repeated_rows(value)
  length(value) - length(again) + length(unique(value[again])) - has_gaps(value)
}

# Cells with each reason, and the variables that have it, over several variables.
count_reasons <- function(study, names) {
  counts <- reason_counts(study, names)
  data.frame(cells = as.integer(rowSums(counts)), variables = as.integer(rowSums(counts > 0)))
}

# A row a reason, a column for each of the variables that have gaps.
reason_counts <- function(study, names) {
  size <- nrow(study$book$reasons)
  names <- intersect(names, names(study$reasons))
  vapply(with_names(names, names), function(name) {
    gaps <- study$tallies$counts[[name]]$gaps
    if (is.null(gaps)) return(count_between(study$reasons[[name]], study$retained, 1L, size))
    count <- gaps$count[match(study$book$reasons$name, gaps$name)]
    ifelse(is.na(count), 0L, count)
  }, integer(size))
}

# How often a variable has each of some codes, as counted already or now.
code_counts <- function(study, name, codes) {
  known <- study$tallies$counts[[name]]$codes
  if (is.null(known)) return(count_whole(study$data[[name]], codes, study$retained))
  count <- known$count[match(codes, known$code)]
  ifelse(is.na(count), 0L, count)
}

count_gaps <- function(reason, book, n, rows = NULL) {
  size <- nrow(book$reasons)
  count <- if (is.null(reason)) integer(size) else count_between(reason, rows, 1L, size)
  seen <- which(count > 0)
  new_frame(
    name = book$reasons$name[seen], code = book$reasons$code[seen],
    label = book$reasons$label[seen], count = count[seen], of_all = share(count[seen], n)
  )
}

count_codes <- function(variable, value, n, answered, rows = NULL) {
  texts <- variable$texts
  if (!is.null(texts)) {
    count <- tabulate(match(if (is.null(rows)) value else value[rows], texts$value),
      length(texts$value))
    return(counts_of(texts$value, texts$label, count, n, answered))
  }
  known <- all_codes(variable)
  count <- count_whole(value, known, rows)
  if (sum(count) < answered) {
    bare <- sort(setdiff(unique(if (is.null(rows)) value else value[rows]), c(known, NA)))
    known <- c(known, bare)
    count <- count_whole(value, known, rows)
  }
  counts_of(known, label_of(variable, known), count, n, answered)
}

counts_of <- function(code, label, count, n, answered) {
  new_frame(
    code = code, label = label, count = count, of_all = share(count, n),
    of_answered = share(count, answered)
  )
}

# How often integers take each of the known values, in one pass.
count_whole <- function(value, known, rows = NULL) {
  if (length(known) == 0) return(integer())
  if (max(known) - min(known) > 1e6) return(
    tabulate(match(if (is.null(rows)) value else value[rows], known), length(known))
  )
  count_between(value, rows, min(known), max(known))[known - min(known) + 1L]
}

share <- function(count, of) if (of == 0) rep(NA_real_, length(count)) else 100 * count / of

# NULL where there is no value. Source of sd: the usual estimate with n - 1.
statistics_of <- function(value, rows = NULL) {
  statistics <- tally_number(value, rows)
  if (statistics[["n"]] > 0) statistics
}

# Counts of a number over its span, in bins of equal width; of whole numbers each bin
# holds the same number of them.
bins_of <- function(value, rows, statistics, most = 24) {
  low <- statistics[["min"]]
  high <- statistics[["max"]]
  if (low == high) return(NULL)
  breaks <- if (statistics[["whole"]] == 1) {
    width <- ceiling((high - low + 1) / most)
    seq(low, high + width, by = width) - 0.5
  } else seq(low, high, length.out = most + 1)
  list(breaks = breaks, counts = bin_counts(value, breaks, rows))
}

has_mean <- function(variable) variable$storage == "number" || (
  is_coded(variable) && variable$level %in% ordered_levels
)
