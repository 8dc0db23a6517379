# A paragraph for a methods section: what was received and retained, and what was done, in numbers.

format_methods <- new_format(
  help = paste0(
    "`methods.txt`: a paragraph of plain text for a methods section: what was received and ",
    "retained, rules and screens, what was set aside, how scores were made, with the numbers"
  ),
  cannot = "single variables and answers",
  files = function(edition) "methods.txt",
  write = function(edition, folder) write_checked(line_bytes(methods_text(edition)), file.path(
    folder, "methods.txt"
  )),
  back = function(edition, folder) {
    read <- readLines(file.path(folder, "methods.txt"), encoding = "UTF-8")
    list(n = if (identical(read, enc2utf8(methods_text(edition)))) edition$n else NA)
  }
)

methods_text <- function(edition) {
  study <- edition$study
  # A condition may name persons.
  open <- is.null(edition$release$disclosure)
  paragraphs <- list(
    c(received_words(study), retained_words(study, open), choice_words_of(study)),
    c(aside_words(edition), if (open) rule_words(study), gap_words(edition)),
    score_words(edition), disclosure_words(edition),
    paste0(
      "The data were prepared with Mavik ", as.character(utils::packageVersion("mavik")),
      " from a codebook that documents every variable."
    )
  )
  texts <- vapply(Filter(length, paragraphs), paste, "", collapse = " ")
  utils::head(unlist(lapply(texts, function(text) c(strwrap(text, 92), ""))), -1)
}

received_words <- function(study) {
  counts <- disposition_counts(study)
  facts <- study$book$study
  waves <- vapply(study$book$waves, `[[`, "", "label")
  paste0(
    facts$title, if (!is.null(facts$collected)) paste0(
      " (collected ", sub("/", " to ", facts$collected, fixed = TRUE), ")"
    ), ": ", count_of(sum(counts), "record"), " ", if (sum(counts) == 1) "was" else "were",
    " received", if (length(waves) > 1) paste0(
      " in ", length(waves), " waves (", some_of(waves, 20, quote = FALSE), ")"
    ), " from ", count_of(length(study$inputs), "file"), "."
  )
}

retained_words <- function(study, open) {
  counts <- disposition_counts(study)
  book <- study$book
  gone <- dropped_of(counts)
  kept <- sum(counts) - sum(gone)
  why <- vapply(names(gone), function(name) {
    screen <- book$screens[[name]]
    paste0(grouped(gone[[name]]), " (", if (is.null(screen))
      "a further record of the same respondent" else paste0(
      name, if (open) paste0(": ", screens()[[screen$kind]]$sentence(screen, book))
    ), ")")
  }, "")
  left <- counts[setdiff(names(counts), names(gone))]
  left <- left[names(left) != "retained"]
  paste0(
    if (length(gone) == 0) "All were retained" else paste0(
      "Dropped were ", some_of(why, 40, quote = FALSE), "; ", grouped(kept), " were retained"
    ), if (length(left) > 0) paste0(", ", paste(
      grouped(left), tolower_ascii(dispositions[names(left)]), collapse = ", "
    )), "."
  )
}

choice_words_of <- function(study) if (!is.null(study$choice)) paste0(
  "This release holds ", choice_shown(study), "."
)

# Of the variables that go out, over all records of the release.
aside_words <- function(edition) {
  study <- edition$study
  entries <- Filter(function(entry) entry$variable %in% edition$names, study$ledger)
  rows <- rows_retained(study)
  kinds <- vapply(entries, `[[`, "", "kind")
  count <- function(kind) sum(0L, vapply(
    entries[kinds == kind], function(entry) sum(entry$rows %in% rows), 0L
  ))
  words <- c(
    corrected = "corrected after asking back", unlisted = "set aside since they are no answer",
    range = "set aside outside their range", universe = "set aside from persons who were not asked",
    rule = "set aside by a rule", exclusive = "set aside as excluding each other",
    imputed = "filled from the person's other answers"
  )
  counts <- vapply(names(words), count, 0L)
  counts <- counts[counts > 0]
  if (length(counts) == 0) return("No answer was changed or set aside.")
  paste0(
    "Of ", grouped(edition$n * length(edition$names)), " cells ", some_of(paste(
      grouped(counts), "were", words[names(counts)]
    ), 20, quote = FALSE), "."
  )
}

rule_words <- function(study) {
  rules <- study$book$rules
  if (length(rules) == 0) return(NULL)
  said <- vapply(rules, function(rule) rules()[[rule$kind]]$sentence(rule, study$book), "")
  acting <- !vapply(rules, function(rule) is.null(rule$aside), TRUE)
  paste0(
    "Checked ", if (length(said) == 1) "was " else "were ", count_of(length(said), "rule"), ": ",
    some_of(paste0(said, ifelse(acting, " (answers set aside)", " (reported only)")), 40,
      quote = FALSE), "."
  )
}

gap_words <- function(edition) {
  missing <- describe_missing(edition)
  missing <- missing[missing$cells > 0, ]
  if (nrow(missing) == 0) return("No value is missing.")
  paste0(
    "Missing values by reason: ", some_of(paste(
      grouped(missing$cells), missing$label
    ), 40, quote = FALSE), "."
  )
}

score_words <- function(edition) {
  book <- edition$study$book
  scores <- Filter(is_score, book$variables[edition$names])
  unlist(lapply(scores, function(variable) paste0(
    variable$label, ": ", made_in_words(variable, book)
  )))
}

disclosure_words <- function(edition) {
  changes <- edition$changes
  if (is.null(changes) || nrow(changes) == 0) return(NULL)
  paste0("Changed so that nobody is known again: ", some_of(paste0(
    changes$variable, " (", changes$change, ")"
  ), 60, quote = FALSE), ".")
}
