options_of <- function(...) {
  forms <- list(...)
  data.frame(form = unlist(forms), option = rep(seq_along(forms), lengths(forms)))
}

test_that("cells of several answers are tiled: longest first, separators between, the rest written in", {
  options <- options_of("Radio", c("TV; and press", "Newspapers"), "Friends", "A", "A;B", "B", "B;C", "C")
  cases <- list(
    list("Radio", "1", "", FALSE), list("radio ;FRIENDS", "1,3", "", FALSE), list("Radio;TV; and press;Friends;", "1,2,3", "", FALSE), list("newspapers", "2", "", FALSE),
    list("Friends;my phone", "3", "my phone", FALSE), list("Friends;my phone; and cake", "3", "my phone; and cake", FALSE), list("a; b walk;Radio;;", "1,4", "b walk", FALSE),
    list("TV", "", "TV", FALSE), list("A;B", "5", "", TRUE), list("A;B;C", "3", "", TRUE), list("Friends;Radio;Friends", "1,3", "", FALSE), list("C", "8", "", FALSE), list("x;x", "", "x;x", FALSE)
  )
  got <- core$split_cells(vapply(cases, `[[`, "", 1), options, ";")
  several <- vapply(cases, `[[`, TRUE, 4)
  expect_equal(got$several, several)
  expect_equal(got$set[!several], vapply(cases, `[[`, "", 2)[!several])
  expect_equal(got$written[!several], vapply(cases, `[[`, "", 3)[!several])
  # Whatever is ticked, in whatever order and spacing, comes back.
  set.seed(3)
  labels <- c("Radio", "TV; and press", "Friends", "Caf\u00e9 \u2013 notices", "None")
  for (separator in c(";", ", ", " | ", "\n")) {
    plain <- options_of("Radio", "TV; and press", "Friends", "Caf\u00e9 \u2013 notices", "None")
    keep <- !grepl(trimws(separator, whitespace = " "), labels, fixed = TRUE) | separator == ";"
    ticks <- replicate(60, sort(sample(which(keep), sample(sum(keep), 1))), simplify = FALSE)
    cells <- vapply(ticks, function(at) paste(sample(labels[at]), collapse = separator), "")
    got <- core$split_cells(paste0(cells, ifelse(stats::runif(60) < 0.3, trimws(separator, whitespace = " "), "")), plain, separator)
    expect_equal(got$set, vapply(ticks, paste, "", collapse = ","), info = separator)
    expect_true(all(!nzchar(got$written)))
  }
})

test_that("a cell is one option by its plain form, however it is parted", {
  set.seed(4)
  project <- demo_project(withr::local_tempdir())
  variable <- core$known_book(project)$variables$reasons
  forms <- core$option_forms(variable, list(cells = "labels"))$form
  expect_true(any(grepl("; ", forms, fixed = TRUE)))
  for (separator in c(";", ", ", " ", "|", "\n")) {
    variable$settings$separator <- separator
    pick <- function(...) sample(c(...), 2000, TRUE)
    cells <- paste0(pick("", forms, "my words"), pick("", separator, trimws(separator), " "), pick("", toupper(forms)), pick("", separator, "\u200b", paste0(separator, separator)))
    plain <- core$plain_segments(cells, separator) %in% core$plain_segments(forms, separator)
    expect_true(any(plain) && !all(plain))
    expect_identical(core$is_option(cells, variable, list(cells = "labels")), plain, info = separator)
  }
})

