# The closed language of conditions. A node is `list(op, type, args, ...)`; its
# type is truth, number, coded, text, date or datetime, or `words` and `digits`
# for a text and a number written in the condition.

expr_node <- function(e, at) {
  at$depth <- at$depth + 1L
  if (at$depth > expr_limits$depth) expr_problem(
    NULL, "is nested deeper than ", expr_limits$depth, " levels: make variables of its parts"
  )
  if (is.name(e)) return(expr_variable(as.character(e), at))
  if (is.call(e)) return(expr_call(e, at))
  if (is.numeric(e) && length(e) == 1 && is.finite(e)) return(list(
    op = "constant", type = "digits", value = as.double(e)
  ))
  if (is.character(e) && length(e) == 1) return(list(
    op = "constant", type = "words", value = enc2utf8(e)
  ))
  expr_problem(
    NULL, "`", paste(deparse(e), collapse = " "), "` cannot stand in a condition",
    if (is.logical(e) && length(e) == 1)
      ": for gaps there is `is_missing(x)`, for the rest comparisons"
  )
}

expr_variable <- function(name, at) {
  variable <- at$book$variables[[name]]
  if (is.null(variable) || isTRUE(variable$carrier)) {
    if (name %in% names(at$book$blocks)) expr_problem(
      name, "`", name, "` is a block: name one of its items, or count with `n_answered(", name, ")`"
    )
    if (name %in% at$book$unread) expr_untold()
    expr_problem(
      name, "`", name, "` is not a variable of this codebook",
      did_you_mean(name, names(at$book$variables))
    )
  }
  if (is.null(variable$storage) || isTRUE(variable$failed)) expr_untold()
  list(
    op = "variable", type = if (is_date(variable)) variable$level else variable$storage,
    name = name, variable = variable
  )
}

expr_call <- function(e, at) {
  name <- if (is.name(e[[1]])) as.character(e[[1]]) else ""
  if (name == "(") return(expr_node(e[[2]], at))
  known <- expr_functions[[name]]
  if (is.null(known)) {
    near <- c(
      "&&" = "&", "||" = "|", "=" = "==", "<-" = "==", "is.na" = "is_missing", "%/%" = "/",
      "%notin%" = "!(x %in% c(...))"
    )[name]
    expr_problem(if (nzchar(name)) name, "`",
      if (nzchar(name)) name else paste(deparse(e[[1]]), collapse = " "),
      "` is not part of conditions",
      if (!is.na(near)) paste0("; write `", near, "`") else if (grepl("^[a-z]", name)) did_you_mean(
        name, grep("^[a-z]", names(expr_functions), value = TRUE)
      ))
  }
  args <- as.list(e)[-1]
  if (!is.null(names(args)) && any(nzchar(names(args)))) expr_problem(
    name, "`", name, "` takes no named arguments"
  )
  if (any(vapply(seq_along(args), function(i)
    identical(args[[i]], quote(expr = )), TRUE))) expr_problem(
      name, "`", name, "` has an empty argument: a comma too many?"
    )
  if (length(args) < known$least || length(args) > known$most) {
    expr_problem(
      name, "`", name, "` takes ",
      if (known$least == known$most) known$least else paste0("at least ", known$least),
      if (known$most == 1) " argument" else " arguments", ", not ", length(args)
    )
  }
  known$make(name, args, at)
}

is_written <- function(node) node$type %in% c("words", "digits")

# `a | b | c` is one level deep: the same operator joins all of them.
expr_chain <- function(name, args) {
  out <- args[-1]
  left <- args[[1]]
  while (is.call(left) && identical(left[[1]], as.name(name)) && length(left) == 3) {
    out <- c(list(left[[3]]), out)
    left <- left[[2]]
  }
  c(list(left), out)
}

expr_truth <- function(name, args, at) {
  nodes <- lapply(if (name == "!") args else expr_chain(name, args), expr_node, at = at)
  for (node in nodes) if (node$type != "truth") expr_problem(
    name, "`", name, "` joins conditions, but one side is ", expr_shown(node)
  )
  list(op = name, type = "truth", args = nodes)
}

expr_shown <- function(node) {
  if (node$op == "variable") return(paste0(
    "`", node$name, "`, which is ",
    switch(
      node$type, coded = "coded", number = "a number", text = "a text", date = ,
      datetime = paste("a", node$type)
    )
  ))
  if (node$type == "words") return(paste0("the text \"", node$value, "\""))
  if (node$type == "digits") return(paste("the number", number_to_text(node$value)))
  paste0("a ", if (node$type == "truth") "condition" else node$type)
}

