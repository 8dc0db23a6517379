# The releases that a codebook declares: what goes to whom, in which formats.

release_fields <- function() {
  list(
    label = field("text", "the release as readers see it", "Public use file"),
    variables = field("chosen", paste0("the variables and blocks that go out, or those that do ",
      "not; all of the analysis file but free texts if not said"), "{without: [choir, best]}"),
    where = field("condition", "only the records for which it is true", "wave == \"autumn\""),
    waves = field("texts", "only the records of these waves", "[autumn]"),
    values = field("choice", "what stands for an answer with a code", values = release_values,
      default = "codes"),
    gaps = field("choice", "what stands in a gap; `beside`: a column `NAME.gap` after its variable",
      values = release_gaps, default = "empty"),
    formats = field("choices", "the formats, each described below", "[csv, xlsx]",
      values = known_formats(), default = character()),
    scripts = field("choices", paste0("scripts that load the data with labels and reasons; the ",
      "files of `csv` stand beside them"), "[R, Python]", values = c("R", "Python"),
      default = character()),
    with = field("choices", paste0("what else goes out: the export and line of each record, the ",
      "platform's own number of the response, the ledger of what goes out, free texts"),
      "[ledger]", values = release_extras, default = character()),
    schema = field("text", "where the tables of a database stand; the study's id if not said",
      "choirs"),
    disclosure = map_field(disclosure_fields(), "what is changed so that nobody is known again",
      "{order: shuffled}")
  )
}

release_values <- c("codes", "labels")
release_gaps <- c("empty", "codes", "labels", "beside")
release_extras <- c("addresses", "responses", "ledger", "texts")

# The contract of a format (`format_<name>`); an edition is what goes out (`new_edition()`).

new_format <- function(
    # one line for the reference, and what of a study it cannot carry
    help, cannot,
    # (edition) the names of its files; the format beside whose files it stands
    files, needs = character(),
    # (edition) what it cannot hold: a list of `path` and `message`
    check = function(edition) list(),
    # (edition, folder) writes them
    write,
    # (edition, folder) what a reader finds: for data `n` (how many records), `names`,
    # `value(name)`, `reason(name)` and whether these are `codes`, or `labelled`, whatever the
    # release says; for documents `names`, `labels`, and `codes_of(name)`, the labels of codes
    back) {
  as.list(environment())
}

format_in_words <- function(format) paste0(format$help, ". Not carried: ", format$cannot)

# Those that the interface writes stand here by name, so that the core alone reads any codebook.
drawn_formats <- c("dictionary", "docx", "html")

known_formats <- function() sort_c(union(names(formats()), drawn_formats))

formats <- function() parts_named("format_")

# What a release is, before any data.
new_release <- function(
    # its name and label, and where its entry stands
    name, label = NULL, path = NULL,
    # the variables that go out; those of them that it names itself
    variables = NULL, listed = NULL,
    # waves; the condition (checked), and its text
    waves = NULL, where = NULL, where_text = NULL,
    # what stands for answers with codes and in gaps
    values = NULL, gaps = NULL,
    # formats with those that they need, scripts, what else goes out, what is changed
    formats = NULL, scripts = NULL, with = NULL, schema = NULL, disclosure = NULL) {
  said_fields(environment())
}

compile_releases <- function(value, book, say, troubled) {
  force(troubled)
  read <- read_parts(value, "releases", release_fields(), part_name, say)
  if (troubled) return(NULL)
  releases <- lapply(with_names(names(read), names(read)), function(name) {
    compile_release(read[[name]], name, c("releases", name), book, say)
  })
  Filter(Negate(is.null), releases)
}

