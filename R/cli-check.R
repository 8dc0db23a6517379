command_check <- list(
  place = 5, summary = "Check the answers against the codebook, and say what to do",
  arguments = "[PROJECT]", most = 1, example = "mavik check choirs",
  options = function() list(
    value_option("--variable", "NAME", "only what concerns this variable or block"),
    value_option("--respondent", "ID", "this person's whole record, raw beside decoded"),
    value_option("--where", "CONDITION", "the records for which it is true, 'years > 60'"),
    flag_option("--apply", "add the proposed lines to the codebook, after showing the change"),
    value_option("--only", "NUMBERS", "with --apply: these lines only, 1,3-5"),
    json_option()
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
      said(find_records(project, given$where), function(records) found_shown(records, given$where))
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
  for (row in seq_len(nrow(proposals))) {
    cat(
      paste0(
        proposals$number[row], ". ", proposals$adds[row], " under ", proposals$path[row],
        " \u2013 add it? [y/n/q] "
      ),
      file = stderr()
    )
    answer <- tolower(substr(readLines(input, n = 1), 1, 1))
    if (length(answer) == 0 || answer == "q") break
    if (answer == "y") taken <- c(taken, proposals$number[row])
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
