# A plan for a codebook as YAML lines, with the grounds as comments.

draft_lines <- function(seen, plan) {
  files <- vapply(plan$exports, `[[`, "", "file")
  c(
    paste0(
      "# A first codebook, drafted from ", paste(files, collapse = ", "), ": ",
      count_of(seen$records, "response"), " by ", count_of(length(seen$columns), "column"), "."
    ),
    "# What stands behind a # is the ground for a guess. Look it through, name things as you",
    "# like, then build.",
    if (!is.null(seen$totals)) paste0("# This looks like ", comment_text(seen$totals), "."),
    "mavik: 1", "",
    "study:", paste0("  title: ", yaml_word(plan$exports[[1]]$name), "   # the title of the study"),
    design_lines(plan), "",
    "waves:", drafted_waves(plan, seen), "",
    "exports:", unlist(lapply(plan$exports, export_lines, seen = seen, plan = plan)), "",
    repeat_lines(plan), missing_lines(plan$missing, seen$columns), list_lines(plan),
    "variables:", variable_lines(seen, plan), screen_lines(seen, plan)
  )
}

export_lines <- function(export, seen, plan) {
  adds <- c(parallel = "the same respondents again", joined =
    "more questions of the same people, by their key: see that it means the same in both")
  adds <- adds[export$role]
  why <- if (isTRUE(plan$restarts)) paste0(
    "the keys stand in several files with other answers: other persons under the same numbers? ",
    "If the files are waves, draft the first and `mavik align` the next"
  ) else if (plan$key == "numbered")
    "nothing identifies a respondent: Mavik numbers the records" else
      paste0(seen$columns[[plan$key]]$grounds, odd_keys(seen$columns[[plan$key]]))
  c(
    paste0("  ", export$name, ":"), if (!is.na(adds)) paste0(
      "    adds_to: ", export$base, "   # ", adds
    ) else wave_key_lines(plan),
    paste0("    file: ", yaml_word(export$file)), paste0(
      "    key: ", yaml_word(if (is.null(export$key)) plan$key else export$key), "   # ",
      comment_text(if (is.null(export$key)) why else "the same respondents by its values")
    ),
    if (!is.null(export$response)) paste0("    response: ", yaml_word(export$response)),
    paste0("    cells: ", export$cells), form_lines(export$form, words_read(seen)),
    ignored_lines(export$ignored)
  )
}

# A line of totals below the records, or a remark.
odd_keys <- function(profile) {
  keys <- profile$cells$text
  shortened <- keys[in_exponent_form(keys)]
  if (length(shortened) > 0) return(paste0("; ", shortened_keys(shortened)))
  odd <- keys[is.na(text_to_number(keys))]
  if (length(odd) == 0 || length(odd) > min(5, length(keys) / 10)) return("")
  paste0("; ", quoted_words(odd), if (length(odd) == 1) " is" else " are",
    " unlike the others: no respondent?")
}

shortened_keys <- function(keys) paste0(
  count_of(length(keys), "key"), " in exponent form (", keys[1], "): a spreadsheet made numbers ",
  "of them, and their last digits are lost; take the export as it came from the platform"
)

repeat_lines <- function(plan) {
  if (plan$repeats == 0) return(NULL)
  c(
    paste0(
      "duplicates: {keep: fullest}   # ", count_of(plan$repeats, "key"),
      if (plan$repeats == 1) " stands" else " stand",
      " more than once; better the last by a date, `{keep: last, by: ...}`"
    ),
    ""
  )
}

export_name <- function(file) {
  name <- gsub(
    "^_+|_+$", "", gsub("[^a-z0-9]+", "_", tolower_ascii(sub("[.][^.]*$", "", basename(file))))
  )
  name <- substr(name, 1, 32)
  if (grepl(part_name, name)) name else "export"
}

