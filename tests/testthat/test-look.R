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

test_that("a mark that may stand for thousands makes no decimals, and none is lost", {
  held <- c("1,900", "12,500", "2,350", "950")
  cases <- list(
    list(list(a = held, b = c("1.5", "2", "0.25", "3.5")), c("text", "number"), NULL), list(list(a = held, b = 1:4), c("text", "number"), NULL),
    list(list(a = chartr(",", ".", held), b = c("1,5", "2", "0,25", "3,5")), c("text", "number"), "comma"), list(list(a = chartr(",", ".", held), b = 1:4), c("text", "number"), NULL),
    # Decimals all the same: one nought before the mark, other widths, or points that are hardly ever round.
    list(list(a = c("0,250", "1,125", "2,500", "3,000"), b = 1:4), c("number", "number"), "comma"), list(list(a = c("1,25", "1,125", "2,500", "3"), b = 1:4), c("number", "number"), "comma"),
    list(list(a = c("1.237", "12.518", "2.353", "7.001"), b = 1:4), c("number", "number"), NULL)
  )
  for (case in cases) {
    columns <- c(list(id = 1:40), lapply(case[[1]], rep, 10))
    file <- tempfile(fileext = ".csv")
    data.table::fwrite(columns, file, sep = ";")
    expect_equal(as.data.frame(look(file))$kind[-1], case[[2]], info = case[[1]]$a[1])
    draft <- draft_codebook(file)
    expect_equal(sub(" +decimal: ", "", grep("decimal:", draft, value = TRUE)), as.character(case[[3]]), info = case[[1]]$a[1])
    study <- build_study(draft)
    expect_equal(nrow(ledger(study)), 0)
    if (case[[2]][1] == "text") expect_equal(as.character(study$data$a), columns$a)
  }
  file <- tempfile(fileext = ".csv")
  data.table::fwrite(list(id = 1:3, part = c("High", "Low", "Low"), x = c("1,5", "2", "1,900")), file)
  book <- small_codebook(x = list(column = "x", label = "X", level = "ratio"))
  book$exports$main$file <- file
  told <- findings(build_study(book))
  expect_equal(told$written[grepl("its export needs `decimal: comma`", told$message, fixed = TRUE)], "1,5")
  expect_setequal(told$written[told$kind == "unlisted"], c("1,5", "1,900"))
})

test_that("what names a person is hidden, whatever language asks for it; amounts, lists and opinions are not", {
  who <- sprintf("Wren %s", rep(LETTERS, 3)[1:60])
  cells <- list(who = who, code = as.character(10007 + 137 * 1:60), phone = as.character(171234560 + 13 * 1:60), amount = rep(as.character(1:20), 3), list = rep(c("Yes", "No"), 30), told = paste("because", who), few = rep(head(who, 6), 10))
  personal <- list(
    few = c("Your name", "What is your full name?!", "Ihr Name"),
    who = c("Nachname", "Pr\u00e9nom et nom", "Nombre y apellidos", "Cognome", "Achternaam", "F\u00f6rnamn", "Nazwisko", "Name, Vorname", "What is your full name?", "Bitte geben Sie Ihren Namen an", "Ihre E-Mail-Adresse f\u00fcr R\u00fcckfragen", "Comment vous appelez-vous ?", "Your home address (optional)", "Stra\u00dfe"),
    code = c("PLZ", "Code postal", "Wat is uw postcode?"), phone = c("Telefonnummer", "N\u00famero de tel\u00e9fono", "Wie lautet Ihre Handynummer?")
  )
  others <- list(
    few = c("Your choir's name", "Does your name appear?"),
    who = c("What is the name of your choir?", "Nom de votre chorale", "Welchen Namen tr\u00e4gt Ihr Chor?"), told = c("Why do you like your street?", "Wie w\u00fcrden Sie Ihren Namen aussprechen?"),
    amount = c("nombre", "emails", "How often do you use your phone?"), list = c("Adresse", "Does your name appear in the programme?")
  )
  table <- function(groups) { columns <- lapply(rep(names(groups), lengths(groups)), function(kind) cells[[kind]]); names(columns) <- unlist(groups); columns }
  columns <- c(list(id = 1:60), table(personal), table(others))
  file <- tempfile(fileext = ".csv")
  data.table::fwrite(columns, file)
  seen <- as.data.frame(look(file))
  expect_setequal(seen$column[seen$kind == "personal"], unlist(personal))
  # The places of what was sent in are no list of quantities.
  data.table::fwrite(list(id = 1:60, sent = ifelse(1:60 %% 3 == 0, sprintf("https://files.example/%d.pdf", 1:60), "")), file)
  expect_equal(as.data.frame(look(file))$kind, c("key", "text"))
  # Leading zeros are kept, two digits are numbers, and years are no signs for one slip.
  signs <- c("01067", "80331", "10115", "99425")
  file <- tempfile(fileext = ".csv")
  data.table::fwrite(list(id = 1:40, district = rep(signs, 10), ticket = rep(c("007", "0123", "45", "9"), 10), long = rep(paste0("123456789012345678", 1:4), 10), month = rep(sprintf("%02d", 3:12), 4), day = format(as.Date("2024-02-20") + 1:40, "%Y%m%d"), founded = c("0198", rep(as.character(1991:1999), length.out = 39))), file)
  expect_equal(as.data.frame(look(file))$kind, c("key", "identifier", "identifier", "identifier", "number", "date", "number"))
  study <- build_study(draft_codebook(file))
  expect_equal(as.character(study$data$district), rep(signs, 10))
  expect_equal(study$data$day, as.Date("2024-02-20") + 1:40)
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
  wide <- paste0(paste0("c", 1:400, collapse = ","), "\n", paste(rep("1", 400), collapse = ","), "\n", paste(rep("2", 400), collapse = ","), "\n")
  expect_length(look(put("wide.csv", wide))$columns, 400)
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

test_that("boxes that hold the words of their option do not hide the row of options, nor make one of a record", {
  set.seed(9)
  file <- withr::local_tempfile(fileext = ".csv")
  voices <- c("Soprano", "Alto", "Tenor", "Bass")
  rated <- c("Poor", "Fair", "Good", "Very good", "Excellent")
  for (n in c(24, 200)) {
    boxes <- vapply(voices, function(voice) sample(c(voice, ""), n, TRUE), character(n))
    ratings <- matrix(sample(rated, 3 * n, TRUE), n)
    records <- cbind(1000 + seq_len(n), boxes, sample(c("", "", "Mezzo", "I hum", "drums"), n, TRUE), ratings, sample(7, n, TRUE))
    heading <- c("Respondent", "Which voices do you sing?", rep("", 4), "How do you rate the following?", "", "", "Overall")
    options <- c("", voices, "Other (please specify)", "Venue", "Times", "Tea and cake", "Response")
    for (given in list(list(options), list())) {
      writeLines(do.call(paste, c(as.data.frame(do.call(rbind, c(list(heading), given, list(records)))), sep = ",")), file)
      seen <- look(file)
      expect_equal(seen$records, n)
      expect_equal("options" %in% seen$form$heading, length(given) == 1)
    }
  }
})
