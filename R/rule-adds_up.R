# Parts that must give a total: a number, or another variable. `blank` says what
# a part counts for that was left blank; without it such a respondent is passed
# over, as is one who left all parts blank.

rule_adds_up <- new_rule(
  help = "parts that must add up",
  example = "points_add_up: {adds_up: {parts: points, to: 100, blank: 0}, sets_aside: all}",
  value = map_field(list(
    parts = field("texts", "the parts: a block, or a list of variables", "points", required = TRUE),
    to = field("text", "what they add up to: a number or a variable", "100", required = TRUE),
    within = field("number", "how far the sum may be from it", "0.5", default = 0, least = 0),
    blank = field(
      "number", "what a blank part counts for; else a sum with blanks is not judged", "0"
    )
  )),
  makes = function(rule, book, say) {
    settings <- rule$settings
    rule$parts <- spread_names(settings$parts, c(rule$path, "adds_up", "parts"), book, say)
    number <- text_to_number(settings$to)
    rule$total <- if (is.na(number)) spread_names(
      settings$to, c(rule$path, "adds_up", "to"), book, say
    ) else number
    named <- c(rule$parts, if (is.character(rule$total)) rule$total)
    for (name in named) {
      variable <- book$variables[[name]]
      if (variable$storage != "number") say(
        c(rule$path, "adds_up"),
        paste0("`", name, "` is no number (level ", variable$level, "): only numbers add up")
      )
    }
    if (length(rule$parts) < 2) say(c(rule$path, "adds_up", "parts"), "needs at least two parts")
    rule$reads <- unique(named)
    rule
  },
  compute = function(rule, inputs, book, rows) {
    blank <- rule$settings$blank
    total <- numeric(rows$n)
    answered <- logical(rows$n)
    for (part in inputs[rule$parts]) {
      value <- part$value
      answered <- answered | !is.na(value)
      if (!is.null(blank)) value[
        is.na(value) & reason_or_none(part) == reason_id(book, "no_answer")
      ] <- blank
      total <- total + value
    }
    to <- if (is.character(rule$total)) inputs[[rule$total]]$value else rule$total
    rows <- which(answered & abs(total - to) > rule$settings$within + 1e-9)
    off <- round_half(total - to, 9)[rows]
    list(
      rows = rows,
      more = if (length(rows) > 0) paste0(
        "they are off by ", some_of(number_to_text(sort(unique(off))), 6, quote = FALSE)
      )
    )
  },
  sentence = function(rule, book) {
    settings <- rule$settings
    paste0(some_of(rule$parts, 8), " must add up to ",
      if (is.character(rule$total)) paste0("`", rule$total, "`") else number_to_text(rule$total),
      if (settings$within > 0) paste(", within", number_to_text(settings$within)),
      if (!is.null(settings$blank)) paste(", a blank counting for", number_to_text(settings$blank)))
  }
)
