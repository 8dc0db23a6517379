# What a variable holds, as everybody counts it: codes with their shares, gaps
# by reason, and the statistics of a number.

count_variable <- function(study, name) {
  variable <- study$book$variables[[name]]
  value <- retained_of(study$data[[name]], study)
  reason <- retained_of(study$reasons[[name]], study)
  n <- length(value)
  gaps <- count_gaps(reason, study$book, n)
  answered <- n - sum(gaps$count)
  list(
    n = n, answered = answered, gaps = gaps,
    codes = if (is_coded(variable) || !is.null(variable$texts)) count_codes(
      variable, value, n, answered
    ),
    statistics = if (is.numeric(value) && variable$level %in% c("interval", "ratio"))
      statistics_of(value),
    distinct = if (is.character(value)) length(unique(value[!is.na(value)])),
    span = if (is_date(variable) && answered > 0) value_text(
      variable, range(as.double(value), na.rm = TRUE)
    )
  )
}

# Cells with each reason, and the variables that have it, over several variables.
count_reasons <- function(study, names) {
  size <- nrow(study$book$reasons)
  counts <- vapply(
    study$reasons[intersect(names, names(study$reasons))],
    function(reason) tabulate(as.integer(retained_of(reason, study)), size), integer(size)
  )
  data.frame(cells = as.integer(rowSums(counts)), variables = as.integer(rowSums(counts > 0)))
}

count_gaps <- function(reason, book, n) {
  count <- if (is.null(reason)) integer(nrow(book$reasons)) else tabulate(
    as.integer(reason), nrow(book$reasons)
  )
  seen <- count > 0
  data.frame(
    name = book$reasons$name, code = book$reasons$code, label = book$reasons$label, count = count,
    of_all = share(count, n)
  )[seen, ]
}

count_codes <- function(variable, value, n, answered) {
  texts <- variable$texts
  known <- if (is.null(texts)) all_codes(variable) else texts$value
  count <- if (is.null(texts)) count_whole(value, known) else tabulate(
    match(value, known), length(known)
  )
  if (sum(count) < answered) {
    known <- c(known, sort(setdiff(unique(value), c(known, NA))))
    count <- tabulate(match(value, known), length(known))
  }
  label <- if (is.null(texts)) label_of(variable, known) else texts$label
  data.frame(
    code = known, label = label, count = count, of_all = share(count, n),
    of_answered = share(count, answered)
  )
}

# How often integers take each of the known values, in one pass.
count_whole <- function(value, known) {
  if (length(known) == 0 || max(known) - min(known) > 1e6) return(tabulate(
    match(value, known), length(known)
  ))
  tabulate(value - (min(known) - 1L), max(known) - min(known) + 1L)[known - min(known) + 1L]
}

share <- function(count, of) if (of == 0) rep(NA_real_, length(count)) else 100 * count / of

# Source of sd: the usual estimate with n - 1.
statistics_of <- function(value) {
  x <- as.double(value[!is.na(value)])
  if (length(x) == 0) return(NULL)
  c(
    n = length(x), mean = mean(x), median = stats::median(x),
    sd = if (length(x) > 1) stats::sd(x) else NA, min = min(x), max = max(x)
  )
}
