# What a person should look at, in words.

#' Findings of a study
#'
#' What a person should look at, the worst first. Cells of the same text in one
#' variable are one finding.
#'
#' @param study A study, from [build_study()].
#' @return A data frame with `level` (`error`, `warning`, `note`), `kind`,
#'   `variable`, `written` (the text in the file), `count`, `examples` (up to
#'   five respondents, in the order of the data), `path` (where in the codebook),
#'   `message` and `accepted` (empty while the finding is open; else the note of
#'   the codebook's `accepted` entry that fits it, or `yes`). Private answers are
#'   masked. Findings are counted over all records of the exports, those of
#'   dropped respondents included; what an `erase` screen purged is not.
#' @examples
#' study <- build_study(demo_project(tempfile()))
#' findings(study)[, c("kind", "variable", "written", "count")]
#' @export
findings <- function(study) {
  keep_own_options()
  check_study_class(study)
  if (!is.null(study$told)) return(study$told)
  hidden <- private_variables(study$book)
  findings <- study$findings
  if (length(hidden) > 0) findings <- lapply(findings, masked_finding, hidden = hidden)
  column <- function(name, none) vapply(findings, `[[`, none, name)
  out <- data.frame(
    level = factor(column("level", ""), c("error", "warning", "note")), kind = column("kind", ""),
    variable = column("variable", ""),
    written = column("written", ""), count = as.integer(column("count", 0)),
    examples = examples_shown(findings, study),
    path = column("path", ""), message = column("message", "")
  )
  out <- accept_findings(out, study$book)
  place <- match(out$variable, names(study$book$variables), nomatch = 0L)
  out <- out[order(
    nzchar(out$accepted), out$level, place, out$kind, -out$count, out$written, method = "radix"
  ), ]
  out$level <- as.character(out$level)
  rownames(out) <- NULL
  out
}

# The respondents of each finding, of all findings at once.
examples_shown <- function(findings, study) {
  rows <- lapply(findings, `[[`, "rows")
  if (!is.null(study$chosen)) rows <- lapply(rows, intersect, study$chosen)
  join_by(respondents_shown(study)(unlist(rows)), lengths(rows), "; ")
}

# Many outputs tell of the findings: their table is made once for all.
with_findings <- function(study) {
  study$told <- findings(study)
  study
}

# An accepted finding stays counted and is no longer open; an entry that fits
# none any more is a note itself.
accept_findings <- function(out, book) {
  out$accepted <- rep("", nrow(out))
  spent <- logical(length(book$accepted))
  for (k in seq_along(book$accepted)) {
    entry <- book$accepted[[k]]
    fits <- out$kind == entry$kind
    if (!is.null(entry$variable)) fits <- fits & out$variable == entry$variable
    if (!is.null(entry$written)) fits <- fits & text_fold(out$written) == text_fold(entry$written)
    if (!is.null(entry$path)) fits <- fits & out$path == text_squeeze(entry$path)
    out$accepted[fits] <- if (is.null(entry$note)) "yes" else entry$note
    spent[k] <- !any(fits)
  }
  if (!any(spent)) return(out)
  unmet <- book$accepted[spent]
  said <- function(key) vapply(unmet, function(entry) paste0(entry[[key]], ""), "")
  rbind(out, data.frame(
    level = factor("note", levels(out$level)), kind = "accepted_unmatched",
    variable = said("variable"), written = said("written"), count = 1L, examples = "",
    path = paste0("accepted > ", which(spent)), message = paste0(
      "no finding of kind `", said("kind"), "` fits this entry any more: take it out"
    ), accepted = ""
  ))
}

# Kinds that say who was received and who is retained: nothing to review there.
flow_kinds <- c("received", "dropped", "marked", "erased", "retained")

open_findings <- function(findings) findings[!nzchar(findings$accepted) &
  !findings$kind %in% flow_kinds, ]

masked <- "(private)"

# How respondents are named in what is written: by key, or by their address.
respondents_shown <- function(study) {
  if (!key_is_private(study$book)) return(function(rows) study$records$key[rows])
  function(rows) if (length(rows) == 0) character() else at_line(
    study$records$export[rows], study$records$line[rows]
  )
}

# The one pattern that all fit which fit any; NULL where day and month could be
# either, and no pattern that the codebook says already settles it.
sure_pattern <- function(texts, level, said = NULL) {
  fit <- texts[lengths(lapply(texts, fitting_patterns, level = level)) > 0]
  if (length(fit) == 0) return(NULL)
  fits <- fitting_patterns(fit, level)
  fits <- in_order_of(fits, said)
  if (length(fits) == 1) fits else NULL
}

