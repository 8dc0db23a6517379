# Drafted entries of variables and blocks.

variable_lines <- function(seen, plan) {
  c(
    if (plan$key == "numbered") "  respondent: {is: key, label: Number of the record}",
    if (!is.null(plan$waves)) paste0(
      "  wave: {is: wave, label: ", yaml_word(label_text("", plan$waves$column)), "}"
    ),
    question_lines(seen, plan)
  )
}

# The entries of the columns used, in their order.
question_lines <- function(seen, plan) {
  lines <- character()
  in_block <- unlist(lapply(plan$blocks, `[[`, "columns"))
  in_set <- unlist(lapply(plan$sets, function(set) c(set$columns, set$words)))
  for (column in plan$used) {
    if (column %in% in_set) {
      set <- Filter(function(set) set$columns[1] == column, plan$sets)
      if (length(set) > 0) lines <- c(lines, set_lines_drafted(set[[1]], seen, plan))
      next
    }
    skip <- plan$skips[[column]]
    first <- !column %in% in_block || any(vapply(
      plan$blocks, function(block) block$columns[1] == column, TRUE
    ))
    of <- Filter(function(block) column %in% block$columns, plan$blocks)
    if (!is.null(skip) && (first || !isTRUE(skip$block))) lines <- c(
      lines,
      paste0(
        "  # ", if (isTRUE(skip$block)) of[[1]]$name else plan$names[[column]], ": ",
        comment_text(skip_text(skip))
      )
    )
    if (column %in% in_block) {
      block <- Filter(function(block) block$columns[1] == column, plan$blocks)
      if (length(block) > 0) lines <- c(lines, block_lines(block[[1]], seen, plan))
    } else {
      lines <- c(lines, entry_lines(column, seen, plan))
    }
  }
  lines
}

list_of <- function(column, plan) Filter(function(list) column %in% list$columns, plan$lists)

# A list of several columns, or one that the codebook has already, is referred to by its name.
is_shared <- function(list) length(list$columns) > 1 || isTRUE(list$known)

block_lines <- function(block, seen, plan) {
  list <- list_of(block$columns[1], plan)
  shared <- is_shared(list[[1]])
  cells <- own_cells(seen$columns[[block$columns[1]]], seen)
  c(
    paste0("  ", block$name, ":"),
    if (nzchar(block$stem)) paste0("    stem: ", yaml_word(shorten_text(block$stem, 300))),
    paste0("    level: ", if (list[[1]]$kind == "scale") "ordinal" else "nominal"),
    paste0("    codes: ", if (shared) names(list) else codes_text(list[[1]])),
    if (!is.null(cells)) paste0("    cells: ", cells), universe_line(block$columns[1], plan),
    "    items:",
    unlist(lapply(block$columns, function(column) {
      profile <- seen$columns[[column]]
      other <- other_text(profile, list[[1]], plan)
      keys <- list(column = yaml_word(column),
        label = yaml_word(label_text(stem_of(asked_in(profile))[2], column)),
        variants = variants_text(profile), other = other, missing = own_missing_text(profile),
        universe = universe_text(plan$skips[[column]], FALSE),
        by_wave = absent_in_waves(column, plan))
      c(entry_text(plan$names[[column]], keys, indent = "      "),
        odd_lines(
          profile, "        ", left_odd(profile, plan), if (!is.null(other)) "taken as write-ins"
        ))
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
asked_in <- function(profile) plain_question(if (
  nzchar(profile$question) || !grepl(" ", profile$name)) profile$question else sub(
  " \\([0-9]+\\)$", "", profile$name
))

label_text <- function(question, column, width = 70) {
  plain <- without_told(plain_question(question))
  if (nzchar(plain)) cut_at_word(plain, width) else column
}

plain_question <- function(question) text_squeeze(
  stringi::stri_replace_all_regex(without_entities(stringi::stri_replace_all_regex(
    question, "<[/!]?[A-Za-z][^<>]*>", " "
  )), "[\u200b\u200c\u2060\ufeff\u00ad]", "")
)

# `&amp;` and its like, as a page has them.
without_entities <- function(text) {
  if (!any(grepl("&", text, fixed = TRUE))) return(text)
  named <- c(`&nbsp;` = " ", `&lt;` = "<", `&gt;` = ">", `&quot;` = "\"", `&apos;` = "'",
    `&rsquo;` = "\u2019", `&lsquo;` = "\u2018", `&ldquo;` = "\u201c", `&rdquo;` = "\u201d",
    `&ndash;` = "\u2013", `&mdash;` = "\u2014", `&hellip;` = "\u2026")
  coded <- unique(unlist(stringi::stri_extract_all_regex(text, "&#(x[0-9A-Fa-f]+|[0-9]+);")))
  coded <- coded[!is.na(coded)]
  digits <- gsub("&#x?|;", "", coded)
  number <- suppressWarnings(as.integer(digits))
  hexadecimal <- grepl("x", coded, fixed = TRUE)
  number[hexadecimal] <- strtoi(digits[hexadecimal], 16L)
  known <- !is.na(number) & number >= 32 & number < 55296
  named <- c(named, with_names(intToUtf8(number[known], multiple = TRUE), coded[known]))
  # What an ampersand's own name hides comes last.
  stringi::stri_replace_all_fixed(
    text, c(names(named), "&amp;"), c(named, "&"), vectorize_all = FALSE
  )
}

cut_at_word <- function(text, width) {
  if (nchar(text) <= width) return(text)
  head <- sub("[ ,;:(]+[^ ]*$", "", substr(text, 1, width))
  paste0(head, "\u2026")
}

# The whole text, where the label is a part of it and the file has no row of questions.
question_text <- function(column, seen) {
  plain <- plain_question(asked_in(column))
  if (nchar(plain) > 70 && !"questions" %in% seen$form$heading) yaml_word(plain)
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
  profile <- seen$columns[[column]]
  keys <- function(...) c(
    list(
      column = yaml_word(column), label = yaml_word(label_text(asked_in(profile), column)),
      question = question_text(profile, seen)
    ),
    list(
      ..., universe = universe_text(plan$skips[[column]], FALSE),
      by_wave = if (profile$kind != "key") absent_in_waves(column, plan)
    )
  )
  entry <- function(..., note = profile$grounds) entry_text(plan$names[[column]], keys(...), note)
  switch(profile$kind,
    key = if (plan$key == "numbered") entry(level = "identifier") else entry_text(
      plan$names[[column]], list(
        is = "key", label = yaml_word(label_text(asked_in(profile), column)))
    ),
    record = , identifier = entry(level = "identifier"),
    personal = entry(level = "text", private = "yes"),
    scale = , choice = coded_lines(profile, entry, seen, plan),
    number = number_lines(profile, with_own_gaps(entry, profile), seen),
    several = several_lines(profile, plan$names[[column]], plan,
      universe_text(plan$skips[[column]], FALSE)),
    ticks = tick_lines(
      list(name = plan$names[[column]], columns = column, stem = asked_in(profile)), seen, plan
    ),
    date = date_lines(profile, entry),
    c(
      entry(level = "text"),
      if (is_write_in(column, profile)) "    # the write-in of the question before it"
    )
  )
}
