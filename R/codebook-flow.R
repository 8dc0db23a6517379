# The part of the scanner that reads lists and maps inside brackets.

plain_flow <- "(?:[^,\\[\\]{}#:]|:(?![\\s,\\[\\]{}]|$)|(?<=[^\\s,\\[\\]{}])#)*"

scan_plain_flow <- function(scan, path, opened) {
  repeat {
    take_plain(scan, plain_flow)
    refuse_lost_comment(scan, path)
    rest <- rest_of_line(scan)
    if (!is_blank_rest(rest)) return()
    here <- c(scan$line, scan$column)
    flow_next(scan, opened)
    if (begins(rest_of_line(scan), ",", "[", "]", "{", "}", ":")) {
      scan$line <- here[1]
      scan$column <- here[2]
      return()
    }
  }
}

# `opened` is the line and column of the bracket.
flow_next <- function(scan, opened) {
  if (!scan_next(scan)) scan_unclosed(scan, opened)
  rest_of_line(scan)
}

scan_unclosed <- function(scan, opened, before = NULL) {
  force(before)
  scan$line <- opened[1]
  bracket <- substr(scan$lines[opened[1]], opened[2], opened[2])
  end <- if (bracket == "{") "}" else "]"
  scan_lost(scan, paste0("`", bracket, "` is opened here, at column ", opened[2], ", and ",
    if (is.null(before)) "never closed" else paste0("not closed before line ", before,
      ", where another key begins"),
    ": put `", end, "` behind its last entry"))
}

# What follows an entry inside brackets: a comma, or the end of it. A new `key:` at
# a line's start means that the bracket before it was never closed.
flow_follow <- function(scan, opened, end) {
  rest <- flow_next(scan, opened)
  if (startsWith(rest, ",")) return(step_over(scan, ","))
  if (startsWith(rest, end)) return()
  if (begins_key(scan, opened)) scan_unclosed(scan, opened, scan$line)
  scan_lost(scan, paste0("a comma or `", end, "` is missing before `", shorten_text(rest, 20), "`"))
}

begins_key <- function(scan, opened) scan$line > opened[1] && starts(scan$lines[scan$line],
  paste0("[ \t]*", key_pattern))

scan_flow_map <- function(scan, path) {
  opened <- c(scan$line, scan$column)
  check_depth(scan, path)
  step_over(scan, "{")
  seen <- integer()
  repeat {
    rest <- flow_next(scan, opened)
    if (startsWith(rest, "}")) return(step_over(scan, "}"))
    if (begins(rest, "&", "*", "!")) refuse_marks(scan, path)
    key <- c(scan$line, scan$column)
    name <- scan_flow_key(scan, path, opened)
    seen <- scan_seen(scan, c(path, name), seen, name, key[1])
    if (startsWith(flow_next(scan, opened), ":")) {
      step_over(scan, ":")
      rest <- flow_next(scan, opened)
      if (begins(rest, ",", "}")) refuse_empty(scan, c(path, name), name) else
        with_mark(scan, c(path, name), key, TRUE, style_here(scan),
          scan_value(scan, 0L, c(path, name), flow = TRUE, opened = opened))
    } else {
      refuse_empty(scan, c(path, name), name)
    }
    flow_follow(scan, opened, "}")
  }
}

refuse_empty <- function(scan, path, name) {
  refuse(
    scan, path, "`", name,
    "` has no value: is it cut off by a comma? Put a text that holds a comma in quotes"
  )
}

scan_flow_key <- function(scan, path, opened) {
  rest <- rest_of_line(scan)
  if (begins(rest, "\"", "'") && starts(rest, quoted_text)) {
    return(scan_key(scan, piece(rest, quoted_text)))
  }
  from <- c(scan$line, scan$column)
  scan_plain_flow(scan, path, opened)
  if (scan$line == from[1] && scan$column == from[2]) scan_lost(scan, "a key is missing here")
  if (scan$line > from[1]) return(paste(stringi::stri_trim_both(c(
    stringi::stri_sub(scan$lines[from[1]], from[2]), stringi::stri_sub(
      scan$lines[scan$line], 1, scan$column - 1
    )
  )), collapse = " "))
  stringi::stri_sub(scan$lines[scan$line], from[2], scan$column - 1)
}

scan_flow_list <- function(scan, path) {
  opened <- c(scan$line, scan$column)
  check_depth(scan, path)
  step_over(scan, "[")
  item <- 0
  repeat {
    rest <- flow_next(scan, opened)
    if (startsWith(rest, "]")) return(step_over(scan, "]"))
    item <- item + 1
    inner <- c(path, item)
    if (startsWith(rest, ",")) scan_lost(scan, "an empty entry between commas")
    with_mark(scan, inner, NULL, TRUE, style_here(scan),
      scan_value(scan, 0L, inner, flow = TRUE, opened = opened))
    rest <- flow_next(scan, opened)
    if (startsWith(rest, ":")) {
      if (begins_key(scan, opened)) scan_unclosed(scan, opened, scan$line)
      refuse(
        scan, inner, "a key and a value inside [ ]: put { } around them, or the text in quotes"
      )
      step_over(scan, ":")
      rest <- flow_next(scan, opened)
      if (!begins(rest, ",", "]")) scan_value(scan, 0L, inner, flow = TRUE, opened = opened)
      rest <- flow_next(scan, opened)
    }
    flow_follow(scan, opened, "]")
  }
}
