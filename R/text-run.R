# Texts of many million rows, as keys are, in one run of bytes (`src/run.cpp`). Who asks for some
# rows gets their texts; whoever looks at the whole has all of them made, which is what the
# functions below are for: they do not.

is_run <- function(x) !is.null(run_bytes(x))

has_gaps <- function(x) !is_run(x) && anyNA(x)

rows_blank <- function(x) if (is_run(x)) run_blanks(x) else which(!nzchar(x))

# Rows with a letter (of ASCII).
rows_holding <- function(x, letter) if (is_run(x)) run_holding(x, letter) else
  which(grepl(letter, x, fixed = TRUE))

packed_texts <- function(x) if (is_run(x)) run_bytes(x) else pack_texts(x)

# Texts behind texts.
joined_texts <- function(parts) {
  if (length(parts) == 1) return(parts[[1]])
  if (!all(vapply(parts, is_run, TRUE))) return(unlist(parts, use.names = FALSE))
  run_texts(do.call(c, unname(lapply(parts, run_bytes))))
}

alike_texts <- function(x, y) if (is_run(x) && is_run(y)) identical(run_bytes(x), run_bytes(y)) else
  identical(x, y)

# Whole numbers as texts, so many at a time.
run_of_numbers <- function(numbers, size = 1e5) {
  starts <- seq(1, length(numbers), by = size)
  run_texts(do.call(c, lapply(starts, function(from) pack_texts(number_to_text(
    numbers[seq(from, min(from + size - 1, length(numbers)))]
  )))))
}
