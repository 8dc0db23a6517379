# Columns that only the new file has: what platforms add is ignored, questions become variables.

new_lines <- function(pairs, own, study) {
  seen <- own$seen
  seen$columns <- seen$columns[intersect(names(seen$columns), own$extra)]
  if (length(seen$columns) == 0) return(list())
  seen$cells <- own$cells
  plan <- plan_beside(seen, study$book, if (length(own$known) == 0) wave_name(study$book))
  c(
    lapply(setdiff(own$extra, plan$used), ignored_line, own = own, seen = seen, study = study),
    new_entry_lines(entries_beside(seen, plan), pairs, own, study)
  )
}

# Each behind the question that stands before it in the file, or the new one that does.
new_entry_lines <- function(drafted, pairs, own, study) {
  place <- vapply(drafted, function(drafted_column) paste0(
    variable_before(drafted_column$columns[1], pairs, own, study), ""
  ), "")
  called <- vapply(drafted, `[[`, "", "name")
  lapply(seq_along(drafted), function(k) new_entry_line(drafted[[k]], c(
    rev(called[seq_len(k - 1)][place[seq_len(k - 1)] == place[k]]), place[k]
  ), own, study))
}

ignored_line <- function(column, own, seen, study) new_line(
  "only_new", "", list(new_edit(
    c("exports", export_names(own, study)[1], "ignored"), column
  )), column, paste("to be ignored:", seen$columns[[column]]$grounds),
  wording = own$export$questions[[column]]
)

# The drafted entry, absent in all earlier waves, with the code lists that it brings.
new_entry_line <- function(drafted, place, own, study) {
  entry <- parsed_entry(drafted$lines)
  absent <- with_names(rep(list("absent"), length(study$book$waves)), names(study$book$waves))
  lists <- lapply(names(drafted$lists), function(name) new_edit(
    c("code_lists", name), list(codes = as.list(with_names(
      text_squeeze(drafted$lists[[name]]$labels), drafted$lists[[name]]$codes
    )))
  ))
  new_line(
    "only_new", drafted$name, c(lists, list(new_edit(
      c("variables", drafted$name), c(entry, list(by_wave = absent)), place
    ))), paste(drafted$columns, collapse = ", "), drafted$what,
    sure = !grepl(paste(either_end, far_end, sep = "|"), drafted$what),
    wording = own$export$questions[[drafted$columns[1]]]
  )
}

parsed_entry <- function(lines) {
  text <- paste(c("variables:", lines), collapse = "\n")
  yaml::yaml.load(text, handlers = text_handlers, eval.expr = FALSE)$variables[[1]]
}

# The entry of the question that stands before the column in the new file.
variable_before <- function(column, pairs, own, study) {
  places <- match(vapply(pairs, function(pair) paste0(pair$column, ""), ""), own$export$names)
  before <- which(!is.na(places) & places < match(column, own$export$names))
  if (length(before) == 0) return(NULL)
  entry_path_of(plain_of(pairs[[before[which.max(places[before])]]], study))[2]
}
