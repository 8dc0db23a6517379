# Which texts are proposed to be read as a label: slips of the pen, nothing else.

# Label sets with texts that mean something else (`no`) and slips (`yes`). The
# second half was put aside while the judgement was made. Two real words a letter
# apart are beyond it: `Deceased` is taken for `Decreased`, unless it is common.
slips <- list(
  list(labels = c("Never", "A few times per month", "A few times per year", "Daily", "Sometimes"), no = c("A few times per week", "Ever", "A few times", "1", "Twice daily", "Not daily"), yes = c(Daliy = "Daily", Sometmes = "Sometimes", "a few times per  month." = "A few times per month")),
  list(labels = c("5'5\"", "5'6\"", "6'0\""), no = c("6'5\"", "5'7\"", "55"), yes = character()),
  list(labels = c("Strongly agree", "Agree", "Neither", "Disagree", "Strongly disagree"), no = c("Strong", "Agree strongly", "4 - Agree", "Disagree or agree", "2", "A", "Niether"), yes = c("Strongly agre" = "Strongly agree", Disagre = "Disagree", Stronglydisagree = "Strongly disagree")),
  list(labels = c("likely", "certain"), no = c("unlikely", "uncertain", "less likely"), yes = c(likley = "likely", certian = "certain")),
  list(labels = c("satisfied", "neutral"), no = c("disatisfied", "unsatisfied", "dissatisfied", "not satisfied"), yes = c(satisifed = "satisfied", nuetral = "neutral")),
  list(labels = c("Iran", "Australia", "Slovenia", "Nigeria"), no = c("Iraq", "Austria", "Slovakia", "Niger"), yes = c(Austrailia = "Australia", Nigerria = "Nigeria")),
  list(labels = c("Mail", "Fax"), no = c("Male", "Main", "Max"), yes = character()),
  list(labels = c("Soprano", "Alto", "Tenor", "Bass"), no = c("Soprano 2", "Mezzo", "Contralto", "Base"), yes = c(Sopranno = "Soprano", Tenro = "Tenor", Basss = "Bass")),
  # put aside
  list(labels = c("Weniger als 2 Jahre", "2 bis 5 Jahre", "Mehr als 5 Jahre"), no = c("Mehr als 2 Jahre", "Weniger als 5 Jahre", "2 bis 6 Jahre", "5 Jahre"), yes = c("Weniger als 2 Jahrre" = "Weniger als 2 Jahre")),
  list(labels = c("zufrieden", "unzufrieden"), no = c("sehr zufrieden", "nicht zufrieden", "eher unzufrieden"), yes = c(zufriedn = "zufrieden", unzufreiden = "unzufrieden")),
  list(labels = c("Grade A", "Grade B"), no = c("Grade C", "Grade AB", "A", "Grade A+", "Grade B-"), yes = c("Gradde A" = "Grade A")),
  list(labels = c("One child", "Two children", "No child"), no = c("One children", "Three children", "Child", "Tow"), yes = c("Two childern" = "Two children")),
  list(labels = c("Full time", "Part time"), no = c("Full day", "Past time", "No time", "Full", "Half time"), yes = c("Full-time" = "Full time", Parttime = "Part time")),
  list(labels = c("10-20 euros", "20-50 euros", "> 50 euros"), no = c("10-30 euros", "50 euros", "< 50 euros", "20-50 pounds", "10 20 euros +"), yes = c("10\u201320 eurros" = "10-20 euros")),
  list(labels = c("Increased", "Decreased"), no = c("Increases a lot", "Not increased"), yes = c(Incraesed = "Increased", Decreasd = "Decreased")),
  list(labels = c("tr\u00e8s satisfait", "pas satisfait"), no = c("satisfait", "peu satisfait", "tr\u00e8s insatisfait"), yes = c("tr\u00e8s satisfiat" = "tr\u00e8s satisfait")),
  list(labels = c("Mother", "Father"), no = c("Brother", "Other", "Grandmother", "Stepfather"), yes = c(Moother = "Mother", Fathre = "Father"))
)

test_that("a slip of the pen is told from another answer, on seen and unseen labels alike", {
  for (at in seq_along(slips)) {
    one <- slips[[at]]
    for (text in one$no) expect_null(core$slip_of(text, one$labels), info = text)
    for (text in names(one$yes)) expect_equal(core$slip_of(text, one$labels), one$yes[[text]], info = text)
  }
})

