# The built study.

new_study <- function(
    # values and reasons, a row a record; wave, key, export and line of each record
    data, reasons, records,
    # the document and the book it was built by
    codebook,
    # findings (`new_finding()`) and entries of the ledger (`new_entry()`)
    findings, ledger,
    # headings of each export, facts of the raw files and of the sheets
    asked, inputs, sheets, book,
    # the rows that are retained (NULL: all), and what became of each
    retained = NULL, disposition = NULL,
    # the rows that meet each screen; how many each purged, and who (while it is built)
    screens = NULL, erased = NULL, purged = NULL,
    # how skips were kept and rules met, by variable and rule
    skips = NULL, checked = NULL,
    # where each record stands in the raw files; what was noticed of the project
    index = NULL, notes = NULL,
    # of a part of the records: its rows, and how they were chosen
    chosen = NULL, choice = NULL,
    # the language of the pages that are written, where it is not the first
    language = NULL,
    # what pages count; the declared tables as counted and the table of findings, while outputs are
    # written; raw cells of one person; how far waves may differ
    tallies = NULL, tabulated = NULL, told = NULL, sources = NULL, wave_change = NULL) {
  structure(said_fields(environment()), class = "mavik_study")
}
