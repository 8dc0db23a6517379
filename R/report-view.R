#' A page of the data
#'
#' Writes the records as one page that opens in any browser, without a server and without the
#' network: a table of labels or codes, of values or raw cells, with gaps by their reason; a cell
#' tells its story, a heading its variable, a record is a form; filters, sorting, and the present
#' rows as CSV.
#'
#' @param codebook A study, a codebook, or what [read_codebook()] takes. A study that was built
#'   from data frames needs them again, as `exports`.
#' @param file Where to write, `.html`; by default `view.html` in the project.
#' @param where A condition in the codebook's language: only the records for which it is true.
#' @param variables Variables and blocks that are on the page; all that are not private if not
#'   said. Those that they are made of come along, out of sight.
#' @param sample How many records at most; above, a sample of records at even distances, which
#'   the page names as one. 20,000, and fewer beyond 200 variables, if not said.
#' @param exports Data frames in place of files, as in [build_study()].
#' @param replace Whether a file of another make that stands there may be replaced.
#' @return A list, invisibly: `file`, `records` (on the page), `of` (chosen records), `sampled`,
#'   `variables` (shown), `bytes`.
#' @section Privacy: Private variables, and what is made of them, are not in the file in any form,
#'   neither as values nor as raw cells; where the key is private records have numbers. Texts of
#'   more than 10,000 characters are cut, and say so.
#' @section Errors: A private variable asked for by name; a condition that leaves no record;
#'   those of [build_study()].
#' @examples
#' done <- view_study(demo_project(tempfile()), tempfile(fileext = ".html"))
#' done$records
#' @export
view_study <- function(
  codebook, file = NULL, where = NULL, variables = NULL, sample = NULL, exports = list(),
  replace = FALSE
) {
  keep_own_options()
  study <- study_with(codebook, NULL, exports, ledger = TRUE)
  exports <- frames_given(codebook, exports, study$book)
  if (is.null(file)) file <- view_file(study$book)
  if (!is_text(file) || !grepl("[.]html?$", file, ignore.case = TRUE)) stop_mavik(
    "write_error", file, ": the page is written as .html"
  )
  check_may_write(file, raw_places(study$book), replace)
  names <- view_names(variables, study)
  chosen <- view_rows(study, where, sample, length(names))
  read <- inputs_of_study(codebook, exports)
  data <- view_of(study, read$inputs, read$book, chosen$rows, names)
  data$meta$choice <- list(
    where = if (is.null(where)) "" else text_squeeze(where), of = chosen$of,
    sampled = chosen$sampled
  )
  write_page(view_page(study$book, data), file)
  invisible(list(
    file = file, records = length(chosen$rows), of = chosen$of, sampled = chosen$sampled,
    variables = length(names), bytes = file.size(file)
  ))
}

view_file <- function(book) {
  if (is.null(book$file)) stop_mavik(
    "usage_error", "say where to write: this codebook has no folder"
  )
  file.path(dirname(book$file), "view.html")
}

view_names <- function(variables, study) {
  book <- study$book
  hidden <- private_variables(book)
  known <- names(Filter(function(variable) !isTRUE(variable$carrier), book$variables))
  if (is.null(variables)) return(setdiff(known, hidden))
  names <- unique(unlist(lapply(variables, named_variables, book = book)))
  private <- intersect(names, hidden)
  if (length(private) > 0) stop_mavik(
    "build_error", some_of(private), if (length(private) == 1) " is" else " are",
    " private: nothing of it can be on the page"
  )
  intersect(known, names)
}

# Records that are chosen, at even distances where they are too many.
view_rows <- function(study, where, sample, variables) {
  if (!is.null(sample) && (!is.numeric(sample) || length(sample) != 1 || is.na(sample) ||
    sample < 1)) stop_mavik("usage_error", "`sample` must be a number of records, 1 or more")
  rows <- seq_len(nrow(study$data))
  if (!is.null(where)) rows <- which(truth_of(checked_condition(where, study$book), study))
  if (length(rows) == 0) stop_mavik(
    "build_error", "the choice leaves no record: there is nothing to show"
  )
  most <- min(view_limit$records, floor(view_limit$cells / max(variables, 1)))
  if (!is.null(sample)) most <- min(floor(sample), most)
  of <- length(rows)
  if (of > most) rows <- rows[round((seq_len(most) - 0.5) * of / most + 0.5)]
  list(rows = rows, of = of, sampled = of > most)
}

# The raw cells of all exports, as a build reads them.
inputs_of_study <- function(codebook, exports) {
  book <- if (inherits(codebook, "mavik_study")) compile_codebook(as_codebook(codebook)) else
    known_book(codebook)
  book$exports <- locate_exports(book, exports)
  book <- with_sheets(book, exports)
  list(book = book, inputs = match_parallels(read_inputs(book), book))
}

view_page <- function(book, data) {
  parts <- list(
    title = htmltools::htmlEscape(book$study$title), css = page_file("view.css"),
    js = page_file("view.js"), data = packed_data(data)
  )
  # What is put in is not looked through again.
  page <- page_file("view.html")
  pieces <- regmatches(page, gregexpr("[{](title|css|js|data)[}]", page), invert = TRUE)[[1]]
  names <- gsub("[{}]", "", regmatches(page, gregexpr("[{](title|css|js|data)[}]", page))[[1]])
  paste(c(rbind(pieces, c(unlist(parts[names]), ""))), collapse = "")
}

# Words as JSON, arrays as whole numbers of one, two or four bytes, deflated: base64 holds
# nothing that a browser could take for markup.
packed_data <- function(data) {
  width <- vapply(data$arrays, function(numbers) {
    most <- if (length(numbers) == 0) 0L else max(numbers)
    if (most < 256L) 1L else if (most < 65536L) 2L else 4L
  }, 0L)
  head <- charToRaw(enc2utf8(jsonlite::toJSON(c(
    data$meta, list(
      words = I(data$words), lines = data$lines,
      arrays = Map(function(width, numbers) list(width, length(numbers)), width, data$arrays)
    )
  ), auto_unbox = TRUE, null = "null", digits = NA)))
  body <- Map(function(numbers, width) writeBin(
    numbers, raw(), size = width, endian = "little"
  ), data$arrays, width)
  whole <- c(writeBin(length(head), raw(), size = 4, endian = "little"), head, unlist(body))
  jsonlite::base64_enc(memCompress(whole, "gzip"))
}
