# A checked expression over whole columns. Truth has three values: NA is unknown.

evaluate_expression <- function(expression, columns, n) {
  value <- expr_value(expression$tree, columns)
  if (length(value) == n) value else rep(value, n)
}

expr_value <- function(node, columns) {
  if (node$op == "constant") return(node$value)
  if (node$op == "variable") return(columns[[node$name]]$value)
  if (node$op == "is_missing") return(expr_gap(columns[[node$args[[1]]$name]], node$reasons))
  if (node$op == "n_answered") return(Reduce(
    `+`, lapply(node$args, function(arg) as.integer(!is.na(columns[[arg$name]]$value)))
  ))
  if (!is.null(node$words)) return(expr_found(node, columns[[node$args[[1]]$name]]$value))
  args <- lapply(node$args, expr_value, columns = columns)
  a <- args[[1]]
  b <- if (length(args) > 1) args[[2]]
  switch(node$op,
    "&" = Reduce(`&`, args), "|" = Reduce(`|`,
      args), "!" = !a, "==" = a == b, "!=" = a != b, "<" = a < b, "<=" = a <= b, ">" = a > b,
      ">=" = a >= b,
    "%in%" = ifelse_na(a, a %in% node$set),
    "+" = chained(`+`, args), "-" = if (is.null(b)) -a else chained(`-`, args), "*" = chained(`*`,
      args), "/" = chained(`/`, args),
    "^" = finite(ifelse_na(b, ifelse_na(a, a^b))),
    sum = finite(Reduce(`+`, args, 0)), mean = finite(Reduce(`+`, args, 0) / length(args)),
    min = do.call(pmin, args), max = do.call(pmax, args),
    round = round_half(a, node$digits), abs = abs(a), seconds = a * 86400,
    days_between = if (node$args[[1]]$type == "datetime") (b - a) / 86400 else b - a,
    minutes_between = (b - a) / 60
  )
}

# Words in texts, each distinct text looked at once.
expr_found <- function(node, text) {
  known <- unique(text)
  folded <- text_fold(known)
  holds <- if (node$op == "starts_with") stringi::stri_startswith_fixed else
    stringi::stri_detect_fixed
  met <- Reduce(`|`, lapply(node$words, function(word) holds(folded, word)))
  met[match(text, known)]
}

# Left to right; what is not finite on the way stays unknown.
chained <- function(operator, args) Reduce(function(a, b) finite(operator(as.double(a), b)), args)

# What is not finite cannot be known.
finite <- function(x) {
  odd <- !is.finite(x)
  if (any(odd)) x[odd] <- NA
  x
}

ifelse_na <- function(x, truth) {
  if (!anyNA(x)) return(truth)
  if (length(truth) < length(x)) truth <- rep(truth, length.out = length(x))
  truth[if (length(x) == 1) TRUE else is.na(x)] <- NA
  truth
}

expr_gap <- function(column, reasons) {
  if (is.null(column$reason)) return(logical(length(column$value)))
  if (length(reasons) == 0) column$reason > 0L else column$reason %in% reasons
}
