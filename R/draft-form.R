# The layout of a file: encoding, delimiter, title lines, heading rows. Found
# out once, for `look` and the draft; a build reads what the codebook says.

find_form <- function(file, sheet = NULL) {
  shown <- if (is.data.frame(file)) "data frame" else file
  reader <- reader_for(file, shown)
  form <- list(
    encoding = "UTF-8", delimiter = "comma", skip = 0, heading = "names", sheet = sheet,
    laid_out = reader$laid_out
  )
  if (reader$laid_out == "none") return(form)
  if (!is.null(reader$open)) return(
    find_sheet_form(open_sheet(reader, file, sheet, shown), form, shown)
  )
  head <- file_head(file, shown)
  on.exit(unlink(head$path))
  form <- utils::modifyList(form, find_layout(head))
  as_read <- utils::modifyList(form, list(encoding = "UTF-8"))
  find_heading(
    read_raw(head$path, as_read[c("heading", "skip", "delimiter", "encoding")], shown), form
  )
}

# The opened sheet goes along, so that whoever reads it next need not open it again.
find_sheet_form <- function(opened, form, shown) {
  read <- function() raw_of_grid(sheet_grid(opened$cells, opened$merged, form, shown), shown)
  top <- read()
  form$skip <- title_rows(top)
  structure(find_heading(if (form$skip > 0) read() else top, form), opened = opened)
}

# The first megabyte as a UTF-8 file of its own, cut at a line's end.
file_head <- function(file, shown) {
  bytes <- readBin(file, "raw", 2^20)
  whole <- length(bytes) == file.size(file)
  encoding <- find_encoding(bytes, whole)
  nul <- if (encoding != "UTF-16") which(bytes == as.raw(0))
  if (length(nul) > 0) stop_read(
    shown, 1 + sum(bytes[seq_len(nul[1])] == as.raw(10)),
    "a NUL byte: this is not a plain text file"
  )
  path <- tempfile(fileext = ".csv")
  writeBin(charToRaw(head_text(bytes, encoding, whole)), path)
  list(path = path, whole = whole, encoding = encoding)
}

find_layout <- function(head) {
  whole <- head$whole
  path <- head$path
  tries <- expand.grid(skip = 0:12, delimiter = names(delimiters), stringsAsFactors = FALSE)
  tried <- lapply(
    seq_len(nrow(tries)),
    function(row) read_cells(path, delimiters[[tries$delimiter[row]]], tries$skip[row], 0L)
  )
  records <- vapply(tried, function(cut) length(cut$lines), 0L)
  fields <- vapply(tried, `[[`, 0L, "expected")
  sound <- vapply(
    tried,
    function(cut) cut$problem == "" || (
      !whole && cut$problem == "unclosed" && length(cut$lines) > 20
    ),
    TRUE
  )
  good <- which(sound & fields > 1 & records > 1)
  if (length(good) > 0) best <- good[order(tries$skip[good], -fields[good])][1]
  else best <- order(!(fields > 1), -records, tries$skip)[1]
  if (all(fields <= 1)) best <- 1
  list(encoding = head$encoding, delimiter = tries$delimiter[best], skip = tries$skip[best])
}

head_text <- function(bytes, encoding, whole) {
  if (encoding == "UTF-16") {
    name <- utf16_order(bytes)
    text <- stringi::stri_replace_first_regex(
      decoded(bytes[seq_len(utf16_whole(bytes, name))], name), "^\\x{FEFF}", ""
    )
  } else {
    text <- decoded(whole_lines(bytes, whole), encoding)
  }
  if (!whole) text <- stringi::stri_replace_last_regex(text, "\n[^\n]*$", "\n")
  text
}

# Rows above the heading of a sheet: a title or two, nearly empty beside what follows.
title_rows <- function(top, most = 12) {
  cells <- vapply(
    top$columns, function(column) c(column$cells[column$index[seq_len(min(most, top$records))]]),
    character(min(most, top$records))
  )
  filled <- c(
    sum(!grepl("^Column [0-9]+$", top$names)),
    rowSums(matrix(nzchar(cells), ncol = length(top$columns)))
  )
  full <- which(filled >= 0.5 * max(filled))[1]
  if (full > 1 && all(filled[seq_len(full - 1)] <= 0.2 * max(filled))) full - 1 else 0
}

