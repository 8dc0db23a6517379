# The tables that a codebook declares: what is counted, by which groups, and how it is shown.

table_fields <- function() {
  list(
    of = field("texts", "the variables, blocks and scores that are counted", "[voice, heard]",
      required = TRUE),
    by = field("texts", "the groups, side by side: variables with codes", "[region, years_band]",
      default = character()),
    nested = field("yes_no", "whether the groups of `by` stand within each other", "yes",
      default = FALSE),
    over = field("text", "an ordered variable or date over which it is followed", "wave"),
    where = field("condition", "only the records for which it is true", "singers"),
    weight = field("text", "a number that weights; `none` where the study has a weight", "none"),
    show = field("choices", paste0("what stands in it; counts and column percents of codes, n, ",
      "mean, sd and median of numbers if not said"), "[count, column_percent]",
      values = table_statistics),
    nets = field("nets", "codes that are counted together, by a label of their own",
      "{Agree: [4, 5], Disagree: [1, 2]}", default = list()),
    figure = field("choice", "what is drawn of it; what suits it if not said", "stacked",
      values = table_figure_kinds),
    title = field("text", "the title", "Who sings what"),
    note = field("text", "a note under it", "Without the guests"),
    order = field("choice", "the order of the answers: of their codes, or of their shares",
      values = c("code", "share"), default = "code")
  )
}

table_statistics <- c(
  "n", "count", "row_percent", "column_percent", "mean", "sd", "median", "quartiles", "min", "max",
  "differences"
)
table_figure_kinds <- c("bars", "stacked", "boxes", "histogram", "lines", "means", "none")

# What a table is: everything of it that is known before any data.
new_declared <- function(
    # its name, title and note
    name, title = NULL, note = NULL,
    # the parts counted: variables, blocks of items and questions with several answers
    of = NULL,
    # the variables that group, whether within each other, and what is followed over
    by = NULL, nested = NULL, over = NULL,
    # the condition (checked) and its text, the weight
    where = NULL, where_text = NULL, weight = NULL,
    # the statistics, the nets by label, the figure, the order of the answers
    show = NULL, nets = NULL, figure = NULL, order = NULL) {
  said_fields(environment())
}

# Where the codebook has problems already (`troubled`), what a table counts may be one of them:
# then only its own keys are looked at.
compile_tables <- function(value, book, say, troubled) {
  force(troubled)
  read <- read_parts(value, "tables", table_fields(), study_name, say)
  if (troubled) return(NULL)
  tables <- lapply(with_names(names(read), names(read)), function(name) {
    compile_table(read[[name]], name, c("tables", name), book, say)
  })
  Filter(Negate(is.null), tables)
}

# `said` is what stands in the entry, by its fields; NULL where it cannot be counted.
compile_table <- function(said, name, path, book, say) {
  fine <- TRUE
  note <- function(where, ...) {
    fine <<- FALSE
    say(c(path, where), paste0(...))
  }
  parts <- table_parts(said$of, book, note)
  for (group in said$by) check_group(group, "by", book, note)
  if (!is.null(said$over)) check_over(said$over, book, note)
  if (isTRUE(said$nested) && length(said$by) < 2) note(
    "nested", "needs two groups or more under `by`: one cannot stand within itself"
  )
  weight <- weight_meant(said$weight, book)
  if (!is.null(weight) && !weight %in% book$unread) {
    problem <- weight_problem(weight, book)
    if (!is.null(problem)) note("weight", problem)
  }
  condition <- if (!is.null(said$where)) compile_expression(
    said$where, book, c(path, "where"), function(where, message) note("where", message)
  )
  hidden <- intersect(condition$uses, private_variables(book))
  if (length(hidden) > 0) note(
    "where", "the condition reads ", some_of(hidden), ", which is private: nothing is shown of it"
  )
  nets <- compile_nets(said$nets, parts, book, note)
  if (!fine) return(NULL)
  new_declared(
    name, if (is.null(said$title)) table_title(parts, book) else said$title, said$note, parts,
    said$by, isTRUE(said$nested), said$over, condition, said$where, weight, said$show, nets,
    said$figure, said$order
  )
}

