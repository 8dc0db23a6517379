# The same rows as the analysis file, with the reason's code in each gap.

output_gaps <- list(
  file = "gaps.csv",
  write = function(study, path) {
    records <- lapply(study$records, staying, study)
    respondent <- if (key_is_private(study$book)) rep(masked, length(records$key)) else records$key
    names <- intersect(kept_variables(study$book), names(study$reasons))
    codes <- lapply(study$reasons[names], function(reason) study$book$reasons$code[as.integer(staying(reason, study))])
    write_csv(c(list(wave = records$wave, respondent = respondent, export = records$export, line = records$line), codes), path)
  }
)
