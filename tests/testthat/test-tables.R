# Declared tables: every number against base R, sums that hold, and the doors.

counted_project <- function(n = 240, seed = 7, extra = character(), tables) withr::with_seed(seed, {
  answers <- data.frame(
    id = seq_len(n), mood = sample(c("Bad", "So-so", "Good", "", "DK"), n, TRUE, c(3, 4, 5, 1, 1)),
    area = sample(c("North", "South", "East", ""), n, TRUE, c(4, 4, 3, 1)), sex = sample(c("W", "M"), n, TRUE),
    years = ifelse(stats::runif(n) < 0.1, "", as.character(sample(0:30, n, TRUE))), hours = ifelse(stats::runif(n) < 0.1, "", as.character(round(stats::runif(n, 0, 9), 1))),
    w = as.character(round(stats::rexp(n), 3)), tick = vapply(seq_len(n), function(i) paste(sample(c("Tea", "Cake"), sample(0:2, 1)), collapse = ";"), ""),
    day = as.character(as.Date("2026-01-01") + sample(0:3, n, TRUE))
  )
  answers$w[c(3, 9)] <- ""
  answers$area[5] <- "West"
  answers$area[answers$area == "West" & seq_len(n) != 5] <- "North"
  project <- project_with(c(
    "mavik: 1", "study: {title: Counted}", "waves: {one: {label: One}}", "missing: {dont_know: {code: -1, label: Don't know, written: [DK]}}",
    "exports: {a: {wave: one, file: raw/a.csv, key: id, cells: labels}}", "variables:", "  id: {is: key, label: Id}",
    "  mood: {column: mood, label: Mood, level: ordinal, codes: {1: Bad, 2: So-so, 3: Good}}",
    "  area: {column: area, label: Area, level: nominal, codes: {1: North, 2: South, 3: East, 4: West, 5: Nowhere}}",
    "  sex: {column: sex, label: Sex, level: nominal, codes: {1: W, 2: M}}",
    "  years: {column: years, label: Years, level: ratio, range: [0, 99]}", "  hours: {column: hours, label: Hours, level: ratio, range: [0, 24]}",
    "  w: {column: w, label: Weight, level: ratio, range: [0, up]}", "  day: {column: day, label: Day, level: date}",
    "  tick:", "    label: Ticks", "    split: {column: tick, separator: ';', options: {tick_tea: Tea, tick_cake: Cake}}",
    "  note: {column: tick, label: Note, level: text}", extra, tables
  ))
  utils::write.csv(answers, file.path(project, "raw/a.csv"), row.names = FALSE, quote = FALSE)
  project
})

of_cells <- function(cells, row, statistic, code = NULL, column = NULL) {
  at <- cells$row_variable == row & cells$statistic == statistic
  if (!is.null(code)) at <- at & cells$row_code %in% code
  if (!is.null(column)) at <- at & cells$column_variable %in% column
  cells$value[at]
}

all_kinds <- c(
  "tables:", "  plain: {of: [mood, tick, years], by: [area, sex], show: [count, row_percent, column_percent, mean, sd, median, quartiles, min, max]}",
  "  weighted: {of: [mood, hours], by: [area, sex], weight: w, show: [column_percent, mean, sd, median]}",
  "  nets: {of: mood, nets: {Not good: [1, So-so], Top: [3]}, order: share}",
  "  nested: {of: [mood, years], by: [sex, area], nested: yes}", "  over: {of: [mood, hours], over: day, by: sex}",
  "  some: {of: mood, by: sex, where: 'years > 15', show: [column_percent, differences]}"
)

