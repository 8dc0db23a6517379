screen_answered_less_than <- list(
  value = field("share_or_count", "the share of the questions put (0.5), or their number, that must be answered"),
  beside = list(of = field("texts", "blocks and variables that count", required = TRUE)),
  makes = function(screen, book, say) {
    screen$reads <- screen$counts <- spread_names(screen$of, c(screen$path, "of"), book, say)
    screen
  },
  compute = function(screen, inputs, state, book, n) {
    put <- count_true(lapply(state[screen$counts], `[[`, "put"), n)
    answered <- count_true(lapply(state[screen$counts], `[[`, "answered"), n)
    least <- if (screen$settings < 1) screen$settings * put - 1e-9 else pmin(screen$settings, put)
    list(rows = which(put > 0L & answered < least))
  },
  sentence = function(screen, book) {
    least <- screen$settings
    paste0("less than ", if (least < 1) paste(number_to_text(100 * least), "%") else number_to_text(least), " of the questions put answered (", some_of(screen$of, 8), ")")
  }
)
