# From decoded to routed: what a variable's own range rules out is set aside.

route_answers <- function(values, book) {
  ledger <- found <- list()
  for (name in names(values)) {
    variable <- book$variables[[name]]
    if (variable$storage != "number" || is.null(variable$range) || variable$way != "column") next
    out <- set_outside_aside(values[[name]], variable, book)
    values[[name]] <- out$column
    ledger <- c(ledger, out$ledger)
    found <- c(found, out$findings)
  }
  list(values = values, ledger = ledger, findings = found)
}

set_outside_aside <- function(column, variable, book) {
  rows <- which(column$value < variable$range[1] | column$value > variable$range[2])
  if (length(rows) == 0) return(list(column = column))
  was <- unique(column$value[rows])
  index <- match(column$value[rows], was)
  path <- where_in(variable, "range")
  reason <- reason_or_none(column)
  reason[rows] <- reason_id(book, "set_aside")
  column$value[rows] <- NA
  list(
    column = new_column(column$value, reason),
    ledger = list(new_entry("range", variable$name, path, rows, number_to_text(was), index, now_reason = "set_aside")),
    findings = lapply(seq_along(was), function(at) {
      new_finding("warning", "range", variable$name, number_to_text(was[at]), sum(index == at), rows[index == at], path,
        paste0("outside ", paste(range_shown(variable$range), collapse = " to "), ", set aside"))
    })
  )
}

range_shown <- function(range) ifelse(range == -Inf, "any lower value", ifelse(range == Inf, "any higher value", number_to_text(range)))
