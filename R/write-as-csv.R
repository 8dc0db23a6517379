# The data as comma-separated text, with three tables that describe it.

format_csv <- new_format(
  help = paste0(
    "`analysis.csv`, `gaps.csv` (the code of the reason in each gap of the same records), and ",
    "`variables.csv`, `codes.csv`, `missing.csv`, which describe them"
  ),
  cannot = paste0(
    "types: whoever reads it must say that keys are texts (the scripts and `datapackage` do)"
  ),
  files = function(edition) c(
    "analysis.csv", "gaps.csv", "variables.csv", "codes.csv", "missing.csv"
  ),
  write = function(edition, folder) {
    put <- function(table, file) write_csv(table, file.path(folder, file))
    put(edition_table(edition), "analysis.csv")
    put(edition_gaps(edition), "gaps.csv")
    put(describe_variables(edition), "variables.csv")
    put(describe_codes(edition), "codes.csv")
    put(describe_missing(edition), "missing.csv")
  },
  back = function(edition, folder) {
    whole <- with_names(ifelse(vapply(edition$names, function(name) is_coded(edition_variable(
      edition, name
    )), TRUE) & edition$release$values == "codes" & edition$release$gaps %in% c("empty", "beside"),
      "integer", "character"), edition$names)
    coded <- setdiff(edition$names, names(edition$records))
    held <- one_held()
    data <- function() held("analysis.csv", function(file) read_written(
      file.path(folder, file), whole
    ))
    gaps <- function() held("gaps.csv", function(file) read_written(
      file.path(folder, file), with_names(rep("integer", length(coded)), coded)
    ))
    list(
      n = nrow(data()), names = setdiff(names(data()), paste0(edition$names, ".gap")),
      value = function(name) data()[[name]],
      reason = function(name) gap_column(function(name) gaps()[[name]], name, edition)
    )
  }
)

# A file that was just written, read by another reader than ours: texts, or the `types` said. What
# stands in quotes it leaves with its quotes doubled.
read_written <- function(file, types = character()) {
  heads <- names(data.table::fread(file, nrows = 0, sep = ",", encoding = "UTF-8"))
  said <- ifelse(heads %in% names(types), types[heads], "character")
  data <- data.table::fread(
    file, sep = ",", header = TRUE, colClasses = with_names(said, heads), encoding = "UTF-8",
    na.strings = "", quote = "\"", strip.white = FALSE, blank.lines.skip = FALSE,
    showProgress = FALSE, data.table = FALSE
  )
  for (name in heads[said == "character"]) {
    odd <- grep("\"\"", data[[name]], fixed = TRUE)
    if (length(odd) > 0) data[[name]][odd] <- gsub("\"\"", "\"", data[[name]][odd], fixed = TRUE)
  }
  data
}
