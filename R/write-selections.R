# A row for each respondent and option that was ticked, of all questions with
# several answers: ready to count and plot. Only where a study has such questions.

output_selections <- list(
  file = "selections.csv",
  help = "a row for each ticked option of questions with several answers",
  columns = c(
    wave = "the wave",
    respondent = "the key",
    question = "the question",
    option = "the variable of the option",
    label = "its label"
  ),
  wanted = function(study) length(selection_sets(study)) > 0,
  write = function(study, path) write_csv(selections(study), path)
)

selection_sets <- function(study) {
  kept <- kept_variables(study$book)
  Filter(
    function(carrier) any(study$book$blocks[[carrier$name]] %in% kept),
    Filter(function(variable) isTRUE(variable$carrier), study$book$variables)
  )
}

selections <- function(study) {
  kept <- kept_variables(study$book)
  rows <- rows_retained(study)
  parts <- lapply(selection_sets(study), function(carrier) {
    options <- intersect(study$book$blocks[[carrier$name]], kept)
    ticked <- lapply(options, function(option) rows[study$data[[option]][rows] %in% 1L])
    row <- unlist(ticked)
    list(
      row = row, question = rep(carrier$name, length(row)), option = rep(options, lengths(ticked)),
      label = rep(vapply(study$book$variables[options], `[[`, "", "label"), lengths(ticked))
    )
  })
  all <- lapply(
    c(row = "row", question = "question", option = "option", label = "label"),
    function(name) unlist(lapply(parts, `[[`, name), use.names = FALSE)
  )
  order <- order(all$row, match(all$question, names(study$book$variables)))
  who <- respondents_shown(study)
  out <- data.frame(
    wave = study$records$wave[all$row],
    respondent = if (length(all$row) == 0) character() else who(all$row), question = all$question,
    option = all$option, label = all$label
  )[order, ]
  rownames(out) <- NULL
  out
}
