# The language as one table, made from the field tables: what the reference
# prints, its page shows and the help page says.

language_entries <- function() {
  own <- language_places()
  rows <- c(
    unlist(lapply(names(own), function(place) field_rows(own[[place]], place)), recursive = FALSE),
    kind_rows(open_ways(), "variables > VARIABLE", "way"),
    kind_rows(rules(), "rules > RULE", "rule"),
    kind_rows(screens(), "screens > SCREEN", "screen"),
    function_rows()
  )
  out <- do.call(rbind, lapply(rows, as.data.frame))
  rownames(out) <- NULL
  # What goes beside any rule or screen comes after their kinds.
  beside <- out$part == "key" & chapter_of(out) %in% c("rules", "screens") & nzchar(out$place)
  out[order(match(chapter_of(out), names(language_chapters)), beside), ]
}

# Where entries have names of their own, and what each may hold.
language_places <- function() {
  list(
    " " = codebook_fields(), "waves > WAVE" = wave_fields(), "exports > EXPORT" = export_fields(),
    "missing > REASON" = reason_fields(), "code_lists > LIST" = code_list_fields(),
    "lookups > FILE" = lookup_fields(), "instruments > INSTRUMENT" = instrument_fields(),
    "variables > VARIABLE" = variable_fields(), "variables > BLOCK" = block_fields(),
    "rules > RULE" = rule_fields(), "screens > SCREEN" = screen_fields(),
    "tables > TABLE" = table_fields(), "releases > RELEASE" = release_fields()
  )
}

# The order of the reference, with a line on each part.
language_chapters <- c(
  sections = "Sections of a codebook, in the order in which they are mostly written",
  study = "Facts of the study",
  waves = "What a wave may say",
  exports = "What an export may say",
  duplicates = "Which of several records of a respondent is retained",
  accepted = "Findings that a person has looked at",
  missing = "What a missing reason may say",
  code_lists = "What a code list may say",
  lookups = "What a look-up file may say",
  instruments = "What an instrument may say",
  variables = "What any variable may say, and a block",
  ways = "How a variable is made: one of these keys in its entry",
  rules =
    "Rules: in an entry of `rules` one that says what is checked, and what goes with any of them",
  screens =
    "Screens: in an entry of `screens` one that says who is meant, and what goes with any of them",
  tables = "Tables: what is counted, by which groups, and how it is shown",
  releases = "Releases: what goes to whom, in which formats",
  conditions = "Operators and functions of conditions and formulas"
)

chapter_of <- function(entries) {
  section <- sub(" > .*", "", entries$place)
  kinds <- c(way = "ways", rule = "rules", screen = "screens", `function` = "conditions")
  ifelse(entries$part %in% names(kinds), unname(kinds[entries$part]),
    ifelse(section == "", "sections", section))
}

field_rows <- function(fields, place, part = "key", goes_with = "") {
  place <- trimws(place)
  unlist(lapply(names(fields), function(key) {
    field <- fields[[key]]
    if (field$type == "given") return(list())
    inner <- inner_fields(field)
    below <- paste0(
      if (nzchar(place)) paste0(place, " > "), key, if (field$type == "options") " > OPTION"
    )
    c(
      list(entry_row(part, place, key, field, goes_with)),
      if (!is.null(inner)) field_rows(inner, below, part, goes_with)
    )
  }), recursive = FALSE)
}

inner_fields <- function(field) switch(field$type, options = option_fields(), field$fields)

entry_row <- function(part, place, key, field, goes_with) {
  list(
    part = part, place = place, key = key, type = type_words(field),
    required = isTRUE(field$required),
    default = default_shown(field), help = field$help, example = example_shown(key, field),
    goes_with = goes_with
  )
}

# The key of each kind with its own keys, and those that go beside it.
kind_rows <- function(kinds, place, part) {
  unlist(lapply(names(kinds), function(name) {
    kind <- kinds[[name]]
    own <- entry_row(part, place, name, kind$value, name)
    own[c("help", "example")] <- list(kind$help, paste(kind$example, collapse = "\n"))
    inner <- inner_fields(kind$value)
    c(
      list(own),
      if (!is.null(inner)) field_rows(inner, paste(place, ">", name), part, name),
      field_rows(kind$beside, place, part, name)
    )
  }), recursive = FALSE)
}

