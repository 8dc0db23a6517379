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
