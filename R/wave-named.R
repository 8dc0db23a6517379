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
    by("rule", "same wording but for its number", finders$worded_unnumbered)
  }
  if ("name" %in% rules) {
    by("rule", "same name", finders$named)
    by("rule", "same name but for capitals", finders$called)
    by("rule", "same name but for marks at its end", finders$unmarked)
    by("rule", "same name but for its number", finders$unnumbered)
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
  names <- with_names(names(questions), names(questions))
  asked <- unique(unlist(lapply(board$slots, `[[`, "questions")))
  near_worded <- function(find) function(slot) {
    column <- some(find(slot))
    if (length(column) != 1 || length(slot$questions) == 0) return(column)
    # A file without wordings asks nothing in other words.
    if (!nzchar(questions[[column]])) return(column)
    if (is_worded_alike(questions[[column]], slot$questions, setdiff(asked, slot$questions))) column
  }
  list(
    both = function(slot) some(intersect(
      named(slot), if (length(slot$questions) == 0) board$left() else worded(slot)
    )),
    worded = worded, named = near_worded(named),
    # Platforms change the capitals of a heading as they please, and marks at its end.
    called = near_worded(find_bare(names, board, "columns", text_fold)),
    worded_unmarked = find_bare(folded, board, "questions", text_unmarked),
    worded_unnumbered = find_unnumbered(folded, board, "questions"),
    unmarked = near_worded(find_bare(names, board, "columns", text_unmarked)),
    unnumbered = near_worded(find_unnumbered(names, board, "columns"))
  )
}

# Whether a wording is near to a question's own, and clearly nearer than to any other question's: of
# a battery one item is much like the next, which may have taken its name.
is_worded_alike <- function(wording, own, others) {
  near <- max(wording_likeness(own, wording))
  if (near < 0.6) return(FALSE)
  item <- function(texts) text_unnumbered(vapply(texts, function(text) stem_of(text)[2], ""))
  likeness <- function(texts) max(0, wording_likeness(item(texts), item(wording)))
  likeness(own) >= likeness(others) + 0.1
}

# Finds the columns left whose text is a question's but for what `bare` takes off, where no other
# column of the file and no other question is so called: in `1. choice` and `2. choice` the number
# counts.
find_bare <- function(texts, board, of, bare) {
  file <- bare(texts)
  known <- unlist(lapply(board$slots, function(slot) unique(bare(slot[[of]]))))
  once <- function(all) setdiff(all, c("", all[duplicated(all)]))
  sole <- intersect(once(file), once(known))
  function(slot) intersect(
    names(texts)[file %in% intersect(bare(slot[[of]]), sole)], board$left()
  )
}

# One numbered heading in each file is no numbering: `1. hour of singing`, `2. hour of singing`.
find_unnumbered <- function(texts, board, of) {
  said <- c(texts, unlist(lapply(board$slots, `[[`, of)))
  if (sum(text_unnumbered(said) != text_unmarked(said)) < 3) return(function(slot) character())
  find_bare(texts, board, of, text_unnumbered)
}
