command_check <- list(
  place = 5, summary = "Check the answers against the codebook, and say what to do",
  arguments = "[PROJECT]", most = 1, example = "mavik check choirs",
  options = function() list(
    optparse::make_option(
      "--variable", type = "character", default = NULL, metavar = "NAME",
      help = "only what concerns this variable or block"
    ),
    optparse::make_option(
      "--respondent", type = "character", default = NULL, metavar = "ID",
      help = "this person's whole record, raw beside decoded"
    ),
    optparse::make_option(
      "--where", type = "character", default = NULL, metavar = "CONDITION",
      help = "the records for which it is true, 'years > 60'"
    ),
    optparse::make_option(
      "--apply", action = "store_true", default = FALSE,
      help = "add the proposed lines to the codebook, after showing the change"
    ),
    optparse::make_option(
      "--only", type = "character", default = NULL, metavar = "NUMBERS",
      help = "with --apply: these lines only, 1,3-5"
    ),
    optparse::make_option(
      "--json", action = "store_true", default = FALSE, help = "print it as JSON"
    )
  ),
  json = list(
    "check PROJECT" = c(
      title = "the title of the study",
      records = "how many records",
      retained = "how many would be in the analysis file",
      open = "whether an error or warning needs review",
      accepted = "how many findings are accepted",
      groups =
        paste0(
          "findings of one cause together: level, kind, variables, written, count, examples, ",
          "message, path, proposals"
        ),
      findings = "the rows of findings.csv",
      aside =
        paste0(
          "what ranges, universes and rules set aside: kind, variable, path, line, answers, ",
          "records, reports_only"
        ),
      unchecked = "variables that nothing looks at: variable, label, level",
      proposals = "lines that would settle findings: number, path, adds, count, line"
    ),
    "check PROJECT --where CONDITION" = c(
      wave = "the wave",
      respondent = "the key",
      export = "the export",
      line = "the line in the file",
      stands = "`retained`, or what dropped the record",
      "..." = "the variables that the condition names"
    ),
    "check PROJECT --respondent ID" = c(
      wave = "the wave",
      export = "the export",
      file = "the file",
      line = "the line in it",
      stands = "`retained`, or what dropped the record",
      variable = "the variable",
      label = "its label",
      column = "the column it is read from",
      raw = "the raw cell",
      value = "the value",
      gap = "the missing reason"
    )
  ),
  run = function(given) {
    project <- if (length(given$args) == 0) "." else given$args
    said <- function(table, words) show_lines(if (given$json) json_of(table) else words(table))
    if (!is.null(given$respondent)) {
      said(show_record(project, given$respondent), record_shown)
      return(0L)
    }
    if (!is.null(given$where)) {
      said(find_records(project, given$where), function(found) found_shown(found, given$where))
      return(0L)
    }
    checked <- check_study(project, variable = given$variable)
    if (given$apply) return(apply_shown(checked, given))
    show_lines(if (given$json) check_json(checked) else check_shown(checked, project))
    if (checked$open) 1L else 0L
  }
)

check_json <- function(checked) {
  attr(checked$proposals, "edits") <- NULL
  json_of(unclass(checked)[c("title", "records", "retained", "open", "accepted", "groups",
    "findings",
    "aside", "unchecked", "proposals")])
}

#' @export
print.mavik_check <- function(x, ...) {
  keep_own_options()
  show_lines(check_shown(x, if (is.null(x$file)) "." else dirname(x$file)))
  invisible(x)
}

check_shown <- function(checked, project) {
  checked <- visible(checked)
  groups <- checked$groups
  c(
    heading_shown(paste0(
      checked$title, if (!is.null(checked$variable)) paste0(": ", checked$variable)
    )),
    paste0(
      "  Checked, nothing written. Of ", count_of(checked$records, "record"), " ",
      grouped(checked$retained), " would be retained."
    ),
    to_look_at(checked),
    if (!is.null(checked$story)) c("", variable_story_shown(checked$story)),
    if (nrow(groups) > 0) c("", heading_shown("To look at, the worst first"), group_lines(groups)),
    if (nrow(checked$aside) > 0) c(
      "", heading_shown("What a build sets aside"), aside_shown(checked$aside)
    ),
    if (nrow(checked$unchecked) > 0) unchecked_shown(checked$unchecked),
    if (nrow(checked$proposals) > 0) c(
      "", heading_shown("Lines that would settle findings"),
      proposals_shown(checked$proposals, project)
    ),
    if (nrow(groups) > 0) c("", paste0(
      "  A finding that may stay as it is: add it under `accepted`, ",
      "{kind: KIND, variable: NAME, note: WHY}."
    ))
  )
}