test_that("each number of a table is what base R makes of the data", {
  project <- counted_project(tables = all_kinds)
  study <- build_study(project)
  data <- study_table(study, "labels")
  cells <- declared_tables(study)
  area <- factor(data$area, c("North", "South", "East", "West", "Nowhere"))
  counts <- table(data$mood, area)
  expect_equal(of_cells(cells$plain, "mood", "count", c("1", "2", "3"), "area"), as.vector(t(counts)))
  expect_equal(of_cells(cells$plain, "mood", "count", c("1", "2", "3"), ""), as.vector(table(data$mood)))
  expect_equal(of_cells(cells$plain, "mood", "column_percent", c("1", "2", "3"), "area"), as.vector(t(100 * prop.table(counts, 2))), ignore_attr = TRUE)
  expect_equal(of_cells(cells$plain, "mood", "row_percent", c("1", "2", "3"), "area"), as.vector(t(100 * prop.table(counts, 1))))
  by_area <- split(data$years, area)
  for (one in list(c("mean", "mean"), c("sd", "sd"), c("min", "min"), c("max", "max"))) {
    of <- suppressWarnings(vapply(by_area, function(x) as.numeric(do.call(one[2], list(x, na.rm = TRUE))), 0))
    of[!is.finite(of)] <- NA
    expect_equal(of_cells(cells$plain, "years", one[1], column = "area"), unname(of), info = one[1])
  }
  for (one in list(c("lower_quartile", 0.25), c("median", 0.5), c("upper_quartile", 0.75))) expect_equal(
    of_cells(cells$plain, "years", one[1], column = "area"), unname(vapply(by_area, stats::quantile, 0, probs = as.numeric(one[2]), na.rm = TRUE)), info = one[1], ignore_attr = TRUE)
  mean_row <- cells$plain[cells$plain$row_variable == "years" & cells$plain$statistic == "mean" & cells$plain$column_variable == "", ]
  expect_equal(c(mean_row$low, mean_row$high), as.numeric(stats::t.test(data$years)$conf.int))
  share_row <- cells$plain[cells$plain$row_variable == "mood" & cells$plain$statistic == "column_percent" & cells$plain$row_code == "3" & cells$plain$column_variable == "", ]
  wilson <- stats::prop.test(sum(data$mood == "Good", na.rm = TRUE), sum(!is.na(data$mood)), correct = FALSE)$conf.int
  expect_equal(c(share_row$low, share_row$high), as.numeric(100 * wilson))
  ticked <- data$tick_tea == "Yes" | data$tick_tea == 1
  expect_equal(of_cells(cells$plain, "tick", "column_percent", "tick_tea", "sex"), as.numeric(100 * tapply(ticked, factor(data$sex, c("W", "M")), mean, na.rm = TRUE)))
  # Weighted: shares, means, medians.
  has <- !is.na(data$w)
  w <- data$w[has]
  mood <- data$mood[has]
  sums <- tapply(w[!is.na(mood)], mood[!is.na(mood)], sum)
  expect_equal(of_cells(cells$weighted, "mood", "column_percent", c("1", "2", "3"), ""), as.numeric(100 * sums / sum(sums)))
  hours <- data$hours[has]
  expect_equal(of_cells(cells$weighted, "hours", "mean", column = ""), stats::weighted.mean(hours[!is.na(hours)], w[!is.na(hours)]))
  expect_equal(of_cells(cells$weighted, "hours", "effective_base", column = ""), sum(w[!is.na(hours)])^2 / sum(w[!is.na(hours)]^2))
  expect_equal(of_cells(cells$weighted, "hours", "respondents", column = ""), sum(has))
  sorted <- order(hours)
  total <- cumsum(w[sorted][!is.na(hours[sorted])])
  expect_equal(of_cells(cells$weighted, "hours", "median", column = ""), hours[sorted][which(total >= max(total) / 2)[1]])
  # Nets are the sums of their parts; the order is that of the shares.
  nets <- cells$nets
  expect_equal(of_cells(nets, "mood", "count", "1,2"), sum(of_cells(nets, "mood", "count", c("1", "2"))))
  expect_equal(nets$row_label[nets$statistic == "count"], c(names(sort(-table(data$mood))), "Not good", "Top"))
  # Within each other, and over days.
  both <- table(data$mood, interaction(area, factor(data$sex, c("W", "M"))))
  expect_equal(of_cells(cells$nested, "mood", "count", c("1", "2", "3"), "sex / area"), as.vector(t(both)))
  days <- tapply(data$hours, list(factor(data$sex, c("W", "M")), data$day), mean, na.rm = TRUE)
  expect_equal(of_cells(cells$over, "hours", "mean", column = "sex / day"), as.vector(t(days)))
})

