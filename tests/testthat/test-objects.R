test_that("objects have the size, table, summary and text that an R user expects", {
  project <- demo_project(tempfile(), 2)
  study <- build_study(project)
  table <- study_table(study)
  expect_equal(c(nrow(study), ncol(study)), dim(table))
  expect_equal(as.data.frame(study, values = "labels"), study_table(study, values = "labels"))
  export <- read_export(file.path(project, "raw/spring.csv"), c("names", "questions"))
  expect_equal(dim(export), dim(as.data.frame(export)))
  told <- summary(study)
  expect_equal(told$name, names(table))
  expect_equal(told$answered, unname(vapply(table, function(one) sum(!is.na(one)), 0L)))
  years <- told[told$name == "years", ]
  expect_equal(c(years$mean, years$min, years$max), c(mean(table$years, na.rm = TRUE), range(table$years, na.rm = TRUE)))
  expect_true(is.na(told$mean[told$name == "voice"]))
  book <- read_codebook(project)
  expect_equal(as.data.frame(book)$name[as.data.frame(book)$kept], names(table))
  expect_true(as.data.frame(book)$private[as.data.frame(book)$name == "email"])
  found <- answers(study, c("voice", "years", "belong", "reasons"))
  expect_equal(names(found$tables), c("voice", "years", "belong", "reasons"))
  frame <- as.data.frame(found)
  expect_equal(frame$count[frame$variable == "voice" & frame$label %in% "Alto"], sum(table$voice == 2, na.rm = TRUE))
  expect_setequal(unique(frame$variable), names(found$tables))
  scales <- examine_scales(study)
  expect_true("belonging" %in% names(scales$scales))
  expect_equal(sort(unique(as.data.frame(scales)$scale)), "belonging")
  check <- check_study(study)
  other <- study
  other$data$years[5] <- 77
  compared <- compare_studies(study, other)
  expect_equal(nrow(as.data.frame(compared)), 1)
  release <- release_study(study, "archive", tempfile(), dry_run = TRUE)
  for (object in list(study, book, export, found, scales, why(study, "years"), check)) {
    expect_equal(format(object), utils::capture.output(print(object)))
  }
  expect_equal(nrow(as.data.frame(check)), nrow(findings(study)))
  expect_equal(as.data.frame(release)$file, release$files$file)
  for (object in list(why(study, "years"), why(project, "years", "0188"), compared)) expect_s3_class(as.data.frame(object), "data.frame")
  expect_equal(as.data.frame(why(project, "years", "0188", "spring"))$step, c("cell", "decoded", "value"))
  # Figures: one of one table, several of several, a histogram of a number.
  expect_s3_class(plot(answers(study, "years")), "ggplot")
  several <- plot(answers(study, c("voice", "years")))
  expect_length(several, 2)
  expect_true(all(vapply(several, inherits, TRUE, "ggplot")))
  expect_s3_class(plot(examine_scales(build_study(demo_project(tempfile())))), "ggplot")
})

test_that("tables for R: ordered factors and attributes on request, and the study stays as it is", {
  study <- build_study(demo_project(tempfile()))
  plain <- study_table(study, values = "labels")
  table <- study_table(study, values = "labels", ordered = TRUE, attributes = TRUE)
  ordinal <- names(Filter(function(one) identical(one$level, "ordinal") && one$storage == "coded", study$book$variables[names(table)]))
  expect_gt(length(ordinal), 8)
  for (name in names(table)) {
    expect_equal(is.ordered(table[[name]]), name %in% ordinal, info = name)
    expect_equal(as.character(table[[name]]), as.character(plain[[name]]), info = name)
    expect_equal(attr(table[[name]], "label"), study$book$variables[[name]]$label, info = name)
  }
  expect_true(all(table$belong1 >= "Strongly disagree", na.rm = TRUE))
  expect_equal(attr(table$years, "unit"), "years")
  expect_match(attr(table$years, "question"), "how many years")
  expect_match(message_of(study_table(study, shape = "long", ordered = TRUE)), "leave them out")
  wide <- study_table(build_study(demo_project(tempfile(), 2)), values = "labels", shape = "wide", ordered = TRUE)
  expect_true(is.ordered(wide$belong1_spring) && !is.ordered(wide$voice_spring))
  # Where all records stay the columns might be the study's own.
  whole <- build_small(data.frame(id = 1:3, part = c("High", "Low", "High"), n = c("1", "2", "3")), n = list(column = "n", label = "N", level = "ratio"))
  expect_null(whole$retained)
  for (shape in c("codes", "labels")) {
    codes <- study_table(whole, values = shape)
    data.table::setDT(codes)
    data.table::set(codes, 1:2, "n", -1)
    expect_equal(whole$data$n, c(1, 2, 3))
  }
})