form_lines <- function(form, words) {
  c(
    if (!identical(form$heading, "names")) paste0(
      "    heading: [", paste(form$heading, collapse = ", "), "]"
    ),
    if (form$skip > 0) paste0("    skip: ", form$skip),
    if (form$delimiter != "comma") paste0("    delimiter: ", form$delimiter),
    if (form$encoding != "UTF-8") paste0(
      "    encoding: ", form$encoding, if (length(words) > 0) paste0(
        "   # a guess by its letters: it reads ", quoted_words(words)
      )
    ),
    if (isTRUE(form$decimal == "comma")) "    decimal: comma",
    if (!is.null(form$sheet)) paste0("    sheet: ", yaml_word(form$sheet))
  )
}

ignored_lines <- function(ignored) {
  if (length(ignored) == 0) return(NULL)
  c("    ignored:", paste0("      - ", yaml_word(names(ignored)), "   # ", ignored))
}

comment_text <- function(text) shorten_text(
  text_squeeze(stringi::stri_replace_all_regex(text, "\\p{Cc}", " ")), 180
)

reason_drafts <- list(
  refused = c(-2, "Prefer not to say"), dont_know = c(-1, "Don't know"), not_applicable = c(
    -10, "Not applicable"
  ), no_reply = c(-11, "No answer"), coded_missing = c(-12, "Coded as missing"),
  no_answer = c(-3, "No answer")
)

missing_lines <- function(missing, columns) {
  if (length(missing) == 0) return(NULL)
  answers <- unlist(lapply(columns, function(column) c(column$codes, column$told$codes)))
  # No reason has the code of an answer.
  free <- function(code) {
    while (code %in% answers) code <- code - 20
    code
  }
  reply <- "no_reply" %in% names(missing)
  # Whoever chose `No answer` left nothing blank.
  if (reply && is.null(missing$no_answer)) missing$no_answer <- list(
    forms = character(), counts = integer()
  )
  order <- intersect(names(reason_drafts), names(missing))
  c("missing:", vapply(order, function(name) {
    forms <- missing[[name]]$forms
    label <- if (name == "no_answer" && reply) "Left blank" else reason_label(name, forms)
    written <- forms[text_fold(forms) != text_fold(label)]
    ground <- paste0("\u201c", forms, "\u201d ", grouped(missing[[name]]$counts), collapse = ", ")
    code <- free(as.numeric(reason_drafts[[name]][1]))
    paste0("  ", name, ": {code: ", code, ", label: ", yaml_word(label),
      if (length(written) > 0) paste0(
        ", written: [", paste(yaml_word(written), collapse = ", "), "]"
      ), "}", if (length(forms) > 0) paste0("   # ", comment_text(ground)),
      if (name == "coded_missing") ", beside labels: what do they stand for?")
  }, ""), "")
}

# The words of the file, where they are words and no sign or initials, and say no more.
reason_label <- function(name, forms) {
  worded <- forms[stringi::stri_count_charclass(forms, "\\p{L}") > 4 &
    grepl("^[[:alpha:]]", forms) & !is.na(reason_of_word(text_fold(forms)))]
  usual <- reason_drafts[[name]][2]
  if (
    name %in% c("no_answer", "coded_missing") || length(worded) == 0 ||
    text_fold(usual) %in% text_fold(forms)
  ) usual else worded[1]
}

list_lines <- function(plan) {
  shared <- Filter(is_shared, plan$lists)
  if (length(shared) == 0) return(NULL)
  c("code_lists:", unlist(lapply(names(shared), function(name) {
    list <- shared[[name]]
    c(paste0(
      "  ", name, ":   # ", list$grounds,
      if (guessed_order(list)) ", in the order of frequency: check it", ", in ",
      count_of(length(list$columns), "column")
    ),
      if (!is.null(list$learnt)) paste0("    # ", text_squeeze(list$learnt)), paste0(
        "    codes: ", codes_text(list)
      ))
  })), "")
}

guessed_order <- function(list) list$kind == "choice" && is.null(list$learnt) &&
  length(list$labels) > 1 &&
  !isTRUE(list$given) && !identical(sort(text_fold(list$labels)), c("no", "yes")) &&
  is.null(numbers_beside(list$labels)) && is.null(natural_codes(list$labels))

codes_text <- function(list) paste0(
  "{", paste0(list$codes, ": ", yaml_word(text_squeeze(list$labels)), collapse = ", "), "}"
)
