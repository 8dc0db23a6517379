# Nothing silently wrong: cases in which a build, a count or a comparison once said
# something else than the codebook.

num <- function(column, ...) list(column = column, label = column, level = "ratio", ...)
yes_no <- function(column, ...) list(column = column, label = column, level = "nominal", codes = c("1" = "Yes", "2" = "No"), ...)

# Waves of data frames with the variables given; `...` are further sections.
waves_book <- function(variables, waves, study = list(), ...) {
  utils::modifyList(list(mavik = 1, study = c(list(title = "T"), study), waves = stats::setNames(lapply(waves, function(wave) list(label = wave)), waves), exports = stats::setNames(lapply(waves, function(wave) list(wave = wave, key = "id")), waves),
    missing = list(refused = list(code = -2, label = "Refused")), variables = c(list(id = list(is = "key", label = "Id"), wave = list(is = "wave", label = "W")), variables)), list(...))
}
everything <- function(book, frames) {
  study <- build_study(book, frames)
  suppressWarnings(suppressMessages(write_study(study, tempfile())))
  checked <- check_study(study)
  expect_s3_class(checked, "mavik_check")
  study
}

test_that("branches are tried with every reason that their conditions tell apart", {
  frame <- data.frame(id = 1:4, part = c("High", "REF", "", "odd"))
  of <- function(...) build_small(frame, w = list(label = "W", when = list(...), codes = c("0" = "No", "1" = "Yes", "2" = "Two")))$data$w
  expect_equal(of(list("if" = "is_missing(part, \"no_answer\")", is = 1), list("else" = 0)), c(0L, 0L, 1L, 0L))
  expect_equal(of(list("if" = "is_missing(part, \"refused\")", is = 1), list("if" = "is_missing(part, \"set_aside\")", is = 2), list("else" = 0)), c(0L, 1L, 0L, 2L))
  expect_match(message_of(of(list("if" = "is_missing(part)", is = 1), list("if" = "is_missing(part, \"refused\")", is = 2), list("else" = 0))), "when > 2 > if: can never be reached")
  long <- paste(rep("is_missing(part)", 80), collapse = " | ")
  expect_equal(of(list("if" = long, is = 1), list("else" = 0)), c(0L, 1L, 1L, 1L))
  sums <- build_small(data.frame(id = 1, part = "High", x = 2), x = num("x"), s = list(label = "S", formula = paste(rep("x", 120), collapse = " + ")), d = list(label = "D", formula = "x - 1 - 2 - 3"))
  expect_equal(c(sums$data$s, sums$data$d), c(240, -4))
  book <- small_codebook()
  for (name in names(core$dispositions)) {
    book$screens <- stats::setNames(list(list("if" = "part == \"Low\"")), name)
    expect_match(message_of(read_codebook(book)), paste0("screens > ", name, ": `", name, "` is the name of a standing already"))
  }
})

test_that("codes that people gave to write-ins count in cells, in columns of their own and beside tick boxes", {
  sheet <- tempfile(fileext = ".csv")
  writeLines(c("answer,code", "countertenor,Low", "bari,Low"), sheet)
  frame <- data.frame(id = 1:6, part = c("High", "Other", "Other", "", "bari", "other"), words = c("", "Countertenor", "humming", "bari", "", ""), t1 = c("1", "", "", "", "", ""), t2 = c("", "1", "", "", "", ""), sp = c("High;Low", "High", "Low; hum", "", "", "bari; High"))
  book <- list(mavik = 1, study = list(title = "S"), waves = list(one = list(label = "One")), exports = list(main = list(key = "id")), variables = list(id = list(is = "key", label = "Id"),
    own = list(column = "part", label = "P", level = "nominal", codes = c("1" = "High", "2" = "Low"), other = list(code = 9, text = "own_text", column = "words", sheet = sheet)),
    cell = list(column = "part", label = "Q", level = "nominal", codes = c("1" = "High", "2" = "Low", "8" = "Other"), other = list(code = 9, label = "else", text = "cell_text", sheet = sheet)),
    box = list(label = "B", split = list(columns = list(ba = "t1", bb = "t2"), options = list(ba = "High", bb = "Low"), other = list(flag = "b_o", text = "b_t", column = "words", sheet = sheet))),
    set = list(label = "C", split = list(column = "sp", options = list(sa = "High", sb = "Low"), other = list(flag = "s_o", text = "s_t", column = "words", sheet = sheet)))))
  study <- build_study(book, list(main = frame))
  expect_equal(study$data$own, c(1L, 2L, 9L, 2L, 2L, 9L))
  expect_equal(study$data$own_text, c(NA, NA, "humming", NA, NA, NA))
  expect_equal(study$data$cell, c(1L, 8L, 8L, NA, 2L, 8L))
  expect_equal(study$data$bb, c(0L, 1L, 0L, 1L, NA, NA))
  expect_equal(study$data$b_o, c(0L, 0L, 1L, 0L, NA, NA))
  expect_equal(study$data$sb, c(1L, 1L, 1L, 1L, NA, 1L))
  # Words in the cell and in the column of their own stand side by side.
  expect_equal(study$data$s_t, c(NA, NA, "hum; humming", NA, NA, NA))
  rows <- ledger(study)
  expect_equal(nrow(rows[rows$kind == "write_in" & grepl("coded in", rows$note), ]), 6)
  expect_match(paste(capture.output(print(why(book, "own", "2", exports = list(main = frame)))), collapse = " "), "what was written in was coded in")
})

