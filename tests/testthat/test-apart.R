# A wave from a column: one file, many waves.

trend_frame <- function(seed, n = 300) withr::with_seed(seed, {
  year <- sample(c("2000", "2004", "04", " 2008 "), n, TRUE)
  data.frame(
    Id = ave(seq_len(n), trimws(sub("^04$", "2004", year)), FUN = function(at) sample(900, length(at))),
    Year = year,
    Q1 = sample(c("High", "Low", "Hgh", "", "Refused"), n, TRUE, c(5, 5, 1, 1, 1)),
    Q2 = sample(c(0:60, "many", 300), n, TRUE),
    Q3 = ifelse(trimws(year) == "2000", "", sample(c("5", "6", "x"), n, TRUE)), Extra = ""
  )
})

trend_codebook <- function(exports) {
  waves <- lapply(c(y2000 = "2000", y2004 = "2004", y2008 = "2008"), function(label) list(label = label))
  list(mavik = 1, study = list(title = "Trend", design = "panel"), waves = waves, exports = exports,
    missing = list(refused = list(code = -2, label = "Refused")),
    variables = list(
      id = list(is = "key", label = "Id"), wave = list(is = "wave", label = "Wave"),
      voice = list(column = "Q1", label = "Voice", level = "nominal", codes = c("1" = "High", "2" = "Low"),
        by_wave = list(y2008 = list(variants = list(High = "Hgh")))),
      years = list(column = "Q2", label = "Years", level = "ratio", range = c("0", "80"),
        by_wave = list(y2004 = list(column = "Q3"))),
      band = list(label = "Band", bands = list(of = "years", starts = c("1" = "0", "2" = "10")), codes = c("1" = "few", "2" = "many"))
    ))
}

apart <- list(trend = list(key = "Id", ignored = "Extra", wave = list(column = "Year",
  values = list(y2000 = "2000", y2004 = c("2004", "04"), y2008 = "2008"))))

test_that("one file with a column of waves equals the files split by hand", {
  for (seed in 1:4) {
    frame <- trend_frame(seed)
    wave <- paste0("y", trimws(sub("^04$", "2004", frame$Year)))
    frames <- split(frame, wave)
    split_exports <- lapply(setNames(names(frames), names(frames)), function(name)
      list(key = "Id", wave = name, ignored = c("Year", "Extra", "Q3"[name != "y2004"])))
    one <- build_study(trend_codebook(apart), list(trend = frame))
    two <- build_study(trend_codebook(split_exports), frames)
    by_key <- function(study) study$data[order(study$records$wave, study$records$key), ]
    expect_equal(by_key(one), by_key(two), ignore_attr = TRUE)
    shown <- function(study) {
      found <- ledger(study)
      found <- found[order(found$wave, found$respondent, found$variable), setdiff(names(found), c("export", "line"))]
      rownames(found) <- NULL
      found
    }
    expect_equal(shown(one), shown(two))
    told <- function(study) {
      found <- findings(study)[c("level", "kind", "variable", "written", "count")]
      found[found$kind != "unused_column", ]
    }
    expect_equal(told(one), told(two), ignore_attr = TRUE)
  }
})

