# All records with their cells and what their stories need, for a page: every column as its
# distinct texts and an index, so that a cell costs a byte or two.

view_limit <- list(records = 20000L, cells = 4e6, characters = 10000L)

# A list of `meta` (names, texts, words) and `arrays` (whole numbers, named by what `meta` calls
# them). `rows` are rows of the study, `names` the variables that are shown.
view_of <- function(study, inputs, book, rows, names) {
  shelf <- new_shelf()
  hidden <- private_variables(book)
  all <- setdiff(uses_within(names, book), hidden)
  places <- places_in_inputs(study, inputs, rows)
  conditions <- conditions_of(study, book, rows, all, shelf)
  list(
    meta = list(
      records = view_records(study, rows, shelf), reasons = list(
        name = book$reasons$name, label = book$reasons$label
      ),
      exports = lapply(unname(book$exports), function(export) list(
        name = export$name, shown = export$shown
      )),
      waves = unname(lapply(study$book$waves, function(wave) list(
        name = wave$name, label = wave$label
      ))),
      conditions = conditions$told,
      variables = lapply(all, function(name) view_variable(
        name, study, inputs, book, rows, places, conditions, name %in% names, shelf
      ))
    ),
    words = shelf$words(), lines = lines_of_words(shelf$paths(), book), arrays = shelf$arrays()
  )
}

# Where in the codebook's file each path stands, as `[word, place]`.
lines_of_words <- function(paths, book) {
  places <- vapply(names(paths), function(path) where_shown(
    book, strsplit(path, " > ", fixed = TRUE)[[1]]
  ), "")
  told <- places != names(paths) & nzchar(names(paths))
  Map(function(word, place) list(word, place), unname(paths)[told], unname(places)[told])
}

# Words that many cells share are kept once; arrays by their number.
new_shelf <- function() {
  words <- character()
  arrays <- list()
  paths <- integer()
  word <- function(text) {
    words <<- c(words, setdiff(unique(text), words))
    match(text, words) - 1L
  }
  list(
    word = word, path = function(text) {
      stem <- word(text)
      paths[unique(text)] <<- stem[match(unique(text), text)]
      stem
    },
    put = function(numbers) {
      arrays[[length(arrays) + 1]] <<- as.integer(numbers)
      length(arrays) - 1L
    },
    words = function() words, arrays = function() arrays, paths = function() paths
  )
}

# Those that are shown, and whatever their stories lead back to.
uses_within <- function(names, book) {
  open <- names
  known <- character()
  while (length(open) > 0) {
    known <- c(known, open)
    more <- unlist(lapply(open, function(name) c(
      book$uses[[name]], universe_uses(book$variables[[name]])
    )))
    open <- setdiff(more, known)
  }
  intersect(names(book$variables), known)
}

# For each row which input it is of, and where in it.
places_in_inputs <- function(study, inputs, rows) {
  export <- study$records$export[rows]
  position <- integer(length(rows))
  for (name in names(inputs)) {
    here <- which(export == name)
    position[here] <- match(study$records$line[rows[here]], inputs[[name]]$records$line)
  }
  list(export = export, position = position)
}

view_records <- function(study, rows, shelf) {
  records <- study$records
  key <- records$key[rows]
  known <- unique(key)
  dropped <- drop_words(study, rows)
  list(
    n = length(rows), key = I(known), keys = shelf$put(match(key, known) - 1L),
    wave = shelf$put(match(records$wave[rows], names(study$book$waves)) - 1L),
    export = shelf$put(match(records$export[rows], names(study$book$exports)) - 1L),
    line = shelf$put(records$line[rows]), dropped = shelf$put(shelf$word(dropped))
  )
}

# Why each record is not in the analysis file; "" for those that are.
drop_words <- function(study, rows) {
  words <- rep("", nrow(study$data))
  for (entry in study$ledger) if (entry$kind == "dropped") {
    note <- rep(entry$note, length.out = length(entry$rows))
    words[entry$rows] <- dropped_said(entry$rule, note)
  }
  words[rows_retained(study)] <- ""
  words[rows]
}

# Each universe with what it reads, and whether it is true, false or unknown in each record.
conditions_of <- function(study, book, rows, names, shelf) {
  told <- list()
  ids <- list()
  for (name in names) for (version in all_versions(book$variables[[name]])) {
    condition <- version$universe
    if (is.null(condition) || condition$text %in% names(ids)) next
    truth <- truth_in(condition, study, rows)
    told[[length(told) + 1]] <- list(
      text = text_squeeze(condition$text), uses = I(condition$uses),
      truth = shelf$put(truth)
    )
    ids[[condition$text]] <- length(told) - 1L
  }
  list(told = told, ids = ids)
}

