# The contract of a way. Each `way-*.R` file holds one object `way_<key>`:
#
#   value     the field that stands at the way's own key
#   beside    further keys of an entry that go with this way
#   reads     (variable) the raw columns it reads, by role; NULL if none
#   uses      (variable, book) the variables it is made of
#   makes     (variable, book) the variable with level, storage, codes, range
#   check     (variable, book, say) problems against the rest of the codebook
#   compute   (variable, inputs, book, rows) a column for whole columns
#   sentence  (variable, book) how it was made, in words
#   explain   (variable, inputs, book) one record's value worked out in numbers;
#             left out where the sentence says it all
#
# `inputs` holds a column for each of `reads` and `uses`: a list of `value` and
# `reason`, the number of a missing reason or 0 (NULL where there is no gap).
# `rows` has `n`, `key` and `wave`. A way is row-local.

# A way may also have:
#
#   internal  TRUE where no codebook names it: it comes with another entry
#   spread    (entry) `list(entry, companions, members)`: the entry as it goes on,
#             the entries that come right after it, and those of them that its
#             name stands for as a block
#   decode    (cells, variable, role, export, book, kinds) in place of decode_cells
#   refine    (variable, column, inputs, book) the column read from cells, once
#             what it uses is settled
#
# A column may carry `ledger` and `findings` of its own.

way_extras <- c("internal", "spread", "decode", "refine", "explain")
way_parts <- c("value", "beside", "reads", "uses", "makes", "check", "compute", "sentence")

ways <- function() {
  if (is.null(memory$ways)) memory$ways <- parts_named("way_")
  memory$ways
}

# Those that a codebook can name.
open_ways <- function() Filter(function(way) !isTRUE(way$internal), ways())

memory <- new.env()

# R takes its time over what is no longer used. After so many cells were worked on
# that a third of what is in use may wait there, it is asked to let go: that keeps
# the peak of memory near what is in use. Work on a cell leaves about 60 bytes.
let_go_after <- function(cells) {
  memory$waiting <- 60 * cells + if (is.null(memory$waiting)) 0 else memory$waiting
  if (memory$waiting < max(4e7, memory$used / 3)) return(invisible())
  memory$waiting <- 0
  memory$used <- sum(gc(FALSE)[, 2]) * 2^20
  invisible()
}

# Finds the objects of one kind by their names: a new one is one new file.
parts_named <- function(prefix, env = topenv()) {
  names <- sort_c(ls(env, pattern = paste0("^", prefix, "[a-z_]+$")))
  found <- mget(names, envir = env)
  found <- found[vapply(found, is.list, TRUE)]
  names(found) <- substring(names(found), nchar(prefix) + 1)
  found
}

new_column <- function(value, reason = NULL) {
  if (!is.null(reason) && all_zero(reason)) reason <- NULL
  list(value = value, reason = reason)
}

all_zero <- function(x) length(x) == 0 || (max(x) == 0L && min(x) == 0L)

reason_or_none <- function(column) {
  if (is.null(column$reason)) integer(length(column$value)) else column$reason
}

# The highest-ranking reason among the inputs of each row; 0 where there is none.
first_reason <- function(columns, n) {
  out <- rep(NA_integer_, n)
  for (column in columns) {
    if (is.null(column$reason)) next
    let_go_after(2 * n)
    reason <- column$reason
    reason[reason == 0L] <- NA_integer_
    out <- pmin(out, reason, na.rm = TRUE)
  }
  out[is.na(out)] <- 0L
  out
}

# The smallest and largest value that a variable can take; NULL if unbounded.
bounds_of <- function(variable) {
  both <- c(variable$range, variable$codes$code)
  if (length(both) == 0 || !all(is.finite(both))) return(NULL)
  range(both)
}

is_coded <- function(variable) identical(variable$storage, "coded")
label_of <- function(variable, code) {
  label <- as.character(variable$codes$label)[match(code, variable$codes$code)]
  ifelse(is.na(label), number_to_text(code), label)
}

# The canonical text of values: a number or code in its shortest form, a date as ISO 8601.
value_text <- function(variable, value) {
  if (is_date(variable)) return(date_to_text(value, variable$level))
  if (identical(variable$storage, "set")) return(ifelse(is.na(value), NA, set_text(variable$registry$sets[value], variable$options$label)))
  if (is.character(value)) value else number_to_text(value)
}

# Values as R users take them: dates with their class.
value_as_r <- function(variable, value) {
  if (!is_date(variable)) return(value)
  if (variable$level == "date") structure(as.double(value), class = "Date") else .POSIXct(as.double(value), "UTC")
}

# All codes that a coded variable can hold: listed ones, and the bare ones of its range.
all_codes <- function(variable) {
  codes <- variable$codes$code
  if (!is.null(variable$range) && all(is.finite(variable$range))) {
    bare <- setdiff(seq(ceiling(variable$range[1]), floor(variable$range[2])), codes)
    codes <- if (length(bare) > 0) sort(as.integer(c(codes, bare))) else codes
  }
  codes
}

range_shown <- function(variable) {
  range <- variable$range
  text <- value_text(variable, ifelse(is.finite(range), range, NA))
  ifelse(range == -Inf, "any lower value", ifelse(range == Inf, "any higher value", text))
}
