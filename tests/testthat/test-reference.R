# The reference of the language comes from the tables that check a codebook.

yaml_value <- function(text) yaml::yaml.load(text, handlers = core$text_handlers)

test_that("every key of the language has a line of help and an example that reads", {
  fields <- function(table, place) {
    for (key in names(table)) {
      field <- table[[key]]
      if (field$type == "given") next
      at <- paste(place, key, sep = " > ")
      # The way's own line stands for the key that holds its keys.
      if (key != "own" || field$type != "map") expect_true(nzchar(field$help), info = at)
      shown <- core$example_shown(key, field)
      expect_true(nzchar(shown), info = at)
      problems <- character()
      value <- core$read_field(yaml_value(shown)[[key]], field, key, function(path, message) problems <<- c(problems, message))
      expect_equal(problems, character(), info = at)
      expect_false(is.null(value), info = at)
      expect_false(core$type_words(field) == field$type, info = at)
      inner <- core$inner_fields(field)
      if (!is.null(inner)) fields(inner, at)
    }
  }
  for (place in names(core$language_places())) fields(core$language_places()[[place]], place)
  for (kind in c(core$open_ways(), core$rules(), core$screens())) fields(c(list(own = kind$value), kind$beside), kind$help)
})

test_that("the examples of ways, rules, screens and functions hold in the demo's codebook", {
  demo <- core$unclass_document(read_codebook(demo_project(tempfile(), waves = 2)))
  sections <- list(variables = core$open_ways(), rules = core$rules(), screens = core$screens())
  for (section in names(sections)) for (kind in names(sections[[section]])) {
    one <- sections[[section]][[kind]]
    expect_true(nzchar(one$help), info = kind)
    document <- demo
    own <- yaml_value(paste(one$example, collapse = "\n"))
    expect_true(all(vapply(own, function(entry) kind %in% names(entry), TRUE)), info = kind)
    document[[section]][names(own)] <- own
    expect_s3_class(read_codebook(document), "mavik_codebook")
  }
  book <- core$compile_codebook(read_codebook(demo))
  for (name in names(core$expr_functions)) {
    known <- core$expr_functions[[name]]
    expect_match(known$example, name, fixed = TRUE)
    expect_true(nzchar(known$help), info = name)
    problems <- character()
    say <- function(path, message) problems <<- c(problems, message)
    read <- list(core$compile_expression(known$example, book, "x", say), core$compile_expression(known$example, book, "x", say, "number"))
    expect_length(Filter(Negate(is.null), read), 1)
  }
})

test_that("what the outputs and the JSON of the commands hold is what the reference says", {
  project <- demo_project(tempfile(), waves = 2)
  study <- build_study(project)
  out <- write_study(study)
  outputs <- core$parts_named("output_")
  expect_setequal(vapply(outputs, `[[`, "", "file"), list.files(out))
  for (output in outputs) {
    expect_true(nzchar(output$help), info = output$file)
    if (length(output$columns) == 0) next
    columns <- names(utils::read.csv(file.path(out, output$file), nrows = 1, check.names = FALSE))
    expect_equal(utils::head(columns, length(output$columns)), names(output$columns), info = output$file)
  }
  expect_true(all(findings(study)$kind %in% names(core$finding_kinds)))
  expect_true(all(ledger(study)$kind %in% names(core$ledger_kinds)))
  raw <- file.path(project, "raw/spring.csv")
  typed <- file.path(project, "sheets", c("spring_paper.xlsx", "second.xlsx"))
  expect_equal(command("entry", project, "--wave", "spring", "--forms", "2", "--onto")$status, 0)
  type_forms(typed[1], data.frame(`Member no` = "9001", Q3 = "Alto", check.names = FALSE))
  file.copy(typed[1], typed[2])
  new_secret(secret <- tempfile())
  calls <- list(
    "look FILE" = c("look", raw), "check PROJECT" = c("check", project), "check PROJECT --where CONDITION" = c("check", project, "--where", "years > 60"),
    "check PROJECT --respondent ID" = c("check", project, "--respondent", "0188"), "build PROJECT" = c("build", project),
    "why VARIABLE" = c("why", "years", "--project", project), "why VARIABLE ID" = c("why", "years", "0188", "--project", project),
    "answers VARIABLE" = c("answers", "voice", "--project", project), "answers VARIABLE --waves" = c("answers", "voice", "--waves", "--project", project),
    "scales" = c("scales", "--project", project), "compare OLD NEW" = c("compare", out, out),
    entry = c("entry", project, "--wave", "autumn"), "entry --print FILE.html" = c("entry", project, "--wave", "spring", "--print", tempfile(fileext = ".html")),
    "entry --compare FIRST SECOND" = c("entry", "--compare", typed, "--project", project),
    view = c("view", project, "--out", tempfile(fileext = ".html")), "release NAME" = c("release", "public", "--secret", secret, "--project", project),
    "align WAVE FILE" = c("align", "autumn", "--dry-run", "--project", project),
    "align 'PATTERN' FILE..." = c("align", "aut*", "--dry-run", "--project", project), "reference" = c("reference")
  )
  shapes <- unlist(lapply(unname(core$commands()), `[[`, "json"), recursive = FALSE)
  expect_setequal(names(shapes), names(calls))
  for (name in names(calls)) {
    told <- jsonlite::fromJSON(paste(utils::capture.output(invisible(core$run_command(c(calls[[name]], "--json")))), collapse = "\n"), simplifyVector = FALSE)
    keys <- names(if (is.null(names(told))) told[[1]] else told)
    said <- names(shapes[[name]])
    if ("..." %in% said) expect_equal(utils::head(keys, length(said) - 1), setdiff(said, "...")) else expect_equal(keys, said, info = name)
  }
})

