# A study with a filter, numbers and a block; `...` replaces or adds variables.
checked <- function(frame, ..., top = list(), cells = "labels") {
  rating <- function(column) list(column = column, label = column)
  document <- small_codebook(
    x = list(column = "x", label = "X", level = "ratio", range = c(0, 80), universe = "part == \"High\""), y = list(column = "y", label = "Y", level = "ratio"),
    mood = list(level = "ordinal", codes = c("1" = "Bad", "2" = "So so", "3" = "Good"), items = list(m1 = rating("m1"), m2 = rating("m2"), m3 = rating("m3"))), cells = cells
  )
  document$variables <- utils::modifyList(document$variables, list(...))
  document <- utils::modifyList(document, top)
  for (name in setdiff(c("id", "part", "x", "y", "m1", "m2", "m3"), names(frame))) frame[[name]] <- if (name == "id") seq_len(nrow(frame)) else ""
  build_study(document, list(main = frame))
}

outcome <- function(study, name) {
  reason <- as.character(study$reasons[[name]])
  value <- core$value_text(study$book$variables[[name]], study$data[[name]])
  if (length(reason) == 0) value else ifelse(is.na(reason), value, reason)
}

test_that("a universe parts asked from not asked, and each kind of cell ends where it should", {
  frame <- expand.grid(part = c("High", "Low", "", "Refused", "odd"), x = c("5", "", "Refused", "99", "text"), stringsAsFactors = FALSE)
  study <- checked(frame)
  expected <- c(
    "5", "set_aside", "5", "5", "5", "no_answer", "not_asked", "no_answer", "refused", "set_aside", "refused", "set_aside", "refused", "refused", "refused",
    rep("set_aside", 5), rep("set_aside", 5)
  )
  expect_equal(outcome(study, "x"), expected)
  rows <- ledger(study)
  expect_equal(rows[rows$kind == "universe", c("line", "was", "was_reason", "now_reason")], data.frame(line = c(2L, 12L), was = c("5", ""), was_reason = c("", "refused"), now_reason = "set_aside"), ignore_attr = TRUE)
  expect_equal(table(rows$kind)[c("range", "unlisted")], c(range = 5L, unlisted = 10L), ignore_attr = TRUE)
  found <- findings(study)
  expect_equal(found$count[found$kind %in% c("universe", "universe_unknown")], c(2L, 3L))
  expect_equal(study$skips$x, c(asked_answered = 1, asked_blank = 1, outside_blank = 1, outside_answered = 2, unsure_answered = 3, unsure_blank = 3))
  # Another order of rows, and a filter that is itself derived, change nothing.
  order <- sample(nrow(frame))
  made <- checked(frame[order, ], gate = list(label = "G", recode = list(of = "part", to = list("1" = "High", "2" = "Low")), codes = c("1" = "In", "2" = "Out")), x = list(universe = "gate == \"In\""))
  expect_equal(outcome(made, "x"), expected[order])
})

test_that("a universe rests on settled answers: what a rule sets aside is unknown to it", {
  frame <- data.frame(y = c("1", "500"), x = c("", ""), part = "High")
  study <- checked(frame, x = list(universe = "y > 2"), top = list(rules = list(small = list(must = "y < 100", sets_aside = "y"))))
  expect_equal(outcome(study, "y"), c("1", "set_aside"))
  expect_equal(outcome(study, "x"), c("not_asked", "set_aside"))
})

