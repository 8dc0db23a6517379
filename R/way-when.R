# Conditions in order: the first that is true gives the code; `else` only where
# all are false. Where none is true and some are unknown there is a gap.

way_when <- new_way(
  help = "the code of the first condition that is true",
  example = c(
    "active:",
    "  label: Practised in the last month",
    "  when:",
    "    - {if: 'practice_alone > 0', is: 1}",
    "    - {else: 0}",
    "  codes: {0: No, 1: Yes}"
  ),
  value = field("branches",
    "conditions in order, each with a code or a missing reason; the first true one wins",
    "[{if: 'member == \"No\"', is: 0}, {else: 1}]"),
  beside = list(codes = field("codes_or_list", "the codes with their labels", "{0: No, 1: Yes}")),
  empty_where = "no condition is true and there is no `else`",
  no_finer = function(variable, source, coarser) TRUE,
  uses = function(variable, book) unique(unlist(lapply(
    variable$settings, function(branch) names_in_text(branch[["if"]], book)
  ))),
  makes = function(variable, book) {
    variable <- own_codes(variable, book)
    if (is.null(variable$level)) variable$level <- "nominal"
    variable$storage <- "coded"
    variable$problems <- list()
    note <- function(path, message) variable$problems[[length(variable$problems) + 1]] <<- list(
      path = path, message = message
    )
    variable$branches <- lapply(
      seq_along(variable$settings), function(k) compile_branch(variable, k, book, note)
    )
    variable
  },
  check = function(variable, book, say) {
    for (problem in variable$problems) say(problem$path, problem$message)
    check_made_codes(variable, book, say)
    if (length(variable$problems) == 0) check_branches(variable, book, say)
  },
  compute = function(variable, inputs, book, rows) {
    code <- rep(NA_integer_, rows$n)
    reason <- integer(rows$n)
    open <- rep(TRUE, rows$n)
    unknown <- logical(rows$n)
    for (branch in variable$branches) {
      truth <- if (is.null(branch$condition)) !unknown else evaluate_expression(
        branch$condition, inputs, rows$n
      )
      take <- open & truth & !is.na(truth)
      if (is.na(branch$code)) reason[take] <- branch$reason else code[take] <- branch$code
      open <- open & !take
      unknown <- unknown | is.na(truth)
    }
    if (any(open)) {
      gaps <- first_reason(inputs, rows$n)
      left <- ifelse(unknown & gaps > 0L, gaps, reason_id(book, "not_computable"))
      reason[open] <- left[open]
    }
    new_column(code, reason)
  },
  explain = function(variable, inputs, book) {
    truth <- lapply(
      variable$branches,
      function(branch) if (!is.null(branch$condition)) evaluate_expression(
        branch$condition, inputs, 1L
      )
    )
    words <- vapply(
      seq_along(truth),
      function(k) if (is.null(truth[[k]])) "" else paste0(
        "`", text_squeeze(variable$branches[[k]]$condition$text), "` is ",
        if (is.na(truth[[k]])) "unknown" else if (truth[[k]]) "true" else "false"
      ),
      ""
    )
    paste0("Here: ", paste(words[nzchar(words)], collapse = "; "), ".")
  },
  sentence = function(variable, book) {
    parts <- vapply(variable$branches, function(branch) {
      to <- if (is.na(branch$code)) paste0("a gap (", book$reasons$label[branch$reason], ")") else
        paste0("\u201c", label_of(variable, branch$code), "\u201d")
      if (is.null(branch$condition)) paste0(to, " where all of these are false") else paste0(
        to, " where `", text_squeeze(branch$condition$text), "`"
      )
    }, "")
    paste0("The first that is true: ", paste(parts, collapse = "; "), ".")
  }
)

# Variables that a condition names; blocks as their items, subsets as what they name.
names_in_text <- function(text, book, open = character()) {
  if (is.null(text)) return(character())
  named <- tryCatch(all.vars(parse_expression(text)), error = function(e) character())
  unique(unlist(lapply(setdiff(named, open), function(name) {
    if (name %in% names(book$subsets)) {
      names_in_text(book$subsets[[name]], book, c(open, name))
    } else if (name %in% names(book$blocks)) book$blocks[[name]] else
      intersect(name, names(book$variables))
  })))
}

