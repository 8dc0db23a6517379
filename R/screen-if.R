screen_if <- new_screen(
  help = "drops the respondents of whom a condition is true",
  example = "no_consent: {if: 'consent == \"No\" | is_missing(consent)', erase: yes}",
  value = field(
    "condition", "the condition that is true of those who are dropped", "kind == \"Trial\""
  ),
  makes = function(screen, book, say) {
    screen$condition <- compile_expression(screen$settings, book, c(screen$path, "if"), say)
    screen$reads <- screen$condition$uses
    screen
  },
  compute = function(screen, inputs, state, book, n) list(rows = which(evaluate_expression(
    screen$condition, inputs, n
  ))),
  sentence = function(screen, book) paste0("`", text_squeeze(screen$settings), "`")
)