# A row of names below its questions: short, each once, and no answers.
is_names_row <- function(cells, first, top) {
  told <- nzchar(cells)
  if (mean(told) < 0.9 || mean(nchar(first) > 25 & grepl(" ", first)) < 0.3) return(FALSE)
  # Of few records the first may well hold what no other does.
  if (top$records < 12 && mean(grepl("[0-9_]", cells[told])) < 0.5 &&
    !any(above_numbers(cells, top))) return(FALSE)
  once <- mapply(
    function(column, cell) sum(column$index == match(cell, column$cells)) == 1, top$columns, cells
  )
  mean(once[told]) >= 0.9 && mean(nchar(cells[told]) <= 25) >= 0.9 &&
    mean(is.na(text_to_number(cells[told]))) >= 0.9 && mean(duplicated(cells[told])) < 0.2 &&
      mean(!grepl(" ", cells[told])) >= 0.6
}

# Which of the first rows are heading: rows whose cells are unlike those below.
find_heading <- function(top, form) {
  row <- function(record) vapply(
    top$columns, function(column) if (top$records >= record) column$cells[column$index[record]] else
      "", "",
    USE.NAMES = FALSE
  )
  first <- gsub("^Column [0-9]+$", "", sub(" \\([0-9]+\\)$", "", top$names))
  roles <- character()
  for (k in 1:2) {
    cells <- row(k)
    if (top$records <= k + 1) break
    if (k == 1 && is_names_row(cells, first, top)) roles <- "names"
    else if (!"marks" %in% roles && (is_marks(cells, top) || are_told_codes(cells, top))) roles <-
      c(roles, "marks")
    else if (k == 1 && is_options_row(cells, first, top)) roles <- c(roles, "options")
    else if (all(roles == "marks") && is_question_row(cells, top)) roles <- c(roles, "questions")
    else break
  }
  names_role <- if (any(c("options", "names") %in% roles)) "questions" else if (
    !"questions" %in% roles && mean(nchar(first) > 25 & grepl(" ", first)) > 0.5
  ) "questions" else "names"
  form$heading <- c(names_role, roles)
  form
}

# A row of the platform's own marks: signs that no two columns share, of one shape that
# no answer below has (`{"id": 12}`, `<q_12>`, `var-12`). Short names with a number
# (`Q12`, `Item 12`) are no marks.
is_marks <- function(cells, top) {
  told <- nzchar(cells)
  if (mean(told) < 0.5 || anyDuplicated(cells[told])) return(FALSE)
  shape <- shape_of(cells)
  shapes <- unique(shape[told])
  most <- shapes[which.max(tabulate(match(shape[told], shapes)))]
  # A moment or a range of numbers is an answer, words with blanks between them are a question.
  marked <- grepl("9", most) && grepl("[^a9 _.]", most) && !grepl("a( [^a9]*)? a", most) &&
    grepl("[^9/:,. -]", most)
  if (!marked) return(FALSE)
  alike <- told & shape == most
  unlike <- mapply(function(column, cell) {
    !any(shape_of(setdiff(utils::head(column$cells, 200), cell)) == most)
  }, top$columns[alike], cells[alike])
  sum(alike) > sum(told) / 2 && mean(unlike) >= 0.9
}

# A row of what codes stand for, `1=Yes; 2=No`, over columns that hold numbers: what somebody
# answered in this way stands over other texts.
are_told_codes <- function(cells, top) {
  told <- which(nzchar(cells))
  coded <- Filter(function(k) {
    signs <- stringi::stri_count_fixed(cells[k], "=")
    if (signs < 2 || is.null(labels_told(cells[k]))) return(FALSE)
    rest <- setdiff(utils::head(top$columns[[k]]$cells, 200), c(cells[k], ""))
    length(rest) > 0 && mean(!is.na(text_to_number(rest))) >= 0.5
  }, told)
  length(coded) >= 2 && length(coded) >= length(told) / 2
}

# Runs of letters as `a`, of digits as `9`, all else as it stands.
shape_of <- function(text) gsub("[0-9]+", "9", gsub("[[:alpha:]]+", "a", text))

