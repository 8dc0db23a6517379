# Numbers that stand for a missing answer: -9, 99, 998 and their like.

number_missing <- function(column) {
  far <- far_numbers(column)$number
  if (length(far) > 0) list(no_answer = far)
}

far_counts <- function(column) {
  far <- far_numbers(column)
  if (length(far$number) > 0) paste0("; far from the others: ", numbers_counted(far))
}

# What may be one or an amount: named, not declared.
doubtful_counts <- function(column) {
  heaped <- heaped_numbers(column)
  below <- doubtful_numbers(column)
  paste0(
    if (length(heaped$number) > 0) paste0(
      "; heaped above the others: ", numbers_counted(heaped), ": a missing code?"
    ),
    if (length(below$number) > 0) paste0(
      "; below 0: ", numbers_counted(below), ": amounts, or missing codes?"
    )
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
    number > 3 * max(others) | (number < 0 & min(others) >= 0 & !goes_below_zero(number))
  )
  list(number = number[far], count = column$cells$count[far])
}

# The numbers that answer: no gap by its label, none far off.
own_numbers <- function(column) setdiff(
  text_to_number(column$cells$text[is.na(column$cells$gap)]), far_numbers(column)$number
)

# None too large, but told more often than its like.
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

# -2 to 2, -4 to 5: no step left out from below 0 upwards, and hardly further up than down.
goes_below_zero <- function(number) {
  number <- sort(unique(number))
  down <- -number[1]
  down > 0 && down < 10 && all(seq(-down, 0) %in% number) && max(number[number < 10]) < 3 * down
}

# Where they go as far down as up they are amounts; else a person has to say.
doubtful_numbers <- function(column) {
  number <- text_to_number(column$cells$text)
  known <- sort(setdiff(number[!is.na(number)], far_numbers(column)$number))
  if (length(known) < 2 || known[1] >= 0 || !goes_below_zero(known)) return(NULL)
  if (-known[1] == max(known)) return(NULL)
  low <- which(number < 0)
  list(number = number[low], count = column$cells$count[low])
}

# Digits that repeat, the end of a field of nines, and the first below 0.
missing_numbers <- local({
  repeated <- outer(c(11, 111, 1111, 11111), 6:9)
  ends <- outer(c(100, 1000, 10000, 1e5), 1:5, `-`)
  apart <- c(repeated, ends)
  c(-(1:9), apart, -apart)
})
