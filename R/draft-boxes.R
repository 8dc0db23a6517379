# Tick boxes, each a column: ticked or blank, or with a word for either.

kind_of_box <- function(answers, profile) {
  # A dash beside crosses is an empty box, though a gap elsewhere.
  for (texts in list(profile$cells$text, answers$text)) if (length(texts) == 2) {
    tick <- tick_of_pair(text_fold(texts))
    if (!is.na(tick) && is_of_question(texts, tick, profile)) return(list(
      kind = "ticks", grounds = box_words(texts[tick], texts[-tick]),
      tick = texts[tick], untick = texts[-tick]
    ))
  }
  if (is_tick(answers, profile)) list(
    kind = "ticks", grounds = paste0("\u201c", answers$text, "\u201d or blank"),
    tick = answers$text
  )
}

# `TRUE` and `FALSE` tick a box where the heading has a question and its option, and are answers
# elsewhere.
is_of_question <- function(texts, tick, profile) !identical(text_fold(texts[tick]), "true") ||
  nzchar(stem_of_box(c(profile, list(kind = "ticks", tick = texts[tick])))[1])

# A word for a tick, or the option's own text, and blanks.
is_tick <- function(answers, profile) {
  if (nrow(answers) != 1 || profile$filled == profile$records || profile$filled < 2) return(FALSE)
  text <- text_fold(answers$text)
  text %in% c(
    "x", "1", "yes", "true", "checked", "ticked", "selected", "on", "\u2713", "\u2714", "ja", "oui",
    "s\u00ed", "sim", "s\u00ec"
  ) ||
    endsWith(text_fold(profile$question), text) || endsWith(text_fold(profile$name), text)
}

# Which of two answers ticks the box that the other leaves: `Checked` and `Unchecked`, a full box
# and an empty one, or what is so to a computer. `Yes` and `No` are answers of their own.
tick_of_pair <- function(folded) {
  for (k in 1:2) if (folded[k] == "true" && folded[3 - k] == "false" ||
    folded[k] %in% tick_signs && folded[3 - k] %in% empty_signs ||
    folded[k] %in% tick_words && folded[3 - k] %in% paste0(
      c("un", "not ", "nicht ", "non ", "no ", "n\u00e3o ", "niet "), folded[k]
    )) return(k)
  NA_integer_
}

tick_signs <- c("\u2611", "\u2612", "\u2713", "\u2714", "\u25a0", "\u2705", "x", "[x]")
empty_signs <- c("\u2610", "\u25a1", "\u2717", "\u2718", "-", "[]", "[ ]", "o", "\u274c", "\u2b1c")
tick_words <- c(
  "ticked", "checked", "selected", "chosen", "marked", "mentioned", "quoted", "angekreuzt",
  "ausgew\u00e4hlt", "gew\u00e4hlt", "genannt", "coch\u00e9", "coch\u00e9e", "choisi", "choisie",
  "s\u00e9lectionn\u00e9", "mentionn\u00e9", "marcado", "marcada", "seleccionado", "selecionado",
  "elegido", "selezionato", "scelto", "aangevinkt", "aangekruist", "gekozen", "geselecteerd",
  "genoemd"
)

box_words <- function(ticks, unticks) paste0(
  paste0("\u201c", unique(ticks), "\u201d", collapse = ", "), " or ",
  if (length(unticks) == 0) "blank" else
    paste0("\u201c", unique(unticks), "\u201d", collapse = ", ")
)

# A question and its box: as the wording parts them, or by the text of a tick that ends it.
stem_of_box <- function(profile) {
  asked <- asked_in(profile)
  if (!nzchar(asked) && profile$kind == "ticks") asked <- profile$name
  if (profile$kind == "ticks" && nzchar(option_behind_number(asked)[1]))
    return(option_behind_number(asked))
  parts <- stem_of(asked)
  if (!nzchar(parts[1]) && profile$kind == "ticks") parts <- option_in_brackets(asked)
  if (!nzchar(parts[1]) && profile$kind == "ticks") parts <- option_behind_colon(asked)
  tick <- if (profile$kind == "ticks") profile$tick else ""
  if (nzchar(parts[1]) || !nzchar(tick) || !endsWith(text_fold(asked), text_fold(tick)))
    return(parts)
  stem <- substr(asked, 1, nchar(asked) - nchar(tick))
  stem <- stringi::stri_replace_last_regex(stem, "[\\s._:/-]+$", "")
  if (nzchar(stem)) c(stem, tick) else parts
}

