test_that("every fault of the demo's export ends where it should", {
  project <- demo_project(tempfile())
  study <- build_study(project)
  raw <- as.data.frame(read_export(file.path(project, "raw/spring.csv"), c("names", "questions")))
  expect_equal(dim(raw), c(240L, 28L))
  # column, raw cell, how often, variable, outcome (a value or a reason)
  faults <- list(
    list("Q8_1", "agree", 5, "belong1", 4L), list("Q8_1", "Agree ", 3, "belong1", 4L), list("Q8_2", "Dissagree", 4, "belong2", 2L),
    list("Q8_3", "Can\u2019t say", 3, "belong3", "dont_know"), list("Q8_4", "Prefer not to say", 2, "belong4", "refused"),
    list("Q8_5", "4", 2, "belong5", "set_aside"), list("Q8_6", "Agree and disagree", 1, "belong6", "set_aside"),
    list("Q9", "Don\u2019t know", 3, "satisfied", "dont_know"), list("Q3", "Sopranno", 4, "voice", 1L), list("Q3", "alto", 3, "voice", 2L),
    list("Q3", "Prefer not to say", 2, "voice", "refused"), list("Q3", "Counter-tenor", 2, "voice", "set_aside"),
    list("Q4", "three", 2, "years", 3), list("Q4", "since school", 1, "years", "set_aside"), list("Q4", "DK", 3, "years", "dont_know"), list("Q4", "1998", 1, "years", "set_aside")
  )
  for (fault in faults) {
    rows <- which(raw[[fault[[1]]]] == fault[[2]])
    expect_length(rows, fault[[3]])
    outcome <- if (is.character(fault[[5]])) as.character(study$reasons[[fault[[4]]]])[rows] else study$data[[fault[[4]]]][rows]
    expect_equal(outcome, rep(fault[[5]], length(rows)), info = paste(fault[[1]], fault[[2]]))
  }
  expect_equal(unique(vapply(study$book$variables[paste0("belong", 1:6)], `[[`, "", "asked")),
    "Thinking of the choir in which you sing most often, how far do you agree with each of these statements? Please tick one answer in each row.")
  expect_equal(study$book$variables$belong2$question, "I often feel left out")
  expect_equal(raw[["Q14"]][nzchar(raw[["Q14"]])], stats::na.omit(study$data$best), ignore_attr = TRUE)
})

test_that("the demo's scale holds together, and satisfaction goes along with it", {
  data <- build_study(demo_project(tempfile()))$data
  items <- as.matrix(data[paste0("belong", 1:6)])
  items[, c(2, 5)] <- 6 - items[, c(2, 5)]
  answered <- rowSums(!is.na(items))
  expect_equal(data$belonging, ifelse(answered >= 4, rowMeans(items, na.rm = TRUE), NA))
  expect_gt(min(stats::cor(items, use = "pairwise")), 0.2)
  expect_gt(stats::cor(data$belonging, data$satisfied, use = "complete"), 0.4)
  expect_equal(data$sings_low, c(0L, 0L, 1L, 1L)[data$voice])
})
