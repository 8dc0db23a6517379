changed_demo <- function(from, to) {
  text <- paste(readLines(system.file("choirs/choirs.yml", package = "mavik"), encoding = "UTF-8"), collapse = "\n")
  parts <- strsplit(text, from, fixed = TRUE)[[1]]
  stopifnot(length(parts) == 2)
  file.path(project_with(strsplit(paste0(parts[1], to, parts[2]), "\n", fixed = TRUE)[[1]]), "study.yml")
}

test_that("each problem of a codebook says where it is and what to do", {
  cases <- list(
    list("title: Kestrel Valley choirs survey", "titel: Kestrel", "study > titel: `titel` is not a key.*did you mean `title`"),
    list("mavik: 1", "mavik: 2", ":4 mavik: `2` is not one of"),
    list("collected: 2026-03-02/2026-03-21", "collected: March", "study > collected: must be an ISO 8601 date"),
    list("    wave: spring", "    wave: sprnig", "exports > spring > wave: `sprnig` .*did you mean `spring`"),
    list("heading: [names, questions]", "heading: [options]", "one of the heading rows must be `names` or `questions`"),
    list("heading: [names, questions]", "heading: [names, qestions]", "did you mean `questions`"),
    list("ignored: [\"Pages *\"", "ignored: [Q2", "exports > spring > ignored: `Q2` is ignored and used"),
    list("ignored: [\"Pages *\"", "ignored: [\"Mach*\", \"Q1*\"", ":[0-9]+ exports > spring > ignored: the pattern `Q1[*]` meets `Q1[^`]*`, which is used"),
    list("  notes: Made-up data", "  weight: voice\n  notes: Made-up data", "study > weight: `voice` is no number"),
    list("  notes: Made-up data", "  weight: yeers\n  notes: Made-up data", "study > weight: `yeers` is not a variable of this codebook; did you mean `years`"),
    list("  notes: Made-up data", "  weight: email\n  notes: Made-up data", "study > weight: `email` is private"),
    list("members: 'member == \"Yes\"'", "members: 'member == \"Yess\"'", "subsets > members: .*is not a label of `member`; did you mean `Yes`"),
    list("members: 'member == \"Yes\"'", "voice: 'years > 3'", "subsets > voice: `voice` is the name of a variable"),
    list("members: 'member == \"Yes\"'", "mean: 'years > 3'", "subsets > mean: `mean` has a meaning of its own"),
    list("members: 'member == \"Yes\"'", "members: new_members", "subsets > members: .*goes in a circle: members <- new_members <- members"),
    list("members: 'member == \"Yes\"'", "members: years + 1", "subsets > members: .*says neither true nor false"),
    list("trial:       {if: 'kind == \"Trial\"'}", "trial:       {if: member_s}", "screens > trial > if: .*did you mean `members`"),
    list("trial:       {if: 'kind == \"Trial\"'}", "trial:       {if: 'contains(voice, \"a\")'}", "`contains` looks into a text, and it is given `voice`, which is coded"),
    list("trial:       {if: 'kind == \"Trial\"'}", "trial:       {if: 'starts_with(best, 3)'}", "behind the variable of `starts_with` stands a text in quotes"),
    list("trial:       {if: 'kind == \"Trial\"'}", "trial:       {if: 'contains(best, c(\"a\", \"b\"))'}", "`contains` takes one text; for several"),
    list("of: voice, to: {0: [Soprano, Alto], 1: [Tenor, Bass]}", "of: [voice, member], to: {0: [Soprano, Alto], 1: [Tenor, Bass]}", "sings_low > recode: `ending` is missing.*`_turned` makes `voice_turned`|`ending: _turned` makes"),
    list("variants: {Soprano: [Sopranno]}", "spans: middle", "variables > voice > spans: `spans` is for numbers, not for level nominal"),
    list("variants: {3: [three]}", "spans: upper", "years > spans: `upper` is not one of `middle` and `lower`"),
    list("code: -2", "code: -1", "missing > dont_know: `refused` and `dont_know` have one code"),
    list("code: -2", "code: 3", "the code 3 is the missing code of `refused`"),
    list("written: [DK]", "written: [Prefer not to say]", "`prefer not to say` stands for"),
    list("2: Disagree, 3: Neither", "2: Disagree, 3: disagree", "code_lists > agree5 > codes > 3: the label `disagree` reads the same"),
    list("{dont_know: [Can't say]}", "{dont_know: [agree]}", "`agree` is a label too"),
    list("{dont_know: [Can't say]}", "{dont_knwo: [Can't say]}", "did you mean `dont_know`"),
    list("code_lists:", "code_list:", "`code_list` is not a key that can stand here; did you mean `code_lists`"),
    list("codes: agree5, kept", "codes: agree6, kept", "variables > attention > codes: `agree6` is not a code list; did you mean `agree5`"),
    list("    level: nominal\n    codes: {1: Soprano", "    codes: {1: Soprano", "variables > voice.*level"),
    list("{Soprano: [Sopranno]}", "{Sopran: [Sopranno]}", "variants > Sopran: `Sopran` is not one of its labels; did you mean `Soprano`"),
    list("{Soprano: [Sopranno]}", "{Soprano: [x], Alto: [X]}", "is a variant of two values"),
    list("{Soprano: [Sopranno]}", "{Soprano: [alto]}", "`alto` is the label of 2"),
    list("range: [0, 80]", "range: [80, 0]", "variables > years > range: the lower bound 80"),
    list("range: [0, 80]", "range: [-5, 80]", "the missing code -2 of `refused` lies inside this range"),
    list("range: [0, 80]", "range: 80", "must be two bounds"),
    list("variants: {3: [three]}", "variants: {thre: [three]}", "`thre` is not a number"),
    list("wave:   {is: wave", "wave:   {is: waves", "`waves` is not one of `key`, `wave` and `disposition`; did you mean `wave`"),
    list("  weekly:", "  mean:", "variables > mean: `mean` has a meaning of its own"),
    list("  weekly:", "  Weekly:", "variables > Weekly: `Weekly` does not fit as a name"),
    list("      belong6:", "      voice:", "the name `voice` is taken already"),
    list("  weekly:", "  belong1:", "the name `belong1` is taken already"),
    list("  voice_note:", "  belong:", "occurs twice"),
    list("      belong6:", "      belong:", "`belong` is the name of a block too"),
    list("label: Rehearsals in a week", "note: no label", "variables > weekly: `label` is missing"),
    list("column: Q5", "colunm: Q5", "variables > weekly > colunm: `colunm` is not a key that can stand here; did you mean `column`"),
    list("column: Q5", "is: key\n    column: Q5", "has 2 ways"),
    list("to: {0: [Soprano, Alto], 1: [Tenor, Bass]}", "to: {0: [Soprano], 1: [Tenor, Bass]}", "sings_low > recode: forgets `Alto` of `voice`"),
    list("to: {0: [Soprano, Alto], 1: [Tenor, Bass]}", "to: {0: [Soprano, Alto], 1: [Tenor, Bass, alto]}", "sings_low > recode > to > 1: `Alto` of `voice` is named twice"),
    list("to: {0: [Soprano, Alto], 1: [Tenor, Bass]}", "to: {0: [Soprano, Altos], 1: [Tenor, Bass]}", "`Altos` is not a code or label of `voice`; did you mean `Alto`"),
    list("to: {0: [Soprano, Alto], 1: [Tenor, Bass]}", "to: {0: [Soprano, Alto], 2: [Tenor, Bass]}", "the new code `2` has no label"),
    list("of: voice,", "of: voise,", "recode: `voise` is not a variable of this codebook; did you mean `voice`"),
    list("of: voice,", "of: best,", "`best` has no codes"),
    list("of: voice,", "of: sings_low,", "goes in a circle: sings_low <- sings_low"),
    list("score: {of: belong,", "score: {of: [belong1, voice],", "`voice` is nominal: a score needs"),
    list("score: {of: belong,", "score: {of: [belong1, belong2, belong5, ease],", "different bounds"),
    list("reversed: [belong2, belong5]", "reversed: [belong2, ease]", "score > reversed: `ease` is not one of the items"),
    list("reversed: [belong2, belong5]", "reversed: [belong2, belonging]", "`belonging` is not one of the items"),
    list("at_least: 4", "at_least: 7", "7 is more than the 6 items"),
    list("take: mean", "take: sum", "say `prorate: yes`"),
    list("take: mean", "take: median", "`median` is not one of `mean`, `sum` and `percent`"),
    list("score: {of: belong,", "score: {of: belonging,", "goes in a circle"),
    list("wave:   {is: wave, label: Wave}", "wave:   {is: wave, label: Wave, universe: a == 1 & b}", "must stand in quotes"),
    list("wave:   {is: wave, label: Wave}", "wave:   {is: wave, label: Wave, universe: 'a == 1'}", "universe: the wave is there for everybody")
  )
  for (case in cases) {
    said <- message_of(read_codebook(changed_demo(case[[1]], case[[2]])), "mavik_codebook_error")
    expect_match(said, case[[3]], info = case[[2]])
    expect_match(said, "study.yml:[0-9]+ ", info = case[[2]])
  }
})

