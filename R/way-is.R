way_is <- list(
  value = field("choice", "`key` or `wave`", values = c("key", "wave")),
  beside = list(),
  reads = function(variable) NULL,
  uses = function(variable, book) character(),
  makes = function(variable, book) {
    wave <- variable$settings == "wave"
    if (is.null(variable$level)) variable$level <- if (wave) "nominal" else "identifier"
    variable$storage <- "text"
    if (wave) variable$texts <- list(value = names(book$waves), label = vapply(book$waves, `[[`, "", "label", USE.NAMES = FALSE))
    variable
  },
  check = function(variable, book, say) {
    fits <- if (variable$settings == "wave") c("nominal", "ordinal") else c("identifier", "text")
    if (!variable$level %in% fits) say(where_in(variable, "level"), paste0("the ", variable$settings, " is ", some_of(fits), ", never ", variable$level))
  },
  compute = function(variable, inputs, book, rows) new_column(rows[[variable$settings]]),
  sentence = function(variable, book) {
    if (variable$settings == "key") "The key that identifies a respondent." else "The wave in which the answers were collected."
  }
)