test_that("a split keeps write-ins, gaps and what excludes apart, in cells and in boxes", {
  heard <- function(...) list(label = "Heard", split = utils::modifyList(list(column = "a", separator = ";", options = list(radio = "Radio", press = "Press", none = "None")), list(...)))
  frame <- data.frame(id = 1:6, part = "Low", a = c("Radio;Press", "None;Radio", "", "Refused", "Radio;my phone", "None"))
  with <- build_small(frame, heard = heard(other = list(flag = "other", text = "words"), exclusive = "none"))
  expect_equal(with$data$radio, c(1L, NA, NA, NA, 1L, 0L))
  expect_equal(as.character(with$reasons$radio), c(NA, "set_aside", "no_answer", "refused", NA, NA))
  expect_equal(with$data$other, c(0L, NA, NA, NA, 1L, 0L))
  expect_equal(with$data$words, c(NA, NA, NA, NA, "my phone", NA))
  expect_equal(as.character(with$reasons$words), c("not_asked", "set_aside", "no_answer", "refused", NA, "not_asked"))
  expect_equal(ledger(with)[, c("kind", "was", "now")], data.frame(kind = c("write_in", "exclusive"), was = c("Radio;my phone", "Radio; None"), now = c("Radio; my phone", "")))
  without <- build_small(frame, heard = heard(blank = "none_ticked"))
  expect_equal(as.character(without$reasons$radio), c(NA, NA, NA, "refused", "set_aside", NA))
  expect_equal(without$data$radio[3], 0L)
  expect_match(findings(without)$message[findings(without)$variable == "heard"], "`my phone` is none of the options")
  lines <- build_small(transform(frame, a = c("Radio\nPress", "None\r\nRadio", "", "Refused", "Radio\n", "None")), heard = heard(separator = "\n"))
  expect_equal(lines$data$radio, c(1L, 1L, NA, NA, 1L, 0L))
  codes <- build_small(transform(frame, a = c("1;2", "2", "", "7;1", "3", "")), heard = list(label = "H", cells = "codes", split = list(column = "a", options = list(radio = list(label = "Radio", code = 1), press = list(label = "Press", code = 2), x = list(label = "X", code = 3, variants = "7")))))
  expect_equal(codes$data$x, c(0L, 0L, NA, 1L, 1L, NA))
  boxes <- data.frame(id = 1:6, part = "Low", b1 = c("Checked", "", "0", "", "Refused", "Huh"), b2 = c("", "", "1", "", "", "Leads"), w = c("", "", "", "baking", "", ""))
  roles <- function(...) list(label = "Roles", split = utils::modifyList(list(columns = list(leads = "b1", money = "b2"), options = list(money = "Leads")), list(...)))
  ticked <- build_small(boxes, roles = roles(other = list(flag = "else_", text = "else_text", column = "w")))
  expect_equal(ticked$data$leads, c(1L, NA, 0L, 0L, NA, NA))
  expect_equal(ticked$data$money, c(0L, NA, 1L, 0L, NA, 1L))
  expect_equal(as.character(ticked$reasons$leads), c(NA, "no_answer", NA, NA, "refused", "set_aside"))
  expect_equal(ticked$data$else_, c(0L, NA, 0L, 1L, NA, 0L))
  none <- build_small(boxes, roles = roles(blank = "none_ticked"))
  expect_equal(none$data$leads[c(2, 4)], c(0L, 0L))
  grid <- build_small(data.frame(id = 1:2, part = "Low", g1 = c("A;B", ""), g2 = c("B", "A")), grid = list(stem = "Where?", split = list(separator = ";", options = list(a = "A", b = "B")),
    items = list(home = list(label = "Home", split = list(column = "g1")), hall = list(label = "Hall", split = list(column = "g2")))))
  expect_equal(as.list(grid$data[c("home_a", "home_b", "hall_a", "hall_b")]), list(home_a = c(1L, NA), home_b = c(1L, NA), hall_a = c(0L, 1L), hall_b = c(1L, 0L)))
  long <- study_table(grid, shape = "long")
  expect_equal(long$item[long$value %in% 1], c("home_a", "home_b", "hall_b", "hall_a"))
})

