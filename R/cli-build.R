command_build <- list(
  place = 2, summary = "Build the analysis file and its documentation from the raw exports",
  arguments = "[PROJECT]", most = 1, example = "mavik build choirs",
  options = function() list(
    value_option("--out", "DIR", "where to write (default: `out` in the project)"),
    value_option("--wave", "NAMES", "outputs for these waves only, spring,autumn"),
    value_option(
      "--where", "CONDITION", "outputs for the respondents for whom it is true, 'years > 10'"
    ),
    language_option(),
    value_option("--parts", "N", "read each delimited file in N parts (files above 2 GB are)"),
    value_option("--part-size", "SIZE", "read them in parts of at most this size, 500MB"),
    value_option("--workers", "N", "that many processes of this machine share the work"),
    flag_option("--tables", "make only the declared tables again, where nothing else has changed"),
    flag_option("--json", "print what was done as JSON")
  ),
  json = list(
    "build PROJECT" = c(
      out = "the folder of the outputs",
      mavik = "the version",
      respondents = "how many records are in the analysis file",
      variables = "how many variables",
      inputs = "the raw files: export, wave, file, blake2b, bytes, records, columns, cells",
      sheets = "the sheets: sheet, file, blake2b, bytes",
      dispositions = "for each standing the number of records",
      interventions = "for each kind of the ledger the number of rows",
      findings = "how many errors, warnings and notes are open, and how many are accepted"
    )
  ),
  run = function(given) {
    project <- if (length(given$args) == 0) "." else given$args
    book <- known_book(project)
    out <- if (is.null(given$out)) file.path(shown_folder(project), "out") else given$out
    check_out(out, book, thorough = FALSE)
    if (given$tables) return(tables_built(given, project, out))
    if (!is.null(given$language)) stop_unknown_language(given$language, book)
    asked <- asked_parts(given$parts, given[["part-size"]])
    workers <- if (!is.null(given$workers)) count_said(given$workers, "workers")
    # Who asks for workers wants parts for them.
    if (is.null(asked) && !is.null(workers)) asked <- list(count = 2L * workers)
    large <- !is.null(asked) || is_large(delimited_sizes(list(
      exports = locate_exports(book, list())
    )))
    built <- function() {
      # What the outputs tell of the findings, the summary tells too.
      study <- with_findings(choose_records(
        build_book(book, digests = TRUE, asked = asked),
        if (!is.null(given$wave)) strsplit(given$wave, "[, ]+")[[1]], given$where
      ))
      write_study(study, out, language = given$language)
      study
    }
    study <- if (large) with_plan(workers, book, built()) else built()
    show_lines(if (given$json) build_json(out) else build_summary(study, out))
    0L
  }
)

tables_built <- function(given, project, out) {
  whole <- c("wave", "where", "language", "parts", "part-size", "workers")
  for (option in whole) if (!is.null(given[[option]])) stop_mavik(
    "usage_error", "--tables makes the tables of the build that is there: --", option,
    " goes with a whole build"
  )
  write_tables_again(project, out)
  tables <- known_book(project)$declared
  show_lines(if (given$json) build_json(out) else paste0(
    count_of(length(tables), "table"), " made again in ", out, "/tables.html and ", out,
    "/tables.xlsx"
  ))
  0L
}

shown_folder <- function(project) {
  if (identical(project, ".")) project <- c(project_above(), ".")[1]
  folder <- if (dir.exists(project)) project else dirname(project)
  sub("/+$", "", folder)
}

build_json <- function(out) {
  record <- jsonlite::read_json(file.path(out, "provenance.json"), simplifyVector = FALSE)
  json_of(c(list(out = out), record[c("mavik", "respondents", "variables", "inputs", "sheets",
    "dispositions", "interventions", "findings")]), c("inputs", "sheets"))
}

build_summary <- function(study, out) {
  c(
    heading_shown(study$book$study$title), "",
    heading_shown("Read"), read_shown(study), "",
    heading_shown("From received to retained"), flow_shown(study),
    if (!is.null(study$choice)) paste0("  in these outputs: ", choice_shown(study)), "",
    heading_shown("Done to the answers"), interventions_shown(study), "",
    heading_shown("Gaps"), gaps_shown(study), "",
    heading_shown("Open"), findings_shown(findings(study)), "",
    heading_shown(paste0("Results in ", out, "/")), outputs_shown(study)
  )
}

read_shown <- function(study) {
  inputs <- study$inputs
  tables <- study$book$tables
  columns_shown(list(
    file = c(
      vapply(inputs, function(input) if (is.null(input$file)) input$export else input$file, ""),
      vapply(tables, function(table) table$export$shown, "")
    ),
    wave = c(vapply(inputs, `[[`, "", "wave"), rep("look-up", length(tables))),
    size = c(vapply(
      inputs,
      function(input) paste(count_of(input$records, "record"), "by",
        count_of(input$columns, "column")),
      ""
    ),
      vapply(
        tables,
        function(table) paste(
          count_of(table$records, "row"), "by", count_of(length(table$columns), "column")
        ),
        ""
      ))
  ))
}