test_that("a score over different bounds, a missing level and missing codes are problems", {
  item <- function(top, level = "ordinal") list(column = "a", label = "A", level = level, range = c(1, top))
  expect_match(message_of(read_codebook(small_codebook(a = item(5), b = item(7), s = list(label = "S", score = list(of = c("a", "b"), take = "mean"))))), "different bounds \\(`a`: 1 to 5, `b`: 1 to 7\\)")
  expect_match(message_of(read_codebook(small_codebook(a = list(column = "a", label = "A")))), "in R: variables > a: `level` is missing")
  expect_match(message_of(read_codebook(small_codebook(a = list(column = "a", label = "A", level = "nominal")))), "`codes` is missing")
  expect_match(message_of(read_codebook(small_codebook(a = list(column = "a", label = "A", level = "text", range = c(1, 2))))), "`range` has no meaning for level text")
  numbers <- small_codebook(a = list(column = "a", label = "A", level = "ordinal", codes = c("1" = "2", "2" = "1")))
  expect_s3_class(read_codebook(numbers), "mavik_codebook")
  numbers$exports$main$cells <- NULL
  expect_match(message_of(read_codebook(numbers)), "another code's number: say `cells")
})

test_that("a circle through several variables is printed", {
  recode <- function(of) list(label = of, recode = list(of = of, to = list("1" = "High", "2" = "Low")), codes = c("1" = "High", "2" = "Low"))
  said <- message_of(read_codebook(small_codebook(a = recode("b"), b = recode("c"), c1 = recode("a"), c2 = recode("part"))))
  expect_match(said, "`c` is not a variable")
  expect_match(message_of(read_codebook(small_codebook(a = recode("b"), b = recode("d"), d = recode("a")))), "goes in a circle: a <- b <- d <- a")
})

