# What people decided of a new wave: in the sheet, or in the codebook already.

check_decisions <- function(decisions) {
  if (is.null(decisions)) return()
  lacking <- setdiff(
    c("match", "column", "wording", "variable", "writes", "decision"), names(decisions)
  )
  if (!is.data.frame(decisions) || length(lacking) > 0) stop_mavik("usage_error",
    "`decisions` is a data frame as `read_decisions()` gives it; ",
    if (is.data.frame(decisions)) paste0("it lacks ", some_of(lacking)) else "this is none")
}

# Columns that a person assigned, from the sheet: beside a column stands the variable that it is,
# beside a question the column in which it stands.
forced_pairs <- function(decisions, own, study) {
  if (is.null(decisions)) return(list())
  places <- which(!decisions$decision %in% c("", "accept", "reject"))
  variables <- names(study$book$variables)
  columns <- own$export$names
  said <- decisions[places, ]
  by_variable <- said$decision %in% variables & said$column %in% columns
  by_column <- !by_variable & said$decision %in% columns & said$variable %in% variables
  place <- if (is.null(attr(decisions, "places"))) rep("the sheet", length(places)) else
    attr(decisions, "places")[places]
  for (odd in which(!by_variable & !by_column)) {
    known <- said$decision[odd] %in% c(variables, columns)
    stop_mavik(
      "build_error", place[odd], ": ", if (known) paste0(
        "the line is given to `", said$decision[odd], "`, but `",
        if (said$decision[odd] %in% variables) said$column[odd] else said$variable[odd],
        "` is no single ", if (said$decision[odd] %in% variables) "column of the new file" else
          "variable", ": `accept` or `reject` it"
      ) else paste0(
        "the decision `", said$decision[odd], "` is neither `accept` nor `reject` nor a variable ",
        "of this codebook nor a column of the new file",
        did_you_mean(said$decision[odd], c(variables, columns))
      )
    )
  }
  as.list(with_names(
    ifelse(by_variable, said$decision, said$variable),
    ifelse(by_variable, said$column, said$decision)
  ))
}

# What the codebook says of the wave already: columns that are named, questions that are absent.
decided_pairs <- function(document, wave, slots) {
  # Of a new wave nothing is decided yet.
  if (!wave %in% names(document$waves)) return(list())
  book <- compile_codebook(document)
  exports <- platform_exports(Filter(
    function(export) identical(export$wave, wave), book$exports
  ))
  if (length(exports) == 0) return(list())
  out <- lapply(slots, function(slot) {
    variable <- book$variables[[slot$variable]]
    version <- if (!is.null(variable)) version_in(variable, exports[[1]])
    if (is.null(version)) return(NULL)
    columns <- if (!is_absent(version)) way_of(version)$reads(version)
    if (!slot$role %in% names(columns)) return(list(absent = TRUE))
    list(
      absent = FALSE, column = columns[[slot$role]], version = version,
      said = !is.null(variable$versions)
    )
  })
  attr(out, "ignored") <- unique(unlist(lapply(exports, `[[`, "ignored")))
  attr(out, "variables") <- unlist(lapply(book$variables, columns_in, export = exports[[1]]))
  out
}
