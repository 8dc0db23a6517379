#' Build a study
#'
#' Applies a codebook to its raw exports: reads, decodes, sets aside what cannot
#' be an answer, makes the derived variables, and keeps account of all of it.
#'
#' @param codebook A codebook, or what [read_codebook()] takes.
#' @param exports Data frames to use in place of files, named by export; of a codebook with one
#'   export also the data frame alone.
#' @param digests Whether to work out the digest of each input file, for the
#'   record of the build.
#' @param parts In how many parts each delimited file is read, or
#' @param part_size how large a part is at most: bytes, or `"500MB"`. Without either, files
#'   above 2 GB (or half the free memory; above 250 MB where workers wait) are read in parts. The
#'   result is the same, to the byte: see the section on large studies.
#' @return A `mavik_study`: a list with `data` (a plain table of all variables,
#'   `NA` in every gap; coded variables as integers), `reasons` (the columns that
#'   have gaps, same rows, as factors of reasons), `records` (wave, key, export
#'   and line of each row), `codebook`, and what [ledger()], [findings()],
#'   [study_table()] and [write_study()] work on. Rows are in the order of
#'   waves, exports and lines. Private variables are in neither `data` nor anything
#'   else of it (their reasons are, so that gaps are counted); where the key is
#'   private, `records` has numbers in its place. What an `erase` screen purges is
#'   nowhere in it. So the study may be saved.
#' @section Cache: Commands and functions that take a project keep what they worked
#'   out in `.mavik/` beside the codebook: the checked codebook; the place of each
#'   record in the raw files (keys and lines, no answers; nothing where the key is
#'   private); and the built study, without private answers. It is used only while
#'   size and times of all files are the same, and removed where somebody is purged
#'   who is still in it, or what it holds has become private. It may be deleted at any time.
#' @section Large studies: In parts, delimited files are cut where records begin, and what was
#'   decoded and made waits in files of a work folder, `.mavik/parts` in the project (another:
#'   the environment variable `MAVIK_WORK`). The columns of such a study are plain vectors to all
#'   who read them, and take no memory but for the pages that are looked at. Where a plan of the
#'   package future is set (`future::plan(multisession)`, `cluster`, ...), its workers read and
#'   decode; a part that fails is tried once more. Parts are kept, with a digest of each, so that
#'   the next build reads only files that changed; where answers or keys are private, or an
#'   `erase` screen may purge some, nothing outlives the build. What is not delimited text
#'   (workbooks, Parquet) is read whole. See `docs/large-studies.md`.
#' @section Errors: Those of [read_codebook()] and [read_export()], all problems of
#'   the raw files at once, each with the line of the codebook; a column that
#'   an export lacks (the nearest name is suggested); a key that is blank or
#'   occurs twice in a wave, with its lines. In parts also: another build of the project is at
#'   work (its process, user and machine), a work folder that is full, a part that failed twice,
#'   a kept part that was altered, a raw file that changed while it was read.
#' @examples
#' study <- build_study(demo_project(tempfile()))
#' study
#' table(study$data$voice, useNA = "ifany")
#' @export
build_study <- function(
  codebook, exports = list(), digests = TRUE, parts = NULL, part_size = NULL
) {
  keep_own_options()
  asked <- asked_parts(parts, part_size)
  build_book(compile_codebook(as_codebook(codebook)), exports, digests, asked)
}

# `asked` is how files are cut into parts (`asked_parts()`).
build_book <- function(book, exports = list(), digests = FALSE, asked = NULL) {
  notes <- note_newer_workbook(book)
  exports <- named_frames(book, exports)
  book$exports <- locate_exports(book, exports)
  work <- begin_work(book, asked)
  used <- NULL
  on.exit(end_work(work, used))
  problems <- input_problems(book$document)
  plain <- book
  book <- with_sheets(book, exports, problems)
  corrections <- problems$collect("corrections", read_corrections(book))
  # One export is decoded as soon as it is read; of several the first ones wait.
  folder <- if (length(book$exports) < 2) NULL else if (!is.null(work)) work$held else
    tempfile("mavik-cells-")
  if (is.null(work) && !is.null(folder)) {
    dir.create(folder, mode = "0700")
    on.exit(unlink(folder, recursive = TRUE), add = TRUE)
  }
  parted <- read_in_parts(book, work, digests)
  book$held <- work$held
  read <- read_inputs(
    book, digests, problems$collect, function(input) park_cells(input, folder), parted
  )
  check_forms_once(read, book, problems$say)
  problems$stop_if_any()
  index <- index_of(read)
  inputs <- match_parallels(read, book)
  rm(read)
  for (input in inputs) {
    problems$collect(c("exports", book$exports[[input$facts$export]]$entry),
      check_answers_present(input, book))
  }
  problems$stop_if_any()
  study <- study_of(inputs, book, corrections, digests)
  study$inputs <- lapply(study$inputs, await_digest)
  study$index <- finish_index(index, study$purged)
  if (holds_secrets(book) || !is.null(study$purged)) forget_cache(plain, !is.null(study$purged))
  study <- without_private(study)
  study$notes <- notes
  study$book["held"] <- list(NULL)
  # What is read at once leaves the parts of an earlier build alone.
  if (length(parted) > 0) used <- vapply(parted, `[[`, "", "folder")
  study
}

