# The record of a release: what it was made of and what it holds. No clock, no place, and nothing
# of what does not go out.

release_record <- function(edition, folder, language = NULL) {
  study <- edition$study
  release <- edition$release
  files <- sort_c(list.files(folder))
  plain <- Filter(length, list(
    name = release$name, label = release$label, waves = as.list(release$waves),
    where = study$choice$where, values = release$values, gaps = release$gaps,
    formats = as.list(release$formats), scripts = as.list(release$scripts),
    with = as.list(release$with), schema = release$schema, changed = lapply(
      seq_len(NROW(edition$changes)), function(row) as.list(edition$changes[row, ])
    )
  ))
  record <- list(
    mavik = as.character(utils::packageVersion("mavik")),
    study = Filter(Negate(is.null), study$book$study[c("title", "id")]),
    release = plain, records = edition$n, variables = as.list(edition$names),
    inputs = lapply(unname(study$inputs), function(input) Filter(Negate(is.null), list(
      export = input$export, file = if (is.null(input$file)) NULL else basename(input$file),
      records = input$records, blake2b = input_digest(input, study$book)
    ))),
    outputs = lapply(with_names(files, files), function(name) {
      path <- file.path(folder, name)
      list(bytes = file.size(path), blake2b = file_digest(path))
    })
  )
  record$language <- language
  record
}

# A study that was asked for its digests knows them already.
input_digest <- function(facts, book) {
  if (!is.null(facts$blake2b) || is.null(facts$file)) return(facts$blake2b)
  path <- export_path(list(file = facts$file), book)
  if (file.exists(path)) file_digest(path)
}
