way_column <- new_way(
  help = "answers read from the cells of one raw column",
  example = c(
    "years:",
    "  column: Q4",
    "  label: Years in choirs",
    "  level: ratio",
    "  range: [0, 80]",
    "  variants: {3: [three]}"
  ),
  correctable = function(variable) TRUE,
  holds = "answer",
  write_in = function(variable) variable$other,
  value = field("heading", "the heading of a raw column", "Q3"),
  beside = list(
    codes = field("codes_or_list", "codes with their labels, or the name of a code list",
      "{1: Soprano, 2: Alto, 3: Tenor, 4: Bass}"),
    variants = field("forms", "other ways in which a value is written", "{Soprano: [Sopranno]}",
      default = list()),
    spans = field("choice", paste0("how a number typed as a span counts, `10-12`, and about so ",
      "much as that; set aside if not said"), values = c("middle", "lower")),
    missing = field("forms", "written forms of missing reasons in this variable", "{refused: [99]}",
      default = list()),
    range = field("range", "the values that can be; `up` and `down` leave an end open", "[0, 80]"),
    cells = field("choice", "what the file holds for this variable", values = cell_contents),
    delivered = field("pairs", "which label or missing reason each code of the file stands for",
      "{1: Strongly agree, 2: Agree, 9: refused}"),
    dates = field("patterns", "how dates are written", "dd/MM/yyyy"),
    other = map_field(
      other_fields(), "the code of whatever is not listed, and the variable of its words"
    ),
    from = field("text", "the export that adds to another and is read here", "spring_codes")
  ),
  spread = function(entry) spread_other(entry),
  reads = function(variable) {
    words <- if (!is.null(variable$other$sheet)) variable$other$column
    c(answer = variable$settings, if (!is.null(words)) c(.written = words))
  },
  makes = function(variable, book) {
    if (!is.null(variable$codes$list)) {
      variable$list <- variable$codes$list
      variable$codes <- book$lists[[variable$list]]$codes
    }
    if (
      !is.null(variable$other$code) && !is.null(variable$codes) &&
      !variable$other$code %in% variable$codes$code
    ) {
      variable$codes <- list(
        code = c(variable$codes$code, variable$other$code),
        label = c(variable$codes$label, variable$other$label)
      )
    }
    variable$storage <- storage_of(variable)
    variable$range <- range_by_level(variable)
    variable
  },
  check = function(variable, book, say) {
    if (lacks(variable, "level")) return(say(
      variable$path, paste0("`level` is missing: one of ", some_of(levels_of_measurement, 8))
    ))
    if (is.null(variable$level)) return()
    if (!is.null(variable$list) && is.null(book$lists[[variable$list]])) {
      return(say(
        where_in(variable, "codes"),
        paste0(
          "`", variable$list, "` is not a code list", did_you_mean(variable$list, names(book$lists))
        )
      ))
    }
    parallels <- names(Filter(function(export) !is.null(export$adds_to), book$exports))
    if (!is.null(variable$from) && !variable$from %in% parallels) {
      say(
        where_in(variable, "from"),
        paste0(
          "`", variable$from, "` is not an export that adds to another",
          did_you_mean(variable$from, parallels)
        )
      )
    }
    check_level(variable, say)
    check_forms_of_level(variable, say)
    check_reason_codes(
      if (is.null(variable$list)) variable$codes, NULL, book$reasons, where_in(variable, "codes"),
      say
    )
    if (!is_date(variable)) check_reason_codes(
      NULL, variable$range, book$reasons, where_in(variable, "range"), say
    )
    check_own_missing(
      variable$missing, variable$codes, book$reasons, where_in(variable, "missing"), say
    )
    check_forms(variable, book, say)
    check_label_numbers(variable, book, say)
    check_delivered(variable, book, say)
    if (!is.null(variable$other)) check_other(variable, say)
  },
  compute = function(variable, inputs, book, rows) {
    if (is.null(inputs$.written)) inputs$answer else code_written(variable, inputs$answer,
      inputs$.written, book)
  },
  sentence = function(variable, book) paste0(
    "Read from the column \u201c", variable$settings, "\u201d."
  )
)

# What only dates or only numbers have.
check_forms_of_level <- function(variable, say) {
  if (!is.null(variable$dates) && !is_date(variable)) say(
    where_in(variable, "dates"),
    paste0("`dates` has a meaning for level date and datetime only, not for ", variable$level)
  )
  if (!is.null(variable$spans) && !variable$level %in% c("interval", "ratio")) say(
    where_in(variable, "spans"), paste0("`spans` is for numbers, not for level ", variable$level)
  )
}

spread_other <- function(entry) {
  other <- entry$keys$other
  if (!is_map(other) || !has_text(other$text) || !is_text(entry$keys$column)) return(NULL)
  label <- paste0(
    if (is_text(entry$keys$label)) entry$keys$label else entry$name, ": ",
    if (is_text(other$label)) other$label else "Other", ", in own words"
  )
  own <- is_text(other$column)
  keys <- c(list(written = list(of = entry$name,
    column = text_squeeze(if (own) other$column else entry$keys$column), own = own), label = label,
    level = "text"),
    entry$keys[intersect(names(entry$keys), c("kept", "private", "universe", "from"))])
  list(
    entry = entry, companions = list(companion(entry, other$text, keys, NULL, c("other", "text")))
  )
}

# Words in a column of their own to which a person gave a code in the sheet: they
# count where the write-in was chosen, or nothing.
code_written <- function(variable, column, words, book) {
  reason <- reason_or_none(column)
  open <- column$value %in% variable$other$code | reason == reason_id(book, "no_answer")
  rows <- which(open & !is.na(words$value))
  code <- write_in_codes(variable, text_fold(words$value[rows]))
  rows <- rows[!is.na(code)]
  code <- as.integer(code[!is.na(code)])
  column$value[rows] <- code
  reason[rows] <- 0L
  c(new_column(column$value, reason), list(ledger = sheet_entry(variable, rows, words$value[rows],
    number_to_text(code), where_in(variable, "other"))))
}

# The rows of the ledger for words that a sheet gave a code.
sheet_entry <- function(variable, rows, words, now, path) {
  if (length(rows) == 0) return(list())
  was <- distinct_of(words)
  now <- distinct_of(now)
  note <- paste0("coded in ", other_of(variable)$sheet)
  list(new_entry("write_in", variable$name, path, rows, was$value, was$index, now$value, now$index,
    note = note))
}

storage_of <- function(variable) {
  if (is.null(variable$level) || variable$level %in% c("text", "identifier")) return("text")
  if (variable$level %in% c("date", "datetime")) return("date")
  if (!is.null(variable$codes) || variable$level %in% c("nominal", "ordinal")) "coded" else "number"
}

# Bounds of dates reach from the first to the last moment of what they name.
range_by_level <- function(variable) {
  range <- variable$range
  texts <- attr(range, "texts")
  if (is.null(range) || is.null(texts)) return(range)
  if (!is_date(variable)) return(if (attr(range, "numbers")) as.numeric(range) else range)
  low <- if (texts[1] == "down") -Inf else date_span(texts[1], variable$level)[1]
  high <- if (texts[2] == "up") Inf else date_span(texts[2], variable$level)[2]
  if (is.null(low) || is.null(high)) range else c(low, high)
}
