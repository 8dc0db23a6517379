rule_must <- new_rule(
  help = "a condition that must hold",
  example =
    paste0(
      "month_has_room: {must: 'practice_alone + practice_others + practice_lessons <= 44640', ",
      "sets_aside: all}"
    ),
  value = field(
    "condition", "the condition that must hold; it is broken where false", "practice_alone <= 44640"
  ),
  makes = function(rule, book, say) {
    rule$condition <- compile_expression(rule$settings, book, c(rule$path, "must"), say)
    rule$reads <- rule$condition$uses
    rule
  },
  compute = function(rule, inputs, book, rows) list(rows = which(!evaluate_expression(
    rule$condition, inputs, rows$n
  ))),
  sentence = function(rule, book) paste0("`", text_squeeze(rule$settings), "` must hold")
)
