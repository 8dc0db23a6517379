# Files beside the exports that a codebook names: sheets in which people gave
# codes, and files that are looked up. They are read before the exports.

# `book$uncoded` where the sheets are about to be written: then none is read.
with_sheets <- function(book, frames = list(), problems = NULL) {
  own <- is.null(problems)
  if (own) problems <- input_problems(book$document)
  for (name in names(book$variables)) {
    variable <- book$variables[[name]]
    note <- function(...) problems$say(variable$path, ...)
    other <- other_of(variable)
    if (!is.null(other$sheet) && !isTRUE(book$uncoded)) {
      if (file.exists(export_path(list(file = other$sheet),
        book))) book$variables[[name]]$write_ins <- problems$collect(variable$path,
        read_write_ins(variable, other$sheet, book, note))
      else note(other$sheet, ": there is no such sheet yet; `mavik coding ", name, "` writes it")
    }
    if (!is.null(way_of(variable)$sheet(variable)))
      book$variables[[name]]$coding <- problems$collect(variable$path,
      read_coding(variable, book, note))
    book$variables[[name]] <- in_all_versions(book$variables[[name]], c("write_ins", "coding"))
  }
  used <- unique(unlist(lapply(book$variables, function(variable) way_of(variable)$asks(variable))))
  book$tables <- lapply(book$lookups[used], function(lookup) {
    problems$collect(c("lookups", lookup$name, "file"), read_lookup(lookup, book, frames))
  })
  book$spoken <- read_translations(book, problems)
  if (own) problems$stop_if_any()
  book
}

sheet_files <- function(book) {
  files <- lapply(book$corrections, identity)
  names(files) <- rep("corrections", length(files))
  for (variable in book$variables) {
    other <- other_of(variable)
    files[[paste0("write-ins of ", variable$name)]] <- other$sheet
    sheet <- way_of(variable)$sheet(variable)
    if (!is.null(sheet)) files[[paste0("codes of ", variable$settings$of)]] <- sheet
  }
  for (language in names(book$translations)) {
    files[[paste("translations", language)]] <- book$translations[[language]]
  }
  for (name in names(book$tables)) files[[paste("lookup", name)]] <- book$lookups[[name]]$file
  files
}

# A sheet as texts by heading, with the line of each row; rows without any text are passed over.
read_sheet <- function(file, book, needed, may = character(), shown = file) {
  path <- export_path(list(file = file), book)
  check_file(path, shown)
  raw <- read_raw(
    path,
    list(
      heading = "names", skip = 0, delimiter = "comma", encoding = "UTF-8",
      sheet = first_sheet(path, shown)
    ),
    shown
  )
  lacking <- setdiff(needed, raw$names)
  if (length(lacking) > 0) {
    near <- did_you_mean(lacking[1], setdiff(raw$names, c(needed, may)))
    stop_mavik("build_error", at_line(shown, 1), ": lacks the column ", some_of(lacking),
      if (nzchar(near)) sub("did you mean", "was it renamed to", near), "; its columns are ",
      some_of(raw$names, 12),
      if (length(raw$names) == 1) "; is it saved with another delimiter than the comma?")
  }
  texts <- lapply(raw$columns, column_texts)
  keep <- Reduce(`|`, lapply(texts, nzchar), logical(raw$records))
  c(lapply(texts, `[`, keep), list(.line = raw$lines[keep]))
}

# A workbook's first sheet; NULL for files that have none.
first_sheet <- function(path, shown) {
  if (!is_workbook(path)) return(NULL)
  parts <- unzip_parts(path, shown, "^(xl/workbook[.]xml|content[.]xml)$")
  on.exit(unlink(attr(parts, "folder"), recursive = TRUE))
  if ("content.xml" %in% names(parts)) return(xml2::xml_attr(
    xml2::xml_find_first(part_xml(parts, "content.xml", shown), ods_path("//spreadsheet/table")),
    "name"
  ))
  xml2::xml_attr(
    xml2::xml_find_first(part_xml(parts, "xl/workbook.xml", shown), "//sheets/sheet"), "name"
  )
}

# `answer` and the code (or label) that a person gave it; blank ones wait.
read_write_ins <- function(variable, file, book, note) {
  sheet <- read_sheet(file, book, c("answer", "code"), "note")
  keep <- nzchar(sheet$answer) & nzchar(sheet$code)
  answer <- sheet$answer[keep]
  code <- sheet$code[keep]
  line <- sheet$.line[keep]
  folded <- text_fold(answer)
  for (k in which(duplicated(folded))) if (code[k] != code[match(folded[k], folded)]) note(
    at_line(file, line[k]), ": `", answer[k], "` is given two codes: keep one line"
  )
  if (holds_several(variable)) {
    split <- split_cells(
      code, option_forms(variable, list(cells = "labels")), variable$settings$separator
    )
    for (k in which(nzchar(split$written))) note(
      at_line(file, line[k]), ": `", split$written[k], "` is none of the options of `",
      variable$name, "`: add it under ",
      paste(where_in(variable, "split", "options"), collapse = " > ")
    )
    return(data.frame(folded = folded, options = split$set))
  }
  meant <- old_codes(variable, code)
  for (k in which(is.na(meant))) note(
    at_line(file, line[k]), ": `", code[k], "` is no code or label of `", variable$name,
    "`: add it under ", paste(where_in(variable, "codes"), collapse = " > "),
    did_you_mean(code[k], variable$codes$label)
  )
  data.frame(folded = folded, code = meant)
}

