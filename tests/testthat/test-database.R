test_that("a database takes a release whole, a second time the same, and keeps the old one when it is stopped", {
  server <- start_server()
  if (is.null(server)) skip("no PostgreSQL, or no RPostgres")
  withr::defer(server$stop())
  withr::local_envvar(server$env)
  project <- awkward_release(c("base: {formats: [postgresql], schema: choirs, with: [texts]}", "script: {formats: [postgresql_script], schema: by_script, with: [texts]}"))
  study <- build_study(project)
  withr::local_timezone("UTC")
  ask <- function(...) {
    con <- DBI::dbConnect(RPostgres::Postgres())
    on.exit(DBI::dbDisconnect(con))
    DBI::dbGetQuery(con, paste0(...))
  }
  release <- release_study(study, "base")
  truth <- release_truth(study, release$variables)
  same <- function(schema) {
    data <- ask("SELECT * FROM ", schema, ".analysis ORDER BY row")
    for (name in setdiff(release$variables, c("born", "sent"))) expect_equal(plain_text(data[[name]]), truth$data[[name]], info = paste(schema, name))
    dates <- ask("SELECT born::text AS born, to_char(sent, 'YYYY-MM-DD\"T\"HH24:MI:SS') AS sent FROM ", schema, ".analysis ORDER BY row")
    expect_equal(plain_text(dates$born), truth$data$born)
    expect_equal(plain_text(dates$sent), ifelse(truth$data$sent == "", "", core$date_to_text(core$text_to_date(truth$data$sent, "datetime")$value, "datetime")))
    gaps <- ask("SELECT * FROM ", schema, ".gaps_labels")
    for (name in release$variables) {
      reason <- rep("", nrow(data))
      here <- gaps[gaps$variable == name, ]
      reason[here$row] <- here$reason
      expect_equal(reason, truth$reasons[[name]], info = paste(schema, name))
    }
    labels <- ask("SELECT sing FROM ", schema, ".analysis_labels ORDER BY row")$sing
    expect_equal(plain_text(labels), plain_text(study_table(study, values = "labels")$sing))
  }
  same("choirs")
  told <- plain_csv(file.path(release$folder, "loaded.csv"))
  expect_equal(told$rows[told$table == "analysis"], "6")
  # A row for each kind of question, joined by the respondent.
  expect_equal(ask("SELECT s.label FROM choirs.single_answers_labels s JOIN choirs.analysis a USING (row) WHERE a.person = 'x9' AND a.wave = 'spring' AND s.variable = 'sing'")$label, "\u00c4hnlich")
  expect_equal(ask("SELECT count(*)::int AS n FROM choirs.selections WHERE option = 'hear_radio'")$n, sum(study_table(study)$hear_radio == 1, na.rm = TRUE))
  expect_equal(as.double(ask("SELECT sum(value)::float8 AS s FROM choirs.numbers WHERE variable = 'size'")$s), sum(study_table(study)$size, na.rm = TRUE))
  expect_match(ask("SELECT col_description('choirs.analysis'::regclass, 4) AS d")$d, "Do you \"sing\", ever? <i>", fixed = TRUE)
  digest <- function() ask("SELECT md5(string_agg(a::text, '|' ORDER BY row)) AS d FROM choirs.analysis a")$d
  first <- digest()
  release_study(study, "base")
  expect_equal(digest(), first)
  # The script gives the same tables through psql.
  script <- file.path(release_study(study, "script")$folder, "postgresql.sql")
  for (round in 1:2) expect_equal(system2("psql", c("-X", "-q", "-f", shQuote(script)), stdout = FALSE, stderr = FALSE), 0)
  same("by_script")
  # Stopped in the middle, the old tables stay, and no message tells where they are.
  stopped <- tempfile()
  edition <- core$edition_of(study, study$book$releases$base)
  said <- message_of(core$with_server(function(con) {
    core$load_schema(con, edition, "choirs")
    server$kill()
    DBI::dbGetQuery(con, "SELECT 1")
  }), "mavik_release_error")
  expect_match(said, "nothing was changed there")
  expect_match(message_of(release_study(study, "base", tempfile()), "mavik_release_error"), "cannot be reached")
  for (text in c(server$env[["PGHOST"]], "tester")) expect_false(grepl(text, said, fixed = TRUE))
  server$start()
  expect_equal(digest(), first)
  # Nothing of others is touched.
  con <- DBI::dbConnect(RPostgres::Postgres())
  DBI::dbExecute(con, "CREATE TABLE choirs.mine (x int)")
  expect_match(message_of(release_study(study, "base"), "mavik_release_error"), "the schema `choirs` holds `mine`, which Mavik did not write")
  DBI::dbExecute(con, "DROP TABLE choirs.mine")
  DBI::dbExecute(con, "CREATE VIEW public.others AS SELECT * FROM choirs.analysis")
  expect_match(message_of(release_study(study, "base"), "mavik_release_error"), "views or tables of others that rest on these")
  for (one in c("DROP VIEW public.others", "CREATE SCHEMA theirs", "CREATE TABLE theirs.analysis (x int)")) DBI::dbExecute(con, one)
  DBI::dbExecute(con, "CREATE ROLE reader LOGIN")
  DBI::dbDisconnect(con)
  study$book$releases$script$schema <- "choirs"
  study$book$releases$script$formats <- "postgresql"
  expect_match(message_of(release_study(study, "script", tempfile()), "mavik_release_error"), "the schema `choirs` holds another release")
  study$book$releases$base$schema <- "theirs"
  expect_match(message_of(release_study(study, "base"), "mavik_release_error"), "the schema `theirs` holds tables, which Mavik did not write")
  study$book$releases$base$schema <- "fresh"
  withr::with_envvar(c(PGUSER = "reader"), expect_match(message_of(release_study(study, "base"), "mavik_release_error"), "does not allow it"))
  expect_equal(digest(), first)
  expect_equal(ask("SELECT count(*)::int AS n FROM information_schema.schemata WHERE schema_name = 'fresh'")$n, 0)
})
