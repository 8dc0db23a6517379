# Columns that a codebook does not know yet, drafted together: the items of a block, the boxes
# of a question, the rows of a grid are one entry.

# A list a new entry: its `name`, the `columns` it reads, its `lines` of text, `what` it is in
# words, and the shared code lists (`lists`) that it uses and the codebook lacks.
entries_beside <- function(seen, plan) {
  lapply(units_drafted(plan), function(unit) {
    part <- plan
    part$used <- unit
    part$blocks <- touching(plan$blocks, unit)
    part$sets <- touching(plan$sets, unit)
    lists <- Filter(
      function(list) any(list$columns %in% unit) && is_shared(list) && !isTRUE(list$known),
      plan$lists
    )
    named <- c(part$blocks, part$sets)
    list(
      name = if (length(named) > 0) named[[1]]$name else plan$names[[unit[1]]], columns = unit,
      lines = question_lines(seen, part), what = unit_words(part, unit, seen), lists = lists
    )
  })
}

# A plan for columns beside a codebook: under names that neither it nor what comes with them
# (`also`) has taken, with its code lists where they are the same.
plan_beside <- function(seen, book, also = NULL) {
  plan <- plan_draft(seen)
  taken <- c(names_taken(book), also)
  called <- function(units) vapply(units, `[[`, "", "name")
  own <- c(unname(plan$names), called(plan$blocks), called(plan$sets))
  fresh <- utils::tail(make.unique(c(taken, own), sep = "_"), length(own))
  rename <- function(units, names) Map(function(unit, name) {
    unit$name <- name
    unit
  }, units, names)
  count <- c(length(plan$names), length(plan$blocks), length(plan$sets))
  names <- split(fresh, factor(rep(seq_along(count), count), seq_along(count)))
  plan$blocks <- rename(plan$blocks, names[[2]])
  plan$sets <- rename(plan$sets, names[[3]])
  # The codebook's names are no column's; they keep options from taking them.
  plan$names <- c(
    with_names(names[[1]], names(plan$names)), with_names(taken, rep("", length(taken)))
  )
  plan$lists <- lists_beside(plan$lists, book, c(taken, fresh))
  plan$key <- "numbered"
  plan
}

names_taken <- function(book) c(
  names(book$variables), names(book$blocks), names(book$document$code_lists)
)

# The same list as one of the codebook's is that one; the others get names of their own.
lists_beside <- function(lists, book, taken) {
  known <- Filter(
    function(variable) is.character(variable$list) && !is.null(variable$codes),
    unname(book$variables)
  )
  same_as <- function(list) Find(function(variable) {
    if (!isTRUE(list$given)) return(setequal(
      text_fold(variable$codes$label), text_fold(list$labels)
    ))
    setequal(paste(variable$codes$code, text_fold(variable$codes$label)), paste(
      list$codes, text_fold(list$labels)
    ))
  }, known)
  same <- lapply(lists, same_as)
  fresh <- utils::tail(make.unique(c(taken, names(lists)), sep = "_"), length(lists))
  names <- vapply(seq_along(lists), function(k) if (is.null(same[[k]])) fresh[k] else
    same[[k]]$list, "")
  with_names(Map(function(list, met) {
    list$known <- !is.null(met)
    list
  }, lists, same), names)
}

# The columns of each entry, in the order of the file.
units_drafted <- function(plan) {
  together <- c(
    lapply(plan$blocks, `[[`, "columns"), lapply(plan$sets, function(set) c(set$columns, set$words))
  )
  of <- seq_along(plan$used)
  for (unit in together) of[plan$used %in% unit] <- min(which(plan$used %in% unit))
  unname(split(plan$used, of))
}

touching <- function(units, columns) Filter(function(unit) unit$columns[1] %in% columns, units)

unit_words <- function(part, unit, seen) {
  if (length(part$blocks) > 0) return(paste0(
    "a new block of ", count_of(length(unit), "item"), ": ", seen$columns[[unit[1]]]$grounds
  ))
  if (length(part$sets) == 0) return(paste0("a new question: ", seen$columns[[unit]]$grounds))
  set <- part$sets[[1]]
  if (set$kind != "ticks") return(paste0("a new grid of ", count_of(length(unit), "row")))
  paste0(
    "a new question of ", count_of(length(set$columns), "box", "boxes"),
    if (!is.null(set$words)) " with its write-in"
  )
}
