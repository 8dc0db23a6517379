# A panel of made-up people: everything that could give one of them away is unlike anything else.

people_project <- function(releases, n = 240, more = character()) {
  set.seed(5)
  person <- sprintf("KEY-%05d", sample(99999, n))
  wave <- function(name, rows) {
    born <- as.Date("1950-01-03") + sample(18000, n)
    frame <- data.frame(
      Key = person[rows], No = sprintf("resp-%s-%04d", name, rows), Region = c("Upper", "Lower", "Middle")[1 + rows %% 3], Voice = c("Soprano", "Alto", "Tenor", "Bass")[1 + (rows * 7) %% 4],
      Years = (rows * 13) %% 61, Born = born[rows], First = born[rows] + 25000 + rows, Sent = sprintf("%s-%02dT10:%02d:%02d", if (name == "a") "2026-03" else "2026-10", 1 + rows %% 28, rows %% 60, rows %% 47),
      Minutes = rows * 17, Words = sprintf("free words of number %d, told once", rows), Mail = sprintf("person%d@mail.example", rows)
    )
    con <- textConnection("text", "w", local = TRUE)
    utils::write.csv(frame, con, row.names = FALSE)
    close(con)
    paste0(paste(text, collapse = "\n"), "\n")
  }
  codebook <- c(
    "mavik: 1", "study: {title: People, id: people, design: panel}", "waves: {a: {label: First}, b: {label: Second}}",
    "exports:", "  a: {wave: a, file: raw/a.csv, key: Key, response: No, cells: labels}", "  b: {wave: b, file: raw/b.csv, key: Key, response: No, cells: labels}",
    "variables:", "  person: {is: key, label: Person}", "  wave: {is: wave, label: Wave}",
    "  region: {column: Region, label: Region, level: nominal, codes: {1: Upper, 2: Lower, 3: Middle}}", "  voice: {column: Voice, label: Voice, level: nominal, codes: {1: Soprano, 2: Alto, 3: Tenor, 4: Bass}}",
    "  years: {column: Years, label: Years, level: ratio, range: [0, 80]}", "  born: {column: Born, label: Born, level: date}", "  first: {column: First, label: First, level: date}",
    "  sent: {column: Sent, label: Sent, level: datetime}", "  minutes: {column: Minutes, label: Minutes, level: ratio, range: [0, up]}", "  words: {column: Words, label: Words, level: text}",
    "  mail: {column: Mail, label: Mail, level: text, private: yes}",
    "  years_band: {label: Band, bands: {of: years, starts: {1: 0, 2: 10, 3: 30}}, codes: {1: Few, 2: Some, 3: Many}}",
    "  decade: {label: Decade, bands: {of: years, starts: {1: 0, 2: 10, 3: 20, 4: 30, 5: 40}}, codes: {1: a, 2: b, 3: c, 4: d, 5: e}}",
    "  low: {label: Low, recode: {of: voice, to: {1: [Tenor, Bass], 0: [Soprano, Alto]}}, codes: {0: no, 1: yes}}",
    "  total: {label: Total, formula: 'minutes + years'}", "  any: {label: Any, when: [{if: 'minutes > 0', is: 1}, {else: 0}], codes: {0: no, 1: yes}}",
    "  before: {label: Years then, lookup: {wave: a, variable: years}}", more, "releases:", paste0("  ", releases)
  )
  project_with(codebook, list(a.csv = wave("a", seq_len(n)), b.csv = wave("b", seq(2, n, 2))))
}

hidden <- "pseudonyms: [person], coarsen: {born: year, sent: month, years: {starts: {1: 0, 2: 10, 3: 30}}}, shift_dates: [first], limits: {minutes: [down, 3000]}, without: [total, before, decade]"

