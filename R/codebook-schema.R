# Every place of the language that is no way: what keys it may hold. Ways bring
# their own tables (see `way-`).

codebook_fields <- function() once_a_session("codebook_fields", function() list(
  mavik = field("choice", "the version of the language", "1", required = TRUE, values = "1"),
  study = map_field(study_fields(), "title and facts of the study", required = TRUE),
  waves = field("parts", "the rounds of collection, each with its name, in their order",
    "{spring: {label: Spring 2026}}", required = TRUE),
  exports = field("parts", "the raw files, each with a name",
    "{spring: {wave: spring, file: raw/spring.csv, key: Member no}}", required = TRUE),
  duplicates = map_field(duplicate_fields(),
    "which of several records of one respondent is retained; without it a repeat is an error",
    "{keep: last, by: ended}"),
  corrections = field("texts", paste0("the sheets of corrections: wave, respondent, variable, ",
    "was, now, note, who, date; and of differences between two entries"),
    "sheets/corrections.csv"),
  accepted = field("maps", "findings that a person has looked at", fields = accepted_fields(),
    "[{kind: unlisted, variable: years, note: cannot be known}]"),
  translations = field("parts",
    "labels in further languages: for each the sheet, which `mavik convert --texts` writes",
    "{fr: sheets/french.xlsx}"),
  missing = field("parts", "why a value is missing; of several reasons the one listed first wins",
    "{refused: {code: -2, label: Prefer not to say}}"),
  code_lists = field("parts", "codes with labels that variables share, by name",
    "{yes_no: {codes: {1: Yes, 2: No}}}"),
  instruments = field("parts", "published sets of items, described once, by name",
    "{pitch: {items: {1: I sing in tune, 2: I lose the note}, bounds: [1, 5], take: mean}}"),
  lookups = field("parts", "second files in which something is looked up, by name",
    "{roster: {file: raw/roster.csv, key: Choir code}}"),
  variables = field("parts", "the variables of the study and its blocks, by name, in their order",
    "{singer: {is: key, label: Member number}}", required = TRUE),
  subsets = field("parts", "named conditions, to be used by name in every condition",
    "{singers: 'member == \"Yes\"'}"),
  rules = field("parts", "checks that report, or set answers aside, by name",
    "{month_has_room: {must: 'practice_alone <= 44640'}}"),
  screens = field("parts", "who is dropped: the first that is true names the drop",
    "{trial: {if: 'kind == \"Trial\"'}}"),
  tables = field("parts", "tables that each build makes anew, by name",
    "{voices: {of: voice, by: member}}"),
  releases = field("parts", "what is handed on to whom, in which formats, by name",
    "{archive: {formats: [csv, ddi]}}")
))

study_fields <- function() once_a_session("study_fields", function() list(
  title = field("text", "the title of the study", "Kestrel Valley choirs survey",
    required = TRUE),
  id = field("text", "a short name for archives", "kv-choirs"),
  row = field("text", "what a row of the analysis file is", "one singer in one wave"),
  design = field("choice", values = c("panel", "repeated", "single"),
    "`panel`: a key is the same person in every wave; `repeated`: other persons each time"),
  producer = field("text", "who makes the data", "Kestrel Valley Choral Union"),
  source = field("text", "where the answers come from", "members' questionnaire on the web"),
  licence = field("text", "under which licence the data may be used", "CC0-1.0"),
  collected = field("period", "when the answers were given, ISO 8601", "2026-03-02/2026-03-21"),
  weight = field("text", "the weight that `answers` uses unless it says `none`", "weight"),
  complete = field("texts", paste0("blocks that count: answered in all of them complete, ",
    "in some partial, in none break-off"), "[belong, practice]"),
  wording = field("text", "the wave whose wording the documentation shows", "spring"),
  wave_change = map_field(wave_change_fields(), "from which change on a wave is pointed out"),
  notes = field("text", "anything else that readers should know", "Made-up data.")
))

