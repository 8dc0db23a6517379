# One graph of variables and rules is worked through: answers are routed, rules
# read them, and what no rule sets aside is settled. Made variables come as soon
# as all they are made of is settled.

settle_answers <- function(decoded, book, rows) {
  state <- list(values = decoded, routed = list(), aside = list(), truth = new.env(), ledger = list(), findings = list(), skips = list(), outside = list(), rules = list())
  for (node in book$work) {
    name <- substring(node, 3)
    state <- switch(substr(node, 1, 1),
      q = route_step(state, book$variables[[name]], book, rows),
      r = rule_step(state, book$rules[[name]], book, rows),
      v = settle_step(state, book$variables[[name]], book, rows)
    )
  }
  state$rules <- state$rules[intersect(names(book$rules), names(state$rules))]
  state[c("values", "ledger", "findings", "skips", "outside", "rules")]
}

route_step <- function(state, variable, book, rows) {
  name <- variable$name
  if (is.null(variable$universe) && !has_own_range(variable) && !identical(variable$storage, "set")) {
    state$routed[[name]] <- state$values[[name]]
    return(state)
  }
  gate <- gate_of(state, variable$universe, rows$n, book)
  out <- route_answer(state$values[[name]], variable, gate$truth, gate$reason, book)
  state$routed[[name]] <- state$values[[name]] <- out$column
  state$ledger <- c(state$ledger, out$ledger)
  state$findings <- c(state$findings, out$findings)
  state$skips[[name]] <- out$skips
  if (!is.null(gate)) state$outside[[name]] <- gate$outside
  state
}

# A condition that many questions share is worked out once.
gate_of <- function(state, universe, n, book) {
  if (is.null(universe)) return(NULL)
  known <- state$truth[[universe$text]]
  if (!is.null(known)) return(known)
  inputs <- state$values[universe$uses]
  truth <- evaluate_expression(universe, inputs, n)
  reason <- integer()
  if (anyNA(truth)) {
    reason <- first_reason(inputs, n)
    reason[reason == 0L] <- reason_id(book, "not_computable")
  }
  gate <- list(truth = truth, reason = reason, outside = which(!truth))
  assign(universe$text, gate, envir = state$truth)
  gate
}

rule_step <- function(state, rule, book, rows) {
  inputs <- c(state$routed[rule$aside], state$values[setdiff(rule$reads, rule$aside)])
  out <- if (is.null(rule$files)) rules()[[rule$kind]]$compute(rule, inputs, book, rows$n) else list(rows = sort(unique(unlist(rows$contradicted[[rule$name]]))))
  count <- 0L
  for (name in rule$aside) {
    broken <- if (is.null(rule$files)) out$rows else rows$contradicted[[rule$name]][[name]]
    aside <- broken[!is.na(state$routed[[name]]$value[broken])]
    count <- count + length(aside)
    if (length(aside) > 0) state$aside[[name]] <- c(state$aside[[name]], list(list(rule = rule, rows = aside)))
  }
  state$rules[[rule$name]] <- list(rows = length(out$rows), cells = count)
  state$findings <- c(state$findings, rule_findings(rule, out, count, book))
  state
}

rule_findings <- function(rule, out, count, book) {
  if (length(out$rows) == 0) return(list())
  list(new_finding("warning", "rule", if (length(rule$reads) == 1) rule$reads else "", "", length(out$rows), out$rows, rule$path, paste0(
    rules()[[rule$kind]]$sentence(rule, book), if (length(out$more) > 0 && nzchar(out$more)) paste0(" (", out$more, ")"),
    if (is.null(rule$aside)) ": reported only; `sets_aside` would empty the answers" else paste0(": ", count_of(count, "answer"), " set aside")
  )))
}

settle_step <- function(state, variable, book, rows) {
  name <- variable$name
  if (is.null(state$values[[name]])) {
    signal_progress("make", name)
    made <- ways()[[variable$way]]$compute(variable, state$values[book$uses[[name]]], book, rows)
    state$ledger <- c(state$ledger, made$ledger)
    state$findings <- c(state$findings, made$findings)
    state$values[[name]] <- made[c("value", "reason")]
  } else if (!is.null(ways()[[variable$way]]$refine)) {
    state$values[[name]] <- ways()[[variable$way]]$refine(variable, state$values[[name]], state$values[book$uses[[name]]], book)
  }
  if (is.null(state$routed[[name]])) state <- route_step(state, variable, book, rows)
  state$routed[[name]] <- NULL
  asides <- state$aside[[name]]
  # Of several rules the first in the codebook is named; none touches a cell twice.
  asides <- asides[order(match(vapply(asides, function(one) one$rule$name, ""), names(book$rules)))]
  for (one in asides) {
    column <- state$values[[name]]
    here <- one$rows[!is.na(column$value[one$rows])]
    if (length(here) == 0) next
    was <- distinct_of(column$value[here])
    state$values[[name]] <- set_aside(column, here, book)
    state$ledger <- c(state$ledger, list(new_entry("rule", name, one$rule$path, here, value_text(variable, was$value), was$index, now_reason = "set_aside")))
  }
  state$aside[[name]] <- NULL
  state
}
