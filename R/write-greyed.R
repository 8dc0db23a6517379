# A universe as a formula of a sheet: true where the answers typed so far say for certain that the
# question was not asked. What a sheet cannot know (a derived variable) stays unknown.

# `cells_of(name)` gives an answer's kind, cell and `states`; NULL for what is not in the sheet.
not_asked_formula <- function(condition, cells_of, book) {
  if (is.null(condition)) NULL else known_truth(condition$tree, cells_of, book)$no
}

# Formulas for certainly true and certainly false, NULL where that is never known.
known_truth <- function(node, cells_of, book) {
  if (node$op %in% c("&", "|", "!")) {
    parts <- lapply(node$args, known_truth, cells_of = cells_of, book = book)
    yes <- lapply(parts, `[[`, "yes")
    no <- lapply(parts, `[[`, "no")
    return(switch(node$op,
      "!" = list(yes = no[[1]], no = yes[[1]]),
      "&" = list(yes = all_formulas(yes), no = any_formula(no)),
      "|" = list(yes = any_formula(yes), no = all_formulas(no))
    ))
  }
  name <- expr_uses(node)
  cells <- if (length(name) == 1) cells_of(name)
  if (is.null(cells)) list(yes = NULL, no = NULL)
  else if (!is.null(cells$states)) known_by_code(node, name, cells$states)
  else if (cells$kind %in% c("number", "date")) known_by_number(node, cells)
  else list(yes = NULL, no = NULL)
}

all_formulas <- function(formulas) if (!any(vapply(formulas, is.null, TRUE)))
  paste0("AND(", paste(unlist(formulas), collapse = ","), ")")

any_formula <- function(formulas) {
  known <- unlist(formulas)
  if (length(known) > 0) paste0("OR(", paste(known, collapse = ","), ")")
}

# The leaf is worked out for each code and reason that a cell can hold; `states` has `value`,
# `reason` and the `formula` that says that the cell holds it.
known_by_code <- function(node, name, states) {
  column <- new_column(states$value, states$reason)
  truth <- evaluate_expression(
    list(tree = node), with_names(list(column), name), length(states$value)
  )
  list(
    yes = any_formula(as.list(states$formula[truth %in% TRUE])),
    no = any_formula(as.list(states$formula[truth %in% FALSE]))
  )
}

# A number or date against what the condition names.
known_by_number <- function(node, cells) {
  none <- list(yes = NULL, no = NULL)
  if (!node$op %in% c("==", "!=", "<", "<=", ">", ">=")) return(none)
  left <- number_of_node(node$args[[1]], cells)
  right <- number_of_node(node$args[[2]], cells)
  if (is.null(left) || is.null(right)) return(none)
  sign <- c("==" = "=", "!=" = "<>")[node$op]
  holds <- paste0(left, if (is.na(sign)) node$op else sign, right)
  number <- paste0("ISNUMBER(", cells$cell, ")")
  list(
    yes = paste0("AND(", number, ",", holds, ")"),
    no = paste0("AND(", number, ",NOT(", holds, "))")
  )
}

number_of_node <- function(node, cells) {
  if (node$op == "variable") return(cells$cell)
  if (node$op == "seconds") return(number_of_node(node$args[[1]], cells))
  if (node$op != "constant" || !is.numeric(node$value)) return(NULL)
  number_to_text(days_of_sheet(node$value, cells$kind, cells$level))
}

# Days since 1970, or seconds, as a workbook counts days.
days_of_sheet <- function(value, kind, level) {
  if (kind != "date") value else if (level == "date") value + 25569 else value / 86400 + 25569
}

# What the cells of an answer can hold, each with the formula that says so.
cell_states <- function(field, cell, boxes, offered) {
  quoted <- function(text) paste0("\"", gsub("\"", "\"\"", text, fixed = TRUE), "\"")
  is_one <- function(of) paste0(
    "OR(", cell, "=", quoted(of$label), ",", cell, "=", number_to_text(of$code), ",", cell, "=",
    quoted(number_to_text(of$code)), ")", recycle0 = TRUE
  )
  gaps <- field$gaps
  if (field$kind == "choice") return(list(
    value = c(field$codes$code, rep(NA, length(gaps$code))),
    reason = c(rep(0L, length(field$codes$code)), gaps$id),
    formula = c(is_one(field$codes), is_one(gaps))
  ))
  # An unticked box is known once another of the question is ticked.
  list(
    value = c(1L, 0L), reason = c(0L, 0L),
    formula = c(
      paste0("AND(", cell, "<>\"\",COUNTIF(", offered, ",", cell, ")=0)"),
      paste0("AND(", cell, "=\"\",COUNTA(", boxes, ")>0)")
    )
  )
}
