#' Look at an export
#'
#' What is in a file, before there is a codebook: its layout, and what
#' each column seems to hold.
#'
#' @param file Path of an export, or a data frame.
#' @param sheet The sheet of a workbook that has several.
#' @return A `mavik_look`: a list with `file`, `records`, `form` (encoding, delimiter, title
#'   lines, roles of the heading rows), `cells` (`labels` or `codes`), `columns` (for each
#'   its `kind` with `grounds`, `filled` and `distinct` counts, and `cells`, the distinct
#'   cells with counts, the commonest first), `totals` (why it seems to be a table of
#'   totals, or to hold one answer a record), `keys` (keys that occur twice or nearly so,
#'   or that a spreadsheet shortened to exponents), `blank_after_opening` (records
#'   that answered nothing after the opening questions), `identical` (records that repeat
#'   another in all answers) and `gap_patterns` (the commonest patterns of blanks over the
#'   questions) and `picture` (shares of blanks by question and band of records).
#'   `as.data.frame()` gives a row a column. Personal data is not masked in the object, only
#'   where it is printed.
#' @section Errors: Those of [read_export()].
#' @examples
#' look(file.path(demo_project(tempfile()), "raw/spring.csv"))
#' @export
look <- function(file, sheet = NULL) {
  keep_own_options()
  form <- find_form(file, sheet)
  look_at(read_found(file, form), closed_form(form))
}

read_found <- function(file, form) {
  shown <- if (is.data.frame(file)) "data frame" else file
  signal_progress("read", shown)
  opened <- attr(form, "opened")
  if (!is.null(opened)) {
    return(raw_of_grid(sheet_grid(opened$cells, opened$merged, form, shown), shown))
  }
  read_raw(file, form[c("heading", "skip", "delimiter", "encoding", "sheet")], shown)
}

# A form without the sheet that was opened to find it.
closed_form <- function(form) structure(form, opened = NULL)

look_at <- function(export, form) {
  columns <- profile_export(export)
  form$decimal <- if (decimal_comma(columns)) "comma" else "point"
  questions <- vapply(
    columns,
    function(profile) !profile$kind %in% c(
      "key", "response", "paradata", "personal", "constant", "empty"),
    TRUE
  )
  structure(
    c(list(file = export$file, records = export$records, form = form, cells = cells_held(columns),
      columns = columns, repeated = export$repeated,
      totals = unlike_responses(columns, export), keys = keys_seen(columns)), gaps_seen(
        export, questions
      )),
    class = "mavik_look"
  )
}

#' @export
as.data.frame.mavik_look <- function(x, ...) {
  keep_own_options()
  column <- function(name, none) vapply(
    x$columns, function(column) column[[name]], none, USE.NAMES = FALSE
  )
  data.frame(column = column("name", ""), kind = column("kind", ""), filled = column("filled", 0L),
    distinct = column("distinct", 0L),
    question = column("question", ""), grounds = column("grounds", ""))
}

# Why a file seems to hold something else than a response in each record; NULL where it does not.
unlike_responses <- function(columns, export) {
  totals <- totals_table(columns, export$records)
  if (is.null(totals)) answers_as_rows(columns, export) else totals
}

# A respondent in several records, each with another question.
answers_as_rows <- function(columns, export) {
  called <- grepl(
    "^(question|item|variable|field|frage|pregunta|domanda|vraag|pytanie)( ?(id|no|name|text))?$",
    plain_heading(names(columns))
  )
  asked <- which(called & vapply(columns, function(column) {
    column$filled == column$records && column$distinct > 1 && 2 * column$distinct < column$records
  }, TRUE))[1]
  if (is.na(asked)) return(NULL)
  place <- function(k) as.integer(export$columns[[k]]$index)
  for (k in setdiff(which(vapply(columns, function(column) {
    column$filled == column$records && column$distinct > 1 && !column$unique
  }, TRUE)), asked)) {
    if (anyDuplicated(place(k) + max(place(k)) * as.double(place(asked)))) next
    return(paste0(
      "one answer a record (", quoted_words(names(columns)[asked]), " of each ",
      quoted_words(names(columns)[k]), "); Mavik reads one respondent a record: spread it out first"
    ))
  }
  NULL
}

# Why a file seems to hold totals and no single responses; NULL where it does not.
totals_table <- function(columns, records) {
  if (records > 80 || length(columns) < 2) return(NULL)
  first <- columns[[1]]$cells$text
  numeric <- vapply(columns[-1], function(column) {
    text <- stringi::stri_replace_all_regex(column$cells$text, "\\s*%$|(?<=[0-9]),(?=[0-9]{3})", "")
    weighted_share(!is.na(text_to_number(text)), column$cells$count)
  }, 0)
  percent <- any(vapply(
    columns[-1], function(profile) weighted_share(
      grepl("%$", profile$cells$text), profile$cells$count) > 0.5,
    TRUE
  ))
  total <- grepl(
    "^(total|all|base|sum|n|weighted base|gesamt|insgesamt|summe|totale?|ensemble)\\b",
    text_fold(c(first, names(columns)))
  )
  if (
    mean(numeric >= 0.8) < 0.8 || !(any(total) || percent) ||
    mean(is.na(text_to_number(first))) < 0.8
  ) return(NULL)
  paste0(
    "a table of totals, not single responses: numbers beside ",
    some_of(utils::head(first, 3), quote = FALSE),
    if (any(total)) ", with a line or column of totals"
  )
}

