# A panel of two waves whose questions differ in all that can differ.
waves_codebook <- function(...) {
  book <- list(
    mavik = 1, study = list(title = "Waves", design = "panel"), waves = list(s = list(label = "S"), a = list(label = "A")),
    exports = list(es = list(wave = "s", key = "id", cells = "labels"), ea = list(wave = "a", key = "id", cells = "labels")), missing = list(refused = list(code = -2, label = "Refused")),
    variables = list(
      id = list(is = "key", label = "Id"), wave = list(is = "wave", label = "Wave"),
      part = list(column = "part", label = "Part", level = "nominal", codes = c("1" = "High", "2" = "Low"), by_wave = list(a = list(column = "p2", codes = c("1" = "Highest", "2" = "Low", "3" = "Mid")))),
      agree = list(level = "ordinal", codes = c("1" = "No", "2" = "Bit", "3" = "Yes"), universe = 'part != "Low"', by_wave = list(a = list(cells = "codes", delivered = c("1" = "Yes", "2" = "Bit", "3" = "No"))),
        items = list(a1 = list(column = "x1", label = "One"), a2 = list(column = "x2", label = "Two", by_wave = list(a = "absent")))),
      years = list(column = "y", label = "Years", level = "ratio", range = c(0, 80), variants = list("3" = "three"), by_wave = list(a = list(range = c(0, 10), universe = 'part == "Low"', variants = list("4" = "four"))), by_export = list(ea = list(question = "How long?"))),
      q = list(label = "Q", split = list(column = "m", options = list(o1 = "One", o2 = "Two", o3 = list(label = "Three", by_wave = list(s = "absent"))), other = list(flag = "more", text = "words")), by_wave = list(a = list(split = list(column = "m2")))),
      before = list(lookup = list(wave = "s", variable = "years"), label = "Before"), gained = list(label = "Gained", formula = "years - before")
    ),
    rules = list(same = list(constant = "part"))
  )
  utils::modifyList(book, list(...))
}
waves_frames <- function() list(
  es = data.frame(id = c("1", "2", "3"), part = c("High", "Low", "High"), x1 = c("No", "", "Yes"), x2 = c("Yes", "", "Bit"), y = c("5", "90", "three"), m = c("One;Two", "foo", "Three")),
  ea = data.frame(id = c("2", "1", "9"), p2 = c("Highest", "Low", "Mid"), x1 = c("1", "2", "2"), y = c("5", "12", "four"), m2 = c("One;Three", "", "Two"))
)
shown <- function(study, name) unname(core$cells_shown(study, name, seq_len(nrow(study$data))))

test_that("what differs in a wave or file holds there, and nowhere else", {
  study <- build_study(waves_codebook(), waves_frames())
  absent <- "(Not in this wave)"
  expected <- list(
    part = c("High", "Low", "High", "High", "Low", "Mid"), a1 = c("No", "(Not asked)", "Yes", "Yes", "(Set aside)", "Bit"), a2 = c("Yes", "(Not asked)", "Bit", absent, absent, absent),
    years = c("5", "(Set aside)", "3", "(Set aside)", "(Set aside)", "(Set aside)"), o1 = c("Yes", "No", "No", "Yes", "(No answer)", "No"), o3 = c(absent, absent, absent, "Yes", "(No answer)", "No"),
    words = c("(Not asked)", "foo", "Three", "(Not asked)", "(No answer)", "(Not asked)"), before = c(absent, absent, absent, "(Set aside)", "5", "(Not found)"), gained = c(absent, "(Not in this wave)", absent, "(Set aside)", "(Set aside)", "(Not found)")
  )
  for (name in names(expected)) expect_equal(shown(study, name), expected[[name]], info = name)
  told <- ledger(study)
  expect_equal(told$rule[told$variable == "years" & told$kind == "range"], c("variables > years > range", "variables > years > by_wave > a > range"))
  expect_equal(told$was[told$kind == "variant"], c("three", "four"))
  expect_equal(told$rule[told$kind == "universe" & told$variable == "years"], rep("variables > years > by_wave > a > universe", 2))
  found <- findings(study)
  expect_match(found$message[found$kind == "rule"], "part of 2")
  expect_match(core$made_in_words(study$book$variables$part, study$book), "In wave `a`: column .p2., labels 1 .Highest.")
  # Undone, every touched cell is what the file holds; each wave alone builds the same.
  for (wave in c("s", "a")) {
    alone <- choose_records(study, wave)
    expect_equal(study_table(alone)$a1, study$data$a1[study$records$wave == wave])
    expect_true(all(ledger(alone)$wave == wave))
  }
  expect_equal(why(waves_codebook(), "a1", "9", exports = waves_frames())$stories[[1]]$raw, "2")
  expect_match(why(waves_codebook(), "a2", "9", exports = waves_frames())$stories[[1]]$steps$words[1], "not asked in wave a")
  expect_equal(why(waves_codebook(), "before", "1", exports = waves_frames())$stories[[2]]$inputs$years$raw, "5")
})

test_that("boxes, write-ins and coded answers that a wave lacks are not in that wave", {
  book <- small_codebook(
    task = list(label = "T", split = list(columns = list(t1 = "b1", t2 = "b2"), options = list(t1 = "One", t2 = "Two"), blank = "none_ticked"), by_wave = list(two = list(split = list(columns = list(t1 = "c1"))))),
    part = list(other = list(code = 9, text = "part_words"), by_wave = list(two = list(column = "p", other = list(code = 9, text = "part_words", column = "pw"))))
  )
  book$waves$two <- list(label = "Two")
  book$exports$more <- list(wave = "two", key = "id", cells = "labels")
  study <- build_study(book, list(main = data.frame(id = 1:2, part = c("High", "mine"), b1 = c("x", ""), b2 = c("", "x")), more = data.frame(id = 3:4, p = c("Low", "Other"), pw = c("", "own"), c1 = c("", "x"))))
  expect_equal(study$data$t1, c(1L, 0L, 0L, 1L))
  expect_equal(shown(study, "t2"), c("No", "Yes", "(Not in this wave)", "(Not in this wave)"))
  expect_equal(shown(study, "part_words"), c("(Not asked)", "mine", "(Not asked)", "own"))
})

test_that("whatever is wrong about waves is said where it stands", {
  of <- function(name, ...) waves_codebook(variables = stats::setNames(list(list(...)), name))
  cases <- list(
    list(of("part", by_wave = list(autumn = "absent")), "variables > part > by_wave > autumn: `autumn` is not a wave"),
    list(of("part", by_wave = list(a = "gone")), "variables > part > by_wave > a: must hold the keys that differ"),
    list(of("part", by_wave = list(a = list(colum = "p2"))), "by_wave > a > colum: `colum` is not a key that can stand here; did you mean `column`"),
    list(of("part", by_wave = list(a = list(level = "ordinal"))), "`level` cannot differ"),
    list(of("part", by_wave = list(a = list(codes = list("1" = "Low", "2" = "High")))), "`Low` is code 1 here and 2 elsewhere"),
    list(of("part", by_export = list(ex = list(column = "p"))), "by_export > ex: `ex` is not an export"),
    list(of("q", by_wave = list(a = list(split = list(options = list(o1 = "One", o9 = "Nine"))))), "options > o9: is an option of this wave only"),
    list(waves_codebook(study = list(design = "single")), "study > design: is `single`, but there are 2 waves"),
    list(waves_codebook(study = list(design = "repeated")), "rules > same > constant: has a meaning in a panel only"),
    list(waves_codebook(study = list(design = "repeated")), "before > lookup > wave: takes an answer of an earlier wave: that needs a panel"),
    list(waves_codebook(study = list(wording = "b")), "study > wording: `b` is not a wave"),
    list(of("before", lookup = list(wave = "z")), "`z` is not a wave"),
    list(waves_codebook(exports = list(es = list(file = "raw/x.csv"), ea = list(file = "raw//./x.csv"))), "exports > ea > file: raw//./x.csv is read by `es` already"),
    list(waves_codebook(waves = list(w = list(label = "W"))), "waves > w: no export belongs to this wave"),
    list(waves_codebook(screens = list(old = list("if" = "before > 3"))), "goes in a circle: .*who is retained")
  )
  for (case in cases) expect_match(message_of(read_codebook(case[[1]]), "mavik_codebook_error"), case[[2]])
  frames <- waves_frames()
  names(frames$ea)[2] <- "other"
  expect_match(message_of(build_study(waves_codebook(), frames)), "by_wave > a > column: the column `p2` is not in data frame `ea`.*if it was not asked there: `by_wave: \\{a: absent\\}`")
})