test_that("mavik reference finds every key, and the page and the help page hold them all", {
  entries <- core$language_entries()
  words <- rbind(core$vocabulary_entries(), core$json_entries())
  for (key in unique(entries$key)) expect_true(any(core$entries_named(entries, key)$key == key), info = key)
  expect_equal(core$entries_named(entries, "exports > heading")$place, "exports > EXPORT")
  expect_equal(core$entries_named(entries, "study.wave_change.share")$key, "share")
  expect_setequal(core$entries_named(entries, "bands")$key, c("bands", "of", "starts", "ends", "codes"))
  expect_setequal(core$words_named(words, "ledger.csv")$key, c(names(core$output_ledger$columns), names(core$ledger_kinds), "ledger.csv"))
  all <- command("reference")
  expect_equal(all$status, 0)
  for (key in names(core$open_ways())) expect_true(any(grepl(paste0("^  ", key, " "), all$out)), info = key)
  score <- command("reference", "score")$out
  expect_true(any(grepl("at_least: 4", score)) && any(grepl("take: mean", score)))
  wrong <- command("reference", "rnage")
  expect_equal(wrong$status, 2)
  expect_match(wrong$err, "no key of the language; did you mean `range`", all = FALSE)
  file <- tempfile(fileext = ".html")
  expect_equal(command("reference", "--html", file)$status, 0)
  page <- paste(readLines(file, encoding = "UTF-8"), collapse = "\n")
  shown <- function(text) grepl(htmltools::htmlEscape(text), page, fixed = TRUE)
  expect_true(all(vapply(c(entries$key, words$key), shown, TRUE)))
  skip_if_not(nzchar(Sys.getenv("MAVIK_SOURCE")))
  expect_equal(readLines(file.path(Sys.getenv("MAVIK_SOURCE"), "docs/reference.html"), encoding = "UTF-8"), readLines(file, encoding = "UTF-8"))
  rd <- utils::capture.output(tools::Rd2txt(file.path(Sys.getenv("MAVIK_SOURCE"), "man/codebook_language.Rd"), options = list(underline_titles = FALSE)))
  plain <- function(text) gsub("[^[:alnum:]]+", "", paste(text, collapse = " "))
  rd <- plain(rd)
  for (at in seq_len(nrow(entries))) expect_true(grepl(plain(paste(entries$key[at], if (entries$required[at]) "(needed)", entries$help[at])), rd, fixed = TRUE), info = entries$key[at])
})

test_that("what the codebook page says of a variable's cells is how they are read", {
  book <- core$compile_codebook(read_codebook(demo_project(tempfile(), waves = 2)))
  several <- core$compile_codebook(read_codebook(test_path("language.yml")))
  said <- 0
  for (book in list(book, several)) for (variable in Filter(function(one) one$way == "column", book$variables)) {
    exports <- Filter(function(export) !core$is_absent(core$version_in(variable, export)), book$exports)
    read_as <- function(form) lapply(exports, function(export) core$decode_cells(form, core$version_in(variable, export), export, book))
    forms <- core$written_gaps(variable, book)
    for (label in names(forms)) for (form in forms[[label]]) {
      said <- said + 1
      expect_true(any(vapply(read_as(form), function(read) identical(book$reasons$label[max(read$reason, 1L)], label) && is.na(read$value), TRUE)), info = paste(variable$name, form))
    }
    for (target in names(variable$variants)) for (form in variable$variants[[target]]) {
      expect_true(all(vapply(read_as(form), function(read) read$value %in% core$variant_value(variable, target), TRUE)), info = paste(variable$name, form))
    }
  }
  expect_gt(said, 100)
  words <- core$reading_in_words(several$variables$years, several)
  expect_equal(words[1], "Asked where `member == \"Yes\"`.")
  expect_match(words[2], "\u201cthree\u201d as \u201c3\u201d; \u201cten years\u201d as \u201c10\u201d")
  expect_match(core$made_in_words(book$variables$years, several), "In wave `autumn`: column \u201cQ5\u201d")
})

