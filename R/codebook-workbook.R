is_workbook <- function(path) grepl("[.](xlsx|ods)$", path, ignore.case = TRUE)
