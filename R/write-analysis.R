output_analysis <- list(
  file = "analysis.csv",
  write = function(study, path) write_csv(study_table(study, values = "codes", gaps = "na"), path)
)
