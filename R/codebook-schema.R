# Every place of the language that is no way: what keys it may hold. Ways bring
# their own tables (see `way-`).

codebook_fields <- function() {
  list(
    mavik = field("choice", "the version of the language, `mavik: 1`", required = TRUE, values = "1"),
    study = map_field(study_fields(), "title and facts of the study", required = TRUE),
    waves = field("parts", "the rounds of collection, `spring: {label: Spring 2026}`", required = TRUE),
    exports = field("parts", "the raw files", required = TRUE),
    missing = field("parts"),
    code_lists = field("parts"),
    variables = field("parts", "the variables of the study", required = TRUE),
    duplicates = map_field(duplicate_fields(), "which of several records of one respondent stays"),
    corrections = field("text", "the sheet of corrections"),
    accepted = field("maps", "findings that a person has looked at", fields = accepted_fields()),
    rules = field("parts"), screens = field("parts"), lookups = field("parts"), instruments = field("parts")
  )
}

study_fields <- function() {
  list(
    title = field("text", "the title of the study", required = TRUE),
    id = field("text"), row = field("text"), producer = field("text"), source = field("text"),
    licence = field("text"), notes = field("text"), collected = field("period"),
    design = field("choice", values = c("panel", "repeated", "single")), wording = field("text", "the wave whose wording the documentation shows"),
    jumps = map_field(jump_fields(), "from which change on a wave is pointed out"),
    complete = field("texts", "blocks that a complete respondent has answered")
  )
}

jump_fields <- function() list(share = field("number", least = 0), mean = field("number", least = 0))

wave_fields <- function() list(label = field("text"))

export_fields <- function() {
  list(
    wave = field("text"), file = field("text"),
    key = field("heading", "the column that identifies a respondent", required = TRUE),
    response = field("heading", "the column with the platform's own number of the response"), cells = field("choice", values = c("labels", "codes")),
    heading = field("choices", values = heading_roles, default = "names"),
    ignored = field("headings", default = character()), skip = field("whole", default = 0L,
      least = 0),
    delimiter = field("choice", values = names(delimiters), default = "comma"),
    decimal = field("choice", values = c("point", "comma"), default = "point"),
    encoding = field("choice", values = encodings, default = "UTF-8"),
    sheet = field("text"), adds_to = field("text"), dates = field("patterns")
  )
}

lookup_fields <- function() {
  fields <- export_fields()[c("file", "key", "cells", "heading", "skip", "delimiter", "decimal", "encoding", "sheet", "dates")]
  fields$key$help <- "the column that is looked up"
  fields
}

option_fields <- function() list(label = field("text", "the label of the option", required = TRUE), code = field("whole"), variants = field("texts", default = character()))

written_fields <- function() {
  list(flag = field("text"), text = field("text"), label = field("text"),
    column = field("heading", "the column in which the write-in stands by itself"),
    sheet = field("text", "the sheet in which a person gave write-ins codes"))
}

other_fields <- function() {
  list(code = field("whole", "the code of the write-in", required = TRUE), label = field("text", default = "Other"), text = field("text", "the variable that takes its words"),
    column = field("heading",
      "the column in which the write-in stands by itself"), sheet = field("text",
      "the sheet in which a person gave write-ins codes"))
}

reason_fields <- function() list(code = field("whole"), label = field("text"), written = field("texts", default = character()))

code_list_fields <- function() {
  list(codes = field("codes", "the codes with their labels", required = TRUE), missing = field("forms", default = list()))
}

# What any variable may say, whatever its way.
variable_fields <- function() {
  list(
    label = field("text"), question = field("text"), unit = field("text"), note = field("text"),
    level = field("choice", values = levels_of_measurement), decimals = field("whole", least = 0),
    kept = field("yes_no", default = TRUE), private = field("yes_no"),
    universe = field("condition", "to whom the question was put"), by_wave = field("parts", "what differs in a wave, `{autumn: {column: Q5}}`, or `{autumn: absent}`"), by_export = field("parts", "what differs in one file")
  )
}

heading_roles <- c("names", "questions", "options", "ids")
levels_of_measurement <- c("nominal", "ordinal", "interval", "ratio", "text", "date", "datetime", "identifier")
ordered_levels <- c("ordinal", "interval", "ratio")

standing_reasons <- data.frame(
  name = c("no_answer", "not_asked", "not_in_wave", "not_found", "set_aside", "too_few", "not_computable"),
  code = -3:-9,
  label = c("No answer", "Not asked", "Not in this wave", "Not found", "Set aside", "Too few answers", "Not computable")
)

# Words that a variable cannot have for its name: R's own, and those of conditions.
reserved_words <- c(
  "if", "else", "repeat", "while", "function", "for", "next", "break", "true", "false", "null", "inf", "nan", "na", "in",
  "c", "is_missing", "n_answered", "days_between", "minutes_between", "sum", "mean", "min", "max", "round", "abs"
)

# What is the standing of each record: complete, partial, break-off, the screen
# that dropped it, or duplicate. Without `complete` in the study those that stay
# are called `kept`.
dispositions <- c(complete = "Complete", partial = "Partial", break_off = "Break-off", kept = "Kept", duplicate = "Duplicate")
