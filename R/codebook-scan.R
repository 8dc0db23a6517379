# Where every key and value of a YAML text stands. The values themselves come
# from the yaml package; this scanner adds line and column, how a value is
# written, and refuses what YAML would swallow without a word.

scan_yaml <- function(lines) lately("scan", lines, scan_lines)

scan_lines <- function(lines) {
  lines <- stringi::stri_replace_last_regex(lines, "\r$", "")
  scan <- new.env()
  scan$lines <- lines
  scan$line <- 1L
  scan$column <- 1L
  scan$marks <- list()
  scan$refused <- list()
  lost <- tryCatch({
    if (scan_next(scan)) {
      scan_directives(scan)
      if (scan_next(scan)) scan_block(scan, -1L, character())
      if (scan_next(scan)) scan_lost(scan)
    }
    NULL
  }, mavik_scan_lost = function(e) e)
  list(marks = scan_table(scan$marks), refused = scan$refused, lost = lost)
}

# The mark of a path; of the nearest one above it where the path has none.
mark_of <- function(marks, path) {
  for (length in rev(seq_along(path))) {
    at <- match(path_id(path[seq_len(length)]), marks$id)
    if (!is.na(at)) return(marks[at, ])
  }
  NULL
}

path_id <- function(path) paste(path, collapse = "\u001f")

scan_table <- function(marks) {
  column <- function(name, none) vapply(marks, function(mark) mark[[name]], none)
  data.frame(
    id = column("id", ""), key_line = column("key_line", 0L), key_column = column("key_column", 0L),
    line = column("line", 0L), column = column("column", 0L), end_line = column("end_line", 0L),
    end_column = column("end_column", 0L), style = column("style", ""), flow = column("flow", TRUE)
  )
}

rest_of_line <- function(scan) substr(scan$lines[scan$line], scan$column, 1e6L)
starts <- function(text, pattern) grepl(paste0("^(?:", pattern, ")"), text, perl = TRUE)
# What the first character tells needs no pattern.
begins <- function(text, ...) substr(text, 1L, 1L) %in% c(...)
begins_item <- function(text) begins(text, "-") && starts(text, "-([ \t]|$)")
begins_comment <- function(text) !nzchar(text) || begins(text, "#")
is_blank_rest <- function(text) begins(text, "", " ", "\t") && starts(text, "[ \t]*$")
piece <- function(text, pattern) substr(
  text, 1L, attr(regexpr(paste0("^(?:", pattern, ")"), text, perl = TRUE), "match.length")
)

scan_lost <- function(
  scan,
  why =
    paste0(
      "this line is no `key: value` and no part of what stands above: is a colon missing, a ",
      "quote, or the indent off?"
    )
) {
  stop(structure(
    class = c("mavik_scan_lost", "error", "condition"),
    list(message = why, call = NULL, line = min(scan$line, length(scan$lines)))
  ))
}

refuse <- function(scan, path, ..., line = scan$line) {
  scan$refused[[length(scan$refused) + 1]] <- list(line = line, path = path, message = paste0(...))
}

step_over <- function(scan, text) scan$column <- scan$column + nchar(text)
first_here <- function(scan) substr(scan$lines[scan$line], scan$column, scan$column)
skip_spaces <- function(scan) if (first_here(scan) %in% c(" ", "\t")) step_over(
  scan, piece(rest_of_line(scan), "[ \t]*")
)
to_next_line <- function(scan) {
  scan$line <- scan$line + 1L
  scan$column <- 1L
}

# To the next thing that is not blank and no comment; FALSE at the end.
scan_next <- function(scan) {
  while (scan$line <= length(scan$lines)) {
    # Most often something stands right here, and no pattern is needed to see that.
    if (!first_here(scan) %in% c("", " ", "\t", "#")) return(TRUE)
    if (!starts(rest_of_line(scan), "[ \t]*(#.*)?$")) {
      skip_spaces(scan)
      return(TRUE)
    }
    to_next_line(scan)
  }
  FALSE
}

indent_here <- function(scan) scan$column - 1L

scan_directives <- function(scan) {
  if (starts(rest_of_line(scan), "%")) scan_lost(
    scan, "YAML directives (`%`) are not part of a codebook: take the line out"
  )
  if (starts(rest_of_line(scan), "---[ \t]*(#.*)?$")) to_next_line(scan)
  again <- which(starts(scan$lines, "(---|\\.\\.\\.)([ \t]|$)"))
  again <- again[again >= scan$line]
  if (length(again) > 0) {
    scan$line <- again[1]
    scan_lost(scan, "a second YAML document begins here: a codebook is one document")
  }
}

plain_key <- "[^\\s\\[\\]{},\"'#&*!|>%@`](?:[^#:]|:(?=\\S)|(?<=\\S)#)*?(?=[ \t]*:(?:[ \t]|$))"
quoted_text <- "\"(?:[^\"\\\\]|\\\\.)*\"|'(?:[^']|'')*'"
key_pattern <- paste0("(?:", plain_key, "|(?:", quoted_text, ")(?=[ \t]*:(?:[ \t]|$)))")

scan_block <- function(scan, parent, path) {
  rest <- rest_of_line(scan)
  check_depth(scan, path)
  if (begins_item(rest)) return(scan_block_list(scan, path))
  if (starts(rest, key_pattern) || begins(rest, "&", "*", "!")) return(scan_block_map(scan, path))
  scan_value(scan, parent, path, flow = FALSE)
}

# Before R's own stack ends.
check_depth <- function(scan, path) if (length(path) > 24) scan_lost(scan,
  "nested deeper than any codebook is: a bracket or an indent too many?")

