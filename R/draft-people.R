# Whether a key that stands in several files or waves is the same person: stable answers
# (sex, birth year, town) agree then far beyond chance.

# `key` and `part` of each record, `columns` with cells and index. Gives the `verdict`
# (`panel`, `repeated`, `open`, or `apart` where no key is shared) and its `ground`.
people_compared <- function(key, part, columns) {
  pairs <- pairs_of_people(key, part)
  if (length(pairs$one) == 0) return(list(verdict = "apart", ground = "no key stands in two"))
  seen <- Filter(Negate(is.null), lapply(columns, agreement_of, pairs = pairs))
  if (length(seen) == 0) return(list(
    verdict = "open",
    ground = paste(count_of(length(pairs$one), "key"), "in two, nothing to compare")
  ))
  kappa <- vapply(seen, `[[`, 0, "kappa")
  best <- seen[[which.max(kappa)]]
  ground <- paste0(
    count_of(length(pairs$one), "key"), " in two; \u201c", names(seen)[which.max(kappa)],
    "\u201d agrees in ", number_show(100 * best$agree, 0), " %, by chance ",
    number_show(100 * best$chance, 0), " %"
  )
  list(
    verdict = if (max(kappa) >= 0.75) "panel" else if (max(kappa) < 0.3) "repeated" else "open",
    ground = ground
  )
}

# Neighbouring records of one key in different parts.
pairs_of_people <- function(key, part) {
  sorting <- order(key, part)
  here <- sorting[-length(sorting)]
  after <- sorting[-1]
  same <- !is.na(key[here]) & nzchar(key[here]) & key[here] == key[after] &
    part[here] != part[after]
  list(one = here[same], other = after[same])
}

agreement_of <- function(column, pairs) {
  cells <- text_fold(column$cells)
  size <- length(cells)
  if (size < 2 || size > 200) return(NULL)
  place <- match(cells, cells)[column$index]
  full <- nzchar(cells)[column$index]
  both <- full[pairs$one] & full[pairs$other]
  if (sum(both) < 10) return(NULL)
  mine <- place[pairs$one[both]]
  other <- place[pairs$other[both]]
  chance <- sum(tabulate(mine, size) / length(mine) * tabulate(other, size) / length(other))
  if (chance > 0.9) return(NULL)
  agree <- mean(mine == other)
  list(agree = agree, chance = chance, kappa = (agree - chance) / (1 - chance))
}
