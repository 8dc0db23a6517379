# Rules and screens: their contracts, and how they are read.

# The contract of a rule (`rule_<key>`) and of a screen (`screen_<key>`). `inputs` are
# columns of the variables it reads. A screen that counts answers gets `state` beside
# them, `answered` and `asked` for each variable.

new_rule <- function(
    # one line and an entry of a codebook, for the reference
    help = "", example = "",
    # the field that stands at its key, and further keys that go with it
    value, beside = list(),
    # (rule, book, say) the rule with `reads`, the variables it reads; its `items` are
    # those it judges, without what it sets aside besides
    makes,
    # (rule, inputs, book, rows) a list of `rows`, those that break it, and `more`,
    # words for its finding
    compute,
    # (rule, book) what must hold, in words
    sentence) {
  as.list(environment())
}

new_screen <- function(
    help = "", example = "", value, beside = list(),
    # (screen, book, say) the screen with `reads`, and `counts`, the variables of which
    # it counts answers
    makes,
    # (screen, inputs, state, book, n) a list of `rows`, those that it means, and `more`
    compute,
    # (screen, book) who is meant, in words
    sentence) {
  as.list(environment())
}

rules <- function() parts_named("rule_")

screens <- function() parts_named("screen_")

compile_parts <- function(value, section, kinds, common, book, say, troubled) {
  if (is.null(value)) return(list())
  if (!is_map(value)) {
    say(section, "must hold entries with names of their own")
    return(list())
  }
  check_names(names(value), section, part_name, say)
  parts <- lapply(
    with_names(names(value), names(value)),
    function(name) compile_part(value[[name]], name, section, kinds, common, book, say, troubled)
  )
  parts[!vapply(parts, is.null, TRUE)]
}

# The kind that one of the entry's keys was perhaps meant for.
meant_kind <- function(entry, kinds, common) {
  said <- vapply(setdiff(names(entry), names(common)), did_you_mean, "", known = names(kinds))
  c(said[nzchar(said)], "")[[1]]
}

compile_part <- function(entry, name, section, kinds, common, book, say, troubled) {
  path <- c(section, name)
  if (!is_map(entry)) return(say(path, paste0("must hold one of ", some_of(names(kinds), 9))))
  given <- intersect(names(entry), names(kinds))
  if (length(given) != 1) return(say(
    path,
    paste0(
      if (length(given) == 0) "holds none" else "holds more than one", " of ",
      some_of(names(kinds), 9), if (length(given) == 0) meant_kind(entry, kinds, common)
    )
  ))
  sound <- TRUE
  note <- function(path, message) {
    sound <<- FALSE
    say(path, message)
  }
  fields <- c(with_names(list(kinds[[given]]$value), given), kinds[[given]]$beside, common)
  read <- read_fields(entry, fields, path, note)
  if (!sound || is.null(read[[given]])) return(NULL)
  part <- c(
    list(name = name, kind = given, path = path, settings = read[[given]]),
    read[setdiff(names(read), given)]
  )
  making <- function() kinds[[given]]$makes(part, book, note)
  part <- if (troubled) tryCatch(making(), error = function(e) NULL) else making()
  if (sound) part else NULL
}

# A screen names the standing of those it drops, so it cannot be called like another standing.
check_screen_names <- function(names, say) {
  for (name in intersect(names, names(dispositions))) {
    say(c("screens", name), paste0("`", name, "` is the name of a standing already (taken are ",
      some_of(names(dispositions), 9), "): give the screen another name"))
  }
}

rule_fields <- function() {
  list(
    sets_aside = field(
      "texts", "the answers that are set aside, or `all` that the rule reads; else it only reports",
      "all"
    ),
    note = field("text", "a remark for readers of the documentation", "Agreed with the office.")
  )
}

screen_fields <- function() {
  list(
    report = field("yes_no", "marks the records and drops nobody", "yes", default = FALSE),
    erase = field(
      "yes_no", "purges the answers of those it drops: nothing is left but a count", "yes",
      default = FALSE
    ),
    note = field("text", "a remark for readers of the documentation", "As the consent form says.")
  )
}

name_set_aside <- function(rule, book, say) {
  rule$items <- rule$reads
  if (is.null(rule$sets_aside)) return(rule)
  path <- c(rule$path, "sets_aside")
  answers <- names(Filter(is_answer, book$variables))
  if (identical(rule$sets_aside, "all")) {
    rule$aside <- intersect(rule$reads, answers)
    if (length(rule$aside) == 0) say(
      path, "the rule reads no answers: only answers read from cells can be set aside"
    )
  } else {
    rule$aside <- spread_names(rule$sets_aside, path, book, say)
    for (name in setdiff(rule$aside, answers)) say(
      path, paste0("`", name, "` is made of other values: set aside the answers it is made of")
    )
  }
  # The words of a write-in go with the choice they belong to.
  rule$aside <- union(
    rule$aside,
    names(Filter(
      function(variable) isTRUE(way_of(variable)$follows(variable) %in% rule$aside) &&
        is_answer(variable),
      book$variables
    ))
  )
  # What it judges, and what it may set aside besides, are two lists.
  rule$reads <- union(rule$reads, rule$aside)
  rule
}
