# A study whose answers are hard to hand on, and readers of each format that are not Mavik's.

awkward_release <- function(releases) {
  codebook <- c(
    "mavik: 1", "study: {title: \"Chöre & \\\"more\\\" <b>\", id: kv-odd, design: panel, licence: CC0-1.0}",
    "waves: {spring: {label: Spring}, autumn: {label: Autumn}}",
    "exports:", "  a: {wave: spring, file: raw/a.csv, key: Key, response: No, cells: labels}",
    "  b: {wave: autumn, file: raw/b.csv, key: Key, response: No, cells: labels}",
    "missing: {refused: {code: -2, label: \"Prefer not, say\"}}",
    "variables:", "  person: {is: key, label: Person}", "  wave: {is: wave, label: Wave}",
    "  sing: {column: Sing, label: \"Do you \\\"sing\\\", ever? <i> `now`\", level: nominal, codes: {0: No, 1: 'Yes, \"often\"', 12: Ähnlich}}",
    "  ease: {column: Ease, label: Ease, level: ordinal, codes: {1: Not at all, 7: Completely}, range: [1, 7]}",
    "  size: {column: Size, label: Size, level: interval, decimals: 1}",
    "  born: {column: Born, label: Born, level: date}", "  sent: {column: Sent, label: Sent, level: datetime}",
    "  place: {column: Place, label: Place, level: identifier}", "  words: {column: Words, label: Words, level: text}",
    "  empty: {column: Empty, label: Never answered, level: ratio, range: [0, 9], by_wave: {autumn: absent}}",
    "  hear: {label: Hear of it, split: {column: Hear, separator: ';', options: {hear_radio: Radio, hear_none: \"None, at all\"}, exclusive: hear_none}}",
    "  mail: {column: Mail, label: Mail, level: text, private: yes}",
    "  trial: {column: Trial, label: Trial, level: nominal, codes: {1: trial, 2: real}, kept: no}",
    "  low: {label: Low, recode: {of: sing, to: {1: [No], 2: ['Yes, \"often\"', Ähnlich]}}, codes: {1: 'true', 2: 'FALSE'}}",
    "screens: {trials: {if: 'trial == \"trial\"'}}", "releases:", paste0("  ", releases)
  )
  rows <- function(...) paste0(c(..., ""), collapse = "\n")
  a <- rows(
    "Key,No,Sing,Ease,Size,Born,Sent,Place,Words,Empty,Hear,Mail,Trial",
    "007,resp-01,No,Not at all,0.1,1850-02-03,2026-03-02T10:00:05,0010020,\"=1+1, \"\"two\"\"\nlines\",,Radio,secret@x.example,real",
    "+49,resp-02,\"Yes, \"\"often\"\"\",4,-1234567.0000001,2026-12-31,2026-03-02T23:59,NA,NA,,,other@x.example,real",
    "aa key bb,resp-03,\"Prefer not, say\",Completely,1e15,,,@home,\u00e9t\u00e9 \u2014 \u0623\u0647\u0644\u0627 \U0001F3B6,,\"None, at all\",,real",
    "x9,resp-04,\u00c4hnlich,7,0.30000000000000004,1999-01-01,2026-03-02T00:00,5x,\\n literally,,Radio,,real",
    "dropped-one,resp-05,No,2,5,2000-01-01,2026-03-02T00:00,gone-place,gone words,,Radio,gone@x.example,trial"
  )
  b <- rows(
    "Key,No,Sing,Ease,Size,Born,Sent,Place,Words,Hear,Mail,Trial",
    "007,resp-06,\u00c4hnlich,3,-12345678901234567890,1850-02-03,2026-10-02T10:00,0010020,_x000D_ stays,Radio,secret@x.example,real",
    "x9,resp-07,No,,,1999-01-01,,5x,,,,real"
  )
  project_with(codebook, list(a.csv = enc2utf8(a), b.csv = enc2utf8(b)))
}

# Codes and values as texts, "" in a gap; reasons by name, "" where there is a value.
release_truth <- function(study, names) {
  table <- study_table(study)[names]
  list(
    data = lapply(core$with_names(names, names), function(name) {
      text <- core$value_text(study$book$variables[[name]], if (inherits(table[[name]], c("Date", "POSIXct"))) as.double(table[[name]]) else table[[name]])
      ifelse(is.na(text), "", text)
    }),
    reasons = lapply(core$with_names(names, names), function(name) {
      reason <- study$reasons[[name]]
      if (is.null(reason)) return(rep("", nrow(table)))
      reason <- as.character(core$retained_of(reason, study))
      ifelse(is.na(reason), "", reason)
    })
  )
}

