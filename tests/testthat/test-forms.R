# A wave whose lists became bare numbers, and steps that a wave adds.

form_waves <- function(seed = 5, n = 400) withr::with_seed(seed, {
  steps <- list(pain = c("None", "Mild", "Moderate", "Severe"), agree = c("Disagree", "Neither", "Agree"), where = c("Home", "Choir", "Church"))
  weights <- list(pain = c(60, 25, 12, 3), agree = c(10, 20, 70), where = c(70, 25, 5))
  one <- function() data.frame(id = seq_len(n), lapply(c(pain = "pain", agree = "agree", where = "where"), function(name) sample(steps[[name]], n, TRUE, weights[[name]])), years = sample(0:40, n, TRUE))
  list(first = one(), second = one(), steps = steps)
})

form_project <- function(waves, second, ...) {
  project <- project_with(c(
    "mavik: 1", "study: {title: Pain, design: repeated}", "waves: {first: {label: First}}",
    "exports: {a: {wave: first, file: raw/a.csv, key: id, cells: labels}}", "variables:",
    "  id: {is: key, label: Id}", "  wave: {is: wave, label: Wave}",
    "  pain: {column: pain, label: Pain, level: ordinal, codes: {1: None, 2: Mild, 3: Moderate, 4: Severe}}",
    "  agree: {column: agree, label: Agree, level: ordinal, codes: {1: Disagree, 2: Neither, 3: Agree}}",
    "  where: {column: where, label: Where, level: nominal, codes: {1: Home, 2: Choir, 3: Church}}",
    "  years: {column: years, label: Years, level: ratio, range: [0, 80]}"
  ))
  utils::write.csv(waves$first, file.path(project, "raw/a.csv"), row.names = FALSE)
  utils::write.csv(second, file.path(project, "raw/b.csv"), row.names = FALSE)
  project
}

in_numbers <- function(waves, turned) {
  second <- waves$second
  for (name in names(waves$steps)) {
    code <- match(second[[name]], waves$steps[[name]])
    second[[name]] <- if (name %in% turned) length(waves$steps[[name]]) + 1L - code else code
  }
  second
}

test_that("labels that became bare numbers are never a sure line, and are written in full", {
  for (turned in list("pain", character(), c("pain", "where"))) {
    waves <- form_waves()
    project <- form_project(waves, in_numbers(waves, turned))
    found <- align_wave(project, "second", file.path(project, "raw/b.csv"))
    lines <- found$lines
    own <- lines[lines$match == "codes_unknown", ]
    expect_setequal(own$variable, names(waves$steps))
    expect_false(any(own$sure))
    expect_false(any(grepl("cells: codes", lines$writes[lines$sure])))
    expect_true(all(grepl("as they stand [0-9, ]+ \\(shares differ by [0-9]+ points", own$grounds) & grepl("mirrored [0-9, ]+ \\(shares differ by", own$grounds)))
    # Every reading has its evidence, and the likeliest one is what was done.
    expect_true(all(c("as they stand", "mirrored") %in% found$assignments$reading[found$assignments$variable == "pain"]))
    best <- found$assignments[!duplicated(found$assignments$variable), ]
    expect_equal(best$reading[match(names(waves$steps), best$variable)], ifelse(names(waves$steps) %in% turned, "mirrored", "as they stand"))
    # Accepted sure ones read nothing wrongly: the numbers are set aside, and told.
    status <- command("align", "second", file.path(project, "raw/b.csv"), "--project", project, "--accept", "sure")
    expect_equal(status$status, 0)
    study <- build_study(project)
    expect_true(all(is.na(study$data$pain[study$records$wave == "second"])))
    expect_true("cells_unread" %in% findings(study)$kind)
    # What a person accepts says what each number stands for, and reads the answers back.
    expect_equal(command("align", "second", "--project", project, "--accept", "all")$status, 0)
    written <- paste(readLines(file.path(project, "study.yml")), collapse = "\n")
    expect_equal(lengths(regmatches(written, gregexpr("delivered: \\{", written))), 3)
    study <- build_study(project)
    read <- study_table(study, "labels")
    for (name in names(waves$steps)) expect_equal(as.character(read[[name]][study$records$wave == "second"]), waves$second[[name]], info = paste(name, turned))
    expect_equal(nrow(align_wave(project, "second")$lines), 0)
  }
})

