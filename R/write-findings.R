output_findings <- list(
  file = "findings.csv",
  help = "what a person should look at",
  columns = c(
    level = "`error`, `warning` or `note`",
    kind = "what it is (below)",
    variable = "the variable",
    written = "the text it is about",
    count = "how many cells, records or columns",
    examples = "up to five respondents",
    path = "the place in the codebook",
    message = "what it is and what to do",
    accepted = "the note of the entry of `accepted`"
  ),
  write = function(study, path) write_csv(findings(study), path)
)
