# Small things to do with columns of values.

distinct_of <- function(value) {
  known <- unique(value)
  list(value = known, index = match(value, known))
}

is_outside <- function(value, range) !is.na(value) & (value < range[1] | value > range[2])