test_that("keys that cannot be trusted over exports and waves are found", {
  kinds <- function(es, ea, ..., more = NULL) {
    frames <- waves_frames()
    frames$es$id <- es
    frames$ea$id <- ea
    book <- waves_codebook(...)
    if (!is.null(more)) { book$exports$e2 <- list(wave = "a", key = "id", cells = "labels"); frames$e2 <- frames$ea; frames$e2$id <- more; book$duplicates <- list(keep = "fullest") }
    found <- findings(build_study(book, frames))
    stats::setNames(found$count, found$kind)
  }
  expect_equal(kinds(c("001", "002", "003"), c("1", "002", "9"))[["key_near_earlier"]], 1)
  expect_equal(kinds(c("1", "2", "3"), c("1.2E+11", "2", "9"))[["key_exponent"]], 1)
  expect_equal(kinds(c("1", "2", "3"), c("7", "8", "9"))[["no_key_again"]], 3)
  expect_equal(kinds(c("1", "2", "3"), c("2", "1", "9"), more = c("2", "11", "12"))[["in_two_exports"]], 2)
  expect_false(any(c("key_near_earlier", "key_exponent", "no_key_again", "in_two_exports") %in% names(kinds(c("1", "2", "3"), c("2", "1", "9")))))
  book <- waves_codebook(study = list(design = "repeated"))
  book$rules <- book$variables$before <- book$variables$gained <- NULL
  found <- findings(build_study(book, waves_frames()))
  expect_equal(found$count[found$kind == "key_in_waves"], 4L)
  expect_match(message_of(kinds(c("1", "1", "3"), c("2", "1", "9"))), "stands more than once")
})

test_that("a column that nobody answered is matched by its name, whatever list it has, and headings by their words of weight", {
  text <- c("mavik: 1", "study: {title: T}", "waves: {a: {label: A}}", "exports: {a: {wave: a, file: raw/a.csv, key: id, cells: labels}}", "variables:", "  id: {is: key, label: Id}",
    "  part: {column: part, label: Part, level: nominal, codes: {1: High, 2: Low}}", "  age: {column: Age, label: Age, level: ratio, range: [10, 99]}", "  years: {column: Years in choirs, label: Years, level: ratio, range: [0, 60]}",
    "  hall: {column: Our hall is too cold, label: Hall, level: ordinal, codes: {1: No, 2: Partly, 3: Yes}}")
  rows <- function(head, part, hall) paste0(head, "\n", paste0(1:30, ",", part, ",", 20:49, ",", 1:10, ",", hall, collapse = "\n"), "\n")
  project <- project_with(text, list(
    a.csv = rows("id,part,Age,Years in choirs,Our hall is too cold", c("High", "Low"), c("No", "Partly", "Yes")),
    b.csv = rows("id,part,Your age,How many years have you sung in choirs?,Our town has a theatre", "", c("Never", "Once", "Often"))
  ))
  found <- align_wave(project, "b", file.path(project, "raw/b.csv"))
  match <- found$columns$match[base::match(c("part", "age", "years", "hall"), found$columns$variable)]
  expect_equal(match, c("same", "possible", "possible", "only_codebook"))
  expect_equal(found$columns$column[base::match(c("age", "years"), found$columns$variable)], c("Your age", "How many years have you sung in choirs?"))
  expect_equal(nrow(found$codes), 0)
})

test_that("a pattern of file names is an export a file, in C order, and a wide table lines the waves up", {
  rows <- function(ids) paste0("id,part\n", paste0(ids, ",High", collapse = "\n"), "\n")
  text <- c("mavik: 1", "study: {title: T, design: panel}", "waves: {s: {label: S}, a: {label: A}}", "exports:", "  web: {wave: s, file: 'raw/s-*.csv', key: id, cells: labels}", "  late: {wave: a, file: raw/a.csv, key: id, cells: labels}",
    "variables:", "  id: {is: key, label: Id}", "  part: {column: part, label: Part, level: nominal, codes: {1: High}}")
  project <- project_with(text, list("s-b.csv" = rows(3), "s-B.csv" = rows(1:2), "a.csv" = rows(c(2, 4)), "~s-x.csv" = "x"))
  study <- build_study(project)
  expect_equal(study$records$export, c("web:s-B.csv", "web:s-B.csv", "web:s-b.csv", "late", "late"))
  wide <- study_table(study, shape = "wide", gaps = "beside")
  expect_equal(names(wide), c("id", "part_s", "part_s.gap", "part_a", "part_a.gap"))
  expect_equal(wide$id, c("1", "2", "3", "4"))
  expect_equal(wide$part_a, c(NA, 1L, NA, 1L))
  expect_equal(as.character(wide$part_a.gap), c("not_found", NA, "not_found", NA))
  file.remove(list.files(file.path(project, "raw"), "^s-", full.names = TRUE))
  expect_match(message_of(build_study(project)), "no file is called like `raw/s-\\*.csv`")
})

aligned <- function(project, ...) align_wave(project, "autumn", file.path(project, "raw/autumn.xlsx"), label = "Autumn 2026", ...)

