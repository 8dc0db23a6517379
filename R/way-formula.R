# Arithmetic on variables. Where an input is a gap, so is the result.

way_formula <- new_way(
  help = "a number worked out of other variables",
  example =
    paste0(
      "practice_total: {label: Practice in all, formula: 'sum(practice_alone, practice_others, ",
      "practice_lessons)', unit: minutes}"
    ),
  proof = "range",
  empty_where = "a division by zero, the root of a negative number, or a number too large",
  value = field("condition", "arithmetic on variables",
    "sum(practice_alone, practice_others, practice_lessons) / 60"),
  beside = list(range = field("range", "the values that can be; what lies outside is set aside",
    "[0, 744]")),
  uses = function(variable, book) names_in_text(variable$settings, book),
  makes = function(variable, book) {
    if (is.null(variable$level)) variable$level <- "ratio"
    variable$storage <- "number"
    variable$problems <- list()
    note <- function(path, message) variable$problems[[length(variable$problems) + 1]] <<- list(
      path = path, message = message
    )
    variable$expression <- compile_expression(
      variable$settings, book, where_in(variable, "formula"), note, wants = "number"
    )
    variable$range <- range_by_level(variable)
    variable
  },
  check = function(variable, book, say) {
    for (problem in variable$problems) say(problem$path, problem$message)
    if (!is.null(attr(variable$range, "texts"))) say(where_in(variable, "range"),
      "the bounds of a formula are numbers")
    if (!variable$level %in% c("interval", "ratio")) say(
      where_in(variable, "level"),
      paste0("a formula gives a number: interval or ratio, not ", variable$level)
    )
    if (length(variable$problems) == 0 && length(variable$expression$uses) == 0) say(
      where_in(variable, "formula"), "reads no variable"
    )
  },
  compute = function(variable, inputs, book, rows) {
    value <- as.double(evaluate_expression(variable$expression, inputs, rows$n))
    reason <- integer(rows$n)
    gap <- is.na(value)
    if (any(gap)) {
      reason[gap] <- first_reason(inputs, rows$n)[gap]
      reason[gap & reason == 0L] <- reason_id(book, "not_computable")
    }
    new_column(value, reason)
  },
  explain = function(variable, inputs, book) paste0("Here: ",
    paste0(names(inputs), " = ", vapply(names(inputs), function(name) {
    value <- inputs[[name]]$value
    if (is.na(value)) "empty" else value_text(book$variables[[name]], value)
  }, ""), collapse = ", "), "."),
  sentence = function(variable, book) paste0(
    "Worked out as `", text_squeeze(variable$settings), "`."
  )
)