test_that("a search of every file finds no key, number, mail, date, text or secret", {
  formats <- paste(names(core$formats())[!names(core$formats()) %in% c("selections", "postgresql")], collapse = ", ")
  project <- people_project(sprintf("public: {formats: [%s], scripts: [R, Python], disclosure: {%s, order: shuffled}}", formats, hidden))
  secret <- new_secret(tempfile("secret"))
  expect_equal(as.character(file.info(secret)$mode), "600")
  study <- build_study(project)
  release <- release_study(study, "public", secret = secret)
  expect_setequal(list.files(release$folder), release$files$file)
  open <- tempfile()
  dir.create(open)
  file.copy(list.files(release$folder, full.names = TRUE), open)
  for (archive in list.files(open, "[.](xlsx|docx)$", full.names = TRUE)) utils::unzip(archive, exdir = paste0(archive, ".open"))
  read <- readRDS(file.path(open, "analysis.rds"))
  saveRDS(read, file.path(open, "plain.rds"), compress = FALSE)
  nanoparquet::write_parquet(as.data.frame(nanoparquet::read_parquet(file.path(open, "analysis.parquet"))), file.path(open, "plain.parquet"), compression = "uncompressed")
  files <- list.files(open, recursive = TRUE, full.names = TRUE)
  bytes <- lapply(files, bytes_of)
  holds <- function(text) basename(files[vapply(bytes, function(one) length(grepRaw(text, one, fixed = TRUE)) > 0, TRUE)])
  raw <- plain_csv(file.path(project, "raw/a.csv"))
  at <- c(1:12, 239:240)
  for (text in c(raw$Key[at], raw$No[at], raw$Mail[at], raw$Words[at], raw$Born[at], raw$Sent[at], readLines(secret), normalizePath(project))) expect_equal(holds(text), character(), info = text)
  # The search finds what is there: pseudonyms and months.
  data <- plain_csv(file.path(release$folder, "analysis.csv"))
  expect_gt(length(holds(data$person[1])), 5)
  expect_gt(length(holds("2026-03")), 5)
  expect_true(all(data$person == plain_csv(file.path(release$folder, "gaps.csv"))$respondent))
  expect_equal(sort(unique(nchar(data$person))), 20)
  expect_true(all(as.numeric(data$minutes) <= 3000))
  expect_setequal(data$years, c("1", "2", "3"))
  expect_match(paste(readLines(file.path(release$folder, "methods.txt")), collapse = " "), "person (pseudonyms from a secret)", fixed = TRUE)
  changes <- plain_csv(file.path(release$folder, "changes.csv"))
  expect_equal(changes$variable, c("person", "born", "sent", "years", "first", "minutes"))
  expect_equal(as.integer(changes$cells[6]), sum(study$data$minutes > 3000))
  # Old and new stand side by side by nothing but the secret: order and rows differ, values do not.
  expect_false(identical(data$region, as.character(study$data$region)))
  expect_equal(sort(data$region), sort(as.character(study$data$region)))
})

test_that("pseudonyms and intervals hold over waves and releases, and another secret gives others", {
  project <- people_project(c(
    "one: {formats: [csv], disclosure: {pseudonyms: [person], shift_dates: [born, first]}}", "two: {formats: [csv], waves: [b], variables: [person, wave, born, voice], disclosure: {pseudonyms: [person], shift_dates: [born]}}",
    "mixed: {formats: [csv], variables: [person, wave, voice], disclosure: {pseudonyms: [person], order: shuffled}}"
  ))
  study <- build_study(project)
  secret <- new_secret(tempfile())
  read <- function(name, secret) plain_csv(file.path(release_study(study, name, tempfile(), secret = secret)$folder, "analysis.csv"))
  one <- read("one", secret)
  expect_equal(vapply(split(one$person, study$records$key), function(x) length(unique(x)), 0L, USE.NAMES = FALSE), rep(1L, 240))
  expect_length(unique(one$person), 240)
  two <- read("two", secret)
  expect_equal(two[c("person", "born")], one[one$wave == "b", c("person", "born")], ignore_attr = TRUE)
  old <- study_table(study)
  expect_equal(as.integer(as.Date(one$first) - as.Date(one$born)), as.integer(old$first - old$born))
  moved <- as.integer(as.Date(one$born) - old$born)
  expect_true(all(moved != 0 & abs(moved) <= 182))
  expect_gt(length(unique(moved)), 100)
  expect_true(all(tapply(moved, study$records$key, function(x) length(unique(x))) == 1))
  other <- read("one", new_secret(tempfile()))
  expect_length(intersect(other$person, one$person), 0)
  mixed <- read("mixed", secret)
  plain <- one[c("person", "wave", "voice")]
  sorted <- function(x) `rownames<-`(x[do.call(order, unname(x)), ], NULL)
  expect_false(identical(mixed$person, plain$person))
  expect_equal(sorted(mixed), sorted(plain))
  expect_equal(read("mixed", secret), mixed)
})