function_rows <- function() {
  lapply(names(expr_functions), function(name) {
    known <- expr_functions[[name]]
    list(part = "function", place = "conditions", key = name, type = "", required = FALSE,
      default = "",
      help = known$help, example = known$example, goes_with = "")
  })
}

# An example of a key that is a map comes from what it holds.
example_shown <- function(key, field) {
  value <- example_of(field)
  if (is.null(value)) "" else paste0(key, ": ", value)
}

example_of <- function(field) {
  if (!is.null(field$example)) return(field$example)
  switch(field$type,
    choice = field$values[1], choices = paste0("[", field$values[1], "]"), yes_no = "yes",
    map = {
      needed <- Filter(function(inner) inner$required, field$fields)
      shown <- if (length(needed) > 0) needed else field$fields[1]
      paste0("{", paste0(names(shown), ": ", lapply(shown, example_of), collapse = ", "), "}")
    }
  )
}

default_shown <- function(field) {
  default <- field$default
  if (length(default) == 0) return("")
  if (is.logical(default)) return(if (default) "yes" else "no")
  paste(default, collapse = ", ")
}

type_words <- function(field) {
  switch(field$type,
    choice = paste("one of", some_of(field$values, 20)),
    choices = paste("a list of", some_of(field$values, 20)),
    whole = paste0(
      "a whole number", if (!is.null(field$least)) paste0(", ", field$least, " or more")
    ),
    number = paste0("a number", if (!is.null(field$least)) paste0(", ", field$least, " or more")),
    if (field$type %in% names(plain_types)) plain_types[[field$type]] else field$type
  )
}

plain_types <- c(
  parts = "entries with names of their own", map = "keys of its own", maps = "a list of entries",
  text = "a text",
  texts = "a text or a list of texts", heading = "a heading of the file",
  wave_of = "a wave, or a column with what is written in it for each wave",
  headings = "a heading or a list of them",
  heading_pairs = "for each variable a heading", mark = "a text, blanks included",
  yes_no = "yes or no",
  range = "two bounds, each a number, a date, `up` or `down`",
  patterns = "a pattern of dates or a list of them",
  condition = "a condition or formula", share_or_count = "a share below 1, or a whole number",
  period = "an ISO 8601 date, or two with a slash between", codes = "for each code a label",
  codes_or_list = "for each code a label, or the name of a code list",
  forms = "for each value its written forms",
  nets = "for each net its codes or labels",
  coarser = "for each a step of dates, or `starts`, `ends` or `to`",
  spans = "for each two bounds",
  typed = "`all`, a list of variables and blocks, or `{without: [...]}`",
  chosen = "a list of variables and blocks, or `{without: [...]}`",
  pairs = "for each a value", groups = "for each a list",
  amount = "a whole number, a share below 1, or `all`",
  options = "for each variable its label, or keys", names = "for each a label",
  bounds = "for each code a number",
  branches = "a list of `{if: CONDITION, is: CODE}` and at most one `{else: CODE}`"
)

# Words that are no keys: what stands in the outputs and what the language knows by
# name. `part` says of what each is.
vocabulary_entries <- function() {
  word <- function(part, place, words) {
    data.frame(part = part, place = place, key = names(words), help = unname(words))
  }
  outputs <- parts_named("output_")
  files <- vapply(outputs, `[[`, "", "file")
  rbind(
    word(
      "reason", "missing",
      with_names(
        paste0(standing_reasons$label, ", code ", standing_reasons$code), standing_reasons$name
      )
    ),
    word("standing", "disposition", standing_words),
    word("output", "out/", with_names(vapply(outputs, `[[`, "", "help"), files)),
    do.call(rbind,
      lapply(Filter(function(output) length(output$columns) > 0, outputs), function(output) {
      word("column", output$file, output$columns)
    })),
    word("format", "formats", vapply(formats(), format_in_words, "")),
    word("ledger", "ledger.csv", ledger_kinds), word("finding", "findings.csv", finding_kinds),
    make.row.names = FALSE
  )
}

vocabulary_chapters <- c(
  reason = "Missing reasons that are always there",
  standing = "Standings of a respondent (`is: disposition`), besides the names of screens",
  output = "Files that a build writes", column = "Their columns",
  format = "Formats of a release",
  ledger = "Kinds of the ledger", finding = "Kinds of findings"
)
