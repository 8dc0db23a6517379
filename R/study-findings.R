# A finding is something a person should look at. `rows` are the study's rows
# it was seen in, of which up to five become examples.

new_finding <- function(level, kind, variable, written, count, rows, path, message) {
  list(level = level, kind = kind, variable = variable, written = written, count = count, rows = utils::head(rows, 5),
    path = paste(path, collapse = " > "), message = message)
}

#' Findings of a study
#'
#' What a person should look at, the worst first. Cells of the same text in one
#' variable are one finding.
#'
#' @param study A study, from [build_study()].
#' @return A data frame with `level` (`error`, `warning`, `note`), `kind`,
#'   `variable`, `written` (the text in the file), `count`, `examples` (up to
#'   five respondents, in the order of the data), `path` (where in the codebook)
#'   and `message`. Private answers are masked.
#' @examples
#' study <- build_study(demo_project(tempfile()))
#' findings(study)[, c("kind", "variable", "written", "count")]
#' @export
findings <- function(study) {
  check_study_class(study)
  found <- study$findings
  column <- function(name, none) vapply(found, function(one) one[[name]], none)
  who <- respondents_shown(study)
  out <- data.frame(
    level = factor(column("level", ""), c("error", "warning", "note")), kind = column("kind", ""), variable = column("variable", ""),
    written = column("written", ""), count = as.integer(column("count", 0)),
    examples = vapply(found, function(one) paste(who(one$rows), collapse = "; "), ""),
    path = column("path", ""), message = column("message", "")
  )
  private <- out$variable %in% private_variables(study$book)
  out$written[private & nzchar(out$written)] <- masked
  out$message[private] <- vapply(found[private], function(one) {
    if (nzchar(one$written)) stringi::stri_replace_all_fixed(one$message, one$written, masked) else one$message
  }, "")
  place <- match(out$variable, names(study$book$variables), nomatch = 0L)
  out <- out[order(out$level, place, out$kind, -out$count, out$written, method = "radix"), ]
  out$level <- as.character(out$level)
  rownames(out) <- NULL
  out
}

masked <- "(private)"

private_variables <- function(book) {
  private <- vapply(book$variables, function(variable) isTRUE(variable$private), TRUE)
  own <- names(book$variables)[private]
  if (key_is_private(book)) unique(c(own, key_variable(book))) else own
}

# How respondents are named in what is written: by key, or by their address.
respondents_shown <- function(study) {
  if (!key_is_private(study$book)) return(function(rows) study$records$key[rows])
  function(rows) if (length(rows) == 0) character() else at_line(study$records$export[rows], study$records$line[rows])
}

unlisted_findings <- function(cells, counts, decoded, variable, rows_of) {
  lapply(which(decoded$kind == "unlisted" & counts > 0), function(at) {
    new_finding("warning", "unlisted", variable$name, cells[at], counts[at], rows_of(at), variable$path,
      unlisted_message(cells[at], variable))
  })
}

unlisted_message <- function(cell, variable) {
  if (variable$storage == "number") {
    return("not a number, set aside; if it can be read as one, add `variants: {number: [this text]}`, if it is a gap, `missing: {reason: [this text]}`")
  }
  near <- nearest(cell, variable$codes$label, most = 0.34)
  if (!is.null(near)) return(paste0("not a label, set aside; if it means `", near, "`, add `variants: {", yaml_word(near), ": [", yaml_word(cell), "]}`"))
  if (!is.na(text_to_number(cell)) && text_to_number(cell) %in% variable$codes$code) {
    return("a bare code among labels, set aside; if it is that code, add it under `variants`")
  }
  "not one of its values, set aside; add it under `variants`, `missing` or `codes`"
}

# A text as it can stand inside { } or [ ].
yaml_word <- function(text) {
  plain <- stringi::stri_detect_regex(text, "^[\\p{L}\\p{N}/](?:[\\p{L}\\p{N} '().?!/+_-]*[\\p{L}\\p{N}).?!])?$")
  ifelse(plain, text, paste0("'", stringi::stri_replace_all_fixed(text_squeeze(text), "'", "''"), "'"))
}

doubt_findings <- function(cells, counts, decoded, variable, rows_of) {
  lapply(which(decoded$doubt & counts > 0), function(at) {
    new_finding("note", "missing_or_number", variable$name, cells[at], counts[at], rows_of(at), variable$path,
      "a missing form of the study that is a possible value here: read as the value; if it is a gap, add it under the variable's own `missing`")
  })
}