# 0 false, 1 true, 2 unknown; a private answer is at hand no more, and 3 says so.
truth_in <- function(condition, study, rows) {
  if (!all(condition$uses %in% names(study$data))) return(rep(3L, length(rows)))
  truth <- truth_of(condition, study)[rows]
  ifelse(is.na(truth), 2L, as.integer(truth))
}

view_variable <- function(
  name, study, inputs, book, rows, records, conditions, shown, shelf
) {
  variable <- study$book$variables[[name]]
  reading <- book$variables[[name]]
  uses <- book$uses[[name]]
  exports <- names(book$exports)
  versions <- lapply(book$exports, function(export) version_in(reading, export))
  absent <- vapply(versions, is_absent, TRUE)
  universe <- vapply(versions, function(version) {
    id <- if (!is_absent(version)) conditions$ids[[paste0(version$universe$text, "")]]
    if (is.null(id)) -1L else id
  }, 0L)
  story <- function(path) shelf$path(paste(path, collapse = " > "))
  c(
    list(
      name = name, label = paste0(variable$label, ""), question = paste0(variable$question, ""),
      asked = paste0(variable$asked, ""), block = paste0(variable$block, ""),
      level = paste0(variable$level, ""),
      unit = paste0(variable$unit, ""), storage = variable$storage,
      shown = shown, kept = isTRUE(variable$kept),
      made = made_in_words(variable, study$book), sentence = way_of(variable)$sentence(
        variable, study$book
      ),
      path = story(variable$path), where = where_shown(study$book, variable$path),
      range = if (!is.null(variable$range)) paste(range_shown(variable), collapse = " to "),
      uses = as.list(uses), absent = as.list(exports[absent]), universe = as.list(unname(universe)),
      universe_path = story(where_in(reading, "universe"))
    ),
    view_values(variable, study, rows, shelf),
    list(
      raw = view_cells(reading, inputs, book, records, shelf),
      done = view_entries(name, study, rows, shelf),
      earlier = if (takes_earlier(reading)) shelf$put(earlier_places(study, reading, rows))
    )
  )
}

# Distinct values with their labels, then reasons: `state` says which of both a record has.
view_values <- function(variable, study, rows, shelf) {
  column <- column_of(study, variable$name)
  value <- column$value[rows]
  reason <- reason_or_none(column)[rows]
  known <- unique(value[!is.na(value)])
  if (!is.character(known)) known <- sort(known)
  text <- cut_text(value_text(variable, known))
  shown <- shown_text(variable, known, text)
  list(
    value = I(text), text = if (!identical(shown, text)) I(shown),
    codes = if (is_coded(variable)) lapply(seq_along(variable$codes$code), function(k) list(
      value = number_to_text(variable$codes$code[k]), label = variable$codes$label[k]
    )),
    state = shelf$put(ifelse(
      is.na(value), length(known) + pmax(reason, 1L) - 1L, match(value, known) - 1L
    ))
  )
}

# The label of a value, of a code as well as of a text that has one.
shown_text <- function(variable, value, text) {
  if (is_coded(variable)) return(label_of(variable, value))
  if (is.numeric(value) && variable$storage == "number") {
    # The table is read; the exact number stands in the story and in the CSV.
    digits <- if (is.null(variable$decimals)) 4L else variable$decimals
    return(number_to_text(round_half(value, digits)))
  }
  label <- as.character(variable$texts$label)[match(text, variable$texts$value)]
  ifelse(is.na(label), text, label)
}

cut_text <- function(text) {
  long <- nchar(text) > view_limit$characters
  text[long] <- paste0(
    substr(text[long], 1, view_limit$characters), "\u2026 (", grouped(nchar(text[long])),
    " characters)"
  )
  text
}

earlier_places <- function(study, variable, rows) {
  retained <- rows_retained(study)
  earlier <- retained[study$records$wave[retained] == variable$settings$wave]
  before <- earlier[match(study$records$key[rows], study$records$key[earlier])]
  place <- match(before, rows)
  ifelse(is.na(before), 0L, ifelse(is.na(place), 1L, place + 1L))
}
