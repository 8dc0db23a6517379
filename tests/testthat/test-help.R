tagged <- function(rd, tag) Filter(function(part) identical(attr(part, "Rd_tag"), tag), rd)
text_in <- function(x) paste(if (is.list(x)) unlist(lapply(x, text_in)) else as.character(x), collapse = "")

# What a page sets in code type, below this part.
codes_of <- function(part) {
  if (identical(attr(part, "Rd_tag"), "\\code")) return(text_in(part))
  if (is.list(part)) unlist(lapply(part, codes_of))
}

# Names, classes and short texts of a result: as deep as it takes to find what is told, six levels
# at most.
said_by <- function(x, told, known) {
  known <- c(known, class(x))
  level <- list(x)
  for (depth in 0:5) {
    if (all(told %in% known)) return(known)
    known <- c(known, unlist(lapply(level, function(x) c(
      names(x), class(x), names(attributes(x)), if (is.character(x) || is.factor(x)) told[told %in% x]
    ))))
    level <- unlist(lapply(level, function(x) if (depth == 0 || !inherits(x, "mavik_study")) c(
      if (is.list(x)) unclass(x), if (depth < 2) attributes(x)[setdiff(names(attributes(x)), "names")]
    )), recursive = FALSE)
  }
  known
}

delayedAssign("one", build_study(demo_project(tempfile())))
delayedAssign("two", build_study(demo_project(tempfile(), 2)))
# What most examples begin with is built once.
begun <- list(
  list(quote(study <- build_study(demo_project(tempfile()))), quote(study <- one)),
  list(quote(study <- build_study(demo_project(tempfile(), waves = 2))), quote(study <- two))
)
delayedAssign("written", list.files(write_study(two, tempfile("out"))))

# What the Value section names and the page's own example does not come to.
beyond_example <- list(
  align_wave.Rd = quote(list(align_wave(demo_project(tempfile(), 2), "autumn"), align_wave(project, "autumn", file.path(project, "raw/autumn.xlsx"), decisions = transform(alignment$lines, decision = ifelse(match == "only_new", "best", ""))))),
  answers.Rd = quote(list(answers(study, c("voice", "years"), by = c("member", "region"), nested = TRUE), answers(study, c("years", "remarks", "reasons"), where = "years > 0"))),
  choose_records.Rd = quote(written),
  coding_sheet.Rd = quote({
    coding_sheet(project, "best_codes", sheet <- tempfile(fileext = ".csv"))
    rows <- utils::read.csv(sheet, colClasses = "character", check.names = FALSE)
    rows[1, "code 1"] <- "the harbour"
    rows[2, "answer"] <- "something else"
    rows[3, c("respondent", "code 1")] <- c("9999", "the harbour")
    utils::write.csv(rows, sheet, row.names = FALSE)
    list(coding_sheet(project, "best_codes", sheet), coding_sheet(project, "reasons", tempfile(fileext = ".csv")))
  }),
  compare_entries.Rd = quote(list(compare_entries(project, typed("Yes"), typed(""))$differences)),
  correction_sheet.Rd = quote(correction_sheet(project, tempfile(fileext = ".xlsx"))),
  draft_onto.Rd = quote(draft_onto(project, file.path(project, "raw/spring.csv"))),
  entry_sheet.Rd = quote(read_codebook(project)),
  find_records.Rd = quote(find_records(project, "years > 5")),
  findings.Rd = quote(list(findings(study), "error")),
  objects.Rd = quote(list(summary(examine_scales(study)), summary(align_wave(project, "autumn", file.path(project, "raw/autumn.xlsx"))))),
  read_export.Rd = quote(read_export(file.path(project, "raw/autumn.xlsx"), c("names", "questions"))),
  release_study.Rd = quote(release_study(study, "public", tempfile("release"), secret = new_secret(tempfile()))),
  study_table.Rd = quote(list(study_table(study, shape = "long"), study_table(two, shape = "wide", gaps = "beside"), who_and_when = core$who_and_when(local({ study$book$variables[c("singer", "wave")] <- NULL; study }), 1:3, "codes"))),
  wave_statistics.Rd = quote(wave_statistics(two, c("voice", "years"), weight = "years")),
  why.Rd = quote(written),
  write_decisions.Rd = quote(transform(read_decisions(file), decision = c("accept", "reject", rep("", nrow(read_decisions(file)) - 2)))),
  write_study.Rd = quote(written),
  write_tables_again.Rd = quote(written)
)

test_that("every exported function has a help page whose example runs and whose Value is what comes back", {
  withr::local_options(list(warn = 2, cli.num_colors = 1L))
  withr::local_dir(withr::local_tempdir())
  withr::local_pdf(NULL)
  pages <- list.files(file.path(source_folder(), "man"), "[.]Rd$", full.names = TRUE)
  pages <- pages[basename(pages) != "mavik-package.Rd"]
  aliases <- character()
  set.seed(7)
  before <- list(options(), Sys.getlocale(), getwd(), .Random.seed)
  for (page in pages) {
    rd <- suppressWarnings(tools::parse_Rd(page))
    names <- vapply(tagged(rd, "\\alias"), text_in, "")
    aliases <- c(aliases, names)
    functions <- Filter(is.function, mget(names, envir = asNamespace("mavik"), ifnotfound = NA))
    example <- tagged(rd, "\\examples")
    expect_length(example, 1)
    expect_false(grepl("dontrun|donttest", paste(readLines(page), collapse = "\n")), info = page)
    env <- new.env(parent = environment())
    known <- c(names, unlist(lapply(functions, function(one) names(formals(one)))))
    told <- as.character(unlist(lapply(tagged(rd, "\\value"), codes_of)))
    told <- told[grepl("^[a-z][a-zA-Z_.0-9]*$", told)]
    shown <- utils::capture.output(for (line in as.list(parse(text = text_in(example), keep.source = FALSE))) {
      for (pair in begun) if (identical(line, pair[[1]])) line <- pair[[2]]
      value <- withVisible(tryCatch(eval(line, env), error = function(e) fail(paste0(basename(page), ": ", conditionMessage(e)))))
      if (value$visible) print(value$value)
      known <- said_by(value$value, told, known)
    })
    if (!is.null(beyond_example[[basename(page)]])) {
      if (is.null(env$project)) env$project <- demo_project(tempfile())
      if (is.null(env$study)) env$study <- one
      if (!all(told %in% known)) utils::capture.output(known <- said_by(eval(beyond_example[[basename(page)]], env), told, known))
    }
    # An example shows something, and does not leave its reader with a promise.
    if (length(functions) > 0) expect_true(length(shown) > 0 || "ggplot" %in% known, info = page)
    if (any(names %in% getNamespaceExports("mavik"))) expect_gt(length(tagged(rd, "\\value")), 0)
    expect_equal(setdiff(told, known), character(), info = basename(page))
  }
  expect_equal(setdiff(getNamespaceExports("mavik"), aliases), character())
  after <- list(options(), Sys.getlocale(), getwd(), .Random.seed)
  for (at in 2:4) expect_identical(after[[at]], before[[at]])
  shared <- intersect(names(before[[1]]), names(after[[1]]))
  expect_identical(after[[1]][shared], before[[1]][shared])
})