test_that("a codebook is edited by a function, and a study without a folder asks for one", {
  frame <- data.frame(id = 1:3, part = c("High", "Low", "High"))
  study <- build_small(frame)
  expect_match(message_of(write_study(study)), "this study has no project folder")
  out <- tempfile("out")
  expect_equal(write_study(study, out), out)
  book <- edit_codebook(small_codebook(), function(book) {
    book$variables$part$label <- "The part"
    book
  })
  expect_equal(book$variables$part$label, "The part")
  expect_match(message_of(edit_codebook(small_codebook(), function(book) NULL)), "must give the codebook back")
  expect_match(message_of(edit_codebook(small_codebook(), function(book) { book$variables$part$level <- "none"; book })), "`none` is not one of")
})

test_that("every class of error stands on the help page, and errors hold their facts", {
  said <- readLines(file.path(source_folder(), "man/conditions.Rd"), encoding = "UTF-8")
  used <- unique(unlist(lapply(list.files(file.path(source_folder(), "R"), full.names = TRUE), function(file) {
    code <- paste(readLines(file, encoding = "UTF-8"), collapse = "\n")
    unlist(regmatches(code, gregexpr("(?<=stop_mavik\\()\\s*\"[a-z]+_error\"", code, perl = TRUE)))
  })))
  classes <- paste0("mavik_", gsub("[\\s\"]", "", used, perl = TRUE))
  expect_gt(length(classes), 5)
  for (class in classes) expect_true(any(grepl(class, said, fixed = TRUE)), info = class)
  wrong <- tryCatch(read_codebook(list(mavik = 1, study = list(title = "x"), waves = list(), exports = list(), variables = list(a = list(colum = "b")))), error = identity)
  expect_s3_class(wrong, "mavik_codebook_error")
  expect_true(is.data.frame(wrong$problems))
})

