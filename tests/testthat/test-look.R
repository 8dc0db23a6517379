test_that("look says the layout of a file and what its columns hold, and hides personal data", {
  project <- demo_project(tempfile())
  file <- file.path(project, "raw/spring.csv")
  seen <- look(file)
  kinds <- stats::setNames(as.data.frame(seen)$kind, as.data.frame(seen)$column)
  expect_equal(kinds[c("Member no", "Sheet no", "Opened", "Q20", "Q8_2", "Q6", "Q3", "Q4", "Q14")],
    c("Member no" = "key", "Sheet no" = "response", Opened = "paradata", Q20 = "personal", Q8_2 = "scale", Q6 = "scale", Q3 = "choice", Q4 = "number", Q14 = "text"))
  expect_equal(seen$columns$Q4$odd$text, c("three", "since school"), ignore_attr = TRUE)
  expect_equal(seen$blank_after_opening, 7L)
  raw <- as.data.frame(read_export(file, c("names", "questions")))
  for (name in names(raw)) expect_equal(seen$columns[[name]]$filled, sum(nzchar(trimws(raw[[name]]))), info = name)
  blank <- 1 - vapply(raw[seen$picture$questions], function(x) mean(nzchar(x)), 0)
  expect_equal(colMeans(seen$picture$blank), unname(blank), tolerance = 0.03)

  shown <- command("look", file)
  expect_equal(shown$status, 0)
  expect_false(any(grepl("choirs.example", shown$out)))
  expect_lte(max(nchar(shown$out)), 150)
  whole <- command("look", file, "--column", "Q3")
  expect_match(paste(whole$out, collapse = "\n"), "89 +36.2 % +Alto")
  expect_match(command("look", file, "--column", "Q33")$err, "did you mean `Q3`")
  page <- tempfile(fileext = ".html")
  json <- jsonlite::fromJSON(paste(command("look", file, "--json")$out, collapse = "\n"))
  expect_equal(json$records, 246)
  expect_false(any(grepl("choirs.example", unlist(json))))
  expect_equal(command("look", file, "--html", page)$status, 0)
  text <- paste(readLines(page, encoding = "UTF-8"), collapse = "\n")
  expect_match(text, "<svg class=\"picture\"")
  expect_false(grepl("choirs.example|(src|href)=\"http", text))
  writeLines("mine", page)
  expect_match(command("look", file, "--html", page)$err, "is not known to be Mavik's")
})

test_that("odd files are read right or refused with a reason, and never run", {
  folder <- tempfile()
  dir.create(folder)
  put <- function(name, bytes) {
    path <- file.path(folder, name)
    writeBin(if (is.raw(bytes)) bytes else charToRaw(bytes), path)
    path
  }
  good <- "id,x\n1,a\n2,b\n3,a\n"
  for (name in c("$(touch owned).csv", "a; touch owned;.csv", "http:--x.csv", "cat file |.csv", "`id`.csv", "spaced name.csv")) {
    expect_equal(look(put(name, good))$records, 3L, info = name)
    expect_equal(read_export(file.path(folder, name))$records, 3L)
  }
  expect_false(file.exists("owned") || file.exists(file.path(folder, "owned")))
  wide <- paste0(paste0("c", 1:5000, collapse = ","), "\n", paste(rep("1", 5000), collapse = ","), "\n", paste(rep("2", 5000), collapse = ","), "\n")
  expect_length(look(put("wide.csv", wide))$columns, 5000)
  big <- strrep("x", 5e6)
  expect_equal(nchar(as.data.frame(read_export(put("big.csv", paste0("id,x\n1,", big, "\n2,b\n"))))$x[1]), 5e6)
  cases <- list(
    list("id,x\n1,a\n2\n", ":3: this record has 1 cell"), list("id,x\n1,\"a\n2,b\n", ":2: a quote is opened here"), list(as.raw(c(0x69, 0x2C, 0x78, 0x0A, 0x31, 0x00, 0x0A, 0x31, 0x0A)), "NUL byte"),
    list("", "empty"), list("id,x\n", "only heading rows"), list(as.raw(c(0x50, 0x4B, 0x03, 0x04, 1:40)), "damaged or cut off|zip archive"), list(as.raw(c(0xD0, 0xCF, 0x11, 0xE0, 1:40)), "with a password")
  )
  for (case in cases) {
    path <- put("case.csv", case[[1]])
    expect_match(message_of(look(path), "mavik_read_error"), case[[2]])
    run <- command("draft", path, "--out", file.path(folder, "never.yml"))
    expect_equal(run$status, 2)
    expect_match(paste(run$err, collapse = "\n"), case[[2]])
  }
  expect_false(file.exists(file.path(folder, "never.yml")))
})

test_that("the draft command writes a codebook that builds, and never over another", {
  project <- demo_project(tempfile())
  out <- file.path(project, "drafted", "choirs.yml")
  run <- command("draft", file.path(project, "raw/spring.csv"), "--out", out)
  expect_equal(run$status, 0)
  expect_equal(command("build", out, "--out", tempfile())$status, 0)
  expect_match(command("draft", file.path(project, "raw/spring.csv"), "--out", out)$err, "stands there already and is kept")
  expect_equal(command("draft", file.path(project, "raw/spring.csv"))$out[4], "mavik: 1")
  before <- bytes_of(file.path(project, "choirs.yml"))
  expect_match(command("draft", file.path(project, "raw/spring.csv"), "--onto", project)$out, "Nothing new")
  expect_equal(bytes_of(file.path(project, "choirs.yml")), before)
})

test_that("patterns of blanks and identical records are counted as if row by row", {
  set.seed(19)
  frame <- data.frame(id = 1:300, replicate(6, sample(c("a", "b", "c", ""), 300, TRUE, c(4, 3, 2, 3))))
  frame[201:240, -1] <- frame[rep(1:10, 4), -1]
  seen <- look(frame)
  answers <- frame[vapply(seen$columns, function(one) one$kind != "key", TRUE)]
  blank <- apply(answers == "", 1, paste, collapse = "")
  expect_equal(seen$gap_patterns$count, sort(as.integer(table(blank)), decreasing = TRUE)[1:5])
  expect_equal(seen$identical, sum(duplicated(answers) & rowSums(answers != "") > 3))
})

test_that("whether most answers pass a test is told as by trying all of them", {
  set.seed(3)
  for (draw in seq_len(cases(200))) {
    n <- sample(c(1:40, 10000, 10001, 25000), 1)
    odd <- stats::runif(n) < sample(c(0.02, 0.1, 0.5, 1), 1)
    answers <- data.frame(text = ifelse(odd, "x", sprintf("2024-01-%02d", sample(28, n, TRUE))), count = sample(5, n, TRUE))
    share <- sum(answers$count[!odd]) / sum(answers$count)
    for (least in c(0.5, 0.8, 0.9, 0.95)) expect_equal(core$are_dates(answers, least), share >= least, info = paste(n, share, least))
  }
})
