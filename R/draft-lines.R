# A plan for a codebook as YAML lines, with the grounds as comments.

draft_lines <- function(seen, plan) {
  files <- vapply(plan$exports, `[[`, "", "file")
  c(
    paste0(
      "# A first codebook, drafted from ", paste(files, collapse = ", "), ": ",
      count_of(seen$records, "response"), " by ", count_of(length(seen$columns), "column"), "."
    ),
    "# What stands behind a # is the ground for a guess. Look it through, name things as you",
    "# like, then build.",
    "mavik: 1", "",
    "study:", paste0("  title: ", yaml_word(plan$exports[[1]]$name), "   # the title of the study"),
    "",
    "waves:", "  one: {label: First wave}", "",
    "exports:", unlist(lapply(plan$exports, export_lines, seen = seen, plan = plan)), "",
    repeat_lines(plan), missing_lines(plan$missing), list_lines(plan, seen),
    "variables:", variable_lines(seen, plan)
  )
}

export_lines <- function(export, seen, plan) {
  parallel <- export$role == "parallel"
  why <- if (plan$key == "numbered")
    "nothing identifies a respondent: Mavik numbers the records" else
      seen$columns[[plan$key]]$grounds
  c(
    paste0("  ", export$name, ":"), if (parallel) paste0(
      "    adds_to: ", export$base, "   # the same respondents again"
    ) else "    wave: one",
    paste0("    file: ", yaml_word(export$file)), paste0(
      "    key: ", yaml_word(plan$key), "   # ", comment_text(why)
    ),
    if (!is.null(export$response)) paste0("    response: ", yaml_word(export$response)),
    paste0("    cells: ", export$cells), form_lines(export$form), ignored_lines(export$ignored)
  )
}

repeat_lines <- function(plan) {
  if (plan$repeats == 0) return(NULL)
  c(
    paste0(
      "duplicates: {keep: fullest}   # ", count_of(plan$repeats, "key"),
      if (plan$repeats == 1) " stands" else " stand",
      " more than once; better the last by a date, `{keep: last, by: ...}`"
    ),
    ""
  )
}

export_name <- function(file) {
  name <- gsub(
    "^_+|_+$", "", gsub("[^a-z0-9]+", "_", tolower_ascii(sub("[.][^.]*$", "", basename(file))))
  )
  name <- substr(name, 1, 32)
  if (grepl(part_name, name)) name else "export"
}

form_lines <- function(form) {
  c(
    if (!identical(form$heading, "names")) paste0(
      "    heading: [", paste(form$heading, collapse = ", "), "]"
    ),
    if (form$skip > 0) paste0("    skip: ", form$skip),
    if (form$delimiter != "comma") paste0("    delimiter: ", form$delimiter),
    if (form$encoding != "UTF-8") paste0("    encoding: ", form$encoding),
    if (isTRUE(form$decimal == "comma")) "    decimal: comma",
    if (!is.null(form$sheet)) paste0("    sheet: ", yaml_word(form$sheet))
  )
}

ignored_lines <- function(ignored) {
  if (length(ignored) == 0) return(NULL)
  c("    ignored:", paste0("      - ", yaml_word(names(ignored)), "   # ", ignored))
}

comment_text <- function(text) shorten_text(text_squeeze(text), 100)

reason_drafts <- list(
  refused = c(-2, "Prefer not to say"), dont_know = c(-1, "Don't know"), not_applicable = c(
    -10, "Not applicable"
  ), no_answer = c(-3, "No answer")
)

missing_lines <- function(missing) {
  if (length(missing) == 0) return(NULL)
  c("missing:", vapply(names(missing), function(name) {
    forms <- missing[[name]]$forms
    label <- reason_drafts[[name]][2]
    written <- forms[text_fold(forms) != text_fold(label)]
    paste0("  ", name, ": {code: ", reason_drafts[[name]][1], ", label: ", yaml_word(label),
      if (length(written) > 0) paste0(
        ", written: [", paste(yaml_word(written), collapse = ", "), "]"
      ), "}",
      "   # ", comment_text(paste0(
        "\u201c", forms, "\u201d ", grouped(missing[[name]]$counts), collapse = ", "
      )))
  }, ""), "")
}

