# Every breach of the rooms in a folder of sources, in words.
breaches <- function(folder) {
  files <- source_files(folder)
  facts <- file_facts(files)
  speaking <- unlist(lapply(which(!room_of(files) %in% interface), function(i) {
    calls <- facts[[i]]$calls
    wrong <- c(intersect(calls, doors), grep("^(cli|htmltools|ggplot2|getopt)::", calls, value = TRUE))
    paste(basename(files[i]), "calls", wrong, recycle0 = TRUE)
  }))
  # What is said of a way, the contract asks for: only its own file knows it by name.
  naming <- unlist(lapply(setdiff(files, file.path(folder, "R", "codebook-ways.R")), function(file) {
    if (room_of(file) == "way") return(NULL)
    found <- grep("[$]way (==|!=|%in%)? *c?[(]?\"|switch[(][a-z]*[$]way|\\bway_[a-z]+[$]", readLines(file, encoding = "UTF-8"))
    paste0(basename(file), ":", found, " knows a way by name", recycle0 = TRUE)
  }))
  arrows <- room_arrows(folder)
  c(speaking, naming, arrows_upward(folder, arrows), paste(rooms_in_circle(arrows), "goes in a circle", recycle0 = TRUE))
}

test_that("no name is defined twice", {
  names <- unlist(lapply(file_facts(source_files(source_folder())), `[[`, "defined"))
  expect_gt(length(names), 1000)
  expect_equal(names[duplicated(names)], character())
})

test_that("rooms call only those before them, the core speaks to nobody, and the test sees it when they do", {
  folder <- source_folder()
  expect_equal(breaches(folder), character())
  copy <- tempfile()
  dir.create(copy)
  file.copy(file.path(folder, "R"), copy, recursive = TRUE)
  spoil <- function(file, line) {
    path <- file.path(copy, "R", file)
    old <- readLines(path, encoding = "UTF-8")
    writeLines(c(old, line), path, useBytes = TRUE)
    on.exit(writeLines(old, path, useBytes = TRUE))
    breaches(copy)
  }
  expect_equal(spoil("study-build.R", "shout <- function(x) print(x)"), "study-build.R calls print")
  expect_equal(spoil("way-score.R", "shout <- function(x) cli::cli_text(x)"), "way-score.R calls cli::cli_text")
  expect_equal(spoil("part-lists.R", "shout <- function(x) lapply(x, say_error)")[1], "part-lists.R -> cli-messages.R: say_error")
  expect_match(spoil("word-asked.R", "shout <- function(x) x$way == \"option\""), "word-asked.R:[0-9]+ knows a way by name")
  round <- spoil("table-counts.R", "shout <- function(x) examine_scales(x)")
  expect_true("table-counts.R -> scale-examine.R: examine_scales" %in% round)
  expect_true(all(c("table goes in a circle", "scale goes in a circle") %in% round))
  writeLines("x <- 1", file.path(copy, "R", "misc.R"))
  expect_equal(breaches(copy), "misc.R stands in no room")
})

test_that("the core builds and writes a study on its own, without a word", {
  # Sources that run once are not worth compiling.
  before <- compiler::enableJIT(0)
  withr::defer(compiler::enableJIT(before))
  alone <- source_package()
  project <- demo_project(tempfile())
  said <- utils::capture.output(type = "message", shown <- utils::capture.output(out <- alone$write_study(alone$build_study(project), tempfile())))
  expect_equal(c(said, shown), character())
  full <- write_study(build_study(project), tempfile())
  expect_setequal(list.files(out), setdiff(list.files(full), c("codebook.html", "report.html", "tables.html")))
  for (name in setdiff(list.files(out), "provenance.json")) expect_equal(bytes_of(file.path(out, name)), bytes_of(file.path(full, name)), info = name)
})

