# Facts that stay the same from wave to wave: year of birth, first language. An
# answer that differs from the person's first one breaks the rule.

rule_constant <- new_rule(
  help = "facts that must not change from wave to wave",
  example = "same_start: {constant: [joined, debut]}",
  value = field("texts", "the facts: variables or blocks", "[joined, debut]"),
  makes = function(rule, book, say) {
    path <- c(rule$path, "constant")
    if (!is_panel(book)) say(
      path,
      paste0(
        "has a meaning in a panel only, where a key is the same person in every wave: say ",
        "`design: panel` under `study`"
      )
    )
    rule$reads <- spread_names(rule$settings, path, book, say)
    rule
  },
  compute = function(rule, inputs, book, rows) {
    person <- match(rows$key, unique(rows$key))
    differs <- lapply(inputs[rule$items], function(column) {
      told <- which(!is.na(column$value))
      first <- told[!duplicated(person[told])]
      before <- first[match(person, person[first])]
      which(rows$wave != rows$wave[before] & column$value != column$value[before])
    })
    names <- rule$items[lengths(differs) > 0]
    list(
      rows = sort(unique(unlist(differs))),
      more = paste0(names, " of ", lengths(differs)[lengths(differs) > 0], collapse = ", ")
    )
  },
  sentence = function(rule, book) paste0(some_of(rule$items, 8),
    " must stay the same from wave to wave")
)
