expr_book <- function() {
  core$compile_codebook(core$as_codebook(small_codebook(
    wave = list(is = "wave", label = "W"), x = list(column = "x", label = "X", level = "ratio", range = c(0, 80)), y = list(column = "y", label = "Y", level = "ratio"),
    born = list(column = "b", label = "B", level = "date"), ended = list(column = "e", label = "E", level = "datetime"), began = list(column = "f", label = "F", level = "datetime"),
    ease = list(column = "a", label = "A", level = "ordinal", codes = c("1" = "Not \u00e9asy", "2" = "So so", "3" = "Easy")),
    grade = list(column = "g", label = "G", level = "ordinal", codes = c("1" = "Low", "2" = "High")), note = list(column = "n", label = "N", level = "text"),
    pair = list(level = "ratio", items = list(p1 = list(column = "p1", label = "P1"), p2 = list(column = "p2", label = "P2")))
  )))
}

problem_of <- function(text, book = expr_book(), ...) {
  said <- NULL
  out <- core$compile_expression(text, book, "u", function(path, message) said <<- message, ...)
  expect_equal(is.null(out), !is.null(said), info = text)
  if (is.null(said)) "" else said
}

test_that("conditions have three values and mean what a reader takes them to mean", {
  frame <- data.frame(
    id = 1:4, part = c("High", "Low", "", "Refused"), x = c("1", "2", "", "0"), y = c("0", "2", "5", ""), b = c("2020-01-31", "2020-02-01", "", "2019-12-31"),
    e = c("2026-03-02 10:30", "2026-03-02 23:59", "", "2026-03-03 00:00"), f = c("2026-03-02 10:00", "2026-03-02 23:00", "2026-03-02 10:00", ""), a = c("Easy", "So so", "", "not \u00e9asy"),
    g = c("Low", "High", "", ""), n = c("a", "A", "", "b"), p1 = c("1", "", "", "4"), p2 = c("3", "2", "", "")
  )
  book <- expr_book()
  study <- build_study(book$document, list(main = frame))
  columns <- lapply(stats::setNames(names(study$data), names(study$data)), function(name) {
    reason <- as.integer(study$reasons[[name]])
    reason[is.na(reason)] <- 0L
    core$new_column(if (is.character(study$data[[name]])) study$data[[name]] else as.numeric(study$data[[name]]), if (length(reason) > 0) reason)
  })
  T <- TRUE; F <- FALSE; U <- NA
  cases <- list(
    list("part == \"high\"", c(T, F, U, U)), list("part != 'High'", c(F, T, U, U)), list("part == 1", c(T, F, U, U)), list("\"High\" == part", c(T, F, U, U)),
    list("part %in% c(\"High\", \"Low\")", c(T, T, U, U)), list("!(part %in% 2)", c(T, F, U, U)), list("x > 1", c(F, T, U, F)), list("1 < x", c(F, T, U, F)), list("x > -1", c(T, T, U, T)),
    list("contains(note, \"A\")", c(T, T, U, F)), list("starts_with(note, 'b')", c(F, F, U, T)), list("matches_any(note, c(\"x\", \"B\"))", c(F, F, U, T)), list("!contains(note, \"a\") | is_missing(note)", c(F, F, T, T)),
    list("is_missing(part)", c(F, F, T, T)), list("is_missing(part, \"refused\")", c(F, F, F, T)), list("is_missing(part, 'refused', 'no_answer')", c(F, F, T, T)),
    list("x == 2 & y == 2", c(F, T, F, F)), list("x == 2 | y == 5", c(F, T, T, U)), list("!is_missing(x) & x >= 1", c(T, T, F, F)), list("x / y > 0", c(U, T, U, U)),
    list("sum(x, y) == 4", c(F, T, U, U)), list("mean(pair) >= 2", c(T, U, U, U)), list("max(x, y) == 1", c(T, F, U, U)), list("min(pair) < 2", c(T, U, U, U)),
    list("n_answered(pair) == 1", c(F, T, F, T)), list("n_answered(x, y, part) == 3", c(T, T, F, F)), list("born >= \"2020\"", c(T, T, U, F)), list("born > '2020-01'", c(F, T, U, F)),
    list("born == \"2020-01-31\"", c(T, F, U, F)), list("ended <= \"2026-03-02\"", c(T, T, U, F)),
    list("minutes_between(began, ended) == 30", c(T, F, U, U)), list("days_between(born, began) > 2000", c(T, T, U, U)), list("wave == \"one\"", c(T, T, T, T)), list("ease >= \"So so\"", c(T, T, U, F)),
    list("ease == \"Not \u00c9asy\"", c(F, F, U, T)), list("note == \"a\"", c(T, F, U, F)), list("round(x / 4, 1) == 0.3", c(T, F, U, F)), list("abs(x - 2) == 1", c(T, F, U, F)),
    list("ease - grade > 0", c(T, F, U, U)), list("x^2 == 4", c(F, T, U, F)), list("(x) == ((1))", c(T, F, U, F))
  )
  for (case in cases) {
    said <- problem_of(case[[1]], book)
    expect_equal(said, "", info = case[[1]])
    expression <- core$compile_expression(case[[1]], book, "u", function(...) NULL)
    expect_equal(core$evaluate_expression(expression, columns, 4), case[[2]], info = case[[1]])
  }
})