list_lines <- function(plan, seen) {
  shared <- Filter(function(list) length(list$columns) > 1, plan$lists)
  if (length(shared) == 0) return(NULL)
  c("code_lists:", unlist(lapply(names(shared), function(name) {
    list <- shared[[name]]
    c(paste0(
      "  ", name, ":   # ", list$grounds,
      if (guessed_order(list)) ", in the order of frequency: check it", ", in ",
      count_of(length(list$columns), "column")
    ),
      if (!is.null(list$learnt)) paste0("    # ", text_squeeze(list$learnt)), paste0(
        "    codes: ", codes_text(list)
      ))
  })), "")
}

guessed_order <- function(list) list$kind == "choice" && is.null(list$learnt) &&
  !isTRUE(list$given) && !identical(sort(text_fold(list$labels)), c("no", "yes"))

codes_text <- function(list) paste0(
  "{", paste0(list$codes, ": ", yaml_word(text_squeeze(list$labels)), collapse = ", "), "}"
)

variable_lines <- function(seen, plan) {
  lines <- if (plan$key == "numbered") "  respondent: {is: key, label: Number of the record}"
  in_block <- unlist(lapply(plan$blocks, `[[`, "columns"))
  in_set <- unlist(lapply(plan$sets, function(set) c(set$columns, set$words)))
  for (column in plan$used) {
    if (column %in% in_set) {
      set <- Filter(function(one) one$columns[1] == column, plan$sets)
      if (length(set) > 0) lines <- c(lines, set_lines_drafted(set[[1]], seen, plan))
      next
    }
    skip <- plan$skips[[column]]
    first <- !column %in% in_block || any(vapply(
      plan$blocks, function(one) one$columns[1] == column, TRUE
    ))
    of <- Filter(function(one) column %in% one$columns, plan$blocks)
    if (!is.null(skip) && (first || !isTRUE(skip$block))) lines <- c(
      lines,
      paste0(
        "  # ", if (isTRUE(skip$block)) of[[1]]$name else plan$names[[column]], ": ",
        comment_text(skip_text(skip, plan))
      )
    )
    if (column %in% in_block) {
      block <- Filter(function(one) one$columns[1] == column, plan$blocks)
      if (length(block) > 0) lines <- c(lines, block_lines(block[[1]], seen, plan))
    } else {
      lines <- c(lines, entry_lines(column, seen, plan))
    }
  }
  lines
}

list_of <- function(column, plan) Filter(function(list) column %in% list$columns, plan$lists)

block_lines <- function(block, seen, plan) {
  list <- list_of(block$columns[1], plan)
  shared <- length(list[[1]]$columns) > 1
  c(
    paste0("  ", block$name, ":"),
    if (nzchar(block$stem)) paste0("    stem: ", yaml_word(shorten_text(block$stem, 300))),
    paste0("    level: ", if (list[[1]]$kind == "scale") "ordinal" else "nominal"),
    paste0("    codes: ", if (shared) names(list) else codes_text(list[[1]])), universe_line(
      block$columns[1], plan
    ), "    items:",
    unlist(lapply(block$columns, function(column) {
      one <- seen$columns[[column]]
      keys <- list(column = yaml_word(column),
        label = yaml_word(label_text(stem_of(asked_in(one))[2], column)),
        variants = variants_text(one), missing = own_missing_text(one),
        universe = universe_text(plan$skips[[column]], FALSE))
      c(entry_text(plan$names[[column]], keys, indent = "      "), odd_lines(one, "        "))
    }))
  )
}

# Inside { } a condition stands in quotes, so it does everywhere.
universe_text <- function(skip, block) {
  if (is.null(skip) || !skip$sure || isTRUE(skip$block) != block) return(NULL)
  paste0("'", stringi::stri_replace_all_fixed(skip$universe, "'", "''"), "'")
}

universe_line <- function(column, plan) {
  text <- universe_text(plan$skips[[column]], TRUE)
  if (!is.null(text)) paste0("    universe: ", text)
}