# Scans one value and keeps where it began, where it ended and how it is written.
with_mark <- function(scan, path, key, flow, style, expr) {
  at <- length(scan$marks) + 1
  scan$marks[[at]] <- list(
    id = path_id(path), key_line = if (is.null(key)) scan$line else key[1],
    key_column = if (is.null(key)) scan$column else key[2],
    line = scan$line, column = scan$column, style = style, flow = flow, end_line = 0L,
    end_column = 0L
  )
  force(expr)
  scan$marks[[at]]$end_line <- scan$line
  scan$marks[[at]]$end_column <- scan$column
}

scan_block_map <- function(scan, path) {
  indent <- indent_here(scan)
  seen <- integer()
  repeat {
    rest <- rest_of_line(scan)
    if (begins(rest, "&", "*", "!")) refuse_marks(scan, path)
    if (!starts(rest, key_pattern)) scan_lost(scan)
    key <- c(scan$line, scan$column)
    name <- scan_key(scan, piece(rest, key_pattern))
    seen <- scan_seen(scan, c(path, name), seen, name, key[1])
    skip_spaces(scan)
    step_over(scan, ":")
    scan_entry(scan, indent, c(path, name), key)
    if (!scan_next(scan) || indent_here(scan) < indent) return()
    if (indent_here(scan) > indent) scan_lost(scan)
  }
}

scan_key <- function(scan, token) {
  step_over(scan, token)
  if (begins(token, "\"", "'")) return(yaml::yaml.load(
    token, handlers = text_handlers, eval.expr = FALSE
  ))
  token
}

# `seen` are the lines of the keys so far, by name.
scan_seen <- function(scan, path, seen, name, line) {
  if (name %in% names(seen)) {
    refuse(scan, path, "the key `", name, "` occurs twice, in ",
      if (seen[[name]] == line) paste("line", line) else paste("lines", seen[[name]], "and", line),
      ": YAML would keep one of them; keep one", line = line)
  }
  if (name == "<<") refuse(
    scan, path, "merge keys (`<<`) are not part of the language: write the keys out", line = line
  )
  c(seen, with_names(line, name))
}

refuse_marks <- function(scan, path) {
  rest <- rest_of_line(scan)
  word <- piece(rest, "\\S+")
  if (begins(rest, "!")) {
    refuse(
      scan, path, "YAML takes `", word,
      "` for a tag and drops it: put the text or condition in quotes"
    )
  } else {
    refuse(
      scan, path, "anchors and references (`", word,
      "`) are not part of the language: write it out, or put it in quotes"
    )
  }
}

# What follows `key:` or `-` in block style.
scan_entry <- function(scan, indent, path, key, in_list = FALSE) {
  skip_spaces(scan)
  if (!begins_comment(rest_of_line(scan))) {
    return(with_mark(
      scan, path, key, FALSE, style_here(scan), scan_value(scan, indent, path, flow = FALSE)
    ))
  }
  empty_line <- scan$line
  found <- scan_next(scan)
  deeper <- found && indent_here(scan) > indent
  list_below <- found && !in_list && indent_here(scan) == indent && begins_item(rest_of_line(scan))
  if (!deeper && !list_below) {
    return(refuse(
      scan, path, "`", path[length(path)], "` has no value: give it one, or take it out",
      line = empty_line
    ))
  }
  with_mark(scan, path, key, FALSE, style_here(scan, block = TRUE), scan_block(scan, indent, path))
}

style_here <- function(scan, block = FALSE) {
  rest <- rest_of_line(scan)
  if (block && begins_item(rest)) return("list")
  if (block && starts(rest, key_pattern)) return("map")
  switch(stringi::stri_sub(rest, 1, 1),
    "{" = "flow map", "[" = "flow list", "\"" = "double", "'" = "single", "|" = "literal",
    ">" = "folded", "plain"
  )
}

scan_block_list <- function(scan, path) {
  indent <- indent_here(scan)
  item <- 0
  repeat {
    item <- item + 1
    inner <- c(path, item)
    key <- c(scan$line, scan$column)
    step_over(scan, "-")
    skip_spaces(scan)
    rest <- rest_of_line(scan)
    if (starts(rest, key_pattern) || begins_item(rest)) {
      with_mark(
        scan, inner, key, FALSE, style_here(scan, block = TRUE), scan_block(scan, indent, inner)
      )
    } else {
      scan_entry(scan, indent, inner, key, in_list = TRUE)
    }
    if (!scan_next(scan) || indent_here(scan) < indent) return()
    if (indent_here(scan) > indent || !begins_item(rest_of_line(scan))) {
      if (indent_here(scan) == indent) return()
      scan_lost(scan)
    }
  }
}

scan_value <- function(scan, indent, path, flow, opened = NULL) {
  rest <- rest_of_line(scan)
  first <- stringi::stri_sub(rest, 1, 1)
  if (first %in% c("!", "&", "*")) refuse_marks(scan, path)
  if (first == "{") return(scan_flow_map(scan, path))
  if (first == "[") return(scan_flow_list(scan, path))
  if (first %in% c("\"", "'")) return(scan_quoted(scan))
  if (first %in% c("|", ">") && !flow) return(scan_block_text(scan, indent))
  if (first %in% c("|", ">", "%", "@", "`")) scan_lost(
    scan, paste0("a plain text cannot begin with `", first, "`: put it in quotes")
  )
  if (flow) scan_plain_flow(scan, path, opened) else scan_plain_block(scan, indent, path)
}