plain_csv <- function(file) utils::read.csv(file, colClasses = "character", na.strings = character(), check.names = FALSE, encoding = "UTF-8", blank.lines.skip = FALSE)
plain_text <- function(x) {
  if (inherits(x, "POSIXct")) x <- core$date_to_text(as.double(x), "datetime")
  if (inherits(x, "Date")) x <- core$date_to_text(as.double(x), "date")
  x <- if (is.numeric(x)) core$number_to_text(x) else as.character(x)
  ifelse(is.na(x), "", x)
}
code_of <- function(labels, name, codes) {
  own <- codes[codes$variable == name, ]
  if (nrow(own) == 0) plain_text(labels) else ifelse(plain_text(labels) == "", "", own$code[match(plain_text(labels), own$label)])
}

# Each gives `data` and `reasons` in the same form from the files of one folder; codes of labels
# come from what stands beside them.
release_readers <- list(
  csv = function(folder, names) {
    missing <- plain_csv(file.path(folder, "missing.csv"))
    codes <- plain_csv(file.path(folder, "codes.csv"))
    values <- plain_csv(file.path(folder, "variables.csv"))
    data <- plain_csv(file.path(folder, "analysis.csv"))
    gaps <- plain_csv(file.path(folder, "gaps.csv"))
    gapped <- values$variable[values$gaps != "0"]
    reasons <- lapply(core$with_names(names, names), function(name) if (!name %in% gapped) rep("", nrow(data)) else
      ifelse(gaps[[name]] == "", "", missing$reason[match(gaps[[name]], missing$code)]))
    list(reasons = reasons, data = lapply(core$with_names(names, names), function(name) {
      text <- data[[name]]
      text[reasons[[name]] != ""] <- ""
      if (any(values$values[values$variable == name] == "labels")) code_of(text, name, codes) else text
    }))
  },
  rds = function(folder, names) {
    read <- readRDS(file.path(folder, "analysis.rds"))
    stopifnot(identical(class(read$data$ease), c("ordered", "factor")), attr(read$data$ease, "label") == "Ease")
    list(
      data = lapply(core$with_names(names, names), function(name) code_of(`attr<-`(read$data[[name]], "label", NULL), name, read$codes)),
      reasons = lapply(core$with_names(names, names), function(name) if (name == "wave") rep("", nrow(read$data)) else
        if (is.null(read$reasons[[name]])) rep("", nrow(read$data)) else plain_text(read$reasons[[name]]))
    )
  },
  parquet = function(folder, names) {
    read <- function(file) as.data.frame(nanoparquet::read_parquet(file.path(folder, file)))
    data <- read("analysis.parquet")
    gaps <- read("gaps.parquet")
    notes <- nanoparquet::read_parquet_metadata(file.path(folder, "analysis.parquet"))$file_meta_data$key_value_metadata[[1]]
    codes <- do.call(rbind, lapply(names, function(name) {
      said <- jsonlite::fromJSON(notes$value[notes$key == paste0("mavik.variable.", name)])
      if (length(said$codes) > 0) data.frame(variable = name, code = as.character(said$codes$code), label = said$codes$label)
    }))
    missing <- jsonlite::fromJSON(notes$value[notes$key == "mavik.missing"])
    labelled <- is.character(data$sing) || is.factor(data$sing)
    list(
      data = lapply(core$with_names(names, names), function(name) if (labelled) code_of(data[[name]], name, codes) else plain_text(data[[name]])),
      reasons = lapply(core$with_names(names, names), function(name) if (name == "wave" || is.null(gaps[[name]])) rep("", nrow(data)) else
        plain_text(missing$reason[match(gaps[[name]], missing$code)]))
    )
  },
  # Python's own sqlite3, through JSON.
  sqlite = function(folder, names) {
    script <- tempfile(fileext = ".py")
    writeLines(c(
      "import json, sqlite3, sys", "con = sqlite3.connect(sys.argv[1])", "con.row_factory = sqlite3.Row",
      "assert con.execute('PRAGMA foreign_key_check').fetchall() == []",
      "rows = [dict(r) for r in con.execute('SELECT * FROM analysis ORDER BY row')]",
      "gaps = [list(r) for r in con.execute('SELECT row, variable, reason FROM gaps_labels')]",
      "labels = [dict(r) for r in con.execute('SELECT * FROM analysis_labels ORDER BY row')]",
      "print(json.dumps({'rows': rows, 'gaps': gaps, 'labels': labels}))"
    ), script)
    out <- jsonlite::fromJSON(system2("/usr/bin/python3", c(script, shQuote(file.path(folder, "analysis.sqlite"))), stdout = TRUE, env = "PYTHONIOENCODING=utf-8"), simplifyVector = FALSE)
    cell <- function(x) if (is.null(x)) "" else plain_text(x)
    n <- length(out$rows)
    reasons <- lapply(core$with_names(names, names), function(name) rep("", n))
    for (gap in out$gaps) reasons[[gap[[2]]]][gap[[1]]] <- gap[[3]]
    list(data = lapply(core$with_names(names, names), function(name) vapply(out$rows, function(row) cell(row[[name]]), "")), reasons = reasons,
      labels = vapply(out$labels, function(row) cell(row$sing), ""))
  },
  # Through LibreOffice the judges look; here the workbook's own package reads it.
  xlsx = function(folder, names) {
    read <- function(sheet) suppressWarnings(openxlsx::read.xlsx(file.path(folder, "analysis.xlsx"), sheet, skipEmptyRows = FALSE, skipEmptyCols = FALSE, check.names = FALSE, na.strings = ""))
    data <- read("data")
    gaps <- read("gaps")
    codes <- read("codes")
    dated <- function(name, x) if (name == "sent" && is.numeric(x)) core$date_to_text(round((x - 25569) * 86400), "datetime") else x
    back <- function(text) gsub("_x005F_", "_", text, fixed = TRUE)
    list(
      data = lapply(core$with_names(names, names), function(name) {
        text <- dated(name, data[[name]])
        text <- if (is.null(text)) rep("", nrow(data)) else back(plain_text(text))
        if (any(codes$variable == name) && all(text %in% c("", codes$label[codes$variable == name]))) code_of(text, name, codes) else text
      }),
      reasons = lapply(core$with_names(names, names), function(name) if (name == "wave" || is.null(gaps[[name]])) rep("", nrow(data)) else plain_text(gaps[[name]]))
    )
  },
  long = function(folder, names) {
    long <- plain_csv(file.path(folder, "long.csv"))
    part <- function(column) lapply(core$with_names(names, names), function(name) long[[column]][long$variable == name])
    list(data = part("value"), reasons = part("gap"))
  }
)