# A heading of its own words is the question where there is no other.
asked_in <- function(one) if (nzchar(one$question) || !grepl(" ", one$name)) one$question else sub(
  " \\([0-9]+\\)$", "", one$name
)

label_text <- function(question, column) {
  plain <- stringi::stri_replace_all_regex(question, "<[^>]+>", " ")
  plain <- text_squeeze(plain)
  if (nzchar(plain)) shorten_text(plain, 120) else column
}

# An entry on one line where it fits, else a key a line.
entry_text <- function(name, keys, note = "", indent = "  ") {
  keys <- keys[!vapply(keys, is.null, TRUE)]
  pairs <- paste0(names(keys), ": ", unlist(keys))
  note <- if (nzchar(note)) paste0("   # ", comment_text(note)) else ""
  line <- paste0(indent, name, ": {", paste(pairs, collapse = ", "), "}")
  if (nchar(line) <= 110) return(paste0(line, note))
  c(paste0(indent, name, ":", note), paste0(indent, "  ", pairs))
}

entry_lines <- function(column, seen, plan) {
  one <- seen$columns[[column]]
  keys <- function(...) c(
    list(column = yaml_word(column), label = yaml_word(label_text(asked_in(one), column))),
    list(..., universe = universe_text(plan$skips[[column]], FALSE))
  )
  entry <- function(..., note = one$grounds) entry_text(plan$names[[column]], keys(...), note)
  switch(one$kind,
    key = if (plan$key == "numbered") entry(level = "identifier") else entry_text(
      plan$names[[column]], list(is = "key", label = yaml_word(label_text(asked_in(one), column)))
    ),
    record = entry(level = "identifier"),
    personal = entry(level = "text", private = "yes"),
    scale = , choice = coded_lines(one, entry, plan),
    number = if (seen$cells == "codes" && is_code_like(one)) bare_codes(one, entry) else
      number_lines(one, entry, seen),
    several = several_lines(one, plan$names[[column]], plan,
      universe_text(plan$skips[[column]], FALSE)),
    ticks = tick_lines(
      list(name = plan$names[[column]], columns = column, stem = asked_in(one)), seen, plan
    ),
    date = date_lines(one, entry),
    c(
      entry(level = "text"),
      if (is_write_in(column, one)) "    # the write-in of the question before it"
    )
  )
}

number_lines <- function(one, entry, seen) {
  if (!is.null(one$ranks)) return(entry(
    level = "ordinal", range = paste0("[1, ", one$ranks, "]"),
    note = paste("ranks:", count_of(one$ranks, "question"), "of one stem hold 1 to", one$ranks)
  ))
  range <- number_range(one, seen$form$decimal)
  c(
    entry(
      level = if (isTRUE(range$years)) "interval" else "ratio", range = range$text,
      variants = number_variants(one), missing = number_missing(one),
      note = paste0(one$grounds, far_counts(one))
    ),
    if (length(range$outside) > 0) paste0(
      "    # outside the range, which is a guess: ",
      comment_text(paste(range$outside, collapse = ", "))
    ),
    odd_lines(one, "    ", number_rest(one))
  )
}

# Round bounds around the bulk of the answers; what lies far off is named.
number_range <- function(one, decimal) {
  number <- text_to_number(one$cells$text, if (is.null(decimal)) "point" else decimal)
  keep <- !is.na(number) & !number %in% far_numbers(one)$number
  value <- number[keep]
  count <- one$cells$count[keep]
  if (length(value) < 2 || min(value) < 0) return(NULL)
  order <- order(value)
  at <- cumsum(count[order]) / sum(count)
  middle <- function(share) value[order][which(at >= share)[1]]
  years <- all(is_whole(value)) && middle(0.05) >= 1880 && middle(0.95) <= 2100
  high <- middle(0.95)
  far <- if (years) value < middle(0.05) - 60 | value > high + 5 else value > 4 * max(high, 1)
  if (sum(count[far]) > 0.02 * sum(count)) far[] <- FALSE
  top <- max(value[!far])
  text <-
    if (years) paste0("[", 10 * floor(min(value[!far]) / 10), ", ", number_to_text(top), "]") else
      paste0("[0, ", number_to_text(round_up(top)), "]")
  list(
    text = text, years = years,
    outside = paste0(number_to_text(value[far]), " (", grouped(count[far]), ")", recycle0 = TRUE)
  )
}