# The kinds that the code gives: a level, and behind it the kind, in any call.
kinds_given <- function(files) {
  found <- character()
  walk <- compiler::cmpfun(function(one) {
    if (is.call(one)) {
      texts <- vapply(as.list(one)[-1], function(arg) if (is.character(arg) && length(arg) == 1) arg else "", "")
      at <- which(utils::head(texts, -1) %in% c("error", "warning", "note"))
      if (length(at) > 0 && !as.character(one[[1]])[1] %in% c("c", "%in%", "if")) found <<- c(found, texts[at + 1])
    }
    if (is.call(one) || is.pairlist(one) || is.expression(one)) for (part in as.list(one)) if (!missing(part)) walk(part)
  })
  for (file in files) {
    # Where no level stands there is none to walk to.
    if (!any(grepl("\"(error|warning|note)\"", readLines(file, encoding = "UTF-8")))) next
    walk(parse(file, keep.source = FALSE, encoding = "UTF-8"))
  }
  unique(grep("^[a-z_]+$", found, value = TRUE))
}

test_that("every kind of finding that the code gives is in the reference, and no other", {
  files <- source_files(source_folder())
  given <- kinds_given(files)
  expect_gt(length(given), 40)
  expect_equal(setdiff(given, names(core$finding_kinds)), character())
  # The rest stands where the level or the kind is worked out: as a text all the same.
  text <- paste(unlist(lapply(setdiff(files, grep("value-kinds", files, value = TRUE)), readLines, encoding = "UTF-8")), collapse = "\n")
  for (kind in setdiff(names(core$finding_kinds), given)) expect_true(grepl(paste0("\"", kind, "\""), text, fixed = TRUE), info = kind)
})

# Words that gave way to the trade's: none of them where people read.
test_that("no word that gave way to the trade's is left in help, messages, pages and documents", {
  gone <- c(
    "\\b(dress(ed)?|clothes)\\b", "\\b(not put|was put|were put|is put to|questions put|[Pp]ut where|Put:)", "\\b[Gg]ates?\\b", "no way of making", "[Mm]ade variables?\\b",
    "\\b(wave_figures|figure_waves|settle_wave)\\b", "[Ff]igures (of|by|that)", "record\\.json", "\\b([Ww]ho stays|[Cc]ame in|came_in|would stay|that stay)\\b",
    "\\b(looked_in|hasty|one_answer|test_record|evenings_guessed)\\b", "\\{straight:|screen `straight`", "\\b(not_asked_for|coded_nobody|near_key|direction_turned)\\b",
    "Asked for by nobody|Who is meant|Meet it|\"Met\"", "\\bretyped\\b|\\bsettled_absent\\b|near, for a person|[Nn]ear, for a person", "(waits|wait) for a person", "\\blook: ",
    "housekeeping", "other guard", "[Tt]hin cells", "stepped up", "(against|edge)=", "(stands|stand) twice", "all that they told", "\\btwins?\\b", "--dry\\b(?!-run)", "--page\\b", "--labels (WHICH|older|newer)",
    "How settled", "How far the (singer|respondent)", "Response ref|Start time|Preview"
  )
  project <- demo_project(tempfile(), waves = 2)
  built <- command("build", project)$out
  out <- file.path(project, "out")
  page <- function(file) xml2::xml_text(xml2::read_html(file))
  texts <- c(
    unlist(lapply(names(core$commands()), function(name) core$command_help(name, core$commands()[[name]]))), core$overview(core$commands()), core$reference_overview(core$language_entries()),
    page(file.path(out, "codebook.html")), page(file.path(out, "report.html")), readLines(file.path(project, "choirs.yml")), command("look", file.path(project, "raw/spring.csv"))$out,
    command("check", project)$out, built, draft_codebook(file.path(project, "raw/spring.csv"))
  )
  source <- Sys.getenv("MAVIK_SOURCE")
  if (nzchar(source)) {
    messages <- unlist(lapply(list.files(file.path(source, "R"), full.names = TRUE), function(file) {
      parsed <- utils::getParseData(parse(file, keep.source = TRUE, encoding = "UTF-8"))
      parsed$text[parsed$token == "STR_CONST"]
    }))
    # The heading words by which an input is recognised are the input's own.
    messages <- setdiff(messages, unlist(lapply(c("paradata_words", "personal_words"), function(name) deparse(core[[name]]))))
    documents <- c(file.path(source, "README.md"), list.files(file.path(source, "man"), full.names = TRUE), file.path(source, "docs/reference.html"), file.path(source, "docs/handbook.md"))
    texts <- c(texts, messages, unlist(lapply(documents, readLines, encoding = "UTF-8")))
  }
  for (word in gone) expect_equal(unique(grep(word, texts, perl = TRUE, value = TRUE)), character(), info = word)
})
