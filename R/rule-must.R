rule_must <- list(
  value = field("condition", "the condition that must hold"),
  beside = list(),
  makes = function(rule, book, say) {
    rule$condition <- compile_expression(rule$settings, book, c(rule$path, "must"), say)
    rule$reads <- rule$condition$uses
    rule
  },
  compute = function(rule, inputs, book, rows) list(rows = which(!evaluate_expression(rule$condition, inputs, rows$n))),
  sentence = function(rule, book) paste0("`", text_squeeze(rule$settings), "` must hold")
)
