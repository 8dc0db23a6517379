# What is asked in the same words, or has the same name, is the same question: the rules by which a
# column of the new wave is paired.

# Rule after rule, the surest first. A column that several questions could be is nobody's by rule.
pair_by_rules <- function(board, rules, own, study) {
  finders <- rule_finders(board, own$export$questions)
  by <- function(match, rule, of, fits = TRUE) {
    asked <- board$open()
    columns <- lapply(board$slots[asked], of)
    often <- table(unlist(columns))
    for (i in which(lengths(columns) == 1)) {
      column <- columns[[i]]
      slot <- board$slots[[asked[i]]]
      # Turned round it is another question, or the same one upside down.
      turned <- nzchar(turned_round_by(own$export$questions[[column]], slot$questions))
      alike <- !turned && (!fits || fits_well(slot, column, own, study))
      if (often[[column]] == 1 && alike) board$set(asked[i], column, match, rule)
    }
  }
  # Answers tell nothing where name and wording, or the wording alone, are the same.
  if (all(c("name", "wording") %in% rules)) by(
    "same", "name and wording", finders$both, fits = FALSE
  )
  if ("wording" %in% rules) {
    by("rule", "same wording", finders$worded, fits = FALSE)
    by("rule", "same wording but for marks at its end", finders$worded_unmarked)
  }
  if ("name" %in% rules) {
    by("rule", "same name", finders$named)
    by("rule", "same name but for capitals", finders$called)
    by("rule", "same name but for marks at its end", finders$unmarked)
  }
  if ("codes" %in% rules) pair_by_list(board, own, by)
}

# For each rule the columns left that a question could be by it.
rule_finders <- function(board, questions) {
  folded <- with_names(text_fold(questions), names(questions))
  some <- function(values) values[!is.na(values)]
  named <- function(slot) intersect(slot$columns, board$left())[1]
  worded <- function(slot) {
    left <- board$left()
    left[nzchar(folded[left]) & folded[left] %in% text_fold(slot$questions)]
  }
  # Platforms change the capitals of a heading as they please, and marks at its end.
  called <- function(slot) board$left()[text_fold(board$left()) %in% text_fold(slot$columns)]
  unmarked <- function(slot) among_unmarked(
    with_names(board$left(), board$left()), slot$columns
  )
  near_worded <- function(find) function(slot) {
    column <- some(find(slot))
    if (length(column) != 1 || length(slot$questions) == 0) return(column)
    if (max(wording_likeness(slot$questions, questions[[column]])) >= 0.6) column
  }
  list(
    both = function(slot) some(intersect(
      named(slot), if (length(slot$questions) == 0) board$left() else worded(slot)
    )),
    worded = worded, named = near_worded(named), called = near_worded(called),
    worded_unmarked = function(slot) among_unmarked(folded[board$left()], slot$questions),
    unmarked = near_worded(unmarked)
  )
}

# The names of those texts that are one of the others but for marks that end a heading, or the
# part of it before what stands in brackets. Nothing but marks is no text.
among_unmarked <- function(texts, others) {
  unmarked <- function(x) stringi::stri_replace_all_regex(
    text_fold(x), "[ ?!.:*\\x{2026}]+(?= ?\\[|$)", ""
  )
  bare <- unmarked(texts)
  names(texts)[nzchar(bare) & bare %in% unmarked(others)]
}