test_that("the demo's autumn wave is aligned: all of it proposed, nothing wrong", {
  project <- demo_project(tempfile())
  found <- aligned(project)
  expect_equal(found$counts, c(same = 32L, rule = 9L, possible = 1L, only_codebook = 1L, only_new = 1L, codes_unknown = 7L, label_changed = 1L, added = 1L))
  pair <- function(match) stats::setNames(found$columns$variable, found$columns$column)[found$columns$match %in% match]
  expect_equal(pair("possible"), c(Q5a = "weekly"))
  expect_equal(pair("rule")[["Q23"]], "satisfied")
  expect_equal(found$columns$variable[found$columns$match == "only_codebook"], "best")
  expect_equal(found$columns$column[found$columns$match == "only_new"], "Q24")
  expect_setequal(found$codes$variable[found$codes$change == "codes_unknown"], c(paste0("belong", 1:6), "attention"))
  # The list came back as bare numbers that run the other way: the likeliest reading first, and never sure.
  expect_match(found$codes$grounds[found$codes$variable == "belong1"], "now mirrored [0-9, ]+ \\(shares differ by [0-9]+ points.*\\), or .* \\(shares differ by")
  expect_equal(unlist(found$codes[found$codes$change == "label_changed", c("before", "now")], use.names = FALSE), c("Very satisfied", "Fully satisfied"))
  expect_equal(found$codes$now[found$codes$change == "added"], "For the concerts")
  expect_equal(found$lines$match, c("export", "possible", "rule", "codes_unknown", "codes_unknown", "label_changed", "added", "only_codebook", "only_new"))
  expect_equal(found$lines$line[!found$lines$sure], c(2, 4, 5, 6))
  # The rest is the same column by name, whatever its place.
  plain <- found$columns[found$columns$match == "same", ]
  book <- core$compile_codebook(read_codebook(project))
  expect_true(all(mapply(function(name, column) column %in% core$columns_of(book$variables[[name]]), plain$variable, plain$column)))

  change <- accept_alignment(found, found$lines$line)
  expect_equal(readLines(file.path(project, "choirs.yml")), readLines(file.path(demo_project(tempfile(), waves = 2), "choirs.yml")))
  said <- function(text) grep("#", sub("^[^#]*", "", text), value = TRUE)
  expect_true(all(said(change$text[change$change == "-"]) %in% said(change$text[change$change == "+"])))
  again <- align_wave(project, "autumn")
  expect_equal(nrow(again$lines), 0)
  study <- build_study(project)
  told <- findings(study)
  expect_false(any(c("wave_change", "direction_reversed", "codes_shifted", "missing_became_answer", "cells_unread", "key_near_earlier", "unused_column") %in% told$kind))
  expect_equal(sum(told$level == "error"), 0)
  expect_equal(study$data$weekly[study$records$wave == "autumn" & !is.na(study$data$weekly)], as.numeric(stats::na.omit(as.numeric(as.data.frame(read_export(file.path(project, "raw/autumn.xlsx"), c("questions", "names"), skip = 2))$Q5a))))
  expect_gt(stats::cor(study$data$belonging, study$data$satisfied, use = "complete"), 0.4)

  # The mistake, planted: codes taken as they stand.
  book <- read_codebook(project)
  book$variables$belong$by_wave$autumn$delivered <- NULL
  wrong <- findings(build_study(book))
  expect_setequal(wrong$variable[wrong$kind == "direction_reversed"], paste0("belong", 1:6))
  book$variables$attention$by_wave$autumn$delivered <- NULL
  wrong <- findings(build_study(book))
  expect_true(all(c("wave_dropped", "direction_reversed") %in% wrong$kind))
  book$variables$belong$by_wave <- NULL
  expect_match(findings(build_study(book))$message[1:3], "the cells hold codes, not labels", all = FALSE)
})

test_that("neither order nor place of columns matters, and an earlier wave's own file is all the same", {
  project <- demo_project(tempfile())
  found <- aligned(project)
  cells <- as.data.frame(read_export(file.path(project, "raw/autumn.xlsx"), c("questions", "names"), skip = 2))
  asked <- read_export(file.path(project, "raw/autumn.xlsx"), c("questions", "names"), skip = 2)$questions
  set.seed(3)
  mixed <- sample(length(cells))
  plain_name <- sub(" \\(2\\)$", "", names(cells))
  keep <- mixed[!plain_name[mixed] %in% "Other"]
  keep <- append(keep, which(plain_name == "Other"), 5)
  quote <- function(x) paste0("\"", gsub("\"", "\"\"", x), "\"")
  lines <- c(paste(quote(plain_name[keep]), collapse = ","), paste(quote(asked[keep]), collapse = ","), do.call(paste, c(lapply(unname(cells[keep]), quote), sep = ",")))
  writeLines(enc2utf8(lines), file.path(project, "raw/late.csv"), useBytes = TRUE)
  other <- align_wave(project, "autumn", file.path(project, "raw/late.csv"))
  expect_equal(other$counts, found$counts)
  without <- function(lines) sort(lines$writes[lines$match != "export"])
  expect_equal(without(other$lines), without(found$lines))
  file.copy(file.path(project, "raw/spring.csv"), file.path(project, "raw/copy.csv"))
  same <- align_wave(project, "copy", file.path(project, "raw/copy.csv"))
  expect_equal(same$counts[names(same$counts) != "odd"], c(same = 43L, rule = 0L, possible = 0L, only_codebook = 0L, only_new = 0L))
  expect_equal(same$lines$match, "export")
})

test_that("a name that now asks another question is not taken for the old one", {
  project <- demo_project(tempfile())
  cells <- utils::read.csv(file.path(project, "raw/spring.csv"), colClasses = "character", check.names = FALSE, header = FALSE, encoding = "UTF-8")
  at <- match(c("Q4", "Q16"), unlist(cells[1, ]))
  swapped <- cells
  swapped[-1, at] <- cells[-1, rev(at)]
  utils::write.table(swapped, file.path(project, "raw/swapped.csv"), sep = ",", row.names = FALSE, col.names = FALSE, qmethod = "double", fileEncoding = "UTF-8")
  found <- align_wave(project, "late", file.path(project, "raw/swapped.csv"))
  pair <- stats::setNames(found$columns$column, found$columns$variable)
  expect_equal(unname(pair[c("years", "member")]), c("Q16", "Q4"))
  expect_true(all(found$columns$rule[found$columns$variable %in% c("years", "member")] == "same wording"))
})

test_that("decisions are kept: accepted lines are written, rejected ones do not come up again", {
  project <- demo_project(tempfile())
  sheet <- file.path(project, "sheets/align-autumn.xlsx")
  first <- command("align", "autumn", file.path(project, "raw/autumn.xlsx"), "--project", project)
  expect_equal(first$status, 0)
  expect_match(first$out, "32  the same: name, wording and code list", all = FALSE)
  expect_equal(length(openxlsx::getSheetNames(sheet)), 2)
  decide <- function(...) {
    book <- openxlsx::loadWorkbook(sheet)
    table <- openxlsx::read.xlsx(sheet, "align", skipEmptyCols = FALSE)
    for (one in list(...)) openxlsx::writeData(book, "align", one[[2]], startCol = match("decision", names(table)), startRow = which(table$writes == one[[1]]) + 1)
    openxlsx::saveWorkbook(book, sheet, overwrite = TRUE)
  }
  found <- aligned(project)
  line <- function(match) found$lines$writes[found$lines$match == match]
  decide(list(line("codes_unknown")[1], "accept"))
  refused <- command("align", "autumn", file.path(project, "raw/autumn.xlsx"), "--project", project)
  expect_equal(refused$status, 2)
  expect_match(refused$err, "accept it too", all = FALSE)
  before <- openxlsx::read.xlsx(sheet, "align")$writes[1]
  decide(list(before, "accept"), list(line("added"), "reject"), list(line("possible"), "ease"))
  second <- command("align", "autumn", file.path(project, "raw/autumn.xlsx"), "--project", project)
  expect_equal(second$status, 0, info = paste(second$err, collapse = "\n"))
  text <- readLines(file.path(project, "choirs.yml"))
  expect_match(text, "by_wave: {autumn: {column: Q5a}}", fixed = TRUE, all = FALSE)
  expect_equal(read_codebook(project)$variables$ease$by_wave$autumn$column, "Q5a")
  expect_false(any(grepl("For the concerts", text)))
  expect_match(text, "the ends have labels,", all = FALSE)
  left <- read_decisions(sheet)
  expect_equal(left$decision[grepl("For the concerts", left$writes)], "reject")
  third <- command("align", "autumn", "--project", project, "--json")
  parsed <- jsonlite::fromJSON(third$out)
  expect_false(any(grepl("For the concerts", parsed$lines$writes)))
  expect_equal(parsed$rejected, 1)
  csv <- file.path(project, "sheets/own.csv")
  expect_equal(command("align", "autumn", "--project", project, "--sheet", csv)$status, 0)
  table <- utils::read.csv(csv, colClasses = "character")
  table$decision[1] <- "perhaps not"
  utils::write.csv(table, csv, row.names = FALSE)
  expect_match(paste(command("align", "autumn", "--project", project, "--sheet", csv)$err, collapse = " "), "neither `accept` nor `reject`")
  unlink(csv)
  expect_equal(command("align", "autumn", "--project", project, "--sheet", csv, "--accept", "all")$status, 0)
  expect_null(read_decisions(csv))
  expect_match(command("align", "autumn", "--project", project, "--sheet", csv)$out, "Nothing is proposed", all = FALSE)
})