# One file each, as somebody would add them.
added_files <- list(
  "write-as-names.R" = c(
    "format_names <- new_format(", "  help = 'the names alone', cannot = 'all else',", "  files = function(edition) 'names.txt',",
    "  write = function(edition, folder) write_checked(line_bytes(c(edition$n, edition$names)), file.path(folder, 'names.txt')),",
    "  back = function(edition, folder) {", "    lines <- readLines(file.path(folder, 'names.txt'))", "    list(n = as.integer(lines[1]), names = lines[-1])", "  }", ")"
  ),
  "read-lines.R" = c(
    "reader_lines <- new_reader(", "  knows = function(source, first, entries) begins_with(first, 0x7B),", "  read = function(source, options, shown) {",
    "    frame <- jsonlite::stream_in(file(source), verbose = FALSE)", "    reader_frame$read(frame, options, shown)", "  }", ")"
  ),
  "way-doubled.R" = c(
    "way_doubled <- new_way(", "  help = \"twice a number\", example = \"twice: {label: Twice, doubled: years}\",", "  value = field(\"text\", \"the number\", \"years\"),",
    "  uses = function(variable, book) variable$settings,", "  makes = function(variable, book) {", "    if (is.null(variable$level)) variable$level <- \"ratio\"",
    "    variable$storage <- \"number\"", "    variable", "  },", "  compute = function(variable, inputs, book, rows) {",
    "    new_column(2 * inputs[[1]]$value, reason_or_none(inputs[[1]]))", "  },", "  sentence = function(variable, book) paste0(\"Twice \", variable$settings, \".\")", ")"
  ),
  "rule-whole.R" = c(
    "rule_whole <- new_rule(", "  help = \"numbers without decimals\", example = \"whole_years: {whole: years}\",", "  value = field(\"text\", \"the number\", \"years\"),",
    "  makes = function(rule, book, say) { rule$reads <- rule$settings; rule },", "  compute = function(rule, inputs, book, rows) list(rows = which(inputs[[1]]$value %% 1 != 0)),",
    "  sentence = function(rule, book) paste0(\"`\", rule$settings, \"` has no decimals\")", ")"
  ),
  "screen-named.R" = c(
    "screen_named <- new_screen(", "  help = \"drops the respondents that it names\", example = \"left_us: {named: ['0150', '0597']}\",", "  value = field(\"texts\", \"their keys\", \"['0150']\"),",
    "  makes = function(screen, book, say) { screen$reads <- key_variable(book); screen },", "  compute = function(screen, inputs, state, book, n) list(rows = which(inputs[[1]]$value %in% screen$settings)),",
    "  sentence = function(screen, book) paste(\"those named:\", some_of(screen$settings))", ")"
  ),
  "write-keys.R" = c("output_keys <- list(", "  file = \"keys.csv\", help = \"the keys\", columns = c(key = \"the key\"),", "  write = function(study, path) write_csv(list(key = retained_of(study$records$key, study)), path)", ")"),
  "cli-count.R" = c(
    "command_count <- list(", "  place = 99, summary = \"Count the records\", arguments = \"[PROJECT]\", most = 1, example = \"mavik count choirs\",", "  options = function() list(),",
    "  run = function(given) {", "    show_lines(paste(nrow(build_study(given$args)$data), \"records\"))", "    0L", "  }", ")"
  )
)

test_that("a reader, a way, a rule, a screen, an output, a format and a command are one file each, and first-class", {
  before <- compiler::enableJIT(0)
  withr::defer(compiler::enableJIT(before))
  folder <- tempfile()
  dir.create(folder)
  for (name in names(added_files)) writeLines(added_files[[name]], file.path(folder, name))
  pkg <- source_package(TRUE, list.files(folder, full.names = TRUE))
  # The names of one kind are found once a session: the sources read here have a session of their own.
  lines <- tempfile(fileext = ".json")
  writeLines(c("{\"id\": \"01\", \"part\": \"High\"}", "{\"id\": \"02\"}"), lines)
  conform_reader(pkg, "lines", lines, data.frame(id = c("01", "02"), part = c("High", "")))
  conform_way(pkg, "doubled", list(x = number("x"), made = list(label = "D", doubled = "x")))
  conform_part(pkg, "rules", "whole", met = FALSE)
  conform_part(pkg, "screens", "named")
  project <- demo_project(tempfile())
  lines <- readLines(file.path(project, "choirs.yml"), encoding = "UTF-8")
  lines <- sub("^rules:", "  twice: {label: Twice, doubled: years}\n\nrules:\n  whole_years: {whole: years}", sub("^screens:", "screens:\n  left_us: {named: ['0150']}", lines))
  writeLines(lines, file.path(project, "choirs.yml"), useBytes = TRUE)
  study <- pkg$build_study(project)
  expect_equal(study$data$twice, 2 * study$data$years)
  expect_equal(sum(study$disposition == "left_us"), sum(study$records$key == "0150"))
  expect_equal(study$checked$whole_years$rows, 0L)
  conform_output(pkg, pkg$output_keys, study)
  conform_command(pkg, "count")
  conform_format(pkg, "names", pkg$edition_of(study, study$book$releases$archive))
  out <- pkg$write_study(study)
  expect_equal(readLines(file.path(out, "keys.csv"))[1:2], c("key", study$records$key[study$retained[1]]))
  page <- paste(readLines(file.path(out, "codebook.html"), encoding = "UTF-8"), collapse = "")
  expect_match(page, "Twice years.")
  expect_equal(utils::capture.output(status <- pkg$run_command(c("count", project))), paste(nrow(study$data), "records"))
  expect_equal(status, 0L)
  expect_setequal(pkg$entries_named(pkg$language_entries(), "doubled")$key, "doubled")
  expect_true(any(grepl("keys.csv", pkg$vocabulary_entries()$key)))
  expect_match(paste(utils::capture.output(pkg$run_command("--help")), collapse = "\n"), "count +Count the records")
  expect_match(tryCatch(pkg$read_codebook(small_codebook(d = list(label = "D", doubeld = "part"))), error = conditionMessage), "did you mean `doubled`")
})