test_that("no combination is rarer than said, counted by other means", {
  cell <- function(rest) sprintf("smallest_cell: {of: [region, voice, years], at_least: 6%s}", rest)
  bands <- "coarsen: {years: {starts: {1: 0, 2: 10, 3: 55}}}, without: [total, before, decade, years_band]"
  project <- people_project(c(
    sprintf("drop: {formats: [csv], disclosure: {%s, %s}}", bands, cell(", rare: drop")), sprintf("stop: {formats: [csv], disclosure: {%s, %s}}", bands, cell("")),
    sprintf("blank: {formats: [csv], disclosure: {%s, %s}}", sub("without: [", "without: [low, ", bands, fixed = TRUE), cell(", rare: blank, blank: [voice, years]")), sprintf("tells: {formats: [csv], disclosure: {%s, %s}}", bands, cell(", rare: blank, blank: [voice, years]")), sprintf("taken: {formats: [csv], disclosure: {%s, %s}}", bands, cell(", rare: accepted, note: agreed"))
  ))
  study <- build_study(project)
  person <- as.character(study$records$key)
  count <- function(frame, key) {
    group <- do.call(paste, unname(frame[c("region", "voice", "years")]))
    vapply(split(key, group), function(one) length(unique(one)), 0L)
  }
  data <- study_table(study)
  data$years <- cut(data$years, c(0, 10, 55, Inf), right = FALSE, labels = FALSE)
  whole <- count(data, person)
  rare <- names(whole)[whole < 6]
  expect_gt(length(rare), 1)
  alone <- length(unique(person[do.call(paste, unname(data[c("region", "voice", "years")])) %in% rare]))
  read <- function(name) plain_csv(file.path(release_study(study, name)$folder, "analysis.csv"))
  dropped <- release_study(study, "drop")
  expect_equal(dropped$rare, alone)
  expect_equal(dropped$records, sum(!do.call(paste, unname(data[c("region", "voice", "years")])) %in% rare))
  kept <- read("drop")
  expect_true(all(count(kept, kept$person) >= 6))
  blank <- read("blank")
  expect_equal(nrow(blank), nrow(data))
  expect_true(all(count(blank, blank$person) >= 6))
  expect_equal(sum(blank$years == ""), sum(do.call(paste, unname(data[c("region", "voice", "years")])) %in% rare))
  expect_match(message_of(release_study(study, "stop"), "mavik_release_error"), paste0("smallest_cell: ", alone, " respondents are in combinations of .*fewer than 6 share; say `rare: drop`"))
  expect_false(file.exists(file.path(project, "release/stop")))
  expect_match(message_of(release_study(study, "tells"), "mavik_release_error"), "`low` is made of `voice`, which is changed, and may tell it: leave it out")
  page <- paste(readLines(file.path(release_study(study, "taken")$folder, "disclosure.html"), encoding = "UTF-8"), collapse = "")
  expect_match(page, paste0(alone, " respondents were in rarer ones: accepted. agreed"))
  expect_match(page, "Minutes</td><td>number</td>")
})

