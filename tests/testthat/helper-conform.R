# What every way, rule, screen, output and command must keep, whoever wrote it. `pkg` is
# the package's namespace, or its sources with files added.

rows_tried <- function(n) list(7L, sample(n), seq_len(n %/% 3))

# `example` holds the variable `made`, what it needs, `top` and `frames`.
conform_way <- function(pkg, name, example) {
  way <- pkg$ways()[[name]]
  expect_setequal(names(way), names(formals(pkg$new_way)))
  frame <- way_frame()
  build <- function(rows) {
    study <- pkg$build_study(way_book(example), c(list(main = frame[rows, ]), example$frames))
    list(study = study, value = study$data$made, reason = as.character(study$reasons$made))
  }
  whole <- build(seq_len(nrow(frame)))
  variable <- whole$study$book$variables$made
  expect_equal(variable$way, name)
  expect_true(variable$level %in% pkg$levels_of_measurement, info = name)
  expect_true(variable$storage %in% c("coded", "number", "text", "set"), info = name)
  # The sheets of a study are let go once it is built.
  sentence <- way$sentence(variable, pkg$with_sheets(whole$study$book, example$frames))
  expect_length(sentence, 1)
  expect_match(sentence, "\\.$")
  gaps <- if (length(whole$reason) == 0) rep(FALSE, nrow(frame)) else !is.na(whole$reason)
  expect_equal(is.na(whole$value), gaps, info = name)
  told <- function(found) {
    value <- if (is.factor(found$value)) as.character(found$value) else found$value
    list(value = value, reason = if (length(found$reason) == 0) rep(NA_character_, length(value)) else found$reason)
  }
  all <- told(whole)
  none <- lapply(whole$study$data[whole$study$book$uses$made], function(value) pkg$new_column(value[0]))
  if (length(none) > 0) {
    nothing <- way$compute(variable, none, pkg$with_sheets(whole$study$book, example$frames), list(n = 0L, key = character(), id = character(), wave = character()))
    expect_length(nothing$value, 0)
  }
  for (rows in rows_tried(nrow(frame))) {
    part <- told(build(rows))
    expect_equal(part$value, all$value[rows], info = name)
    expect_equal(part$reason, all$reason[rows], info = name)
  }
}

# Rules and screens: their own example of the reference, on the demo's records.
conform_part <- function(pkg, section, kind, met = TRUE) {
  known <- pkg[[section]]()[[kind]]
  expect_setequal(names(known), names(formals(pkg[[if (section == "rules") "new_rule" else "new_screen"]])))
  demo <- demo_frames()
  own <- yaml::yaml.load(paste(known$example, collapse = "\n"), handlers = core$text_handlers)
  own <- lapply(own, function(entry) entry[setdiff(names(entry), c("sets_aside", "erase", "report"))])
  document <- utils::modifyList(demo$document, list(rules = NULL, screens = NULL, duplicates = list(keep = "last", by = "ended")))
  document[[section]] <- own
  meant <- function(rows) {
    study <- pkg$build_study(document, c(list(spring = demo$frame[rows, ]), demo$lookups))
    line <- study$records$line
    if (section == "rules") {
      part <- study$book$rules[[1]]
      inputs <- lapply(study$data[part$reads], function(value) pkg$new_column(value))
      broken <- known$compute(part, inputs, study$book, pkg$rows_of_records(study$records, study$book))
      expect_true(all(broken$rows %in% seq_along(line)), info = kind)
      sentence <- known$sentence(part, study$book)
      expect_length(sentence, 1)
      return(list(rows = broken$rows))
    }
    expect_length(known$sentence(study$book$screens[[1]], study$book), 1)
    list(rows = which(study$disposition == names(own)))
  }
  n <- nrow(demo$frame)
  all <- meant(seq_len(n))
  # What nobody meets would hold for any part.
  if (met) expect_gt(length(all$rows), 0) else expect_length(all$rows, 0)
  for (rows in list(sample(n), sample(n, n %/% 3))) expect_setequal(rows[meant(rows)$rows], intersect(all$rows, rows))
}

conform_output <- function(pkg, output, study) {
  expect_match(output$file, "^[a-z]+[.](csv|html|json|xlsx)$")
  expect_true(nzchar(output$help))
  if (!is.null(output$wanted) && !output$wanted(study)) return(invisible())
  # That equal studies give equal bytes is held for whole folders in test-write.R.
  folder <- tempfile()
  dir.create(folder)
  path <- file.path(folder, output$file)
  output$write(study, path)
  expect_gt(file.size(path), 0)
  if (length(output$columns) == 0) return(invisible())
  columns <- names(utils::read.csv(path, nrows = 1, check.names = FALSE))
  expect_equal(utils::head(columns, length(output$columns)), names(output$columns), info = output$file)
}