test_that("base and gaps add up to all respondents, in every table and column", {
  for (seed in 1:6) {
    project <- counted_project(n = 60, seed = seed, tables = all_kinds)
    study <- build_study(project)
    for (cells in declared_tables(study)) for (own in split(cells, cells$row_variable)) {
      base <- of_cells(own, own$row_variable[1], "base")
      gap <- own[own$statistic == "gap", ]
      gaps <- if (nrow(gap) == 0) 0 else colSums(matrix(gap$value, ncol = length(base), byrow = TRUE))
      expect_equal(base + gaps, of_cells(own, own$row_variable[1], "respondents"))
    }
    tables <- core$tabulate_declared(study)
    for (table in tables) for (at in seq_along(table$groups)[-1]) if (is.null(table$declared$over) && !table$declared$nested) expect_equal(
      sum(table$columns$n[table$columns$group == at]) + sum(table$groups[[at]]$left$count), table$n)
  }
})

test_that("tests are those of base R, and where there is none it says why", {
  project <- counted_project(tables = c(all_kinds, "  alone: {of: years, by: area}", "  two: {of: years, by: sex, where: 'area != \"West\"'}", "  one: {of: mood, by: sex, where: 'sex == \"W\"'}"))
  study <- build_study(project)
  data <- study_table(study, "labels")
  tables <- core$tabulate_declared(study)
  test <- tables$plain$sections[[1]]$tests[[1]]
  known <- suppressWarnings(stats::chisq.test(table(data$mood, as.character(data$area)), correct = FALSE))
  expect_equal(test[c("statistic", "p", "smallest")], list(statistic = unname(known$statistic), p = known$p.value, smallest = min(known$expected)))
  expect_match(tables$alone$sections[[1]]$tests[[1]]$none, "one respondent only in West")
  expect_match(tables$one$sections[[1]]$tests[[1]]$none, "only one group")
  some <- data[data$area %in% c("North", "South", "East"), ]
  two <- tables$two$sections[[1]]$tests[[1]]
  known <- stats::t.test(years ~ factor(sex, c("W", "M")), some)
  expect_equal(two[c("statistic", "df", "p")], list(statistic = unname(known$statistic), df = unname(known$parameter), p = known$p.value))
  groups <- split(some$years, as.character(some$area))
  groups <- lapply(groups, function(x) x[!is.na(x)])
  known <- stats::oneway.test(values ~ ind, utils::stack(groups))
  mine <- core$welch_of(vapply(groups, mean, 0), vapply(groups, stats::var, 0), lengths(groups))
  expect_equal(c(mine$statistic, mine$df, mine$p), unname(c(known$statistic, known$parameter, known$p.value)))
  # Equal weights change nothing; unequal ones shrink the base.
  plain <- core$pearson_test(matrix(c(10, 20, 30, 15), 2), 75, FALSE)
  expect_equal(core$pearson_test(matrix(c(10, 20, 30, 15), 2), 75, TRUE)$statistic, plain$statistic)
  weighted <- tables$weighted$sections[[1]]$tests[[2]]
  expect_lt(weighted$effective, weighted$n)
  # Letters: the same pairs as the plain test of two proportions with Holm.
  sections <- core$tabulate_declared(study, "some")$some$sections[[1]]
  at <- which(sections$lines$statistic == "column_percent" & sections$lines$code == "1")
  of <- data[!is.na(data$years) & data$years > 15 & !is.na(data$mood), ]
  p <- suppressWarnings(stats::prop.test(tapply(of$mood == "Bad", factor(of$sex, c("W", "M")), sum), table(factor(of$sex, c("W", "M"))), correct = FALSE)$p.value)
  expect_equal(any(nzchar(sections$letters[at, ])), p < 0.05)
  far <- core$letters_of_row(c(50, 10, 90), list(list(codes = "a"), list(codes = c("x", "y"))), function(a, b) 0.001)
  expect_equal(far, c("", "", "A"))
})

