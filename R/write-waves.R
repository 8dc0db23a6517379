# The figures of each wave, a row each: ready to look up and plot. Only where a
# study has several waves.

output_waves <- list(
  file = "waves.csv",
  wanted = function(study) has_waves(study),
  write = function(study, path) write_csv(wave_figures(study), path)
)

has_waves <- function(study) length(unique(study$records$wave[rows_staying(study)])) > 1 && length(compared_variables(study)) > 0