wave_change_fields <- function() once_a_session("wave_change_fields", function() list(
  share = field("number", "points by which a share changed; 15 if not said", "10", least = 0),
  mean = field("number", "standard deviations by which a mean changed; 0.5 if not said", "0.3",
    least = 0)
))

wave_fields <- function() list(label = field("text", "the wave as readers see it", "Spring 2026"))

export_fields <- function() once_a_session("export_fields", function() list(
  wave = field("wave_of",
    "the wave that it belongs to, or the column that tells the waves of one file apart",
    "spring", fields = wave_column_fields()),
  adds_to = field("text", paste0("the export of which this one holds the same responses again, ",
    "matched by response, else by key"), "spring_web"),
  file = field("text",
    "the raw file, from the codebook's folder; `*` and `?` stand for several files",
    "raw/spring.csv"),
  key = field("heading",
    "the column that identifies a respondent, or `numbered` where there is none",
    "Member no", required = TRUE),
  response = field(
    "heading", "the column with the platform's own number of the response", "Sheet no"
  ),
  cells = field("choice", paste0("what coded answers look like in this file; `either` takes a ",
    "label, else a code; labels if not said"), values = cell_contents),
  typed = field("typed", paste0("a sheet of `mavik entry`: `all` questions, or those that are ",
    "typed in it"), "all"),
  heading = field("choices", "the roles of the heading rows, from above", "[names, questions]",
    values = heading_roles, default = "names"),
  ignored = field("headings",
    "columns that are looked at and not wanted; `*` stands for any text",
    "[Seconds, Machine, \"Points *\"]", default = character()),
  skip = field("whole", "lines above the heading rows", "2", default = 0L, least = 0),
  delimiter = field("choice", "what stands between the cells", values = names(delimiters),
    default = "comma"),
  decimal = field("choice", "the decimal mark of numbers", values = c("point", "comma"),
    default = "point"),
  encoding = field("choice", "the encoding of the text", values = encodings, default = "UTF-8"),
  sheet = field("text", "the sheet of a workbook that has several", "Responses"),
  language = field("text",
    "the language of its labels and written forms, one of `translations`", "fr"),
  dates = field("patterns",
    "how dates are written, `MMM` a month in words, `EEE` a weekday; ISO 8601 if not said",
    "dd/MM/yyyy")
))

# One file with many waves.
wave_column_fields <- function() once_a_session("wave_column_fields", function() list(
  column = field("heading", "the column in which each record's wave stands", "Year",
    required = TRUE),
  values = field("forms",
    "how each wave is written in it; its name and its label if not said",
    "{y2000: 2000, y2004: [2004, \"04\"]}")
))

lookup_fields <- function() {
  fields <- export_fields()[c(
    "file", "key", "cells", "heading", "skip", "delimiter", "decimal", "encoding", "sheet", "dates"
  )]
  fields$key[c("help", "example")] <- list("the column that is looked up", "Choir code")
  fields$file[c("help", "example")] <- list(
    "the file, from the codebook's folder", "raw/roster.csv"
  )
  fields
}

option_fields <- function() once_a_session("option_fields", function() list(
  label = field("text", "the label of the option", "Radio", required = TRUE),
  code = field("whole", "its code in files of codes", "2"),
  variants = field(
    "texts", "other ways in which it is written", "[Wireless]", default = character()
  )
))

written_fields <- function() once_a_session("written_fields", function() list(
  flag = field("text", "the variable that says who wrote something in", "heard_other"),
  text = field("text", "the variable that takes its words", "heard_other_text"),
  label = field("text",
    "the label of the option for something else, where it has a tick of its own",
    "Other"),
  column = field("heading", "the column in which the write-in stands by itself", "Q12_other"),
  sheet = field("text", "the sheet in which a person gave write-ins codes", "sheets/heard.csv")
))

