# Questions with several answers, as entries: joined in one cell, a tick-box
# column an option, and grids of either.

# Several answers joined in one cell: pieces that come back in many cells. Pieces
# that never stand apart are one option that holds the separator. Few respondents may have given
# no more kinds of cells than there are options: then `question` must ask for several.
several_of <- function(answers, question = "") {
  if (any(startsWith(utils::head(answers$text, 50), "[")))
    answers$text <- opened_lists(answers$text, ",")
  marked <- which(stringi::stri_detect_charclass(answers$text, "[;|\\n\u3001\uff1b,\uff0c/]"))
  for (mark in c(";", "|", "\n", "\u3001", "\uff1b", ",", "\uff0c", " / ")) {
    has <- logical(nrow(answers))
    has[marked] <- stringi::stri_detect_fixed(answers$text[marked], mark)
    if (weighted_share(has, answers$count) < 0.1) next
    pieces <- lapply(stringi::stri_split_fixed(answers$text, mark), text_trim)
    pieces <- join_pieces(lapply(pieces, function(piece) piece[nzchar(piece)]), answers$count, mark)
    count <- counts_of_options(unlist(pieces), rep(answers$count, lengths(pieces)))
    often <- names(count)[count >= max(3, 0.02 * sum(answers$count))]
    covered <- sum(count[often]) / sum(count)
    enough <- nrow(answers) > length(often) ||
      (asks_several(question) && anyDuplicated(unlist(lapply(pieces, unique))) > 0)
    if (
      length(often) >= 2 && length(often) <= 40 && covered >= 0.7 && enough &&
      stats::median(nchar(often)) < 80
    ) {
      often <- often[order(-count[often])]
      return(list(
        kind = "several",
        grounds = paste0(
          count_of(length(often), "option"), " joined by ",
          if (mark == "\n") "line ends" else paste0("`", mark, "`")
        ),
        separator = mark, options = often, counts = unname(count[often]),
        rest = sum(count) - sum(count[often])
      ))
    }
  }
  NULL
}

# What differs in case or spaces is one option, in its commonest spelling.
counts_of_options <- function(piece, count) {
  total <- rowsum(count, piece)[, 1]
  total <- total[order(-total)]
  option <- text_fold(names(total))
  named <- names(total)[match(option, option)]
  total <- rowsum(total, named)
  with_names(as.integer(total), rownames(total))
}

# In the words of eight languages; whoever says `not` or `only one` asks for one.
asks_several <- function(question) stringi::stri_detect_regex(question, paste0(
  "(?i)^(?!.*\\b(?:not|only one|nicht|nur eine|une seule|una sola)\\b).*",
  "\\b(?:(?:tick|check|select|choose|mark|pick|name) (?:all|each|every|several|any (?:of|that))|",
  "up to (?:two|three|four|five|[2-9])|as many as|all that apply|all of (?:these|those|the)|",
  "more than one|(?:several|multiple) (?:answers?|responses?)|",
  "mehrfach(?:nennung|antwort|auswahl)\\w*|mehrere (?:antworten|nennungen)|",
  "bis zu (?:zwei|drei|vier|f\u00fcnf|[2-9])|alles? zutreffenden?|",
  "plusieurs (?:r\u00e9ponses|choix)|toutes les (?:r\u00e9ponses|cases|options)|",
  "jusqu.\u00e0 (?:deux|trois|quatre|cinq|[2-9])|varias (?:respuestas|opciones)|",
  "todas las (?:que|respuestas|opciones)|(?:pi\u00f9|tutte le) (?:risposte|opzioni|voci)|",
  "meerdere antwoorden|alles (?:aan )?wat|",
  "(?:v\u00e1rias|todas as) (?:respostas|op\u00e7\u00f5es|que)|",
  "alla (?:alternativ|som)|flera (?:svar|alternativ))\\b"
))

