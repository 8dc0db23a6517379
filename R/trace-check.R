#' Check the answers against the codebook
#'
#' Works a build out without writing anything, and says what a person should
#' look at: findings in groups, what each rule, range and universe would set
#' aside, which variables nothing looks at, and the lines that would settle a finding.
#'
#' @param codebook A study, a codebook, or what [read_codebook()] takes.
#' @param exports Data frames in place of files, as in [build_study()].
#' @param variable Only what concerns this variable or block.
#' @return A `mavik_check`: a list with `findings` (as [findings()] gives them), `groups` (a
#'   data frame, the worst first: `level`, `kind`, `variables`, `written`, `count`,
#'   `examples`, `message`, `path`, `proposals`), `aside` (`kind`, `variable`, `path`,
#'   `line`, `answers`), `unchecked` (`variable`, `label`, `level`: read from cells, and
#'   without code list, range, universe or rule), `proposals` (`number`, `path`, `adds`,
#'   `count` of cells or columns, `line`), `open` (whether errors or warnings wait), and
#'   `records` and `retained`. Private answers are masked.
#' @section Proposals: A line that reads one text as another is proposed only where
#'   the two differ by a slip of the pen: no digit, no word of quantity or negation,
#'   no word of another label. Else a text that many wrote is proposed as a code of
#'   its own where the level is nominal. A number is never proposed, nor anything of
#'   a file that was misread as a whole. What one wave alone has stands under it.
#' @section Errors: Those of [build_study()].
#' @examples
#' project <- demo_project(tempfile())
#' checked <- check_study(project)
#' checked
#' checked$aside
#' @export
check_study <- function(codebook, exports = list(), variable = NULL) {
  keep_own_options()
  study <- if (inherits(codebook, "mavik_study")) codebook else build_study(
    codebook, exports, digests = FALSE
  )
  keep_index(study)
  check_of(study, variable)
}

check_of <- function(study, variable = NULL) {
  book <- study$book
  names <- if (is.null(variable)) names(book$variables) else named_variables(variable, book)
  told <- findings(study)
  proposals <- propose_lines(study)
  if (!is.null(variable)) {
    told <- told[told$variable %in% names, ]
    proposals <- Filter(function(proposal) proposal$variable %in% names, proposals)
  }
  open <- open_findings(told)
  structure(list(
    title = book$study$title, file = book$file, variable = variable, findings = told,
    groups = group_findings(open, proposals), aside = aside_counts(study, names),
    unchecked = unchecked_variables(book, names), proposals = proposal_table(proposals, book),
    open = any(open$level %in% c("error", "warning")),
    accepted = sum(nzchar(told$accepted)), records = nrow(study$data) + sum(study$erased),
    retained = n_retained(study),
    story = if (!is.null(variable) && variable %in% names(book$variables)) story_of_variable(
      study, variable
    )
  ), class = "mavik_check")
}

# One trouble in many columns, and many texts in one, are one group each.
group_findings <- function(findings, proposals) {
  id <- joined_id(
    findings$level, findings$kind,
    ifelse(
      findings$kind == "unlisted", unlisted_group(findings),
      ifelse(findings$kind %in% c("range", "rule"), findings$path, message_pattern(findings))
    ))
  groups <- split(seq_len(nrow(findings)), factor(id, unique(id)))
  column <- function(of) vapply(groups, of, "", USE.NAMES = FALSE)
  out <- data.frame(
    level = column(function(lines) findings$level[lines[1]]),
    kind = column(function(lines) findings$kind[lines[1]]),
    variables = column(function(lines)
      paste(setdiff(unique(findings$variable[lines]), ""), collapse = ", ")),
    written = column(function(lines) paste(
      setdiff(unique(findings$written[lines[order(-findings$count[lines])]]), ""), collapse = " | "
    )),
    count = vapply(groups, function(lines) sum(findings$count[lines]), 0L, USE.NAMES = FALSE),
    examples = column(function(lines) paste(
      utils::head(unique(unlist(strsplit(findings$examples[lines], "; ", fixed = TRUE))), 5),
      collapse = "; "
    )),
    message = column(function(lines) if (length(lines) > 1 && findings$kind[lines[1]] == "unlisted")
      "not among its values, set aside" else findings$message[lines[1]]),
    path = column(function(lines) findings$path[lines[1]]),
    proposals = column(function(lines) paste(
      proposals_for(findings[lines, ], proposals), collapse = ", "
    ))
  )
  out <- out[order(match(out$level, c("error", "warning", "note")), -out$count, method = "radix"), ]
  rownames(out) <- NULL
  out
}