# How many findings are open, in one line.
to_look_at <- function(checked) {
  levels <- table(factor(open_findings(checked$findings)$level, c("error", "warning", "note")))
  levels <- levels[levels > 0]
  counts <- vapply(names(levels), function(level) count_of(levels[[level]], level), "")
  groups <- nrow(checked$groups)
  paste0(
    "  ",
    if (length(levels) == 0) "No finding needs review"
    else paste0("To look at: ", paste(counts, collapse = ", ")),
    if (groups < sum(levels)) paste0(", in ", count_of(groups, "group")),
    if (checked$accepted > 0) paste0("; ", checked$accepted, " accepted"), "."
  )
}

unchecked_shown <- function(unchecked) {
  c(
    "", heading_shown("Nothing looks at these"),
    paste0(
      "  read as they stand: no code list, range, universe or rule; give them one, ",
      "or look through them yourself"
    ),
    columns_shown(list(
      variable = unchecked$variable, level = unchecked$level, label = shorten(unchecked$label, 60)
    ))
  )
}

group_lines <- function(groups) {
  width <- min(max(cli::console_width(), 80), 140)
  unlist(lapply(seq_len(nrow(groups)), function(at) {
    one <- groups[at, ]
    if (one$kind == "rule") one$variables <- sub("^rules > ", "", one$path)
    names <- strsplit(one$variables, ", ", fixed = TRUE)[[1]]
    texts <- strsplit(one$written, " | ", fixed = TRUE)[[1]]
    who <- if (length(names) > 4) paste0(
      paste(names[1:3], collapse = ", "), " and ", length(names) - 3, " more variables"
    ) else one$variables
    head <- paste0("  ", level_mark(one$level), " ", one$kind,
      if (nzchar(who)) paste0("  ", cli::style_bold(who)), "  ", count_of(one$count,
      if (one$kind %in% c("unused_column", "ignored_absent")) "column" else "time"))
    c(
      head,
      if (length(texts) > 0) paste0(
        "      ",
        shorten(
          paste0(
            "\u201c", paste(utils::head(texts, 6), collapse = "\u201d, \u201c"), "\u201d",
            if (length(texts) > 6) paste0(" and ", length(texts) - 6, " more")
          ),
          width - 8
        )
      ),
      cli::ansi_strwrap(one$message, width = width - 6, indent = 6, exdent = 6),
      if (nzchar(one$examples)) cli::col_grey(paste0(
        "      respondents ", shorten(one$examples, width - 20)
      )),
      if (nzchar(one$proposals)) paste0(
        "      see ", if (grepl(",", one$proposals)) "lines " else "line ", one$proposals, " below"
      )
    )
  }))
}

level_mark <- function(level) switch(
  level, error = cli::col_red(level), warning = cli::col_yellow(level), cli::col_grey(level)
)

aside_shown <- function(aside) {
  shown <- aside[aside$answers > 0 | (!is.na(aside$records) & aside$records > 0), ]
  none <- nrow(aside) - nrow(shown)
  c(
    if (nrow(shown) > 0) columns_shown(list(
      answers = ifelse(shown$reports_only, "\u2013", grouped(shown$answers)), kind = shown$kind,
      variable = ifelse(nzchar(shown$variable), shown$variable, sub("^rules > ", "", shown$path)),
      line = ifelse(is.na(shown$line), "", paste("line", shown$line)),
      words = ifelse(
        is.na(shown$records), "",
        paste0(
          grouped(shown$records),
          ifelse(shown$records == 1, " record breaks it", " records break it"),
          ifelse(shown$reports_only, ": reported only", "")
        )
      )
    ), right = "answers"),
    if (none > 0) paste0(
      "  ", if (nrow(shown) > 0) "and " else "", count_of(none, "other check"),
      " (ranges, universes, rules) that no answer breaks"
    )
  )
}

