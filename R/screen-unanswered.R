screen_unanswered <- new_screen(
  help = "drops those who answered nothing of what they were asked",
  example = "opened_only: {unanswered: [belong, practice]}",
  value = field("texts", "blocks and variables of which nothing is answered", "[belong, practice]"),
  makes = function(screen, book, say) {
    screen$reads <- screen$counts <- spread_names(
      screen$settings, c(screen$path, "unanswered"), book, say
    )
    screen
  },
  compute = function(screen, inputs, state, book, n) {
    asked <- state$asked
    answered <- state$answered
    list(rows = which(asked > 0L & answered == 0L))
  },
  sentence = function(screen, book) paste("nothing answered in", some_of(screen$settings, 8))
)