test_that("rules find what they are for", {
  parts <- function(...) as.data.frame(t(matrix(c(...), 3, dimnames = list(c("a", "b", "d"), NULL))), stringsAsFactors = FALSE)
  numbers <- function(...) utils::modifyList(list(a = list(column = "a", label = "A", level = "ratio"), b = list(column = "b", label = "B", level = "ratio"), d = list(column = "d", label = "D", level = "ratio")), list(...))
  broken <- function(frame, rule, ...) {
    study <- do.call(checked, c(list(frame), numbers(...), list(top = list(rules = list(r = rule)))))
    kept <- lapply(c("a", "b", "d"), function(name) which(outcome(study, name) == "set_aside"))
    list(rows = study$checked$r$rows, aside = kept, ledger = sum(ledger(study)$kind == "rule"), found = findings(study))
  }
  sums <- parts("50", "50", "", "50", "50", "0", "50", "40", "", "", "", "", "50", "50", "Refused", "50.2", "50", "0", "60", "60", "-20")
  add <- function(...) list(adds_up = list(parts = c("a", "b", "d"), to = 100, ...))
  expect_equal(broken(sums, add(blank = 0))$rows, 2)
  expect_equal(broken(sums, add(blank = 0, within = 0.5))$rows, 1)
  expect_equal(broken(sums, add())$rows, 1)
  out <- broken(sums, c(add(blank = 0), list(sets_aside = "all")))
  expect_equal(out$aside, list(c(3L, 6L), c(3L, 6L), 6L))
  expect_equal(out$ledger, 5)
  expect_match(out$found$message[out$found$kind == "rule"], "off by -10 and 0.2\\): 5 answers set aside")
  expect_equal(broken(parts("1", "2", "3", "1", "2", "4", "", "2", "2"), list(adds_up = list(parts = c("a", "b"), to = "d")))$rows, 1)

  ranks <- parts("1", "2", "3", "3", "1", "2", "1", "1", "2", "1", "", "3", "1", "2", "", "", "", "", "2", "", "", "1", "2", "4", "1", "2", "Refused")
  found <- broken(ranks, list(ranks = list(of = c("a", "b", "d"), to = 3), sets_aside = c("a", "d")))
  expect_equal(found$rows, 4)
  expect_equal(found$aside, list(c(3L, 4L, 7L, 8L), integer(), c(3L, 4L, 8L)))
  expect_match(found$found$message[found$found$kind == "rule"], "1 with a rank given twice, 2 with a rank skipped, 1 with something else than a rank")

  expect_equal(broken(parts("1", "1", "", "1", "2", "", "", "2", ""), list(same_as = c("a", "b")))$rows, 1)
  must <- broken(parts("1", "2", "3", "5", "2", "3", "5", "", "3"), list(must = "a < b"))
  expect_equal(must[c("rows", "aside")], list(rows = 1L, aside = list(integer(), integer(), integer())))
  coded <- checked(data.frame(part = c("High", "Low", "", "High"), note = c("high", "High", "x", "HIGH")), note = list(column = "note", label = "N", level = "text"), top = list(rules = list(r = list(same_as = c("part", "note")))))
  expect_equal(coded$checked$r$rows, 1)
})

test_that("two rules on one answer leave one row, and their order changes no value", {
  frame <- data.frame(part = "High", x = as.character(sample(0:90, 200, TRUE)), y = as.character(sample(0:90, 200, TRUE)))
  rules <- list(first = list(must = "x + y < 100", sets_aside = "all"), second = list(must = "x < 60 & y < 70", sets_aside = "all"), third = list(must = "y > 5", sets_aside = "x"))
  one <- checked(frame, top = list(rules = rules))
  other <- checked(frame, top = list(rules = rev(rules)))
  expect_equal(one$data, other$data)
  expect_equal(one$reasons, other$reasons)
  rows <- ledger(one)
  expect_false(any(duplicated(rows[c("line", "variable")])))
  expect_equal(lapply(one$checked[c("first", "second", "third")], `[[`, "rows"), lapply(other$checked[c("first", "second", "third")], `[[`, "rows"))
})

test_that("the same responses in two files are held against each other by a rule", {
  document <- small_codebook()
  document$exports$parallel <- list(adds_to = "main", key = "id", cells = "codes")
  document$rules <- list(same = list(same_as = c("main", "parallel"), sets_aside = "all"))
  study <- build_study(document, list(main = data.frame(id = 1:3, part = c("High", "Low", "Low")), parallel = data.frame(id = 3:1, part = c("1", "2", "1"))))
  expect_equal(outcome(study, "part"), c("1", "2", "set_aside"))
  expect_equal(study$checked$same, list(rows = 1L, cells = 1L))
})

