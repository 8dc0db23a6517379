output_ledger <- list(
  rows_alone = TRUE,
  file = "ledger.csv",
  help = "every intervention, in the order of the steps",
  columns = c(
    wave = "the wave",
    respondent = "the key",
    export = "the export",
    line = "where the record starts in the file; of a correction its row in the sheet",
    variable = "the variable",
    kind = "what was done (below)",
    rule = "the place in the codebook that asked for it",
    was = "the raw text, or the code or value before",
    was_reason = "the missing reason before",
    now = "the code or value after",
    now_reason = "the missing reason after",
    note = "a remark"
  ),
  write = function(study, path) write_csv_pieces(ledger_pieces(study), path)
)