test_that("a heading in other capitals is the same one where it is the only one and its answers fit", {
  first <- data.frame(id = 1:30, `How many years` = 1:30, `Hall used` = rep(c("Old hall", "Chapel"), 15), `Last sung` = sprintf("2026-03-%02d", 1:30), Notes = paste("note", 1:30), check.names = FALSE)
  second <- stats::setNames(transform(first, id = 31:60), c("id", "HOW  MANY YEARS", "hall used", "LAST SUNG", "NOTES"))
  aligned <- function(second) {
    project <- project_with(character())
    for (file in c("one", "two")) utils::write.csv(list(one = first, two = second)[[file]], file.path(project, "raw", paste0(file, ".csv")), row.names = FALSE)
    writeLines(draft_codebook(file.path(project, "raw/one.csv"), project = project), file.path(project, "study.yml"))
    list(project = project, found = align_wave(project, "later", file.path(project, "raw/two.csv")))
  }
  rules <- function(made) sum(made$found$columns$rule == "same name but for capitals")
  made <- aligned(second)
  expect_equal(rules(made), 4)
  accept_alignment(made$found, made$found$lines$line[made$found$lines$sure])
  study <- build_study(made$project)
  expect_true(all(vapply(c("years", "hall_used", "last_sung", "notes"), function(name) identical(study$data[[name]][1:30], study$data[[name]][31:60]), TRUE)))
  # Two of the name, and one whose answers are other ones, are a person's to decide.
  expect_equal(rules(aligned(cbind(second, `notes ` = "x"))), 3)
  expect_equal(rules(aligned(replace(second, "hall used", rep(c("3", "4"), 15)))), 3)
})

test_that("a heading or a wording with other marks at its end is the same one, and marks alone are none", {
  answers <- list(1:40, rep(c("Old hall", "Chapel"), 20), rep(c("Chapel", "Old hall"), each = 20), 41:80, rep(c("Radio", ""), 20))
  paired <- function(before, now, asked = NULL) {
    project <- project_with(character())
    write <- function(names, file) {
      heading <- lapply(c(list(c("id", names)), asked[file]), function(texts) paste0("\"", texts, "\"", collapse = ","))
      path <- file.path(project, "raw", paste0(file, ".csv"))
      writeLines(c(unlist(heading), do.call(paste, c(c(list(1:40 + 100 * (file == "two")), answers[seq_along(names)]), sep = ","))), path)
      path
    }
    writeLines(draft_codebook(write(before, "one"), project = project), file.path(project, "study.yml"))
    found <- align_wave(project, "later", write(now, "two"))$columns
    stats::setNames(found$column, found$variable)[grepl("but for (marks at its end|its number)", found$rule)]
  }
  others <- c("YEARS SUNG", "Hall used", "Hall liked...", "How old :", "Heard of us [Radio]")
  expect_setequal(paired(c("Years sung?", "Hall used*", "Hall liked!", "How old", "Heard of us? [Radio]"), others), others)
  # The wording goes before a name that moved.
  halls <- list(one = c("Id", "How many years", "Which hall is used", "Which hall is liked"), two = c("Id", "How many years?", "Which hall is liked?", "Which hall is used?"))
  moved <- paired(c("q1", "q2", "q3"), c("q1", "q2", "q3"), halls)
  expect_equal(moved[order(moved)], c(years = "q1", hall_liked = "q2", hall_used = "q3"))
  # Nothing but marks, a sign that counts, and two of the name.
  for (pair in list(c("?", "*"), c("Share 1.5", "Share 15"), c("Score +", "Score -"), c("Score +", "Score"), c("1. hour of singing", "2. hour of singing"))) expect_length(paired(pair[1], pair[2]), 0)
  expect_length(paired("Years", c("Years:", "Years?")), 0)
})

test_that("a question turned round under the same name is a person's to decide, and is not read as before meanwhile", {
  agree <- c("Disagree", "Neither", "Agree")
  wave <- function(questions, ids) paste(c(paste(c("id", "a", "b", "c", "d"), collapse = ","), paste0("\"", c("Respondent", questions), "\"", collapse = ","),
    sprintf("%d,%s,%s,%s,%d", ids, rep(agree, length.out = 60), rep(agree, each = 2, length.out = 60), rep(c("Yes", "No"), 30), ids %% 40L)), collapse = "\n")
  first <- c("I look forward to Tuesdays", "My choir makes me welcome", "Have you sung a solo?", "How many years do you sing?")
  turned <- c("I don't look forward to Tuesdays", "My choir makes me unwelcome", "Have you never sung a solo?", "For how many years do you sing?")
  project <- project_with(character(), list(one.csv = wave(first, 1:60), two.csv = wave(turned, 101:160)))
  writeLines(draft_codebook(file.path(project, "raw/one.csv"), project = project), file.path(project, "study.yml"))
  read <- core$known_book(project)$variables
  names <- vapply(c(a = "a", b = "b", c = "c"), function(column) names(Filter(function(variable) identical(unname(core$columns_of(variable)), column), read)), "")
  two <- file.path(project, "raw/two.csv")
  found <- align_wave(project, "later", two)
  expect_equal(found$columns$match, c("rule", rep("possible", 3)))
  expect_match(found$columns$grounds[-1], "asked the other way round, by .(not|unwelcome|never).[?]")
  expect_equal(sum(found$lines$sure), 0)
  expect_match(found$lines$grounds[found$lines$match == "export"], "would be read as before, by the column's name: decide that first")
  # Told to be another question, it is absent and a new one.
  decisions <- found$lines
  decisions$decision <- ifelse(decisions$column == "b", "reject", "accept")
  accept_alignment(found, found$lines$line[decisions$decision == "accept"])
  again <- align_wave(project, "later", two, decisions = decisions)
  expect_setequal(again$lines$match, c("only_codebook", "only_new"))
  accept_alignment(again, again$lines$line)
  study <- build_study(project)
  expect_equal(sum(!is.na(study$data[[names[["b"]]]][61:120])), 0)
  expect_equal(sum(!is.na(study$data[[names[["a"]]]][61:120])), 60)
  expect_equal(nrow(align_wave(project, "later", two, decisions = decisions)$lines), 0)
  expect_false("question_turned" %in% findings(study)$kind)
  # A wave that was put beside the first by hand is warned of.
  by_hand <- readLines(file.path(project, "study.yml"))
  writeLines(gsub(",? *by_wave: [{]later: [{]column: [a-d][}][}]", "", grep("^ +by_wave: [{]later: [{]column", by_hand, invert = TRUE, value = TRUE)), file.path(project, "study.yml"))
  told <- findings(build_study(project))
  told <- told[told$kind == "question_turned", ]
  expect_setequal(told$variable, names[c("a", "c")])
  expect_match(told$message, "the other way round, by .(not|never).[?] Then its answers mean the opposite")
  expect_equal(told$count, c(60, 60))
})