screened <- function(screens, frame, ..., top = list()) checked(frame, ..., top = c(list(screens = screens), top))

test_that("screens drop whom they mean, in their order, and every screen met is kept", {
  frame <- data.frame(
    part = c("High", "High", "", "Low", "High", "High"), x = c("3", "", "", "", "Refused", "2"), y = c("", "", "", "1", "", "9"),
    m1 = c("Good", "", "", "Bad", "", "So so"), m2 = c("Good", "", "", "Bad", "", "Bad"), m3 = c("Good", "", "", "Bad", "Refused", "")
  )
  dropped <- function(...) {
    study <- screened(list(...), frame)
    list(study$disposition, lapply(study$screens, identity), which(!seq_len(6) %in% (if (is.null(study$retained)) 1:6 else study$retained)))
  }
  expect_equal(dropped(s = list(`if` = "y > 5"))[[3]], 6L)
  expect_equal(dropped(s = list(unanswered = c("mood", "y")))[[3]], c(2L, 3L))
  # The filter of x is unknown for 3 (asked all the same), false for 4 (not asked).
  expect_equal(dropped(s = list(unanswered = "x"))[[3]], c(2L, 3L))
  expect_equal(dropped(s = list(answered_less_than = 0.5, of = c("x", "y", "mood")))[[3]], c(2L, 3L, 5L))
  expect_equal(dropped(s = list(answered_less_than = 3, of = c("x", "mood")))[[3]], c(2L, 3L, 5L))
  expect_equal(dropped(s = list(straightlined = "mood"))[[3]], c(1L, 4L))
  both <- dropped(a = list(straightlined = "mood", report = TRUE), b = list(`if` = "part == \"Low\""), d = list(`if` = "is_missing(x)"))
  expect_equal(both[[1]], c("retained", "d", "d", "b", "d", "retained"))
  expect_equal(both[[2]], list(a = c(1L, 4L), b = 4L, d = c(2L, 3L, 4L, 5L)))
  study <- screened(list(b = list(`if` = "part == \"Low\""), d = list(`if` = "is_missing(x)")), frame, how = list(is = "disposition", label = "How"), top = list(study = list(complete = c("mood", "y"))))
  expect_equal(study_table(study)$how, c("partial", "complete"))
  expect_equal(ledger(study)[c("line", "rule", "note")][ledger(study)$kind == "dropped", ], data.frame(line = c(4L, 2L, 3L, 5L), rule = c("screens > b", rep("screens > d", 3)), note = c("meets b, d", "", "", "")), ignore_attr = TRUE)
  found <- findings(study)
  expect_equal(found$count[match(c("received", "retained"), found$kind)], c(6L, 2L))
  out <- write_study(study, tempfile())
  expect_equal(nrow(utils::read.csv(file.path(out, "analysis.csv"))), 2)
  expect_equal(utils::read.csv(file.path(out, "gaps.csv"))$respondent, c(1, 6))
  expect_equal(jsonlite::read_json(file.path(out, "provenance.json"))$dispositions, list(complete = 1L, partial = 1L, b = 1L, d = 3L))
})

test_that("of several records the one the codebook names stays, among those that no screen dropped", {
  frame <- data.frame(id = c(1, 1, 1, 2, 2, 3, 3, 4), part = c("High", "High", "Low", "Low", "Low", "High", "", "High"), y = c("1", "3", "9", "5", "5", "", "", ""), m1 = c("Good", "Bad", "Good", "Bad", "Bad", "", "Good", ""))
  kept <- function(...) {
    study <- screened(list(test = list(`if` = "y > 8")), frame, top = list(duplicates = list(...)))
    list(study$retained, findings(study))
  }
  expect_equal(kept(keep = "last", by = "y")[[1]], c(2L, 5L, 7L, 8L))
  expect_equal(kept(keep = "first", by = "y")[[1]], c(1L, 4L, 6L, 8L))
  expect_equal(kept(keep = "fullest")[[1]], c(1L, 4L, 6L, 8L))
  expect_equal(kept(keep = "none")[[1]], 8L)
  found <- kept(keep = "last", by = "y")[[2]]
  expect_equal(found[match(c("duplicate_differs", "duplicate_same", "duplicate_tie"), found$kind), c("level", "count")], data.frame(level = c("warning", "note", "warning"), count = c(2L, 1L, 2L)), ignore_attr = TRUE)
  expect_match(message_of(screened(list(test = list(`if` = "y > 8")), frame)), "3 keys of wave `one` stand more than once: `1` .*duplicates: \\{keep")
})

