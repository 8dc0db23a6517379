# The same rows as the analysis file, with the reason's code in each gap.

output_gaps <- list(
  rows_alone = TRUE,
  file = "gaps.csv",
  help =
    paste0(
      "the same rows: the code of the missing reason in each gap, and a column for each variable ",
      "that has gaps"
    ),
  columns = c(
    wave = "the wave",
    respondent = "the key",
    export = "the export",
    line = "where the record starts in the file"
  ),
  write = function(study, path) {
    records <- study$records
    respondent <- if (key_is_private(study$book)) rep(masked, length(records$key)) else records$key
    names <- intersect(kept_variables(study$book), names(study$reasons))
    codes <- number_to_text(study$book$reasons$code)
    coded <- lapply(
      unclass(study$reasons)[names], seen_as, attributes = list(levels = codes, class = "factor")
    )
    write_csv(
      c(
        list(
          wave = records$wave, respondent = respondent, export = records$export, line = records$line
        ),
        coded
      ),
      path, study$retained
    )
  }
)