test_that("a draft of a data frame is a codebook as it is, by factors, labels and value labels", {
  part <- factor(rep(c("Mid", "Low", "High", "Mid"), 10), c("Low", "Mid", "High"), ordered = TRUE)
  mood <- rep(c(1, 2, 3, 4, 9), 8)
  attr(mood, "labels") <- c("Very bad" = 1, "Bad" = 2, "Good" = 3, "Very good" = 4, "Refused" = 9)
  attr(mood, "label") <- "How was the evening?"
  frame <- data.frame(id = sprintf("s%02d", 1:40), part = part, years = rep(c(3, 11, 8, 25, 14, 2, 7, 30), 5), kind = rep(c("old", "new", "old", NA), 10))
  frame$mood <- mood
  draft <- draft_codebook(frame)
  study <- build_study(draft, frame)
  table <- study_table(study, values = "labels", ordered = TRUE, attributes = TRUE)
  expect_equal(as.character(table$part), as.character(part))
  expect_true(is.ordered(table$part))
  expect_equal(levels(table$part), levels(part))
  expect_equal(as.character(table$mood), c("Very bad", "Bad", "Good", "Very good")[ifelse(mood == 9, NA, mood)])
  expect_equal(study$data$mood, as.integer(ifelse(mood == 9, NA, mood)))
  expect_equal(as.character(unique(study$reasons$mood[mood == 9])), "refused")
  expect_equal(attr(table$mood, "label"), "How was the evening?")
  expect_equal(as.character(table$kind), frame$kind)
  expect_equal(table$years, frame$years, ignore_attr = TRUE)
  # Every door takes the draft, and the frame without a name.
  expect_equal(answers(draft, "part", exports = frame)$tables$part$table$count[1:3], unname(c(table(part))))
  expect_equal(nrow(check_study(draft, frame)$findings), nrow(findings(study)))
  expect_equal(as.data.frame(why(draft, "mood", "s05", exports = frame))$step[1], "cell")
  expect_equal(nrow(find_records(draft, "years > 20", frame)), 10)
  # head, print and the file keep the words; the file keeps the comments.
  expect_equal(capture.output(print(head(draft, 4))), as.character(unclass(draft))[1:4])
  expect_s3_class(draft[3:5], "mavik_draft")
  file <- write_codebook(draft, tempfile(fileext = ".yml"))
  expect_equal(readLines(file, encoding = "UTF-8"), as.character(unclass(draft)))
  expect_equal(summary(draft)$name, c("id", "part", "years", "kind", "mood"))
  expect_equal(edit_codebook(draft, variables = list(years = list(label = "Years")))$variables$years$label, "Years")
  expect_match(message_of(build_study(demo_project(tempfile(), 2), frame)), "say which the data frame is, `exports = list(spring = ...)`", fixed = TRUE)
  expect_match(message_of(build_study(draft, list(frame, frame))), "named by export")
  # A file's draft builds from its own folder.
  project <- demo_project(tempfile())
  expect_equal(nrow(build_study(draft_codebook(file.path(project, "raw/spring.csv"), project = project))$data), 246)
})

test_that("value labels of a column cost no answer, whatever they name", {
  frame <- data.frame(id = sprintf("p%02d", 1:42))
  with <- function(values, labels) structure(rep(values, length.out = 42), labels = labels)
  # The column, its answers as they should read, and the reasons of its gaps.
  cases <- list(
    ends = list(with(1:7, c("Not at all" = 1, "Wholly" = 7)), rep(c("Not at all", 2:6, "Wholly"), 6), NULL),
    gap = list(with(c(18:30, 999), c("Refused" = 999)), rep(c(18:30, NA), 3), "refused"),
    below = list(with(c(1, 2, -1, -9), c("Yes" = 1, "No" = 2, "Refused" = -1, "Odd" = -9)), rep(c("Yes", "No", NA, NA), length.out = 42), c("coded_missing", "refused")),
    both_ways = list(with(-3:3, c("Much worse" = -3, "Same" = 0, "Much better" = 3)), rep(-3:3, 6), NULL),
    none = list(with(c(0, 250.5, 1200, 33, 71, 5000, 2), c("Nothing" = 0)), rep(c(0, 250.5, 1200, 33, 71, 5000, 2), 6), NULL),
    alike = list(with(1:2, c("Yes" = 1, "Yes" = 2)), rep(c("Yes (1)", "Yes (2)"), 21), NULL),
    # A code too many of a list is no answer before somebody says so, within it or beyond.
    stray = list(with(c(1:5, 1:5, 7), c(Alto = 1, Bass = 2, Tenor = 3, Treble = 4, Descant = 5)), rep(c("Alto", "Bass", "Tenor", "Treble", "Descant", "Alto", "Bass", "Tenor", "Treble", "Descant", NA), length.out = 42), "set_aside"),
    within = list(with(c(1, 2, 4, 5, 1, 2, 3), c(Alto = 1, Bass = 2, Treble = 4, Descant = 5)), rep(c("Alto", "Bass", "Treble", "Descant", "Alto", "Bass", NA), 6), "set_aside"),
    low_end = list(with(0:6, c("Not at all" = 0)), rep(0:6, 6), NULL),
    rating_gap = list(with(c(1:5, 9), c("Refused" = 9)), rep(c(1:5, NA), 7), "refused"),
    tens_gap = list(with(c(0:10, 99, 98), c("Refused" = 99, "Odd" = -9, "Don't know" = 98)), rep(c(0:10, NA, NA), length.out = 42), c("refused", "dont_know")),
    two_gap = list(with(c(0, 1, 9), c("Refused" = 9)), rep(c("No", "Yes", NA), 14), "refused"),
    texts = list(with(c("1", "2"), c("Yes" = 1, "No" = 2)), rep(c("Yes", "No"), 21), NULL)
  )
  for (name in names(cases)) {
    frame$q <- cases[[name]][[1]]
    study <- build_study(draft_codebook(frame), frame)
    got <- study_table(study, values = "labels")[[2]]
    expect_equal(as.character(got), as.character(cases[[name]][[2]]), info = name)
    expect_setequal(unique(as.character(na.omit(as.character(study$reasons$q)))), as.character(cases[[name]][[3]]))
    expect_equal(unique(findings(study)$kind), if (identical(cases[[name]][[3]], "set_aside")) "unlisted" else character(), info = name)
    # What has no place in the codebook stands behind the entry.
    draft <- paste(unclass(draft_codebook(frame)), collapse = "\n")
    for (label in names(attr(cases[[name]][[1]], "labels"))) expect_true(label %in% c("Refused", "Don't know") || grepl(label, draft, fixed = TRUE), info = paste(name, label))
  }
  # Fractions name nobody.
  expect_equal(build_study(draft_codebook(data.frame(part = rep(c("Alto", "Bass"), 20), loud = 1:40 / 7)), data.frame(part = rep(c("Alto", "Bass"), 20), loud = 1:40 / 7))$data$loud, 1:40 / 7)
})

