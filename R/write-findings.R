output_findings <- list(
  file = "findings.csv",
  write = function(study, path) write_csv(findings(study), path)
)
