# A database in one file: answers, gaps, what describes them, and views with labels.

format_sqlite <- new_format(
  help = paste0(
    "`analysis.sqlite`: the tables analysis (codes), gaps (a row a gap), variables, codes, ",
    "missing, selections (a row a ticked option), and the views analysis_labels and gaps_labels"
  ),
  cannot = paste0(
    "labels in the table itself (`values` and `gaps` change nothing in it: the views hold ",
    "labels); more than 1,999 variables; dates as a type of their own (they are ISO 8601 texts)"
  ),
  files = function(edition) "analysis.sqlite",
  check = function(edition) if (length(edition$names) > 1999) list(list(
    path = "formats", message = paste0(
      "`sqlite`: a table holds 1,999 variables at most, and ", grouped(length(edition$names)),
      " go out: take fewer (`variables`), or `parquet`"
    )
  )) else list(),
  write = function(edition, folder) in_database(file.path(
    folder, "analysis.sqlite"
  ), function(con) {
    for (pragma in c("journal_mode = OFF", "synchronous = OFF", "foreign_keys = OFF"))
      DBI::dbExecute(con, paste("PRAGMA", pragma))
    DBI::dbExecute(con, "BEGIN")
    for (statement in database_tables(edition)) DBI::dbExecute(con, statement)
    for (table in c("missing", "variables", "codes")) fill_table(con, table, switch(table,
      missing = describe_missing(edition)[c("code", "reason", "label", "cells")],
      variables = numbered_variables(edition), codes = typed_codes(edition)
    ))
    fill_answers(con, edition)
    fill_gaps(con, edition)
    ticked <- edition_selections(edition)
    fill_table(con, "selections", list(
      row = ticked$at, question = ticked$question, option = ticked$option
    ))
    for (statement in database_views(edition)) DBI::dbExecute(con, statement)
    DBI::dbExecute(con, "COMMIT")
  }),
  back = function(edition, folder) {
    path <- file.path(folder, "analysis.sqlite")
    facts <- in_database(path, function(con) list(
      n = DBI::dbGetQuery(con, "SELECT COUNT(*) AS n FROM analysis")$n,
      names = setdiff(DBI::dbListFields(con, "analysis"), "row")
    ))
    values <- in_batches(facts$names, facts$n, function(names) in_database(
      path, function(con) DBI::dbGetQuery(con, paste0(
        "SELECT ", paste(sql_names(names), collapse = ", "), " FROM analysis ORDER BY row"
      ))
    ))
    list(
      n = facts$n, names = facts$names, codes = TRUE,
      value = values, reason = function(name) in_database(path, gaps_back, name, edition)
    )
  }
)

in_database <- function(path, work, ...) {
  con <- DBI::dbConnect(RSQLite::SQLite(), path, extended_types = FALSE, synchronous = NULL)
  on.exit(DBI::dbDisconnect(con))
  work(con, ...)
}

database_tables <- function(edition) {
  types <- vapply(edition$names, function(name) {
    variable <- edition_variable(edition, name)
    if (is_coded(variable)) "INTEGER" else if (is_date(variable) || variable$storage == "text")
      "TEXT" else "REAL"
  }, "")
  key <- edition_key(edition)
  c(
    paste0(
      "CREATE TABLE missing (code INTEGER PRIMARY KEY, reason TEXT NOT NULL UNIQUE, label TEXT, ",
      "cells INTEGER)"
    ),
    paste0(
      "CREATE TABLE variables (variable TEXT PRIMARY KEY, place INTEGER NOT NULL, ",
      paste(sql_names(setdiff(
        names(describe_variables(edition)), "variable"
      )), collapse = ", "), ")"
    ),
    paste0(
      "CREATE TABLE codes (variable TEXT NOT NULL REFERENCES variables, code NOT NULL, ",
      "label TEXT NOT NULL, count INTEGER, PRIMARY KEY (variable, code)) WITHOUT ROWID"
    ),
    paste0(
      "CREATE TABLE analysis (row INTEGER PRIMARY KEY, ",
      paste(sql_names(edition$names), types, collapse = ", "),
      if (length(key) > 0) paste0(", UNIQUE (", paste(sql_names(key), collapse = ", "), ")"), ")"
    ),
    paste0(
      "CREATE TABLE gaps (variable TEXT NOT NULL REFERENCES variables, ",
      "row INTEGER NOT NULL REFERENCES analysis, code INTEGER NOT NULL REFERENCES missing, ",
      "PRIMARY KEY (variable, row)) WITHOUT ROWID"
    ),
    paste0(
      "CREATE TABLE selections (row INTEGER NOT NULL REFERENCES analysis, question TEXT NOT NULL, ",
      "option TEXT NOT NULL REFERENCES variables, PRIMARY KEY (row, option)) WITHOUT ROWID"
    ),
    if (any(names(edition$records) %in% beside_names)) paste0(
      "CREATE TABLE records (row INTEGER PRIMARY KEY REFERENCES analysis, ",
      paste(intersect(beside_names, names(edition$records)), collapse = ", "), ")"
    )
  )
}