test_that("shapes of a table join by the names and values of key and wave", {
  study <- build_study(demo_project(tempfile(), 2))
  for (values in c("codes", "labels")) {
    rows <- study_table(study, values)
    long <- study_table(study, values, shape = "long", block = "belong")
    wide <- study_table(study, values, shape = "wide")
    both <- merge(long[long$item == "belong2", ], rows, by = c("singer", "wave"))
    expect_equal(nrow(both), nrow(rows))
    expect_equal(as.character(both$value), as.character(both$belong2))
    expect_setequal(wide$singer, rows$singer)
    expect_type(wide$singer, typeof(rows$singer))
  }
  # Where the analysis file has neither, they go by the words themselves.
  bare <- build_small(data.frame(id = 1:2, part = c("High", "Low"), g1 = c("1", "2"), g2 = c("2", "2")), id = list(is = "key", kept = "no"),
    grid = list(level = "ordinal", codes = c("1" = "A", "2" = "B"), cells = "codes", items = list(g1 = list(column = "g1", label = "1"), g2 = list(column = "g2", label = "2"))))
  expect_equal(names(study_table(bare, shape = "long"))[1:2], c("wave", "respondent"))
})

test_that("parts, summaries and figures of objects are those of their tables", {
  project <- demo_project(tempfile(), 2)
  study <- build_study(project)
  table <- study_table(study)
  expect_equal(study[2:4, c("voice", "years")], table[2:4, c("voice", "years")])
  expect_equal(study["voice"], table["voice"])
  expect_equal(study[, "voice", drop = TRUE], table$voice)
  expect_equal(study[3, ], table[3, ])
  export <- read_export(file.path(project, "raw/spring.csv"), c("names", "questions"))
  expect_equal(export[1:2, "Q3"], as.data.frame(export)[1:2, "Q3", drop = FALSE])
  found <- answers(study, c("voice", "years"))
  expect_equal(format(found["years"]), format(answers(study, "years")))
  expect_match(message_of(found[3]), "`3` is not among the tables")
  expect_match(message_of(found["ears"]), "is not among the tables: `voice` and `years`")
  told <- summary(examine_scales(study))
  expect_equal(told$wave, c("", "spring", "autumn"))
  expect_equal(told$alpha, vapply(examine_scales(study)$scales, `[[`, 0, "alpha"), ignore_attr = TRUE)
  seen <- look(file.path(project, "raw/spring.csv"))
  expect_equal(dim(seen), dim(export))
  check <- check_study(study)
  expect_equal(summary(check), check$groups)
  other <- study
  other$data$years[5:7] <- 77
  compared <- compare_studies(study, other)
  drawn <- function(plot, column) ggplot2::layer_data(plot, 1)[[column]]
  expect_equal(drawn(plot(compared), "x"), nrow(compared$changes))
  expect_gt(nrow(compared$changes), 0)
  expect_equal(sum(drawn(plot(check), "x")), sum(check$groups$count))
  gaps <- sum(vapply(table, function(one) sum(is.na(one)), 0L))
  expect_equal(sum(drawn(plot(study), "x")), 100 * gaps / prod(dim(table)))
  expect_length(drawn(plot(seen), "x"), length(seen$picture$blank))
  expect_equal(drawn(plot(study, "voice"), "x"), drawn(plot(answers(study, "voice")), "x"))
  expect_match(message_of(plot(compare_studies(study, study))), "no cell differs")
})

