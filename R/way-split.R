# Several answers to one question, joined in one cell or one a tick-box column.
# The entry itself carries the set of answers through the build; each option,
# the flag of the write-in and its text become variables right after it.

way_split <- new_way(
  help = "a question with several answers: one 0/1 variable for each option",
  example = c(
    "tasks:",
    "  label: Tasks in the choir",
    paste0(
      "  split: {columns: {task_leads: Q15_1, task_money: Q15_2, task_chairs: Q15_3}, blank: ",
      "none_ticked}"
    )
  ),
  correctable = function(variable) TRUE,
  holds = "several",
  write_in = function(variable) variable$settings$other,
  told_at = function(variable, kind) where_in(
    variable, "split", if (kind == "write_in") "other" else "options"
  ),
  value = map_field(list(
    column = field("heading", "the column whose cells hold several answers", "Q12"),
    separator = field("mark",
      "what stands between the answers of a cell (or the cell is a list of texts in JSON)",
      "\"; \"", default = ";"),
    columns = field("heading_pairs", "a tick-box column for each option",
      "{task_leads: Q15_1, task_money: Q15_2}"),
    options = field(
      "options", "the variable of each option, with its label", "{heard_radio: Radio}"
    ),
    other = map_field(written_fields(), "what is no option: the write-in"),
    exclusive = field("text",
      "the option that excludes all others; with another the set is set aside",
      "heard_none"),
    blank = field(
      "choice", "what a blank means", values = c("no_answer", "none_ticked"), default = "no_answer"
    ),
    ticked = field(
      "texts", "how a tick is written; a word that is none of the usual ones", "[Chosen]"
    ),
    unticked = field("texts", "how a box without a tick is written", "[Not chosen]")
  )),
  beside = list(
    missing = field(
      "forms", "written forms of missing reasons in this variable", "{refused: [99]}",
      default = list()
    ),
    cells = field("choice", "what the file holds for this variable", values = cell_contents),
    from = field("text", "the export that adds to another and is read here", "spring_codes")
  ),
  spread = function(entry) spread_split(entry),
  reads = function(variable) {
    settings <- variable$settings
    c(
      if (is.null(settings$columns)) c(cell = settings$column) else settings$columns,
      if (!is.null(settings$other$column)) c(.written = settings$other$column)
    )
  },
  makes = function(variable, book) {
    variable$storage <- "set"
    variable$level <- "nominal"
    variable$carrier <- TRUE
    variable$options <- option_table(variable)
    if (!is.null(variable$base)) variable$options <- options_in_wave(
      variable$options, variable$base$options
    )
    variable
  },
  check = function(variable, book, say) check_split(variable, book, say),
  decode = function(cells, variable, role, export, book, kinds) {
    if (role == "cell") return(decode_set(cells, variable, export, book, kinds))
    if (role == ".written") return(decode_written_column(cells, book))
    decode_tick(cells, variable, role, book)
  },
  compute = function(variable, inputs, book, rows) {
    if (!is.null(variable$settings$columns)) return(gather_ticks(variable, inputs, book, rows$n))
    if (is.null(inputs$.written)) return(inputs$cell)
    add_written(variable, inputs$cell, inputs$.written)
  },
  sentence = function(variable, book) {
    settings <- variable$settings
    if (is.null(settings$columns)) paste0(
      "The answers in the cells of the column \u201c", settings$column,
      "\u201d, taken apart at \u201c", settings$separator, "\u201d."
    )
    else paste0(
      "One tick-box column an option: ",
      paste0("\u201c", settings$columns, "\u201d", collapse = ", "), "."
    )
  }
)

# Names of options in a block of such questions are endings, `_radio` of `trip1`.
option_name <- function(entry, name) if (is.null(entry$block)) name else paste0(
  entry$name, "_", name
)