# 1, 2 or 5 times a power of ten.
round_up <- function(x) {
  if (x <= 0) return(1)
  steps <- c(1, 2, 5, 10) * 10^floor(log10(x))
  steps[steps >= x][1]
}

date_lines <- function(one, entry) {
  fit <- date_fit(one$cells)
  if (is.null(fit)) return(c(entry(level = "text"), "    # dates of no one pattern"))
  c(
    entry(level = fit$level, dates = if (!is.null(fit$pattern)) yaml_pattern(fit$pattern)),
    if (fit$doubtful) "    # the month may stand first: no cell tells"
  )
}

yaml_pattern <- function(pattern) if (grepl(":", pattern)) paste0("\"", pattern, "\"") else pattern

# The pattern that nearly all cells fit; ISO 8601 needs none.
date_fit <- function(cells) {
  days <- c(
    "dd/MM/yyyy", "d/M/yyyy", "dd.MM.yyyy", "d.M.yyyy", "dd-MM-yyyy", "d-M-yyyy", "MM/dd/yyyy",
    "M/d/yyyy", "MM-dd-yyyy", "M-d-yyyy", "yyyy/MM/dd"
  )
  share <- function(level, pattern) weighted_share(
    !is.na(text_to_date(cells$text, level, pattern)$value), cells$count
  )
  for (level in c("date", "datetime")) {
    if (share(level, NULL) >= 0.9) return(list(level = level, pattern = NULL, doubtful = FALSE))
    tried <- if (level == "date") days else as.vector(outer(
      days, c("HH:mm", "HH:mm:ss", "H:mm", "h:mm a"), paste
    ))
    fits <- vapply(tried, share, 0, level = level)
    if (max(fits) < 0.9) next
    best <- tried[which.max(fits)]
    other <- chartr("dM", "Md", best)
    return(list(
      level = level, pattern = best,
      doubtful = other %in% tried && other != best && fits[[other]] == max(fits)
    ))
  }
  NULL
}

# A few small whole numbers in a file of codes: codes whose labels are not here.
is_code_like <- function(one) {
  number <- text_to_number(one$cells$text)
  all(is_whole(number)) && length(number) <= 11 && min(number) >= 0 && max(number) <= 99
}

bare_codes <- function(one, entry) {
  number <- sort(text_to_number(one$cells$text))
  apart <- number[c(FALSE, diff(number) > 2)]
  entry(level = "ordinal",
    range = paste0("[", paste(number_to_text(range(number)), collapse = ", "), "]"), note = paste0(
    "codes without labels: say what they mean under `codes`", if (length(apart) > 0) paste0(
      "; ", number_to_text(apart[1]), " stands apart: a missing code?"
    )))
}

is_write_in <- function(column, one) grepl(
  "other|specify|andere|autre|otro|outro|altro|anders", text_fold(paste(column, one$question))
)

coded_lines <- function(one, entry, plan) {
  list <- list_of(one$name, plan)
  codes <- if (!is.null(one$range)) codes_text(list(codes = one$codes, labels = one$scale))
    else if (length(list[[1]]$columns) > 1) names(list) else codes_text(list[[1]])
  guessed <- length(list) > 0 && guessed_order(list[[1]])
  c(
    entry(level = if (one$kind == "scale") "ordinal" else "nominal", codes = codes,
      range = if (!is.null(one$range)) paste0("[", one$range[1], ", ", one$range[2], "]"),
      variants = variants_text(one), other = other_text(one, codes, plan),
      missing = own_missing_text(one),
      note = paste0(one$grounds, if (guessed) ", in the order of frequency: check it")),
    if (length(list) > 0 && length(list[[1]]$columns) == 1 && !is.null(list[[1]]$learnt)) paste0(
      "    # ", text_squeeze(list[[1]]$learnt)
    ),
    odd_lines(one, "    ")
  )
}