test_that("an item that took another's name or place is a person's to decide, and a wave's other words are told", {
  agree <- c("Disagree", "Neither", "Agree")
  wave <- function(questions, ids) paste(c("id,a,b,c,d,e", paste0("\"", c("Respondent", questions), "\"", collapse = ","),
    sprintf("%d,%s,%s,%s,%s,%d", ids, rep(agree, length.out = 60), rep(agree, each = 2, length.out = 60), rep(agree, each = 3, length.out = 60), rep(c("Yes", "No"), 30), ids %% 40L)), collapse = "\n")
  aligned <- function(first, second) {
    project <- project_with(character(), list(one.csv = wave(first, 1:60), two.csv = wave(second, 101:160)))
    writeLines(draft_codebook(file.path(project, "raw/one.csv"), project = project), file.path(project, "study.yml"))
    list(project = project, found = align_wave(project, "later", file.path(project, "raw/two.csv")))
  }
  first <- c("1. I like Mondays", "2. I like Tuesdays", "3. I like Thursdays", "Have you sung a solo?", "How many years have you been singing?")
  second <- c("1. I like Fridays", "2. I like Tuesdays", "3. I like Thursdays", "HAVE YOU SUNG A SOLO", "For how many years have you been singing by now?")
  made <- aligned(first, second)
  columns <- made$found$columns
  expect_equal(columns$match[match(letters[1:5], columns$column)], c("possible", "same", "same", "rule", "rule"))
  expect_match(columns$grounds[columns$column == "a"], "which others have too.*it was .1. I like Mondays.")
  expect_match(columns$grounds[columns$column == "e"], "it was .How many years have you been singing")
  expect_equal(sum(nzchar(columns$grounds)), 2)
  expect_false(any(made$found$lines$sure))
  shown <- command("align", "later", file.path(made$project, "raw/two.csv"), "--project", made$project, "--dry-run")$out
  expect_match(shown, "it was .How many years have you been singing", all = FALSE)
  # Taken over, the item is said to be the same; other words alone are told by a build.
  accept_alignment(made$found, made$found$lines$line)
  study <- build_study(made$project)
  told <- findings(study)[findings(study)$kind == "question_reworded", ]
  expect_equal(told$variable, columns$variable[columns$column == "e"])
  expect_match(told$message, "asks .For how many years .*, before it was .How many years .*by_wave: .later: absent")
  expect_equal(told[c("level", "count")], data.frame(level = "note", count = 60L), ignore_attr = TRUE)
  # All moved up by one: each is followed by its words, and what is left over is nobody's for sure.
  moved <- aligned(first, c("1. I like Tuesdays", "2. I like Thursdays", "3. I like Fridays", first[4:5]))$found$columns
  moved <- moved[match(c("a", "b", "c"), moved$column), ]
  expect_equal(moved$match, c("rule", "rule", "possible"))
  expect_equal(moved$variable, c("b", "c_x", "a"))
})

test_that("wordings that are turned round are told from those that only changed", {
  turned <- list(c("I trust my conductor", "I do not trust my conductor"), c("Ich singe gern vor Publikum", "Ich singe nicht gern vor Publikum"), c("The hall is warm enough", "The hall is cold enough"),
    c("Me gusta ensayar", "No me gusta ensayar"), c("Rehearsals are well organised", "Rehearsals are disorganised"), c("I can hear the others", "I cannot hear the others"), c("We agree on the music", "We disagree on the music"), c("I sing with fear", "I sing without fear"))
  kept <- list(c("I trust my conductor", "I trust my choir's conductor"), c("Do you never miss a rehearsal?", "Do you never miss a weekly rehearsal?"), c("How long is your way?", "How long is the way to the hall?"),
    c("Unser Chor ist laut", "Der Chor ist laut"), c("I do not like it loud", "I don't like it loud"), c("Which of these do you sing?", "Which of the following do you sing?"), c("", "I do not sing"),
    c("No. of concerts", "Number of concerts"), c("Did you enjoy it (if not, leave blank)?", "Did you enjoy it?"))
  expect_equal(vapply(turned, function(pair) nzchar(core$turned_round_by(pair[2], pair[1])), TRUE), rep(TRUE, 8))
  expect_equal(vapply(kept, function(pair) nzchar(core$turned_round_by(pair[2], pair[1])), TRUE), rep(FALSE, 9))
})

test_that("rules can be switched, and labels taken from either wave", {
  project <- demo_project(tempfile())
  less <- aligned(project, rules = "name")
  expect_equal(less$columns$match[less$columns$variable == "satisfied"], "possible")
  expect_false("added" %in% aligned(project, merge_options = FALSE)$lines$match)
  text <- sub("codes: satisfied5", "codes: {1: Very dissatisfied, 2: Dissatisfied, 3: Neither, 4: Satisfied, 5: Very satisfied}", readLines(file.path(project, "choirs.yml")), fixed = TRUE)
  writeLines(text, file.path(project, "choirs.yml"))
  newer <- aligned(project, keep_label = "newer")
  accept_alignment(newer, newer$lines$line)
  book <- read_codebook(project)
  expect_equal(book$variables$satisfied$codes[["5"]], "Fully satisfied")
  expect_equal(book$variables$satisfied$variants[["Fully satisfied"]], "Very satisfied")
  study <- build_study(project)
  expect_equal(study$data$satisfied[study$records$wave == "spring"], build_study(demo_project(tempfile()))$data$satisfied)
  expect_equal(sum(study$data$satisfied[study$records$wave == "autumn"] %in% 5L), sum(as.data.frame(read_export(file.path(project, "raw/autumn.xlsx"), c("questions", "names"), skip = 2))$Q23 == "Fully satisfied"))
  fresh <- demo_project(tempfile())
  for (bad in list(list("wrong", "spring.csv", "an export of an earlier wave already"), list("Bad name", "autumn.xlsx", "does not fit as a name"), list("spring", "autumn.xlsx", "the only wave"))) {
    expect_match(message_of(align_wave(fresh, bad[[1]], file.path(fresh, "raw", bad[[2]]))), bad[[3]])
  }
})