proposals_shown <- function(proposals, project, most = 20) {
  shown <- utils::head(proposals, most)
  c(
    columns_shown(list(number = paste0(shown$number, "."),
      count = paste(grouped(shown$count), "\u00d7"), adds = shorten(shown$adds,
      90), path = paste0("under ", shown$path), line = ifelse(is.na(shown$line), "",
      paste("line", shown$line))), right = c("number", "count")),
    if (nrow(proposals) > most)
      paste0("  and ", nrow(proposals) - most, " more (--json shows all)"),
    paste0("  Add all of them: mavik check ", project, " --apply; some: --apply --only 1,3")
  )
}

# On a terminal each line is asked for, unless --only has chosen already.
apply_shown <- function(checked, given) {
  if (nrow(checked$proposals) == 0) {
    show_lines("No line is proposed; the codebook is as it was.")
    return(0L)
  }
  numbers <- if (!is.null(given$only)) numbers_meant(given$only) else
    if (on_terminal()) asked_for(checked$proposals) else checked$proposals$number
  if (length(numbers) == 0) {
    show_lines("Nothing was taken; the codebook is as it was.")
    return(0L)
  }
  change <- apply_proposals(checked, numbers, write = FALSE)
  show_lines(change_shown(change, checked$file))
  apply_proposals(checked, numbers)
  show_lines(paste0("Written to ", checked$file, ": ", count_of(length(numbers), "line"), " of ",
    nrow(checked$proposals)))
  0L
}

on_terminal <- function() {
  input <- file("stdin")
  on.exit(close(input))
  isatty(input)
}

numbers_meant <- function(text, flag = "--only") {
  parts <- strsplit(text, "[, ]+")[[1]]
  if (!all(grepl("^[0-9]+(-[0-9]+)?$", parts))) stop_mavik(
    "usage_error", flag, " takes numbers of proposed lines, 1,3-5; `", text, "` is none"
  )
  unique(unlist(lapply(
    strsplit(parts, "-", fixed = TRUE),
    function(ends) seq(as.integer(ends[1]), as.integer(ends[length(ends)]))
  )))
}

asked_for <- function(proposals) {
  input <- file("stdin")
  open(input)
  on.exit(close(input))
  taken <- integer()
  for (at in seq_len(nrow(proposals))) {
    cat(
      paste0(
        proposals$number[at], ". ", proposals$adds[at], " under ", proposals$path[at],
        " \u2013 add it? [y/n/q] "
      ),
      file = stderr()
    )
    answer <- tolower(substr(readLines(input, n = 1), 1, 1))
    if (length(answer) == 0 || answer == "q") break
    if (answer == "y") taken <- c(taken, proposals$number[at])
  }
  taken
}

change_shown <- function(change, file) {
  line <- paste0(
    change$change, " ", formatC(change$line, width = max(nchar(change$line)), mode = "integer"),
    "  ", change$text
  )
  c(
    heading_shown(basename(file)),
    ifelse(change$change == "-", cli::col_red(line), cli::col_green(line))
  )
}

record_shown <- function(record) {
  unlist(lapply(
    split(
      record, factor(paste(record$export, record$line), unique(paste(record$export, record$line)))
    ),
    function(one) c(
    heading_shown(paste0("Wave ", one$wave[1], ", ", at_line(one$file[1], one$line[1]))), paste0(
      "  ",
      if (one$stands[1] == "retained") "retained in the analysis file" else paste(
        "dropped:", one$stands[1]
      )
    ), "",
    columns_shown(list(variable = c("variable", one$variable),
      column = c("column", shorten(one$column, 20)), raw = c("raw cell", shorten(one$raw, 40)),
      value = c(
        "value", ifelse(nzchar(one$gap), paste0("\u2013 ", one$gap), shorten(one$value, 40))
      ), label = c("label", shorten(one$label, 44)))), ""
  )))
}

found_shown <- function(found, where, most = 200) {
  shown <- utils::head(found, most)
  c(
    heading_shown(paste0(count_of(nrow(found), "record"), " where ", text_squeeze(where))),
    if (nrow(found) > 0) columns_shown(lapply(
      with_names(names(shown), names(shown)),
      function(name) c(name, shorten(as.character(shown[[name]]), 40))
    )),
    if (nrow(found) > most) paste0(
      "  and ", grouped(nrow(found) - most), " more (--json lists all)"
    )
  )
}
