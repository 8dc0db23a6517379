command_view <- list(
  place = 6.5,
  summary = "Write a page of the data: every answer, with filters and the story of each cell",
  arguments = "[PROJECT]", most = 1, example = "mavik view choirs",
  options = function() list(
    value_option("--out", "FILE", "where to write, .html (default: view.html in the project)"),
    value_option("--where", "CONDITION", "only the records for which it is true, 'years > 10'"),
    value_option(
      "--variables", "NAMES", "variables and blocks that are on it (default: all but private ones)"
    ),
    value_option("--sample", "N", "how many records at most (default: 20000)"),
    replace_option(), json_option()
  ),
  json = list(
    "view" = c(
      file = "the page", records = "how many records are on it", of = "how many were chosen",
      sampled = "whether those on it are a sample of them", variables = "how many are shown",
      bytes = "its size"
    )
  ),
  run = function(given) {
    project <- if (length(given$args) == 0) "." else given$args
    sample <- if (!is.null(given$sample)) whole_given(given$sample, "--sample")
    done <- view_study(
      project, given$out, given$where, words_of(given$variables), sample,
      replace = given$replace
    )
    show_lines(if (given$json) json_of(done) else view_told(done))
    0L
  }
)

view_told <- function(done) c(
  paste0("The page of the data is written (", shown_size(done$bytes), ")"),
  paste0("  ", count_of(done$records, "record"), " by ", count_of(done$variables, "variable")),
  if (done$sampled) paste0(
    "  a sample of ", count_of(done$of, "record"), ", at even distances; --where chooses others"
  ),
  paste0("Open ", done$file, " in a browser; it needs no network.")
)
