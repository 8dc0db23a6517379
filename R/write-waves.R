# The statistics of each wave, a row each: ready to look up and plot. Only where a
# study has several waves.

output_waves <- list(
  file = "waves.csv",
  help = "shares, means and gaps of each wave",
  columns = c(
    variable = "the variable",
    wave = "the wave",
    group = "empty",
    n = "how many records",
    answered = "how many have a value",
    statistic = "`mean`, `sd`, `share` (percent of the answered) or `gap` (count)",
    code = "the code of a share",
    label = "its label, or that of the reason",
    value = "the value"
  ),
  wanted = function(study) has_waves(study),
  write = function(study, path) write_csv(told_statistics(study), path)
)

has_waves <- function(study) length(study$book$waves) > 1 &&
  length(unique(study$records$wave[rows_retained(study)])) > 1 &&
  length(compared_variables(study)) > 0