test_that("proposed lines move no answer: neither number nor other answer, nothing where a file was misread, a wave's own under the wave", {
  labels <- c("1" = "Strongly agree", "2" = "Agree", "3" = "Neither", "4" = "Disagree")
  set.seed(1)
  spring <- data.frame(id = 1:200, q = sample(labels, 200, TRUE), part = sample(c("Red", "Blue"), 200, TRUE), fruit = sample(c("Apple", "Pear", rep("Plum", 2)), 200, TRUE))
  spring$q[1:8] <- c("2", "2", "Agreee", "Agreee", "Somewhat agree", "Somewhat agree", "Somewhat agree", "agree ")
  autumn <- transform(spring, q = sample(labels, 200, TRUE), part = sample(c("Red", "Bleu"), 200, TRUE))
  folder <- project_with("x", list("s.csv" = "", "a.csv" = "", "n.csv" = ""))
  data.table::fwrite(spring, file.path(folder, "raw/s.csv"))
  data.table::fwrite(autumn, file.path(folder, "raw/a.csv"))
  data.table::fwrite(transform(autumn, q = 5 - match(q, labels)), file.path(folder, "raw/n.csv"))
  codebook <- function(autumn) c("mavik: 1", "study: {title: T}", "waves: {spring: {label: S}, autumn: {label: A}}",
    paste0("exports: {s: {wave: spring, file: raw/s.csv, key: id}, a: {wave: autumn, file: raw/", autumn, ", key: id}}"), "variables:", "  id: {is: key, label: Id}",
    "  q: {column: q, label: Q, level: ordinal, codes: {1: Strongly agree, 2: Agree, 3: Neither, 4: Disagree}}", "  part: {column: part, label: P, level: nominal, codes: {1: Red, 2: Blue}}   # kept",
    "  fruit: {column: fruit, label: F, level: nominal, codes: {1: Apple, 2: Pear}}")
  file <- file.path(folder, "study.yml")
  writeLines(codebook("a.csv"), file)
  checked <- check_study(folder)
  expect_setequal(checked$proposals$adds, c("variants: {Agree: [Agreee]}", "variants: {Blue: [Bleu]}", "codes: {3: Plum}"))
  expect_equal(checked$proposals$path[checked$proposals$adds == "variants: {Blue: [Bleu]}"], "variables > part > by_wave > autumn")
  expect_equal(checked$proposals$path[grepl("Agree", checked$proposals$adds)], "variables > q > by_wave > spring")
  expect_equal(checked$proposals$count[grepl("Plum", checked$proposals$adds)], sum(spring$fruit == "Plum") + sum(autumn$fruit == "Plum"))
  before <- build_study(folder)
  apply_proposals(checked)
  after <- build_study(folder)
  # What was an answer before is the same answer after.
  for (name in c("q", "part", "fruit")) {
    had <- !is.na(before$data[[name]])
    expect_equal(after$data[[name]][had], before$data[[name]][had])
  }
  expect_equal(nrow(check_study(folder)$proposals), 0)
  expect_match(grep("part:", readLines(file), value = TRUE), "# kept")
  writeLines(codebook("n.csv"), file)
  turned <- check_study(folder)
  expect_true("cells_unread" %in% turned$findings$kind)
  expect_false(any(grepl("variants: \\{(Strongly|Neither|Disagree)", turned$proposals$adds)))
  expect_false(any(grepl("[0-9]\\]", turned$proposals$adds)))
})

test_that("a code that is proposed is none that a cell, a wave or a reason has", {
  fruit <- list(column = "fruit", label = "F", level = "nominal", codes = list("1" = "Apple", "2" = "Pear"))
  adds <- function(written, ...) check_study(small_codebook(fruit = c(fruit, list(...))), list(main = data.frame(id = seq_along(written), part = "High", fruit = written)))$proposals$adds
  cells <- c("Apple", "Pear", rep("Plum", 3))
  expect_equal(adds(cells), "codes: {3: Plum}")
  expect_equal(adds(c(cells, "3")), "codes: {4: Plum}")
  expect_equal(adds(c(rep(c("1", "2"), 40), "3", "5", rep("Plum", 3), rep("Quince", 4)), cells = "codes"), c("codes: {4: Plum}", "codes: {6: Quince}"))
})

test_that("a pattern of dates is proposed only where day and month can be told apart", {
  propose <- function(cells, ...) check_study(small_codebook(d = list(column = "d", label = "D", level = "date", ...)), list(main = data.frame(id = seq_along(cells), part = "High", d = cells)))$proposals$adds
  expect_equal(propose(c("03/04/2026", "05/06/2026")), character())
  expect_equal(propose(c("03/04/2026", "25/06/2026")), "dates: [dd/MM/yyyy]")
  expect_equal(propose(c("03/04/2026", "06/25/2026")), "dates: [MM/dd/yyyy]")
  expect_equal(propose(c("3/4/2026", "05/06/2026"), dates = "dd/MM/yyyy"), "dates: [d/M/yyyy]")
})

test_that("an edit keeps line ends, the mark of the beginning, quoted keys and texts in blocks", {
  for (case in c("crlf", "mark")) {
    folder <- project_with("x", list("a.csv" = "id,q,z\n1,Agree,1\n2,Disagre,1\n"))
    lines <- c("\"mavik\": 1", "study: {title: T}", "waves: {one: {label: One}}", "\"exports\": {a: {file: raw/a.csv, \"key\": id}}", "variables:", "  id: {is: key, label: Id}",
      "  \"q\":", "    column: q", "    label: Q   # mine", "    level: nominal", "    codes: {1: Agree, 2: Disagree}", "    variants:", "      Disagree: |", "        nope")
    text <- paste0(if (case == "mark") "\ufeff", paste0(lines, if (case == "crlf") "\r\n" else "\n", collapse = ""))
    writeBin(charToRaw(enc2utf8(text)), file.path(folder, "study.yml"))
    checked <- check_study(folder)
    expect_setequal(checked$proposals$adds, c("variants: {Disagree: [Disagre]}", "ignored: [z]"))
    apply_proposals(checked)
    after <- rawToChar(bytes_of(file.path(folder, "study.yml")))
    expect_equal(grepl("\r\n", after, fixed = TRUE), case == "crlf")
    expect_false(grepl("[^\r]\n", after) && case == "crlf")
    expect_equal(startsWith(after, "\xef\xbb\xbf"), case == "mark")
    expect_match(after, "label: Q   # mine", fixed = TRUE)
    expect_equal(read_codebook(folder)$variables$q$variants$Disagree, c("nope", "Disagre"))
    expect_equal(nrow(check_study(folder)$proposals), 0)
  }
})