test_that("a number that no label stands for makes nothing sure", {
  waves <- form_waves()
  second <- in_numbers(waves, "pain")
  second$pain[1:12] <- 9
  second$where[1:3] <- 0
  project <- form_project(waves, second)
  lines <- align_wave(project, "second", file.path(project, "raw/b.csv"))$lines
  expect_setequal(lines$variable[lines$match == "codes_unknown"], names(waves$steps))
  expect_false(any(grepl("cells: codes", lines$writes[lines$sure])))
  expect_match(lines$writes[lines$variable == "pain"], "delivered: {1: Severe, 2: Moderate, 3: Mild, 4: None}", fixed = TRUE)
})

test_that("after a build a reading that fits clearly worse than another is told, of nominal lists too", {
  waves <- form_waves()
  project <- form_project(waves, in_numbers(waves, c("pain", "where")))
  command("align", "second", file.path(project, "raw/b.csv"), "--project", project, "--accept", "all")
  path <- file.path(project, "study.yml")
  text <- readLines(path)
  expect_false("codes_turned" %in% findings(build_study(project))$kind)
  text <- sub("delivered: {1: Church, 2: Choir, 3: Home}", "delivered: {1: Home, 2: Choir, 3: Church}", text, fixed = TRUE)
  text <- sub("delivered: {1: Severe, 2: Moderate, 3: Mild, 4: None}", "delivered: {1: None, 2: Mild, 3: Moderate, 4: Severe}", text, fixed = TRUE)
  writeLines(text, path)
  told <- findings(build_study(project))
  turned <- told[told$kind == "codes_turned", ]
  expect_true("where" %in% turned$variable)
  expect_match(turned$message[turned$variable == "where"], "shares differ by [5-9][0-9] points, mirrored by [0-9]:")
  expect_true("pain" %in% told$variable[told$kind %in% c("codes_turned", "direction_reversed")])
})

test_that("a step that a wave adds takes the next code only where it is the highest by its words", {
  waves <- form_waves()
  cases <- list(list("Very severe", NA), list("Moderate", "between .Mild. and .Severe."), list("Itching", "its words do not tell where this step stands"))
  for (case in cases) {
    second <- waves$second
    added <- seq_len(40)
    project <- form_project(waves, second)
    path <- file.path(project, "study.yml")
    writeLines(sub("{1: None, 2: Mild, 3: Moderate, 4: Severe}", "{1: None, 2: Mild, 4: Severe}", readLines(path), fixed = TRUE), path)
    waves_now <- waves
    waves_now$first$pain[waves$first$pain == "Moderate"] <- "Severe"
    utils::write.csv(waves_now$first, file.path(project, "raw/a.csv"), row.names = FALSE)
    second$pain[second$pain == "Moderate"] <- "Severe"
    second$pain[added] <- case[[1]]
    utils::write.csv(second, file.path(project, "raw/b.csv"), row.names = FALSE)
    lines <- align_wave(project, "second", file.path(project, "raw/b.csv"))$lines
    own <- lines[lines$match == "added", ]
    expect_equal(nrow(own), 1)
    expect_equal(own$sure, is.na(case[[2]]), info = case[[1]])
    if (is.na(case[[2]])) expect_match(own$writes, "5: Very severe") else expect_match(own$grounds, case[[2]])
  }
  # Codes without an order take the next one.
  second <- waves$second
  second$where[1:40] <- "Hall"
  project <- form_project(waves, second)
  lines <- align_wave(project, "second", file.path(project, "raw/b.csv"))$lines
  expect_match(lines$writes[lines$match == "added"], "4: Hall")
  # Ratings whose codes have no labels, and two lists with a step of nobody knows where: a line each.
  waves$first$pain <- waves$first$agree <- waves$first$years %% 3 + 2
  path <- file.path(project, "study.yml")
  writeLines(sub("pain: .*", "pain: {column: pain, label: Pain, level: ordinal, range: [2, 4]}", sub("agree: .*", "agree: {column: agree, label: Agree, level: ordinal, range: [2, 4]}", readLines(path))), path)
  utils::write.csv(waves$first, file.path(project, "raw/a.csv"), row.names = FALSE)
  second$pain <- second$agree <- c(1, 1, 1, 1, waves$first$pain[-(1:4)])
  second$agree[5] <- 1
  second$id[2] <- 1
  utils::write.csv(second, file.path(project, "raw/b.csv"), row.names = FALSE)
  found <- align_wave(project, "second", file.path(project, "raw/b.csv"))
  lines <- found$lines[!nzchar(found$lines$writes), ]
  expect_equal(lines$variable, c("pain", "agree"))
  expect_match(lines$grounds, "new option .1.: [45] answers; its codes have no labels")
  expect_output(print(found), "nothing for pain; new option", fixed = TRUE)
  # A key that a build would refuse is no sure one.
  expect_false(found$lines$sure[1])
  expect_match(found$lines$grounds[1], "1 key stands more than once: say which record to retain")
})