# Items of one factor and two questions outside, as codes, for two waves.
two_waves <- function(seed, turned = FALSE, n = 150, level = 0, shift = 0, lost = FALSE) {
  set.seed(seed)
  wave <- function(turn, level = 0) {
    f <- stats::rnorm(n)
    five <- function(x) cut(x, c(-Inf, -1.2, -0.4, 0.4, 1.2, Inf), labels = FALSE)
    items <- lapply(1:4, function(i) five(level + 0.8 * f * (if (i == 2) -1 else 1) + 0.6 * stats::rnorm(n)))
    if (turn) items <- lapply(items, function(x) 6 - x)
    data.frame(id = NA, i1 = items[[1]], i2 = items[[2]], i3 = items[[3]], i4 = items[[4]], out1 = round(50 + 8 * f + 6 * stats::rnorm(n)), out2 = round(20 + 3 * f + 3 * stats::rnorm(n)), code = sample(1:5, n, TRUE, c(0.5, 0.3, 0.1, 0.06, 0.04)), age = round(stats::runif(n, 18, 70)))
  }
  frames <- list(one = wave(FALSE), two = wave(turned, level))
  frames$one$id <- seq_len(n)
  frames$two$id <- n + seq_len(n)
  frames$two$code <- frames$two$code + shift
  if (lost) { frames$one$age[1:12] <- "Refused"; frames$two$age[1:10] <- 999 }
  item <- function(column) list(column = column, label = column)
  book <- list(mavik = 1, study = list(title = "T"), waves = list(w1 = list(label = "1"), w2 = list(label = "2")), exports = list(one = list(wave = "w1", key = "id", cells = "codes"), two = list(wave = "w2", key = "id", cells = "codes")),
    missing = list(refused = list(code = -2, label = "Refused", written = "Refused")),
    variables = list(id = list(is = "key", label = "Id"), scale = list(level = "ordinal", codes = c("1" = "SD", "2" = "D", "3" = "N", "4" = "A", "5" = "SA"), items = list(i1 = item("i1"), i2 = item("i2"), i3 = item("i3"), i4 = item("i4"))),
      out1 = list(column = "out1", label = "O", level = "ratio"), out2 = list(column = "out2", label = "P", level = "ratio"), age = list(column = "age", label = "Age", level = "ratio"), code = list(column = "code", label = "C", level = "nominal", codes = c("1" = "a", "2" = "b", "3" = "c", "4" = "d", "5" = "e", "6" = "f"))))
  found <- findings(build_study(book, frames))
  split(found$variable[found$kind %in% c("wave_change", "direction_reversed", "codes_shifted", "missing_became_answer")], found$kind[found$kind %in% c("wave_change", "direction_reversed", "codes_shifted", "missing_became_answer")])
}

test_that("a list that flips as a whole is told by what stands outside it, and a level that moved is not", {
  for (seed in 1:8) {
    # Shares lie even on both sides: only correlations outside the list can tell.
    expect_setequal(two_waves(seed, turned = TRUE)$direction_reversed, paste0("i", 1:4))
    expect_null(two_waves(seed)$direction_reversed)
    moved <- two_waves(seed, level = 0.5)
    expect_null(moved$direction_reversed)
    expect_null(moved$codes_shifted)
    expect_null(moved$missing_became_answer)
  }
  expect_equal(two_waves(1, shift = 1)$codes_shifted, "code")
  expect_equal(two_waves(1, lost = TRUE)$missing_became_answer, "age")
})

test_that("outputs of chosen waves and respondents say what was chosen", {
  project <- demo_project(tempfile(), waves = 2)
  out <- file.path(tempfile(), "out")
  made <- command("build", project, "--out", out, "--wave", "autumn", "--where", "years > 10")
  expect_equal(made$status, 0, info = paste(made$err, collapse = "\n"))
  table <- utils::read.csv(file.path(out, "analysis.csv"))
  study <- build_study(project)
  expect_equal(nrow(table), sum(study$records$wave == "autumn" & study$data$years > 10, na.rm = TRUE))
  expect_true(all(table$wave == "autumn"))
  record <- jsonlite::read_json(file.path(out, "provenance.json"))
  expect_equal(record$chosen[c("waves", "where", "records")], list(waves = "autumn", where = "years > 10", records = nrow(table)))
  expect_match(readLines(file.path(out, "codebook.html"), encoding = "UTF-8"), "wave autumn; where years &gt; 10", all = FALSE)
  expect_true(all(utils::read.csv(file.path(out, "ledger.csv"))$wave == "autumn"))
  told <- utils::read.csv(file.path(out, "findings.csv"))$examples
  expect_true(all(unlist(strsplit(as.character(told), "; ")) %in% c(NA, sprintf("%04d", table$singer), as.character(table$singer), study$records$key[study$records$wave == "autumn" & study$data$years > 10])))
  for (bad in list(c("--wave", "winter"), c("--where", "years > 900"), c("--where", "email == \"x\""))) expect_equal(command("build", project, "--out", tempfile(), bad)$status, 2)
  whole <- file.path(tempfile(), "out")
  write_study(study, whole)
  expect_null(jsonlite::read_json(file.path(whole, "provenance.json"))$chosen)
  report <- paste(readLines(file.path(whole, "report.html"), encoding = "UTF-8"), collapse = "\n")
  expect_match(report, "<h2>Waves</h2>")
  statistics <- wave_statistics(study, c("belonging", "voice"), by = "region")
  rows <- study$retained[study$records$wave[study$retained] == "autumn" & study$data$region[study$retained] %in% 1L]
  expect_equal(statistics$value[statistics$variable == "belonging" & statistics$wave == "autumn" & statistics$group == "Upper valley" & statistics$statistic == "mean"], mean(study$data$belonging[rows], na.rm = TRUE))
  drawn <- tempfile(fileext = ".svg")
  lines <- command("answers", "belonging", "--waves", "--by", "region", "--figure", drawn, "--project", project)
  expect_equal(lines$status, 0)
  expect_true(file.exists(drawn))
})

# The demo's autumn export as a text file, its cells changed by `change`.
autumn_as <- function(project, name, change, separator = ",", encoding = "UTF-8") {
  export <- read_export(file.path(project, "raw/autumn.xlsx"), c("questions", "names"), skip = 2)
  cells <- as.data.frame(export)
  names(cells) <- sub(" \\(2\\)$", "", names(cells))
  cells <- change(cells)
  quote <- function(x) paste0("\"", gsub("\"", "\"\"", x), "\"")
  lines <- c(paste(quote(names(cells)), collapse = separator), paste(quote(unname(export$questions)), collapse = separator), do.call(paste, c(lapply(unname(as.list(cells)), quote), sep = separator)))
  file <- file.path(project, "raw", name)
  writeBin(iconv(paste0(paste(enc2utf8(lines), collapse = "\n"), "\n"), "UTF-8", encoding, toRaw = TRUE)[[1]], file)
  file
}

test_that("a wave in another language, encoding and delimiter is told, and no label lands on another's answers", {
  project <- demo_project(tempfile())
  translated <- function(cells) {
    to <- function(x, words) ifelse(is.na(words[x]), x, words[x])
    cells$Q3 <- to(cells$Q3, c(Soprano = "Sopran", Alto = "Altstimme", Tenor = "Tenorstimme", Bass = "Bassstimme"))
    cells$Q23 <- to(cells$Q23, c("Very dissatisfied" = "ganz unzufrieden", Dissatisfied = "unzufrieden", Neither = "weder noch", Satisfied = "zufrieden", "Fully satisfied" = "\u00fcberaus zufrieden"))
    for (name in c("Q1", "Q16")) cells[[name]] <- to(cells[[name]], c(Yes = "Ja", No = "Nein"))
    cells$Kind <- "Fertig"
    cells
  }
  found <- align_wave(project, "german", autumn_as(project, "german.csv", translated, ";", "windows-1252"))
  expect_match(found$language, "in another language")
  expect_match(found$lines$writes[1], "cells: labels, heading: [names, questions], delimiter: semicolon, encoding: windows-1252", fixed = TRUE)
  expect_equal(found$columns$variable[found$columns$column == "Q23"], "satisfied")
  accept_alignment(found, found$lines$line[found$lines$match %in% c("export", "possible", "rule", "direction_reversed", "only_codebook", "only_new")])
  told <- findings(build_study(project))
  expect_equal(told$count[told$kind == "wave_dropped"], 214L)
  book <- read_codebook(project)
  book$screens <- NULL
  told <- findings(build_study(book))
  expect_match(told$message[told$kind == "cells_unread"], "voice.*in another language")
})

