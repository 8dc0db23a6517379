# One and the same answer through a block. Where no item of it is reversed in a
# score, that may be an honest answer.

screen_straightlined <- new_screen(
  help = "drops or marks those who gave one answer through a whole block",
  example = "straightliner: {straightlined: belong, report: yes}",
  value = field("text", "the block, of at least three items", "belong"),
  makes = function(screen, book, say) {
    screen$reads <- book$blocks[[screen$settings]]
    if (is.null(screen$reads)) say(
      c(screen$path, "straightlined"),
      paste0(
        "`", screen$settings, "` is not a block", did_you_mean(screen$settings, names(book$blocks))
      )
    )
    else if (length(screen$reads) < 3) say(
      c(screen$path, "straightlined"), "needs a block of at least three items"
    )
    screen
  },
  compute = function(screen, inputs, state, book, n) {
    values <- lapply(inputs[screen$reads], `[[`, "value")
    same <- count_true(lapply(values, function(value) !is.na(value)), n) == length(values)
    for (value in values[-1]) same <- same & value == values[[1]]
    reversed <- unlist(lapply(
      book$variables, function(variable) if (is_score(variable)) variable$settings$reversed
    ))
    list(
      rows = which(same),
      more = if (!any(screen$reads %in% reversed))
        "no score reverses an item of this block: one answer through it may be honest"
    )
  },
  sentence = function(screen, book) paste0(
    "one answer through all items of `", screen$settings, "`"
  )
)