test_that("whatever is not listed becomes the write-in's code, and a sheet sends it back", {
  frame <- data.frame(id = 1:6, part = c("High", "Tenor", "2", "", "hig", "the lowest"))
  sheet <- tempfile(fileext = ".csv")
  voice <- function(...) list(column = "part", label = "Voice", level = "nominal", codes = c("1" = "High", "2" = "Low"), other = list(code = 9, label = "Other", text = "words", ...))
  plain <- build_small(frame, voice = voice())
  expect_equal(plain$data$voice, c(1L, 9L, NA, NA, 9L, 9L))
  expect_equal(plain$data$words, c(NA, "Tenor", NA, NA, "hig", "the lowest"))
  expect_equal(as.character(plain$reasons$words), c("not_asked", NA, "set_aside", "no_answer", NA, NA))
  expect_match(findings(plain)$message[findings(plain)$kind == "write_in_or_label"], "if it means `High`")
  writeLines(c("answer,code", "TENOR,Low", "the lowest,2", "hig,"), sheet)
  back <- build_small(frame, voice = voice(sheet = sheet))
  expect_equal(back$data$voice, c(1L, 2L, NA, NA, 9L, 2L))
  expect_equal(sum(ledger(back)$kind == "write_in"), 3)
  writeLines(c("answer,code", "Tenor,Mid"), sheet)
  expect_match(message_of(build_small(frame, voice = voice(sheet = sheet))), ":2: `Mid` is no code or label of `voice`: add it under variables > voice > codes")
  ruled <- build_study(utils::modifyList(small_codebook(voice = voice()), list(rules = list(r = list(must = "voice != \"Other\"", sets_aside = "all")))), list(main = frame))
  expect_equal(sum(ledger(ruled)$kind == "rule" & ledger(ruled)$variable == "words"), 3)
  expect_equal(as.character(ruled$reasons$words), c("not_asked", "set_aside", "set_aside", "no_answer", "set_aside", "set_aside"))
  own <- build_small(transform(frame, own = c("", "", "x", "", "", "deep")), voice = list(column = "part", label = "V", level = "nominal", codes = c("1" = "High"), other = list(code = 9, label = "the lowest", text = "words", column = "own")))
  expect_equal(own$data$words, c(NA, NA, "x", NA, NA, "deep"))
})

test_that("recodes of blocks, reversed and with the rest kept", {
  frame <- data.frame(id = 1:4, part = c("High", "Low", "", "High"), a = c("Never", "Often", "At times", ""))
  items <- list(stem = "S", level = "ordinal", codes = c("1" = "Never", "2" = "At times", "3" = "Often"), items = list(a1 = list(column = "a", label = "one")))
  study <- build_small(frame, block = items, back = list(recode = list(of = "block", reversed = "yes", ending = "_r")), low = list(label = "L", recode = list(of = "a1", to = list("1" = "2"), rest = "kept"), codes = c("1" = "Seldom", "3" = "Often")))
  expect_equal(study$data$a1_r, c(3L, 1L, 2L, NA))
  expect_equal(core$label_of(study$book$variables$a1_r, 1:3), c("Often", "At times", "Never"))
  expect_equal(study$data$low, c(1L, 3L, 1L, NA))
  expect_match(message_of(build_small(frame, block = items, back = list(recode = list(of = "block", reversed = "yes")))), "`ending` is missing")
  expect_match(message_of(build_small(frame, block = items, low = list(label = "L", recode = list(of = "a1", reversed = "yes", ending = "_r")))), "only where `of` is a block")
  expect_match(message_of(build_small(frame, block = items, low = list(label = "L", recode = list(of = "a1", to = list("1" = "2")), codes = c("1" = "x")))), "forgets `Never` and `Often`")
})

test_that("bands neither overlap nor leave a hole, and a cut point belongs to one of them", {
  frame <- data.frame(id = 1:8, part = "Low", x = c("0", "1.99", "2", "10", "9.999999", "80", "", "-1"))
  banded <- function(..., range = c(0, 80), codes = c("1" = "a", "2" = "b", "3" = "c")) build_small(frame, x = list(column = "x", label = "X", level = "ratio", range = range), b = list(label = "B", bands = list(of = "x", ...), codes = codes))
  expect_equal(banded(starts = c("1" = 0, "2" = 2, "3" = 10))$data$b, c(1L, 1L, 2L, 3L, 2L, 3L, NA, NA))
  expect_equal(banded(ends = c("1" = 2, "2" = 10, "3" = 80))$data$b, c(1L, 1L, 1L, 2L, 2L, 3L, NA, NA))
  open <- banded(starts = c("1" = 0, "2" = 2, "3" = 10), range = NULL)
  expect_equal(as.character(open$reasons$b[8]), "not_computable")
  expect_equal(findings(open)$count[findings(open)$kind == "outside_bands"], 1L)
  cases <- list(
    list(list(starts = c("1" = 1, "2" = 2, "3" = 10)), "leaves a hole: `x` can be 0 to under 1"), list(list(starts = c("1" = 0, "2" = 10, "3" = 10)), "the bands overlap"), list(list(starts = c("1" = 0, "2" = 20, "3" = 10)), "the bands overlap"),
    list(list(ends = c("1" = 2, "2" = 10, "3" = 70)), "leaves a hole: `x` can be above 70 to 80"), list(list(starts = c("1" = 0, "2" = 2)), "`c` has no band"), list(list(starts = c("1" = 0, "2" = 2, "3" = 90)), "starts above the range"),
    list(list(starts = c("1" = 0, "2" = 2, "4" = 10)), "the code 4 has no label"), list(list(starts = c("1" = 0), ends = c("1" = 2)), "either `starts` or `ends`"), list(list(starts = c("1" = "zero")), "must be a number")
  )
  for (case in cases) expect_match(message_of(do.call(banded, case[[1]]), "mavik_codebook_error"), case[[2]])
})

