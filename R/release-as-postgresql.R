# Into a database, in one transaction, compared before it is committed.

format_postgresql <- new_format(
  help = paste0(
    "tables of a PostgreSQL database in a schema (`schema`, the study's id if not said), by COPY ",
    "in one transaction: analysis, gaps, variables, codes, missing, selections, a view for each ",
    "kind of question (single_answers, numbers, texts), and views with labels. Where the ",
    "database is, the usual environment (PGHOST, PGDATABASE, PGSERVICE ...) says; `loaded.csv` ",
    "tells what was loaded"
  ),
  cannot = paste0(
    "labels in the tables themselves (the views hold them); addresses and response numbers; more ",
    "than 1,590 variables"
  ),
  files = function(edition) "loaded.csv",
  check = function(edition) c(check_schema(edition, "postgresql"), if (!requireNamespace(
    "RPostgres", quietly = TRUE
  )) list(list(path = "formats", message = paste0(
    "`postgresql` needs the package RPostgres, which is not installed: ",
    "install.packages(\"RPostgres\"), or take `postgresql_script`"
  )))),
  write = function(edition, folder) {
    schema <- schema_of(edition)
    loaded <- with_server(function(con) {
      load_schema(con, edition, schema)
      counts <- vapply(sql_tables, function(table) as.double(DBI::dbGetQuery(
        con, paste("SELECT count(*)::float8 AS n FROM", sql_name(schema, table))
      )$n), 0)
      compare_edition(edition, "postgresql", read_schema(con, edition, schema))
      list(schema = schema, counts = counts)
    })
    write_csv(data.frame(
      schema = schema, table = names(loaded$counts), rows = as.integer(loaded$counts)
    ), file.path(folder, "loaded.csv"))
  },
  back = function(edition, folder) {
    told <- read_written(file.path(folder, "loaded.csv"))
    list(n = as.integer(told$rows[told$table == "analysis"]))
  }
)

# Runs `work(con)` in one transaction. No message tells where the server is or what it holds.
with_server <- function(work) {
  # Asked for the zone of the machine, R would call a program that not every machine has.
  if (!nzchar(Sys.getenv("TZ"))) {
    Sys.setenv(TZ = "UTC")
    on.exit(Sys.unsetenv("TZ"))
  }
  con <- tryCatch(DBI::dbConnect(RPostgres::Postgres(), timezone = "UTC", timezone_out = "UTC"),
    error = function(e) stop_mavik(
      "release_error", "the database cannot be reached: the environment (PGHOST, PGPORT, ",
      "PGDATABASE, PGUSER, or PGSERVICE with a service file) says where it is; is it running, and ",
      "may you connect?"
    ))
  on.exit(try(DBI::dbDisconnect(con), silent = TRUE), add = TRUE)
  tryCatch({
    DBI::dbExecute(con, "BEGIN")
    DBI::dbExecute(con, "SET LOCAL datestyle = 'ISO'")
    out <- work(con)
    DBI::dbExecute(con, "COMMIT")
    out
  }, error = function(e) {
    try(DBI::dbExecute(con, "ROLLBACK"), silent = TRUE)
    if (inherits(e, "mavik_error")) stop(e)
    stop_mavik("release_error", "the database ", server_words(conditionMessage(e)),
      ": nothing was changed there")
  })
}

server_words <- function(message) {
  known <- c(
    "permission denied" = "does not allow it (permission denied)",
    "No space|disk full|could not extend" = "has no space left",
    "depend" = "holds views or tables of others that rest on these tables; take them away first",
    "closed the connection|terminat|Lost connection|could not receive|not open|bad" =
      "dropped the connection"
  )
  hit <- vapply(names(known), grepl, TRUE, x = message, ignore.case = TRUE)
  if (any(hit)) known[[which(hit)[1]]] else "refused what was sent"
}

load_schema <- function(con, edition, schema) {
  run <- function(statements) for (statement in statements) DBI::dbExecute(con, statement)
  # What the server remarks goes to its own log only.
  run("SET LOCAL client_min_messages = error")
  check_own_schema(con, edition, schema)
  run(paste("CREATE SCHEMA IF NOT EXISTS", sql_name(schema)))
  run(paste("DROP VIEW IF EXISTS", vapply(rev(sql_views), sql_place, "", schema = schema)))
  run(paste("DROP TABLE IF EXISTS", vapply(rev(sql_tables), sql_place, "", schema = schema)))
  run(sql_creation(edition, schema))
  sql_fill(edition, function(table, columns) DBI::dbAppendTable(
    con, DBI::Id(schema = schema, table = table), structure(
      columns, class = "data.frame", row.names = .set_row_names(length(columns[[1]]))
    ), copy = TRUE
  ))
  run(c(sql_keys(edition, schema), sql_views_made(edition, schema), sql_comments(edition, schema)))
}

sql_place <- function(name, schema) sql_name(schema, name)

# Nothing of others is touched: neither a schema without our mark nor a table beside ours.
check_own_schema <- function(con, edition, schema) {
  there <- DBI::dbGetQuery(con, paste0(
    "SELECT c.relname AS name, obj_description(n.oid, 'pg_namespace') AS mark ",
    "FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace ",
    "WHERE n.nspname = ", sql_text(schema), " AND c.relkind IN ('r', 'v', 'm', 'f', 'p', 'S')"
  ))
  if (nrow(there) == 0) return(invisible())
  foreign <- setdiff(there$name, c(sql_tables, sql_views))
  mark <- paste0(there$mark[1], "")
  ours <- startsWith(mark, "Made by Mavik: ")
  same <- ours && endsWith(mark, paste(", release", edition$release$name))
  if (same && length(foreign) == 0) return(invisible())
  stop_mavik(
    "release_error", "the schema `", schema, "` holds ", if (length(foreign) > 0) paste0(some_of(
      foreign, 3
    ), ", which Mavik did not write") else if (ours) "another release" else
      "tables, which Mavik did not write", ": say under `schema` another one; nothing was changed"
  )
}

read_schema <- function(con, edition, schema) {
  facts <- DBI::dbGetQuery(con, paste("SELECT count(*)::float8 AS n FROM", sql_name(
    schema, "analysis"
  )))
  read <- vapply(edition$names, function(name) {
    variable <- edition_variable(edition, name)
    if (!is_date(variable)) return(sql_name(name))
    paste0(if (variable$level == "date") paste0(sql_name(name), "::text") else paste0(
      "extract(epoch FROM ", sql_name(name), ")::float8"
    ), " AS ", sql_name(name))
  }, "")
  list(
    n = facts$n, names = edition$names, codes = TRUE,
    value = in_batches(edition$names, edition$n, function(names) DBI::dbGetQuery(con, paste(
      "SELECT", paste(read[names], collapse = ", "), "FROM", sql_name(schema, "analysis"),
      "ORDER BY row"
    ))),
    reason = function(name) reasons_at(DBI::dbGetQuery(con, paste0(
      "SELECT row, code FROM ", sql_name(schema, "gaps"), " WHERE variable = ", sql_text(name)
    )), edition)
  )
}
