# Where a gap was filled: internal, made by `impute`.

way_filled <- new_way(
  internal = TRUE,
  value = field("given"),
  beside = list(codes = field("codes_or_list", "the codes with their labels", "{0: No, 1: Yes}")),
  uses = function(variable, book) c(variable$settings$of, variable$settings$source),
  makes = function(variable, book) {
    variable$storage <- "coded"
    variable
  },
  compute = function(variable, inputs, book, rows) {
    after <- inputs[[variable$settings$of]]
    before <- inputs[[variable$settings$source]]
    value <- as.integer(is.na(before$value) & !is.na(after$value))
    reason <- reason_or_none(after)
    value[reason > 0L] <- NA
    new_column(value, reason)
  },
  sentence = function(variable, book) paste0(
    "Whether ", variable$settings$of, " was filled where ", variable$settings$source, " is a gap."
  )
)
