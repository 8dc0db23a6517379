# A study as tables of a database of the PostgreSQL kind: statements, and columns as texts that the
# server types itself.

# Names in the order in which they are filled; dropped the other way round.
sql_tables <- c("missing", "variables", "codes", "analysis", "gaps", "selections")
# A view for each kind of question besides, a row an answer: kept as tables they would hold all
# answers twice.
sql_views <- c(
  "analysis_labels", "gaps_labels", "single_answers", "numbers", "texts", "single_answers_labels"
)

sql_name <- function(...) paste0("\"", c(...), "\"", collapse = ".")
sql_text <- function(text) paste0("'", gsub("'", "''", enc2utf8(text), fixed = TRUE), "'")

# Where the tables stand: said, else the study's id.
schema_of <- function(edition) {
  said <- edition$release$schema
  if (is.null(said)) said <- edition$study$book$study$id
  if (is.null(said)) return(NULL)
  gsub("[^a-z0-9]+", "_", tolower_ascii(said))
}

check_schema <- function(edition, format) {
  schema <- schema_of(edition)
  problem <- if (is.null(schema)) paste0(
    "say under `schema` where the tables stand, or give the study an `id`"
  ) else if (!grepl("^[a-z][a-z0-9_]{0,62}$", schema)) paste0(
      "`", schema, "` cannot be the name of a schema: begin with a letter"
    ) else if (length(edition$names) > 1590) paste0(
      "a table holds 1,590 variables at most, and ", grouped(length(edition$names)), " go out"
    )
  if (is.null(problem)) list() else list(list(path = "formats", message = paste0(
    "`", format, "`: ", problem
  )))
}

sql_type <- function(variable) {
  if (is_coded(variable)) return("integer")
  if (is_date(variable)) return(if (variable$level == "date") "date" else "timestamp")
  if (variable$storage == "number") "double precision" else "text"
}

# What makes the tables in a schema, empty and with their comments.
sql_creation <- function(edition, schema) {
  name_of <- function(table) sql_name(schema, table)
  types <- vapply(edition$names, function(name) sql_type(edition_variable(edition, name)), "")
  described <- setdiff(names(describe_variables(edition)), "variable")
  c(
    paste0("CREATE TABLE ", name_of("missing"),
      " (code integer PRIMARY KEY, reason text NOT NULL UNIQUE, label text, cells integer)"),
    paste0("CREATE TABLE ", name_of("variables"),
      " (variable text PRIMARY KEY, place integer NOT NULL, ",
      paste(sql_names(described), "text", collapse = ", "), ")"),
    paste0("CREATE TABLE ", name_of("codes"), " (variable text NOT NULL REFERENCES ",
      name_of("variables"),
      ", code text NOT NULL, label text NOT NULL, count integer, PRIMARY KEY (variable, code))"),
    paste0("CREATE TABLE ", name_of("analysis"), " (row integer, ",
      paste(sql_names(edition$names), types, collapse = ", "), ")"),
    paste0("CREATE TABLE ", name_of("gaps"), " (row integer, variable text, code integer)"),
    paste0("CREATE TABLE ", name_of("selections"), " (row integer, question text, option text)")
  )
}

# Keys of the large tables, once they are filled: checked all at once, not row by row.
sql_keys <- function(edition, schema) {
  key <- edition_key(edition)
  add <- function(table, ...) paste0("ALTER TABLE ", sql_name(schema, table), " ", paste0(
    "ADD ", c(...), collapse = ", "
  ))
  refers <- function(column, table) paste0(
    "FOREIGN KEY (", column, ") REFERENCES ", sql_name(schema, table)
  )
  c(
    add("analysis", "PRIMARY KEY (row)", if (length(key) > 0) paste0(
      "UNIQUE (", paste(sql_names(key), collapse = ", "), ")"
    )),
    add("gaps", "PRIMARY KEY (variable, row)", refers("row", "analysis"),
      refers("variable", "variables"), refers("code", "missing")),
    add("selections", "PRIMARY KEY (row, option)", refers("row", "analysis"),
      refers("option", "variables"))
  )
}

sql_names <- function(names) paste0("\"", names, "\"")