test_that("a file of another study is told before anything else", {
  waves <- form_waves()
  project <- form_project(waves, data.frame(a = 1:30, b = sample(c("x", "y"), 30, TRUE), c = 30:1))
  said <- command("align", "second", file.path(project, "raw/b.csv"), "--project", project)
  expect_match(paste(said$out[1:6], collapse = " "), "of 3 columns of this file none is a question of Pain: is it the right +file")
})

test_that("labels that merged or split are shown as that, and left to decide", {
  waves <- form_waves()
  second <- waves$second
  second$where[second$where != "Home"] <- "Choir or church"
  project <- form_project(waves, second)
  found <- align_wave(project, "second", file.path(project, "raw/b.csv"))
  expect_equal(found$codes[c("change", "before", "now")], data.frame(change = "merged", before = "Choir + Church", now = "Choir or church"))
  expect_equal(found$lines$sure[found$lines$match == "merged"], FALSE)
  expect_equal(found$lines$writes[found$lines$match == "merged"], "")
  # And the other way round.
  project <- form_project(waves, waves$second)
  path <- file.path(project, "study.yml")
  writeLines(sub("{1: Home, 2: Choir, 3: Church}", "{1: Home, 2: Choir or church}", readLines(path), fixed = TRUE), path)
  first <- waves$first
  first$where[first$where != "Home"] <- "Choir or church"
  utils::write.csv(first, file.path(project, "raw/a.csv"), row.names = FALSE)
  found <- align_wave(project, "second", file.path(project, "raw/b.csv"))
  expect_equal(found$codes$change, "split")
  said <- paste(command("align", "second", file.path(project, "raw/b.csv"), "--project", project)$out, collapse = "\n")
  expect_match(said, "1  labels split")
})

test_that("new columns come as blocks, boxes and grids, in their order, absent before", {
  withr::local_seed(3)
  n <- 300
  agree <- c("Strongly disagree", "Disagree", "Neither", "Agree", "Strongly agree")
  pick <- function(labels, of = n) sample(labels, of, TRUE)
  several <- function(labels) vapply(seq_len(n), function(i) paste(sample(labels, sample(0:3, 1)), collapse = "; "), "")
  first <- data.frame(id = seq_len(n), Area = pick(c("North", "South")), pick(agree), pick(agree))
  names(first)[3:4] <- c("Mood - I feel fine", "Mood - I feel tired")
  second <- cbind(first, data.frame(
    pick(agree), pick(agree), ifelse(stats::runif(n) < 0.3, "Yes", ""), ifelse(stats::runif(n) < 0.4, "Yes", ""), ifelse(stats::runif(n) < 0.1, pick(c("poster", "my aunt", "church", "at work")), ""),
    several(c("Soprano", "Alto", "Tenor")), several(c("Soprano", "Alto", "Tenor")), pick(c("Never", "Rarely", "Sometimes", "Often")), pick(c("Never", "Rarely", "Sometimes", "Often"))
  ))
  names(second)[-(1:4)] <- c("Choir - I like the room", "Choir - I like the songs", "Heard of it by - Radio", "Heard of it by - Friends", "Heard of it by - Other, please specify",
    "Parts sung - last year", "Parts sung - this year", "How often - Tea", "How often - Cake")
  project <- tempfile()
  dir.create(file.path(project, "raw"), recursive = TRUE)
  utils::write.csv(first, file.path(project, "raw/a.csv"), row.names = FALSE)
  utils::write.csv(second, file.path(project, "raw/b.csv"), row.names = FALSE)
  writeLines(draft_codebook(file.path(project, "raw/a.csv"), project = project), file.path(project, "study.yml"))
  added <- draft_onto(project, file.path(project, "raw/b.csv"))
  expect_match(added$added, "^variable (choir|heard|parts_sung|how_often) of the columns `")
  found <- align_wave(project, "second", file.path(project, "raw/b.csv"))
  new <- found$lines[found$lines$match == "only_new", ]
  expect_equal(new$variable, c("choir", "heard", "parts_sung", "how_often"))
  expect_setequal(unlist(strsplit(new$column, ", (?=[CHP])", perl = TRUE)), setdiff(names(second), names(first)))
  accept_alignment(found, found$lines$line)
  entries <- read_codebook(project)$variables
  # Behind the question that stands before them, as in the file; the list that is there is used.
  expect_equal(utils::tail(names(entries), 5), c("mood", "choir", "heard", "parts_sung", "how_often"))
  expect_equal(entries$choir$codes, entries$mood$codes)
  expect_equal(entries$how_often$codes, "often4")
  for (name in new$variable) expect_equal(entries[[name]]$by_wave, list(one = "absent"), info = name)
  read <- study_table(build_study(project), "labels")
  expect_equal(as.character(read$choir_like_songs[-seq_len(n)]), second[["Choir - I like the songs"]])
  expect_equal(read$heard_radio[-seq_len(n)] %in% 1 | as.character(read$heard_radio[-seq_len(n)]) %in% "Yes", second[["Heard of it by - Radio"]] == "Yes")
  expect_true(all(is.na(read$parts_sung_last_alto[seq_len(n)])))
})

