# A coded and a worded file of the same responses whose headings differ: paired by keys and
# by answers, since each code then goes with one label.

# `key` (of the coded file) and `columns`, the coded column of each worded one; NULL where
# the files do not hold the same responses.
paired_by_answers <- function(base, other) {
  keys <- same_keys(base, other)
  if (is.null(keys)) return(NULL)
  row <- match(column_texts(base$columns[[keys[1]]]), column_texts(other$columns[[keys[2]]]))
  worded <- columns_of_kind(base, function(number) mean(is.na(number)) > 0.5)
  coded <- columns_of_kind(other, function(number) all(is_whole(number)))
  partner <- vapply(with_names(worded, worded), function(name) {
    purity <- vapply(coded, function(code) purity_of(
      base$columns[[name]], other$columns[[code]], row
    ), 0)
    if (length(purity) == 0 || max(purity) < 0.95) NA_character_ else coded[which.max(purity)]
  }, "")
  partner <- partner[!is.na(partner) & !duplicated(partner)]
  if (length(partner) < max(2, 0.3 * length(worded))) return(NULL)
  list(key = keys[[2]], base_key = keys[[1]], columns = partner)
}

# A column of each file that holds each record once, the same values in both.
same_keys <- function(base, other) {
  once <- function(export) Filter(function(name) {
    column <- export$columns[[name]]
    full <- nzchar(text_trim(column$cells))
    all(full[column$index]) && !anyDuplicated(column$index)
  }, export$names)
  for (mine in once(base)) for (theirs in once(other)) {
    a <- text_trim(base$columns[[mine]]$cells)
    b <- text_trim(other$columns[[theirs]]$cells)
    if (length(intersect(a, b)) >= 0.5 * min(length(a), length(b))) return(c(mine, theirs))
  }
  NULL
}

columns_of_kind <- function(export, holds) Filter(function(name) {
  cells <- text_trim(export$columns[[name]]$cells)
  cells <- cells[nzchar(cells)]
  length(cells) >= 2 && length(cells) <= 40 && holds(text_to_number(cells))
}, export$names)

# How nearly each label goes with one code and each code with one label.
purity_of <- function(column, other, row) {
  full <- nzchar(text_trim(column$cells))[column$index] & !is.na(row)
  code <- other$index[row]
  full <- full & !is.na(code) & nzchar(text_trim(other$cells))[code]
  if (sum(full) < 10) return(0)
  counts <- table(column$index[full], code[full])
  if (min(dim(counts)) < 2) return(0)
  min(sum(apply(counts, 1, max)), sum(apply(counts, 2, max))) / sum(counts)
}

# The coded file under the headings of the worded one.
under_base_names <- function(other, paired) {
  old <- c(paired$columns, paired$key)
  new <- c(names(paired$columns), paired$base_key)
  other$columns <- with_names(other$columns[old], new)
  other$names <- new
  other
}