compile_release <- function(said, name, path, book, say) {
  fine <- TRUE
  note <- function(where, ...) {
    fine <<- FALSE
    say(c(path, where), paste0(...))
  }
  if (length(said$formats) == 0 && length(said$scripts) == 0) note(
    character(), "names no format: say under `formats` what is written, one or more of ",
    some_of(known_formats(), 20)
  )
  for (wave in setdiff(said$waves, names(book$waves))) note(
    "waves", "`", wave, "` is not a wave of this codebook", did_you_mean(wave, names(book$waves))
  )
  condition <- if (!is.null(said$where)) compile_expression(
    said$where, book, c(path, "where"), function(where, message) note("where", message)
  )
  hidden <- intersect(condition$uses, private_variables(book))
  if (length(hidden) > 0) note(
    "where", "the condition reads ", some_of(hidden), ", which is private: who goes out ",
    "would tell of it"
  )
  numbered <- any(vapply(book$exports, function(export) !is.null(export$response), TRUE))
  if ("responses" %in% said$with && !numbered) note(
    "with", "`responses`: no export names the platform's own number (`response: COLUMN`)"
  )
  chosen <- released_variables(said$variables, "texts" %in% said$with, book, note)
  hide <- spread_hidden(said$disclosure$without, book)
  chosen$names <- setdiff(chosen$names, hide)
  disclosure <- compile_disclosure(said$disclosure, chosen$names, said$with, book, note)
  if (fine && length(chosen$names) == 0) note(
    if (is.null(said$variables)) character() else "variables",
    "no variable is left: a release holds one or more"
  )
  if (!fine) return(NULL)
  new_release(
    name, if (is.null(said$label)) name else said$label, path, chosen$names, chosen$listed,
    said$waves, condition, said$where, said$values, said$gaps,
    with_needs(said$formats, said$scripts), said$scripts, said$with, said$schema, disclosure
  )
}

# In the codebook's order. Free texts go out only where they are named, or asked for.
released_variables <- function(said, texts, book, note) {
  kept <- kept_variables(book)
  named <- spread_released(said$of, "of", book, note)
  without <- spread_released(said$without, "without", book, note)
  free <- kept[vapply(book$variables[kept], is_free_text, TRUE)]
  names <- if (length(said$of) > 0) intersect(kept, named) else setdiff(
    kept, c(without, if (!texts) free)
  )
  list(names = names, listed = named)
}

spread_released <- function(names, path, book, note) {
  if (length(names) == 0) return(NULL)
  where <- if (path == "of") "variables" else c("variables", "without")
  kept <- kept_variables(book)
  private <- private_variables(book)
  unlist(lapply(names, function(name) {
    if (name %in% book$unread) return(NULL)
    variable <- book$variables[[name]]
    inside <- names_within(name, book)
    if (is.null(inside)) return(note(
      where, "`", name, "` is not a variable or block of this codebook",
      did_you_mean(name, c(names(book$variables), names(book$blocks)))
    ))
    if (name %in% private || all(inside %in% private)) return(note(
      where, "`", name, "` is private: it never goes out", if (path == "without")
        ", and need not be named"
    ))
    out <- intersect(inside, kept)
    if (length(out) == 0 && path == "of") note(
      where, "`", name, "` is not in the analysis file (`kept: no`): take that away, or leave `",
      name, "` out"
    )
    out
  }))
}

spread_hidden <- function(names, book) unlist(lapply(names, names_within, book = book))

# A block or a question with several answers stands for what it holds.
names_within <- function(name, book) {
  inner <- book$blocks[[name]]
  if (is.null(inner)) return(if (!is.null(book$variables[[name]])) name)
  unique(unlist(lapply(inner, function(part) {
    if (part == name || is.null(book$blocks[[part]])) part else names_within(part, book)
  })))
}

is_free_text <- function(variable) identical(variable$level, "text") && is.null(variable$texts) &&
  is.null(variable$codes)

# Formats stand in their own order, with those beside which they are of use; a database comes last,
# when all files stand.
with_needs <- function(said, scripts) {
  needed <- unlist(lapply(formats()[said], `[[`, "needs"))
  first <- unique(c(needed, if (length(scripts) > 0) "csv"))
  last <- intersect("postgresql", said)
  c(first, setdiff(intersect(known_formats(), said), c(first, last)), last)
}
