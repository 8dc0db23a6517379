# What may stand at a key, by the type of its field.

field_types <- list(
  # entries with names of their own, read one by one later
  parts = function(value, field, path, say) value,
  text = function(value, field, path, say) {
    if (!is_text(value)) return(say("must be one text"))
    if (!nzchar(text_trim(value))) return(say("is empty: give it a text, or take the key out"))
    value
  },
  # a wave, or the column that tells the waves of one file apart
  wave_of = function(value, field, path, say) {
    if (is_text(value)) return(value)
    if (!is_map(value)) return(say("must be a wave, or `{column: Year, values: {y2000: 2000}}`"))
    sound <- TRUE
    read <- read_fields(value, field$fields, path, function(where, message) {
      sound <<- FALSE
      say(message, at = where[-seq_along(path)])
    })
    if (sound) read
  },
  # the heading of a raw column, blanks and line breaks in it as one space
  heading = function(value, field, path, say) {
    value <- field_types$text(value, field, path, say)
    if (is.null(value)) NULL else text_squeeze(value)
  },
  headings = function(value, field, path, say) {
    value <- field_types$texts(value, field, path, say)
    if (is.null(value)) NULL else text_squeeze(value)
  },
  # {variable: heading}
  heading_pairs = function(value, field, path, say) {
    value <- field_types$pairs(value, field, path, say)
    if (is.null(value)) NULL else with_names(text_squeeze(value), names(value))
  },
  # what stands between the parts of a cell: a line break is one too
  mark = function(value, field, path, say) {
    if (!is_text(value) || !nzchar(value))
      return(say("must be the text that stands between the answers, `\";\"`"))
    value
  },
  texts = function(value, field, path, say) {
    if (!is.character(value) || length(value) == 0)
      return(say("must be a text or a list of texts, `[first, second]`"))
    unname(value)
  },
  choice = function(value, field, path, say) {
    if (is_text(value) && value %in% field$values) return(value)
    shown <- if (is_text(value)) paste0("`", value, "`") else "this"
    say(
      shown, " is not one of ", some_of(field$values, 9),
      if (is_text(value)) did_you_mean(value, field$values)
    )
  },
  choices = function(value, field, path, say) {
    if (!is.character(value) || length(value) == 0) return(say(
      "must be a list of ", some_of(field$values, 9)
    ))
    odd <- setdiff(value, field$values)
    if (length(odd) > 0) return(say(
      some_of(odd), " is not one of ", some_of(field$values, 9), did_you_mean(odd[1], field$values)
    ))
    if (anyDuplicated(value)) return(say("`", value[duplicated(value)][1], "` occurs twice"))
    unname(value)
  },
  yes_no = function(value, field, path, say) {
    word <- if (is_text(value)) tolower(value) else ""
    if (word %in% c("yes", "true")) return(TRUE)
    if (word %in% c("no", "false")) return(FALSE)
    say("must be yes or no")
  },
  whole = function(value, field, path, say) {
    number <- if (is_text(value)) text_to_number(value) else NA
    if (!is_whole(number)) return(say("must be a whole number"))
    if (!is.null(field$least) && number < field$least) return(say("must be at least ", field$least))
    as.integer(number)
  },
  range = function(value, field, path, say) {
    if (!is.character(value) || length(value) != 2)
      return(say("must be two bounds, `[0, 80]`; `[0, up]` and `[down, 80]` are open"))
    if (anyNA(value))
      return(
        say("a bound is missing: give two numbers, or `down` before, `up` behind for an open one")
      )
    low <- if (value[1] == "down") -Inf else text_to_number(value[1])
    high <- if (value[2] == "up") Inf else text_to_number(value[2])
    odd <- value[is.na(c(low, high))]
    # Beside a date a year is a date as well.
    moment <- function(text) {
      moment <- text_to_date(text, "datetime")$value
      if (is.na(moment)) 86400 * text_to_date(text, "date")$value else moment
    }
    if (is.na(low) || (length(odd) > 0 && is.finite(low))) low <- moment(value[1])
    if (is.na(high) || (length(odd) > 0 && is.finite(high))) high <- moment(value[2])
    if (is.na(low) || is.na(high)) return(say(
      "`", odd[1], "` is not a bound: a number or an ISO 8601 date, or `down` before, `up` behind"
    ))
    if (low > high) return(
      say("the lower bound ", value[1], " is above the upper bound ", value[2])
    )
    structure(c(low, high), texts = value, numbers = length(odd) == 0)
  },
  # patterns of dates, in the letters of CSVW
  patterns = function(value, field, path, say) {
    if (!is.character(value) || length(value) == 0)
      return(say("must be a pattern or a list of them, `dd/MM/yyyy`"))
    for (pattern in value) {
      form <- date_form(pattern)
      if ("yy" %in% form$odd) return(say(
        "`", pattern, "`: two digits leave the century open; a pattern needs `yyyy`"
      ))
      if (length(form$odd) > 0) return(say(
        "`", pattern, "`: `", form$odd[1], "` is not a letter of dates; they are ",
        some_of(date_letters, 20), "; other text stands in single quotes"
      ))
      if (!form$year || (form$day && !form$month) || !form$halved) return(say(
        "`", pattern,
        "` does not name a date: it needs `yyyy`, `MM` beside `dd`, and `a` beside `hh`"
      ))
    }
    unname(value)
  },
  condition = function(value, field, path, say) {
    if (!is_text(value) || !nzchar(text_trim(value)))
      return(say("must be a condition, `member == \"Yes\"`"))
    value
  },
  share_or_count = function(value, field, path, say) {
    number <- if (is_text(value)) text_to_number(value) else NA
    if (is.na(number) || number <= 0 || (number >= 1 && !is_whole(number)))
      return(say("must be a share between 0 and 1, or a whole number from 1 up"))
    number
  },
  number = function(value, field, path, say) {
    number <- if (is_text(value)) text_to_number(value) else NA
    if (is.na(number) || (!is.null(field$least) && number < field$least)) return(say(
      "must be a number", if (!is.null(field$least)) paste(" from", field$least, "up")
    ))
    number
  },
  # entries without names, one by one
  maps = function(value, field, path, say) {
    if (!is.list(value) || !is.null(names(value)) || !all(vapply(value, is_map, TRUE))) return(say(
      "must be a list of entries, `- {", paste0(names(field$fields)[1], ": ...}`")
    ))
    read <- lapply(seq_along(value), function(k) {
      read_fields(
        value[[k]], field$fields, c(path, number_to_text(k)),
        function(where, message) say(message, at = where[-seq_along(path)])
      )
    })
    Filter(Negate(is.null), read)
  },
  period = function(value, field, path, say) {
    day <- "[0-9]{4}(-(0[1-9]|1[0-2])(-(0[1-9]|[12][0-9]|3[01]))?)?"
    if (is_text(value) && stringi::stri_detect_regex(value, paste0("^", day, "(/", day, ")?$")))
      return(value)
    say("must be an ISO 8601 date or two with a slash between, `2026-03-02/2026-10-11`")
  },
  codes = function(value, field, path, say) read_codes(value, say),
  codes_or_list = function(value, field, path, say) {
    if (is_text(value)) return(list(list = value))
    read_codes(value, say)
  },
  # {label or number: written forms}
  forms = function(value, field, path, say) {
    if (!is_map(value))
      return(say("must say for each value how else it is written, `{Soprano: [sop.]}`"))
    for (key in names(value)) {
      if (!is.character(value[[key]])) say("must be a written form or a list of them", at = key)
    }
    lapply(value[vapply(value, is.character, TRUE)], unname)
  },
  # {label of a net: codes or labels}
  nets = function(value, field, path, say) {
    if (!is_map(value)) return(say("must say which codes each net holds, `{Agree: [4, 5]}`"))
    for (key in names(value)) if (!is.character(value[[key]])) say(
      "must be a code or a list of codes", at = key
    )
    lapply(value[vapply(value, is.character, TRUE)], unname)
  },
  # a list of variables, or all but a list of them
  chosen = function(value, field, path, say) {
    if (is.character(value) && is.null(names(value)) && length(value) > 0) return(list(of = value))
    if (!is_map(value) || !identical(names(value), "without") || !is.character(value$without))
      return(say(
        "must be a list of variables and blocks, `[voice, years]`, or `{without: [choir]}`"
      ))
    list(without = unname(value$without))
  },
  # all questions, or some of them
  typed = function(value, field, path, say) {
    if (identical(value, "all")) return(list(without = character()))
    field_types$chosen(value, field, path, say)
  },
  # {variable: month, or bands, or codes put together}
  coarser = function(value, field, path, say) {
    if (!is_map(value)) return(say("must say for each variable how, `{ended: month}`"))
    read <- lapply(with_names(names(value), names(value)), function(name) {
      part <- value[[name]]
      if (is_text(part) && part %in% date_steps) return(list(by = part))
      if (!is_map(part) || length(intersect(names(part), c("starts", "ends", "to"))) != 1) return(
        say("must be one of ", some_of(date_steps), ", or hold `starts`, `ends` or `to`", at = name)
      )
      read_fields(part, coarser_fields(), c(path, name), function(where, message) say(
        message, at = where[-seq_along(path)]
      ))
    })
    Filter(Negate(is.null), read)
  },
  # {variable: two bounds}
  spans = function(value, field, path, say) {
    if (!is_map(value)) return(say("must say two bounds for each, `{minutes: [down, 3000]}`"))
    read <- lapply(with_names(names(value), names(value)), function(name) field_types$range(
      value[[name]], field, c(path, name), function(...) say(..., at = name)
    ))
    Filter(Negate(is.null), read)
  },
  # {code as delivered: label or reason}
  pairs = function(value, field, path, say) {
    if (!is_map(value) || !all(vapply(value, is_text, TRUE)))
      return(say("must give a label for each code of the file, `{1: Yes, 2: No}`"))
    unlist(value)
  },
  # {new code: labels or codes of the source}
  groups = function(value, field, path, say) {
    if (!is_map(value) || !all(vapply(value, is.character, TRUE)))
      return(say("must give for each its old codes, `{1: [Tenor, Bass]}`"))
    lapply(value, unname)
  },
  amount = function(value, field, path, say) {
    if (is_text(value) && value == "all") return("all")
    number <- if (is_text(value)) text_to_number(value) else NA
    if (!is.na(number) && number > 0 && number < 1) return(number)
    if (!is_whole(number) || number < 1)
      return(say("must be a whole number from 1 up, a share below 1, or `all`"))
    as.integer(number)
  },
  # made inside Mavik, as it is
  given = function(value, field, path, say) value,
  # {variable: label}, or a label with its code in the file and other forms
  options = function(value, field, path, say) {
    if (!is_map(value)) return(say("must name the variable of each option, `{heard_radio: Radio}`"))
    read <- lapply(with_names(names(value), names(value)), function(name) {
      part <- value[[name]]
      if (is_text(part)) return(list(label = text_trim(part)))
      read_fields(
        part, option_fields(), c(path, name),
        function(where, message) say(message, at = where[-seq_along(path)])
      )
    })
    Filter(Negate(is.null), read)
  },
  # {variable: label}
  names = function(value, field, path, say) {
    if (!is_map(value) || !all(vapply(value, is_text, TRUE)))
      return(say("must give a label for each variable, `{best_people: The people}`"))
    value
  },
  # {code: where its band starts or ends}
  bounds = function(value, field, path, say) {
    if (!is_map(value))
      return(say("must say for each code where its band begins or ends, `{1: 0, 2: 10}`"))
    code <- text_to_number(names(value))
    number <- vapply(value, function(place) if (is_text(place)) text_to_number(place) else NA_real_,
      0)
    for (key in names(value)[!is_whole(code)]) say(
      "the code `", key, "` is not a whole number", at = key
    )
    for (key in names(value)[is.na(number)]) say("must be a number", at = key)
    if (anyNA(number) || !all(is_whole(code))) return(NULL)
    list(code = as.integer(code), at = unname(number))
  },
  # conditions in order
  branches = function(value, field, path, say) {
    if (
      !is.list(value) || !is.null(names(value)) || length(value) == 0 ||
      !all(vapply(value, is_map, TRUE))
    ) return(say("must be a list of conditions, `- {if: 'years > 10', is: 1}`"))
    sound <- TRUE
    for (k in seq_along(value)) {
      keys <- names(value[[k]])
      if (!setequal(keys, c("if", "is")) && !identical(keys, "else")) {
        sound <- FALSE
        say(
          "holds `", paste(keys, collapse = "`, `"),
          "`: each branch is `{if: CONDITION, is: CODE}`, the last may be `{else: CODE}`",
          at = number_to_text(k)
        )
      } else if (!all(vapply(value[[k]], is_text, TRUE))) {
        sound <- FALSE
        say("must be texts", at = number_to_text(k))
      }
    }
    if (sound) value
  }
)
