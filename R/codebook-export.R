# An export as the codebook has it, and where a build finds it.

new_export <- function(
    # its name, the entry it stands under (several, where a pattern names many files)
    name, entry = name,
    # what it is called before a pattern of files is spread: versions hold by this name
    unspread = name,
    # its wave; the export that it adds to
    wave = NULL, adds_to = NULL,
    # where a column tells the waves apart: the column and the texts of each wave
    apart = NULL,
    # the file as the codebook writes it, or what it is called; its path or data frame
    file = NULL, shown = NULL, source = NULL,
    # its layout
    heading = NULL, skip = NULL, delimiter = NULL, decimal = NULL, encoding = NULL,
    sheet = NULL, dates = NULL, language = NULL,
    # columns with the respondent's key and the response's number, and those passed over
    key = NULL, response = NULL, ignored = NULL,
    # what coded answers look like, and whether the codebook says so
    cells = NULL, cells_said = NULL,
    # of a sheet into which answers from paper were typed: the questions that stand in it
    typed = NULL) {
  said_fields(environment())
}
