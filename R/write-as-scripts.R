# Scripts that load the files of `csv` as they lie, wherever their folder does.

script_files <- c(R = "load.R", Python = "load.py")

write_scripts <- function(edition, folder) {
  for (file in script_files[edition$release$scripts]) write_checked(
    readBin(release_file(file), "raw", 1e6), file.path(folder, file)
  )
}

release_file <- function(name) system.file("release", name, package = "mavik", mustWork = TRUE)

# The ledger of what goes out: rows of its records and variables, and no others.
write_released_ledger <- function(edition, folder) {
  study <- edition$study
  study$ledger <- Filter(function(entry) entry$variable %in% edition$names, study$ledger)
  study$chosen <- rows_retained(study)
  told <- ledger(study)
  place <- match(
    joined_id(told$export, told$line),
    joined_id(study$records$export, study$records$line)[study$chosen]
  )
  told <- as.list(told)
  beside <- lapply(edition$records, function(column) column[place])
  write_csv(
    c(beside, told[setdiff(names(told), c("wave", "respondent", "export", "line"))]),
    file.path(folder, "ledger.csv")
  )
}