test_that("kernels of groups equal their plain forms", {
  withr::local_seed(2)
  for (n in c(0, 1, 50, 3000)) {
    value <- ifelse(stats::runif(n) < 0.2, NA, stats::rnorm(n, 1e6))
    group <- ifelse(stats::runif(n) < 0.2, NA, sample.int(4, n, TRUE))
    w <- stats::rexp(n)
    mine <- core$group_moments(value, as.integer(group), 5L, w)
    other <- ifelse(stats::runif(n) < 0.2, NA, sample.int(3, n, TRUE))
    expect_equal(core$pair_counts(as.integer(other), as.integer(group), 3L, 5L), unclass(table(factor(other, 1:3), factor(group, 1:5))), ignore_attr = TRUE)
    expect_equal(core$pair_weights(as.integer(other), as.integer(group), w, 3L, 5L), matrix(vapply(1:15, function(cell) sum(w[which(other + 3 * (group - 1) == cell)]), 0), 3))
    sums <- core$group_weights(as.integer(group), w, 5L)
    for (g in 1:5) {
      at <- which(group == g & !is.na(value))
      expect_equal(mine[g, 1:3], c(length(at), sum(w[at]), sum(w[at]^2)))
      if (length(at) > 0) {
        m <- stats::weighted.mean(value[at], w[at])
        expect_equal(mine[g, 4:7], c(m, sum(w[at] * (value[at] - m)^2), range(value[at])))
      } else expect_true(all(is.na(mine[g, 4:7])))
      expect_equal(sums[g], sum(w[which(group == g)]))
    }
    expect_equal(core$group_moments(value, as.integer(group), 5L, rep(1, n)), core$group_moments(value, as.integer(group), 5L, numeric()))
  }
})

test_that("what a table cannot be is told with its place, all at once", {
  many <- paste0("  many: {column: sex, label: Many, level: nominal, codes: {", paste0(1:60, ": m", 1:60, collapse = ", "), "}}")
  cases <- list(
    "{of: moods}" = "of: `moods` is not a variable.*mood", "{of: note}" = "of: `note` is text", "{of: mood, by: note}" = "by: `note` has no codes",
    "{of: mood, by: many}" = "by: `many` has 60 codes", "{of: mood, over: area}" = "over: `area` is nominal", "{of: mood, by: sex, nested: yes}" = "nested: needs two groups",
    "{of: mood, nets: {Best: [9]}}" = "nets > Best: `9` is not a code of mood", "{of: mood, weight: sex}" = "weight: `sex` is no number", "{of: mood, where: 'year > 3'}" = "where: .*`year`",
    "{of: mood, show: [counts]}" = "show: `counts` is not one of.*count", "{by: sex}" = "`of` is missing", "{of: mood, figures: bars}" = "figures: .*did you mean `figure`"
  )
  project <- counted_project(n = 20, extra = many, tables = c("tables:", paste0("  t", seq_along(cases), ": ", names(cases))))
  told <- message_of(read_codebook(project) |> build_study())
  for (at in seq_along(cases)) expect_match(told, paste0("tables > t", at, "[^\n]*", cases[[at]]), info = names(cases)[at])
  # Of nobody: a finding at a build, an error by hand.
  project <- counted_project(n = 20, tables = c("tables:", "  none: {of: mood, where: 'years > 98'}", "  all: {of: mood, by: area}"))
  found <- findings(build_study(project))
  expect_equal(found$path[found$kind == "table_empty"], "tables > none > where")
  expect_match(paste(command("answers", "mood", "--by", "sex,area", "--where", "years > 98", "--project", project)$err, collapse = " "), "of nobody")
  cells <- declared_tables(build_study(project), "all")$all
  expect_equal(of_cells(cells, "mood", "base", column = "area")[5], 0)
  expect_match(message_of(declared_tables(build_study(project), "alle")), "did you mean `all`")
})

