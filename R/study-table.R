#' The analysis table of a study
#'
#' @param study A study, from [build_study()].
#' @param values `"codes"` (integers) or `"labels"` (factors with all levels, in
#'   the order of the codebook) for coded variables.
#' @param gaps What stands in a gap: `"na"` (`NA`), `"codes"` (the reason's code; its label
#'   where values are labels; refused where an answer is that number), or `"beside"` (`NA`,
#'   and after each variable that has gaps a factor `<name>.gap` with the reason).
#' @param shape `"rows"`, a row a record; `"long"`, a row a record and item
#'   of a block; `"wide"`, a row a person of a panel, with a column for each variable
#'   and wave, `years_spring`.
#' @param block With `shape = "long"` the block (or blocks); all of them if not said.
#' @param language A language of the codebook's `translations`, for its labels.
#' @param ordered Whether answers of level ordinal are ordered factors (with `values = "labels"`).
#' @param attributes Whether columns carry `label`, `unit` and `question` as attributes. Neither
#'   goes with `shape = "long"`.
#' @return With `shape = "long"` a data frame with the variables of wave and key (`wave` and
#'   `respondent` where the analysis file has none), `block`, `item`, `label` and `value` (of
#'   several kinds of items a text), and `gap` (the reason). Names and values of wave and key
#'   are the same in every shape, so that shapes join. With `shape = "wide"` the key stands once;
#'   where a person has no record in a wave the gap is
#'   `not_found`, and a question not asked in it has no column. Else a data frame of the
#'   kept variables in the codebook's order; private variables and respondents that a screen
#'   dropped are left out. Numbers are doubles, texts characters, dates `Date` and
#'   date-times `POSIXct` in UTC (texts where `gaps = "codes"`).
#' @examples
#' study <- build_study(demo_project(tempfile()))
#' head(study_table(study, values = "labels")[, c("singer", "voice", "years")])
#' table(study_table(study, gaps = "beside")$years.gap)
#' @export
study_table <- function(
  study, values = c("codes", "labels"), gaps = c("na", "codes", "beside"),
  shape = c("rows", "long", "wide"), block = NULL, language = NULL, ordered = FALSE,
  attributes = FALSE
) {
  keep_own_options()
  check_study_class(study)
  study <- study_in(study, language)
  values <- match.arg(values)
  shape <- match.arg(shape)
  if (shape == "long" && (ordered || attributes)) stop_mavik("build_error",
    "`ordered` and `attributes` are of variables, and with `shape = \"long\"` a column holds ",
    "several: leave them out")
  if (shape == "long" && !missing(gaps)) stop_mavik("build_error",
    "with `shape = \"long\"` the reason stands in the column `gap`: leave `gaps` out")
  if (shape != "long" && !is.null(block)) stop_mavik("build_error",
    "`block` goes with `shape = \"long\"` only")
  if (shape == "long") return(long_table(study, values, block))
  gaps <- match.arg(gaps)
  table <- if (shape == "wide") wide_table(study, values, gaps) else row_table(study, values, gaps)
  described_table(table, study, ordered, attributes, shape)
}

row_table <- function(study, values, gaps) {
  book <- study$book
  out <- list()
  for (name in kept_variables(book)) {
    variable <- book$variables[[name]]
    reason <- retained_of(study$reasons[[name]], study)
    out[[name]] <- table_column(
      variable, retained_of(study$data[[name]], study), if (gaps == "codes") reason, values, book
    )
    if (gaps == "beside" && !is.null(reason)) out[[paste0(name, ".gap")]] <- reason
  }
  # Where all records are retained its columns are the study's own: a change by reference must
  # not reach them.
  if (is.null(study$retained)) out <- data.table::copy(out)
  structure(
    out, class = "data.frame", row.names = .set_row_names(n_retained(study)),
    names = as.character(names(out))
  )
}

# Ordinal variables as ordered factors; labels, units and questions as attributes of columns.
described_table <- function(table, study, ordered, attributes, shape) {
  if (!ordered && !attributes) return(table)
  book <- study$book
  for (column in names(table)) {
    name <- if (shape == "wide") sub(paste0(
      "_(", paste(names(book$waves), collapse = "|"), ")$"
    ), "", column) else column
    variable <- book$variables[[name]]
    if (is.null(variable)) next
    cells <- table[[column]]
    # A reason among the levels has no place in an order.
    plain <- is.factor(cells) && is_coded(variable) &&
      all(levels(cells) %in% label_of(variable, all_codes(variable)))
    if (ordered && plain && identical(variable$level, "ordinal")) class(cells) <- c(
      "ordered", "factor"
    )
    if (attributes) for (fact in c("label", "unit", "question")) {
      if (has_text(variable[[fact]])) attr(cells, fact) <- variable[[fact]]
    }
    table[[column]] <- cells
  }
  table
}

