parallels <- function(base, parallel, variables = list(), record = TRUE) {
  document <- do.call(small_codebook, variables)
  document$exports <- list(
    worded = c(list(wave = "one", key = "id", cells = "labels"), if (record) list(response = "ref")),
    coded = c(list(adds_to = "worded", key = "id", cells = "codes"), if (record) list(response = "ref"))
  )
  kept <- function(frame) frame[setdiff(names(frame), if (!record) "ref")]
  build_study(document, list(worded = kept(base), coded = kept(parallel)))
}

test_that("a parallel is matched by record or key in whatever order, and gives what the base lacks", {
  set.seed(10)
  n <- 40
  base <- data.frame(ref = sample(1000, n), id = sprintf("k%02d", 1:n), part = sample(c("High", "Low", ""), n, TRUE))
  parallel <- data.frame(ref = base$ref, id = base$id, part = c(High = "1", Low = "2")[base$part], mood = sample(c("1", "2", "-2", "7"), n, TRUE))
  parallel$part[is.na(parallel$part)] <- ""
  mood <- list(mood = list(column = "mood", label = "Mood", level = "nominal", codes = c("1" = "Good", "2" = "Bad")))
  for (record in c(TRUE, FALSE)) {
    straight <- parallels(base, parallel, mood, record)
    shuffled <- parallels(base, parallel[sample(n), ], mood, record)
    expect_equal(study_table(shuffled, gaps = "codes"), study_table(straight, gaps = "codes"))
    expect_equal(study_table(straight, gaps = "codes")$mood, c("1" = 1L, "2" = 2L, "-2" = -2L, "7" = -7L)[parallel$mood], ignore_attr = TRUE)
    expect_equal(unique(findings(straight)$kind), "unlisted")
    expect_equal(ledger(straight)$respondent, base$id[parallel$mood == "7"])
  }
})

test_that("what two parallels do not share or contradict is found, and `from` chooses", {
  base <- data.frame(ref = 1:5, id = letters[1:5], part = c("High", "Low", "Low", "High", ""))
  parallel <- data.frame(ref = c(5:2, 9), id = c("e", "d", "c", "b", "z"), part = c("2", "1", "1", "odd", "1"))
  study <- parallels(base, parallel)
  expect_equal(study$data$part, c(1L, 2L, 2L, 1L, NA))
  found <- findings(study)
  expect_equal(found$kind, c("one_file_only", "one_file_only", "contradiction", "contradiction"))
  expect_setequal(found$written, c("", "9", "Low | 1", " | 2"))
  expect_equal(found$examples[found$kind == "contradiction"], c("e", "c"))
  from <- parallels(base, parallel, list(part = list(from = "coded")))
  expect_equal(from$data$part, c(NA, NA, 1L, 1L, 2L))
  expect_equal(as.character(from$reasons$part), c("not_found", "set_aside", NA, NA, NA))
  parallel$ref[1] <- 4
  expect_match(message_of(parallels(base, parallel)), "the response `ref` is blank or occurs twice \\(lines 1 and 2\\)")
  expect_match(message_of(parallels(base, parallel, list(part = list(from = "codet")))), "did you mean `coded`")
})