# `Q3_1 By bus`, `Q3.1 - By bus`, `Q3_1_Bus`
option_behind_number <- function(asked) {
  parts <- stringi::stri_match_first_regex(asked, paste0(
    "^((?:\\p{L}{1,6} ?)?[0-9]{1,3}[a-z]?)[_.-](?:[0-9]{1,2}|[a-z])",
    "(?:[.:)]?(?: [-\u2013:])? +(?=\\S)|_(?=\\p{L}))(.+)$"
  ))
  if (is.na(parts[1])) c("", asked) else parts[2:3]
}

# `How do you come here? (By bus)`; no name of one option, as `Bus (the 12)` is.
option_in_brackets <- function(asked) {
  parts <- stringi::stri_match_first_regex(asked, "^(.{4,}?)\\s*\\((.+)\\)$")
  asks <- !is.na(parts[2]) && grepl("[?:]$|( .*){3}", parts[2])
  if (!asks || asks_several(parts[3])) return(c("", asked))
  c(text_trim(parts[2]), text_trim(parts[3]))
}

# `At the break: tea`
option_behind_colon <- function(asked) {
  parts <- stringi::stri_match_first_regex(asked, "^(.{4,}?):\\s+(.+)$")
  if (is.na(parts[1])) c("", asked) else parts[2:3]
}

tick_lines <- function(set, seen, plan) {
  ones <- seen$columns[set$columns]
  labels <- vapply(
    ones,
    function(profile) {
      own <- stem_of_box(profile)[2]
      label_text(if (nzchar(own)) own else asked_in(profile), profile$name)
    },
    ""
  )
  others <- plan
  others$names <- plan$names[!names(plan$names) %in% set$columns]
  names <- option_names(set$name, labels, others)
  ticks <- unique(vapply(ones, `[[`, "", "tick"))
  unticks <- unique(unlist(lapply(ones, `[[`, "untick")))
  known <- text_fold(ticks) %in% tick_forms | text_fold(ticks) %in% text_fold(labels)
  c(
    paste0(
      "  ", set$name, ":   # ", count_of(length(ones), "box", "boxes"), " of one question: ",
      comment_text(box_words(ticks, unticks))
    ),
    paste0("    label: ", yaml_word(label_text(set$stem, set$name))), "    split:",
    paste0("      columns: {", paste0(names, ": ", yaml_word(set$columns), collapse = ", "), "}"),
    paste0(
      "      options: {", paste0(names, ": ", box_labels(set, labels, plan), collapse = ", "), "}"
    ),
    if (!all(known)) paste0("      ticked: [", paste(yaml_word(ticks), collapse = ", "), "]"),
    if (!all(text_fold(unticks) %in% untick_forms)) paste0(
      "      unticked: [", paste(yaml_word(unticks), collapse = ", "), "]"
    ),
    if (!is.null(set$words)) paste0(
      "      other: {", if (!any(is_other_label(labels))) paste0(
        "flag: ", flag_name(set$name, names), ", "
      ), "text: ", set$name, "_words, column: ", yaml_word(set$words), "}"
    ),
    "      blank: no_answer   # where no box is ticked; or none_ticked",
    absent_key(set$columns, plan, "    ")
  )
}

# Whether anything was written in; an option may be called so already.
flag_name <- function(set, names) setdiff(paste0(set, c("_other", "_written", "_o")), names)[1]

# Says no more than that there is another; `Other choirs` says what.
is_other_label <- function(labels) grepl(
  paste0(other_word, "( ?[-(:,\u2013].*)?$"), text_fold(labels)
)

# `Other: tea`, `Other (please specify) - tea`.
tells_other <- function(labels) {
  # The letters that `other_word` begins with: of many texts few are folded.
  may <- which(stringi::stri_startswith_charclass(
    labels, "[osaOSA[:White_Space:][^\\u0000-\\u007F]]"
  ))
  tells <- logical(length(labels))
  tells[may] <- grepl(
    paste0(other_word, "( [(][^)]*[)])? ?[-(:,;/\u2013\u2014] ?[^ ].+$"), text_fold(labels[may])
  )
  tells
}

other_word <-
  "^(others?|something else|anderes?|sonstiges?|autres?|otr[oa]s?|outr[oa]s?|altr[oi]|anders)"

absent_key <- function(columns, plan, indent) {
  absent <- absent_in_waves(columns, plan)
  if (!is.null(absent)) paste0(indent, "by_wave: ", absent)
}

# A box that a wave lacks, where others of its question have ticks there.
box_labels <- function(set, labels, plan) {
  whole <- Reduce(intersect, lapply(set$columns, function(name) plan$without[[name]]))
  mapply(function(name, label) {
    without <- setdiff(plan$without[[name]], whole)
    if (length(without) == 0) yaml_word(label) else paste0(
      "{label: ", yaml_word(label), ", by_wave: {",
      paste0(plan$waves$names[without], ": absent", collapse = ", "), "}}"
    )
  }, set$columns, labels)
}