# Moments with a zone and without cannot be compared for sure.
zone_findings <- function(counts, decoded, raw, variable, rows_of) {
  read <- !is.na(decoded$value) & counts > 0
  if (is.null(decoded$zone) || !any(decoded$zone & read) || all(decoded$zone[read])) return(list())
  places <- which(read & !decoded$zone)
  list(new_finding("warning", "mixed_time_zones", variable$name, raw$cells[places[1]],
    sum(counts[places]),
    rows_of(places[1]), variable$path,
    "some cells name a time zone, others do not: these are taken as UTC"))
}

# A number holds 15 digits for sure; one that has more and changed by that is no number.
digits_findings <- function(cells, counts, decoded, variable, rows_of) {
  if (!identical(variable$storage, "number")) return(list())
  long <- which(!is.na(decoded$value) & counts > 0 & stringi::stri_count_charclass(cells,
    "[0-9]") > 15)
  digits <- function(text) gsub("^0+|0+$", "", gsub("[eE].*|[^0-9]", "", text))
  long <- long[digits(cells[long]) != digits(number_to_text(decoded$value[long]))]
  lapply(long, function(cell) new_finding("warning", "digits_lost", variable$name, cells[cell],
    counts[cell], rows_of(cell), variable$path,
    paste0("has more digits than a number holds and is kept as ",
      number_to_text(decoded$value[cell]),
      ": if it names something, its level is `identifier`")))
}

doubt_findings <- function(cells, counts, decoded, variable, rows_of) {
  lapply(which(decoded$doubt & counts > 0), function(cell) {
    new_finding("note", "missing_or_number", variable$name, cells[cell], counts[cell],
      rows_of(cell),
      variable$path,
      paste0(
        "a missing form of the study that is a possible value here: read as the value; if it is ",
        "a gap, add it under the variable's own `missing`"
      ))
  })
}

# What could not be worked out although its inputs were there.
not_computable_finding <- function(variable, column, inputs, book) {
  id <- reason_id(book, "not_computable")
  rows <- rows_that(column$reason, function(reason) reason == id)
  for (input in inputs) if (!is.null(input$reason)) rows <- rows[input$reason[rows] != id]
  if (length(rows) == 0) return(list())
  list(new_finding("warning", "not_computable", variable$name, "", length(rows), rows,
    variable$path, paste0(
    "has no value although what it is made of has: ", way_of(variable)$empty_where)))
}

# Variables that hold no value at all: the cause is told, not what rests on it.
all_gap_findings <- function(values, book, n) {
  if (n == 0) return(list())
  empty <- names(Filter(
    function(column) all(is.na(utils::head(column$value, 1000))) && all(is.na(column$value)), values
  ))
  told <- Filter(function(name) {
    variable <- book$variables[[name]]
    !way_of(variable)$internal && !way_of(variable)$everybody && !any(book$uses[[name]] %in% empty)
  }, empty)
  lapply(told, function(name) {
    counts <- table(reason_or_none(values[[name]]))
    most <- as.integer(names(counts)[which.max(counts)])
    new_finding("warning", "no_value", name, "", n, integer(), book$variables[[name]]$path, paste0(
      "is a gap for everybody, mostly \u201c", book$reasons$label[most],
      "\u201d: does it read the right column or condition?"))
  })
}

# Write-ins that look like a label, and one that many wrote: an option reworded?
written_findings <- function(cells, counts, decoded, variable, rows_of) {
  places <- which(decoded$kind == "write_in" & counts > 0)
  if (length(places) == 0) return(list())
  split <- identical(variable$storage, "set")
  labels <- if (split) variable$options$label else variable$codes$label
  text <- if (split) decoded$written[places] else text_trim(cells[places])
  folded <- text_fold(text)
  total <- tapply(counts[places], folded, sum)
  words <- unique(folded[nzchar(folded)])
  lengths <- nchar(text_fold(labels))
  near <- vapply(words, function(word) {
    close <- labels[abs(lengths - nchar(word)) <= max(1, 0.2 * nchar(word))]
    meant <- if (length(close) > 0) nearest(word, close, most = 0.2)
    if (is.null(meant)) NA_character_ else meant
  }, "")
  often <- total[words] >= max(5, 0.02 * sum(counts))
  lapply(which(!is.na(near) | often), function(i) {
    first <- places[match(words[i], folded)]
    written <- text[match(words[i], folded)]
    new_finding("warning", "write_in_or_label", variable$name, written, total[[words[i]]],
      rows_of(first), where_in(variable, if (split) "split" else "other"), if (is.na(near[i]))
      paste0(
        "taken as a write-in, but ", grouped(total[[words[i]]]),
        " people wrote it: an option that was reworded or added? Then list it, or add it under ",
        "`variants`"
      )
      else paste0(
        "taken as a write-in; if it means `", near[i], "`, add `variants: ",
        if (split) paste0("[", yaml_word(written), "]` to that option") else paste0(
          "{", yaml_word(near[i]), ": [", yaml_word(written), "]}`"
        )
      ))
  })
}