test_that("a range holds for every derived number, an imputed value outside leaves the gap, and what cannot be computed is told", {
  frame <- data.frame(id = 1:4, part = "High", a = c(4, "", "", 10), b = c(30, 30, 8, 2), z = c(0, 1, 2, 0))
  study <- build_small(frame, a = num("a", range = c(0, 10)), b = num("b"), z = num("z"), i = list(label = "I", range = c(0, 9), impute = list(of = "a", first_of = "b", gaps = "no_answer", flag = "i_f")),
    m = list(label = "M", impute = list(of = "a", mean_of = "b", gaps = "no_answer")), s = list(label = "S", range = c(0, 20), score = list(of = c("b", "z"), take = "sum")), q = list(label = "F", formula = "b / z", range = c(0, 20)), r = list(label = "G", formula = "q + 1"))
  expect_equal(study$data$i, c(4, NA, 8, NA))
  expect_equal(study$data$m, c(4, NA, 8, 10))
  expect_equal(as.character(study$reasons$m), c(NA, "no_answer", NA, NA))
  expect_equal(study$data$s, c(NA, NA, 10, 2))
  expect_equal(as.character(study$reasons$q), c("not_computable", "set_aside", NA, "not_computable"))
  rows <- ledger(study)
  expect_equal(table(rows$variable[rows$kind == "range"])[c("q", "i", "s")], table(factor(c("q", "i", "s", "s")))[c("q", "i", "s")], ignore_attr = TRUE)
  found <- findings(study)
  expect_equal(found$count[found$kind == "imputed_outside"], c(1L, 1L))
  # Told once, at its cause: `r` rests on `q`.
  expect_equal(found[found$kind == "not_computable", c("variable", "count")], data.frame(variable = "q", count = 2L), ignore_attr = TRUE)
  empty <- findings(build_small(transform(frame, a = ""), a = num("a"), d = list(label = "D", formula = "a * 2")))
  expect_equal(empty$variable[empty$kind == "no_value"], "a")
  powers <- build_small(data.frame(id = 1:2, part = "High", x = c("", 3)), x = num("x"), p = list(label = "P", formula = "x^0"), q = list(label = "Q", formula = "1^x"))
  expect_equal(powers$data[c("p", "q")], data.frame(p = c(NA, 1), q = c(NA, 1)))
})

test_that("screens count only what was asked, also behind filters that were not asked themselves", {
  frame <- data.frame(id = 1:5, part = "High", a = c("Yes", "No", "No", "", "Yes"), b = c("Yes", "", "", "", "No"), k = c(1, "", "", "", ""), d = c("", "", "", "", 5))
  filters <- list(a = yes_no("a"), b = yes_no("b", universe = "a == \"Yes\""), k = num("k", universe = "b == \"Yes\""), step = list(label = "S", formula = "k + 1"), d = num("d", universe = "step > 0"))
  standing <- function(...) {
    book <- do.call(small_codebook, filters)
    book$screens <- list(none = list(...))
    build_study(book, list(main = frame))$disposition
  }
  expect_equal(standing(unanswered = list("b", "k", "d")), c("retained", "retained", "retained", "none", "retained"))
  # Of the second and third only `a` was asked, and told.
  expect_equal(standing(answered_less_than = 0.9, of = list("a", "b", "k", "d")), c("none", "retained", "retained", "none", "retained"))
})

