#' Read a codebook
#'
#' Reads and checks a codebook. All problems are reported at once, each with
#' file, line and path.
#'
#' @param codebook Path of a codebook (a YAML file, or a workbook that
#'   [write_codebook()] wrote) or of the project folder
#'   that holds it, what [draft_codebook()] drafted, or the codebook as a nested list. In a
#'   list, numbers and truth values are taken as the text they would be in the file.
#' @return A `mavik_codebook`: the document as a plain nested list of texts, for
#'   example `codebook$variables$years$range`.
#' @section Errors: A `mavik_codebook_error`, whose `problems` is a data frame
#'   with `file`, `line`, `path` and `message`.
#' @examples
#' project <- demo_project(tempfile())
#' codebook <- read_codebook(project)
#' codebook
#' codebook$variables$years$range
#' @export
read_codebook <- function(codebook) {
  keep_own_options()
  document <- as_codebook(codebook)
  compile_codebook(document)
  document
}

#' Change a codebook
#'
#' Takes changes as named lists that mirror the codebook, merges them key by
#' key, and checks the result again. `NULL` takes a key out.
#'
#' @param codebook A codebook, or what [read_codebook()] takes.
#' @param ... Changes, by the codebook's own keys; or one function that takes the codebook as a
#'   plain nested list and gives it back changed.
#' @return The changed codebook; a list in R, no file is touched.
#' @section Errors: As for [read_codebook()].
#' @examples
#' codebook <- read_codebook(demo_project(tempfile()))
#' shorter <- edit_codebook(codebook, variables = list(years = list(range = c(0, 60))))
#' shorter$variables$years$range
#' public <- edit_codebook(codebook, function(book) {
#'   book$variables$remarks$private <- "yes"
#'   book
#' })
#' public$variables$remarks$private
#' @export
edit_codebook <- function(codebook, ...) {
  keep_own_options()
  old <- as_codebook(codebook)
  changes <- list(...)
  if (length(changes) == 1 && is.function(changes[[1]])) {
    changed <- changes[[1]](unclass_document(old))
    if (!is.list(changed)) stop_mavik(
      "codebook_error", "the function must give the codebook back, changed"
    )
    return(changed_codebook(old, changed))
  }
  if (length(changes) > 0 && (is.null(names(changes)) ||
    !all(nzchar(names(changes))))) stop_mavik("codebook_error",
    "changes are named by the codebook's own keys: `variables = list(...)`")
  changed_codebook(old, merge_keys(unclass_document(old), changes))
}

changed_codebook <- function(old, changed) {
  new <- new_codebook(normalise(changed), attr(old, "file"), NULL, attr(old, "project"))
  compile_codebook(new)
  new
}

merge_keys <- function(old, new) {
  for (key in names(new)) {
    both <- is.list(old[[key]]) && is.list(new[[key]]) && !is.null(names(new[[key]]))
    old[[key]] <- if (both) merge_keys(old[[key]], new[[key]]) else new[[key]]
  }
  old
}

unclass_document <- function(document) {
  attributes(document) <- list(names = names(document))
  document
}

new_codebook <- function(document, file, marks, project, digest = NULL) {
  structure(
    document, class = "mavik_codebook", file = file, marks = marks, project = project,
    digest = digest
  )
}

as_codebook <- function(codebook) {
  if (inherits(codebook, "mavik_codebook")) return(plain_codebook(codebook))
  if (inherits(codebook, "mavik_study")) return(codebook$codebook)
  if (inherits(codebook, "mavik_draft")) return(parse_draft(codebook))
  if (is.list(codebook)) return(new_codebook(normalise(codebook), NULL, NULL, getwd()))
  if (!is.character(codebook) || length(codebook) != 1) {
    stop_mavik(
      "codebook_error", "give the path of a codebook or its project folder, or a nested list"
    )
  }
  path <- codebook_file(codebook)
  if (is_workbook(path)) parse_workbook(path) else parse_codebook(path)
}

# What was changed in R, with R's own types, as the file would have it.
plain_codebook <- function(codebook) {
  document <- unclass_document(codebook)
  plain <- normalise(document)
  if (identical(plain, document)) return(codebook)
  new_codebook(plain, attr(codebook, "file"), attr(codebook, "marks"), attr(codebook, "project"))
}

