screen_answered_less_than <- new_screen(
  help = "drops those who answered too little of what they were asked",
  example = "too_little: {answered_less_than: 0.5, of: [belong, voice, years]}",
  value = field(
    "share_or_count", "the share of the questions asked, or their number, that must be answered",
    "0.5"
  ),
  beside = list(of = field(
    "texts", "blocks and variables that count", "[belong, voice]", required = TRUE
  )),
  makes = function(screen, book, say) {
    screen$reads <- screen$counts <- spread_names(screen$of, c(screen$path, "of"), book, say)
    screen
  },
  compute = function(screen, inputs, state, book, n) {
    asked <- state$asked
    answered <- state$answered
    least <- if (screen$settings < 1) screen$settings * asked - 1e-9 else pmin(
      screen$settings, asked
    )
    list(rows = which(asked > 0L & answered < least))
  },
  sentence = function(screen, book) {
    least <- screen$settings
    paste0(
      "less than ",
      if (least < 1) paste(number_to_text(100 * least), "%") else number_to_text(least),
      " of the questions asked answered (", some_of(screen$of, 8), ")"
    )
  }
)
