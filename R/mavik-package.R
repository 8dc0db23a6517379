#' Mavik: raw questionnaire exports to documented analysis files
#'
#' Start with [demo_project()], which lays out a small made-up study, then
#' [read_codebook()], [build_study()] and [write_study()].
#'
#' @keywords internal
#' @useDynLib mavik, .registration = TRUE
"_PACKAGE"

# Columns of the figures' data, named in `aes()`.
utils::globalVariables(c(
  "at", "band", "blank", "code", "count", "from", "group", "half", "high", "item", "item_rest",
  "label", "line", "low", "option", "part", "percent", "place", "question", "run", "share", "to",
  "value"
))