# From matched inputs on, whether they hold all records or those of one person.
study_of <- function(inputs, book, sheet, digests) {
  facts <- facts_of_inputs(inputs, book)
  records <- bind_records(lapply(inputs, `[[`, "records"), book$held)
  erased <- erased_records(inputs, book, records, sheet)
  if (length(erased$rows) > 0) {
    inputs <- drop_records(inputs, erased$rows)
    records <- lapply(records, `[`, -erased$rows)
  }
  placed <- place_corrections(sheet, records, book, erased$keys[erased$keys$whole, ])
  columns <- decode_answers(inputs, book, records, placed)
  begin_digests(facts)
  for (name in names(inputs)) inputs[[name]]["columns"] <- list(NULL)
  rows <- rows_of_records(records, book)
  rows$contradicted <- columns$contradicted
  settled <- settle_answers(columns$values, book, rows, records)
  screened <- if (is.null(settled$screened))
    screen_step(settled, book, records, columns$values)$screened else settled$screened
  disposition <- disposition_of(screened$dropped, columns$values, settled, book, rows$n)
  values <- with_disposition(settled$values, disposition, book)
  # What is not looked at again is let go before the result is put together.
  columns$values <- settled$values <- settled$screened <- NULL
  findings <- findings_of_build(
    values, inputs, records, columns, settled, screened, erased, book, rows$n
  )
  book$variables <- lapply(book$variables, fill_question, inputs = inputs, book = book)
  book$variables <- split_stems(book$variables, book$blocks)
  data <- data_of(values, book)
  reasons <- reasons_of(values, book, rows$n)
  retained <- is.na(screened$dropped)
  looked_at(new_study(
    data = data, reasons = reasons, records = records, codebook = book$document,
    findings = findings,
    ledger = c(columns$ledger, settled$ledger, drop_entries(screened, book, rows$n)),
    asked = lapply(inputs, function(input) input[c("names", "questions")]), inputs = facts,
    sheets = sheet_facts(book, digests), book = book,
    retained = if (!all(retained)) which(retained), disposition = disposition,
    screens = screened$met, erased = erased$counts, skips = settled$skips,
    checked = settled$rules, purged = erased$keys
  ))
}

findings_of_build <- function(
  values, inputs, records, columns, settled, screened, erased, book, n
) {
  retained <- is.na(screened$dropped)
  flow <- length(book$screens) > 0 || !all(retained)
  c(
    translation_findings(book), lookup_findings(values, book, length(erased$rows) > 0),
    all_gap_findings(values, book, n),
    unlist(lapply(inputs, `[[`, "findings"), recursive = FALSE),
    near_keys(records, book, retained), columns$findings, settled$findings, screened$findings,
    if (flow) flow_findings(screened, book, n, erased$counts)
  )
}

# What later rooms look at in a whole study (`audit_*`) is asked for, not named.
looked_at <- function(study) {
  findings <- lapply(parts_named("audit_"), function(audit) audit$findings(study))
  study$findings <- c(study$findings, unlist(unname(findings), recursive = FALSE))
  study
}

check_study_class <- function(study) {
  if (!inherits(study, "mavik_study")) stop_mavik(
    "error", "`study` must be a study, as build_study() returns it"
  )
}

locate_exports <- function(book, frames) {
  if (!is.null(names(frames))) frames <- frames[setdiff(names(frames), names(book$lookups))]
  check_frame_names(book, frames)
  exports <- unlist(lapply(unname(book$exports), function(export) {
    if (is.null(frames[[export$entry]]) && is_pattern(export$file)) one_a_file(export, book) else
      list(export)
  }), recursive = FALSE)
  files <- vapply(
    exports,
    function(export) if (is.null(frames[[export$entry]]) && is_text(export$file)) paste(
      export$file, export$sheet, export$apart$column, if (!is.null(export$apart)) export$wave
    ) else NA_character_,
    ""
  )
  twice <- which(duplicated(files) & !is.na(files))
  if (length(twice) > 0) stop_mavik(
    "build_error", "exports > ", exports[[twice[1]]]$entry, ": ", exports[[twice[1]]]$file,
    " is read by `", exports[[match(files[twice[1]], files)]]$entry,
    "` already: its records would count twice"
  )
  lapply(with_names(exports, vapply(exports, `[[`, "", "name")), function(export) {
    export$source <- frames[[export$entry]]
    export$shown <- if (is.null(export$source)) export$file else paste0(
      "data frame `", export$entry, "`"
    )
    if (is.null(export$source)) {
      if (is.null(export$file)) stop_mavik(
        "build_error", "exports > ", export$entry,
        ": `file` is missing, and no data frame was given"
      )
      export$source <- export_path(export, book)
    } else {
      export$heading <- "names"
    }
    export
  })
}