# What was received, what each screen dropped, what is retained.
flow_shown <- function(study) {
  counts <- disposition_counts(study)
  came <- sum(counts)
  drops <- dropped_of(counts)
  retained <- counts[setdiff(names(counts), names(drops))]
  if (length(drops) == 0 && identical(names(retained), "retained")) return(paste0(
    "  all ", count_of(came, "record")
  ))
  words <- vapply(names(drops), function(name) {
    screen <- study$book$screens[[name]]
    if (is.null(screen)) return("another record of the respondent is retained")
    paste0(
      screens()[[screen$kind]]$sentence(screen, study$book),
      if (name %in% names(study$erased)) " (purged)"
    )
  }, "")
  left <- if (identical(names(retained), "retained")) "" else paste(
    grouped(retained), tolower_ascii(dispositions[names(retained)]), collapse = ", "
  )
  marked <- Filter(function(screen) screen$report, study$book$screens)
  columns_shown(list(
    count = c(
      grouped(came), paste0("-", grouped(drops), recycle0 = TRUE), grouped(sum(retained)),
      grouped(lengths(study$screens[names(marked)]))
    ),
    name = c("received", names(drops), "retained", names(marked)),
    words = c(
      "", shorten(words, 84), left,
      paste0(
        vapply(
          marked,
          function(screen) shorten(screens()[[screen$kind]]$sentence(screen, study$book), 84), ""
        ),
        ": marked only", recycle0 = TRUE
      )
    )
  ), right = "count")
}

interventions_shown <- function(study) {
  counts <- interventions(study)
  counts <- counts[names(counts) != "dropped"]
  if (length(counts) == 0) return("  nothing: every cell read as it stands")
  columns_shown(
    list(count = grouped(counts), kind = names(counts), words = ledger_kinds[names(counts)]),
    right = "count"
  )
}

gaps_shown <- function(study) {
  reasons <- study$book$reasons
  cells <- count_reasons(study, kept_variables(study$book))$cells
  seen <- cells > 0
  if (!any(seen)) return("  none in the analysis file")
  columns_shown(
    list(count = grouped(cells[seen]), reason = reasons$name[seen], label = reasons$label[seen]),
    right = "count"
  )
}

findings_shown <- function(findings, most = 8) {
  accepted <- sum(nzchar(findings$accepted))
  findings <- open_findings(findings)
  if (nrow(findings) == 0) return(paste0(
    "  nothing: no finding needs review", if (accepted > 0) paste0(" (", accepted, " accepted)")
  ))
  open <- table(factor(findings$level, c("error", "warning", "note")))
  counts <- paste(
    c(
      vapply(names(open)[open > 0], function(level) count_of(open[[level]], level), ""),
      if (accepted > 0) paste(accepted, "accepted")
    ),
    collapse = ", "
  )
  top <- visible(utils::head(findings, most))
  lines <- columns_shown(list(
    count = c("count", top$count), level = c("level", top$level), variable = c(
      "variable", ifelse(nzchar(top$variable), top$variable, "\u2013")
    ),
    kind = c("kind", top$kind), written = c(
      "written",
      ifelse(
        nzchar(top$written), paste0("\u201c", shorten(top$written, 24), "\u201d"),
        shorten(sub(".*> ", "", top$path), 24)
      )
    ),
    examples = c("respondents", shorten(top$examples, 44))
  ), right = "count")
  c(
    paste0("  ", counts), cli::col_grey(lines[1]), lines[-1],
    if (nrow(findings) > most) paste0(
      "  and ", nrow(findings) - most, " more, with what to do, in findings.csv"
    )
    else "  what to do about each is in findings.csv"
  )
}

outputs_shown <- function(study) {
  tables <- length(study$book$declared)
  variables <- length(kept_variables(study$book))
  columns_shown(list(
    file = c(
      "analysis.csv", "gaps.csv", if (has_waves(study)) "waves.csv",
      "ledger.csv", "findings.csv", "codebook.html", "report.html",
      if (tables > 0) c("tables.html", "tables.xlsx"), "provenance.json"
    ),
    words = c(
      paste0(count_of(n_retained(study), "row"), ", ", count_of(variables, "variable")),
      "why each empty cell is empty",
      if (has_waves(study)) "shares, means and gaps of each wave", count_of(
        sum(interventions(study)), "intervention"
      ), count_of(nrow(findings(study)), "finding"),
      "every variable, documented", "who is retained, and what the checks found",
      if (tables > 0) c(count_of(tables, "table"), "the same, as a workbook"),
      "what this build was made of"
    )
  ))
}
