# The closed language of conditions. A node is `list(op, type, args, ...)`; its
# type is truth, number, coded, text, date or datetime, or `words` and `digits`
# for a text and a number written in the condition.

expr_node <- function(e, scope) {
  scope$depth <- scope$depth + 1L
  if (scope$depth > expr_limits$depth) expr_problem(
    NULL, "is nested deeper than ", expr_limits$depth, " levels: make variables of its parts"
  )
  if (is.name(e)) return(expr_variable(as.character(e), scope))
  if (is.call(e)) return(expr_call(e, scope))
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

# A named condition stands for its own.
expr_subset <- function(name, scope) {
  if (name %in% scope$open) expr_problem(
    name, "goes in a circle: ", paste(c(scope$open, name), collapse = " <- "),
    "; a subset cannot be made from itself"
  )
  scope$open <- c(scope$open, name)
  # What is wrong with it is told where it stands.
  node <- tryCatch(
    expr_node(parse_expression(scope$book$subsets[[name]]), scope),
    mavik_expr_problem = function(p) {
      if (startsWith(conditionMessage(p), "goes in a circle")) stop(p) else expr_untold()
    }
  )
  if (node$type == "truth") node else expr_untold()
}

expr_variable <- function(name, scope) {
  if (!is.null(scope$book$subsets[[name]])) return(expr_subset(name, scope))
  variable <- scope$book$variables[[name]]
  if (is.null(variable) || isTRUE(variable$carrier)) {
    if (name %in% names(scope$book$blocks)) expr_problem(
      name, "`", name, "` is a block: name one of its items, or count with `n_answered(", name, ")`"
    )
    if (name %in% scope$book$unread) expr_untold()
    expr_problem(
      name, "`", name, "` is not a variable of this codebook",
      did_you_mean(name, c(names(scope$book$variables), names(scope$book$subsets)))
    )
  }
  if (is.null(variable$storage) || isTRUE(variable$failed)) expr_untold()
  list(
    op = "variable", type = if (is_date(variable)) variable$level else variable$storage,
    name = name, variable = variable
  )
}

expr_call <- function(e, scope) {
  name <- if (is.name(e[[1]])) as.character(e[[1]]) else ""
  if (name == "(") return(expr_node(e[[2]], scope))
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
  known$make(name, args, scope)
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

expr_truth <- function(name, args, scope) {
  nodes <- lapply(if (name == "!") args else expr_chain(name, args), expr_node, scope = scope)
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

expr_compare <- function(name, args, scope) {
  left <- expr_node(args[[1]], scope)
  right <- expr_node(args[[2]], scope)
  if (is_written(left)) {
    if (is_written(right)) expr_problem(name, "compares two fixed things")
    return(expr_compare(
      unname(c("==" = "==", "!=" = "!=", "<" = ">", ">" = "<", "<=" = ">=", ">=" = "<=")[name]),
      rev(args), scope
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
      place <- match(text_fold(value), text_fold(variable$codes$label))
      if (is.na(place)) expr_problem(
        value, "\"", value, "\" is not a label of `", node$name, "`",
        did_you_mean(value, variable$codes$label)
      )
      variable$codes$code[place]
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

expr_among <- function(name, args, scope) {
  node <- expr_node(args[[1]], scope)
  if (is_written(node) || node$type == "truth") expr_problem(
    name, "a variable stands before `%in%`"
  )
  set <- args[[2]]
  if (is.call(set) && identical(set[[1]], as.name("c"))) set <- as.list(set)[-1] else
    set <- list(set)
  values <- lapply(set, expr_node, scope = scope)
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

expr_arithmetic <- function(name, args, scope) {
  chained <- name %in% c("+", "-", "*", "/") && length(args) == 2
  nodes <- lapply(if (chained) expr_chain(name, args) else args, expr_node, scope = scope)
  for (node in nodes) expr_numeric(node, name)
  list(op = name,
    type = if (
      all(vapply(nodes, `[[`, "", "type") == "digits") && length(nodes) == 1 && name == "-"
    ) "digits" else "number",
    args = nodes,
    value = if (length(nodes) == 1 && nodes[[1]]$type == "digits") -nodes[[1]]$value)
}

# `-2` is a number like any other.
expr_sign <- function(name, args, scope) {
  node <- expr_arithmetic(name, args, scope)
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