test_that("valid codebooks build whatever waves, universes, groups and screens leave", {
  set.seed(2)
  wave <- function(n, q) data.frame(id = seq_len(n), q = rep(q, length.out = n), x = sample(1:5, n, TRUE), y = sample(1:5, n, TRUE), t = "", s = rep(c("A;B", "A", "Refused", ""), length.out = n))
  x <- num("x", range = c(1, 5))
  set <- list(label = "S", split = list(column = "s", options = list(sa = "A", sb = "B"), exclusive = "sa"))
  score <- list(label = "M", score = list(of = list("x"), take = "mean"))
  drop <- list(gone = list("if" = "q == \"No\""))
  two <- list(w1 = wave(30, c("Yes", "No")), w2 = wave(30, c("Yes", "No")))
  study <- everything(waves_book(list(q = yes_no("q"), x = c(x, list(by_wave = list(w2 = list(universe = "q == \"Yes\""))))), c("w1", "w2")), two)
  expect_equal(sum(study$reasons$x %in% "set_aside"), 15)
  block <- list(stem = "B", level = "ordinal", codes = stats::setNames(as.character(1:5), 1:5), cells = "codes", by_wave = list(w2 = "absent"), items = list(b1 = list(column = "x", label = "x"), b2 = list(column = "y", label = "y")))
  study <- everything(waves_book(list(b = block, m = list(label = "M", score = list(of = "b", take = "mean"))), c("w1", "w2")), two)
  expect_equal(unname(vapply(examine_scales(study)$scales, `[[`, "", "wave")), c("", "w1"))
  for (n in c(6, 20, 30)) for (lost in 1:3) {
    three <- lapply(stats::setNames(1:3, c("w1", "w2", "w3")), function(k) wave(n, if (k == lost) "No" else "Yes"))
    study <- everything(waves_book(list(q = yes_no("q"), x = x, s = set), names(three), screens = drop), three)
    expect_equal(nrow(study_table(study)), 2 * n)
  }
  none <- everything(waves_book(list(q = yes_no("q"), x = x, s = set, t = list(column = "t", label = "T", level = "text"), m = score), c("w1", "w2"), screens = list(gone = list("if" = "q == \"No\" | q == \"Yes\""))), two)
  expect_equal(nrow(study_table(none)), 0)
  expect_length(answers(none, c("s", "x", "q", "t"), by = "q")$tables, 4)
  empty <- lapply(two, transform, x = "", q = "")
  study <- everything(waves_book(list(q = yes_no("q"), x = x, s = set, t = list(column = "t", label = "T", level = "text"), m = score), c("w1", "w2")), empty)
  for (shown in list(answers(study, "t"), answers(study, "s", by = "q"), answers(study, "m", by = "wave"), examine_scales(study))) expect_gt(length(capture.output(print(shown))), 0)
})

test_that("a standing looks at questions: a refused set is answered, and the story of a person builds", {
  frame <- data.frame(id = 1:6, part = "High", s = c("A;B", "Refused", "", "what", "A", ""))
  book <- small_codebook(s = list(label = "S", split = list(column = "s", options = list(sa = "A", sb = "B"), exclusive = "sa")))
  book$study$complete <- "s"
  study <- build_study(book, list(main = frame))
  expect_equal(study$disposition, c("complete", "complete", "break_off", "complete", "complete", "break_off"))
  expect_equal(why(book, "part", "3", exports = list(main = frame))$stories[[1]]$value, "1")
})

