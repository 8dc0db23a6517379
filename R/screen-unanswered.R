screen_unanswered <- list(
  value = field("texts", "blocks and variables of which nothing is answered"),
  beside = list(),
  makes = function(screen, book, say) {
    screen$reads <- screen$counts <- spread_names(screen$settings, c(screen$path, "unanswered"), book, say)
    screen
  },
  compute = function(screen, inputs, state, book, n) {
    put <- count_true(lapply(state[screen$counts], `[[`, "put"), n)
    answered <- count_true(lapply(state[screen$counts], `[[`, "answered"), n)
    list(rows = which(put > 0L & answered == 0L))
  },
  sentence = function(screen, book) paste("nothing answered in", some_of(screen$settings, 8))
)

count_true <- function(truths, n) {
  out <- integer(n)
  for (truth in truths) out <- out + truth
  out
}