test_that("conditions in order: first true wins, unknown is a gap, what cannot be reached is an error", {
  frame <- data.frame(id = 1:6, part = c("High", "Low", "Refused", "Low", "", "High"), x = c("15", "5", "5", "", "15", "1"))
  when <- function(...) build_small(frame, x = list(column = "x", label = "X", level = "ratio", range = c(0, 40)), w = list(label = "W", when = list(...), codes = c("0" = "No", "1" = "Yes", "2" = "Both")))
  made <- when(list("if" = "x > 10 & part == \"High\"", is = "Both"), list("if" = "x > 10 | part == \"High\"", is = 1), list("else" = 0))
  expect_equal(made$data$w, c(2L, 0L, NA, NA, 1L, 1L))
  expect_equal(as.character(made$reasons$w), c(NA, NA, "refused", "no_answer", NA, NA))
  cases <- list(
    list(list(list("if" = "x > 10", is = 1), list("if" = "x > 20", is = 2), list("else" = 0)), "when > 2 > if: can never be reached"), list(list(list("if" = "x >= 0", is = 1), list("else" = 0)), "when > 2 > else: can never be reached"),
    list(list(list("else" = 0), list("if" = "x > 1", is = 1)), "stands before other branches"), list(list(list("if" = "part == \"Hig\"", is = 1)), "is not a label of `part`; did you mean `High`"),
    list(list(list("if" = "x > 50", is = 1)), "can never be reached"), list(list(list("if" = "x > 1", is = "Perhaps")), "neither one of its codes nor a missing reason"), list(list(list("if" = "x > 1", then = 1)), "each branch is")
  )
  for (case in cases) expect_match(message_of(do.call(when, case[[1]]), "mavik_codebook_error"), case[[2]])
})

test_that("formulas and imputed values take the gaps as they must", {
  frame <- data.frame(id = 1:6, part = "Low", x = c("1", "2.5", "", "Refused", "0", "4"), y = c("2", "0", "3", "", "0", "7"), day = c("2026-03-01", "2026-03-02", "", "2026-02-28", "2024-02-29", "2026-01-01"))
  number <- function(column) list(column = column, label = column, level = "ratio")
  study <- build_small(frame, x = number("x"), y = number("y"), d = list(column = "day", label = "D", level = "date"), ratio = list(label = "F", formula = "round(x / y, 1)"), m = list(label = "M", formula = "mean(x, y)"),
    half = list(label = "H", formula = "round(x - 5)"), i = list(label = "I", impute = list(of = "x", mean_of = "y", gaps = "no_answer", flag = "was")), first = list(label = "I2", impute = list(of = "x", first_of = c("ratio", "y"), gaps = "refused")))
  expect_equal(study$data$ratio, c(0.5, NA, NA, NA, NA, 0.6))
  expect_equal(as.character(study$reasons$ratio), c(NA, "not_computable", "no_answer", "refused", "not_computable", NA))
  expect_equal(study$data$m, c(1.5, 1.25, NA, NA, 0, 5.5))
  expect_equal(study$data$half, c(-4, -3, NA, NA, -5, -1))
  expect_equal(study$data$i, c(1, 2.5, 3, NA, 0, 4))
  expect_equal(study$data$was, c(0L, 0L, 1L, NA, 0L, 0L))
  expect_equal(ledger(study)[ledger(study)$kind == "imputed", c("respondent", "variable", "was_reason", "now")], data.frame(respondent = "3", variable = "i", was_reason = "no_answer", now = "3"), ignore_attr = TRUE)
  expect_match(message_of(build_small(frame, x = number("x"), y = number("y"), i = list(label = "I", impute = list(of = "x", first_of = "y", gaps = "no_answer")), j = list(label = "J", impute = list(of = "y", first_of = "i", gaps = "no_answer")))), "rests on imputed values")
  expect_match(message_of(build_small(frame, x = number("x"), sum_of = list(label = "F", formula = "x + z"))), "`z` is not a variable")
})

