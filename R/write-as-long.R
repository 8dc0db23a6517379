# A row per respondent, variable and value; gaps are rows with their reason.

format_long <- new_format(
  help = paste0(
    "`long.csv`: a row per record and variable with `value` (the code, the number, the text), ",
    "`label`, and `gap` (the reason where there is no value)"
  ),
  cannot = "what describes the variables (take `csv` beside it); levels of measurement",
  files = function(edition) "long.csv",
  write = function(edition, folder) {
    path <- file.path(folder, "long.csv")
    for (name in edition$names) data.table::fwrite(
      long_rows(edition, name), path, append = name != edition$names[1], quote = "auto",
      na = "", eol = "\n", showProgress = FALSE
    )
  },
  back = function(edition, folder) {
    read <- read_written(file.path(folder, "long.csv"))
    known <- unique(read$variable)
    list(
      n = if (length(known) == 0) 0L else nrow(read) / length(known), names = known, codes = TRUE,
      value = function(name) read$value[read$variable == name],
      reason = function(name) read$gap[read$variable == name]
    )
  }
)

long_rows <- function(edition, name) {
  variable <- edition_variable(edition, name)
  column <- edition_values(edition, name)
  value <- column$value
  if (is_date(variable)) value <- as.double(value)
  codes <- if (has_labels(variable)) released_codes(variable, value)
  known <- unique(value)
  data.table::as.data.table(lapply(c(edition$records, list(
    variable = rep(name, edition$n),
    value = value_text(variable, known)[match(value, known)],
    label = if (is.null(codes)) rep(NA_character_, edition$n) else codes$label[match(
      value, codes$code
    )],
    gap = if (is.null(column$reason)) rep(NA_character_, edition$n) else as.character(column$reason)
  )), csv_column))
}