# A row of questions: its cells stand nowhere below, and many are sentences or
# stand over numbers.
is_question_row <- function(cells, top) {
  told <- nzchar(cells)
  if (mean(told) < 0.5) return(FALSE)
  if (stands_apart(cells, top)) return(TRUE)
  once <- mapply(
    function(column, cell) sum(column$index == match(cell, column$cells)) == 1, top$columns, cells
  )
  # A moment or an amount is no sentence.
  sentence <- grepl(" ", cells) & nchar(cells) > 12 &
    stringi::stri_count_regex(cells, "\\p{L}") > nchar(cells) / 2
  unlike <- above_numbers(cells, top)
  repeats_name <- text_fold(cells) == text_fold(top$names)
  numbers <- !is.na(text_to_number(cells))
  mean(once[told]) >= 0.9 && mean((sentence | unlike | repeats_name)[told]) >= 0.5 &&
    mean(numbers[told]) < 0.1
}

above_numbers <- function(cells, top) is.na(text_to_number(cells)) & hold_numbers(top$columns)

hold_numbers <- function(columns) vapply(columns, function(column) {
  counts <- occurrences(column)
  weighted_share(!is.na(text_to_number(column$cells)), counts * nzchar(column$cells)) > 0.8
}, TRUE)

# A number among numbers is an answer, but for a row of years or places (`2024`, `2025`) below one
# question.
any_answer_below <- function(cells, question, top) {
  number <- text_to_number(cells)
  among <- !is.na(number) & hold_numbers(top$columns)
  any(vapply(split(seq_along(cells), question), function(places) {
    told <- number[places][nzchar(cells[places])]
    any(among[places]) && !are_places(told)
  }, TRUE))
}

are_places <- function(number) !anyNA(number) && (
  length(number) >= 2 && all(number >= 1900 & number <= 2100) ||
    length(number) >= 3 && all(diff(number) == 1)
)

# Options below questions: they stand under the blanks that follow a question, and below
# single questions there is nothing, or one word that is the same for all.
is_options_row <- function(cells, first, top) {
  # A heading that was merged over its columns stands over each of them.
  again <- nzchar(first) & c(FALSE, first[-1] == first[-length(first)])
  if (any(again) && any(nzchar(cells[!again & !c(again[-1], FALSE)]))) again[] <- FALSE
  first[again] <- ""
  blank <- !nzchar(first)
  if (!any(blank) || !nzchar(first[1]) && sum(nzchar(first)) == 0) return(FALSE)
  if (mean(nzchar(cells[blank])) < 0.6) return(FALSE)
  single <- nzchar(first) & !c(blank[-1], FALSE)
  if (any_answer_below(cells, cumsum(nzchar(first)), top)) return(FALSE)
  below <- unique(cells[single & nzchar(cells)])
  constant <- length(below) == 1 && sum(cells[single] == below) >= 2 && sum(single) >= 2
  ticks <- mapply(function(column, cell) {
    nzchar(cell) && all(column$cells %in% c(cell, ""))
  }, top$columns, cells)
  if (mean(ticks[blank]) >= 0.6) return(TRUE)
  (constant || mean(blank) >= 0.25 || !any(nzchar(cells[single]))) &&
    !looks_answered(cells, top, ticks)
}

# Over columns whose answers come again and again, a row of which no cell does: names
# above it that are mere numbers of questions make it the row of questions.
stands_apart <- function(cells, top) {
  names <- sub(" \\([0-9]+\\)$", "", top$names)
  if (mean(grepl("^[[:alpha:]]{1,5}[._ -]?[0-9]+([._-]?[0-9a-z]+)*$", names)) < 0.7) return(FALSE)
  repeating <- vapply(top$columns, function(column) {
    length(column$cells) <= 0.3 * top$records
  }, TRUE) & nzchar(cells)
  if (sum(repeating) < 2 || top$records < 12) return(FALSE)
  once <- mapply(
    function(column, cell) sum(column$index == match(cell, column$cells)) == 1,
    top$columns[repeating], cells[repeating]
  )
  mean(once) >= 0.9 && !anyDuplicated(cells[repeating]) &&
    mean(is.na(text_to_number(cells[repeating]))) > 0.9
}

# A box holds its option below as well, and tells nothing where other columns tell enough: those
# whose answers come again and again.
looks_answered <- function(cells, top, ticks) {
  again <- mapply(
    function(column, cell) sum(column$index == match(cell, column$cells)) > 1, top$columns, cells
  )
  told <- nzchar(cells)
  repeating <- lengths(lapply(top$columns, `[[`, "cells")) <= top$records / 4
  if (top$records >= 20 && sum(told & !ticks & repeating) >= 2) told <- told & !ticks
  mean(again[told]) > 0.3
}
