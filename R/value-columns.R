# Small things to do with columns of values.

distinct_of <- function(value) {
  known <- unique(value)
  list(value = known, index = match(value, known))
}

# The same answer in both; a set is told by what it holds.
same_value <- function(mine, other) {
  if (is.factor(mine)) mine <- as.character(mine)
  if (is.factor(other)) other <- as.character(other)
  (mine == other) %in% TRUE
}

# Values put in at some places; sets may be such as the column has not met.
with_values <- function(value, rows, fresh) {
  if (is.factor(fresh)) {
    levels(value) <- union(levels(value), levels(fresh))
    fresh <- as.character(fresh)
  }
  value[rows] <- fresh
  value
}

# The text of a raw column in each record.
column_texts <- function(column) text_trim(column$cells)[column$index]

# How often each distinct cell of a raw column occurs.
occurrences <- function(column) count_between(column$index, NULL, 1L, length(column$cells))

is_outside <- function(value, range) !is.na(value) & (value < range[1] | value > range[2])

new_column <- function(value, reason = NULL) {
  if (!is.null(reason) && only_zero(reason)) reason <- NULL
  list(value = value, reason = reason)
}

# A column may carry rows of the ledger and findings of its own.
carrying <- function(column, ledger = NULL, findings = NULL) {
  column["ledger"] <- list(ledger)
  column["findings"] <- list(findings)
  column
}

reason_or_none <- function(column) {
  if (is.null(column$reason)) integer(length(column$value)) else column$reason
}

# The highest-ranking reason among the inputs of each row; 0 where there is none.
first_reason <- function(columns, n) {
  out <- rep(NA_integer_, n)
  for (column in columns) {
    if (is.null(column$reason)) next
    reason <- column$reason
    reason[reason == 0L] <- NA_integer_
    out <- pmin(out, reason, na.rm = TRUE)
  }
  out[is.na(out)] <- 0L
  out
}

# A record that a parallel does not have is not found in it.
gather <- function(decoded, index, book) {
  if (any_gap(index)) {
    reason <- decoded$reason[index]
    reason[is.na(index)] <- reason_id(book, "not_found")
    return(new_column(decoded$value[index], reason))
  }
  new_column(
    at_places(decoded$value, index, book$held),
    if (any(decoded$reason > 0L)) at_places(decoded$reason, index, book$held)
  )
}

# Which values are gaps. R's own way asks a column of places for one row after the other.
gaps_in <- function(x) if (is.null(looked_parts(x))) is.na(x) else gaps_among(x)

# What is told of each value is told of distinct ones, where a column has few of them. `act` makes a
# gap of a gap.
over_values <- function(x, act) {
  looked <- looked_parts(x)
  if (is.null(looked$table)) return(act(x))
  looked_up(looked$index, act(looked$table), looked$folder, list())
}

# For each row of a factor what is `known` of its level.
over_levels <- function(value, known, folder) {
  looked <- looked_parts(value)
  if (is.null(looked$table)) return(at_places(known, seen_as(value, list()), folder))
  index <- looked$index
  at_places(known[looked$table], if (is.raw(index)) as_places(index) else index, folder)
}

rows_that <- function(x, act) {
  looked <- looked_parts(x)
  if (is.null(looked$table)) return(which(act(x)))
  rows_among(looked$index, act(looked$table) %in% TRUE)
}

# Texts that are listed are looked for once each, and not in every row.
match_texts <- function(texts, known) {
  listed <- listed_parts(texts)
  if (is.null(listed)) match(texts, known) else match(listed$known, known)[listed$index]
}

rows_with <- function(texts, value) {
  listed <- listed_parts(texts)
  if (is.null(listed)) which(texts == value) else
    rows_among(listed$index, listed$known %in% value)
}

# Those that stand in some rows; all if NULL.
texts_met <- function(texts, rows = NULL) {
  listed <- listed_parts(texts)
  if (is.null(listed)) return(if (is.null(rows)) texts else texts[rows])
  listed$known[places_met(listed$index, rows, length(listed$known))]
}

# What stands in some rows; where these are all in their order nothing is copied.
at_rows <- function(x, rows) if (are_all_rows(rows, length(x))) x else x[rows]

# Where few values are many rows', what is held is each row's place among them.
at_places <- function(known, index, folder) {
  if (length(known) >= length(index) / 2) return(at_rows(known, index))
  if (is.character(known)) return(if (is.null(folder)) known[index] else
    listed_texts(index, known))
  if (!is.null(attributes(known)) || !typeof(known) %in% c("integer", "double"))
    return(known[index])
  looked_up(index, known, folder, list())
}

# The same in a file; of one text for all rows hardly any memory is taken.
held_places <- function(known, index, folder) held_vector(at_places(known, index, folder), folder)

same_text <- function(text, n, folder) held_places(text, rep(1L, n), folder)
