# The sheet on which people decide: a proposal a line, what it would write, and a
# column for the decision. Rejected lines stay on it, so that they do not come up again.

decision_columns <- c(
  "line", "match", "column", "wording", "variable", "effect", "grounds", "candidates", "writes",
  "decision", "note"
)

#' Write and read the decisions on a new wave
#'
#' @param alignment What [align_wave()] returned.
#' @param file Path ending in `.xlsx` (with a drop-down for the decision) or `.csv`;
#'   by default `sheets/align-WAVE.xlsx` in the project.
#' @return `write_decisions()` gives `file`, invisibly; `read_decisions()` a data frame of
#'   texts with `line`, `match`, `column`, `wording`, `variable`, `effect` (what the line changes,
#'   in words), `grounds`, `candidates`, `writes`, `decision` (`accept`, `reject`, the variable that
#'   the column is, the column in which the question stands, or empty) and `note`; `NULL` where
#'   there is no such file.
#' @section Errors: A sheet that lacks one of the columns that decide. Whether a decision is a
#'   variable or a column is looked at when it is used.
#' @examples
#' project <- demo_project(tempfile())
#' alignment <- align_wave(project, "autumn", file.path(project, "raw/autumn.xlsx"))
#' file <- write_decisions(alignment, tempfile(fileext = ".csv"))
#' read_decisions(file)$writes[2]
#' @export
write_decisions <- function(alignment, file = decision_file(alignment$file, alignment$wave)) {
  keep_own_options()
  check_sheet_file(file, compile_codebook(as_codebook(alignment$file)))
  sheet <- decision_rows(alignment)
  write_sheet(sheet, file, function(file) write_decision_book(sheet, alignment, file))
  invisible(file)
}

#' @rdname write_decisions
#' @export
read_decisions <- function(file) {
  keep_own_options()
  if (!file.exists(file)) return(NULL)
  # Nothing is left to decide: headings only.
  sheet <- tryCatch(read_sheet(
    file, list(project = getwd()), c("match", "column", "variable", "writes", "decision"),
    setdiff(decision_columns, c("match", "column", "variable", "writes", "decision")), shown = file
  ),
    mavik_read_error = function(e)
      if (grepl("only heading rows", conditionMessage(e), fixed = TRUE)) NULL else stop(e))
  if (is.null(sheet)) return(NULL)
  for (name in setdiff(decision_columns, names(sheet))) sheet[[name]] <- rep(
    "", length(sheet$decision)
  )
  folded <- text_fold(sheet$decision)
  sheet$decision <- ifelse(
    folded %in% c("accept", "accepted", "yes", "a"), "accept",
    ifelse(folded %in% c("reject", "rejected", "no", "r"), "reject", sheet$decision)
  )
  structure(as.data.frame(sheet[decision_columns]), places = at_line(file, sheet$.line))
}

decision_file <- function(codebook, wave) file.path(
  dirname(codebook), "sheets", paste0("align-", wave, ".xlsx")
)

# Open lines first, then those that were rejected.
decision_rows <- function(alignment) {
  open <- alignment$lines[setdiff(decision_columns, "note")]
  open$line <- number_to_text(open$line)
  open$note <- rep("", nrow(open))
  kept <- alignment$kept
  if (!is.null(kept) && nrow(kept) > 0) {
    kept$line <- rep("", nrow(kept))
    open <- rbind(open[decision_columns], kept[decision_columns])
  }
  open[decision_columns]
}

write_decision_book <- function(sheet, alignment, file) make_workbook(file, function(book) {
  rows <- seq_len(max(nrow(sheet), 1)) + 1
  add_text_sheet(
    book, "align", sheet, decision_widths[names(sheet)], c("decision", "note"), decision_notes
  )
  write_decision_words(book)
  offer_decisions(book, sheet, alignment, rows)
})

decision_notes <- c(
  line = "The number of the line, for --accept",
  match = "How the column and the question were brought together",
  column = "The column of the new file", wording = "Its question, as the file has it",
  variable = "The question of the codebook", effect = "What the line changes, in words",
  grounds = "Why it is proposed", candidates = "What else it could be, with how alike they are",
  writes = "What would stand in the codebook",
  decision = paste0("accept, reject, or what it is instead: choose from the list or type it. An ",
    "empty cell waits"),
  note = "Whatever should be kept beside the decision"
)

decision_widths <- c(
  line = 6, match = 20, column = 12, wording = 34, variable = 14, effect = 44, grounds = 36,
  candidates = 26, writes = 40, decision = 14, note = 18
)

# What can be chosen beside each line: accept, reject, and the questions that the column can be
# or the columns in which the question can stand. Any other text may be typed.
offer_decisions <- function(book, sheet, alignment, rows) {
  of <- function(match, what) unique(alignment$columns[[what]][alignment$columns$match %in% match])
  questions <- of(c("only_codebook", "possible"), "variable")
  columns <- of(c("only_new", "possible"), "column")
  offered <- list(neither = NULL, column = questions, question = columns, both = c(
    questions, setdiff(columns, questions)
  ))
  single <- sheet$column %in% alignment$columns$column & nzchar(sheet$column)
  lone <- sheet$variable %in% alignment$columns$variable & nzchar(sheet$variable)
  kind <- ifelse(single & lone, "both",
    ifelse(single, "column", ifelse(lone, "question", "neither")))
  for (name in unique(kind)) {
    words <- c("accept", "reject", offered[[name]])
    column <- 3 + match(name, names(offered))
    openxlsx::writeData(book, "words", words, startCol = column, colNames = FALSE)
    range <- list_range_of("words", column, 1, length(words))
    letter <- letters_of_column(match("decision", names(sheet)))
    here <- rows[seq_along(kind)][kind == name]
    check_cells(book, "align", paste0(letter, here, collapse = " "), range)
  }
}

# The sheet that explains what a decision can be; the lists to choose from stand right of it.
write_decision_words <- function(book) {
  words <- data.frame(
    decision = c("accept", "reject", "a variable", "a column"),
    meaning = c(
      "the line is written into the codebook at the next run",
      "the line is kept here and does not come up again",
      "beside a column of the new file: it is this question",
      "beside a question: it stands in this column of the new file"
    )
  )
  add_text_sheet(book, "words", words, c(14, 60))
  openxlsx::setColWidths(book, "words", 4:7, 16, hidden = rep(TRUE, 4))
}