test_that("who withdraws consent leaves nothing but a count", {
  frame <- data.frame(id = c("anna", "berta", "berta", "carla", "carla", "dora", "dora"), part = c("secret words", "High", "other secret", "Low", "", "Low", "High"),
    y = c("No", "1", "2", "3", "", "5", "No"), x = c("", "1", "third secret", "", "", "", ""))
  document <- small_codebook(x = list(column = "x", label = "X", level = "ratio"), y = list(column = "y", label = "Y", level = "ratio", missing = list(refused = "No")),
    agreed = list(label = "A", recode = list(of = "part", to = list("1" = "High", "2" = "Low")), codes = c("1" = "In", "2" = "Out")))
  document$variables$consent <- list(column = "y", level = "nominal", codes = c("1" = "Yes", "2" = "No"), variants = list(Yes = c("1", "2", "3", "5")), kept = FALSE)
  document$duplicates <- list(keep = "last", by = "y")
  document$screens <- list(no_consent = list(`if` = "consent == \"No\" | is_missing(consent)", erase = TRUE))
  study <- build_study(document, list(main = frame))
  # anna and dora said no, dora in one of two records; carla opened the page again and left.
  expect_equal(study$records$key, c("berta", "berta", "carla"))
  expect_equal(study$retained, c(2L, 3L))
  expect_equal(as.list(core$disposition_counts(study)), list(retained = 2L, no_consent = 4L, duplicate = 1L))
  out <- write_study(study, tempfile())
  for (file in list.files(out, full.names = TRUE)) expect_false(any(grepl("anna|dora|secret words", readLines(file))), info = file)
  expect_false(any(grepl("anna|dora|secret words", utils::capture.output(utils::str(unclass(study)[c("data", "records", "findings", "ledger")], vec.len = 1e4, list.len = 1e4)))))
  expect_true(any(grepl("other secret", readLines(file.path(out, "findings.csv")))))
  document$study$design <- "panel"
  document$waves$two <- list(label = "Two")
  document$exports$second <- list(wave = "two", key = "id")
  both <- build_study(document, list(main = frame, second = data.frame(id = c("anna", "erna"), part = "Low", x = "", y = "1")))
  expect_equal(both$records$key, c("berta", "berta", "carla", "erna"))
})

sheet_with <- function(...) {
  path <- tempfile(fileext = ".csv")
  utils::write.csv(data.frame(...), path, row.names = FALSE, na = "")
  path
}

test_that("corrections replace what they name, in any of its forms, with who and why", {
  frame <- data.frame(id = c("1", "2", "3", "4", "5"), part = c("High", "hgh", "", "Low", "Low"), x = c("1", "", "", "", ""), y = c("5", "abc", "Refused", "", "9"), note = c("a", "", "b", "c", "d"))
  sheet <- sheet_with(respondent = c(1, 2, 3, 4, 5, 2, 3, 4, 5), variable = c("part", "part", "part", "part", "part", "y", "y", "y", "note"), was = c("High", "hgh", "", "2", "Low", "set_aside", "Refused", "no_answer", "d"),
    now = c("Low", "1", "refused", "High", "Prefer not", "12", "3", "7.5", "new words"), note = "asked again", who = "office", date = "2026-03-24")
  sheets <- utils::read.csv(sheet, colClasses = "character")
  study <- checked(frame, note = list(column = "note", label = "N", level = "text"), top = list(corrections = sheet, missing = list(refused = list(label = "Prefer not"))))
  expect_equal(outcome(study, "part"), c("2", "1", "refused", "1", "refused"))
  expect_equal(outcome(study, "y"), c("5", "12", "3", "7.5", "9"))
  expect_equal(study$data$note, c("a", NA, "b", "c", "new words"))
  rows <- ledger(study)
  expect_equal(unique(rows$note[rows$kind == "corrected"]), "office, 2026-03-24: asked again")
  expect_equal(sum(rows$kind == "corrected"), nrow(sheets))
  expect_false("unlisted" %in% findings(study)$kind)
  expect_equal(sum(rows$kind == "unlisted"), 3)
})

