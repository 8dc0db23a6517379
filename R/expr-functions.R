# The functions of conditions and formulas.

# Blocks spread out into their items.
expr_spread <- function(args, scope) {
  unlist(lapply(args, function(arg) {
    block <- if (is.name(arg)) scope$book$blocks[[as.character(arg)]]
    if (is.null(block)) list(expr_node(arg, scope)) else lapply(block, expr_variable, scope = scope)
  }), recursive = FALSE)
}

expr_across <- function(name, args, scope) {
  nodes <- expr_spread(args, scope)
  for (node in nodes) expr_numeric(node, name)
  list(op = name, type = "number", args = nodes)
}

expr_round <- function(name, args, scope) {
  nodes <- lapply(args, expr_node, scope = scope)
  expr_numeric(nodes[[1]], name)
  digits <- if (length(nodes) == 2) nodes[[2]]$value else 0
  if (is.null(digits) || !is_whole(digits) || digits < 0 || digits > 12) expr_problem(
    name, "the decimals of `round` are a whole number from 0 to 12"
  )
  list(op = "round", type = "number", args = nodes[1], digits = digits)
}

expr_counted <- function(name, args, scope) {
  nodes <- expr_spread(args, scope)
  if (!all(vapply(nodes, function(node) node$op == "variable", TRUE))) expr_problem(
    name, "`n_answered` takes variables and blocks"
  )
  list(op = "n_answered", type = "number", args = nodes)
}

expr_missing <- function(name, args, scope) {
  node <- expr_node(args[[1]], scope)
  if (node$op != "variable") expr_problem(
    name, "`is_missing` takes a variable, and after it names of reasons in quotes"
  )
  reasons <- lapply(args[-1], function(arg) {
    known <- scope$book$reasons$name
    if (!is.character(arg)) expr_problem(
      name, "names of reasons stand in quotes, `is_missing(x, \"refused\")`"
    )
    if (!arg %in% known) expr_problem(
      arg, "\"", arg, "\" is not a missing reason", did_you_mean(arg, known)
    )
    match(arg, known)
  })
  list(op = "is_missing", type = "truth", args = list(node), reasons = as.integer(unlist(reasons)))
}

expr_between <- function(name, args, scope) {
  nodes <- lapply(args, expr_node, scope = scope)
  fits <- if (name == "days_between") c("date", "datetime") else "datetime"
  for (node in nodes) if (!node$type %in% fits) expr_problem(
    name, "`", name, "` takes two ", if (length(fits) == 1) "date-times" else "dates or date-times",
    ", and it is given ", expr_shown(node)
  )
  list(op = name, type = "number", args = expr_units(nodes))
}

# Texts are compared as everywhere: without case, and with plain spaces and quotes.
expr_holds <- function(name, args, scope) {
  node <- expr_node(args[[1]], scope)
  if (node$op != "variable" || node$type != "text") expr_problem(
    name, "`", name, "` looks into a text, and it is given ", expr_shown(node),
    if (node$type == "coded") ": compare its labels with `==` or `%in%`"
  )
  words <- args[[2]]
  if (is.call(words) && identical(words[[1]], as.name("c"))) words <- as.list(words)[-1] else
    words <- list(words)
  if (name != "matches_any" && length(words) != 1) expr_problem(
    name, "`", name, "` takes one text; for several there is `matches_any(x, c(\"a\", \"b\"))`"
  )
  text <- vapply(words, function(word) if (is.character(word)) text_fold(word) else "", "")
  if (length(text) == 0 || !all(nzchar(text))) expr_problem(
    name, "behind the variable of `", name, "` stands a text in quotes, `", name, "(",
    node$name, ", ", if (name == "matches_any") "c(\"tea\", \"cake\")" else "\"tea\"", ")`"
  )
  list(op = name, type = "truth", args = list(node), words = text)
}

expr_set <- function(name, args, scope) expr_problem(
  "c(", "`c()` stands behind `%in%` and in `matches_any()` only"
)