expr_compare <- function(name, args, at) {
  left <- expr_node(args[[1]], at)
  right <- expr_node(args[[2]], at)
  if (is_written(left)) {
    if (is_written(right)) expr_problem(name, "compares two fixed things")
    return(expr_compare(
      unname(c("==" = "==", "!=" = "!=", "<" = ">", ">" = "<", "<=" = ">=", ">=" = "<=")[name]),
      rev(args), at
    ))
  }
  if (left$type == "truth" || right$type == "truth") expr_problem(
    name, "a condition is true or false by itself: it is not compared"
  )
  ordered <- !name %in% c("==", "!=")
  if (ordered) for (node in list(left, right)) expr_ordered(node, name)
  if (is_written(right)) right <- expr_meant(left, right, name)
  else expr_alike(left, right, name)
  list(op = name, type = "truth", args = expr_units(list(left, right)))
}

expr_ordered <- function(node, name) {
  if (node$type == "text") expr_problem(
    name, "`", name, "` needs an order, and ", expr_shown(node), " has none"
  )
  if (node$type == "coded" && !node$variable$level %in% ordered_levels) {
    expr_problem(
      name, "`", name, "` needs an order, and `", node$name, "` is ", node$variable$level,
      ": use `==` or `%in%`"
    )
  }
}

# A text or number beside a variable: a label, a code, a wave, a date.
expr_meant <- function(node, written, name) {
  value <- written$value
  variable <- node$variable
  meant <- switch(paste(node$type, written$type),
    "coded words" = {
      at <- match(text_fold(value), text_fold(variable$codes$label))
      if (is.na(at)) expr_problem(
        value, "\"", value, "\" is not a label of `", node$name, "`",
        did_you_mean(value, variable$codes$label)
      )
      variable$codes$code[at]
    },
    "coded digits" = {
      if (
        name %in% c("==", "!=", "%in%") && !value %in% all_codes(variable) &&
        !anyNA(all_codes(variable)) && has_all_codes(variable)
      ) {
        expr_problem(
          NULL, number_to_text(value), " is not a code of `", node$name, "`: they are ",
          some_of(number_to_text(all_codes(variable)), 9, quote = FALSE)
        )
      }
      value
    },
    "number digits" = value,
    "text words" = {
      known <- variable$texts$value
      if (!is.null(known) && !value %in% known) {
        named <- known[match(text_fold(value), text_fold(variable$texts$label))]
        expr_problem(
          value, "\"", value, "\" is not one of ", some_of(known, 6),
          if (!is.na(named)) paste0("; write \"", named, "\"") else did_you_mean(value, known)
        )
      }
      value
    },
    "date words" = , "datetime words" = expr_moment(node, value, name),
    expr_problem(if (written$type == "words") value, expr_shown(node),
      ": it cannot be compared with ", expr_shown(written), switch(node$type,
      date = , datetime = "; dates stand in quotes, \"2026-03-02\"",
      number = "; numbers stand without quotes", text = "; texts stand in quotes", ""))
  )
  list(op = "constant", type = node$type, value = meant)
}

# An open range leaves some of the codes unnamed.
has_all_codes <- function(variable) is.null(variable$range) || all(is.finite(variable$range))

expr_moment <- function(node, value, name) {
  span <- date_span(value, node$type)
  if (is.null(span)) expr_problem(
    value, "\"", value, "\" is not an ISO 8601 ",
    if (node$type == "date") "date, \"2026-03-02\"" else "date with a time, \"2026-03-02T18:30\""
  )
  if (name %in% c("==", "!=", "%in%") && span[1] != span[2]) expr_problem(
    value, "\"", value, "\" names more than one ", if (node$type == "date") "day" else "moment",
    ": compare with `>=` and `<=`"
  )
  if (name %in% c(">", "<=")) span[2] else span[1]
}

expr_alike <- function(left, right, name) {
  types <- c(left$type, right$type)
  fits <- if (all(types %in% c("date", "datetime"))) TRUE
    else if (all(types == "coded")) name %in% c("<", ">", "<=", ">=") || identical(
      left$variable$codes, right$variable$codes
    )
    else if (all(types %in% c("number", "coded"))) all(vapply(
      list(left, right),
      function(node) node$type == "number" || node$variable$level %in% ordered_levels, TRUE
    ))
    else types[1] == types[2]
  if (!fits) expr_problem(name, expr_shown(left), ", cannot be compared with ", expr_shown(right),
    if (all(types == "coded")) ": their codes do not mean the same")
}

# Days become seconds beside date-times.
expr_units <- function(nodes) {
  types <- vapply(nodes, `[[`, "", "type")
  if (!any(types == "datetime")) return(nodes)
  lapply(
    nodes,
    function(node) if (node$type == "date") list(
      op = "seconds", type = "datetime", args = list(node)
    ) else node
  )
}

