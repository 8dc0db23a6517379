# Words for what several parts of the interface show.

kind_words <- c(
  key = "key", identifier = "identifier", response = "response number", paradata = "paradata",
  personal = "personal data",
  scale = "rating scale", choice = "single choice",
  several = "several answers", ticks = "tick box", number = "number", date = "date",
  text = "free text", constant = "constant", empty = "empty"
)

test_words <- function(test) {
  if (!is.null(test$pairs)) return(paste(c("the persons in both waves, p by Holm:",
    pair_words(test$pairs)), collapse = "\n    "))
  one_test_words(test, if (isTRUE(test$paired)) " persons in both waves")
}

one_test_words <- function(test, who = "") {
  p <- if (test$p < 0.001) "p < 0.001" else paste("p =", number_show(test$p, 3))
  paste0(test$name, " = ", number_show(test$statistic, 2), ", df = ",
    paste(ifelse(test$df == round(test$df), number_to_text(test$df), number_show(test$df, 1)),
    collapse = " and "), ", ", p, ", n = ", grouped(test$n), who,
    if (!is.null(test$difference))
      paste0(", difference of means ", number_show(test$difference, 2)))
}

pair_words <- function(pairs) {
  vapply(seq_len(nrow(pairs)), function(at) {
    one <- as.list(pairs[at, ])
    one$p <- one$p_holm
    paste0(one$before, " to ", one$now, ": ", one_test_words(one))
  }, "")
}