test_that("what tells more than a changed variable is refused, and what does not goes out", {
  cases <- list(
    # what is changed, what goes out beside it, what is wrong ("" nothing)
    list("coarsen: {years: {starts: {1: 0, 2: 10, 3: 30}}}", "years, years_band", ""),
    list("coarsen: {years: {starts: {1: 0, 2: 10, 3: 30}}}", "years, decade", "`decade` is made of `years`, which is changed, and cuts it finer"),
    list("coarsen: {years: {starts: {1: 0, 2: 15, 3: 30}}}", "years, years_band", "cuts it finer"),
    list("limits: {years: [down, 25]}", "years, years_band", "cuts it finer"), list("limits: {years: [down, 30]}", "years, years_band", ""),
    list("limits: {minutes: [down, 3000]}", "minutes, any", ""), list("limits: {minutes: [20, up]}", "minutes, any", ""),
    list("limits: {minutes: [down, 3000]}", "minutes, total", "`total` is made of `minutes`, which is changed, and may tell more"),
    list("limits: {years: [down, 30]}", "years, before", "`before` is made of `years`, which is changed, and may tell more"),
    list("coarsen: {voice: {to: {1: [Soprano, Alto], 2: [Tenor, Bass]}}}", "voice, low", ""), list("coarsen: {voice: {to: {1: [Soprano, Bass], 2: [Alto, Tenor]}}}", "voice, low", "cuts it finer"),
    list("coarsen: {years_band: {to: {1: [Few, Some], 2: [Many]}}}", "years, years_band", "`years_band` is changed, and `years`, of which it is made, goes out as it is"),
    list("coarsen: {years_band: {to: {1: [Few, Some], 2: [Many]}}}", "years_band, region", ""),
    list("coarsen: {years: {starts: {1: 0, 2: 10, 3: 30}}}", "years, again", "reads the same column and goes out as it is"),
    list("shift_dates: [born], coarsen: {years: {ends: {1: 9, 2: 29, 3: 80}}}", "born, years, years_band", "cuts it finer"),
    list("shift_dates: [born], coarsen: {years: {ends: {1: 9, 2: 29, 3: 80}}}", "born, years", ""),
    list("pseudonyms: [person]", "person, number", "`person` is changed, and `number` reads the same column"), list("pseudonyms: [person]", "person, years", ""),
    list("pseudonyms: [person]", "person, named", "`named` is made of `person`, which is changed, and may tell more"),
    list("coarsen: {minutes: {ends: {1: 100, 2: 2000}}}", "minutes, voice", "`coarsen` of `minutes` has no place for `2006`, `2023`"),
    list("coarsen: {years: {starts: {1: 0, 2: 10, 3: 30}}}", "years, asked", "who was asked `asked` depends on `years`, which is changed"),
    list("coarsen: {years: {starts: {1: 0, 2: 10, 3: 20, 4: 30}}}", "years, asked", ""),
    list("limits: {minutes: [down, 3000]}", "minutes, wild", "tells answers apart that the change puts together")
  )
  project <- people_project(sprintf("c%d: {formats: [csv], variables: [%s], disclosure: {%s}}", seq_along(cases), vapply(cases, `[[`, "", 2), vapply(cases, `[[`, "", 1)),
    more = c("  named: {label: Named, when: [{if: 'person == \"KEY-00001\"', is: 1}, {else: 0}], codes: {0: no, 1: yes}}", "  number: {column: Key, label: Number, level: identifier}", "  asked: {column: Words, label: Asked, level: text, universe: 'years >= 20'}", "  again: {column: Years, label: Again, level: ratio, range: [0, 80]}", "  wild: {label: Wild, when: [{if: 'minutes > 3500', is: 1}, {else: 0}], codes: {0: no, 1: yes}}"))
  study <- build_study(project)
  secret <- new_secret(tempfile())
  for (at in seq_along(cases)) {
    said <- message_of(release_study(study, paste0("c", at), secret = secret), "mavik_release_error")
    if (cases[[at]][[3]] == "") expect_equal(said, "no error", info = paste(cases[[at]][1:2], collapse = " | ")) else {
      expect_match(said, cases[[at]][[3]], fixed = TRUE)
      if (!grepl("no place", said)) expect_match(said, "leave it out (`without`), or change it too", fixed = TRUE)
      expect_match(said, paste0("^study.yml:[0-9]+ releases > c", at, " > disclosure"))
    }
  }
})

