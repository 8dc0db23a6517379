# What a build was made of and what it made: version, inputs, codebook, outputs.
# No clock and no place, so that equal builds have equal records.

output_provenance <- list(
  file = "provenance.json",
  help =
    paste0(
      "what this build was made of: version, digests of all inputs and outputs, the codebook as ",
      "built"
    ),
  last = TRUE,
  write = function(study, path, sums = list()) write_record(
    provenance_of(study, dirname(path), sums), path
  )
)

write_record <- function(record, path) write_checked(line_bytes(jsonlite::toJSON(
  record, auto_unbox = TRUE, pretty = TRUE, digits = NA
)), path)

# `folder` holds the outputs that were written before, `sums` give their digests.
provenance_of <- function(study, folder, sums) {
  told <- findings(study)
  open <- open_findings(told)
  record <- list(
    mavik = as.character(utils::packageVersion("mavik")),
    inputs = lapply(unname(study$inputs), function(facts) Filter(Negate(is.null), facts)),
    sheets = lapply(unname(study$sheets), function(facts) Filter(Negate(is.null), facts)),
    codebook = record_codebook(study), dispositions = as.list(disposition_counts(study)),
    respondents = n_retained(study), variables = length(kept_variables(study$book)),
    findings = c(
      as.list(table(factor(open$level, c("error", "warning", "note")))),
      list(accepted = sum(nzchar(told$accepted)))
    ),
    interventions = as.list(interventions(study))
  )
  record$outputs <- record_outputs(folder, sums)
  record$chosen <- study$choice
  record$language <- study$language
  record
}

# Waits for what is still being written, so it comes last.
record_outputs <- function(folder, sums) {
  force(sums)
  files <- sort_c(list.files(folder))
  lapply(with_names(files, files), function(name) {
    path <- file.path(folder, name)
    c(list(bytes = file.size(path)), if (!is.null(sums[[name]])) list(blake2b = sums[[name]]()))
  })
}

# The document as built; the file and its digest where it was built as it stands there.
record_codebook <- function(study) {
  digest <- attr(study$codebook, "digest")
  file <- if (!is.null(digest)) list(
    file = basename(attr(study$codebook, "file")), blake2b = digest
  )
  c(file, list(document = unclass_document(study$codebook)))
}

# Rows of the ledger by kind.
interventions <- function(study) {
  kinds <- vapply(study$ledger, `[[`, "", "kind")
  rows <- vapply(
    study$ledger,
    function(entry) if (is.null(study$chosen)) length(entry$rows) else
      sum(entry$rows %in% study$chosen),
    0L
  )
  counts <- vapply(names(ledger_kinds), function(kind) sum(rows[kinds == kind]), 0L)
  counts[counts > 0]
}