join_pieces <- function(pieces, counts, mark, rounds = 4) {
  for (round in seq_len(rounds)) {
    first <- unlist(lapply(pieces, function(piece) piece[-length(piece)]))
    after <- unlist(lapply(pieces, function(piece) piece[-1]))
    weight <- rep(counts, pmax(lengths(pieces) - 1L, 0L))
    if (length(first) == 0) return(pieces)
    total <- rowsum(rep(counts, lengths(pieces)), unlist(pieces))[, 1]
    pairs <- rowsum(weight, joined_id(first, after))[, 1]
    parts <- do.call(rbind, strsplit(names(pairs), "\r", fixed = TRUE))
    always <- pairs == total[parts[, 1]] & pairs == total[parts[, 2]] & pairs >= 3
    # Two options of which each is rare may well stand together by chance alone.
    always <- which(always & grepl("^[[:lower:]]", parts[, 2]))
    if (length(always) == 0) return(pieces)
    a <- parts[always[1], 1]
    b <- parts[always[1], 2]
    pieces <- lapply(pieces, function(piece) {
      places <- which(piece[-length(piece)] == a & piece[-1] == b)
      if (length(places) == 0) return(piece)
      piece[places] <- paste0(a, mark, " ", b)
      piece[-(places + 1)]
    })
  }
  pieces
}

# The comma of `Other, namely: tea` parts nothing.
several_beside_others <- function(answers, said) {
  several <- several_of(answers, said)
  if (is.null(several)) return(NULL)
  tail <- tells_other(answers$text)
  if (sum(tail) >= 3 && is.null(several_of(answers[!tail, ], said))) NULL else several
}

# Neighbours that are one question: boxes under one stem, with the column of
# the write-in; rows of a grid with the same options.
draft_sets <- function(used, names, columns, taken) {
  kind <- vapply(columns[used], `[[`, "", "kind")
  stem <- vapply(columns[used], function(column) stem_of_box(column)[1], "")
  name <- unname(names[used])
  prefix <- without_number(name)
  worded <- kind == "ticks" & prefix == name
  prefix[worded] <- sub("_[^_]+$", "", name[worded])
  near <- function(i) (nzchar(stem[i]) && stem[i] == stem[i - 1]) || (
    !nzchar(stem[i]) && !nzchar(stem[i - 1]) && prefix[i] == prefix[i - 1] &&
    prefix[i] != names[used[i]]
  )
  same <- vapply(seq_along(used),
    function(i) i > 1 && kind[i] == kind[i - 1] && kind[i] %in% c("ticks", "several") && near(i) &&
    (kind[i] == "ticks" || setequal(columns[[used[i]]]$options, columns[[used[i - 1]]]$options)),
    TRUE)
  runs <- Filter(
    function(run) length(run) >= 2 && kind[run[1]] %in% c("ticks", "several"),
    split(seq_along(used), cumsum(!same))
  )
  unname(lapply(runs, function(run) {
    last <- max(run)
    words <- if (
      kind[run[1]] == "ticks" && last < length(used) &&
      (nzchar(stem[last + 1]) && stem[last + 1] == stem[last] ||
        startsWith(name[last + 1], paste0(prefix[last], "_"))) &&
      kind[last + 1] %in% c("text", "choice") &&
      is_write_in(used[last + 1], columns[[used[last + 1]]])
    ) used[last + 1]
    name <- if (length(unique(prefix[run])) == 1 && grepl(study_name, prefix[run[1]]))
      prefix[run[1]] else substr(gsub("[^a-z0-9]+", "_", key_words(stem[run[1]])), 1, 24)
    if (!grepl(study_name, name)) name <- paste0("set_", run[1])
    while (name %in% c(taken, reserved_words)) name <- paste0(name, "_set")
    taken <<- c(taken, name)
    list(kind = kind[run[1]], name = name, columns = used[run], words = words, stem = stem[run[1]])
  }))
}

# `q3_1`, `q3a`, `q3_b`: what comes before the number or the letter.
without_number <- function(names) sub(
  "([._ ]?[0-9]+|[._ ][a-z]|(?<=[0-9])[a-z])$", "", names, perl = TRUE
)

set_lines_drafted <- function(set, seen, plan) if (set$kind == "ticks")
  tick_lines(set, seen, plan) else grid_lines(set, seen, plan)