test_that("all problems come at once, in the order of the lines", {
  text <- readLines(system.file("choirs/choirs.yml", package = "mavik"), encoding = "UTF-8")
  text <- sub("range: [0, 80]", "range: [80, 0]", sub("    level: nominal", "    level: nominl", sub("at_least: 4", "at_least: 9", text, fixed = TRUE), fixed = TRUE), fixed = TRUE)
  error <- tryCatch(read_codebook(project_with(text)), mavik_codebook_error = identity)
  expect_equal(nrow(error$problems), 3)
  expect_false(is.unsorted(error$problems$line))
  expect_equal(vapply(error$problems$line, function(line) any(grepl("nominl|80, 0|at_least: 9", text[line])), TRUE), rep(TRUE, 3))
  expect_match(conditionMessage(error), "^3 problems in the codebook:")
  # Entries that were read before have as much said of them, where they stand now.
  again <- tryCatch(read_codebook(project_with(c("# Read again", text))), mavik_codebook_error = identity)
  expect_equal(again$problems$line, error$problems$line + 1L)
  expect_equal(again$problems[names(again$problems) != "line"], error$problems[names(error$problems) != "line"])
})

test_that("the whole language is read, and a wave's overlay reaches what it is said of", {
  book <- core$compile_codebook(read_codebook(test_path("language.yml")))
  expect_equal(core$columns_in(book$variables$years, book$exports$autumn_web), "Q5")
  expect_equal(core$columns_in(book$variables$belong4, book$exports$autumn_web), character())
  expect_equal(core$version_in(book$variables$belong1, book$exports$autumn_web)$delivered[["1"]], "Strongly agree")
  expect_null(core$version_in(book$variables$belong1, book$exports$spring_paper)$delivered)
})

