# Problems of raw files, look-ups and sheets are gathered and told together, each
# with the line of the codebook that names the file.

input_problems <- function(document) {
  problems <- list()
  note <- function(path, error) problems[[length(problems) + 1]] <<-
    list(path = path, error = error)
  list(
    # NULL where the work on one file stops with a problem of its own.
    collect = function(path, expr) tryCatch(expr, mavik_error = function(e) note_of(note, path, e)),
    say = function(path, ...) note_of(note, path, simpleError(paste0(...))),
    count = function() length(problems),
    stop_if_any = function() if (length(problems) > 0) stop_input(problems, document)
  )
}

note_of <- function(note, path, error) {
  note(path, error)
  NULL
}

stop_input <- function(noted, document) {
  errors <- lapply(noted, `[[`, "error")
  # What was told by itself already stands at its places.
  if (length(noted) == 1 && is.data.frame(errors[[1]]$problems)) stop(errors[[1]])
  problems <- do.call(rbind, lapply(noted, function(caught) {
    if (is.data.frame(caught$error$problems)) return(caught$error$problems)
    problem_table(list(list(path = caught$path, message = conditionMessage(caught$error))),
      document)
  }))
  problems <- problems[order(problems$line, na.last = TRUE), , drop = FALSE]
  lines <- problem_lines(problems)
  head <- if (length(lines) > 1) paste0(count_of(length(lines), "problem"),
    " in the raw files:\n") else ""
  first <- errors[[1]]
  class <- if (length(noted) == 1 && inherits(first, "mavik_error")) sub("^mavik_", "",
    class(first)[1]) else "build_error"
  facts <- if (length(noted) == 1) unclass(first)[setdiff(names(unclass(first)),
    c("message", "call"))]
  stop_mavik(class, head, paste(lines, collapse = "\n"),
    facts = c(facts, list(problems = problems, lines = lines)))
}

# Where a file is not, one of that name may stand elsewhere in the project.
check_stands <- function(file, book) {
  path <- export_path(list(file = file), book)
  if (file.exists(path)) return(invisible(TRUE))
  near <- nearest(basename(path), list.files(dirname(path)))
  other <- setdiff(same_name_elsewhere(basename(path), book$project), file)
  stop_mavik("read_error", file, ": no such file", if (!is.null(near)) {
    paste0("; did you mean `", file.path(dirname(file), near), "`?")
  }, if (length(other) > 0) paste0("; a file of this name stands at ", some_of(other, 3)))
}

same_name_elsewhere <- function(name, project, depth = 3) {
  folders <- open <- project
  for (level in seq_len(depth)) {
    open <- list.dirs(open, recursive = FALSE)
    open <- utils::head(open[!startsWith(basename(open), ".")], 200)
    folders <- c(folders, open)
  }
  files <- list.files(folders, full.names = TRUE)
  same_named <- files[text_fold(basename(files)) == text_fold(name)]
  sort_c(substring(same_named, nchar(project) + 2))
}

# A raw file may stand outside the project; whoever gets the project alone lacks it.
outside_findings <- function(export, book) {
  if (is.null(book$file) || !is.character(export$source) || is_inside(export$source,
    book$project)) return(list())
  list(new_finding("note", "outside_project", "", export$shown, 1, integer(),
    c("exports", export$entry, "file"),
    "stands outside the project folder: who gets the project without it cannot build"))
}

