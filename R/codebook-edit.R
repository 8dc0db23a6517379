# Edits of a codebook's text in place: comments, order and quoting stay. Each
# edit scans anew, so that positions are always those of the text at hand.

# Puts `key: value` into the map at `path`; into its own map where both are maps.
text_add_pair <- function(lines, path, key, value) {
  marks <- scan_yaml(lines)$marks
  place <- match(path_id(path), marks$id)
  if (is.na(place)) stop_mavik(
    "codebook_error", paste(path, collapse = " > "), ": there is no such place in the codebook"
  )
  mark <- marks[place, ]
  pair <- paste0(yaml_word(key), ": ", value)
  if (mark$style == "flow map") return(insert_before_end(lines, mark, pair))
  inner <- marks[startsWith(marks$id, paste0(mark$id, "\u001f")), ]
  children <- inner[lengths(strsplit(inner$id, "\u001f", fixed = TRUE)) == length(path) + 1, ]
  last <- max(inner$end_line[!inner$style %in% c("map", "list")])
  append(lines, paste0(strrep(" ", children$key_column[1] - 1), pair), last)
}

# Puts texts at the end of the list at `path`.
text_add_item <- function(lines, path, items) {
  words <- yaml_word(items)
  marks <- scan_yaml(lines)$marks
  mark <- marks[match(path_id(path), marks$id), ]
  if (mark$style == "flow list") return(insert_before_end(lines, mark,
    paste(words, collapse = ", ")))
  if (mark$style == "list") {
    inner <- marks[startsWith(marks$id, paste0(mark$id, "\u001f")), ]
    return(append(lines, paste0(strrep(" ", inner$key_column[1] - 1), "- ", words),
      max(inner$end_line)))
  }
  if (mark$style %in% c("literal", "folded")) {
    held <- yaml::yaml.load(paste(lines, collapse = "\n"), handlers = text_handlers,
      eval.expr = FALSE)
    return(text_set(lines, path, c(text_trim(value_at(held, path)), items)))
  }
  if (mark$line != mark$end_line) return(text_set(lines, path,
    c(value_at(yaml::yaml.load(paste(lines, collapse = "\n"), handlers = text_handlers,
    eval.expr = FALSE), path), items)))
  line <- lines[mark$line]
  old <- substr(line, mark$column, mark$end_column - 1)
  lines[mark$line] <- paste0(substr(line, 1, mark$column - 1), "[", old, ", ",
    paste(words, collapse = ", "), "]", substring(line, mark$end_column))
  lines
}

value_at <- function(document, path) {
  for (key in path) document <- document[[if (is.null(names(document))) as.integer(key) else key]]
  document
}

insert_before_end <- function(lines, mark, text) {
  line <- lines[mark$end_line]
  before <- substr(line, 1, mark$end_column - 2)
  empty <- grepl("[[{][ \t]*$", before)
  lines[mark$end_line] <- paste0(
    sub("[ \t]+$", "", before), if (!empty) ", ", text, substring(line, mark$end_column - 1)
  )
  lines
}

# New entries behind the last of a section.
text_add_entries <- function(lines, section, entries) {
  marks <- scan_yaml(lines)$marks
  inner <- marks[
    startsWith(marks$id, paste0(section, "\u001f")) & !marks$style %in% c("map", "list"),
  ]
  append(lines, entries, max(inner$end_line))
}

# What changed between two texts: `line` (of the old text for `-`, of the new
# for `+`), `change` and `text`.
text_change <- function(old, new) {
  row <- function(change, line, text) list(change = change, line = as.integer(line), text = text)
  out <- list()
  i <- j <- 1L
  while (i <= length(old) || j <= length(new)) {
    if (i <= length(old) && j <= length(new) && old[i] == new[j]) {
      i <- i + 1L
      j <- j + 1L
      next
    }
    # The next pair of equal lines; of several the nearest.
    later <- match(
      old[seq.int(i, length.out = max(length(old) - i + 1L, 0L))],
      new[seq.int(j, length.out = max(length(new) - j + 1L, 0L))]
    )
    steps <- seq_along(later) + later
    meet <- if (all(is.na(later))) NA else which.min(steps)
    gone <- if (is.na(meet)) length(old) - i + 1L else meet - 1L
    come <- if (is.na(meet)) length(new) - j + 1L else later[meet] - 1L
    out <- c(
      out, lapply(seq_len(gone) - 1L, function(k) row("-", i + k, old[i + k])),
      lapply(seq_len(come) - 1L, function(k) row("+", j + k, new[j + k]))
    )
    i <- i + gone
    j <- j + come
  }
  data.frame(
    change = vapply(out, `[[`, "", "change"), line = vapply(out, `[[`, 0L, "line"),
    text = vapply(out, `[[`, "", "text")
  )
}