# The same text in several variables, else all texts of one variable.
unlisted_group <- function(findings) {
  folded <- text_fold(findings$written)
  many <- tapply(findings$variable, folded, function(names) length(unique(names)))[folded] > 1
  ifelse(many, paste0("text ", folded), paste0("in ", findings$variable))
}

# The message without what differs from finding to finding.
message_pattern <- function(findings) {
  blank <- function(message, text) if (nzchar(text)) stringi::stri_replace_all_fixed(
    message, text, "\u2026"
  ) else message
  vapply(
    seq_len(nrow(findings)),
    function(row) sub("; did you mean.*", "", blank(findings$message[row], findings$written[row])),
    ""
  )
}

proposals_for <- function(findings, proposals) {
  id <- joined_id(findings$kind, findings$variable, findings$written, findings$path)
  Filter(function(number) any(proposals[[number]]$of %in% id), seq_along(proposals))
}

# Answers that each range, universe and rule sets aside, those that set none
# aside among them.
aside_counts <- function(study, names) {
  book <- study$book
  tests <- Filter(function(test) any(test$variable %in% names), tests_of(book))
  paths <- vapply(tests, function(test) paste(test$path, collapse = " > "), "")
  kinds <- vapply(tests, `[[`, "", "kind")
  answers <- vapply(seq_along(tests), function(k) {
    fits <- function(entry) {
      entry$kind == kinds[k] && entry$rule == paths[k] && entry$variable %in% tests[[k]]$variable
    }
    sum(0L, unlist(lapply(Filter(fits, study$ledger), function(entry) length(entry$rows))))
  }, 0L)
  broken <- vapply(tests, function(test) {
    if (test$kind == "rule") study$checked[[test$path[2]]]$rows else NA_integer_
  }, 0L)
  named <- vapply(tests, function(test) if (test$kind == "rule") "" else test$variable, "")
  out <- data.frame(
    kind = kinds, variable = named, path = paths,
    line = vapply(paths, function(path) line_of_path(book, path), 0L, USE.NAMES = FALSE),
    answers = answers, records = broken,
    reports_only = vapply(tests, function(test) isTRUE(test$only), TRUE)
  )
  rank <- match(out$kind, c("universe", "range", "rule"))
  out <- out[order(rank, -out$answers, method = "radix"), ]
  rownames(out) <- NULL
  out
}

# Whatever may set an answer aside: ranges, universes, rules.
tests_of <- function(book) {
  has_universe <- function(variable) !is.null(variable$universe)
  on <- function(kind) function(variable) {
    list(kind = kind, variable = variable$name, path = where_in(variable, kind))
  }
  c(
    lapply(Filter(has_own_range, book$variables), on("range")),
    lapply(Filter(has_universe, book$variables), on("universe")),
    lapply(book$rules, function(rule) {
      list(kind = "rule", variable = rule$reads, path = rule$path, only = is.null(rule$aside))
    })
  )
}

unchecked_variables <- function(book, names) {
  ruled <- unlist(lapply(book$rules, `[[`, "reads"))
  bare <- Filter(
    function(variable) is_answer(variable) && !isTRUE(variable$carrier) &&
      is.null(variable$codes) && is.null(variable$range) && is.null(variable$universe) &&
        !variable$name %in% ruled,
    book$variables[names]
  )
  data.frame(
    variable = as.character(names(bare)), label = vapply(
      bare, function(variable) paste0(variable$label, ""), "", USE.NAMES = FALSE
    ),
    level = vapply(bare, function(variable) variable$level, "", USE.NAMES = FALSE)
  )
}