test_that("a build writes the page and the workbook; --tables makes the same bytes anew, or says what has changed", {
  project <- demo_project(tempfile())
  expect_equal(command("build", project)$status, 0)
  out <- file.path(project, "out")
  expect_true(all(c("tables.html", "tables.xlsx") %in% list.files(out)))
  cells <- declared_tables(build_study(project))
  expect_length(cells, 6)
  sheets <- openxlsx::getSheetNames(file.path(out, "tables.xlsx"))
  expect_equal(sheets, c("index", names(cells)))
  for (name in names(cells)) {
    sheet <- openxlsx::read.xlsx(file.path(out, "tables.xlsx"), name, colNames = FALSE, skipEmptyRows = FALSE)
    numbers <- suppressWarnings(as.numeric(unlist(sheet[, -(1:2)])))
    wanted <- cells[[name]]$value
    expect_true(all(vapply(wanted[!is.na(wanted)], function(x) any(abs(numbers - x) < 1e-9, na.rm = TRUE), TRUE)), info = name)
  }
  page <- paste(readLines(file.path(out, "tables.html")), collapse = "\n")
  for (table in core$tabulate_declared(build_study(project))) expect_true(grepl(paste0("<h2>", table$title, "</h2>"), page, fixed = TRUE))
  codebook <- file.path(project, "choirs.yml")
  text <- readLines(codebook)
  writeLines(sub("title: Who sings what", "title: Who sings which part", text), codebook)
  again <- command("build", project, "--tables")
  expect_equal(again$status, 0, info = paste(again$err, collapse = " "))
  digests <- function() vapply(list.files(out, full.names = TRUE), core$file_digest, "")
  mine <- digests()
  Sys.sleep(1.1)
  forget()
  expect_equal(command("build", project)$status, 0)
  expect_equal(digests(), mine)
  # A new record moves the tables.
  raw <- file.path(project, "raw/spring.csv")
  lines <- readLines(raw)
  study <- build_study(project)
  rows <- core$rows_retained(study)
  full <- Reduce(`&`, lapply(c("practice_total", "belonging", "years", "belong1", "satisfied"), function(name) !is.na(study$data[[name]][rows])))
  one <- rows[full & study$data$member[rows] %in% 1L][1]
  again <- sub(study$records$key[one], "9999", lines[study$records$line[one]], fixed = TRUE)
  writeLines(c(lines, sub("^[^,]*", "99999", again)), raw)
  expect_match(paste(command("build", project, "--tables")$err, collapse = " "), "spring.csv: has changed since the build")
  more <- declared_tables(build_study(project))
  for (name in names(cells)) expect_false(identical(more[[name]]$value, cells[[name]]$value), info = name)
  writeLines(lines, raw)
  writeLines(sub("unit: years", "unit: yrs", text), codebook)
  expect_match(paste(command("build", project, "--tables")$err, collapse = " "), "variables > years > unit")
  expect_equal(digests(), mine)
})

test_that("answers takes several groups, nets and statistics by hand, and wide tables wrap", {
  project <- counted_project(extra = paste0("  wide: {column: years, label: Wide, level: nominal, cells: codes, codes: {", paste0(0:26, ": A long label ", 0:26, collapse = ", "), "}}"),
    tables = c("tables:", "  mood: {of: mood, by: sex}"))
  study <- build_study(project)
  by_hand <- answers(study, "mood", by = c("sex", "area"), show = c("count", "mean"), nets = list(Low = c("1", "2")))
  expect_equal(by_hand$tables[[1]]$kind, "table")
  expect_equal(sum(of_cells(by_hand$tables[[1]]$cells, "mood", "count", c("1", "2"), "sex")), sum(of_cells(by_hand$tables[[1]]$cells, "mood", "count", "1,2", "sex")))
  shown <- command("answers", "wide", "--by", "area", "--project", project)$out
  expect_lte(max(nchar(shown)), 110)
  expect_gt(sum(grepl("^ +North ", shown)), 2)
  told <- jsonlite::fromJSON(paste(command("answers", "--table", "mood", "--project", project, "--json")$out, collapse = ""))
  expect_equal(told$tables$cells[[1]]$value, declared_tables(study)$mood$value)
  # Whoever is not in a group stands apart: all add up.
  one <- answers(study, "mood", by = "area")$tables[[1]]
  expect_equal(utils::tail(one$groups$n, 1) + sum(utils::tail(one$groups$gaps$counts, 1)) + one$ungrouped, one$n)
  # Answers that differ in case, spaces and marks are one.
  texts <- core$text_statistics(c("Tea!", "tea", "tea", "T e a", "Cake"), list(storage = "text"))
  expect_equal(texts[c("text", "count", "forms")], data.frame(text = c("tea", "Cake"), count = c(4L, 1L), forms = c(3L, 1L)))
  figure <- file.path(project, "f.png")
  expect_equal(command("answers", "mood", "--by", "sex,area", "--project", project, "--figure", figure)$status, 0)
  expect_gt(file.size(figure), 5000)
})