sql_views_made <- function(edition, schema) {
  name_of <- function(table) sql_name(schema, table)
  shown <- vapply(edition$names, function(name) {
    if (!has_labels(edition_variable(edition, name))) return(paste0("a.", sql_name(name)))
    paste0("(SELECT label FROM ", name_of("codes"), " WHERE variable = ", sql_text(name),
      " AND code = a.", sql_name(name), "::text) AS ", sql_name(name))
  }, "")
  c(
    paste0("CREATE VIEW ", name_of("analysis_labels"), " AS SELECT a.row, ",
      paste(shown, collapse = ", "), " FROM ", name_of("analysis"), " a"),
    paste0("CREATE VIEW ", name_of("gaps_labels"),
      " AS SELECT g.row, g.variable, m.reason, m.label FROM ", name_of("gaps"), " g JOIN ",
      name_of("missing"), " m USING (code)"),
    sql_kinds(edition, schema),
    paste0("CREATE VIEW ", name_of("single_answers_labels"), " AS SELECT s.*, c.label FROM ",
      name_of("single_answers"), " s JOIN ", name_of("codes"),
      " c ON c.variable = s.variable AND c.code = s.value::text")
  )
}

# Answers of one kind, a row each, with wave and respondent where these go out.
sql_kinds <- function(edition, schema) {
  kinds <- vapply(edition$names, function(name) paste0(
    sql_kind(edition_variable(edition, name)), ""
  ), "")
  keys <- Filter(nzchar, c(wave = edition$wave, respondent = edition$key))
  named <- paste0("a.", sql_names(keys), " AS ", sql_names(names(keys)), recycle0 = TRUE)
  types <- c(single_answers = "integer", numbers = "double precision", texts = "text")
  vapply(names(types), function(kind) {
    names <- edition$names[kinds == kind]
    rows <- if (length(names) > 0) paste0(
      "(", vapply(names, sql_text, ""), ", a.", sql_names(names), ")", collapse = ", "
    ) else paste0("(NULL::text, NULL::", types[[kind]], ")")
    paste0("CREATE VIEW ", sql_name(schema, kind), " AS SELECT ", paste(c(
      "a.row", named, "k.variable", "k.value"
    ), collapse = ", "), " FROM ", sql_name(schema, "analysis"), " a CROSS JOIN LATERAL (VALUES ",
    rows, ") k (variable, value) WHERE k.value IS NOT NULL")
  }, "")
}

sql_comments <- function(edition, schema) {
  comment <- function(on, text) paste0("COMMENT ON ", on, " IS ", sql_text(text))
  tables <- c(
    missing = "Missing reasons and their codes",
    variables = "The variables and their documentation",
    codes = "Codes and labels", analysis = "The data: a row a record, codes, gaps empty",
    gaps = "Why a cell of the data is empty",
    selections = "Ticked options of questions with several answers"
  )
  variables <- describe_variables(edition)
  said <- paste0(variables$label, ifelse(nzchar(variables$question), paste0(
    ": ", variables$question
  ), ""))
  c(
    comment(paste("SCHEMA", sql_name(schema)), sql_mark(edition)),
    vapply(names(tables), function(table) comment(paste("TABLE", sql_name(schema, table)),
      tables[[table]]), ""),
    vapply(seq_along(edition$names), function(k) comment(paste0(
      "COLUMN ", sql_name(schema, "analysis"), ".", sql_name(edition$names[k])
    ), said[k]), "")
  )
}

# By this mark a schema is known as ours.
sql_mark <- function(edition) paste0(
  "Made by Mavik: ", edition$study$book$study$title, ", release ", edition$release$name
)

# `put(table, columns)` takes the rows of each table, some at a time, as texts.
sql_fill <- function(edition, put, size = 50000L) {
  each <- function(table, columns) if (length(columns[[1]]) > 0) put(
    table, lapply(columns, sql_cell)
  )
  each("missing", describe_missing(edition)[c("code", "reason", "label", "cells")])
  each("variables", numbered_variables(edition))
  each("codes", describe_codes(edition))
  for (chunk in parts_of_rows(edition$n, size)) {
    signal_progress("write", "analysis", chunk[1], edition$n)
    each("analysis", c(list(row = chunk), values_at(edition, chunk)))
  }
  codes <- edition$study$book$reasons$code
  for (name in sort_c(edition$names)) {
    reason <- edition_values(edition, name)$reason
    gaps <- which(!is.na(reason))
    for (some in parts_of_rows(length(gaps), size)) {
      chunk <- gaps[some]
      each("gaps", list(row = chunk, variable = rep(name, length(chunk)), code = codes[
        as.integer(reason[chunk])
      ]))
    }
  }
  ticked <- edition_selections(edition)
  each("selections", list(row = ticked$at, question = ticked$question, option = ticked$option))
}

# The view of its kind of question; options stand among the selections.
sql_kind <- function(variable) {
  if (!is.null(parent_of(variable)) || is_key(variable) || is_wave(variable)) return(NULL)
  if (is_coded(variable)) "single_answers" else if (is_date(variable)) NULL else
    if (variable$storage == "number") "numbers" else "texts"
}

sql_cell <- function(column) {
  column <- csv_column(column)
  if (is.factor(column)) column <- as.character(column)
  if (is.character(column)) column else number_to_text(column)
}