test_that("what a rule judges and what it sets aside are two lists; words follow their choice; two files contradict whatever the universe", {
  frame <- data.frame(id = 1:3, part = "High", a = c(1, 2, 1), b = 2, y = c(1, 1, 3))
  book <- small_codebook(a = num("a"), b = num("b"), y = num("y"))
  book$rules <- list(r = list(ranks = list(of = list("a", "b"), to = 2), sets_aside = list("y")))
  study <- build_study(book, list(main = frame))
  expect_equal(study$data$y, c(1, NA, 3))
  panel <- waves_book(list(a = num("a"), y = num("y")), c("w1", "w2"), list(design = "panel"), rules = list(same = list(constant = list("a"), sets_aside = list("y"))))
  changed <- build_study(panel, list(w1 = frame, w2 = transform(frame, a = c(1, 1, 1), y = 9)))
  expect_equal(changed$data$y, c(1, 1, 3, 9, NA, 9))
  words <- data.frame(id = 1:4, p = c("High", "Low", "foo", "bar"), r = c("foo", "x", "foo", "baz"), c = c("Yes", "Yes", "No", "Yes"))
  book <- small_codebook(p = list(column = "p", label = "P", level = "nominal", codes = c("1" = "High", "2" = "Low"), other = list(code = 9, text = "pt")), r = list(column = "r", label = "R", level = "text"), co = yes_no("c"), part = NULL)
  book$rules <- list(same = list(same_as = list("pt", "r"), sets_aside = "all"))
  book$screens <- list(gone = list("if" = "r == \"x\"", erase = "yes"))
  study <- build_study(book, list(main = words))
  expect_equal(study$data$pt, c(NA, "foo", NA))
  expect_equal(why(book, "pt", "4", exports = list(main = words))$stories[[1]]$reason, "set_aside")
  # A choice that a person corrected takes its words along, with a row.
  sheet <- tempfile(fileext = ".csv")
  writeLines(c("respondent,variable,was,now", "4,p,bar,High"), sheet)
  fixed <- build_study(utils::modifyList(book[setdiff(names(book), c("rules", "screens"))], list(corrections = sheet)), list(main = words))
  expect_equal(as.character(fixed$reasons$pt[4]), "not_asked")
  expect_equal(ledger(fixed)[ledger(fixed)$variable == "pt", c("kind", "was", "now_reason")], data.frame(kind = "corrected", was = "bar", now_reason = "not_asked"), ignore_attr = TRUE)
  parallels <- small_codebook(x = num("x", universe = "part == \"High\""))
  parallels$exports <- list(main = list(key = "id", cells = "labels"), codes = list(key = "id", adds_to = "main", cells = "codes"))
  parallels$rules <- list(same = list(same_as = list("main", "codes"), sets_aside = "all"))
  study <- build_study(parallels, list(main = data.frame(id = 1:3, part = c("High", "Low", "High"), x = c(1, "", 3)), codes = data.frame(id = 1:3, part = c(1, 2, 1), x = c(1, "", 4))))
  expect_equal(study$data$x, c(1, NA, NA))
  expect_match(findings(study)$message[findings(study)$kind == "rule"], "1 answer set aside")
})

test_that("bare numbers, boxes, options and dates come in the order of the language", {
  book <- small_codebook(o = list(column = "o", label = "O", level = "nominal", codes = c("1" = "A", "2" = "B"), other = list(code = 9, text = "ot")), cells = "codes")
  study <- build_study(book, list(main = data.frame(id = 1:4, part = 1, o = c("1", "42", "foo", "2"))))
  expect_equal(study$data$o, c(1L, NA, 9L, 2L))
  expect_equal(findings(study)$written[findings(study)$kind == "unlisted"], "42")
  book <- small_codebook(tb = list(label = "B", split = list(columns = list(ta = "t1", tt = "t2"))), sp = list(label = "S", split = list(column = "s", options = list(s1 = "None", s2 = "Radio"))), d = list(column = "d", label = "D", level = "date"),
    missing = list(refused = list(code = -2, label = "Refused", written = c("None", "9999"))))
  for (cells in c("labels", "codes")) {
    book$exports$main$cells <- cells
    study <- build_study(book, list(main = data.frame(id = 1:5, part = "", t1 = c("1", "Refused", "Refused", "-2", ""), t2 = c("Refused", "", "1", "0", ""), s = c("None", "None;Radio", "Radio", if (cells == "labels") "Refused" else "-2", ""), d = c("9999", "2026-01-01", "-2", "Refused", ""))))
    expect_equal(study$data[c("ta", "tt")], data.frame(ta = c(1L, NA, NA, NA, NA), tt = c(NA, NA, 1L, 0L, NA)))
    expect_equal(as.character(study$reasons$ta), c(NA, "refused", "refused", "refused", "no_answer"))
    expect_equal(study$data[c("s1", "s2")], data.frame(s1 = c(1L, 1L, 0L, NA, NA), s2 = c(0L, 1L, 1L, NA, NA)))
    expect_equal(as.character(study$reasons$d), c(NA, NA, "refused", "refused", "no_answer"))
  }
})