test_that("a look-up never multiplies respondents, and says what is not found", {
  frame <- data.frame(id = 1:5, part = "Low", choir = c("K1", "K2", " k1", "K9", ""))
  roster <- data.frame(code = c("K1", "K2", "K3"), region = c("Upper", "lower", "Upper"))
  looked <- function(roster) build_study(utils::modifyList(small_codebook(choir = list(column = "choir", label = "C", level = "identifier"),
    region = list(lookup = list("in" = "roster", by = "choir", column = "region"), label = "R", level = "nominal", codes = c("1" = "Upper", "2" = "Lower"))), list(lookups = list(roster = list(key = "code")))), list(main = frame, roster = roster))
  study <- looked(roster)
  expect_equal(study$data$region, c(1L, 2L, NA, NA, NA))
  expect_equal(as.character(study$reasons$region), c(NA, NA, "not_found", "not_found", "no_answer"))
  found <- findings(study)
  expect_setequal(found$kind, c("lookup_near_match", "not_found", "lookup_row_unused"))
  expect_match(found$message[found$kind == "lookup_near_match"], "but `K1` is")
  # A number holds no zeros, and a correction cannot give it any.
  numbered <- build_study(utils::modifyList(small_codebook(choir = list(column = "choir", label = "C", level = "ratio"), region = list(lookup = list("in" = "roster", by = "choir", column = "region"),
    label = "R", level = "nominal", codes = c("1" = "Upper", "2" = "Lower"))), list(lookups = list(roster = list(key = "code")))), list(main = transform(frame, choir = 7:11), roster = transform(roster, code = c("007", "8", "9"))))
  said <- findings(numbered)
  expect_match(said$message[said$kind == "lookup_near_match"], "`choir` is a number and holds none: say `level: identifier` of it, then to match them", fixed = TRUE)
  expect_no_match(found$message[found$kind == "lookup_near_match"], "is a number", fixed = TRUE)
  proof <- core$proof_of(study, "region")[[1]]
  expect_equal(proof[c("before", "after", "met", "lost", "gap", "unused")], list(before = 5L, after = 5L, met = 2L, lost = 2L, gap = 1L, unused = 1L))
  expect_match(message_of(looked(rbind(roster, data.frame(code = "K2", region = "Upper")))), "stands more than once \\(K2; lines 2 and 4|stands more than once \\(K2; lines")
  expect_match(message_of(looked(data.frame(kode = "K1", region = "x"))), "the column `code` is not in data frame `roster`; did you mean `kode`")
})