# Puts another value in the place of the one at `path`.
text_set <- function(lines, path, value) {
  marks <- scan_yaml(lines)$marks
  mark <- marks[match(path_id(path), marks$id), ]
  key <- path[length(path)]
  text <- flow_text(value, key, top = !mark$flow)
  if (!mark$style %in% c("map", "list", "literal", "folded")) {
    before <- substr(lines[mark$line], 1, mark$column - 1)
    after <- substring(lines[mark$end_line], mark$end_column)
    return(append(lines[-(mark$line:mark$end_line)], paste0(before, text, after), mark$line - 1))
  }
  last <- last_line(marks, mark)
  head <- paste0(strrep(" ", mark$key_column - 1), scalar_text(key), ": ", text)
  append(lines[-(mark$key_line:last)], head, mark$key_line - 1)
}

# Takes a key and its value out, with the lines or the piece of line they stand on.
text_remove <- function(lines, path) {
  marks <- scan_yaml(lines)$marks
  mark <- marks[match(path_id(path), marks$id), ]
  if (!mark$flow) return(lines[-(mark$key_line:last_line(marks, mark))])
  before <- substr(lines[mark$key_line], 1, mark$key_column - 1)
  after <- substring(lines[mark$end_line], mark$end_column)
  if (grepl("^[ \t]*,", after)) after <- sub("^[ \t]*,[ \t]*", "", after) else before <- sub(
    ",[ \t]*$", "", before
  )
  append(lines[-(mark$key_line:mark$end_line)], paste0(before, after), mark$key_line - 1)
}

# Puts a key behind the one called `after`, first where there is none.
text_insert <- function(lines, path, key, value, after) {
  marks <- scan_yaml(lines)$marks
  if (length(path) == 0) {
    last <- if (is.null(after)) 0L else last_line(marks, marks[match(path_id(after), marks$id), ])
    return(append(lines, yaml_block(value, key, "", deep = is_map(value)), last))
  }
  parent <- marks[match(path_id(path), marks$id), ]
  if (parent$style == "flow map") {
    text <- paste0(scalar_text(key), ": ", flow_text(value, key))
    if (is.null(after)) {
      line <- lines[parent$line]
      lines[parent$line] <- paste0(
        substr(line, 1, parent$column), text, ", ", substring(line, parent$column + 1)
      )
      return(lines)
    }
    mark <- marks[match(path_id(c(path, after)), marks$id), ]
    line <- lines[mark$end_line]
    lines[mark$end_line] <- paste0(
      substr(line, 1, mark$end_column - 1), ", ", text, substring(line, mark$end_column)
    )
    return(lines)
  }
  first <- marks[startsWith(marks$id, paste0(parent$id, "\u001f")), ][1, ]
  above <- if (is.null(after)) first$key_line - 1L else last_line(
    marks, marks[match(path_id(c(path, after)), marks$id), ]
  )
  append(lines, yaml_block(value, key, strrep(" ", first$key_column - 1)), above)
}

# The last line of a value, however deep it goes.
last_line <- function(marks, mark) {
  inner <- marks[
    startsWith(marks$id, paste0(mark$id, "\u001f")) & !marks$style %in% c("map", "list"),
  ]
  max(c(inner$end_line, if (!mark$style %in% c("map", "list")) mark$end_line))
}

# Texts as they can stand inside { } or [ ].
yaml_word <- function(text) vapply(text_squeeze(text), scalar_text, "", USE.NAMES = FALSE)
