# Columns that belong to questions of the codebook, as lines of the codebook.

# Where a column has another name than the plain entry says, or is for a person to judge: a question
# with several columns is one line.
column_lines <- function(pairs, own, study) {
  moved <- Filter(function(pair) !is.na(pair$column) && (
    pair$match == "possible" || !identical(pair$column, read_in_wave(pair, study))
  ), pairs)
  several <- vapply(moved, function(pair) holds_several(plain_of(pair, study)), TRUE)
  unit <- ifelse(
    several, vapply(moved, function(pair) pair$slot$variable, ""), paste(seq_along(moved), "alone")
  )
  unname(lapply(split(moved, factor(unit, unique(unit))), function(same) {
    first <- same[[1]]
    matches <- vapply(same, `[[`, "", "match")
    match <- if (any(matches == "possible")) "possible" else
      if (any(matches == "decided")) "decided" else "rule"
    grounds <- unique(vapply(
      same, function(pair) if (nzchar(pair$grounds)) pair$grounds else pair$rule, ""
    ))
    new_line(match, first$slot$variable, column_edits(same, pairs, own, study),
      paste(vapply(same, `[[`, "", "column"), collapse = ", "), paste(grounds, collapse = "; "),
      unlist(lapply(same, `[[`, "candidates")),
      sure = match != "possible", wording = own$export$questions[[first$column]])
  }))
}

column_edits <- function(moved, pairs, own, study) {
  edit_of <- function(variable, value) new_edit(
    c(entry_path_of(variable), "by_wave", own$wave), value)
  variable <- plain_of(moved[[1]], study)
  if (holds_several(variable)) return(list(edit_of(
    variable, list(split = split_columns(variable, moved, pairs))
  )))
  members <- c(list(moved[[1]]$slot["variable"]), moved[[1]]$slot$also)
  lapply(members, function(member) {
    variable <- study$book$variables[[member$variable]]
    edit_of(
      variable,
      if (holds_one(variable)) list(column = moved[[1]]$column) else
        list(other = utils::modifyList(
          study$book$document$variables[[variable$with]]$other, list(column = moved[[1]]$column)
        ))
    )
  })
}

# The columns of a question with several answers; of boxes all that the new file has.
split_columns <- function(variable, moved, pairs) {
  roles <- with_names(
    lapply(moved, `[[`, "column"), vapply(moved, function(pair) pair$slot$role, "")
  )
  out <- list()
  if (!is.null(roles$cell)) out$column <- roles$cell
  if (length(setdiff(names(roles), c("cell", ".written"))) > 0) out$columns <- boxes_there(
    variable, pairs
  )
  if (!is.null(roles$.written)) out$other <- c(
    variable$settings$other[intersect(
      c("flag", "text", "label"), names(Filter(Negate(is.null), variable$settings$other))
    )],
    list(column = roles$.written)
  )
  out
}

boxes_there <- function(variable, pairs) {
  own <- Filter(
    function(pair) pair$slot$variable == variable$name && !is.na(pair$column) &&
      pair$slot$role != ".written",
    pairs
  )
  with_names(lapply(own, `[[`, "column"), vapply(own, function(pair) pair$slot$role, ""))
}

# The column that would be read if nothing more were said.
read_in_wave <- function(pair, study) {
  if (pair$match %in% c("already_decided", "already_absent")) return(pair$column)
  reads <- way_of(plain_of(pair, study))$reads(plain_of(pair, study))
  if (pair$slot$role %in% names(reads)) reads[[pair$slot$role]] else NA
}

# A question that only may be the one before, in a column of its name: with nothing said it would be
# read as that.
keeps_name <- function(pair, study) pair$match == "possible" &&
  identical(pair$column, read_in_wave(pair, study))

# Those of which a person said that they are another question.
without_rejected <- function(paired, decisions, study) {
  said <- decisions[decisions$decision == "reject" & decisions$match == "possible", ]
  for (k in seq_along(paired$pairs)) {
    pair <- paired$pairs[[k]]
    if (!keeps_name(pair, study)) next
    if (!any(said$column == pair$column & said$variable == pair$slot$variable)) next
    paired$extra <- c(paired$extra, pair$column)
    paired$pairs[[k]] <- new_pair(pair$slot)
    paired$pairs[[k]]$match <- "only_codebook"
  }
  paired
}

entry_path_of <- function(variable) if (is.null(variable$with)) variable$path else c(
  "variables", variable$with
)

# Where the options of a question stand: a grid has them once, at its block.
options_path_of <- function(variable, study) {
  entry <- study$book$document$variables
  for (key in variable$path[-1]) entry <- entry[[key]]
  if (!is.null(variable$block) && is.null(at_key(entry$split, "options"))) c(
    "variables", variable$block, "split", "options"
  ) else c(entry_path_of(variable), "split", "options")
}
