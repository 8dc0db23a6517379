output_analysis <- list(
  rows_alone = TRUE,
  file = "analysis.csv",
  help = "the analysis file: the kept variables in codes, gaps empty",
  write = function(study, path) {
    write_csv(unclass(study$data)[kept_variables(study$book)], path, study$retained)
  }
)
