# The demo study, and a wilder one from a seed: label variants, unlisted cells,
# numbers out of range, blanks.
wild_frame <- function(seed, n = 150) {
  set.seed(seed)
  data.frame(
    id = sample(10000, n), part = sample(c("High", "high ", "hi", "Low", "", "REF", "Middle", "2"), n, TRUE),
    years = sample(c("1", "2.50", "three", "99", "120", "-4", "", "some", "1e1"), n, TRUE), note = sample(c("", " so ", "REF", "x"), n, TRUE)
  )
}

core_text <- function(value) if (is.numeric(value)) core$number_to_text(value) else value

wild_study <- function(frame, ...) {
  build_small(frame, part = list(variants = list(High = "hi")), years = list(column = "years", label = "Years", level = "ratio", range = c(0, 80),
    variants = list("3" = "three"), missing = list(refused = "99")), note = list(column = "note", label = "Note", level = "text"), ...)
}

test_that("undoing the ledger gives the decoded answers, and then the raw text of every cell it names", {
  for (seed in 1:5) {
    frame <- wild_frame(seed)
    study <- wild_study(frame)
    rows <- ledger(study)
    for (name in c("part", "years", "note")) {
      value <- as.character(study$data[[name]])
      reason <- as.character(study$reasons[[name]])
      reason[is.na(reason)] <- ""
      of <- function(kinds) rows[rows$variable == name & rows$kind %in% kinds, ]
      undo <- of("range")
      value[undo$line] <- undo$was
      reason[undo$line] <- undo$was_reason
      book <- study$book
      decoded <- core$decode_cells(as.character(frame[[name]]), book$variables[[name]], list(cells = "labels", decimal = "point"), book)
      expect_equal(value, core_text(decoded$value))
      expect_equal(reason, ifelse(decoded$reason > 0, book$reasons$name[pmax(decoded$reason, 1)], ""))
      named <- of(c("variant", "unlisted"))
      expect_equal(named$was, as.character(frame[[name]])[named$line])
      expect_equal(sort(named$line), which(nzchar(decoded$kind)))
      expect_equal(named$now[named$kind == "variant"], core_text(decoded$value)[named$line[named$kind == "variant"]])
    }
  }
})

test_that("shuffled rows give the same answers for each respondent", {
  frame <- wild_frame(6)
  study <- wild_study(frame)
  order <- sample(nrow(frame))
  other <- wild_study(frame[order, ])
  by_key <- function(table) table[match(frame$id, table$id), ]
  for (gaps in c("na", "codes", "beside")) {
    expect_equal(by_key(study_table(study, gaps = gaps)), by_key(study_table(other, gaps = gaps)), ignore_attr = "row.names")
  }
  columns <- c("kind", "variable", "written", "count")
  expect_equal(findings(study)[columns], findings(other)[columns])
})

test_that("every cell is accounted for: a value, or a gap with a reason", {
  study <- wild_study(wild_frame(7))
  for (name in names(study$data)) {
    reason <- study$reasons[[name]]
    expect_equal(is.na(study$data[[name]]), if (is.null(reason)) rep(FALSE, 150) else !is.na(reason), info = name)
  }
  counts <- core$count_variable(study, "part")
  expect_equal(sum(counts$codes$count) + sum(counts$gaps$count), 150)
  expect_equal(sum(counts$codes$of_all) + sum(counts$gaps$of_all), 100)
})

test_that("findings are grouped, counted, with up to five respondents", {
  study <- build_small(data.frame(id = letters[1:9], part = c(rep("Hgh", 7), "Low", "2"), spare = 1))
  found <- findings(study)
  expect_equal(found$kind, c("unused_column", "unlisted", "unlisted"))
  expect_equal(found$count, c(1L, 7L, 1L))
  expect_equal(found$examples, c("", "a; b; c; d; e", "i"))
  expect_match(found$message[2], "`High` is listed and no record of the file has it, while this text stands 7 times", fixed = TRUE)
  expect_match(found$message[3], "bare code")
})

test_that("the table comes with codes or labels, and gaps as asked", {
  study <- wild_study(wild_frame(8))
  codes <- study_table(study)
  expect_named(codes, c("id", "part", "years", "note"))
  expect_type(codes$part, "integer")
  labels <- study_table(study, "labels")
  expect_equal(levels(labels$part), c("High", "Low"))
  expect_equal(as.integer(labels$part), codes$part)
  filled <- study_table(study, gaps = "codes")
  expect_false(anyNA(filled))
  expect_setequal(setdiff(filled$part, 1:2), c(-2, -3, -7))
  expect_true(all(c("Refused", "No answer", "Set aside") %in% levels(study_table(study, "labels", "codes")$part)))
  expect_equal(names(study_table(study, gaps = "beside")), c("id", "part", "part.gap", "years", "years.gap", "note", "note.gap"))
})