#' Records that meet a condition
#'
#' For a look, or a list of whom to ask again.
#'
#' @param codebook A codebook, or what [read_codebook()] takes; or a study.
#' @param where A condition in the codebook's language, `"years > 60"`.
#' @param exports Data frames in place of files, as in [build_study()].
#' @return A data frame with `wave`, `respondent`, `export`, `line`, `stands`
#'   (`retained`, or what dropped the record) and the variables that the condition names,
#'   coded ones as labels and gaps as their reason's label. A record for which
#'   the condition is unknown is not in it.
#' @section Errors: A condition that is none; one that reads a private variable.
#' @examples
#' find_records(demo_project(tempfile()), 'years > 55 & voice == "Bass"')
#' @export
find_records <- function(codebook, where, exports = list()) {
  keep_own_options()
  study <- if (inherits(codebook, "mavik_study")) codebook else
    build_study(codebook, exports, digests = FALSE)
  condition <- checked_condition(where, study$book)
  rows <- which(truth_of(condition, study))
  records <- data.frame(
    wave = study$records$wave[rows], respondent = respondents_shown(study)(rows),
    export = study$records$export[rows], line = study$records$line[rows],
    stands = ifelse(rows %in% rows_retained(study), "retained", study$disposition[rows])
  )
  for (name in condition$uses) records[[name]] <- cells_shown(study, name, rows)
  records
}

#' One person's records, raw beside decoded
#'
#' @param codebook A study, a codebook, or what [read_codebook()] takes. A study that
#'   was built from data frames needs them again, as `exports`.
#' @param respondent The key of a respondent.
#' @param exports Data frames in place of files, as in [build_study()].
#' @return A data frame, a row for each record and variable: `wave`, `export`,
#'   `file`, `line`, `stands`, `variable`, `label`, `column`, `raw` (the cell as it
#'   stands), `value` (as in the study; labels of codes), `gap` (the label of the
#'   reason). Private variables are left out.
#' @section Errors: A respondent that is not there; those of [build_study()].
#' @examples
#' head(show_record(demo_project(tempfile()), "0278"))
#' @export
show_record <- function(codebook, respondent, exports = list()) {
  keep_own_options()
  book <- known_book(codebook)
  exports <- frames_given(codebook, exports, book)
  book$exports <- locate_exports(book, exports)
  respondent <- text_trim(as.character(respondent))
  inputs <- person_inputs(book, respondent)
  if (is.null(inputs)) stop_no_respondent(respondent, book)
  study <- person_study(inputs, book, respondent, names(book$variables), exports)
  rows <- which(study$records$key == respondent)
  if (length(rows) == 0) stop_mavik(
    "build_error", "the answers of this person were purged, as an `erase` screen asks"
  )
  names <- setdiff(names(study$book$variables), private_variables(book))
  do.call(
    rbind,
    lapply(
      rows, function(row) do.call(rbind, lapply(names, function(name) record_row(study, name, row)))
    )
  )
}

record_row <- function(study, name, row) {
  variable <- version_at(study, name, row)
  columns <- if (isTRUE(variable$absent)) character() else columns_of(variable)
  raw <- vapply(columns, function(column) {
    place <- place_of_row(study, row)
    source <- source_of(
      variable, column, study$sources[[place$input]],
      study$book$exports[[names(study$sources)[place$input]]]
    )
    cell <- source$raw$cells[source$raw$index[place$position]]
    if (is.na(cell)) "" else cell
  }, "")
  end <- end_of(study, name, row)
  data.frame(
    wave = study$records$wave[row], export = study$records$export[row], file = shown_source(
      study, row
    ), line = study$records$line[row],
    stands = if (row %in% rows_retained(study)) "retained" else study$disposition[row],
    variable = name, label = paste0(variable$label, ""), column = paste(columns, collapse = " | "),
    raw = paste(raw, collapse = " | "),
    value = end$shown, gap = end$label
  )
}