test_that("the waves of a panel are compared within persons, and pooled waves are told", {
  set.seed(3)
  n <- 120
  before <- data.frame(id = 1:n, x = rnorm(n, 5), q = sample(c("Yes", "No"), n, TRUE), z = sample(1:4, n, TRUE))
  after <- transform(before, x = x + rnorm(n, 0.2), q = ifelse(runif(n) < 0.2, "Yes", q), z = pmin(4, z + (runif(n) < 0.3)))[21:n, ]
  after <- rbind(after, data.frame(id = n + 1:30, x = rnorm(30, 5), q = "Yes", z = 1))
  z <- list(column = "z", label = "Z", level = "ordinal", codes = stats::setNames(letters[1:4], 1:4), cells = "codes")
  book <- waves_book(list(x = list(column = "x", label = "X", level = "interval"), q = yes_no("q"), z = z), c("w1", "w2"), list(design = "panel"))
  study <- build_study(book, list(w1 = before, w2 = after))
  tests <- lapply(answers(study, c("x", "q", "z"), by = "wave")$tables, `[[`, "test")
  both <- before[21:n, ]
  then <- after[seq_len(n - 20), ]
  expected <- stats::t.test(then$x, both$x, paired = TRUE)
  expect_equal(unlist(tests[[1]][c("statistic", "df", "p", "n")]), c(unname(expected$statistic), unname(expected$parameter), expected$p.value, n - 20), ignore_attr = TRUE)
  counts <- table(both$q, then$q)
  mcnemar <- stats::mcnemar.test(counts, correct = FALSE)
  expect_equal(unlist(tests[[2]][c("statistic", "df", "p")]), c(mcnemar$statistic, mcnemar$parameter, mcnemar$p.value), ignore_attr = TRUE)
  expect_equal(tests[[2]]$name, "McNemar's chi-square")
  # Stuart and Maxwell: d'V^-1 d by hand over three of the four codes.
  counts <- table(factor(both$z, 1:4), factor(then$z, 1:4))
  d <- (rowSums(counts) - colSums(counts))[1:3]
  v <- -(counts + t(counts))[1:3, 1:3]
  diag(v) <- (rowSums(counts) + colSums(counts) - 2 * diag(counts))[1:3]
  expect_equal(tests[[3]]$statistic, sum(d * solve(unclass(v), d)))
  expect_equal(c(tests[[3]]$df, tests[[3]]$n), c(3, 100))
  three <- waves_book(list(x = list(column = "x", label = "X", level = "interval")), c("w1", "w2", "w3"), list(design = "panel"))
  pairs <- answers(build_study(three, list(w1 = before, w2 = after, w3 = transform(after, x = x + 1 + rnorm(nrow(after), 0, 0.1)))), "x", by = "wave")$tables[[1]]$test$pairs
  expect_equal(pairs$now, c("w2", "w3"))
  expect_equal(pairs$p_holm, stats::p.adjust(pairs$p, "holm"))
  repeated <- build_study(utils::modifyList(book, list(study = list(design = "repeated"))), list(w1 = before, w2 = after))
  expect_equal(answers(repeated, "x", by = "wave")$tables[[1]]$test$name, "Welch's t")
  pooled <- answers(study, "x")
  expect_equal(pooled$pooled, c("w1", "w2"))
  expect_match(capture.output(print(pooled))[1], "Waves w1, w2 are counted together")
  expect_null(answers(study, "x", where = "wave == \"w1\"")$pooled)
  expect_null(answers(study, "x", by = "wave")$pooled)
})

test_that("a text that was merely unlisted before is no missing code of the next wave", {
  set.seed(4)
  one <- data.frame(id = 1:200, q = c(rep("Maybe", 30), sample(1:4, 170, TRUE)))
  two <- data.frame(id = 1:200, q = c(rep("5", 30), sample(1:4, 170, TRUE)))
  q <- list(column = "q", label = "Q", level = "ordinal", codes = stats::setNames(letters[1:5], 1:5), cells = "codes")
  kinds <- function(cell) findings(build_study(waves_book(list(q = q), c("w1", "w2")), list(w1 = transform(one, q = sub("Maybe", cell, q)), w2 = two)))$kind
  expect_false("missing_became_answer" %in% kinds("Maybe"))
  expect_true("missing_became_answer" %in% kinds("-2"))
})