compile_branch <- function(variable, number, book, note) {
  branch <- variable$settings[[number]]
  path <- where_in(variable, "when", number_to_text(number))
  last <- is.null(branch[["if"]])
  to <- if (last) branch[["else"]] else branch$is
  key <- if (last) "else" else "is"
  if (last && number < length(variable$settings)) note(
    c(path, "else"), "stands before other branches, which can then never be reached: put it last"
  )
  condition <- if (!last) compile_expression(branch[["if"]], book, c(path, "if"), note)
  code <- old_codes(variable, to)
  reason <- match(to, book$reasons$name)
  if (is.na(code) && is.na(reason)) note(
    c(path, key),
    paste0(
      "`", to, "` is neither one of its codes nor a missing reason",
      did_you_mean(to, c(variable$codes$label, book$reasons$name))
    )
  )
  list(condition = condition, code = as.integer(code), reason = reason, path = path)
}

# A branch that no combination of values can reach: worked out over all values
# that matter to the conditions, where these are few.
check_branches <- function(variable, book, say, most = 50000) {
  conditions <- Filter(Negate(is.null), lapply(variable$branches, `[[`, "condition"))
  # A condition that could not be read is told where it stands.
  if (length(conditions) < sum(!vapply(variable$settings, function(branch) is.null(branch[["if"]]),
    TRUE))) return()
  uses <- unique(unlist(lapply(conditions, `[[`, "uses")))
  columns <- lapply(with_names(uses, uses), function(name) telling_column(name, conditions, book))
  if (any(vapply(columns, is.null, TRUE))) return()
  sizes <- vapply(columns, function(column) length(column$value), 0L)
  n <- prod(sizes)
  if (n > most) return()
  grid <- expand.grid(lapply(sizes, seq_len), KEEP.OUT.ATTRS = FALSE)
  columns <- Map(function(column, branch) new_column(column$value[branch], column$reason[branch]),
    columns,
    grid)
  open <- rep(TRUE, n)
  unknown <- logical(n)
  for (branch in variable$branches) {
    truth <- if (is.null(branch$condition)) !unknown else evaluate_expression(
      branch$condition, columns, n
    )
    take <- open & truth & !is.na(truth)
    if (!any(take)) say(
      c(branch$path, if (is.null(branch$condition)) "else" else "if"),
      "can never be reached: whatever the values, an earlier condition is true or this one is false"
    )
    open <- open & !take
    unknown <- unknown | is.na(truth)
  }
}

# The values that matter to the conditions, and a gap for each reason that they
# tell apart: those they name, and one of the others. NULL where that is not
# enough to tell.
telling_column <- function(name, conditions, book) {
  values <- telling_values(name, conditions, book)
  if (is.null(values)) return(NULL)
  named <- unique(unlist(lapply(
    conditions, function(condition) reasons_named(condition$tree, name))))
  gaps <- c(named, utils::head(setdiff(seq_len(nrow(book$reasons)), named), 1))
  new_column(c(values, rep(NA, length(gaps))), c(integer(length(values)), gaps))
}

reasons_named <- function(node, name) {
  own <- if (node$op == "is_missing" && identical(node$args[[1]]$name, name)) node$reasons
  c(own, unlist(lapply(node$args, reasons_named, name = name)))
}

# All codes, or the numbers that stand in the conditions with one value between
# and beyond them. NULL where that is not enough to tell.
telling_values <- function(name, conditions, book) {
  variable <- book$variables[[name]]
  if (is_coded(variable)) return(if (has_all_codes(variable)) all_codes(variable))
  if (!variable$storage %in% c("number", "date")) return(NULL)
  met <- new.env()
  met$at <- numeric()
  met$other <- FALSE
  walk <- function(node) {
    inside <- vapply(
      node$args, function(arg) identical(arg$op, "variable") && identical(arg$name, name), TRUE
    )
    if (node$op %in% c("==", "!=", "<", "<=", ">", ">=") && any(inside)) {
      other <- node$args[!inside]
      if (length(other) == 1 && other[[1]]$op == "constant") met$at <- c(
        met$at, other[[1]]$value
      ) else met$other <- TRUE
    } else if (node$op == "%in%" && any(inside)) met$at <- c(met$at, node$set)
    else if (any(inside) && !node$op %in% c("is_missing", "n_answered")) met$other <- TRUE
    for (arg in node$args) walk(arg)
  }
  for (condition in conditions) walk(condition$tree)
  if (met$other) return(NULL)
  edges <- sort(unique(met$at))
  range <- if (is.null(variable$range)) c(-Inf, Inf) else variable$range
  edges <- sort(unique(c(edges, range[is.finite(range)])))
  if (length(edges) == 0) return(0)
  between <- c(
    edges[1] - 1, edges, edges[length(edges)] + 1,
    if (length(edges) > 1) (edges[-1] + edges[-length(edges)]) / 2
  )
  sort(unique(between[between >= range[1] & between <= range[2]]))
}