beside_names <- c("export", "line", "response")

database_views <- function(edition) {
  shown <- vapply(edition$names, function(name) {
    if (!has_labels(edition_variable(edition, name))) return(sql_names(name))
    paste0(
      "(SELECT label FROM codes WHERE variable = '", name, "' AND code = a.", sql_names(name),
      ") AS ", sql_names(name)
    )
  }, "")
  c(
    paste0(
      "CREATE VIEW analysis_labels AS SELECT row, ", paste(shown, collapse = ", "),
      " FROM analysis a"
    ),
    paste0(
      "CREATE VIEW gaps_labels AS SELECT row, variable, missing.reason, missing.label ",
      "FROM gaps JOIN missing USING (code)"
    )
  )
}

numbered_variables <- function(edition) {
  variables <- describe_variables(edition)
  c(list(variable = variables$variable, place = seq_len(nrow(variables))), variables[-1])
}

# A code is a number where the column holds numbers.
typed_codes <- function(edition) {
  codes <- describe_codes(edition)
  coded <- vapply(
    codes$variable, function(name) is_coded(edition_variable(edition, name)), TRUE
  )
  place <- order(codes$variable, method = "radix")
  codes <- codes[place, ]
  codes$code <- lapply(seq_len(nrow(codes)), function(row) if (coded[place][row]) as.integer(
    codes$code[row]
  ) else codes$code[row])
  codes
}

fill_table <- function(con, table, columns) {
  if (length(columns[[1]]) == 0) return()
  names <- names(columns)
  insert <- paste0(
    "INSERT INTO ", table, " (", paste(sql_names(names), collapse = ", "), ") VALUES (",
    paste(rep("?", length(names)), collapse = ", "), ")"
  )
  lists <- vapply(columns, is.list, TRUE)
  if (!any(lists)) return(DBI::dbExecute(con, insert, params = unname(as.list(columns))))
  # Values of two types in one column go one kind after the other.
  for (whole in c(TRUE, FALSE)) {
    places <- which(vapply(columns[[which(lists)]], is.integer, TRUE) == whole)
    if (length(places) > 0) DBI::dbExecute(con, insert, params = unname(lapply(columns, function(
      column
    ) if (is.list(column)) unlist(column[places]) else column[places])))
  }
}

# Some rows at a time: what is bound is a copy.
fill_answers <- function(con, edition, size = 50000) {
  insert <- paste0(
    "INSERT INTO analysis (row, ", paste(sql_names(edition$names), collapse = ", "), ") VALUES (",
    paste(rep("?", length(edition$names) + 1), collapse = ", "), ")"
  )
  for (rows_now in parts_of_rows(edition$n, size)) {
    if (length(rows_now) == 0) break
    signal_progress("write", "analysis.sqlite", rows_now[1], edition$n)
    DBI::dbExecute(con, insert, params = c(
      list(rows_now), unname(lapply(values_at(edition, rows_now), csv_column))
    ))
  }
  beside <- edition$records[intersect(beside_names, names(edition$records))]
  if (length(beside) > 0) fill_table(con, "records", c(list(row = seq_len(edition$n)), beside))
}

fill_gaps <- function(con, edition) {
  codes <- edition$study$book$reasons$code
  for (name in sort_c(edition$names)) {
    reason <- edition_values(edition, name)$reason
    gaps <- which(!is.na(reason))
    if (length(gaps) > 0) for (some in parts_of_rows(length(gaps), 1e6)) {
      some_gaps <- gaps[some]
      DBI::dbExecute(con, "INSERT INTO gaps (variable, row, code) VALUES (?, ?, ?)",
        params = list(rep(name, length(some_gaps)), some_gaps,
          codes[as.integer(reason[some_gaps])]))
    }
  }
}

gaps_back <- function(con, name, edition) reasons_at(DBI::dbGetQuery(
  con, "SELECT row, code FROM gaps WHERE variable = ?", params = list(name)
), edition)

# Rows and codes of gaps as a factor of all records.
reasons_at <- function(gaps, edition) {
  if (nrow(gaps) == 0) return(NULL)
  reasons <- edition$study$book$reasons
  reason <- rep(NA_integer_, edition$n)
  reason[gaps$row] <- match(gaps$code, reasons$code)
  structure(reason, levels = reasons$name, class = "factor")
}