test_that("what is wrong with a condition is said with its place and the way out", {
  cases <- c(
    "part == \"Hgh\"" = "at character 10: \"Hgh\" is not a label of `part`; did you mean `High`", "part == 3" = "3 is not a code of `part`: they are 1 and 2", "part < 2" = "`part` is nominal",
    "part > \"Low\"" = "needs an order", "0 < x < 3" = "two bounds are two comparisons", "x = 3" = "write `==`", "x == \"3\"" = "numbers stand without quotes", "note == 3" = "texts stand in quotes",
    "note > \"a\"" = "has none", "part && x == 1" = "write `&`", "is.na(x)" = "write `is_missing`", "is_missing(x, \"refusd\")" = "did you mean `refused`", "is_missing(x + 1)" = "takes a variable",
    "born == \"2020\"" = "names more than one day", "born > \"2020-02-30\"" = "not an ISO 8601 date", "ended == \"2026-03-02\"" = "more than one moment", "wave == \"One\"" = "write \"one\"", "wave == \"two\"" = "not one of `one`",
    "minutes_between(born, ended) > 1" = "takes two date-times", "born - ended > 1" = "days_between", "part + 1 > 2" = "works on numbers", "part == ease" = "codes do not mean the same", "z == 1" = "`z` is not a variable",
    "pair == 1" = "is a block", "x" = "neither true nor false", "TRUE" = "cannot stand", "NA" = "cannot stand", "x == NA" = "cannot stand", "(x > 1) == (y > 1)" = "not compared", "\"a\" == \"b\"" = "two fixed things",
    "x > 1 y" = "cannot be read", "(((" = "cannot be read", "# x" = "empty", "x > 1; y > 1" = "more than one", "x %in% c(1, \"a\")" = "cannot be compared", "x %in% y" = "a list of labels", "round(x, y) > 1" = "decimals",
    "sum() > 1" = "at least 1", "abs(x, y) > 1" = "takes 1 argument", "is_missing(x,)" = "comma too many", "sum(a = x) > 1" = "named", "n_answered(x > 1) > 0" = "variables and blocks", "1i == x" = "cannot stand"
  )
  book <- expr_book()
  for (text in names(cases)) expect_match(problem_of(text, book), cases[[text]], fixed = TRUE, info = text)
  expect_match(problem_of(paste(rep("!", 3000), collapse = ""), book), "longer than 2,000")
  expect_match(problem_of(paste0(strrep("!", 60), "(x > 1)"), book), "nested deeper than 40")
  expect_match(problem_of(paste0(strrep("(", 45), "x > 1", strrep(")", 45)), book), "nested deeper|cannot be read")
})

test_that("no condition calls, assigns, or reaches files and environments", {
  mark <- tempfile()
  attempts <- c(
    sprintf("file.create('%s')", mark), sprintf("system('touch %s')", mark), sprintf("x == system2('touch', '%s')", mark), sprintf("(function() file.create('%s'))() == 1", mark),
    sprintf("mavik::build_study('%s') == 1", mark), sprintf("base::file.create('%s')", mark), sprintf("eval(parse(text = \"file.create('%s')\"))", mark), sprintf("do.call('file.create', '%s')", mark),
    sprintf("\"file.create\"('%s')", mark), sprintf("`file.create`('%s')", mark), sprintf("x %%in%% c(file.create('%s'))", mark), sprintf("is_missing(x, file.create('%s'))", mark), sprintf("{file.create('%s')}", mark),
    sprintf("x > 1 | file.create('%s')", mark), sprintf("(\\(x) file.create('%s'))(1) > 0", mark), sprintf("'%s' |> file.create()", mark), "x <- 1", "x <<- 1", "1 -> x", "assign('x', 1)", "x[1] > 0", "x[[1]] > 0", "x$y > 0", "x@y > 0",
    "get('x') > 0", "environment() == 1", "globalenv() == 1", ".GlobalEnv == 1", "quote(x) == 1", "~ x", "x ?y", "if (x > 1) 1", "for (i in 1) 1", "while (TRUE) 1", "repeat 1", "function(x) x", "library(stats)", "Sys.time() > 1",
    "T", "pi > 3", "letters == 'a'", "..1 > 0", "c > 1", "sum > 1", "-function() 1", "`if`(x > 1, 1, 2)", "x > 1 && file.exists('/')", "Recall() > 1", "on.exit(1)", "invisible(x > 1)"
  )
  book <- expr_book()
  for (text in attempts) expect_true(nzchar(problem_of(text, book)), info = text)
  expect_false(file.exists(mark))
})

test_that("evaluation agrees with R on made-up conditions", {
  book <- expr_book()
  set.seed(31)
  numbers <- c("x", "y", "p1", "p2")
  data <- stats::setNames(lapply(numbers, function(i) sample(c(0:4, NA), 80, TRUE)), numbers)
  columns <- lapply(data, function(value) core$new_column(value, ifelse(is.na(value), 4L, 0L)))
  number <- function(depth) {
    if (depth == 0 || stats::runif(1) < 0.3) return(if (stats::runif(1) < 0.3) as.character(sample(0:5, 1)) else sample(numbers, 1))
    paste0("(", number(depth - 1), " ", sample(c("+", "-", "*"), 1), " ", sample(numbers, 1), ")")
  }
  truth <- function(depth) {
    if (depth == 0) return(paste(sample(numbers, 1), sample(c("==", "!=", "<", "<=", ">", ">="), 1), number(2)))
    switch(sample(4, 1), paste0("!(", truth(depth - 1), ")"), paste0("(", truth(depth - 1), " & ", truth(depth - 1), ")"), paste0("(", truth(depth - 1), " | ", truth(depth - 1), ")"), truth(depth - 1))
  }
  for (i in 1:150) {
    text <- truth(3)
    expression <- core$compile_expression(text, book, "u", function(path, message) stop(message))
    expect_identical(core$evaluate_expression(expression, columns, 80), eval(parse(text = text), data), info = text)
  }
})
