# Problems of a codebook are collected and reported together.

problem_collector <- function(document) {
  problems <- list()
  said <- character()
  list(
    say = function(path, message) {
      problems[[length(problems) + 1]] <<- list(path = path, message = message)
      invisible()
    },
    # TRUE the first time: what is the same for several problems is said once.
    once = function(what) {
      first <- !what %in% said
      said <<- c(said, what)
      first
    },
    count = function() length(problems),
    stop_if_any = function() {
      if (length(problems) > 0) stop_problems(problem_table(problems, document))
    }
  )
}

problem_table <- function(problems, document) {
  marks <- attr(document, "marks")
  file <- attr(document, "file")
  line <- vapply(problems, function(problem) {
    mark <- if (is.null(marks)) NULL else mark_of(marks, problem$path)
    if (is.null(mark)) NA_integer_ else mark$key_line
  }, 0L)
  place <- if (!is.null(marks$place)) vapply(
    problems, function(problem) paste0(mark_of(marks, problem$path)$place, ""), ""
  )
  out <- data.frame(
    file = if (is.null(file) || is.null(marks)) NA_character_ else basename(file), line = line,
    path = vapply(problems, function(problem) paste(problem$path, collapse = " > "), ""),
    message = vapply(problems, function(problem) problem$message, "")
  )
  out$place <- place
  unique(out)
}

stop_problems <- function(problems) {
  problems <- problems[order(problems$line, na.last = TRUE), , drop = FALSE]
  rownames(problems) <- NULL
  lines <- problem_lines(problems)
  head <- if (nrow(problems) > 1)
    paste0(count_of(nrow(problems), "problem"), " in the codebook:\n") else ""
  stop_mavik(
    "codebook_error", head, paste(lines, collapse = "\n"),
    facts = list(problems = problems, lines = lines)
  )
}

# A line each: file, line, path and what is wrong.
problem_lines <- function(problems) {
  where <- ifelse(
    is.na(problems$file), "in R:",
    ifelse(is.na(problems$line), problems$file, at_line(problems$file, problems$line))
  )
  if (!is.null(problems$place)) where <- ifelse(
    nzchar(problems$place), paste(problems$file, problems$place), problems$file
  )
  path <- ifelse(
    nzchar(problems$path), paste0(" ", problems$path, ":"), ifelse(is.na(problems$file), "", ":")
  )
  paste0(where, path, " ", problems$message)
}