test_that("lines are at most 100 characters wide, functions 45 lines, files 300", {
  files <- source_files(source_folder())
  lines <- lapply(stats::setNames(files, basename(files)), readLines, encoding = "UTF-8")
  expect_equal(Filter(function(wide) length(wide) > 0, lapply(lines, function(text) text[nchar(text) > 100])), structure(list(), names = character()))
  expect_equal(names(lines)[lengths(lines) > 300], character())
  long <- unlist(lapply(files, function(file) {
    code <- parse(file, keep.source = TRUE, encoding = "UTF-8")
    sizes <- vapply(attr(code, "srcref"), function(at) at[3] - at[1] + 1L, 0L)
    is_function <- vapply(code, function(one) is.call(one) && length(one) == 3 && is.call(one[[3]]) && identical(one[[3]][[1]], as.name("function")), TRUE)
    paste(basename(file), vapply(code[is_function & sizes > 45], function(one) as.character(one[[2]]), ""), recycle0 = TRUE)
  }))
  expect_length(long, 0)
})

# The arguments that a function never reads.
unread_arguments <- function(act) setdiff(names(formals(act)), c(all.names(body(act)), unlist(lapply(formals(act), all.names)), "..."))

test_that("no function takes what it does not read", {
  expect_equal(unread_arguments(function(a, b, c = b, ...) a + 1), "c")
  # Constructors take their fields as they are, methods and parts of a contract what the others of their kind take.
  given <- "^new_|^[.]onLoad$|^as[.]data[.]frame[.]|^\\[<-[.]|^expr_set$"
  names <- grep(given, Filter(function(name) is.function(core[[name]]), ls(core)), value = TRUE, invert = TRUE)
  expect_gt(length(names), 2000)
  expect_equal(unlist(lapply(names, function(name) paste(name, unread_arguments(core[[name]]), recycle0 = TRUE))), character())
})

test_that("what rooms hand each other has no field that its constructor does not name", {
  named <- function(shape) setdiff(names(formals(core[[shape]])), "...")
  expect_shape <- function(thing, shape) expect_equal(setdiff(names(thing), named(shape)), character(), info = shape)
  expect_book <- function(book) {
    expect_shape(book, "new_book")
    for (variable in book$variables) for (version in core$all_versions(variable)) expect_shape(version, "new_variable")
    for (export in book$exports) expect_shape(export, "new_export")
  }
  expect_book(core$compile_codebook(read_codebook(test_path("language.yml"))))
  study <- build_study(demo_project(tempfile(), waves = 2))
  expect_book(study$book)
  expect_shape(study, "new_study")
  expect_shape(core$tally_study(study), "new_study")
  # A book is a value: nothing on it is shared behind anybody's back, but for where its functions are.
  environments_on <- function(x) {
    if (is.environment(x)) return(1L)
    parts <- c(attributes(x)[setdiff(names(attributes(x)), "names")], if (is.list(x)) unclass(x))
    unlist(lapply(unname(parts), environments_on))
  }
  expect_equal(environments_on(list(new.env(), structure(1, at = new.env()))), c(1L, 1L))
  expect_null(environments_on(study$book))
  for (finding in study$findings) expect_shape(finding, "new_finding")
  for (entry in study$ledger) expect_shape(entry, "new_entry")
  # And a name that is nowhere used is no field: each is read by some file.
  code <- unlist(lapply(list.files(file.path(source_folder(), "R"), full.names = TRUE), readLines))
  read <- unlist(regmatches(code, gregexpr("[$][a-z_.0-9]+|\"[a-z_.0-9]+\"", code)))
  read <- unique(gsub("[$\"]", "", read))
  for (shape in c("new_book", "new_variable", "new_export", "new_study", "new_pair")) {
    expect_equal(setdiff(named(shape), read), character(), info = shape)
  }
})