# Several texts that are no label, a few each: what people wrote beside the list.
other_text <- function(one, codes, plan) {
  odd <- one$odd[is.na(text_to_number(one$odd$text)), ]
  shared <- length(list_of(one$name, plan)) > 0 && length(list_of(one$name, plan)[[1]]$columns) > 1
  if (one$kind != "choice" || shared || NROW(odd) < 3 || any(grepl("^other", text_fold(one$scale))))
    return(NULL)
  paste0(
    "{code: ", max(one$codes) + 1, ", label: Other, text: ", substr(plan$names[[one$name]], 1, 26),
    "_words}"
  )
}

own_missing_text <- function(one) {
  if (length(one$missing) > 0) forms_text(lapply(one$missing, number_to_text))
}

# `near one of them` are proposed as variants; the rest is left to be found.
variants_text <- function(one) {
  variants <- one$variants
  if (NROW(variants) == 0) return(NULL)
  variants <- variants[text_fold(variants$text) != text_fold(variants$label), ]
  if (nrow(variants) == 0) return(NULL)
  by <- split(variants$text, factor(variants$label, unique(variants$label)))
  forms_text(by)
}

forms_text <- function(by) {
  paste0(
    "{",
    paste0(
      yaml_word(names(by)), ": [",
      vapply(by, function(forms) paste(yaml_word(forms), collapse = ", "), ""), "]", collapse = ", "
    ),
    "}"
  )
}

odd_lines <- function(one, indent, odd = one$odd) {
  if (NROW(odd) == 0) return(NULL)
  shown <- utils::head(odd, 6)
  paste0(indent, "# left as findings: ",
    comment_text(paste0(paste0("\u201c", shown$text, "\u201d (", shown$count, ")", collapse = ", "),
    if (nrow(odd) > 6) paste(" and", nrow(odd) - 6, "more"))))
}

number_words <- c(
  "zero", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven",
  "twelve", "none"
)

# Numbers as words or with a unit behind: what the text means, or NA.
number_meant <- function(text) {
  folded <- text_fold(text)
  word <- match(folded, number_words) - 1
  word[folded == "none"] <- 0
  unit <- text_to_number(stringi::stri_match_first_regex(
    folded,
    paste0(
      "^([0-9]+([.][0-9]+)?) ?(years?|yrs?|months?|weeks?|days?|hours?|hrs?|minutes?|mins?|",
      "times?|people|km|kg|cm|%)$"
    )
  )[, 2])
  ifelse(is.na(word), unit, word)
}

number_variants <- function(one) {
  meant <- number_meant(one$odd$text)
  if (all(is.na(meant))) return(NULL)
  value <- number_to_text(meant[!is.na(meant)])
  forms_text(split(one$odd$text[!is.na(meant)], factor(value, unique(value))))
}

number_rest <- function(one) one$odd[is.na(number_meant(one$odd$text)), ]

# 999 and its like, where they lie far from all other answers.
number_missing <- function(one) {
  far <- far_numbers(one)
  if (length(far$number) > 0) paste0(
    "{no_answer: [", paste(number_to_text(far$number), collapse = ", "), "]}"
  )
}

far_counts <- function(one) {
  far <- far_numbers(one)
  if (length(far$number) > 0) paste0(
    "; far from the others: ",
    paste0(number_to_text(far$number), " (", grouped(far$count), ")", collapse = ", ")
  )
}

far_numbers <- function(one) {
  number <- text_to_number(one$cells$text)
  usual <- c(
    -1, -2, -7, -8, -9, 97, 98, 99, -97, -98, -99, 997, 998, 999, -999, 9997, 9998, 9999, -9999,
    99999
  )
  others <- number[!is.na(number) & !number %in% usual]
  if (length(others) == 0) return(NULL)
  far <- number %in% usual & one$cells$count >= 2 & (
    number > 3 * max(others) | (number < 0 & min(others) >= 0)
  )
  list(number = number[far], count = one$cells$count[far])
}