test_that("an option's percent is of those who were offered it, and says so; options go by their shares too", {
  project <- demo_project(tempfile(), waves = 2)
  text <- readLines(file.path(project, "choirs.yml"))
  writeLines(sub("by: [member, years_band], show: [count, column_percent]", "by: wave, show: [count, column_percent], order: share", text, fixed = TRUE), file.path(project, "choirs.yml"))
  study <- build_study(project)
  cells <- declared_tables(study, "voices")$voices
  own <- cells[cells$row_code == "reason_concerts" & cells$column_variable == "", ]
  asked <- sum(!is.na(study$data$reason_concerts[core$rows_retained(study)]))
  expect_equal(own$base, c(asked, asked))
  expect_equal(own$value[own$statistic == "column_percent"], 100 * own$value[own$statistic == "count"] / asked)
  expect_lt(asked, max(cells$base[cells$row_variable == "reasons"]))
  shares <- cells$value[cells$row_variable == "reasons" & cells$statistic == "column_percent" & cells$column_variable == ""]
  expect_false(is.unsorted(-shares))
  shown <- command("answers", "--table", "voices", "--project", project)$out
  expect_match(shown, paste0("percents of \u201cFor the concerts\u201d are of ", asked), all = FALSE)
  expect_match(command("answers", "reasons", "--project", project)$out, paste0("are of ", asked, " respondents"), all = FALSE)
})

test_that("nothing private and no date gets into a table, by no door", {
  project <- demo_project(tempfile())
  path <- file.path(project, "choirs.yml")
  text <- readLines(path)
  text <- text[seq_len(which(text == "releases:") - 1)]
  private <- sub("singer: {is: key, label: Member number}", "singer: {is: key, label: Member number, private: yes}", text, fixed = TRUE)
  cases <- list("{of: email}" = "of: `email` is private", "{of: voice, where: 'email == \"x\"'}" = "where: .*`email`, which is private", "{of: voice, by: email}" = "by: `email` is private", "{of: debut}" = "of: `debut` is a date")
  for (case in names(cases)) {
    writeLines(c(text, paste0("  odd: ", case)), path)
    expect_match(message_of(build_study(project)), paste0("tables > odd > ", cases[[case]]), info = case)
  }
  # Where the key is private nothing is chosen by it either.
  writeLines(c(private, "  odd: {of: voice, where: 'singer == \"0991\"'}"), path)
  expect_match(message_of(build_study(project)), "tables > odd > where: .*`singer`, which is private")
})

test_that("--tables keeps the language of the build, and sees a file that has come", {
  project <- demo_project(tempfile())
  out <- file.path(project, "out")
  digests <- function() vapply(list.files(out, full.names = TRUE), core$file_digest, "")
  expect_equal(command("build", project, "--language", "fr")$status, 0)
  whole <- digests()
  expect_equal(command("build", project, "--tables")$status, 0)
  expect_equal(digests(), whole)
  labels <- unlist(openxlsx::read.xlsx(file.path(out, "tables.xlsx"), "voices", colNames = FALSE)[[1]])
  expect_true("Pupitre" %in% labels)
  pattern <- counted_project(n = 40, tables = c("tables:", "  mood: {of: mood}"))
  codebook <- file.path(pattern, "study.yml")
  writeLines(sub("raw/a.csv", "raw/*.csv", readLines(codebook), fixed = TRUE), codebook)
  expect_equal(command("build", pattern)$status, 0)
  more <- readLines(file.path(pattern, "raw/a.csv"))
  writeLines(c(more[1], sub("^1,", "901,", more[2])), file.path(pattern, "raw/b.csv"))
  expect_match(paste(command("build", pattern, "--tables")$err, collapse = " "), "raw/b.csv`: not there when the outputs were built")
})