test_that("the coders' sheet survives sorting, lost zeros and updates, and loses no code", {
  project <- demo_project(tempfile())
  file <- file.path(project, "sheets/best.csv")
  study <- build_study(project)
  sheet <- utils::read.csv(file, colClasses = "character", check.names = FALSE, encoding = "UTF-8")
  save <- function(sheet, to = file) core$write_text(core$csv_lines(sheet), to)
  set.seed(8)
  shuffled <- sheet[sample(nrow(sheet)), c(3, 5, 4, 2, 1, 7, 6)]
  shuffled$respondent <- sub("^0+", "", shuffled$respondent)
  save(shuffled)
  expect_equal(build_study(project)$data[study$book$blocks$best_codes], study$data[study$book$blocks$best_codes])
  typed <- sheet
  typed$note[1:5] <- "look again"
  typed$mine <- as.character(seq_len(nrow(typed)))
  typed$answer[2] <- "Something else altogether"
  typed <- rbind(typed, data.frame(wave = "spring", respondent = "9999", answer = "Long gone", `code 1` = "The people", `code 2` = "", coder = "x", note = "", mine = "last", check.names = FALSE))
  save(typed)
  for (ending in c(".csv", ".xlsx")) {
    to <- file.path(project, paste0("copy", ending))
    if (ending == ".csv") file.copy(file, to) else openxlsx::write.xlsx(typed, to)
    updated <- coding_sheet(project, "best_codes", to)
    expect_equal(updated$state[1:12], rep("new", 12))
    expect_equal(sort(unlist(updated[c("code 1", "code 2", "mine", "note")])[nzchar(unlist(updated[c("code 1", "code 2", "mine", "note")]))]), sort(unlist(typed[c("code 1", "code 2", "mine", "note")])[nzchar(unlist(typed[c("code 1", "code 2", "mine", "note")]))]), ignore_attr = TRUE)
    changed <- updated[updated$state == "changed", ]
    expect_equal(c(changed$respondent, changed$`answer before`), c(typed$respondent[2], "Something else altogether"))
    expect_equal(updated$answer[updated$state == "gone" & updated$mine == "last"], "Long gone")
    again <- coding_sheet(project, "best_codes", to)
    expect_equal(nrow(again), nrow(updated))
  }
  spoilt <- function(change) { save(change(sheet)); message_of(build_study(project)) }
  # A code of the coder's own waits for the codebook, and its answers with it.
  coded <- which(sheet$`code 1` != "")[1:3]
  expect_equal(spoilt(function(sheet) { sheet$`code 2`[coded] <- c("The tea", "the  tea", "The peopel"); sheet }), "no error")
  waits <- build_study(project)
  told <- findings(waits)
  told <- told[told$kind == "code_invented", ]
  expect_equal(told$written, c("The tea", "The peopel"))
  expect_equal(told$count, c(2, 1))
  expect_match(told$message[1], "`best_the_tea: The tea`", fixed = TRUE)
  expect_match(told$message[2], "did you mean `The people`?", fixed = TRUE)
  rows <- match(sheet$respondent[coded], waits$records$key)
  expect_true(all(as.character(waits$reasons$best_people[rows]) == "not_found"))
  checked <- check_study(project)
  line <- grep("best_the_tea: The tea", checked$proposals$adds, fixed = TRUE)
  expect_length(line, 1)
  expect_false(any(grepl("peopel", checked$proposals$adds)))
  book <- readLines(file.path(project, "choirs.yml"))
  apply_proposals(checked, line)
  taken <- build_study(project)
  expect_equal(taken$data$best_the_tea[match(sheet$respondent[coded], taken$records$key)], c(1L, 1L, NA))
  writeLines(book, file.path(project, "choirs.yml"))
  expect_match(spoilt(function(sheet) { names(sheet)[3] <- "Answers"; sheet }), "lacks the column `answer`.*renamed")
  expect_match(spoilt(function(sheet) { names(sheet)[5] <- "Code two"; sheet }), "the column `Code two` looks like a code")
  expect_match(message_of(coding_sheet(project, "email")), "has neither `coded` nor `other`")
  save(sheet)
  second <- sheet
  second$`code 1`[sheet$`code 1` == "The place"] <- "The music"
  other <- tempfile(fileext = ".csv")
  save(second, other)
  found <- coding_agreement(project, "best_codes", other)
  expect_equal(found$codes$kappa[1], 1)
  both <- sheet$`code 1` != ""
  has <- function(sheet, label) (sheet$`code 1` == label | sheet$`code 2` == label)[both]
  counts <- table(has(sheet, "The music"), has(second, "The music"))
  p <- sum(diag(counts)) / sum(counts)
  e <- sum(rowSums(counts) * colSums(counts)) / sum(counts)^2
  expect_equal(found$codes$kappa[2], (p - e) / (1 - e))
  run <- command("coding", "best_codes", "--project", project, "--out", tempfile(fileext = ".xlsx"))
  expect_equal(run$status, 0)
})

test_that("spans count as the codebook says, each with its row of the ledger", {
  years <- c("10-12", "10 to 12", "about 5", "~7", "12-10", "3", "1,5", "ca. 4.5", "-2-4", "from 3 on")
  frame <- data.frame(id = seq_along(years), part = "High", y = years)
  of <- function(...) build_small(frame, y = list(column = "y", label = "Y", level = "ratio", ...))
  expect_equal(of()$data$y, c(NA, NA, NA, NA, NA, 3, NA, NA, NA, NA))
  middle <- of(spans = "middle")
  expect_equal(middle$data$y, c(11, 11, 5, 7, NA, 3, NA, 4.5, 1, NA))
  expect_equal(of(spans = "lower")$data$y, c(10, 10, 5, 7, NA, 3, NA, 4.5, -2, NA))
  told <- ledger(middle)
  expect_equal(told[told$kind == "variant", c("was", "now", "rule")], data.frame(was = years[c(1:4, 8, 9)], now = c("11", "11", "5", "7", "4.5", "1"), rule = "variables > y > spans"), ignore_attr = TRUE)
  expect_equal(told$was[told$kind == "unlisted"], years[c(5, 7, 10)])
  expect_equal(of(spans = "middle", range = c(0, 6))$data$y, c(NA, NA, 5, NA, NA, 3, NA, 4.5, 1, NA))
  expect_match(findings(of())$message[1], "for all spans at once there is `spans: middle`")
})

