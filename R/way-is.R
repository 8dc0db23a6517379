way_is <- new_way(
  help = "the key, the wave, or how far the respondent came",
  example = c(
    "singer: {is: key, label: Member number}",
    "outcome: {is: disposition, label: Completion status}"
  ),
  everybody = TRUE,
  value = field(
    "choice", "the key, the wave, or how far the respondent came",
    values = c("key", "wave", "disposition")
  ),
  makes = function(variable, book) {
    wave <- variable$settings == "wave"
    if (is.null(variable$level)) variable$level <- if (variable$settings == "key")
      "identifier" else "nominal"
    variable$storage <- "text"
    if (is_disposition(variable)) variable$texts <- disposition_texts(book)
    if (wave) variable$texts <- list(
      value = names(book$waves), label = vapply(book$waves, `[[`, "", "label", USE.NAMES = FALSE)
    )
    variable
  },
  check = function(variable, book, say) {
    fits <- switch(
      variable$settings, wave = c("nominal", "ordinal"), disposition = "nominal",
      c("identifier", "text")
    )
    if (!variable$level %in% fits) say(
      where_in(variable, "level"),
      paste0("the ", variable$settings, " is ", some_of(fits), ", never ", variable$level)
    )
  },
  compute = function(variable, inputs, book, rows) new_column(rows[[variable$settings]]),
  sentence = function(variable, book) {
    switch(variable$settings, key = "The key that identifies a respondent.",
      wave = "The wave in which the answers were collected.",
      disposition = paste0(
        "Completion status",
        if (!is.null(book$study$complete)) paste0(
          ": complete with answers in all of ", some_of(book$study$complete),
          ", partial with some, break-off with none"
        ),
        "."
      ))
  }
)

# Who is dropped is not in the analysis file, but is in the study.
disposition_texts <- function(book) {
  screens <- names(book$document$screens)
  list(value = c(names(dispositions), screens), label = c(unname(dispositions), screens))
}