test_that("keys that are blank, repeated, or nearly the same are found", {
  frame <- data.frame(id = c("1", " ", "2", ""), part = "Low")
  expect_match(message_of(build_small(frame), "mavik_build_error"), "data frame `main`:2: the key `id` is blank in 2 records \\(lines 2 and 4\\)")
  frame$id <- c("1", "2", " 1", "2")
  expect_match(message_of(build_small(frame), "mavik_build_error"), "2 keys of wave `one` stand more than once: `1` \\(data frame `main`:1, data frame `main`:3\\); `2`")
  frame$id <- c("07", "7", "a b", "AB")
  found <- findings(build_small(frame))
  expect_equal(found$kind, c("key_near_match", "key_near_match"))
  expect_equal(found$written, c("07 | 7", "a b | AB"))
})

test_that("an export without a column that is needed suggests the nearest, with the codebook's line", {
  said <- message_of(build_small(data.frame(ID = 1, prt = "Low")))
  expect_match(said, "exports > main > key: the column `id` is not in data frame `main`; did you mean `ID`")
  expect_match(said, "variables > part > column: the column `part` .*did you mean `prt`")
  project <- demo_project(tempfile())
  text <- readLines(file.path(project, "choirs.yml"), encoding = "UTF-8")
  writeLines(sub("key: Member no ", "key: Membr no ", text), file.path(project, "choirs.yml"))
  expect_match(message_of(build_study(project)), paste0("choirs.yml:", grep("key: Member no", text), " exports > spring > key: the column `Membr no` .*did you mean `Member no`"))
})

test_that("several exports of several waves are stacked in the order of the waves", {
  document <- small_codebook(wave = list(is = "wave", label = "Wave"))
  document$waves <- list(one = list(label = "First"), two = list(label = "Second"))
  document$exports <- list(b = list(wave = "two", key = "id"), a1 = list(wave = "one", key = "id"), a2 = list(wave = "one", key = "nr", cells = "codes"))
  frames <- list(b = data.frame(id = 1:2, part = c("Low", "odd")), a1 = data.frame(part = "High", id = 1), a2 = data.frame(nr = 2:3, part = c("2", "odd")))
  study <- build_study(document, frames)
  expect_equal(study$records, list(wave = c("one", "one", "one", "two", "two"), key = c("1", "2", "3", "1", "2"), export = c("a1", "a2", "a2", "b", "b"), line = c(1L, 1L, 2L, 1L, 2L)))
  expect_equal(study$data$part, c(1L, 2L, NA, 2L, NA))
  expect_equal(findings(study)[findings(study)$kind != "key_in_waves", c("written", "count", "examples")], data.frame(written = "odd", count = 2L, examples = "3; 2"))
  expect_equal(levels(study_table(study, "labels")$wave), c("First", "Second"))
  frames$a2$nr <- c(1, 3)
  expect_match(message_of(build_study(document, frames)), "`1` \\(data frame `a1`:1, data frame `a2`:1\\)")
})

test_that("private answers and what is made of them stay inside", {
  study <- build_small(data.frame(id = 1:3, part = c("Low", "secret", "")), part = list(private = TRUE),
    low = list(label = "Low", recode = list(of = "part", to = list("0" = "1", "1" = "2")), codes = c("0" = "No", "1" = "Yes")),
    open = list(label = "Open", private = FALSE, recode = list(of = "part", to = list("0" = "1", "1" = "2")), codes = c("0" = "No", "1" = "Yes")))
  expect_named(study_table(study), c("id", "open"))
  expect_false(any(grepl("secret", unlist(c(findings(study), ledger(study))))))
  expect_equal(ledger(study)$was, "(private)")
  out <- write_study(study, tempfile())
  for (file in list.files(out, full.names = TRUE)) expect_false(any(grepl("secret", readLines(file))), info = file)
  keyed <- build_small(data.frame(id = c("anna@choirs.example", "b"), part = c("odd", "Low")), mail = list(column = "id", label = "Mail", level = "text", private = TRUE))
  out <- write_study(keyed, tempfile())
  for (file in list.files(out, full.names = TRUE)) expect_false(any(grepl("anna", readLines(file))), info = file)
})
