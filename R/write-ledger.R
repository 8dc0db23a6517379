output_ledger <- list(
  file = "ledger.csv",
  write = function(study, path) write_csv(ledger(study), path)
)
