# What goes along with the data: tables of the variables, their codes and the missing reasons.

describe_variables <- function(edition) {
  book <- edition$study$book
  each <- function(get) vapply(
    book$variables[edition$names], function(variable) paste0(get(variable), ""), ""
  )
  gaps <- vapply(edition$names, gap_count, 0L, edition = edition)
  data.frame(
    variable = edition$names, label = each(function(variable) variable$label),
    question = each(function(variable) variable$question),
    stem = each(function(variable) stem_over(variable, book)),
    block = each(function(variable) block_of(variable)),
    level = each(function(variable) variable$level),
    type = each(column_type),
    values = each(function(variable) if (has_labels(variable)) edition$release$values),
    unit = each(function(variable) variable$unit),
    decimals = each(function(variable) variable$decimals),
    lowest = each(function(variable) bound_text(variable, 1)),
    highest = each(function(variable) bound_text(variable, 2)),
    universe = each(universe_shown),
    made = each(function(variable) made_in_words(variable, book)),
    note = each(function(variable) variable$note),
    answered = edition$n - gaps, gaps = gaps, row.names = NULL
  )
}

gap_count <- function(name, edition) {
  study <- edition$study
  sum(count_gaps(study$reasons[[name]], study$book, edition$n, study$retained)$count)
}

# The question over the options of one with several answers counts as their stem.
stem_over <- function(variable, book) {
  if (!is.null(variable$stem)) return(variable$stem)
  if (!is.null(variable$with)) book$variables[[variable$with]]$label
}

block_of <- function(variable) if (is.null(variable$block)) variable$with else variable$block

# How a value is stored.
column_type <- function(variable) {
  if (is_coded(variable)) "integer" else if (is_date(variable)) variable$level else
    if (variable$storage == "number") "number" else "text"
}

bound_text <- function(variable, side) {
  range <- variable$range
  if (is.null(range) || !is.finite(range[side])) "" else value_text(variable, range[side])
}

describe_codes <- function(edition) {
  book <- edition$study$book
  tables <- lapply(edition$names, function(name) {
    variable <- book$variables[[name]]
    if (!has_labels(variable)) return(NULL)
    codes <- released_codes(variable, edition_values(edition, name)$value)
    counted <- count_codes(
      variable, edition$study$data[[name]], edition$n, edition$n, edition$study$retained
    )
    count <- counted$count[match(codes$code, counted$code)]
    new_frame(
      variable = rep(name, nrow(codes)), code = as.character(codes$code), label = codes$label,
      count = ifelse(is.na(count), 0L, as.integer(count))
    )
  })
  out <- do.call(rbind, tables)
  if (is.null(out)) data.frame(
    variable = character(), code = character(), label = character(), count = integer()
  ) else out
}

describe_missing <- function(edition) {
  reasons <- edition$study$book$reasons
  counts <- count_reasons(edition$study, edition$names)
  data.frame(
    reason = reasons$name, code = reasons$code, label = reasons$label, cells = counts$cells
  )
}

# A row a ticked option of a question with several answers.
edition_selections <- function(edition) {
  book <- edition$study$book
  questions <- carriers_of(book)
  rows <- lapply(questions, function(question) {
    options <- intersect(book$blocks[[question]], edition$names)
    lapply(options, function(option) {
      places <- which(edition_values(edition, option)$value == 1L)
      list(
        at = places, question = rep(question, length(places)), option = rep(option, length(places)),
        label = rep(paste0(book$variables[[option]]$label, ""), length(places))
      )
    })
  })
  rows <- unlist(rows, recursive = FALSE)
  part <- function(name, none) {
    values <- unlist(lapply(rows, `[[`, name))
    if (is.null(values)) none else values
  }
  option_of <- part("at", integer())
  place <- order(option_of)
  list(
    at = option_of[place], question = part("question", character())[place],
    option = part("option", character())[place], label = part("label", character())[place]
  )
}

# Questions with several answers, whose options are variables of their own.
carriers_of <- function(book) names(Filter(
  function(variable) isTRUE(variable$carrier), book$variables
))
