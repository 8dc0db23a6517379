# Value or reason of a variable in some rows.
told <- function(study, name, rows) {
  value <- core$value_text(study$book$variables[[name]], study$data[[name]])[rows]
  ifelse(is.na(value), as.character(study$reasons[[name]])[rows], value)
}

test_that("every fault of the demo's export ends where it should", {
  project <- demo_project(tempfile())
  study <- build_study(project)
  raw <- as.data.frame(read_export(file.path(project, "raw/spring.csv"), c("names", "questions")))
  expect_equal(dim(raw), c(246L, 48L))
  line <- match(study$records$line, as.integer(read_export(file.path(project, "raw/spring.csv"), c("names", "questions"))$lines))
  raw <- raw[line, ]
  # column, raw cell, how often, variable, outcome (a value or a reason)
  faults <- list(
    list("Q8_1", "agree", 5, "belong1", 4L), list("Q8_1", "Agree ", 3, "belong1", 4L), list("Q8_2", "Dissagree", 4, "belong2", 2L),
    list("Q8_3", "Can\u2019t say", 3, "belong3", "dont_know"), list("Q8_4", "Prefer not to say", 2, "belong4", "refused"),
    list("Q8_5", "4", 2, "belong5", "set_aside"), list("Q8_6", "Agree and disagree", 1, "belong6", "set_aside"),
    list("Q9", "Don\u2019t know", 3, "satisfied", "dont_know"), list("Q3", "Sopranno", 4, "voice", 1L), list("Q3", "alto", 3, "voice", 2L),
    list("Q3", "Prefer not to say", 2, "voice", "refused"), list("Q3", "Counter-tenor", 2, "voice", "set_aside"),
    list("Q4", "three", 2, "years", 3), list("Q4", "since school", 1, "years", "set_aside"), list("Q4", "DK", 3, "years", "dont_know"), list("Q4", "1998", 1, "years", "set_aside"),
    list("Q17", "1890", 1, "joined", "set_aside"), list("Q17", "202", 1, "joined", "set_aside"), list("Q17", "2062", 1, "joined", 2026),
    list("Q18", "31/02/2020", 1, "debut", "set_aside"), list("Q18", "spring 2019", 1, "debut", "set_aside"), list("Q10_1", "30000", 1, "practice_alone", "set_aside"), list("Q10_2", "19000", 1, "practice_others", "set_aside")
  )
  for (fault in faults) {
    rows <- which(raw[[fault[[1]]]] == fault[[2]])
    expect_length(rows, fault[[3]])
    expect_equal(told(study, fault[[4]], rows), rep(as.character(fault[[5]]), length(rows)), info = paste(fault[[1]], fault[[2]]))
  }
  # what is planted, in which records (over the raw cells), variable, outcome
  number <- function(name) suppressWarnings(as.numeric(raw[[name]]))
  sum_of <- Reduce(`+`, lapply(paste0("Q11_", 1:3), function(name) ifelse(nzchar(raw[[name]]), number(name), 0)))
  rank <- lapply(paste0("Q13_", 1:3), number)
  tie <- !is.na(rank[[1]] + rank[[3]]) & (rank[[1]] == rank[[2]] | rank[[1]] == rank[[3]] | rank[[2]] == rank[[3]])
  off <- sum_of != 100 & sum_of > 0
  corrected <- ledger(study)$respondent[ledger(study)$variable == "points_trips" & ledger(study)$kind == "corrected"]
  planted <- list(
    list("answered though not asked", raw$Q16 == "No" & nzchar(raw$Q8_1), 3, "belong1", "set_aside"), list("not asked and blank", raw$Q16 == "No" & !nzchar(raw$Q8_4), 20, "belong4", "not_asked"),
    list("asked and blank", raw$Q16 == "Yes" & !nzchar(raw$Q5), 4, "weekly", "no_answer"), list("points that do not add up", off & raw$`Member no` != corrected, 5, "points_trips", "set_aside"),
    list("points corrected from paper", raw$Q11_3 == "30" & raw$`Member no` == corrected, 1, "points_trips", "40"),
    list("a blank that counts for nothing", sum_of == 100 & !nzchar(raw$Q11_3), 3, "points_concerts", "60"), list("ranks with ties", which(tie), 4, "rank_trips", "set_aside"),
    list("a rank that is skipped", raw$Q13_1 == "1" & raw$Q13_3 == "3" & !nzchar(raw$Q13_2), 2, "rank_trips", "set_aside")
  )
  for (fault in planted) {
    rows <- if (is.logical(fault[[2]])) which(fault[[2]]) else fault[[2]]
    expect_length(rows, fault[[3]])
    expect_equal(told(study, fault[[4]], rows), rep(fault[[5]], length(rows)), info = fault[[1]])
  }
  expect_equal(unique(vapply(study$book$variables[paste0("belong", 1:6)], `[[`, "", "asked")),
    "Thinking of the choir in which you sing most often, how far do you agree with each of these statements? Please tick one answer in each row.")
  expect_equal(study$book$variables$belong2$question, "I spend the tea break alone")
  expect_equal(raw[["Q14"]][nzchar(raw[["Q14"]])], stats::na.omit(study$data$best), ignore_attr = TRUE)
})

test_that("every record of the demo has its disposition", {
  project <- demo_project(tempfile())
  study <- build_study(project)
  raw <- as.data.frame(read_export(file.path(project, "raw/spring.csv"), c("names", "questions")))
  gone <- raw$Q1 != "Yes"
  raw <- raw[!gone, ]
  expect_equal(sum(gone), study$erased[["no_consent"]])
  questions <- unlist(lapply(c("Q8", "Q10", "Q11", "Q13"), function(block) grep(paste0("^", block, "_[1-6]"), names(raw), value = TRUE)))
  silent <- rowSums(raw[questions] != "") == 0
  taken <- as.numeric(raw$Seconds) < 60
  repeated <- raw$`Member no` %in% raw$`Member no`[duplicated(raw$`Member no`) & raw$Kind != "Trial"] & !duplicated(raw$`Member no`, fromLast = TRUE) == FALSE & raw$Kind != "Trial"
  expected <- ifelse(raw$Kind == "Trial", "trial", ifelse(silent, "opened_only", ifelse(taken, "speeder", ifelse(!raw$Q8_7 %in% c("", "Agree"), "inattentive", ifelse(repeated, "duplicate",
    ifelse(raw$Q11_1 == "" | (raw$Q13_1 == ""), "partial", "complete"))))))
  expect_equal(study$disposition, expected)
  expect_equal(as.list(core$disposition_counts(study)), list(complete = 212L, partial = 9L, trial = 3L, no_consent = 4L, opened_only = 6L, speeder = 4L, inattentive = 4L, duplicate = 4L))
  found <- findings(study)
  expect_equal(found$count[match(c("duplicate_same", "duplicate_differs", "marked"), found$kind)], c(2L, 2L, 2L))
  expect_equal(found$accepted[found$written == "since school"], "cannot be known")
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