test_that("a correction that fits nothing stops the build, and all such lines are told at once", {
  frame <- data.frame(id = c("01", "2"), part = c("High", "Low"), y = c("5", "6"))
  said <- function(...) message_of(checked(frame, top = list(corrections = sheet_with(...))), "mavik_build_error")
  text <- said(respondent = c("1", "2", "2", "2", "01"), variable = c("part", "prt", "y", "part", "y"), was = c("High", "Low", "5", "Low", "5"), now = c("Low", "High", "7", "Middle", "abc"))
  for (part in c(":2: the respondent `1` is not in wave `one`; did you mean `01`?", ":3: `prt` is not an answer read from cells; did you mean `part`?", ":4: `was` no longer stands: y holds `6`, not `5`", ":5: `now` `Middle` is not a value", ":6: `now` `abc`")) {
    expect_match(text, part, fixed = TRUE)
  }
  expect_match(said(respondent = c(2, 2), variable = "y", was = "6", now = c("7", "8")), "corrected twice")
  expect_match(said(respondent = 2, variable = "y", was = "6"), "lacks the column `now`")
  expect_match(said(respondent = 2, variable = "y", was = "6", now = "7", by = "me"), "`by` is not one of its columns")
  expect_match(message_of(checked(frame, top = list(corrections = "nowhere.csv"))), "nowhere.csv: ")
})

test_that("accepted findings stay counted and are no longer open; one that fits none is a note", {
  frame <- data.frame(part = c("odd", "Odd ", "strange"))
  study <- checked(frame, top = list(accepted = list(list(kind = "unlisted", variable = "part", written = "odd", note = "as it is"), list(kind = "range", variable = "x"))))
  found <- findings(study)
  expect_equal(found$accepted[found$kind == "unlisted"], c("", "as it is", "as it is"))
  expect_equal(found$message[found$kind == "accepted_unmatched"], "no finding of kind `range` fits this entry any more: take it out")
  expect_equal(core$open_findings(found)$kind[core$open_findings(found)$kind != "no_value"], c("unlisted", "accepted_unmatched"))
  expect_match(message_of(read_codebook(utils::modifyList(small_codebook(), list(accepted = list(list(kid = "unlisted")))))), "accepted > 1 > kid: `kid` is not a key.*did you mean `kind`")
})

test_that("undoing the ledger gives the decoded answers with every check at work", {
  set.seed(51)
  n <- 300
  frame <- data.frame(id = sprintf("%03d", seq_len(n)), part = sample(c("High", "high", "Low", "", "Refused", "odd"), n, TRUE), x = sample(c(0:100, rep(c("", "Refused", "text"), 10)), n, TRUE), y = sample(c(0:99, ""), n, TRUE),
    m1 = sample(c("Good", "Bad", "", "Refused"), n, TRUE), m2 = sample(c("Good", "Bad", ""), n, TRUE), m3 = sample(c("Good", "Bad", "2"), n, TRUE))
  target <- which(frame$x == "Refused")[1:3]
  study <- checked(frame, mood = list(universe = "x > 20 | is_missing(x)"), top = list(
    corrections = sheet_with(respondent = frame$id[target], variable = "x", was = "refused", now = "44"),
    rules = list(a = list(must = "x + y < 120", sets_aside = "all"), b = list(must = "n_answered(mood) > 1", sets_aside = "mood")), screens = list(odd = list(`if` = "y < 3"))
  ))
  rows <- ledger(study)
  expect_setequal(unique(rows$kind), c("unlisted", "corrected", "range", "universe", "rule", "dropped"))
  for (name in c("part", "x", "y", "m1", "m2", "m3")) {
    variable <- study$book$variables[[name]]
    value <- core$value_text(variable, study$data[[name]])
    reason <- as.character(study$reasons[[name]])
    reason[is.na(reason)] <- ""
    undo <- rows[rows$variable == name & rows$kind %in% c("corrected", "range", "universe", "rule"), ]
    for (at in rev(seq_len(nrow(undo)))) {
      line <- undo$line[at]
      expect_equal(c(ifelse(is.na(value[line]), "", value[line]), reason[line]), c(undo$now[at], undo$now_reason[at]))
      value[line] <- if (nzchar(undo$was[at])) undo$was[at] else NA
      reason[line] <- undo$was_reason[at]
    }
    decoded <- core$decode_cells(frame[[name]], variable, list(cells = "labels", decimal = "point"), study$book)
    expect_equal(value, core$value_text(variable, decoded$value), info = name)
    blank <- decoded$reason == core$reason_id(study$book, "no_answer")
    expect_equal(reason[!blank], ifelse(decoded$reason > 0, study$book$reasons$name[pmax(decoded$reason, 1)], "")[!blank], info = name)
  }
})