test_that("several waves in one call settle one after the other", {
  withr::local_seed(4)
  project <- tempfile()
  dir.create(file.path(project, "raw"), recursive = TRUE)
  draw <- function(year, heading) {
    wave <- data.frame(id = year * 1000 + 1:150, area = sample(c("North", "South"), 150, TRUE), often = sample(c("Never", "Rarely", "Often", "Always"), 150, TRUE), age = sample(18:80, 150, TRUE))
    names(wave)[3] <- heading
    utils::write.csv(wave, file.path(project, paste0("raw/survey-", year, ".csv")), row.names = FALSE)
  }
  draw(8, "Singing"); draw(9, "Singing"); draw(10, "Sings"); draw(11, "Sings")
  files <- list.files(file.path(project, "raw"), full.names = TRUE)
  codebook <- file.path(project, "study.yml")
  writeLines(draft_codebook(grep("-8", files, value = TRUE), project = project), codebook)
  waiting <- do.call(command, as.list(c("align", "y*", files, "--project", project, "--dry-run")))
  expect_equal(waiting$status, 0)
  expect_match(waiting$out, "wave y9 against one", all = FALSE)
  expect_match(waiting$out, "y10 and y11 wait", all = FALSE)
  done <- do.call(command, as.list(c("align", "y*", files, "--project", project, "--accept", "sure")))
  expect_equal(grep("^y", done$out, value = TRUE), c("y9", "y10", "y11"))
  book <- read_codebook(project)
  expect_equal(vapply(book$exports[-1], `[[`, "", "file"), c(y9 = "raw/survey-9.csv", y10 = "raw/survey-10.csv", y11 = "raw/survey-11.csv"))
  # What the tenth settled, the eleventh says too.
  expect_equal(book$variables$singing$by_wave, list(y10 = list(column = "Sings"), y11 = list(column = "Sings")))
  expect_equal(table(build_study(project)$records$wave)[["y11"]], 150L)
  cases <- list(c("y*", "--accept", "1"), c("z*"), c("y*", grep("-8", files, value = TRUE)), c("y*", "--label", "A"))
  for (case in cases) expect_equal(do.call(command, as.list(c("align", case, "--project", project)))$status, 2, info = paste(case, collapse = " "))
})

test_that("the sheet says what each line changes, and takes a column for a question; the page shows both waves", {
  project <- demo_project(tempfile())
  raw <- file.path(project, "raw/autumn.xlsx")
  page <- file.path(project, "align.html")
  expect_equal(command("align", "autumn", raw, "--project", project, "--html", page)$status, 0)
  for (place in c("choirs.yml", "raw/page.html")) expect_equal(command("align", "autumn", raw, "--project", project, "--html", file.path(project, place))$status, 2, info = place)
  sheet <- file.path(project, "sheets/align-autumn.xlsx")
  table <- openxlsx::read.xlsx(sheet, "align")
  expect_true("in autumn the numbers of belong stand for 1 = Strongly agree, 2 = Agree, 3 = Neither, 4 = Disagree, 5 = Strongly disagree" %in% table$effect)
  expect_true("best was not asked in autumn" %in% table$effect)
  utils::unzip(sheet, "xl/worksheets/sheet1.xml", exdir = project)
  held <- xml2::read_xml(file.path(project, "xl/worksheets/sheet1.xml"))
  offered <- xml2::xml_attr(xml2::xml_find_all(held, "//*[local-name()='dataValidation']"), "sqref")
  expect_length(unlist(strsplit(offered, " ", fixed = TRUE)), nrow(table))
  found <- align_wave(project, "autumn", raw)
  shares <- found$shares
  # Counts are of the answers: each reading of a list moves them, none loses one.
  for (of in split(shares, paste(shares$variable, shares$reading))) if (of$variable[1] != "reasons") {
    expect_equal(sum(of$now), of$of_now[1])
    expect_equal(sum(of$before, na.rm = TRUE), of$of_before[1])
  }
  html <- paste(readLines(page), collapse = "\n")
  widths <- regmatches(html, gregexpr("width=\"[0-9.]+\" height=\"8\"", html))[[1]]
  expect_gt(length(unique(widths)), 20)
  # A column beside a question that the file seems to lack.
  decisions <- found$lines
  decisions$decision[decisions$variable == "best"] <- "Q24"
  again <- align_wave(project, "autumn", raw, decisions)
  expect_equal(again$columns$column[again$columns$variable == "best"], "Q24")
  expect_false("Q24" %in% again$lines$column[again$lines$match == "only_new"])
})