test_that("where a file says what its codes stand for, moved and turned codes are told by their labels", {
  project <- demo_project(tempfile())
  file <- autumn_as(project, "codes.csv", function(cells) { cells$Q3 <- c(Bass = 1, Tenor = 2, Alto = 4, Soprano = 3)[cells$Q3]; cells })
  writeLines(c("variable,code,label", paste0("Q3,", 1:4, ",", c("Bass", "Tenor", "Soprano", "Alto")), paste0("Q8_1,", 1:5, ",", c("Strongly agree", "Agree", "Neither", "Disagree", "Strongly disagree"))), file.path(project, "raw/labels.csv"))
  found <- align_wave(project, "late", c(file, file.path(project, "raw/labels.csv")))
  own <- found$codes[found$codes$variable %in% c("voice", "belong1"), ]
  expect_equal(unique(own$change[own$variable == "voice"]), "moved")
  expect_equal(own$grounds[own$variable == "belong1"], "by the labels of the codes")
  accept_alignment(found, found$lines$line)
  study <- build_study(project)
  late <- study$records$wave == "late"
  raw <- as.data.frame(read_export(file.path(project, "raw/autumn.xlsx"), c("questions", "names"), skip = 2))
  expect_equal(core$label_of(study$book$variables$voice, study$data$voice[late]), raw$Q3)
  expect_equal(study$data$belong1[late], 6L - as.integer(raw$Q8_1))
})

test_that("write-ins that a sheet gives codes are read in every version of a question", {
  sheet <- tempfile(fileext = ".csv")
  writeLines(c("answer,code", "mine,Low"), sheet)
  book <- small_codebook(part = list(other = list(code = 9, text = "words", sheet = sheet), by_wave = list(two = list(column = "p"))))
  book$waves$two <- list(label = "Two")
  book$exports$more <- list(wave = "two", key = "id", cells = "labels")
  study <- build_study(book, list(main = data.frame(id = 1:2, part = c("High", "mine")), more = data.frame(id = 3:4, p = c("mine", "yours"))))
  expect_equal(study$data$part, c(1L, 2L, 2L, 9L))
})

test_that("undone, the ledger of two waves gives what each wave's own reading of its cells gives", {
  project <- demo_project(tempfile(), waves = 2)
  study <- build_study(project)
  book <- study$book
  raw <- list(spring = read_export(file.path(project, "raw/spring.csv"), c("names", "questions")), autumn = read_export(file.path(project, "raw/autumn.xlsx"), c("questions", "names"), skip = 2))
  rows <- ledger(study)
  rows <- rows[rows$kind %in% c("corrected", "range", "universe", "rule"), ]
  at <- match(paste(rows$export, rows$line), paste(study$records$export, study$records$line))
  read <- names(Filter(function(variable) variable$way == "column" && !isTRUE(variable$private) && variable$storage != "date", book$variables))
  expect_gt(length(read), 25)
  for (name in read) {
    variable <- book$variables[[name]]
    value <- core$value_text(variable, study$data[[name]])
    reason <- as.character(study$reasons[[name]])
    if (length(reason) == 0) reason <- rep(NA, length(value))
    for (i in rev(which(rows$variable == name))) {
      value[at[i]] <- if (nzchar(rows$was[i])) rows$was[i] else NA
      reason[at[i]] <- if (nzchar(rows$was_reason[i])) rows$was_reason[i] else NA
    }
    for (wave in names(raw)) {
      here <- which(study$records$export == wave)
      version <- core$version_in(variable, book$exports[[wave]])
      if (core$is_absent(version)) {
        expect_equal(unique(reason[here]), "not_in_wave", info = name)
        next
      }
      column <- raw[[wave]]$columns[[core$columns_of(version)]]
      decoded <- core$decode_cells(column$cells, version, book$exports[[wave]], book, column$kinds)
      cell <- column$index[match(study$records$line[here], raw[[wave]]$lines)]
      expect_equal(value[here], core$value_text(version, decoded$value)[cell], info = paste(name, wave))
      gap <- ifelse(decoded$reason > 0, book$reasons$name[pmax(decoded$reason, 1)], NA)[cell]
      # A blank outside its universe has its reason, and no row.
      asked <- gap %in% "no_answer" & reason[here] %in% "not_asked"
      expect_equal(as.character(reason[here][!asked]), as.character(gap[!asked]), info = paste(name, wave))
    }
  }
})

test_that("a third wave takes over what was said of the second, and says so", {
  project <- demo_project(tempfile(), waves = 2)
  file.copy(file.path(project, "raw/autumn.xlsx"), file.path(project, "raw/winter.xlsx"))
  found <- align_wave(project, "winter", file.path(project, "raw/winter.xlsx"))
  expect_equal(found$against, "autumn")
  expect_equal(found$counts, c(same = 35L, rule = 8L, possible = 0L, only_codebook = 1L, only_new = 0L))
  accept_alignment(found, found$lines$line)
  expect_equal(nrow(align_wave(project, "winter")$lines), 0)
  table <- study_table(build_study(project))
  expect_equal(table[table$wave == "winter", -2], table[table$wave == "autumn", -2], ignore_attr = TRUE)
})

test_that("from which change on a wave is pointed out can be set, and an item not asked in a wave is no part of its scale there", {
  book <- edit_codebook(read_codebook(demo_project(tempfile(), waves = 2)), study = list(wave_change = list(share = 3, mean = 0.15)))
  found <- findings(build_study(book))
  jumps <- found[found$kind == "wave_change", ]
  expect_true(all(c("member", "weekly") %in% jumps$variable))
  points <- regmatches(jumps$message, gregexpr("[0-9.]+(?= %)", jumps$message, perl = TRUE))
  expect_true(all(vapply(points[lengths(points) == 2], function(two) abs(diff(as.numeric(two))) > 2.85, TRUE)))
  less <- edit_codebook(book, variables = list(belong = list(items = list(belong4 = list(by_wave = list(autumn = "absent"))))), exports = list(autumn = list(ignored = c(book$exports$autumn$ignored, "Q8_4"))))
  examined <- examine_scales(build_study(less), "belonging")$scales
  expect_equal(unname(vapply(examined, `[[`, 0L, "k")), c(6L, 6L, 5L))
  expect_gt(examined[[3]]$n, 150)
})

test_that("questions that are all renamed and reworded find their own, in a file without a response number", {
  set.seed(8)
  labels <- c("Never", "Rarely", "At times", "Often", "Always")
  what <- vapply(1:20, function(i) paste(sample(c("sing", "walk", "read", "cook", "travel", "play", "write", "rest", "meet", "learn"), 3), collapse = " and "), "")
  rows <- function(names, asked) c(paste(c("id", names), collapse = ","), paste(c("Id", asked), collapse = ","), vapply(1:60, function(i) paste(c(sprintf("%03d", i), sample(labels, 20, TRUE)), collapse = ","), ""))
  order <- sample(20)
  project <- project_with(c("mavik: 1", "study: {title: T}", "waves: {a: {label: A}}", "exports:", "  a: {wave: a, file: raw/a.csv, key: id, cells: labels, heading: [names, questions]}",
    "code_lists:", "  often: {codes: {1: Never, 2: Rarely, 3: At times, 4: Often, 5: Always}}", "variables:", "  id: {is: key, label: Id}", sprintf("  v%d: {column: Q%d, label: V%d, level: ordinal, codes: often}", 1:20, 1:20, 1:20)),
    list(a.csv = paste(rows(paste0("Q", 1:20), paste0("How often do you ", what, "?")), collapse = "\n"), b.csv = paste(rows(paste0("item ", order), paste0("In general how frequently do you ", what[order], "?")), collapse = "\n")))
  found <- align_wave(project, "b", file.path(project, "raw/b.csv"))
  near <- found$columns[found$columns$match == "possible", ]
  same <- what[as.integer(sub("item ", "", near$column))] == what[as.integer(sub("v", "", near$variable))]
  expect_equal(sum(same), 20)
  accept_alignment(found, found$lines$line)
  expect_equal(nrow(align_wave(project, "b")$lines), 0)
})