other_fields <- function() once_a_session("other_fields", function() list(
  code = field("whole", "the code of the write-in", "9", required = TRUE),
  label = field("text", "its label", "Another part", default = "Other"),
  text = field("text", "the variable that takes its words", "voice_other"),
  column = field("heading", "the column in which the write-in stands by itself", "Q3_other"),
  sheet = field("text", "the sheet in which a person gave write-ins codes", "sheets/voice.csv")
))

reason_fields <- function() once_a_session("reason_fields", function() list(
  code = field("whole", "its code in files of codes and in the outputs", "-2"),
  label = field("text", "its label, which is a written form of it too", "Prefer not to say"),
  written = field("texts", "other ways in which it is written", "[REF]", default = character())
))

code_list_fields <- function() once_a_session("code_list_fields", function() list(
  codes = field("codes", "the codes with their labels", "{1: Disagree, 2: Neither, 3: Agree}",
    required = TRUE),
  missing = field("forms", "how this list writes a missing reason", "{dont_know: [Can't say]}",
    default = list())
))

# What an entry with `items` may say besides what its items share.
block_fields <- function() once_a_session("block_fields", function() list(
  stem = field("text", "the question above the items", "How far do you agree?"),
  items = field("parts",
    "the items, each with its name and what only it says; all else is shared",
    "{belong1: {column: Q8_1, label: My choir would notice an empty chair}}", required = TRUE)
))

# What any variable may say, whatever its way.
variable_fields <- function() once_a_session("variable_fields", function() list(
  label = field("text", "the variable as readers see it; a kept variable needs one",
    "Voice part"),
  question = field("text", "the question as it was asked; taken from the heading if not said",
    "Which part do you usually sing?"),
  level = field("choice", "the level of measurement; read from a column it must be said",
    values = levels_of_measurement),
  unit = field("text", "the unit of a number", "minutes"),
  decimals = field("whole",
    paste0("how many decimals of a number are shown; stored and written it ",
    "stays whole (`round()` in a formula rounds)"), "1", least = 0),
  kept = field("yes_no", "whether it stands in the analysis file", "no", default = TRUE),
  private = field("yes_no", "personal: never written, never shown", "yes"),
  universe = field("condition", "who was asked the question", "member == \"Yes\""),
  by_wave = field("parts", "what differs in a wave, or `absent` where it was not asked",
    "{autumn: {column: Q5a}, winter: absent}"),
  by_export = field("parts", "what differs in one file; it beats `by_wave`",
    "{spring_paper: {cells: codes}}"),
  note = field(
    "text", "a remark for readers of the documentation", "Asked of members only since 2026."
  )
))

cell_contents <- c("labels", "codes", "either")

heading_roles <- c("names", "questions", "options", "marks")

standing_reasons <- data.frame(
  name = c(
    "no_answer", "not_asked", "not_in_wave", "not_found", "set_aside", "too_few", "not_computable"
  ),
  code = -3:-9,
  label = c(
    "No answer", "Not asked", "Not in this wave", "Not found", "Set aside", "Too few answers",
    "Not computable"
  )
)

# Words that a variable cannot have for its name: R's own, and those of conditions.
reserved_words <- c(
  "if", "else", "repeat", "while", "function", "for", "next", "break", "true", "false", "null",
  "inf", "nan", "na", "in",
  "c", "is_missing", "n_answered", "days_between", "minutes_between", "sum", "mean", "min", "max",
  "round", "abs", "contains", "starts_with", "matches_any"
)

# What is the standing of each record: complete, partial, break-off, the screen
# that dropped it, or duplicate. Without `complete` in the study those that are retained
# are called `retained`.
dispositions <- c(
  complete = "Complete", partial = "Partial", break_off = "Break-off", retained = "Retained",
  duplicate = "Duplicate"
)

standing_words <- c(
  complete = "answered in all blocks of `complete`", partial = "answered in some of them",
  break_off = "answered in none of them",
  retained = "in the analysis file, where `complete` is not said",
  duplicate = "another record of the respondent is retained"
)