test_that("lines over the waves take the weight", {
  project <- demo_project(tempfile(), waves = 2)
  study <- build_study(project)
  found <- wave_statistics(study, c("belonging", "voice"), weight = "years")
  rows <- core$rows_retained(study)
  for (wave in c("spring", "autumn")) {
    at <- rows[study$records$wave[rows] == wave & !is.na(study$data$years[rows])]
    x <- study$data$belonging[at]
    w <- as.double(study$data$years[at])
    own <- found[found$wave == wave & found$variable == "belonging", ]
    expect_equal(own$value[own$statistic == "mean"], stats::weighted.mean(x, w, na.rm = TRUE))
    expect_equal(own$value[own$statistic == "effective_base"], sum(w[!is.na(x)])^2 / sum(w[!is.na(x)]^2))
    voice <- study$data$voice[at]
    sums <- tapply(w[!is.na(voice)], voice[!is.na(voice)], sum)
    expect_equal(found$value[found$wave == wave & found$variable == "voice" & found$statistic == "share"], as.numeric(100 * sums / sum(sums)))
  }
  text <- readLines(file.path(project, "choirs.yml"))
  writeLines(sub("  row: one singer in one wave", "  row: one singer in one wave\n  weight: years", text), file.path(project, "choirs.yml"))
  expect_match(command("answers", "belonging", "--waves", "--project", project)$out, "weighted by years", all = FALSE)
})

test_that("figures say what the numbers beside them say, on pages, as files and on a device", {
  study <- build_study(demo_project(tempfile(), waves = 2))
  tables <- core$tabulate_declared(study)
  figures <- lapply(tables, core$table_figures)
  expect_true(all(lengths(figures) > 0))
  for (name in names(figures)) for (svg in figures[[name]]) {
    expect_silent(xml2::read_xml(core$svg_inside(svg)))
    expect_match(svg, "<figcaption>.*Base [0-9]", info = name)
  }
  # A bar for each answer, as long as its share.
  bars <- answers(study, "voice", by = c("member", "region"), draw = "bars", show = "column_percent")
  svg <- xml2::read_xml(core$svg_inside(core$table_figures(attr(bars$tables[[1]], "tabulated"))))
  rects <- xml2::xml_find_all(svg, "//*[local-name()='rect' and @stroke]")
  widths <- as.numeric(xml2::xml_attr(rects, "width"))
  shares <- of_cells(bars$tables[[1]]$cells, "voice", "column_percent", column = "member")
  expect_gt(stats::cor(widths, as.vector(matrix(shares, 4, byrow = TRUE))), 0.999)
  boxes <- answers(study, "years", by = "member", draw = "boxes")
  spread <- attr(boxes$tables[[1]], "tabulated")$sections[[1]]$spread$boxes
  retained <- study$data$years[core$rows_retained(study)]
  expect_equal(unname(spread[1, ]), grDevices::boxplot.stats(retained)$stats[c(2, 3, 4, 1, 5)], tolerance = 0.1)
  for (draw in c("bars", "stacked", "boxes", "histogram", "means", "lines")) {
    file <- tempfile(fileext = ".png")
    by <- if (draw == "lines") list(over = "wave") else list()
    found <- do.call(answers, c(list(study, if (draw %in% c("bars", "stacked")) "voice" else "years", by = c("member"), draw = draw), by))
    core$save_answers_figure(found, file)
    expect_gt(file.size(file), 4000)
    core$save_answers_figure(found, sub("png$", "svg", file))
    expect_match(paste(readLines(sub("png$", "svg", file)), collapse = ""), "made by Mavik")
  }
})