test_that("boxes, grids and write-ins are aligned as whole questions", {
  project <- demo_project(tempfile())
  renamed <- c(Q15_1 = "Q40_1", Q15_2 = "Q40_2")
  file <- autumn_as(project, "boxes.csv", function(cells) {
    names(cells)[match(names(renamed), names(cells))] <- renamed
    names(cells)[match(c("Q15_3", "Q15_4"), names(cells))] <- c("Q77", "Q78")
    cells$Q77 <- cells$Q78 <- sprintf("note %03d", seq_len(nrow(cells)))
    cells$Q19_1 <- ifelse(seq_len(nrow(cells)) %% 4 == 0, paste0(cells$Q19_1, ", By ear"), cells$Q19_1)
    cells
  })
  text <- readLines(file, encoding = "UTF-8")
  text[2] <- sub("Setting out the chairs", "What else we should know", sub("Another task (please say which)", "Anything for the board", text[2], fixed = TRUE), fixed = TRUE)
  text[2] <- gsub("\"Which tasks do you have in the choir\\? - (What else[^\"]*|Anything[^\"]*)\"", "\"\\1\"", text[2])
  writeLines(text, file, useBytes = TRUE)
  found <- align_wave(project, "late", file)
  lines <- found$lines[found$lines$variable == "tasks", ]
  expect_match(lines$writes, "variables > tasks > by_wave > late: {split: {columns: {task_leads: Q40_1, task_money: Q40_2}}}", fixed = TRUE, all = FALSE)
  expect_match(lines$writes, "variables > tasks > by_wave > late: {split: {columns: {task_leads: Q40_1, task_money: Q40_2}, other: absent}}", fixed = TRUE, all = FALSE)
  expect_match(found$lines$writes, "variables > learns > split > options: {ear: {label: By ear, by_wave: {spring: absent}}}", fixed = TRUE, all = FALSE)
  accept_alignment(found, found$lines$line)
  study <- build_study(project)
  late <- study$records$wave == "late"
  expect_equal(unique(shown(study, "task_chairs")[late]), "(Not in this wave)")
  expect_equal(unique(shown(study, "task_text")[late]), "(Not in this wave)")
  raw <- as.data.frame(read_export(file.path(project, "raw/autumn.xlsx"), c("questions", "names"), skip = 2))
  expect_equal(study$data$task_leads[late], as.integer(raw$Q15_1 == "Checked"))
  expect_equal(sum(study$data$at_home_ear[late], na.rm = TRUE), nrow(raw) %/% 4)
  expect_equal(unique(shown(study, "at_home_ear")[!late]), "(Not in this wave)")
  expect_equal(nrow(align_wave(project, "late")$lines), 0)
})

test_that("the same responses again, as codes, become a parallel, and what the sheet cannot mean is said", {
  project <- demo_project(tempfile())
  worded <- autumn_as(project, "late.csv", identity)
  coded <- autumn_as(project, "late-codes.csv", function(cells) {
    cells$Q3 <- match(cells$Q3, c("Soprano", "Alto", "Tenor", "Bass"))
    cells$Q23 <- match(cells$Q23, c("Very dissatisfied", "Dissatisfied", "Neither", "Satisfied", "Fully satisfied"))
    for (name in c("Q1", "Q16")) cells[[name]] <- match(cells[[name]], c("Yes", "No"))
    cells$Kind <- 1
    cells
  })
  found <- align_wave(project, "late", c(worded, coded))
  expect_equal(found$records, 214L)
  expect_match(found$lines$writes[1], "late_1: \\{wave: late, file: raw/late.csv.*late_2: \\{adds_to: late_1, file: raw/late-codes.csv[^}]*cells: codes")
  accept_alignment(found, found$lines$line)
  study <- build_study(project)
  expect_equal(sum(study$records$wave == "late"), 214)
  expect_false("in_two_exports" %in% findings(study)$kind)
  project <- demo_project(tempfile())
  found <- aligned(project)
  sheet <- found$lines
  sheet$decision[sheet$variable == "belong"] <- "years"
  expect_match(message_of(aligned(project, decisions = sheet)), "is no single column of the new file")
  sheet$decision <- ""
  sheet$decision[sheet$match == "possible"] <- "nobody"
  expect_match(message_of(aligned(project, decisions = sheet)), "neither `accept` nor `reject` nor a variable")
  both <- demo_project(tempfile(), waves = 2)
  expect_match(message_of(wave_statistics(build_study(both), "best")), "neither codes nor numbers")
  expect_equal(command("answers", "remarks", "--waves", "--project", both)$status, 2)
  expect_equal(command("answers", "reasons", "--waves", "--project", both)$status, 0)
})

test_that("a second wave brings the variable that tells waves apart, and with its first line what is sure", {
  withr::local_seed(8)
  project <- tempfile()
  dir.create(file.path(project, "raw"), recursive = TRUE)
  wave <- function(name, ...) data.table::fwrite(data.frame(Mood = sample(c("Good", "Bad"), 60, TRUE), ...), file.path(project, "raw", name))
  wave("spring.csv", Member = sprintf("M%03d", 1:60))
  # No column names its respondents, and a question of its own is called so.
  wave("autumn.csv", Wave = sample(c("High", "Low", "Flat"), 60, TRUE))
  expect_equal(command("draft", file.path(project, "raw/spring.csv"), "--out", file.path(project, "study.yml"))$status, 0)
  align <- function(...) command("align", "autumn", file.path(project, "raw/autumn.csv"), "--project", project, ...)
  found <- align_wave(project, "autumn", file.path(project, "raw/autumn.csv"))
  first <- found$lines$line[found$lines$match == "export"]
  expect_match(found$lines$writes[first], "variables > wave: {is: wave, label: Wave}", fixed = TRUE)
  expect_false(found$lines$sure[first])
  expect_equal(align("--accept", "sure")$status, 2)
  expect_match(align("--dry-run")$out, paste0("`--accept ", first, ",sure` writes these and line ", first), all = FALSE)
  expect_equal(align("--accept", paste0(first, ",sure"))$status, 0)
  expect_equal(align("--accept", "all")$status, 0)
  study <- build_study(project)
  expect_equal(c(table(study$data$wave)), c(60L, 60L), ignore_attr = TRUE)
  expect_setequal(setdiff(names(study$data), c("member", "wave", "mood")), "wave_x")
  # Whoever has such a variable, or has done without in several waves, is left alone.
  expect_false(any(grepl("is: wave", align_wave(demo_project(tempfile()), "autumn", file.path(demo_project(tempfile()), "raw/autumn.xlsx"))$lines$writes)))
})

test_that("decisions that lack a column are refused, not passed over", {
  project <- demo_project(tempfile())
  wanted <- function(decisions) message_of(align_wave(project, "autumn", file.path(project, "raw/autumn.xlsx"), decisions = decisions))
  expect_match(wanted(data.frame(line = 1, decision = "best")), "it lacks `match`, `column`, `wording`, `variable` and `writes`")
  expect_match(wanted("accept"), "this is none")
})
