# One graph of variables and rules is worked through: answers are routed, rules
# read them, and what no rule sets aside is settled. Derived variables come as soon
# as all they are made of is settled.

settle_answers <- function(decoded, book, rows, records) {
  state <- list(
    values = decoded, decoded = if ("s:" %in% book$work) decoded, routed = list(), aside = list(),
    truth = new.env(), ledger = list(), findings = list(), skips = list(), outside = list(),
    rules = list()
  )
  for (node in book$work) {
    name <- substring(node, 3)
    if (!is.null(state$screened)) rows$retained <- which(is.na(state$screened$dropped))
    state <- switch(substr(node, 1, 1),
      q = route_step(state, book$variables[[name]], book, rows),
      r = rule_step(state, book$rules[[name]], book, rows),
      v = settle_step(state, book$variables[[name]], book, rows),
      s = screen_step(state, book, records)
    )
  }
  state <- finish_file_rules(state, book, rows)
  state$rules <- state$rules[intersect(names(book$rules), names(state$rules))]
  state[c("values", "ledger", "findings", "skips", "outside", "rules", "screened")]
}

route_step <- function(state, variable, book, rows) {
  name <- variable$name
  filters <- lapply(
    all_versions(variable), function(version) filter_of(state, version$universe, rows$n, book)
  )
  filters <- with_names(
    filters, vapply(all_versions(variable), function(version) paste0(version$universe$text, ""), "")
  )
  out <- if (!any(vapply(all_versions(variable), is_routed, TRUE))) list(
    column = state$values[[name]]
  ) else over_versions(variable, state$values[[name]], book, rows,
  function(version, column, rows, own) {
    if (!is_routed(version)) return(list(column = column))
    filter <- filters[[paste0(version$universe$text, "")]]
    route_answer(
      column, version, filter$truth[own], if (length(filter$reason) > 0) filter$reason[own], book
    )
  })
  state$values[[name]] <- held_column(out$column, book$held)
  state$routed[name] <- state$values[name]
  state$ledger <- c(state$ledger, held_entries(out$ledger, book$held))
  state$findings <- c(state$findings, out$findings)
  state$skips[[name]] <- out$skips
  state$outside[[name]] <- outside_of(variable, filters, book, rows)
  state
}

is_routed <- function(version) !is.null(version$universe) || has_own_range(version) ||
  identical(version$storage, "set")

outside_of <- function(variable, filters, book, rows) {
  groups <- version_rows(variable, book, rows)
  if (is.null(groups)) return(filters[[1]]$outside)
  sort(unlist(lapply(
    groups,
    function(group) if (!is_absent(group$version)) intersect(
      filters[[paste0(group$version$universe$text, "")]]$outside, group$at
    )
  )))
}

# The rows of each version of a variable; NULL where all are alike.
version_rows <- function(variable, book, rows) {
  if (is.null(variable$versions)) return(NULL)
  id <- vapply(book$exports, function(export)
    paste0(variable$version_of[export$unspread], ""), "")[rows$export]
  lapply(
    split(seq_len(rows$n), id),
    function(alike) list(at = alike,
      version = version_in(variable, book$exports[[rows$export[alike[1]]]]))
  )
}

# Who is retained is known before all else where answers of an earlier wave are taken.
screen_step <- function(state, book, records, decoded = state$decoded) {
  state$screened <- settle_repeats(
    screen_records(state, decoded, book, records), state, decoded, book, records
  )
  state
}

# Does something to a column version by version, and puts the parts together.
# Where the question was not asked nothing is done.
over_versions <- function(variable, column, book, rows, act) {
  groups <- version_rows(variable, book, rows)
  if (is.null(groups)) return(act(variable, column, rows, seq_len(rows$n)))
  out <- list(column = list(value = column$value, reason = reason_or_none(column)))
  for (group in groups) {
    if (is_absent(group$version)) next
    own <- group$at
    part <- act(
      group$version, new_column(column$value[own], column$reason[own]), rows_at(rows, own), own
    )
    out$column$value[own] <- part$column$value
    out$column$reason[own] <- reason_or_none(part$column)
    out$ledger <- c(out$ledger, lapply(part$ledger, move_rows, own = own))
    out$findings <- c(out$findings, lapply(part$findings, move_rows, own = own))
    if (!is.null(part$skips)) out$skips <- if (is.null(out$skips)) part$skips else out$skips +
      part$skips
  }
  out$column <- new_column(out$column$value, out$column$reason)
  out
}

rows_at <- function(rows, own) list(n = length(own), key = rows$key[own], id = rows$id[own],
  wave = rows$wave[own], export = rows$export[own])

move_rows <- function(entry, own) {
  entry$rows <- own[entry$rows]
  entry
}

# A condition that many questions share is worked out once.
filter_of <- function(state, universe, n, book) {
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
  filter <- list(truth = truth, reason = reason, outside = which(!truth))
  assign(universe$text, filter, envir = state$truth)
  filter
}

rule_step <- function(state, rule, book, rows) {
  inputs <- c(state$routed[rule$aside], state$values[setdiff(rule$reads, rule$aside)])
  if (!is.null(rule$files)) return(file_rule_step(state, rule, rows))
  out <- rules()[[rule$kind]]$compute(rule, inputs, book, rows)
  count <- 0L
  for (name in rule$aside) {
    broken <- out$rows
    aside <- broken[!is.na(state$routed[[name]]$value[broken])]
    count <- count + length(aside)
    if (length(aside) > 0) state$aside[[name]] <- c(
      state$aside[[name]], list(list(rule = rule, rows = aside))
    )
  }
  state$rules[[rule$name]] <- list(rows = length(out$rows), cells = count)
  state$findings <- c(state$findings, rule_findings(rule, out, count, book))
  state
}