# `edition` holds a question with several answers. Of one record it must hold as well.
conform_format <- function(pkg, name, edition) {
  format <- pkg$formats()[[name]]
  expect_setequal(names(format), names(formals(pkg$new_format)))
  expect_true(nzchar(format$help) && nzchar(format$cannot), info = name)
  expect_true(all(format$needs %in% names(pkg$formats())), info = name)
  all <- edition$study$retained
  # What has no answers to read back goes out once.
  told <- name %in% c("docx", "html", "dictionary", "datapackage", "selections", "methods")
  for (rows in if (told) all[1] else list(all[seq(1, length(all), 5)], all[1])) {
    part <- edition
    part$study$retained <- rows
    part$n <- length(rows)
    part$records <- pkg$edition_records(part)
    folder <- tempfile()
    dir.create(folder)
    for (needed in format$needs) pkg$formats()[[needed]]$write(part, folder)
    before <- list.files(folder)
    expect_equal(format$check(part), list(), info = name)
    format$write(part, folder)
    expect_setequal(setdiff(list.files(folder), before), format$files(part))
    expect_equal(pkg$compare_edition(part, name, format$back(part, folder)) > 0, !is.null(format$back(part, folder)$value), info = name)
    if (told) next
    # One record too many is seen by every reader.
    part$n <- part$n + 1L
    expect_equal(tryCatch(pkg$compare_edition(part, name, format$back(part, folder)), error = function(e) "seen"), "seen", info = name)
  }
}

# `source` holds `table`, texts under their names.
conform_reader <- function(pkg, name, source, table) {
  reader <- pkg$readers()[[name]]
  expect_setequal(names(reader), names(formals(pkg$new_reader)))
  expect_true(reader$laid_out %in% c("text", "sheet", "none"), info = name)
  expect_identical(pkg$reader_for(source, name), reader)
  first <- if (!is.data.frame(source)) readBin(source, "raw", 8)
  entries <- if (reader$laid_out == "sheet") pkg$names_in_zip(source, name)
  knowing <- Filter(function(other) other$knows(source, first, entries), pkg$readers())
  expect_equal(names(knowing), if (reader$laid_out == "text") character() else name, ignore_attr = TRUE)
  grid <- reader$read(source, list(heading = "names", skip = 0, delimiter = "comma", encoding = "UTF-8"), name)
  expect_equal(grid$heading$names, names(table), info = name)
  expect_length(grid$columns, ncol(table))
  expect_length(grid$lines, nrow(table))
  expect_false(is.unsorted(grid$lines, strictly = TRUE))
  for (at in seq_along(table)) {
    column <- grid$columns[[at]]
    expect_equal(column$cells[column$index], table[[at]], info = paste(name, at))
    expect_equal(anyDuplicated(paste(column$kinds, column$cells)), 0L, info = paste(name, at))
    expect_true(is.null(column$kinds) || length(column$kinds) == length(column$cells), info = name)
  }
  expect_equal(is.null(reader$open), reader$laid_out != "sheet", info = name)
  expect_equal(is.null(reader$sheets), reader$laid_out != "sheet", info = name)
  if (is.null(reader$sheets)) return(invisible())
  texts <- pkg$workbook_cells(source, name)$text
  expect_true(all(c(names(table), unlist(table)) %in% c(texts, "")), info = name)
}

conform_command <- function(pkg, name) {
  known <- pkg$commands()[[name]]
  expect_true(all(c("summary", "arguments", "most", "example", "options", "run") %in% names(known)), info = name)
  expect_match(known$example, paste0("^mavik ", name))
  help <- utils::capture.output(status <- pkg$run_command(c(name, "--help")))
  expect_equal(status, 0)
  expect_true(any(grepl(known$example, help, fixed = TRUE)), info = name)
  for (option in known$options()) expect_true(nzchar(option$help), info = paste(name, option$flag))
  said <- utils::capture.output(type = "message", status <- pkg$run_command(c(name, "--no-such-option")))
  expect_equal(status, 2, info = name)
  expect_match(said, "not an option", all = FALSE)
}

# The demo's spring export as a data frame, with a codebook that reads it.
demo_frames <- function() {
  project <- demo_project(tempfile())
  document <- core$unclass_document(read_codebook(project))
  document$exports$spring <- document$exports$spring[c("wave", "key", "response", "cells", "ignored")]
  document[c("corrections", "accepted", "translations")] <- NULL
  document$variables$best_codes <- NULL
  frame <- as.data.frame(read_export(file.path(project, "raw/spring.csv"), c("names", "questions")), check.names = FALSE)
  names(frame) <- read_export(file.path(project, "raw/spring.csv"), c("names", "questions"))$names
  roster <- utils::read.csv(file.path(project, "raw/roster.csv"), check.names = FALSE, colClasses = "character")
  document$lookups$roster$file <- NULL
  list(document = document, frame = frame, lookups = list(roster = roster))
}

# The sources in an environment of their own, without the interface or with it, and with
# files of another folder.
source_package <- function(interface_too = FALSE, more = character()) {
  folder <- source_folder()
  alone <- new.env(parent = parent.env(core))
  for (name in grep("^_mavik", names(core), value = TRUE)) assign(name, core[[name]], alone)
  assign("topenv", function(...) alone, alone)
  files <- c(source_files(folder), more)
  files <- files[order(basename(files), method = "radix")]
  if (!interface_too) files <- files[!room_of(files) %in% interface]
  for (file in c(file.path(folder, "R/RcppExports.R"), files)) sys.source(file, alone)
  alone
}