test_that("the file is read once, on disk too, and every door knows its waves", {
  frame <- trend_frame(9)
  folder <- project_with("", list())
  utils::write.csv(frame, file.path(folder, "raw/trend.csv"), row.names = FALSE)
  document <- trend_codebook(apart)
  document$exports$trend$file <- "raw/trend.csv"
  unlink(file.path(folder, "study.yml"))
  write_codebook(document, file.path(folder, "study.yml"))
  reads <- character()
  study <- withCallingHandlers(build_study(folder), mavik_progress = function(step) {
    if (identical(step$step, "read")) reads <<- c(reads, step$what)
  })
  expect_length(reads, 1)
  expect_setequal(study$records$export, paste0("trend:y", c(2000, 2004, 2008)))
  build <- command("build", folder)
  expect_equal(build$status, 0)
  row <- match("y2004", study$records$wave)
  # With the index in place only that person's lines are read; the story is the same without.
  key <- study$records$key[row]
  indexed <- why(folder, "years", key)
  unlink(file.path(folder, ".mavik"), recursive = TRUE)
  expect_equal(why(folder, "years", key), indexed)
  expect_true(study$records$line[row] %in% vapply(indexed$stories, `[[`, 0L, "at"))
  # A workbook and back is the same codebook.
  book <- file.path(folder, "book.xlsx")
  write_codebook(read_codebook(folder), book)
  exports <- lapply(list(book, folder), function(from) unclass(read_codebook(from))$exports$trend)
  expect_equal(exports[[1]][names(exports[[2]])], exports[[2]])
})

test_that("what no wave stands for stops a build, with its count and the line to add", {
  frame <- trend_frame(2)
  frame$Year[c(3, 9)] <- "2012"
  frame$Year[7] <- ""
  said <- message_of(build_study(trend_codebook(apart), list(trend = frame)))
  expect_match(said, "`2012` in the column `Year` in 2 records of data frame `trend`")
  expect_match(said, "y2012: {label: 2012}` under `waves` and `y2012: 2012` under the `values`", fixed = TRUE)
  expect_match(said, "`Year` is blank in 1 record")
  slips <- list(
    list(list(column = "Yeear", values = apart$trend$wave$values), "the column `Yeear` is not in .*did you mean `Year`"),
    list(list(column = "Year", values = list(y2000 = "2000", y2004 = "2000")), "`2000` stands for several waves: `y2000` and `y2004`"),
    list(list(column = "Year", values = list(y200 = "2000", y2004 = "2004")), "`y200` is not one of the waves; did you mean `y2000`"),
    list(list(colum = "Year"), "`colum` is not a key that can stand here; did you mean `column`"),
    list(list(column = "Year", values = list(y2000 = "2000")), "there is one wave only: name it, `wave: y2000`"),
    list(c("Year", "Id"), "must be a wave, or"),
    list(list(column = "Q1", values = apart$trend$wave$values), "`High` in the column `Q1`")
  )
  for (slip in slips) {
    wrong <- apart
    wrong$trend$wave <- slip[[1]]
    expect_match(message_of(build_study(trend_codebook(wrong), list(trend = trend_frame(2)))), slip[[2]], info = slip[[2]])
  }
  both <- c(apart, list(more = list(adds_to = "trend", key = "Id")))
  expect_match(message_of(build_study(trend_codebook(both), list(trend = frame, more = frame))), "told apart by a column")
})

test_that("a draft by a column of waves builds, finds the key within waves and the absent questions", {
  frame <- trend_frame(5)
  frame$Year <- trimws(sub("^04$", "2004", frame$Year))
  people <- ave(frame$Id, frame$Year, FUN = function(at) seq_along(at))
  frame$Id <- people
  frame$Sex <- c("Female", "Male")[1 + people %% 2]
  folder <- project_with("")
  unlink(file.path(folder, "study.yml"))
  utils::write.csv(frame, file.path(folder, "raw/trend.csv"), row.names = FALSE)
  done <- command("draft", file.path(folder, "raw/trend.csv"), "--wave-column", "Year", "--out", file.path(folder, "study.yml"))
  expect_equal(done$status, 0)
  book <- read_codebook(folder)
  expect_equal(names(book$waves), c("y2000", "y2004", "y2008"))
  expect_equal(book$exports$trend$key, "Id")
  expect_equal(book$study$design, "panel")
  study <- build_study(folder)
  expect_equal(nrow(study$data), nrow(frame))
  expect_true(all(study$reasons$q3[study$records$wave == "y2000"] == "not_in_wave"))
  expect_match(command("draft", file.path(folder, "raw/trend.csv"), "--wave-column", "Yeear")$err, "did you mean `Year`")
})