test_that("objects print in documents as in the console, and nothing is said of progress but to a person", {
  skip_if_not_installed("knitr")
  withr::local_options(cli.num_colors = 1L, knitr.progress.simple = TRUE)
  withr::local_dir(withr::local_tempdir())
  study <- build_study(demo_project(tempfile()))
  things <- list(study = study, found = answers(study, "voice"), check = check_study(study), story = why(study, "years"), scales = examine_scales(study), book = read_codebook(study))
  for (name in names(things)) {
    text <- knitr::knit(text = c("```{r comment = '', echo = FALSE}", name, "```"), quiet = TRUE, envir = list2env(things))
    inside <- strsplit(text, "\n")[[1]]
    expect_equal(inside[nzchar(inside) & !grepl("^```", inside)], Filter(nzchar, format(things[[name]])), info = name)
  }
  drawn <- knitr::knit(text = c("```{r fig.ext = 'svg', dev = 'svg'}", "plot(found)", "plot(study, c('voice', 'years'))", "```"), quiet = TRUE, envir = list2env(things))
  expect_equal(lengths(regmatches(drawn, gregexpr("figure/[^)]*svg", drawn))), 3)
  script <- tempfile(fileext = ".R")
  writeLines("library(mavik); s <- build_study(demo_project(tempfile()))", script)
  quiet <- processx::run(file.path(R.home("bin"), "Rscript"), script, env = c("current", R_LIBS = paste(.libPaths(), collapse = ":")))
  expect_equal(c(quiet$stdout, quiet$stderr), c("", ""))
  skip_on_os("windows")
  told <- processx::process$new(file.path(R.home("bin"), "R"), c("--interactive", "--no-save", "--quiet", "--vanilla"), pty = TRUE,
    env = c("current", R_LIBS = paste(.libPaths(), collapse = ":"), TERM = "xterm"))
  told$write_input("options(cli.progress_show_after = 0); library(mavik); p <- demo_project(tempfile()); s <- build_study(p); q('no')\n")
  said <- ""
  until <- Sys.time() + 60
  while (told$is_alive() && Sys.time() < until) {
    told$poll_io(300)
    said <- paste0(said, tryCatch(told$read_output(), error = function(e) ""))
  }
  expect_match(said, "Reading raw/spring.csv")
  expect_match(said, "(Decoding|Making) ")
})

test_that("studies are built by other processes at once, and are the same", {
  skip_on_os("windows")
  projects <- replicate(3, demo_project(tempfile()))
  here <- lapply(projects, function(project) study_table(build_study(project)))
  forked <- parallel::mclapply(projects, function(project) study_table(mavik::build_study(project)), mc.cores = 2)
  expect_identical(forked, here)
  cluster <- parallel::makePSOCKcluster(2)
  withr::defer(parallel::stopCluster(cluster))
  parallel::clusterCall(cluster, .libPaths, .libPaths())
  expect_identical(parallel::parLapply(cluster, projects, function(project) mavik::study_table(mavik::build_study(project))), here)
})
