# All paths of a parsed document, with the text of each leaf.
leaves <- function(value, path = character()) {
  if (is.list(value)) {
    names <- if (is.null(names(value))) seq_along(value) else names(value)
    return(unlist(Map(function(one, name) leaves(one, c(path, name)), value, names), recursive = FALSE, use.names = FALSE))
  }
  if (length(value) > 1) return(lapply(seq_along(value), function(i) list(path = c(path, i), text = value[i])))
  list(list(path = path, text = value))
}

text_at <- function(lines, mark) {
  if (mark$line == mark$end_line) return(substr(lines[mark$line], mark$column, mark$end_column - 1))
  paste(c(substring(lines[mark$line], mark$column), lines[seq_len(mark$end_line - mark$line - 1) + mark$line],
    substr(lines[mark$end_line], 1, mark$end_column - 1)), collapse = "\n")
}

# The scanner found every value where it stands: what it marks reads to the same value.
expect_places <- function(lines) {
  scan <- core$scan_yaml(lines)
  expect_null(scan$lost)
  expect_length(scan$refused, 0)
  document <- yaml::yaml.load(paste(lines, collapse = "\n"), handlers = core$text_handlers)
  all <- leaves(document)
  at <- vapply(all, function(leaf) match(c(core$path_id(leaf$path), core$path_id(c(leaf$path, 1))), scan$marks$id), c(0L, 0L))
  at <- ifelse(is.na(at[1, ]), at[2, ], at[1, ])
  names(all) <- vapply(all, function(leaf) paste(leaf$path, collapse = " > "), "")
  expect_equal(names(all)[is.na(at)], character())
  plain <- !scan$marks$style[at] %in% c("literal", "folded", "list", "flow list")
  read <- lapply(at[plain], function(k) yaml::yaml.load(text_at(lines, scan$marks[k, ]), handlers = core$text_handlers))
  expect_identical(core$with_names(read, names(all)[plain]), lapply(all[plain], `[[`, "text"))
  invisible(scan)
}

test_that("every value of a codebook is found where it stands", {
  expect_places(readLines(test_path("language.yml"), encoding = "UTF-8"))
  expect_places(readLines(system.file("choirs/choirs.yml", package = "mavik"), encoding = "UTF-8"))
  expect_places(c(
    "---", "# a comment", "\"quoted key\": 'it''s'", "'another ': \"a \\\"b\\\" # no comment\"",
    "long: a text that", "  goes on here", "  and here # ends", "list:", "- one", "- {a: 1, b: [x, 'y, z']}", "-   deep: 1", "    er: 2",
    "flow: {a: 1,", "  b: two words", "    over lines, c: [1,", "  2]}", "text: |", "  kept: as", "   it is", "", "after: x", "url: http://choirs.example/#a", "empty: {}"
  ))
})

test_that("the values in a random document are found where they stand", {
  set.seed(3)
  word <- function() sample(c("a", "b c", "'q: r'", "\"s, t\"", "010", "Yes", "~x", "-1", "x#y", "\u00e9"), 1)
  key <- function(i) paste0(sample(c("k", "key ", "1", "\u00fc"), 1), i)
  block <- function(depth, indent) {
    unlist(lapply(seq_len(sample(1:4, 1)), function(i) {
      pad <- strrep(" ", indent)
      if (depth > 2 || stats::runif(1) < 0.4) return(c(paste0(pad, key(i), ": ", word()), if (stats::runif(1) < 0.2) "# note", if (stats::runif(1) < 0.2) ""))
      if (stats::runif(1) < 0.3) return(paste0(pad, key(i), ": {", paste0(letters[1:3], ": ", replicate(3, word()), collapse = ", "), "}"))
      if (stats::runif(1) < 0.3) return(c(paste0(pad, key(i), ":"), paste0(pad, "  - ", replicate(3, word()))))
      c(paste0(pad, key(i), ":"), block(depth + 1, indent + 2))
    }))
  }
  for (i in 1:60) expect_places(block(0, 0))
})

test_that("what YAML would swallow is refused with its line and the way out", {
  cases <- list(
    list(c("a: 1", "if: !is_missing(x)"), 2, "tag"),
    list(c("a: 1", "b: &name text"), 2, "anchor"),
    list(c("a: 1", "b: *name"), 2, "anchor"),
    list(c("b:", "  <<: {c: 1}"), 2, "merge key"),
    list(c("a: 1", "b: 2", "a: 3"), 3, "occurs twice"),
    list(c("a: {x: 1, y: 2, x: 3}"), 1, "occurs twice"),
    list(c("a: 1", "label: Rank #1"), 2, "comment"),
    list(c("a: {label: Rank #1", "  }"), 1, "comment"),
    list(c("codes: {1: Refused, other}"), 1, "cut off by a comma"),
    list(c("a: {b: , c: 1}"), 1, "cut off by a comma"),
    list(c("a: 1", "b:", "c: 2"), 2, "has no value"),
    list(c("a:", "- x", "-", "- y"), 3, "has no value"),
    list(c("a: [x: 1]"), 1, "inside \\[ \\]")
  )
  for (case in cases) {
    text <- project_with(case[[1]])
    said <- message_of(read_codebook(file.path(text, "study.yml")), "mavik_codebook_error")
    expect_match(said, paste0("study.yml:", case[[2]], " .*", case[[3]]), info = paste(case[[1]], collapse = " / "))
  }
})

test_that("broken YAML is an error with its line", {
  cases <- list(
    list(c("a: 1", "b: 'open", "c: 2"), 2), list(c("a: 1", "b: [1, 2", "# c"), 2), list(c("a: 1", "\tb: 2"), 2), list(c("a: b: c"), 1),
    list(c("a: 1", "--- ", "b: 2"), 2), list(c("a: 1", "b: @x"), 2), list(c("a:", "    b: 1", "  c: 2"), 3), list("just a text", 1),
    list(c("a: 1", "\"\\q\": 2"), 2)
  )
  for (case in cases) {
    text <- project_with(case[[1]])
    expect_match(message_of(read_codebook(file.path(text, "study.yml")), "mavik_codebook_error"), paste0("study.yml:", case[[2]], ":"), info = paste(case[[1]], collapse = " / "))
  }
})

test_that("a codebook with any slip of the pen reads or is refused with its place", {
  text <- strsplit(paste(readLines(system.file("choirs/choirs.yml", package = "mavik"), encoding = "UTF-8"), collapse = "\n"), "")[[1]]
  slips <- c("{", "}", "[", "]", ":", ",", "#", "'", "\"", "-", " ", "\n", "!", "&", "*", "|", ">", "%", "@", "\t", "?", ": ", " #")
  set.seed(18)
  said <- vapply(seq_len(cases(80)), function(i) {
    at <- sample(length(text), 1)
    slipped <- switch(sample(3, 1), text[-at], append(text, sample(slips, 1), at), replace(text, at, sample(slips, 1)))
    message_of(core$compile_codebook(core$as_codebook(core$parse_lines(strsplit(paste(slipped, collapse = ""), "\n")[[1]], system.file("choirs/choirs.yml", package = "mavik")))))
  }, "")
  expect_equal(grep("^another error", said, value = TRUE), character())
  refused <- said[said != "no error"]
  expect_gt(length(refused), 0.3 * cases(80))
  expect_true(all(grepl("choirs.yml:[0-9]+", refused)))
})
