# The contract of a reader. Each file of a format holds one object `reader_<name>`, made by
# `new_reader()`; whatever no other knows is delimited text.

new_reader <- function(
    # (source, first, entries) whether a source is of its kind: by its first eight bytes (NULL for
    # a data frame) and the names in it where it is a zip archive
    knows = function(source, first, entries) FALSE,
    # which options of an export mean something to it: those of "text", of a "sheet", or "none"
    laid_out = "none",
    # (source, options, shown) `heading`, the texts of its rows by their roles; `columns`, each its
    # distinct `cells` and an `index`, one a record (and their `kinds`); `lines` of the records
    read,
    # (path, sheet, shown) of a workbook: the `cells` and `merged` ranges of a sheet
    open = NULL,
    # (path, shown) of a workbook: the cells of all its sheets, by name
    sheets = NULL) as.list(environment())