test_that("a codebook made in R reads like the file", {
  file <- read_codebook(demo_project(tempfile()))
  list <- core$unclass_document(file)
  list$variables$years$range <- c(0, 80)
  list$variables$email$private <- TRUE
  list$mavik <- 1L
  expect_equal(core$unclass_document(read_codebook(list)), core$unclass_document(file))
  shorter <- edit_codebook(file, variables = list(years = list(range = c(0, 60), unit = NULL)))
  expect_equal(shorter$variables$years$range, c("0", "60"))
  expect_null(shorter$variables$years$unit)
  expect_match(message_of(edit_codebook(file, variables = list(years = list(range = c(60, 0))))), "in R: variables > years > range: the lower bound")
})

test_that("whatever stands where it should not is a problem with its path, never a fault", {
  whole <- core$unclass_document(read_codebook(demo_project(tempfile())))
  paths <- list()
  walk <- function(value, path) {
    paths[[length(paths) + 1]] <<- path
    if (is.list(value)) for (at in seq_along(value)) walk(value[[at]], c(path, at))
  }
  for (at in seq_along(whole)) walk(whole[[at]], at)
  odd <- list("x", "", c("a", "b"), list(), list(a = "1"), list("a", list(b = "c")), list(a = list(b = list(c = "d"))), "-2", "Q3", c("0", "80"))
  set.seed(17)
  said <- vapply(seq_len(cases(300)), function(i) {
    document <- whole
    for (times in seq_len(sample(2, 1))) {
      path <- paths[[sample(length(paths), 1)]]
      new <- odd[[sample(length(odd), 1)]]
      document <- tryCatch({ document[[path]] <- new; document }, error = function(e) document)
    }
    tryCatch({ read_codebook(document); "" }, mavik_codebook_error = function(e) "problem", error = function(e) paste("fault:", conditionMessage(e)))
  }, "")
  expect_equal(grep("^fault", said, value = TRUE), character())
  expect_gt(mean(said == "problem"), 0.5)
})

test_that("what rests on a field that could not be read is not told a second time, all else is told at once", {
  told <- function(...) {
    message <- message_of(read_codebook(small_codebook(x = list(column = "x", label = "X", level = "ratio"), made = list(label = "M", ...))))
    sub(":.*", "", sub("^.*variables > made > ?", "", grep("variables > made", strsplit(message, "\n")[[1]], value = TRUE)))
  }
  expect_equal(told(column = "y", level = "ratio", range = "5", codes = "nolist"), c("range", "codes"))
  expect_equal(told(column = "y", level = "raitio", codes = c("1" = "a")), "level")
  expect_equal(told(impute = list(of = "x", first_of = list(a = "x"), gaps = "no_answer")), "impute > first_of")
  expect_equal(told(impute = list(of = "x", gaps = "no_answer")), "impute")
  expect_equal(told(score = list(of = list(a = "x"), take = "meen")), c("score > of", "score > take"))
  expect_equal(told(score = list(take = "mean")), "score")
  expect_equal(told(recode = list(of = "part", to = "y"), codes = "nolist")[1], "recode > to")
  expect_equal(told(recode = list(of = "part"), codes = c("1" = "a")), "recode")
  expect_equal(told(bands = list(of = "x", starts = c("1" = "0")), codes = "nolist"), c("codes", "bands > starts > 1"))
})

test_that("inside braces a name alone is a condition, and all else stands in quotes", {
  to <- function(condition) message_of(read_codebook(changed_demo("{if: 'kind == \"Trial\"'}", paste0("{if: ", condition, "}"))))
  expect_equal(to("members"), "no error")
  expect_match(to("members & years > 3"), "screens > trial > if: a condition inside \\{ \\} must stand in quotes")
})