# Keys that occur twice, or differ only in case, spaces or leading zeros.
keys_seen <- function(columns) {
  key <- Filter(function(column) column$kind == "key", columns)
  if (length(key) == 0) return(NULL)
  cells <- key[[1]]$cells
  marks <- near_marks(cells$text)
  alike <- cells$text[marks %in% marks[duplicated(marks)]]
  near <- text_near(alike)
  list(column = key[[1]]$name, repeated = cells[cells$count > 1, c("text", "count")],
    blank = key[[1]]$records - key[[1]]$filled,
    near = near_groups(alike, near),
    shortened = cells[in_exponent_form(cells$text), c("text", "count")])
}

# Marks of different texts may chance to be the same.
near_groups <- function(texts, near) vapply(
  unname(Filter(function(group) length(group) > 1, split(texts, near))), paste, "", collapse = " | "
)

# Answers as texts, or as small whole numbers.
cells_held <- function(columns) {
  worded <- sum(vapply(
    columns,
    function(column) column$kind %in% c("scale", "choice") &&
      mean(is.na(text_to_number(column$cells$text))) > 0.5,
    TRUE
  ))
  small <- sum(vapply(columns, function(column) column$kind == "number" && column$distinct <= 12 &&
    is.null(column$rating) && !is_counted(column), TRUE))
  # A few columns of 0 and 1 do not make a file of codes.
  if (small > 2 * worded && (small >= 3 || small >= length(columns) / 2)) "codes" else "labels"
}

# Whole-column views of the blanks: who fell blank_after_opening, which patterns are common.
gaps_seen <- function(export, questions) {
  places <- which(questions)
  if (length(places) == 0) return(list(
    blank_after_opening = 0L, identical = 0L,
    gap_patterns = data.frame(count = integer(), blank = character()), picture = NULL
  ))
  n <- export$records
  opening <- ceiling(0.4 * length(places))
  columns <- export$columns[places]
  # Sums of odd weights stand for a whole row: equal rows have equal sums.
  seen <- gaps_of_rows(
    lapply(columns, `[[`, "index"), lapply(columns, function(column) nzchar(text_trim(
      column$cells
    ))), lapply(seq_along(places), function(i) odd_weight(i, seq_along(columns[[i]]$cells))),
    vapply(seq_along(places), odd_weight, 0, 1), n, opening
  )
  answered <- seen$answered
  last <- seen$last
  late <- seen$late
  pattern <- seen$pattern
  same <- seen$same
  known <- unique(pattern)
  count <- tabulate(match(pattern, known), length(known))
  commonest <- utils::head(order(-count), 5)
  blanks <- vapply(known[commonest], function(id) {
    row <- match(id, pattern)
    blank <- vapply(
      places, function(i) !nzchar(
        text_trim(export$columns[[i]]$cells[export$columns[[i]]$index[row]])),
      TRUE
    )
    runs_shown(export$names[places], blank)
  }, "")
  list(blank_after_opening = sum(late == 0 & length(places) > opening),
    identical = sum(duplicated(same) & answered > length(places) / 2),
    gap_patterns = data.frame(count = count[commonest], blank = blanks), picture = gap_picture(
      export, places, last, answered
    ))
}

# Whole numbers of 44 bits, stirred by squaring modulo a prime whose square a double
# still holds: sums over some hundred columns stay exact.
odd_weight <- function(column, cell) {
  prime <- 67108859
  stir <- function(x) (x * x + 7 * x + column) %% prime
  low <- stir(stir((cell + 1013 * column) %% prime))
  high <- stir(stir((low + 31 * cell) %% prime))
  (high %% 2^18) * 2^26 + low
}

# Share of blanks by question and band of records, the records in the order of
# where their answers end, so that break-offs show as steps.
gap_picture <- function(export, places, last, answered, most = 240) {
  n <- export$records
  bands <- min(n, most)
  band <- integer(n)
  band[order(-last, -answered, method = "radix")] <- as.integer((seq_len(n) - 1) * bands / n) + 1L
  size <- tabulate(band, bands)
  blank <- vapply(places, function(i) {
    column <- export$columns[[i]]
    1 - count_in_bands(column$index, nzchar(text_trim(column$cells)), band, bands) / size
  }, numeric(bands))
  list(
    questions = export$names[places], texts = unname(export$questions[places]),
    blank = matrix(blank, bands), each = n / bands
  )
}

# Q4, Q8_1 to Q8_6: neighbours as a run.
runs_shown <- function(names, yes) {
  if (!any(yes)) return("nothing blank")
  runs <- rle(yes)
  end <- cumsum(runs$lengths)[runs$values]
  start <- end - runs$lengths[runs$values] + 1
  paste(
    ifelse(
      end == start, names[start],
      ifelse(
        end == start + 1, paste0(names[start], ", ", names[end]),
        paste0(names[start], " to ", names[end])
      )
    ),
    collapse = ", "
  )
}