# The one codebook of a project: the only YAML file at its top with a key `mavik`.
codebook_file <- function(path) {
  if (!file.exists(path)) stop_mavik("codebook_error", path, ": no such file or project folder")
  if (!dir.exists(path)) return(path)
  if (identical(path, ".")) path <- c(project_above(), ".")[1]
  files <- sort_c(list.files(path, "\\.ya?ml$", full.names = TRUE))
  said <- vapply(files, says_mavik, TRUE)
  if (sum(said) == 1) return(files[said])
  books <- if (!any(said)) Filter(
    is_codebook_workbook, sort_c(list.files(path, "[.]xlsx$", full.names = TRUE))
  )
  if (length(books) == 1) return(books)
  said <- c(said, rep(TRUE, length(books)))
  files <- c(files, books)
  # The only YAML file tells best itself what it lacks.
  if (!any(said) && length(files) == 1) return(files)
  if (!any(said)) stop_mavik("codebook_error", path,
    ": holds no codebook (a .yml file with `mavik: 1`); ", first_codebook)
  stop_mavik(
    "codebook_error", path, ": holds several codebooks (", some_of(basename(files[said])),
    "): name one of them"
  )
}

# Within a project's folders, the project: here, or the nearest folder above whose one codebook
# knows the folder that leads here; NULL where there is none.
project_above <- function() {
  path <- "."
  before <- ""
  repeat {
    files <- list.files(path, "[.]ya?ml$", full.names = TRUE)
    said <- files[vapply(files, says_mavik, TRUE)]
    if (length(said) > 0 && path == ".") return(path)
    if (length(said) == 1 && is_its_folder(before, said)) return(path)
    here <- real_path(path)
    # Nobody keeps a project above their own folder.
    if (dirname(here) == here || here == real_path("~") || nchar(path) > 60) return(NULL)
    before <- basename(here)
    path <- if (path == ".") ".." else file.path("..", path)
  }
}

is_its_folder <- function(name, codebook) name %in% c("raw", "sheets", "out", "release") || any(
  grepl(paste0(name, "/"), readLines(codebook, warn = FALSE), fixed = TRUE, useBytes = TRUE)
)

# A key `mavik`, also in quotes, and behind the mark of a file's beginning.
says_mavik <- function(file) {
  bytes <- readBin(file, "raw", file.size(file))
  text <- rawToChar(bytes[bytes != as.raw(0)])
  grepl("(^|\n)(\xef\xbb\xbf)?[\"']?mavik[\"']?[ \t]*:", text, useBytes = TRUE)
}

parse_codebook <- function(path) parse_lines(codebook_lines(path), path)

parse_lines <- function(lines, path) {
  read <- read_lines(lines, basename(path))
  new_codebook(
    read$document, path, read$marks, real_path(dirname(path)), file_digest(path)
  )
}

# A draft is text that no file holds yet; its comments go along to whoever writes it.
parse_draft <- function(draft) {
  read <- read_lines(unclass_lines(draft), "draft")
  project <- attr(draft, "project")
  structure(new_codebook(
    read$document, NULL, NULL, if (is.null(project)) getwd() else project
  ), text = unclass_lines(draft))
}

unclass_lines <- function(draft) as.character(unclass(draft))

# The document of a text, and where each of its entries stands.
read_lines <- function(lines, shown) {
  scan <- scan_yaml(lines)
  if (length(scan$refused) > 0) {
    stop_problems(data.frame(
      file = shown, line = vapply(scan$refused, function(refusal) as.integer(refusal$line), 0L),
      path = vapply(scan$refused, function(refusal) paste(refusal$path, collapse = " > "), ""),
      message = vapply(scan$refused, function(refusal) refusal$message, "")
    ))
  }
  # What its library warns of, a list as a key, the scan has lost too.
  document <- tryCatch(
    suppressWarnings(yaml::yaml.load(
      paste(lines, collapse = "\n"), handlers = text_handlers, eval.expr = FALSE
    )), error = function(e) stop_yaml(shown, conditionMessage(e), scan$lost)
  )
  if (!is.null(scan$lost)) stop_yaml(shown, scan$lost$message, scan$lost)
  if (is.null(document)) stop_mavik("codebook_error", shown,
    ": holds nothing but comments; a codebook begins with `mavik: 1`; ", first_codebook)
  if (!is_map(document)) stop_mavik("codebook_error", at_line(shown, 1), ": is ",
    if (length(document) > 1 || is.list(document)) "a list of entries" else "one text",
    ", and a codebook is made of keys: begin with `mavik: 1`; ", first_codebook)
  list(document = document, marks = scan$marks)
}