spread_split <- function(entry) {
  split <- entry$keys$split
  if (!is_map(split)) return(NULL)
  options <- if (is_map(split$options)) split$options else list()
  names <- unique(c(names(options), if (is_map(split$columns)) names(split$columns)))
  shared <- entry$keys[intersect(names(entry$keys), c("kept", "private"))]
  stem <- if (is_text(entry$keys$label)) entry$keys$label else entry$stem
  flag <- list(level = "nominal", codes = list("0" = "No", "1" = "Yes"))
  made <- lapply(seq_along(names), function(k) {
    option <- options[[names[k]]]
    label <- if (is_text(option)) option else
      if (is_text(at_key(option, "label"))) option$label else names[k]
    companion(
      entry, option_name(entry, names[k]),
      c(list(option = list(of = entry$name, at = k)), list(label = label), flag, shared), stem,
      c("split", if (is.null(option)) "columns" else "options", names[k])
    )
  })
  other <- if (is_map(split$other)) split$other
  label <- if (is_text(other$label)) other$label else "Other"
  if (has_text(other$flag)) made <- c(
    made,
    list(companion(
      entry, option_name(entry, other$flag),
      c(list(option = list(of = entry$name, at = 0L)), list(label = label), flag, shared), stem,
      c("split", "other", "flag")
    ))
  )
  members <- vapply(made, `[[`, "", "name")
  if (has_text(other$text)) made <- c(
    made,
    list(companion(
      entry, option_name(entry, other$text),
      c(
        list(written = list(of = entry$name)),
        list(label = paste0(label, ", in own words"), level = "text"), shared
      ),
      stem, c("split", "other", "text")
    ))
  )
  entry$keys$kept <- "no"
  list(entry = entry, companions = made, members = members)
}

# A variable that comes with an entry; `path` says where it is written.
companion <- function(entry, name, keys, stem, path) {
  path_here <- c(entry$path, path)
  list(
    name = name, block = NULL, stem = stem, path = path_here, keys = keys,
    origin = lapply(keys, function(key) path_here), with = entry$name
  )
}

option_table <- function(variable) {
  settings <- variable$settings
  names <- unique(c(names(settings$options), names(settings$columns)))
  of <- function(name, key, none) {
    value <- settings$options[[name]][[key]]
    if (is.null(value)) none else value
  }
  list(
    name = names, label = vapply(names, function(name) of(name, "label", name), ""), code = vapply(
      names, function(name) of(name, "code", NA_integer_), 0L
    ),
    variants = lapply(names, function(name) of(name, "variants", character()))
  )
}

# A version's options in the places they have in all waves; `offered` says which
# of them were asked there.
options_in_wave <- function(own, all) {
  place <- match(all$name, own$name)
  for (part in c("label", "code", "variants"))
    all[[part]][!is.na(place)] <- own[[part]][place[!is.na(place)]]
  all$offered <- !is.na(place)
  all$unknown <- setdiff(own$name, all$name)
  all
}

check_split <- function(variable, book, say) {
  settings <- variable$settings
  path_of <- function(...) where_in(variable, "split", ...)
  if (is.null(settings$column) == is.null(settings$columns)) return(say(path_of(), paste0(
    "says either `column` (one cell with several answers) or `columns` ",
    "(a tick-box column for each option)"
  )))
  options <- variable$options
  for (name in options$unknown) say(path_of("options", name), paste0(
    "is an option of this wave only: list it under the question's own `options`, ",
    "and say of it in which waves it is `absent`", did_you_mean(name, options$name)
  ))
  if (length(options$name) == 0) return(say(
    path_of(), "`options` is missing: the answers that can be given"
  ))
  if (is.null(settings$columns)) check_option_forms(variable, path_of, say)
  else check_boxes(settings, path_of, say)
  if (!is.null(settings$exclusive) && !settings$exclusive %in% options$name) say(
    path_of("exclusive"),
    paste0(
      "`", settings$exclusive, "` is not one of the options",
      did_you_mean(settings$exclusive, options$name)
    )
  )
  if (!is.null(settings$other) && is.null(settings$other$flag) && is.null(settings$other$text)) say(
    path_of("other"), "names no variable: `flag`, `text` or both"
  )
  check_own_missing(
    variable$missing, list(label = options$label), book$reasons, where_in(variable, "missing"), say
  )
}

check_boxes <- function(settings, path_of, say) {
  for (name in setdiff(names(settings$options), names(settings$columns))) say(
    path_of("options", name),
    paste0("has no column under `columns`", did_you_mean(name, names(settings$columns)))
  )
  for (column in settings$columns[duplicated(settings$columns)]) say(
    path_of("columns"), paste0("the column `", column, "` stands for two options")
  )
  both <- intersect(text_fold(settings$ticked), text_fold(settings$unticked))
  if (length(both) > 0) say(path_of("unticked"), paste0("`", both[1], "` is a tick too"))
}

check_option_forms <- function(variable, path_of, say) {
  options <- variable$options
  forms <- data.frame(
    form = plain_segments(unlist(c(options$label, options$variants)), variable$settings$separator),
    option = c(seq_along(options$name), rep(seq_along(options$name), lengths(options$variants)))
  )
  for (i in which(duplicated(forms$form))) {
    first <- forms$option[match(forms$form[i], forms$form)]
    if (first != forms$option[i]) say(
      path_of("options", options$name[forms$option[i]]),
      paste0("reads the same as `", options$name[first], "`: no answer could tell them apart")
    )
  }
}