test_that("findings of one cause are one, and check counts what the build counts", {
  wide <- as.data.frame(c(list(id = 1:3, part = "High"), stats::setNames(rep(list(1:3), 300), paste0("x", 1:300))))
  study <- build_small(wide)
  found <- findings(study)
  expect_equal(found[found$kind == "unused_column", "count"], 300L)
  expect_length(strsplit(found$written[found$kind == "unused_column"], " | ", fixed = TRUE)[[1]], 300)
  project <- demo_project(tempfile())
  levels <- table(core$open_findings(findings(build_study(project)))$level)
  said <- paste0(levels[["warning"]], " warnings, ", levels[["note"]], " notes")
  expect_match(paste(command("check", project)$out, collapse = "\n"), paste("To look at:", said), fixed = TRUE)
  expect_match(paste(command("build", project)$out, collapse = "\n"), said, fixed = TRUE)
  image <- project_with(c("mavik: 1", "study: {title: X}", "waves: {one: {label: One}}", "exports: {a: {file: raw/a.csv, key: id}}", "variables: {id: {is: key, label: Id}, q: {column: q, label: q, level: text}}"), list("a.csv" = as.raw(c(0x89, 0x50, 0x4e, 0x47, 0, 10, 0, 3))))
  expect_length(strsplit(message_of(check_study(image)), "\n")[[1]], 1)
  mail <- findings(build_study(small_codebook(part = list(codes = c("1" = "Mail", "2" = "Low"))), list(main = data.frame(id = 1:500, part = c(rep("Male", 479), rep("Low", 21))))))
  expect_match(mail$message[mail$written == "Male"], "`Mail` is listed and no record of the file has it, while this text stands 479 times")
})

test_that("a cache is used only for what it was made of, from wherever the command is run", {
  project <- demo_project(tempfile())
  file <- file.path(project, "raw/spring.csv")
  mean_years <- function() answers(project, "years")$tables[[1]]$table$mean
  first <- mean_years()
  expect_equal(command("answers", "years", "--project", ".", wd = project)$status, 0)
  expect_equal(command("answers", "years", "--project", project)$status, 0)
  # Written again within the second, with the same size.
  text <- readLines(file)
  time <- file.mtime(file)
  writeLines(sub(",12,", ",92,", text), file)
  Sys.setFileTime(file, time)
  expect_false(isTRUE(all.equal(mean_years(), first)))
  writeLines(text, file)
  expect_equal(mean_years(), first)
  # Two lines of one length change places: the story is that of the key.
  check_study(project)
  key <- function(lines) vapply(strsplit(lines, ","), function(cells) gsub("\"", "", cells[grep("^[0-9]{4}$", gsub("\"", "", cells))][1]), "")
  one <- read_export(file, heading = c("names", "questions"))
  at <- match(c("0278", "0991"), as.data.frame(one)[["Member no"]])
  lines <- one$lines[at]
  text[lines] <- text[rev(lines)]
  time <- file.mtime(file)
  writeLines(text, file)
  Sys.setFileTime(file, time)
  for (who in c("0278", "0991")) expect_equal(why(project, "voice", who)$stories[[1]]$value, { study <- build_study(project); core$value_text(study$book$variables$voice, study$data$voice[match(who, study$records$key)]) })
  # An index whose lines are those of others is found out, and made again.
  check_study(project)
  index <- file.path(project, ".mavik/records.rds")
  kept <- readRDS(index)
  first <- core$index_texts(kept$index$spring$key, 1L)
  right <- show_record(project, first)
  kept$index$spring$line[1:2] <- rev(kept$index$spring$line[1:2])
  saveRDS(kept, index)
  expect_equal(show_record(project, first), right)
})

