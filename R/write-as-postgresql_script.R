# The same tables as a plain SQL file, which `psql` loads.

format_postgresql_script <- new_format(
  help = paste0(
    "`postgresql.sql`: the tables of `postgresql` as a plain SQL file that `psql` loads in one ",
    "transaction, `psql -f postgresql.sql`"
  ),
  cannot = "addresses and response numbers; more than 1,590 variables",
  files = function(edition) "postgresql.sql",
  check = function(edition) check_schema(edition, "postgresql_script"),
  write = function(edition, folder) {
    schema <- schema_of(edition)
    con <- file(file.path(folder, "postgresql.sql"), "wb")
    on.exit(close(con))
    say <- function(lines) writeBin(line_bytes(lines), con)
    drop <- function(kind, names) paste0("DROP ", kind, " IF EXISTS ", vapply(
      rev(names), function(name) sql_name(schema, name), ""
    ), ";")
    say(c(
      "\\set ON_ERROR_STOP on", "BEGIN;", "SET client_encoding = 'UTF8';",
      "SET datestyle = 'ISO';", paste0("CREATE SCHEMA IF NOT EXISTS ", sql_name(schema), ";"),
      drop("VIEW", sql_views), drop("TABLE", sql_tables),
      paste0(sql_creation(edition, schema), ";")
    ))
    sql_fill(edition, function(table, columns) say(c(
      paste0("COPY ", sql_name(schema, table), " (", paste(sql_names(names(columns)),
        collapse = ", "), ") FROM stdin;"), do.call(paste, c(lapply(unname(columns), copy_cell),
        sep = "\t")), "\\."
    )))
    say(paste0(c(
      sql_keys(edition, schema), sql_views_made(edition, schema), sql_comments(edition, schema)
    ), ";"))
    say("COMMIT;")
  },
  back = function(edition, folder) {
    lines <- readLines(file.path(folder, "postgresql.sql"), encoding = "UTF-8")
    starts <- grep("^COPY .*\\.\"analysis\" ", lines)
    ends <- which(lines == "\\.")
    rows <- unlist(lapply(starts, function(start) lines[seq_len(
      ends[ends > start][1] - start - 1
    ) + start]))
    cells <- data.table::tstrsplit(rows, "\t", fixed = TRUE)
    names <- c("row", edition$names)
    list(
      n = length(rows), names = if (length(cells) == length(names)) edition$names else "",
      codes = TRUE, value = function(name) plain_copy_cell(cells[[match(name, names)]])
    )
  }
)

# The text form of COPY.
copy_cell <- function(text) {
  odd <- which(stringi::stri_detect_regex(text, "[\\\\\\t\\n\\r]"))
  text[odd] <- stringi::stri_replace_all_fixed(text[odd], c("\\", "\t", "\n", "\r"), c(
    "\\\\", "\\t", "\\n", "\\r"
  ), vectorize_all = FALSE)
  text[is.na(text)] <- "\\N"
  enc2utf8(text)
}

plain_copy_cell <- function(text) {
  text[text == "\\N"] <- NA
  odd <- which(stringi::stri_detect_fixed(text, "\\"))
  text[odd] <- stringi::stri_replace_all_fixed(text[odd], c("\\\\", "\\t", "\\n", "\\r", "\u0001"),
    c("\u0001", "\t", "\n", "\r", "\\"), vectorize_all = FALSE)
  text
}