# Each with the node that it makes, how many arguments it takes, and its line and
# example in the reference.
expr_functions <- local({
  of <- function(make, least, most, help, example) {
    list(make = make, least = least, most = most, help = help, example = example)
  }
  minus <- function(name, args, scope) {
    if (length(args) == 1) expr_sign(name, args, scope) else expr_arithmetic(name, args, scope)
  }
  list(
    "==" = of(
      expr_compare, 2, 2, "equal: a label, a code, a number, a text, a date or a wave's name",
      "member == \"Yes\""
    ),
    "!=" = of(expr_compare, 2, 2, "not equal", "voice != \"Bass\""),
    "<" = of(
      expr_compare, 2, 2, "less; it needs an order, so not of nominal variables and texts",
      "years < 10"
    ),
    "<=" = of(expr_compare, 2, 2, "less or equal", "years <= 10"),
    ">" = of(expr_compare, 2, 2, "greater", "satisfied > \"Neither\""),
    ">=" = of(expr_compare, 2, 2, "greater or equal", "debut >= \"2020-01-01\""),
    "%in%" = of(
      expr_among, 2, 2, "one of a list of labels, codes or texts",
      "voice %in% c(\"Tenor\", \"Bass\")"
    ),
    c = of(expr_set, 0, Inf, "the list behind `%in%`", "voice %in% c(\"Tenor\", \"Bass\")"),
    "&" = of(expr_truth, 2, 2, "both are true; unknown where one is unknown and none is false",
      "member == \"Yes\" & years > 2"),
    "|" = of(expr_truth, 2, 2,
      "at least one is true; unknown where one is unknown and none is true",
      "consent == \"No\" | is_missing(consent)"),
    "!" = of(
      expr_truth, 1, 1, "not; unknown where its condition is unknown",
      "!(voice %in% c(\"Tenor\", \"Bass\"))"
    ),
    is_missing = of(expr_missing, 1, Inf,
      "true where there is no value; with names of reasons only for those",
      "is_missing(weekly, \"no_answer\", \"refused\")"),
    n_answered = of(expr_counted, 1, Inf,
      "how many of the variables, or of a block's items, have a value",
      "n_answered(belong) >= 4"),
    "+" = of(
      expr_arithmetic, 2, 2, "plus; a gap where one side is a gap",
      "practice_alone + practice_others"
    ),
    "-" = of(minus, 1, 2, "minus, or the other sign", "2026 - joined"),
    "*" = of(expr_arithmetic, 2, 2, "times", "years * 12"),
    "/" = of(
      expr_arithmetic, 2, 2, "divided by; by 0 it cannot be worked out", "practice_alone / 60"
    ),
    "^" = of(expr_arithmetic, 2, 2, "to the power of", "years ^ 2"),
    sum = of(
      expr_across, 1, Inf, "the sum over variables or a block; a gap where one is a gap",
      "sum(practice)"
    ),
    mean = of(
      expr_across, 1, Inf, "the mean over variables or a block; a gap where one is a gap",
      "mean(evenings_dec, evenings_jan)"
    ),
    min = of(
      expr_across, 1, Inf, "the smallest of variables or a block; a gap where one is a gap",
      "min(practice) >= 0"
    ),
    max = of(
      expr_across, 1, Inf, "the largest of variables or a block; a gap where one is a gap",
      "max(practice) < 44640"
    ),
    round = of(
      expr_round, 1, 2, "rounded to whole numbers, or to so many decimals; halves away from zero",
      "round(practice_alone / 60, 1)"
    ),
    abs = of(expr_arithmetic, 1, 1, "without its sign", "abs(evenings_jan - evenings_dec) > 10"),
    days_between = of(
      expr_between, 2, 2, "days from the first date to the second",
      "days_between(debut, ended) >= 0"
    ),
    minutes_between = of(
      expr_between, 2, 2, "minutes from the first date-time to the second",
      "minutes_between(started, ended) < 1"
    ),
    contains = of(
      expr_holds, 2, 2, "whether a text holds another, whatever its case; unknown in a gap",
      "contains(best, \"tea\")"
    ),
    starts_with = of(
      expr_holds, 2, 2, "whether a text begins with another, whatever its case",
      "starts_with(best, \"the\")"
    ),
    matches_any = of(
      expr_holds, 2, 2, "whether a text holds any of several, whatever their case",
      "matches_any(best, c(\"tea\", \"cake\"))"
    )
  )
})