test_that("comparisons average numbers only, name a choice as the cause, and never match by position", {
  study <- build_small(data.frame(id = sprintf("%04d", 1:30), part = "High", no = as.character(1000 + 1:30), x = 1:30), no = list(column = "no", label = "No", level = "identifier"), x = num("x"))
  some <- compare_studies(study, choose_records(study, where = "x > 10"))
  expect_equal(some$moved$variable, "x")
  expect_equal(some$sources$what, "choice")
  expect_match(some$sources$change, "all records -> where x > 10", fixed = TRUE)
  numbered <- function(frame, record = NULL, ...) {
    book <- small_codebook(no = list(column = "no", label = "No", level = "identifier"), ...)
    book$exports$main$key <- "numbered"
    book$exports$main$response <- record
    build_study(book[setdiff(names(book), "none")], list(main = frame))
  }
  frame <- data.frame(no = paste0("r", 1:5), part = c("High", "Low", "High", "Low", "High"))
  more <- rbind(data.frame(no = "r0", part = "Low"), frame)
  by_response <- compare_studies(numbered(frame, "no"), numbered(more, "no"))
  expect_equal(sum(by_response$cells$changed[by_response$cells$variable == "part"]), 0)
  expect_equal(nrow(by_response$respondents$came), 1)
  expect_match(message_of(compare_studies(numbered(frame), numbered(more))), "numbered, not named, and the raw files differ")
})

test_that("the doors take studies and R's own types, and refuse what means nothing", {
  project <- demo_project(tempfile(), waves = 2)
  study <- build_study(project)
  expect_equal(check_study(study)$records, check_study(project)$records)
  expect_equal(why(study, "belonging")$steps, why(project, "belonging")$steps)
  expect_equal(why(study, "belonging", "0278")$stories[[1]]$value, why(project, "belonging", "0278")$stories[[1]]$value)
  expect_equal(show_record(study, "0278"), show_record(project, "0278"))
  sheets <- c(tempfile(fileext = ".csv"), tempfile(fileext = ".csv"))
  expect_equal(coding_sheet(study, "best_codes", sheets[1]), coding_sheet(project, "best_codes", sheets[2]))
  codebook <- read_codebook(project)
  codebook$variables$years$range <- c(0, 60)
  codebook$variables$years$kept <- FALSE
  # What does not go out is not changed either.
  codebook$releases <- NULL
  codebook$variables$years$decimals <- 1
  changed <- build_study(codebook)
  expect_equal(max(changed$data$years, na.rm = TRUE) <= 60, TRUE)
  expect_false("years" %in% names(study_table(changed)))
  wrong <- list(function() examine_scales(study, thresholds = list(foo = 1)), function() examine_scales(study, thresholds = list(0.2)), function() answers(study, NULL), function() study_table(study, shape = "long", gaps = "beside"),
    function() study_table(study, block = "belong"), function() edit_codebook(codebook, list(study = list(title = "x"))))
  for (call in wrong) expect_match(message_of(call()), "thresholds|name at least one|leave `gaps` out|`block` goes with|named by the codebook's own keys")
  negative <- build_small(data.frame(id = 1:3, part = "High", x = c(-2, "", 5)), x = num("x"), missing = list(refused = list(code = -2, label = "Refused"), no_answer = list(code = -5), not_in_wave = list(code = -3)))
  expect_equal(study_table(negative, gaps = "codes")$x, c(-2, -5, 5))
  clash <- build_small(data.frame(id = 1:3, part = "High", x = c(-3, "", 5)), x = num("x"))
  expect_match(message_of(study_table(clash, gaps = "codes")), "`x` has answers that are -3, which is the code of a missing reason too: take `gaps = \"beside\"`")
  lookups <- list(main = data.frame(id = 1:2, part = "High", k = c("a", "b")), table = data.frame(word = c("a", "b"), size = 1:2))
  book <- small_codebook(k = list(column = "k", label = "K", level = "identifier"), v = list(label = "V", level = "ratio", lookup = list("in" = "table", by = "k", column = "size")))
  book$lookups <- list(table = list(key = "word"))
  expect_equal(why(book, "v", "2", exports = lookups)$stories[[1]]$value, "2")
})

test_that("the user's own settings of R change no byte and stay as they were", {
  project <- demo_project(tempfile(), waves = 2)
  plain <- digests_in(write_study(build_study(project)))
  shown <- function() c(capture.output(print(look(file.path(project, "raw/spring.csv"))), print(answers(project, c("belonging", "voice"), by = "wave")), print(examine_scales(project)), print(check_study(project)), print(why(project, "belonging", "0278"))), draft_codebook(file.path(project, "raw/spring.csv")))
  words <- shown()
  settings <- list(OutDec = ",", digits = 3L, scipen = -8L, encoding = "latin1", warn = 2L)
  withr::with_options(settings, {
    forget()
    expect_equal(digests_in(write_study(build_study(project))), plain)
    expect_equal(shown(), words)
    expect_equal(options()[names(settings)], settings)
  })
})
