# The checked codebook, or book: what all rooms behind the codebook's work from.

new_book <- function(
    # the document as it was read, its project folder and its file (NULL for a list in R)
    document, project = NULL, file = NULL,
    # title and facts of the study; whether keys name the same person in every wave
    study = NULL, design = NULL,
    # by name: waves in their order, exports in the order of their waves, look-up files
    waves = NULL, exports = NULL, lookups = NULL,
    # missing reasons in their order, code lists and instruments by name
    reasons = NULL, lists = NULL, instruments = NULL,
    # variables by name (`new_variable()`), the names that each block or set holds, names
    # of entries that could not be read
    variables = NULL, blocks = NULL, unread = NULL,
    # the variables that each is made of, the order in which they are made, whether that
    # goes in a circle
    uses = NULL, order = NULL, circular = NULL,
    # the texts of named conditions
    subsets = NULL,
    # rules and screens by name; the nodes of the work in their order, and what each needs
    rules = NULL, screens = NULL, work = NULL, work_uses = NULL,
    # what is done with repeated records, the variables that make a record complete
    duplicates = NULL, complete = NULL,
    # the sheet of each further language; what they say, as read; the language that texts
    # are in (NULL: the first)
    translations = NULL, spoken = NULL, language = NULL,
    # tables that are made anew with each build (`new_declared()`), by name
    declared = NULL,
    # what is handed on to whom (`new_release()`), by name
    releases = NULL,
    # the files of corrections, the findings that a person has looked at
    corrections = NULL, accepted = NULL,
    # the look-up files as read, by name; whether coding sheets are about to be written
    tables = NULL, uncoded = NULL,
    # the folder in which a large build's columns wait (NULL: all are in memory)
    held = NULL) {
  said_fields(environment())
}
