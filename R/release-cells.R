# Combinations that few respondents share, and what is done with them.

# Gives the study, the keys of its records, `changes` and how many respondents were `rare`.
smallest_cells <- function(study, keys, release) {
  cell <- release$disclosure$smallest
  if (is.null(cell)) return(list(study = study, keys = keys, changes = NULL, rare = 0L))
  rare <- rare_rows(study, keys, cell)
  if (length(rare) == 0) return(list(study = study, keys = keys, changes = NULL, rare = 0L))
  people <- length(unique(keys[rare]))
  row <- function(change, cells) data.frame(
    variable = paste(cell$of, collapse = " "), change = change, cells = cells
  )
  if (identical(cell$rare, "accepted")) return(list(
    study = study, keys = keys, rare = people,
    changes = row(paste0("rare combinations accepted: ", cell$note), 0L)
  ))
  if (is.null(cell$rare)) stop_rare(people, cell, release)
  if (cell$rare == "drop") {
    left <- setdiff(seq_along(keys), rare)
    if (length(left) == 0) stop_mavik(
      "release_error", at_cell(release), ": every combination of ", some_of(cell$of),
      " is rarer than ", cell$at_least, ": nobody would be left; make the variables coarser"
    )
    return(list(
      study = rows_of_study(study, left), keys = keys[left], rare = people,
      changes = row("records with rare combinations dropped", length(rare))
    ))
  }
  stop_telling(emptied_problems(study, release), study)
  for (name in cell$blank) study <- blanked(study, name, rare)
  still <- rare_rows(study, keys, cell)
  if (length(still) > 0) stop_rare(length(unique(keys[still])), cell, release, cell$blank)
  list(
    study = study, keys = keys, rare = people,
    changes = row(paste("emptied in rare combinations:", some_of(cell$blank, quote = FALSE)),
      length(rare) * length(cell$blank))
  )
}

at_cell <- function(release) paste("releases >", release$name, "> disclosure > smallest_cell")

stop_rare <- function(people, cell, release, blank = NULL) stop_mavik(
  "release_error", at_cell(release), ": ", count_of(people, "respondent"),
  if (people == 1) " is" else " are", " in combinations of ", some_of(cell$of),
  " that fewer than ", cell$at_least, " share", if (!is.null(blank)) paste0(
    ", even with ", some_of(blank), " emptied"
  ), "; say `rare: drop`, `rare: blank` with the variables to empty, or `rare: accepted` with a ",
  "note; or make the variables coarser"
)

# Rows of combinations that fewer respondents share than asked for; each reason of a gap is one
# value among others.
rare_rows <- function(study, keys, cell) {
  group <- combination_of(lapply(cell$of, function(name) value_or_reason(study, name)))
  person <- combination_of(list(group, match(keys, unique(keys))))
  first <- !duplicated(person)
  count <- tabulate(group[first], max(group, 0L))
  which(count[group] < cell$at_least)
}

# Distinct values and reasons as numbers.
value_or_reason <- function(study, name) {
  value <- study$data[[name]]
  reason <- study$reasons[[name]]
  place <- match(value, unique(value))
  if (is.null(reason)) place else ifelse(is.na(reason), place, -as.integer(reason))
}

combination_of <- function(columns) Reduce(function(first, other) {
  other <- match(other, unique(other))
  pair <- (as.double(first) - 1) * max(other, 1L) + other
  match(pair, unique(pair))
}, columns, rep(1L, length(columns[[1]])))

blanked <- function(study, name, rows) {
  study$data[[name]][rows] <- NA
  reason <- study$reasons[[name]]
  if (is.null(reason)) reason <- factor(rep(NA, nrow(study$data)), study$book$reasons$name)
  reason[rows] <- "set_aside"
  study$reasons[[name]] <- reason
  study
}
