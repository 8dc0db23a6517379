# One option of a question with several answers: internal, made by `split` and
# `coded`. `at` is the option's number, 0 that of the write-in.

way_option <- new_way(
  internal = TRUE,
  proof = "none",
  option_of = function(variable) variable$settings$of,
  value = field("given"),
  beside = list(codes = field("codes_or_list", "the codes with their labels", "{0: No, 1: Yes}")),
  uses = function(variable, book) variable$settings$of,
  makes = function(variable, book) {
    variable$storage <- "coded"
    variable$stem <- if (is.null(variable$stem)) book$variables[[variable$settings$of]]$label else
      variable$stem
    variable
  },
  compute = function(variable, inputs, book, rows) {
    source <- book$variables[[variable$settings$of]]
    column <- inputs[[source$name]]
    sets <- levels(column$value)
    held <- hold_option(sets, variable$settings$at)
    if (variable$settings$at == 0L) held[stringi::stri_detect_fixed(sets, set_mark)] <- 1L
    value <- over_levels(column$value, held, book$held)
    if (!anyNA(held)) return(list(value = value, reason = column$reason))
    reason <- reason_or_none(column)
    own <- set_reasons(sets, variable$settings$at)[column$value]
    open <- is.na(value) & reason == 0L
    reason[open] <- own[open]
    new_column(value, reason)
  },
  sentence = function(variable, book) {
    source <- book$variables[[variable$settings$of]]
    paste0(
      if (variable$settings$at == 0L) "Whether something was written in" else paste0(
        "Whether \u201c", source$options$label[variable$settings$at], "\u201d was ",
        if (!is.null(text_coded(source))) "given as a code" else "ticked"
      ),
      ". ", way_of(source)$sentence(source, book)
    )
  }
)
