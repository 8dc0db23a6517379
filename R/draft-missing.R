# Numbers that stand for a missing answer: -9, 99, 998 and their like.

number_missing <- function(column) {
  far <- far_numbers(column)$number
  if (length(far) > 0) list(no_answer = far)
}

far_counts <- function(column) {
  far <- far_numbers(column)
  if (length(far$number) > 0) paste0("; far from the others: ", numbers_counted(far))
}

# Such a number that is none too large, but told more often than its like: named, not declared.
heaped_counts <- function(column) {
  heaped <- heaped_numbers(column)
  if (length(heaped$number) > 0) paste0(
    "; heaped above the others: ", numbers_counted(heaped), ": a missing code?"
  )
}

numbers_counted <- function(of) {
  paste0(number_to_text(of$number), " (", grouped(of$count), ")", collapse = ", ")
}

far_numbers <- function(column) {
  number <- text_to_number(column$cells$text)
  usual <- number %in% missing_numbers
  others <- number[!is.na(number) & !usual]
  if (length(others) == 0) return(NULL)
  far <- usual & (
    number > 3 * max(others) | (number < 0 & min(others) >= 0 & !is_balanced(number))
  )
  list(number = number[far], count = column$cells$count[far])
}

# The numbers that answer: no gap by its label, none far off.
own_numbers <- function(column) setdiff(
  text_to_number(column$cells$text[is.na(column$cells$gap)]), far_numbers(column)$number
)

heaped_numbers <- function(column) {
  number <- text_to_number(column$cells$text)
  usual <- number %in% missing_numbers & number > 0
  others <- !is.na(number) & !usual
  if (sum(others) < 5) return(NULL)
  heaped <- usual & number > max(number[others]) &
    !number %in% far_numbers(column)$number &
    column$cells$count >= pmax(5, 4 * stats::median(column$cells$count[others]))
  list(number = number[heaped], count = column$cells$count[heaped])
}

# -2 to 2: as far down as up, no step left out.
is_balanced <- function(number) {
  number <- sort(unique(number))
  length(number) %% 2 == 1 &&
    all(number == seq_along(number) - (length(number) + 1) / 2)
}

# Digits that repeat, the end of a field of nines, and the first below 0.
missing_numbers <- local({
  repeated <- outer(c(11, 111, 1111, 11111), 6:9)
  ends <- outer(c(100, 1000, 10000, 1e5), 1:5, `-`)
  apart <- c(repeated, ends)
  c(-(1:9), apart, -apart)
})