# Each part with its kind: a variable, the items of a block one by one, a set of options.
table_parts <- function(names, book, note) {
  carried <- lapply(names, function(name) {
    if (name %in% book$unread) return(NULL)
    variable <- book$variables[[name]]
    if (!name %in% c(names(book$variables), names(book$blocks))) return(note(
      "of", "`", name, "` is not a variable or block of this codebook",
      did_you_mean(name, c(names(book$variables), names(book$blocks)))
    ))
    if (isTRUE(variable$carrier)) return(list(list(name = name, options = book$blocks[[name]])))
    inner <- if (is.null(variable)) book$blocks[[name]] else name
    lapply(setdiff(inner, hidden_in(inner, book)), function(variable_name) list(
      name = variable_name, block = if (is.null(variable)) name,
      options = if (isTRUE(book$variables[[variable_name]]$carrier)) book$blocks[[variable_name]]
    ))
  })
  parts <- unlist(Filter(Negate(is.null), carried), recursive = FALSE)
  private <- private_variables(book)
  for (part in parts) {
    variable <- book$variables[[part$name]]
    if (part$name %in% private) note(
      "of", "`", part$name, "` is private: nothing is shown of it"
    ) else if (is_date(variable)) note(
      "of", "`", part$name, "` is a date: it is neither counted nor averaged; something else can ",
      "be followed `over` it"
    ) else if (is.null(part$options) && variable$storage == "text" && is.null(variable$texts)) note(
      "of", "`", part$name, "` is text: it is neither counted nor averaged; give its answers ",
      "codes (`coded`) first"
    )
  }
  parts
}

# The columns of options stand in their question, not beside it.
hidden_in <- function(names, book) unlist(lapply(names, function(name) if (isTRUE(
  book$variables[[name]]$carrier
)) book$blocks[[name]]))

check_group <- function(name, path, book, note, most = 50) {
  if (name %in% book$unread) return()
  variable <- book$variables[[name]]
  if (is.null(variable)) return(note(
    path, "`", name, "` is not a variable of this codebook",
    did_you_mean(name, names(book$variables))
  ))
  if (name %in% private_variables(book)) return(note(
    path, "`", name, "` is private: nothing is shown of it"
  ))
  if (isTRUE(variable$failed)) return()
  if (!is_coded(variable) && is.null(variable$texts)) return(note(
    path, "`", name, "` has no codes (level ", variable$level,
    "): groups need codes; make bands of it first"
  ))
  codes <- length(if (is.null(variable$texts)) all_codes(variable) else variable$texts$value)
  if (codes > most && !is_wave(variable)) note(
    path, "`", name, "` has ", codes, " codes: more than ", most,
    " groups are no table; make fewer of them with `recode` or `bands`"
  )
}

check_over <- function(name, book, note) {
  variable <- book$variables[[name]]
  if (name %in% book$unread || isTRUE(variable$failed)) return()
  if (!is.null(variable) && is_date(variable)) return()
  check_group(name, "over", book, note)
  if (is_coded(variable) && !variable$level %in% ordered_levels) note(
    "over", "`", name, "` is ", variable$level,
    ": what is followed over it needs an order; take an ordered variable, the wave or a date"
  )
}

# Codes by number or label; a net must hold codes of at least one of the parts.
compile_nets <- function(nets, parts, book, note) {
  variables <- Filter(is_coded, lapply(parts, function(part) book$variables[[part$name]]))
  lapply(with_names(names(nets), names(nets)), function(net) {
    said <- nets[[net]]
    lists <- lapply(variables, function(variable) codes_meant(said, variable))
    met <- Filter(function(codes) !anyNA(codes), lists)
    if (length(met) > 0) return(said)
    odd <- if (length(lists) > 0) said[is.na(lists[[1]])] else said
    note(
      c("nets", net), "`", odd[1], "` is not a code of ",
      if (length(parts) == 1) parts[[1]]$name else "any variable of this table",
      if (length(variables) > 0) did_you_mean(odd[1], variables[[1]]$codes$label)
    )
  })
}

# The codes that texts stand for, by number or by label; NA where there is none.
codes_meant <- function(said, variable) {
  known <- all_codes(variable)
  number <- text_to_number(said)
  by_label <- variable$codes$code[match(text_fold(said), text_fold(variable$codes$label))]
  ifelse(number %in% known, number, by_label)
}

table_title <- function(parts, book) {
  if (length(parts) == 0) return("")
  blocks <- unique(unlist(lapply(parts, `[[`, "block")))
  first <- book$variables[[parts[[1]]$name]]
  if (length(blocks) == 1 && has_text(first$stem)) return(first$stem)
  labels <- vapply(parts, function(part) paste0(book$variables[[part$name]]$label, ""), "")
  said <- some_of(unique(labels), 3, quote = FALSE)
  if (nchar(said) > 120) some_of(unique(labels), 1, quote = FALSE) else said
}
