# The part of the scanner that reads texts: quoted, plain and in blocks.

scan_quoted <- function(scan) {
  quote <- stringi::stri_sub(rest_of_line(scan), 1, 1)
  opened <- scan$line
  step_over(scan, quote)
  inner <- if (quote == "'") "(?:[^']|'')*" else "(?:[^\"\\\\]|\\\\.|\\\\$)*"
  repeat {
    step_over(scan, piece(rest_of_line(scan), inner))
    if (starts(rest_of_line(scan), quote)) return(step_over(scan, quote))
    to_next_line(scan)
    if (scan$line > length(scan$lines)) {
      scan$line <- opened
      scan_lost(scan, "a quote is opened here and never closed")
    }
  }
}

scan_block_text <- function(scan, indent) {
  repeat {
    scan$column <- stringi::stri_length(scan$lines[scan$line]) + 1L
    following <- scan$line + 1L
    if (following > length(scan$lines)) return()
    text <- scan$lines[following]
    if (!starts(text, "[ \t]*$") && stringi::stri_length(piece(text, " *")) <= indent) return()
    scan$line <- following
  }
}

plain_block <- "(?:[^#:]|:(?=\\S)|(?<=\\S)#)*"

# Leaves the cursor behind the last character that is no space.
take_plain <- function(scan, pattern) {
  step_over(scan, stringi::stri_trim_right(piece(rest_of_line(scan), pattern)))
}

refuse_lost_comment <- function(scan, path) {
  rest <- rest_of_line(scan)
  if (!begins(rest, " ", "\t") || !starts(rest, "[ \t]+#[^\\s#]")) return()
  refuse(scan, path, "YAML takes `", stringi::stri_trim_both(rest),
    "` for a comment: put the text in quotes, or a space after # if it is one")
}

scan_plain_block <- function(scan, indent, path) {
  repeat {
    take_plain(scan, plain_block)
    rest <- rest_of_line(scan)
    refuse_lost_comment(scan, path)
    if (begins(rest, " ", "\t", ":") && starts(rest, "[ \t]*:")) scan_lost(
      scan, "a colon and a space inside a plain text: put it in quotes"
    )
    if (begins(rest, " ", "\t") && starts(rest, "[ \t]+#")) return()
    here <- c(scan$line, scan$column)
    to_next_line(scan)
    while (scan$line <= length(scan$lines) && is_blank_rest(rest_of_line(scan)))
      to_next_line(scan)
    if (scan$line <= length(scan$lines)) skip_spaces(scan)
    continues <- scan$line <= length(scan$lines) && indent_here(scan) > indent && !starts(
      rest_of_line(scan), "#"
    )
    if (!continues) {
      scan$line <- here[1]
      scan$column <- here[2]
      return()
    }
  }
}