test_that("problems of rules, screens and universes are told with their path", {
  cases <- list(
    list(list(rules = list(r = list(must = "xx > 1"))), "rules > r > must: in `xx > 1` at character 1: `xx` is not a variable"),
    list(list(rules = list(r = list(must = "x > 1", sets_aside = "z"))), "rules > r > sets_aside: `z` is not a variable or block"),
    list(list(rules = list(r = list(mst = "x > 1"))), "rules > r: holds none of `adds_up`, `constant`, `must`, `ranks` and `same_as`"),
    list(list(rules = list(r = list(must = "x > 1", ranks = list(of = "mood", to = 3)))), "holds more than one"),
    list(list(rules = list(r = list(adds_up = list(parts = c("x", "part"), to = 10)))), "`part` is no number"), list(list(rules = list(r = list(adds_up = list(parts = "x", to = 10)))), "at least two"),
    list(list(rules = list(r = list(ranks = list(of = "mood", from = 3, to = 3)))), "above the first"), list(list(rules = list(r = list(same_as = "x"))), "takes two variables"),
    list(list(screens = list(s = list(unanswered = "moods"))), "screens > s > unanswered: `moods` is not a variable or block of this codebook; did you mean `mood`"),
    list(list(screens = list(s = list(answered_less_than = 0.5))), "`of` is missing"), list(list(screens = list(s = list(answered_less_than = 0, of = "mood"))), "a share between 0 and 1"),
    list(list(screens = list(s = list(straightlined = "x"))), "`x` is not a block"), list(list(duplicates = list(keep = "last")), "`by` is missing"), list(list(duplicates = list(keep = "last", by = "part")), "`part` has no order"),
    list(list(duplicates = list(keep = "newest")), "`newest` is not one of"), list(list(variables = list(x = list(universe = "x > 1"))), "x > universe: goes in a circle: x <- x"),
    list(list(variables = list(x = list(universe = "y > 1"), y = list(universe = "x > 1"))), "goes in a circle: x <- y <- x"),
    list(list(variables = list(x = list(universe = "y > 1")), rules = list(r = list(must = "x < y", sets_aside = "y"))), "goes in a circle: .*rule r"),
    list(list(variables = list(d = list(is = "disposition", label = "D"), z = list(label = "Z", recode = list(of = "d", to = list("1" = "a")), codes = c("1" = "a")))), "has no codes|nothing can be made"),
    list(list(screens = list(s = list(`if` = "d == \"retained\"")), variables = list(d = list(is = "disposition", label = "D"))), "known only when all else is"),
    list(list(study = list(complete = "moods")), "study > complete: `moods`")
  )
  for (case in cases) {
    said <- message_of(checked(data.frame(part = "High"), top = case[[1]]), "mavik_codebook_error")
    expect_match(said, case[[2]], info = case[[2]])
  }
})