# The coders' sheet: for each respondent, or for each answer, the set of codes.
read_coding <- function(variable, book, note) {
  settings <- variable$settings
  file <- settings$sheet
  if (isTRUE(book$uncoded)) return(no_coding)
  if (!file.exists(export_path(list(file = file), book))) {
    note(file, ": there is no such sheet yet; `mavik coding ", variable$name, "` writes it")
    return(no_coding)
  }
  sheet <- read_sheet(
    file, book, c("answer", "code 1"), c("wave", "respondent", "coder", "note", "count", "state")
  )
  codes <- sheet[grep("^code [0-9]+$", names(sheet))]
  odd <- grep("^[Cc]ode", setdiff(names(sheet), c(names(codes), "coder")), value = TRUE)
  for (name in odd) note(
    at_line(file, 1), ": the column `", name,
    "` looks like a code but is not called `code 1`, `code 2` and so on"
  )
  coded <- coded_sets(codes, variable)
  set <- coded$set
  wave <- if (is.null(sheet$wave)) rep(names(book$waves)[1], length(set)) else sheet$wave
  respondent <- if (is.null(sheet$respondent)) rep("", length(set)) else sheet$respondent
  named <- which(nzchar(respondent))
  if (length(named) > 0 && length(unaddressed(book)) > 0) note(
    at_line(file, sheet$.line[named[1]]), ": ", numbered_said(unaddressed(book))
  )
  folded <- text_fold(sheet$answer)
  id <- joined_id(wave, respondent, folded)
  for (row in which(duplicated(id) & nzchar(respondent))) note(
    at_line(file, sheet$.line[row]), ": this respondent and answer occur twice: keep one line"
  )
  list(
    id = id, set = set, folded_any = ifelse(nzchar(respondent), NA, folded), wave = wave,
    respondent = respondent, answer = sheet$answer, line = sheet$.line, invented = coded$invented
  )
}

no_coding <- list(
  id = character(), set = character(), folded_any = character(), wave = character(),
  respondent = character(), answer = character(), line = integer(), invented = character()
)

# The codes of each row as the numbers of its options; NA where it has none, or one that the
# codebook does not have (`invented`).
coded_sets <- function(codes, variable) {
  options <- variable$options
  meant <- lapply(codes, function(text) {
    place <- match(text_fold(text), text_fold(options$label))
    number <- text_to_number(text)
    place <- ifelse(is.na(place), match(text, options$name), place)
    ifelse(is.na(place) & is_whole(number) & number >= 1 & number <= length(options$name), number,
      place)
  })
  invented <- rep("", length(codes[[1]]))
  for (k in rev(seq_along(codes))) {
    own <- nzchar(codes[[k]]) & is.na(meant[[k]])
    invented[own] <- text_squeeze(codes[[k]][own])
  }
  set <- do.call(
    paste, c(lapply(meant, function(code) ifelse(is.na(code), "", number_to_text(code))), sep = ",")
  )
  set <- vapply(strsplit(set, ",", fixed = TRUE), function(items) {
    paste(sort(unique(as.integer(items[nzchar(items)]))), collapse = ",")
  }, "")
  set[!nzchar(set) | nzchar(invented)] <- NA
  list(set = set, invented = invented)
}

# A file that is looked up: its key, once each, and its columns.
read_lookup <- function(lookup, book, frames) {
  name <- lookup$name
  source <- frames[[name]]
  shown <- if (is.null(source)) lookup$file else paste0("data frame `", name, "`")
  if (is.null(source)) {
    if (is.null(lookup$file)) stop_mavik(
      "build_error", "lookups > ", name, ": `file` is missing, and no data frame was given"
    )
    source <- export_path(lookup, book)
    check_stands(lookup$file, book)
  } else lookup$heading <- "names"
  raw <- read_raw(source, lookup[c("heading", "skip", "delimiter", "encoding", "sheet")], shown)
  problems <- problem_collector(book$document)
  absent_column(
    lookup$key, c("lookups", name, "key"), c(lookup, list(shown = shown)), raw$names, problems
  )
  for (variable in book$variables) if (identical(way_of(variable)$asks(variable), name))
    absent_column(
      variable$settings$column, where_in(variable, "lookup", "column"),
      c(lookup, list(shown = shown)), raw$names, problems
    )
  problems$stop_if_any()
  key <- read_texts(raw, lookup$key)
  blank <- !nzchar(key)
  again <- which(!blank & (duplicated(key) | duplicated(key, fromLast = TRUE)))
  if (length(again) > 0) {
    stop_mavik("build_error", at_line(shown, raw$lines[again[1]]), ": the key `", lookup$key,
      "` stands more than once (", some_of(unique(key[again]), 8, quote = FALSE), "; ",
      lines_of(raw$lines[again]),
      "): which row is meant nobody can say; keep one of each")
  }
  key[blank] <- NA
  list(key = key, columns = raw$columns, records = raw$records,
    export = list(
      name = name, shown = shown, cells = lookup$cells, decimal = lookup$decimal,
      dates = lookup$dates
    ),
    told = if (any(blank)) list(new_finding(
      "warning", "blank_lookup_key", "", "", sum(blank), integer(), c("lookups", name, "key"),
      paste0(
        "rows of ", shown, " without a key (", lines_of(raw$lines[blank]), "): nobody finds them"
      )
    )))
}