has_python <- function(module) file.exists("/usr/bin/python3") &&
  system2("/usr/bin/python3", c("-c", shQuote(paste("import", module))), stdout = FALSE, stderr = FALSE) == 0

# A PostgreSQL server of this test alone: its own user, folder and socket. NULL where none is
# installed.
start_server <- function() {
  bin <- sort(Sys.glob("/usr/lib/postgresql/*/bin"), decreasing = TRUE)
  if (length(bin) == 0 || !requireNamespace("RPostgres", quietly = TRUE)) return(NULL)
  folder <- file.path(tempfile("pg", "/tmp"))
  dir.create(folder)
  root <- system2("id", "-u", stdout = TRUE) == "0"
  if (root) system2("chown", c("postgres", folder))
  run <- function(program, ...) {
    call <- c(file.path(bin[1], program), ...)
    if (root) call <- c("runuser", "-u", "postgres", "--", call)
    suppressWarnings(system2(call[1], call[-1], stdout = FALSE, stderr = FALSE))
  }
  data <- file.path(folder, "data")
  run("initdb", "-D", data, "-A", "trust", "-U", "tester", "-E", "UTF8", "--no-locale")
  run("pg_ctl", "-D", data, "-w", "-l", file.path(folder, "log"), "-o", shQuote(paste0("-k ", folder, " -h ''")), "start")
  list(
    env = c(PGHOST = folder, PGUSER = "tester", PGDATABASE = "postgres"),
    kill = function() run("pg_ctl", "-D", data, "-m", "immediate", "stop"),
    start = function() run("pg_ctl", "-D", data, "-w", "-l", file.path(folder, "log"), "-o", shQuote(paste0("-k ", folder, " -h ''")), "start"),
    stop = function() {
      run("pg_ctl", "-D", data, "-m", "fast", "stop")
      unlink(folder, recursive = TRUE)
    }
  )
}