# Where two files contradict each other is known when they are decoded, whatever
# universes they have; how many answers that sets aside, when all is settled.
file_rule_step <- function(state, rule, rows) {
  of <- rows$contradicted[[rule$name]]
  for (name in intersect(rule$aside, names(of))) {
    state$aside[[name]] <- c(state$aside[[name]], list(list(rule = rule, rows = of[[name]])))
  }
  state$rules[[rule$name]] <- list(rows = length(unique(unlist(of))), cells = 0L)
  state
}

finish_file_rules <- function(state, book, rows) {
  for (rule in Filter(function(rule) !is.null(rule$files), book$rules)) {
    path <- paste(rule$path, collapse = " > ")
    count <- sum(0L, unlist(lapply(state$ledger, function(entry) if (entry$kind == "rule" &&
      entry$rule == path) length(entry$rows))))
    state$rules[[rule$name]]$cells <- count
    out <- list(rows = sort(unique(unlist(rows$contradicted[[rule$name]]))))
    state$findings <- c(state$findings, rule_findings(rule, out, count, book))
  }
  state
}

rule_findings <- function(rule, out, count, book) {
  if (length(out$rows) == 0) return(list())
  list(new_finding("warning", "rule", if (length(rule$reads) == 1) rule$reads else "", "",
    length(out$rows), out$rows, rule$path, paste0(
    rules()[[rule$kind]]$sentence(rule, book), if (length(out$more) > 0 && nzchar(out$more) &&
      !any(rule$reads %in% private_variables(book))) paste0(" (", out$more, ")"),
    if (is.null(rule$aside)) ": reported only; `sets_aside` would empty the answers" else paste0(
      ": ", count_of(count, "answer"), " set aside"
    )
  )))
}

# A derived variable's values; each version makes those of its own rows.
make_values <- function(variable, inputs, book, rows) {
  way <- way_of(variable)
  if (is.null(variable$versions)) return(way$compute(variable, inputs, book, rows))
  made <- over_versions(variable, absent_column_of(variable, rows$n, book), book, rows,
    function(version, column, part, own) {
    made <- way$compute(version, columns_at(inputs, own), book, part)
    list(column = made[c("value", "reason")], ledger = made$ledger, findings = made$findings)
  })
  c(made$column, made[c("ledger", "findings")])
}

# Words that went since a person gave their choice another code.
followed_entry <- function(variable, before, after, book) {
  rows <- which(!is.na(before$value) & is.na(after$value))
  if (length(rows) == 0) return(list())
  was <- distinct_of(value_text(variable, before$value[rows]))
  reason <- reason_or_none(after)[rows]
  lapply(unname(split(seq_along(rows), reason)), function(alike) {
    new_entry("corrected", variable$name, variable$path, rows[alike], was$value, was$index[alike],
      now_reason = book$reasons$name[reason[alike[1]]],
      note = "the choice that these words belong to was given another code")
  })
}

columns_at <- function(columns, own) lapply(
  columns, function(column) new_column(column$value[own], column$reason[own])
)

settle_step <- function(state, variable, book, rows) {
  name <- variable$name
  if (is.null(state$values[[name]])) {
    signal_progress("make", name)
    made <- make_values(variable, state$values[book$uses[[name]]], book, rows)
    column <- held_column(made[c("value", "reason")], book$held)
    state$ledger <- c(state$ledger, held_entries(made$ledger, book$held))
    state$findings <- c(state$findings, made$findings, not_computable_finding(variable, column,
      state$values[book$uses[[name]]], book))
    state$values[[name]] <- column
  } else if (!is.null(way_of(variable)$refine)) {
    inputs <- state$values[book$uses[[name]]]
    before <- state$values[[name]]
    refined <- over_versions(variable, before, book, rows, function(version, column, rows, own) {
      list(column = way_of(version)$refine(version, column, columns_at(inputs, own), book))
    })
    state$values[[name]] <- held_column(refined$column, book$held)
    state$ledger <- c(state$ledger, followed_entry(variable, before, state$values[[name]], book))
  }
  if (is.null(state$routed[[name]])) state <- route_step(state, variable, book, rows)
  state$routed[[name]] <- NULL
  asides <- state$aside[[name]]
  # Of several rules the first in the codebook is named; none touches a cell twice.
  asides <- asides[order(match(
    vapply(asides, function(aside) aside$rule$name, ""), names(book$rules)))]
  for (aside in asides) {
    column <- state$values[[name]]
    here <- aside$rows[!is.na(column$value[aside$rows])]
    if (length(here) == 0) next
    was <- distinct_of(column$value[here])
    state$values[[name]] <- held_column(set_aside(column, here, book), book$held)
    entry <- new_entry(
      "rule", name, aside$rule$path, here, value_text(variable, was$value), was$index,
      now_reason = "set_aside"
    )
    state$ledger <- c(state$ledger, held_entries(list(entry), book$held))
  }
  state$aside[[name]] <- NULL
  state
}
