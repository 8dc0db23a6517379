# A row per ticked option of each question with several answers.

format_selections <- new_format(
  help = paste0(
    "`selections.csv`: a row per ticked option, with the question, the option's variable and its ",
    "label"
  ),
  cannot = paste0(
    "who ticked nothing and who was not asked (the options are variables of `csv`, with their gaps)"
  ),
  files = function(edition) "selections.csv",
  check = function(edition) {
    if (length(options_released(edition)) > 0) return(list())
    list(list(path = "formats", message = paste0(
      "`selections`: no question with several answers goes out: take the format away"
    )))
  },
  write = function(edition, folder) {
    ticked <- edition_selections(edition)
    places <- ticked$at
    write_csv(
      c(lapply(edition$records, `[`, places), ticked[c("question", "option", "label")]),
      file.path(folder, "selections.csv")
    )
  },
  back = function(edition, folder) {
    read <- read_written(file.path(folder, "selections.csv"))
    keys <- intersect(c("wave", "respondent", "row"), names(edition$records))
    person <- do.call(joined_id, unname(as.list(read[keys])))
    options <- read$option
    all <- do.call(joined_id, lapply(edition$records[keys], as.character))
    list(
      names = options_released(edition), some = TRUE, codes = TRUE,
      # A gap has no row either.
      value = function(name) {
        value <- as.integer(all %in% person[options == name])
        gap <- !is.na(edition_values(edition, name)$reason)
        value[gap & value == 0L] <- NA
        value
      }
    )
  }
)

options_released <- function(edition) {
  book <- edition$study$book
  intersect(edition$names, unlist(book$blocks[carriers_of(book)]))
}