test_that("a recode over a list of variables is a block of recodes, like one over a block", {
  frame <- data.frame(id = 1:3, part = c("High", "Low", ""), b = c("Low", "REF", "High"))
  part <- list(label = "Part", level = "nominal", codes = c("1" = "High", "2" = "Low"))
  turned <- function(of) build_small(frame, pb = c(list(column = "b"), part), both = list(label = "Turned", recode = list(of = of, to = list("0" = "High", "1" = "Low"), ending = "_low"), codes = c("0" = "No", "1" = "Yes")))
  study <- turned(c("part", "pb"))
  expect_equal(study$data[c("part_low", "pb_low")], data.frame(part_low = c(0L, 1L, NA), pb_low = c(1L, NA, 0L)))
  expect_equal(study$book$blocks$both, c("part_low", "pb_low"))
  expect_equal(study$book$variables$pb_low$label, "Part")
  expect_match(message_of(turned(c("part", "pd"))), "^in R: variables > both > recode: `pd` is not a variable of this codebook; did you mean `id`")
})

test_that("a subset is its condition wherever it is named, and a pattern passes columns over", {
  frame <- data.frame(id = 1:4, part = c("High", "Low", "High", ""), best = c("Tea", "", "cake", "tea"), extra1 = 1, extra2 = 2, q = c("1", "2", "3", ""))
  book <- small_codebook(
    best = list(column = "best", label = "B", level = "text"), q = list(column = "q", label = "Q", level = "ratio", universe = "tea_high"),
    fan = list(label = "F", when = list(list("if" = "tea_high | part == 'Low'", is = 1), list("else" = 0)), codes = c("0" = "No", "1" = "Yes"))
  )
  book$subsets <- list(tea = "contains(best, 'tea')", tea_high = "tea & part == 'High'")
  book$exports$main$ignored <- "extra*"
  written <- function(book) rapply(book, function(text) gsub("tea_high", "(contains(best, 'tea') & part == 'High')", text), classes = "character", how = "replace")
  study <- build_study(book, list(main = frame))
  plain <- build_study(written(book)[setdiff(names(book), "subsets")], list(main = frame))
  expect_identical(study$data, plain$data)
  expect_identical(study$reasons, plain$reasons)
  expect_equal(ledger(study)[c("kind", "was")], ledger(plain)[c("kind", "was")])
  expect_equal(answers(study, "part", where = "tea_high")$n, 1)
  expect_false(any(findings(study)$kind %in% c("unused_column", "ignored_absent")))
  book$exports$main$ignored <- c("extra*", "more *")
  found <- findings(build_study(book, list(main = frame)))
  expect_equal(found$written[found$kind == "ignored_absent"], "more *")
})

test_that("the study's weight counts unless none is asked for, and ordinal answers count as numbers on request", {
  frame <- data.frame(id = 1:4, part = c("High", "Low", "High", ""), w = c("1", "3", "1", "2"))
  book <- small_codebook(part = list(level = "ordinal"), w = list(column = "w", label = "W", level = "ratio"))
  book$study$weight <- "w"
  study <- build_study(book, list(main = frame))
  expect_equal(answers(study, "part")$weight, "w")
  expect_equal(answers(study, "part")$tables[[1]]$table$weighted, c(40, 60))
  expect_null(answers(study, "part", weight = "none")$weight)
  number <- answers(study, "part", weight = "none", as_number = TRUE)$tables[[1]]
  expect_equal(number$kind, "number")
  expect_equal(unlist(number$table[1:6]), c(n = 3, mean = 4 / 3, median = 1, sd = stats::sd(c(1, 2, 1)), min = 1, max = 2))
  expect_equal(answers(study, "part", as_number = TRUE)$tables[[1]]$table$weighted_mean, 8 / 5)
  expect_match(message_of(answers(build_small(frame[1:2]), "part", as_number = TRUE)), "`part` is nominal: its codes have no order and no mean")
})