test_that("a list that another question took over is no sure match, nor are brackets that were split", {
  waves <- form_waves()
  second <- waves$second
  second$room <- sample(second$where)
  second$where <- NULL
  project <- form_project(waves, second)
  found <- align_wave(project, "second", file.path(project, "raw/b.csv"))
  expect_equal(found$columns$match[found$columns$variable == "where"], "possible")
  expect_false(any(found$lines$sure & grepl("where", found$lines$variable)))
  # Its own name tells it again.
  names(second)[names(second) == "room"] <- "whereabout"
  utils::write.csv(second, file.path(project, "raw/b.csv"), row.names = FALSE)
  found <- align_wave(project, "second", file.path(project, "raw/b.csv"))
  expect_equal(found$columns[found$columns$variable == "where", "rule"], "same code list")
  third <- waves$second
  names(third)[names(third) == "where"] <- "where now"
  third$`where now` <- ifelse(third$`where now` == "Church", sample(c("Chapel", "Minster"), nrow(third), TRUE), third$`where now`)
  utils::write.csv(third, file.path(project, "raw/b.csv"), row.names = FALSE)
  found <- align_wave(project, "second", file.path(project, "raw/b.csv"))
  expect_equal(found$columns[found$columns$variable == "where", c("match", "column")], data.frame(match = "possible", column = "where now"), ignore_attr = TRUE)
})

test_that("like shares make no answer another one, and turn no list round, for sure", {
  withr::local_seed(1)
  n <- 300
  first <- data.frame(id = seq_len(n), stand = sample(c("Support", "Neutral", "Unsure"), n, TRUE, c(3, 4, 3)), go = sample(c("Go every week", "Go every month", "Never"), n, TRUE),
    spelt = sample(c("Tenor", "Soprano", "Bass"), n, TRUE), z = sample(1:5, n, TRUE, c(8, 5, 3, 2, 1)))
  second <- first
  second$stand <- sample(c("Oppose", "Neutral", "Unsure"), n, TRUE, c(3, 4, 3))
  second$go <- sample(c("Go every day", "Go every month", "Never"), n, TRUE)
  second$spelt <- sample(c("Tenor", "Sopprano", "Bass"), n, TRUE)
  second$z <- sample(1:5, n, TRUE, c(1, 2, 3, 5, 8))
  project <- project_with(c(
    "mavik: 1", "study: {title: T, design: repeated}", "waves: {one: {label: One}}", "exports: {a: {wave: one, file: raw/a.csv, key: id, cells: labels}}", "variables:", "  id: {is: key, label: Id}", "  wave: {is: wave, label: W}",
    "  stand: {column: stand, label: S, level: nominal, codes: {1: Support, 2: Neutral, 3: Unsure}}", "  go: {column: go, label: G, level: nominal, codes: {1: Go every week, 2: Go every month, 3: Never}}",
    "  spelt: {column: spelt, label: V, level: nominal, codes: {1: Tenor, 2: Soprano, 3: Bass}}",
    "  z: {column: z, label: Z, level: ordinal, cells: codes, codes: {1: Bad, 2: Poor, 3: Fair, 4: Good, 5: Best}}"
  ))
  utils::write.csv(first, file.path(project, "raw/a.csv"), row.names = FALSE)
  utils::write.csv(second, file.path(project, "raw/b.csv"), row.names = FALSE)
  lines <- align_wave(project, "two", file.path(project, "raw/b.csv"))$lines
  sure <- stats::setNames(lines$sure, lines$variable)
  expect_equal(sure[c("stand", "go", "z", "spelt")], c(stand = FALSE, go = FALSE, z = FALSE, spelt = TRUE))
  expect_match(lines$effect[lines$variable == "spelt"], "\u201cSopprano\u201d is read as \u201cSoprano\u201d")
  # What is left open is told again by the build.
  expect_equal(command("align", "two", file.path(project, "raw/b.csv"), "--project", project, "--accept", "sure")$status, 0)
  found <- findings(build_study(project))
  expect_true(any(found$kind == "direction_reversed" & found$variable == "z"))
  expect_setequal(found$written[found$kind == "unlisted"], c("Oppose", "Go every day"))
})