grid_lines <- function(set, seen, plan) {
  ones <- seen$columns[set$columns]
  c(
    paste0(
      "  ", set$name, ":   # a grid: ", count_of(length(ones), "row"), " with the same options"
    ), if (nzchar(set$stem)) paste0("    stem: ", yaml_word(shorten_text(set$stem, 300))),
    split_keys(ones[[1]], option_names("", ones[[1]]$options, plan), NULL), "    items:",
    vapply(
      set$columns,
      function(column) paste0(
        "      ", plan$names[[column]], ": {split: {column: ", yaml_word(column), "}, label: ",
        yaml_word(label_text(stem_of(asked_in(seen$columns[[column]]))[2], column)),
        sub("^by", ", by", paste0(absent_key(column, plan, ""), "")), "}"
      ),
      ""
    )
  )
}

several_lines <- function(column, name, plan, universe = NULL) {
  c(
    paste0(
      "  ", name, ":   # ", comment_text(column$grounds), ": ",
      comment_text(paste0(
        "\u201c", utils::head(column$options, 3), "\u201d ", grouped(utils::head(column$counts, 3)),
        collapse = ", "
      ))
    ),
    paste0("    label: ", yaml_word(label_text(asked_in(column), column$name))),
    if (!is.null(universe)) paste0("    universe: ", universe),
    absent_key(column$name, plan, "    "),
    split_keys(column, option_names(name, column$options, plan), yaml_word(column$name),
      if (column$rest > 0) name),
    if (column$rest > 0) paste0(
      "    # not among the options ", count_of(column$rest, "time"), ": taken as write-ins"
    )
  )
}

split_keys <- function(profile, names, column, other = NULL) {
  # The option that says no more than that there is another is the write-in's own tick.
  own <- which(is_other_label(profile$options) & !is.null(other))[1]
  listed <- setdiff(seq_along(names), own)
  label <- if (is.na(own)) "Other" else profile$options[own]
  c(
    "    split:", if (!is.null(column)) paste0("      column: ", column), paste0(
      "      separator: \"", sub("\n", "\\n", profile$separator, fixed = TRUE), "\""
    ), "      options:",
    paste0("        ", names[listed], ": ", yaml_word(profile$options[listed])),
    if (!is.null(other)) paste0(
      "      other: {flag: ", flag_name(substr(other, 1, 26), names[listed]),
      ", text: ", substr(other, 1, 26), "_words, label: ", yaml_word(label), "}"
    )
  )
}

# A variable's name for each option, from its first words: one that no other
# variable or block of the draft has, nor an option of another question.
option_names <- function(set, labels, plan) {
  words <- vapply(labels, function(label) {
    word <- gsub(
      "^_+|_+$", "",
      gsub(
        "[^a-z0-9]+", "_",
        stringi::stri_trans_general(key_words(label), "any-latin; latin-ascii; lower")
      )
    )
    substr(word, 1, 16)
  }, "", USE.NAMES = FALSE)
  if (!nzchar(set)) {
    names <- ifelse(grepl("^[a-z]", words), words, paste0("o", words))
    return(gsub("_+$", "", make.unique(names, sep = "_")))
  }
  names <- gsub("_+$", "", make.unique(paste0(set_prefix(set, plan), "_", words), sep = "_"))
  taken <- c(set, unname(plan$names), vapply(plan$blocks, `[[`, "", "name"),
    vapply(plan$sets, `[[`, "", "name"))
  while (any(names %in% taken)) names[names %in% taken] <- paste0(names[names %in% taken], "_o")
  names
}

# Where long names of several questions begin alike, their number tells them apart.
set_prefix <- function(set, plan, most = 14) {
  alike <- sort_c(unique(c(set, unname(plan$names), vapply(plan$sets, `[[`, "", "name"))))
  alike <- alike[substr(alike, 1, most) == substr(set, 1, most) & nchar(alike) >= most]
  if (length(alike) < 2) substr(set, 1, most) else paste0(substr(set, 1, most - 3), "_",
    match(set, alike))
}