wide_table <- function(study, values, gaps) {
  book <- study$book
  if (!is_panel(book)) stop_mavik(
    "build_error",
    "a row a person needs a panel, where a key is the same person in every wave (`design: panel` ",
    "under `study`)"
  )
  rows <- rows_retained(study)
  person <- unique(study$records$key[rows])
  keys <- names(Filter(is_key, book$variables))
  out <- table_columns(study, intersect(kept_variables(book), keys),
    rows[match(person, study$records$key[rows])], values)
  if (key_is_private(book)) out[] <- list(rep(masked, length(person)))
  by_wave <- lapply(with_names(names(book$waves), names(book$waves)), function(wave) {
    here <- rows[study$records$wave[rows] == wave]
    here[match(person, study$records$key[here])]
  })
  for (name in setdiff(kept_variables(book), c(keys, names(Filter(is_wave, book$variables))))) {
    variable <- book$variables[[name]]
    for (wave in intersect(
      waves_asked(variable, book),
      names(by_wave)[vapply(by_wave, function(rows) any(!is.na(rows)), TRUE)]
    )) {
      reason <- study$reasons[[name]][by_wave[[wave]]]
      if (anyNA(by_wave[[wave]])) {
        if (is.null(reason)) reason <- factor(rep(NA, length(person)), book$reasons$name)
        reason[is.na(by_wave[[wave]])] <- "not_found"
      }
      column <- paste0(name, "_", wave)
      out[[column]] <- table_column(
        variable, study$data[[name]][by_wave[[wave]]], if (gaps == "codes") reason, values, book
      )
      if (gaps == "beside" && !is.null(reason)) out[[paste0(column, ".gap")]] <- reason
    }
  }
  structure(
    out, class = "data.frame", row.names = .set_row_names(length(person)),
    names = as.character(names(out))
  )
}

long_table <- function(study, values, block) {
  book <- study$book
  known <- Filter(length, lapply(book$blocks, intersect, y = kept_variables(book)))
  odd <- setdiff(block, names(known))
  if (length(odd) > 0) stop_mavik(
    "build_error", "`", odd[1], "` is not a block of the analysis file",
    did_you_mean(odd[1], names(known))
  )
  if (length(known) == 0) stop_mavik(
    "build_error", "the analysis file has no block: only items of a block can be stacked"
  )
  blocks <- if (is.null(block)) known else known[block]
  rows <- rows_retained(study)
  items <- unlist(blocks, use.names = FALSE)
  of <- rep(names(blocks), lengths(blocks))
  cells <- lapply(items, function(name) table_column(book$variables[[name]],
    study$data[[name]][rows], NULL, values, book))
  same <- length(unique(lapply(cells, function(cell) list(class(cell), levels(cell))))) == 1
  if (!same) cells <- lapply(cells, as.character)
  value <- if (same && is.factor(cells[[1]])) structure(
    unlist(lapply(cells, as.integer)), levels = levels(cells[[1]]), class = "factor"
  ) else do.call(c, cells)
  gap <- unlist(lapply(
    items,
    function(name) {
      reason <- study$reasons[[name]]
      if (is.null(reason)) rep(NA_character_, length(rows)) else as.character(reason[rows])
    }
  ))
  n <- length(rows)
  out <- data.frame(
    who_and_when(study, rows, values)[rep(seq_len(n), length(items)), , drop = FALSE],
    block = rep(of, each = n), item = rep(items, each = n),
    label = rep(
      vapply(
        book$variables[items], function(variable) paste0(variable$label, ""), "", USE.NAMES = FALSE
      ),
      each = n
    ), value = value, gap = gap, check.names = FALSE
  )
  out <- out[order(rep(seq_len(n), length(items))), ]
  rownames(out) <- NULL
  out
}

# Wave and key by their variables, as a row a record has them, so that shapes join; by
# `wave` and `respondent` where the analysis file has no such variable.
who_and_when <- function(study, rows, values) {
  kept <- study$book$variables[kept_variables(study$book)]
  waves <- names(Filter(is_wave, kept))
  keys <- if (!key_is_private(study$book)) names(Filter(is_key, kept))
  list_of <- c(
    if (length(waves) == 0) list(wave = study$records$wave[rows]),
    table_columns(study, waves, rows, values),
    if (length(keys) == 0) list(respondent = respondents_shown(study)(rows)),
    table_columns(study, keys, rows, values)
  )
  structure(list_of, class = "data.frame", row.names = .set_row_names(length(rows)))
}

table_columns <- function(study, names, rows, values) lapply(
  with_names(names, names), function(name) table_column(
    study$book$variables[[name]], study$data[[name]][rows], NULL, values, study$book
  )
)

# A number cannot be an answer and the code of a reason in one column.
check_code_meant <- function(variable, value, codes) {
  if (!is.numeric(value) || is_date(variable)) return()
  both <- intersect(value, codes)
  if (length(both) == 0) return()
  stop_mavik("build_error", "`", variable$name, "` has answers that are ", number_to_text(both[1]),
    ", which is the code of a missing reason too: take `gaps = \"beside\"`, or give that reason ",
    "another code under `missing`")
}

table_column <- function(variable, value, reason, values, book) {
  named <- values == "labels" && (is_coded(variable) || !is.null(variable$texts))
  if (!named) {
    if (is.null(reason)) return(value)
    codes <- book$reasons$code[as.integer(reason)]
    gap <- !is.na(reason)
    check_code_meant(variable, value[!gap], codes[gap])
    if (is_date(variable)) value <- value_text(variable, as.double(value))
    value[gap] <- if (is.character(value)) number_to_text(codes[gap]) else codes[gap]
    return(value)
  }
  known <- if (is_coded(variable)) all_codes(variable) else variable$texts$value
  if (is_coded(variable)) known <- c(known, sort(setdiff(unique(value), c(known, NA))))
  labels <- if (is_coded(variable)) label_of(variable, known) else variable$texts$label
  code <- match(value, known)
  if (!is.null(reason)) {
    used <- sort(unique(as.integer(reason)))
    labels <- c(labels, book$reasons$label[used])
    gap <- !is.na(reason)
    code[gap] <- length(known) + match(as.integer(reason)[gap], used)
  }
  structure(code, levels = make.unique(labels), class = "factor")
}
