# For each way a variable `made` and what it is made of, over the frame below.
rating <- function(column) list(column = column, label = column, level = "ordinal", codes = c("1" = "Never", "2" = "At times", "3" = "Often"))

way_examples <- list(
  is = list(made = list(is = "key", label = "Id")),
  column = list(made = rating("a")),
  recode = list(made = list(label = "R", recode = list(of = "part", to = list("1" = "Low"), gaps = list(refused = "High")), codes = c("1" = "Low"))),
  score = list(a = rating("a"), b = rating("b"), d = rating("d"),
    made = list(label = "S", score = list(of = c("a", "b", "d"), reversed = "b", take = "mean", at_least = 2)))
)

way_frame <- function(n = 60) {
  set.seed(4)
  answers <- c("Never", "at times", "Often", "", "Refused", "odd")
  data.frame(
    id = sprintf("i%03d", seq_len(n)), part = sample(c("High", "Low", "", "Refused"), n, TRUE),
    a = sample(answers, n, TRUE), b = sample(answers, n, TRUE), d = sample(answers, n, TRUE)
  )
}