test_that("secrets and disclosures that protect nobody are refused, and no message tells of the secret", {
  bad <- c(
    "a: {formats: [csv], disclosure: {pseudonyms: [voice]}}", "b: {formats: [csv], disclosure: {shift_dates: [years]}}", "c: {formats: [csv], disclosure: {limits: {voice: [1, 2]}}}",
    "d: {formats: [csv], disclosure: {coarsen: {voice: month}}}", "e: {formats: [csv], disclosure: {coarsen: {voice: {to: {1: [Soprano]}}}}}", "f: {formats: [csv], disclosure: {smallest_cell: {of: [years], at_least: 5}}}",
    "g: {formats: [csv], with: [addresses, ledger], disclosure: {order: shuffled}}", "h: {formats: [csv], disclosure: {coarsen: {born: year}, shift_dates: [born]}}", "i: {formats: [csv], variables: [voice], disclosure: {pseudonyms: [person]}}",
    "j: {formats: [csv], disclosure: {smallest_cell: {of: [voice], at_least: 5, rare: accepted}}}", "k: {formats: [csv], disclosure: {coarsen: {born: week}}}", "l: {formats: [csv], disclosure: {smallest_cell: {of: [voice], at_least: 1}}}"
  )
  said <- strsplit(message_of(read_codebook(people_project(bad)), "mavik_codebook_error"), "\n")[[1]]
  wanted <- c(
    "a > disclosure > pseudonyms: `voice` is no identifier", "b > disclosure > shift_dates: `years` is no date", "c > disclosure > limits > voice: `voice` is no number", "d > disclosure > coarsen > voice: `voice` is no date",
    "e > disclosure > coarsen > voice: `voice` leaves out the code `Alto`", "f > disclosure > smallest_cell > of: `years` has no codes", "g > with: `addresses` would give away", "h > disclosure: `born` is changed twice",
    "i > disclosure > pseudonyms: `person` does not go out", "j > disclosure > smallest_cell > rare: `accepted` needs a `note`", "k > disclosure > coarsen > born: must be one of `month`, `quarter` and `year`", "l > disclosure > smallest_cell > at_least: must be at least 2"
  )
  for (one in wanted) expect_match(said, paste0("^study.yml:[0-9]+ releases > ", one), all = FALSE, info = one)
  project <- people_project(c("public: {formats: [csv], variables: [person, wave, voice], disclosure: {pseudonyms: [person]}}", "fine: {formats: [csv], variables: [years], disclosure: {coarsen: {years: {starts: {", paste0(0:80, ": ", 0:80, collapse = ", "), "}}}}}"))
  file <- file.path(project, "study.yml")
  lines <- readLines(file)
  at <- grep("^  fine:", lines)
  writeLines(c(lines[seq_len(at - 1)], paste(trimws(lines[at:length(lines)]), collapse = " ") |> sub(pattern = "^", replacement = "  ")), file)
  inside <- file.path(project, "secret")
  writeLines("a secret of many letters", inside)
  short <- tempfile(); writeLines("short", short); Sys.chmod(short, "600")
  empty <- tempfile(); file.create(empty); Sys.chmod(empty, "600")
  public <- tempfile(); writeLines("the-secret-that-all-can-read", public); Sys.chmod(public, "644")
  cases <- list(list(NULL, "needs a secret"), list(tempfile("none"), "is not there"), list(inside, "lies inside the project"), list(short, "too short"), list(empty, "is empty"), list(public, "can be read by others: make it yours alone"))
  for (one in cases) {
    run <- do.call(command, as.list(c("release", "public", "--project", project, if (!is.null(one[[1]])) c("--secret", one[[1]]))))
    expect_equal(run$status, 2, info = one[[2]])
    expect_match(paste(run$err, collapse = "\n"), one[[2]])
    for (told in c("a secret of many", "short\"", "the-secret-that", if (!is.null(one[[1]])) basename(one[[1]])[one[[1]] != inside])) expect_false(any(grepl(told, c(run$out, run$err), fixed = TRUE)), info = told)
    expect_false(file.exists(file.path(project, "release")))
  }
  expect_match(message_of(release_study(project, "fine"), "mavik_release_error"), "study.yml:[0-9]+ releases > fine > disclosure: `coarsen` of `years` is as fine as the data \\(6[01] values")
  made <- tempfile()
  expect_equal(command("release", "--new-secret", made)$status, 0)
  again <- command("release", "--new-secret", made)
  expect_equal(again$status, 2)
  expect_match(again$err, "stands there already", all = FALSE)
  expect_match(command("release", "--new-secret", file.path(project, "my-secret"))$err, "would lie inside the project", all = FALSE)
  run <- command("release", "public", "--project", project, env = paste0("MAVIK_SECRET=", made))
  expect_equal(run$status, 0, info = run$err)
  again <- command("release", "public", "--project", project, "--secret", made, "--json")
  told <- jsonlite::fromJSON(paste(again$out, collapse = "\n"))
  expect_equal(told$releases$changes[[1]]$variable, "person")
  expect_false(any(grepl(readLines(made), c(run$out, run$err, again$out, again$err), fixed = TRUE)))
})
