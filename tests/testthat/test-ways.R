test_that("every way keeps the contract", {
  expect_setequal(names(core$ways()), names(way_examples))
  set.seed(21)
  for (name in names(core$ways())) conform_way(core, name, way_examples[[name]])
})

test_that("every rule and screen keeps the contract", {
  set.seed(22)
  # Facts change from wave to wave, and the export is of one.
  for (kind in names(core$rules())) conform_part(core, "rules", kind, met = kind != "constant")
  for (kind in names(core$screens())) conform_part(core, "screens", kind)
})

test_that("every output and command keeps the contract", {
  study <- build_study(demo_project(tempfile(), waves = 2))
  for (output in core$parts_named("output_")) conform_output(core, output, study)
  for (name in names(core$commands())) conform_command(core, name)
})

test_that("every format of a release keeps the contract", {
  study <- build_study(demo_project(tempfile(), waves = 2))
  release <- study$book$releases$archive
  tried <- setdiff(names(core$formats()), "postgresql")
  release$formats <- tried
  edition <- core$edition_of(study, release)
  for (name in tried) conform_format(core, name, edition)
})

test_that("a recode sends every old code where it should go, by label or code", {
  frame <- data.frame(id = 1:5, part = c("High", "Low", "", "Refused", "odd"))
  study <- build_small(frame, low = list(label = "Low", recode = list(of = "part", to = list("0" = "1", "5" = "low")), codes = c("0" = "No", "5" = "Yes")))
  expect_equal(study$data$low, c(0L, 5L, NA, NA, NA))
  expect_equal(as.character(study$reasons$low), c(NA, NA, "no_answer", "refused", "set_aside"))
  gaps <- build_small(frame, low = list(label = "Low", recode = list(of = "part", to = list("1" = "Low"), gaps = list(refused = "High")), codes = c("1" = "Yes")))
  expect_equal(as.character(gaps$reasons$low), c("refused", NA, "no_answer", "refused", "set_aside"))
})

test_that("a score is the mean or sum by the codebook's bounds", {
  frame <- data.frame(id = 1:6, part = "Low", a = c("Often", "Often", "", "", "Refused", "Never"), b = c("Never", "", "Never", "", "Refused", "Never"), d = c("Often", "Never", "", "", "", "Never"))
  score <- function(...) {
    parts <- way_examples$score
    parts$made$score <- list(of = c("a", "b", "d"), ...)
    study <- do.call(build_small, c(list(frame), parts))
    list(study$data$made, as.character(study$reasons$made), study$book$variables$made$range)
  }
  expect_equal(score(take = "mean"), list(c(5 + 2, NA, NA, NA, NA, 3) / 3, c(NA, rep("too_few", 4), NA), c(1, 3)))
  expect_equal(score(take = "mean", reversed = "b", at_least = 1)[[1]], c(3, 2, 3, NA, NA, 5 / 3))
  expect_equal(score(take = "sum", reversed = "b")[c(1, 3)], list(c(9, NA, NA, NA, NA, 5), c(3, 9)))
  expect_equal(score(take = "sum", at_least = 2, prorate = TRUE)[[1]], c(7, 6, NA, NA, NA, 3))
})

test_that("the reason of a gap does not depend on the order of the inputs", {
  set.seed(5)
  book <- core$compile_codebook(core$as_codebook(small_codebook()))
  columns <- lapply(1:4, function(i) {
    reason <- sample(0:nrow(book$reasons), 200, TRUE)
    core$new_column(ifelse(reason > 0, NA, 1), reason)
  })
  first <- core$first_reason(columns, 200)
  for (i in 1:10) expect_identical(core$first_reason(sample(columns), 200), first)
  ranks <- do.call(pmin, lapply(columns, function(column) ifelse(column$reason == 0, 99L, column$reason)))
  expect_identical(first, ifelse(ranks == 99L, 0L, ranks))
  unasked <- core$reason_id(book, c("not_asked", "not_in_wave"))
  items <- list(a = core$new_column(c(NA, NA, NA), c(unasked[1], unasked[2], unasked[1])), b = core$new_column(c(NA, NA, NA), c(unasked[2], unasked[2], 1L)))
  for (order in list(1:2, 2:1)) {
    expect_equal(core$score_reason(rep(NA_real_, 3), items[order], book), c(unasked[1], unasked[2], core$reason_id(book, "too_few")))
  }
})
