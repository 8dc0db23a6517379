# Conditions in words for people who fill in a questionnaire. `naming(name)` says how an answer is
# called there ("question 9"); NULL for what is not asked.

# "you answered “Yes” to question 9"; NULL where it reads what is not asked.
condition_to_people <- function(node, naming, book) {
  if (node$op %in% c("&", "|")) {
    parts <- lapply(node$args, condition_to_people, naming = naming, book = book)
    if (any(vapply(parts, is.null, TRUE))) return(NULL)
    return(paste(unlist(parts), collapse = if (node$op == "&") ", and " else ", or "))
  }
  inner <- if (node$op == "!") node$args[[1]] else node
  name <- expr_uses(inner)
  called <- if (length(name) == 1) naming(name)
  if (is.null(called)) return(NULL)
  variable <- book$variables[[name]]
  if (inner$op == "is_missing") return(paste0(
    if (node$op == "!") "you answered " else "you did not answer ", called
  ))
  if (is_coded(variable)) return(coded_to_people(node, variable, called))
  if (node$op == "!") NULL else number_to_people(node, variable, called)
}

coded_to_people <- function(node, variable, called) {
  code <- all_codes(variable)
  truth <- evaluate_expression(
    list(tree = node), with_names(list(new_column(code)), variable$name), length(code)
  ) %in% TRUE
  if (!is.null(parent_of(variable))) return(paste0(
    "you ", if (truth[match(1, code)]) "ticked" else "did not tick", " \u201c", variable$label,
    "\u201d in ", called
  ))
  few <- sum(truth) <= max(2, sum(!truth))
  labels <- paste0("\u201c", label_of(variable, code[if (few) truth else !truth]), "\u201d")
  if (sum(truth) == 0) return(NULL)
  paste0(
    "you answered ", if (!few) paste0(called, " otherwise than "), some_or(labels),
    if (few) paste0(" to ", called)
  )
}

some_or <- function(texts) {
  if (length(texts) < 2) return(paste(texts, collapse = ""))
  paste(paste(texts[-length(texts)], collapse = ", "), "or", texts[length(texts)])
}

number_to_people <- function(node, variable, called) {
  sides <- vapply(node$args, `[[`, "", "op")
  if (length(sides) != 2 || !setequal(sides, c("variable", "constant"))) return(NULL)
  op <- node$op
  if (sides[1] == "constant") op <- c(
    "<" = ">", "<=" = ">=", ">" = "<", ">=" = "<=", "==" = "==", "!=" = "!="
  )[[op]]
  value <- value_text(variable, node$args[[match("constant", sides)]]$value)
  day <- is_date(variable)
  words <- switch(op,
    "==" = c("is ", ""), "!=" = c("is not ", ""),
    ">=" = c("is ", if (day) " or later" else " or more"),
    "<=" = c("is ", if (day) " or earlier" else " or less"),
    ">" = c(if (day) "is after " else "is more than ", ""),
    "<" = c(if (day) "is before " else "is less than ", ""), NULL
  )
  if (is.null(words)) return(NULL)
  paste0("your answer to ", called, " ", words[1], value, words[2])
}