# One data frame without a name is that of the only export.
named_frames <- function(book, frames) {
  alone <- if (is.data.frame(frames)) list(frames) else frames
  if (!is.list(alone) || length(alone) != 1 || !is.null(names(alone))) return(frames)
  entries <- unique(vapply(book$exports, `[[`, "", "entry"))
  if (length(entries) == 1) return(with_names(alone, entries))
  stop_mavik("build_error", "the codebook has ", count_of(length(entries), "export"), " (",
    some_of(entries), "): say which the data frame is, `exports = list(", entries[1], " = ...)`")
}

check_frame_names <- function(book, frames) {
  if (!is.list(frames) || (length(frames) > 0 && is.null(names(frames)))) {
    stop_mavik("build_error", "`exports` must be a list of data frames, named by export")
  }
  entries <- unique(vapply(book$exports, `[[`, "", "entry"))
  unknown <- setdiff(names(frames), entries)
  if (length(unknown) > 0) stop_mavik(
    "build_error", "`", unknown[1], "` is not an export of the codebook",
    did_you_mean(unknown[1], entries)
  )
}

# A pattern of file names stands for an export a file, in the C order of their names.
one_a_file <- function(export, book) {
  files <- export_files(export, book)
  if (length(files) == 0) return(list(export))
  lapply(files, function(file) {
    export$name <- paste0(export$name, ":", basename(file))
    export$file <- file
    export
  })
}

# The files of an export, as the codebook writes them.
export_files <- function(export, book) {
  if (!is_pattern(export$file)) return(export$file)
  books <- sort_c(list.files(
    dirname(export_path(export, book)), utils::glob2rx(basename(export$file))
  ))
  books <- books[!grepl("^[.~]", books)]
  if (dirname(export$file) == ".") books else file.path(dirname(export$file), books)
}

# Each part is of one wave and one export.
bind_records <- function(parts, folder = NULL) {
  bind <- function(name) joined_texts(lapply(parts, `[[`, name))
  same <- function(name) {
    if (is.null(folder)) return(bind(name))
    value <- vapply(parts, function(part) {
      if (length(part[[name]]) > 0) part[[name]][[1]] else NA_character_
    }, "")
    known <- unique(value)
    sizes <- lengths(lapply(parts, `[[`, "line"))
    held_vector(listed_texts(rep(match(value, known), sizes), known), folder)
  }
  records <- with_numbers(list(
    wave = same("wave"), key = bind("key"), id = bind("id"), export = same("export"),
    line = bind("line")
  ), !is.null(folder) && sum(lengths(lapply(parts, `[[`, "line"))) >= least_held())
  if (has_gaps(records$id)) records$id[is.na(records$id)] <- records$key[is.na(records$id)]
  if (alike_texts(records$id, records$key)) records$id <- NULL
  records
}

# What sheets call a respondent: the key; of numbered records the response number.
ids_of <- function(records) if (is.null(records$id)) records$key else records$id

# `export` is the place of each row's export in the book.
rows_of_records <- function(records, book) {
  list(n = length(records$key), key = records$key, id = ids_of(records), wave = records$wave,
    export = match_texts(records$export, names(book$exports)))
}

with_disposition <- function(values, disposition, book) {
  for (variable in book$variables) if (is_disposition(variable))
    values[[variable$name]] <- new_column(disposition)
  values[names(book$variables)]
}

# The raw cells of a study are read again; data frames have to be given again.
frames_given <- function(study, exports, book) {
  exports <- named_frames(book, exports)
  if (!inherits(study, "mavik_study")) return(exports)
  of_frames <- vapply(Filter(function(facts) is.null(facts$file), study$inputs), `[[`, "", "export")
  of_frames <- unique(vapply(study$book$exports[of_frames], `[[`, "", "entry"))
  lacking <- setdiff(of_frames, names(exports))
  if (length(lacking) > 0) stop_mavik("build_error", "this study was built from data frames: give ",
    some_of(lacking), " again, `exports = list(", lacking[1], " = ...)`")
  exports
}