expr_among <- function(name, args, at) {
  node <- expr_node(args[[1]], at)
  if (is_written(node) || node$type == "truth") expr_problem(
    name, "a variable stands before `%in%`"
  )
  set <- args[[2]]
  if (is.call(set) && identical(set[[1]], as.name("c"))) set <- as.list(set)[-1] else
    set <- list(set)
  values <- lapply(set, expr_node, at = at)
  if (length(values) == 0 || !all(vapply(values, is_written, TRUE))) expr_problem(
    name, "behind `%in%` stands a list of labels or numbers, `c(\"Yes\", \"No\")`"
  )
  list(
    op = "%in%", type = "truth", args = list(node),
    set = vapply(
      values, function(value) expr_meant(node, value, "%in%")$value,
      if (node$type == "text") "" else 0
    )
  )
}

expr_arithmetic <- function(name, args, at) {
  chained <- name %in% c("+", "-", "*", "/") && length(args) == 2
  nodes <- lapply(if (chained) expr_chain(name, args) else args, expr_node, at = at)
  for (node in nodes) expr_numeric(node, name)
  list(op = name,
    type = if (
      all(vapply(nodes, `[[`, "", "type") == "digits") && length(nodes) == 1 && name == "-"
    ) "digits" else "number",
    args = nodes,
    value = if (length(nodes) == 1 && nodes[[1]]$type == "digits") -nodes[[1]]$value)
}

# `-2` is a number like any other.
expr_sign <- function(name, args, at) {
  node <- expr_arithmetic(name, args, at)
  if (node$type == "digits") list(op = "constant", type = "digits", value = node$value) else node
}

expr_numeric <- function(node, name) {
  fits <- node$type %in% c("number", "digits") || (
    node$type == "coded" && node$variable$level %in% ordered_levels
  )
  if (!fits) expr_problem(name, "`", name, "` works on numbers, and it is given ", expr_shown(node),
    if (node$type %in% c("date", "datetime"))
      "; between dates there are `days_between(a, b)` and `minutes_between(a, b)`")
}

# Blocks spread out into their items.
expr_spread <- function(args, at) {
  unlist(lapply(args, function(arg) {
    block <- if (is.name(arg)) at$book$blocks[[as.character(arg)]]
    if (is.null(block)) list(expr_node(arg, at)) else lapply(block, expr_variable, at = at)
  }), recursive = FALSE)
}

expr_across <- function(name, args, at) {
  nodes <- expr_spread(args, at)
  for (node in nodes) expr_numeric(node, name)
  list(op = name, type = "number", args = nodes)
}

expr_round <- function(name, args, at) {
  nodes <- lapply(args, expr_node, at = at)
  expr_numeric(nodes[[1]], name)
  digits <- if (length(nodes) == 2) nodes[[2]]$value else 0
  if (is.null(digits) || !is_whole(digits) || digits < 0 || digits > 12) expr_problem(
    name, "the decimals of `round` are a whole number from 0 to 12"
  )
  list(op = "round", type = "number", args = nodes[1], digits = digits)
}

expr_counted <- function(name, args, at) {
  nodes <- expr_spread(args, at)
  if (!all(vapply(nodes, function(node) node$op == "variable", TRUE))) expr_problem(
    name, "`n_answered` takes variables and blocks"
  )
  list(op = "n_answered", type = "number", args = nodes)
}

expr_missing <- function(name, args, at) {
  node <- expr_node(args[[1]], at)
  if (node$op != "variable") expr_problem(
    name, "`is_missing` takes a variable, and after it names of reasons in quotes"
  )
  reasons <- lapply(args[-1], function(arg) {
    known <- at$book$reasons$name
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

expr_between <- function(name, args, at) {
  nodes <- lapply(args, expr_node, at = at)
  fits <- if (name == "days_between") c("date", "datetime") else "datetime"
  for (node in nodes) if (!node$type %in% fits) expr_problem(
    name, "`", name, "` takes two ", if (length(fits) == 1) "date-times" else "dates or date-times",
    ", and it is given ", expr_shown(node)
  )
  list(op = name, type = "number", args = expr_units(nodes))
}

expr_set <- function(name, args, at) expr_problem("c(", "`c()` stands behind `%in%` only")

# Each with the node that it makes, how many arguments it takes, and its line and
# example in the reference.
expr_functions <- local({
  of <- function(make, least, most, help, example) {
    list(make = make, least = least, most = most, help = help, example = example)
  }
  minus <- function(name, args, at) {
    if (length(args) == 1) expr_sign(name, args, at) else expr_arithmetic(name, args, at)
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
    )
  )
})