stop_yaml <- function(shown, message, lost) {
  said <- stringi::stri_match_first_regex(message, "\\(?(.*?)\\)? at line (\\d+)")
  line <- if (!is.null(lost)) lost$line else if (is.na(said[1, 3])) NA else as.integer(said[1, 3])
  why <- if (!is.null(lost)) lost$message else message
  stop_problems(data.frame(
    file = shown, line = line, path = "",
    message = paste0("not well-formed YAML: ", text_squeeze(why))
  ))
}

codebook_lines <- function(path) {
  bytes <- readBin(path, "raw", file.size(path))
  shown <- basename(path)
  if (length(bytes) == 0) stop_mavik("codebook_error", shown, ": the file is empty; ",
    first_codebook)
  if (any(bytes == as.raw(0))) stop_mavik("codebook_error", shown,
    ": is no text (a picture, an archive, or UTF-16): a codebook is a YAML file in UTF-8; ",
    first_codebook)
  if (looks_raw(bytes, path)) stop_mavik("codebook_error", shown,
    ": looks like a raw file, not like a codebook; `mavik draft ", shown,
    "` drafts a codebook from it")
  text <- rawToChar(bytes)
  if (!stringi::stri_enc_isutf8(text)) {
    bad <- which(
      !stringi::stri_enc_isutf8(strsplit(text, "\n", fixed = TRUE, useBytes = TRUE)[[1]])
    )
    stop_mavik(
      "codebook_error", at_line(shown, bad[1]),
      ": bytes that are not UTF-8: save the codebook as UTF-8 text"
    )
  }
  Encoding(text) <- "UTF-8"
  lines <- stringi::stri_split_fixed(
    stringi::stri_replace_first_regex(text, "^\\x{FEFF}", ""), "\n"
  )[[1]]
  tab <- which(stringi::stri_detect_regex(lines, "^ *\t[ \t]*[^ \t#\r]"))
  if (length(tab) > 0) {
    stop_problems(data.frame(
      file = shown, line = tab, path = "",
      message = "a tab at the line's start: YAML indents by spaces"
    ))
  }
  if (length(lines) > 1 && lines[length(lines)] == "") lines <- lines[-length(lines)]
  stringi::stri_replace_last_regex(lines, "\r$", "")
}

first_codebook <-
  paste0(
    "`mavik draft FILE` drafts one from an export, `mavik convert --template NEW.yml` writes an ",
    "empty one"
  )

# Lines of cells and no key: whoever names such a file meant to draft from it.
looks_raw <- function(bytes, path) {
  text <- tryCatch(rawToChar(utils::head(bytes, 20000)), error = function(e) "")
  lines <- strsplit(text, "\r?\n", useBytes = TRUE)[[1]]
  lines <- utils::head(lines[nzchar(lines) & !startsWith(lines, "#")], 5)
  if (length(lines) == 0 || any(grepl("^[\"']?[A-Za-z_]+[\"']?[ ]*:([ ]|$)", lines,
    useBytes = TRUE))) return(FALSE)
  cells <- vapply(delimiters, function(mark) min(lengths(regmatches(lines,
    gregexpr(mark, lines, fixed = TRUE, useBytes = TRUE)))), 0L)
  any(cells >= 1) || grepl("[.](csv|tsv|tab)$", path, ignore.case = TRUE)
}

# Every scalar is text; the schema says later what it means.
text_handlers <- local({
  types <- c(
    "str", "null", "bool#yes", "bool#no", "bool#na", "int", "int#hex", "int#oct", "int#na",
    "int#base60", "float",
    "float#fix", "float#exp", "float#inf", "float#neginf", "float#nan", "float#na", "float#base60",
    "timestamp#iso8601",
    "timestamp#spaced", "timestamp#ymd"
  )
  structure(rep(list(function(x) x), length(types)), names = types)
})

# A list made in R, as the file would have given it.
normalise <- function(x) {
  if (is.factor(x)) x <- as.character(x)
  if (is.list(x)) {
    x <- lapply(x[!vapply(x, is.null, TRUE)], normalise)
    plain <- length(x) > 0 && is.null(names(x)) && all(vapply(x, is_text, TRUE))
    return(if (plain) unlist(x) else x)
  }
  if (is.logical(x)) text <- ifelse(x, "yes", "no")
  else if (is.numeric(x)) text <- number_to_text(x)
  else text <- enc2utf8(as.character(x))
  if (is.numeric(x)) text[is.infinite(x)] <- ifelse(x[is.infinite(x)] > 0, "up", "down")
  if (!is.null(names(x))) return(with_names(as.list(text), names(x)))
  text
}
