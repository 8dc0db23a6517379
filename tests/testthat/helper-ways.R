# For each way a variable `made` and what it is made of, over the frame below.
rating <- function(column) list(column = column, label = column, level = "ordinal", codes = c("1" = "Never", "2" = "At times", "3" = "Often"))

number <- function(column) list(column = column, label = column, level = "ratio", range = c(0, 40))
ticks <- list(column = "a", separator = ";", options = list(made = "Never", often = "Often"), other = list(flag = "odd_one", text = "odd_text"))
coders_sheet <- function() {
  file <- tempfile(fileext = ".csv")
  writeLines(c("answer,code 1,code 2", "odd,Often,", "never,Never,Often", "at times,,"), file)
  file
}

# `top` are further sections of the codebook, `frames` data frames beside the export.
way_examples <- list(
  is = list(made = list(is = "key", label = "Id")),
  column = list(made = rating("a")),
  recode = list(made = list(label = "R", recode = list(of = "part", to = list("1" = "Low"), gaps = list(refused = "High")), codes = c("1" = "Low"))),
  score = list(a = rating("a"), b = rating("b"), d = rating("d"),
    made = list(label = "S", score = list(of = c("a", "b", "d"), reversed = "b", take = "mean", at_least = 2))),
  split = list(made = list(label = "Q", split = list(column = "a", separator = ";", options = list(never = "Never", often = "Often"), exclusive = "never"))),
  option = list(q = list(label = "Q", split = ticks)),
  written = list(q = list(label = "Q", split = utils::modifyList(ticks, list(options = list(made = NULL, never = "Never"), other = list(text = "made"))))),
  coded = list(t = list(column = "a", label = "T", level = "text"), made = list(label = "C", coded = list(of = "t", sheet = coders_sheet(), codes = list(c_never = "Never", c_often = "Often")))),
  bands = list(x = number("x"), made = list(label = "B", bands = list(of = "x", starts = c("1" = 0, "2" = 10, "3" = 20)), codes = c("1" = "few", "2" = "some", "3" = "many"))),
  when = list(x = number("x"), made = list(label = "W", when = list(list("if" = "x > 20 | part == \"High\"", is = 1), list("if" = "x < 5", is = "refused"), list("else" = 0)), codes = c("0" = "No", "1" = "Yes"))),
  formula = list(x = number("x"), y = number("y"), made = list(label = "F", formula = "x / y + 1")),
  impute = list(x = number("x"), y = number("y"), made = list(label = "I", impute = list(of = "x", mean_of = "y", gaps = "no_answer", flag = "made_up"))),
  filled = list(x = number("x"), y = number("y"), full = list(label = "I", impute = list(of = "x", first_of = "y", gaps = c("no_answer", "refused"), flag = "made"))),
  lookup = list(t = list(column = "a", label = "T", level = "text"), made = list(label = "L", level = "ratio", lookup = list("in" = "table", by = "t", column = "size")),
    top = list(lookups = list(table = list(key = "word"))), frames = list(table = data.frame(word = c("Never", "Often", "odd"), size = c("1", "", "2"))))
)
way_book <- function(example) {
  book <- do.call(small_codebook, example[setdiff(names(example), c("top", "frames"))])
  utils::modifyList(book, if (is.null(example$top)) list() else example$top)
}

way_frame <- function(n = 60) {
  set.seed(4)
  answers <- c("Never", "at times", "Often", "", "Refused", "odd")
  data.frame(
    id = sprintf("i%03d", seq_len(n)), part = sample(c("High", "Low", "", "Refused"), n, TRUE),
    a = sample(answers, n, TRUE), b = sample(answers, n, TRUE), d = sample(answers, n, TRUE),
    x = sample(c(0:40, "", "", "Refused", "99"), n, TRUE), y = sample(c(0:9, ""), n, TRUE)
  )
}
