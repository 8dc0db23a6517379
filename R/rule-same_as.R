# Two variables that should agree: coded ones by their labels, others as they are.

rule_same_as <- new_rule(
  help = "two variables or two parallel exports that should agree",
  example = "low_twice: {same_as: [evenings_dec, evenings_jan]}",
  value = field(
    "texts", "the two that should agree: variables, or parallel exports",
    "[spring_web, spring_codes]"
  ),
  makes = function(rule, book, say) {
    path <- c(rule$path, "same_as")
    if (length(rule$settings) != 2) say(
      path, "takes two variables, or an export and the one that adds to it"
    )
    if (are_parallels(rule$settings, book)) {
      rule$files <- rule$settings
      rule$reads <- names(Filter(is_answer, book$variables))
      return(rule)
    }
    if (any(rule$settings %in% names(book$exports))) {
      say(
        path,
        paste0(
          "of two exports one must add to the other (`adds_to`): only then are they the same ",
          "responses"
        )
      )
    }
    rule$reads <- spread_names(setdiff(rule$settings, names(book$exports)), path, book, say)
    rule
  },
  compute = function(rule, inputs, book, rows) {
    sides <- lapply(rule$items[1:2], function(name) comparable(inputs[[name]]$value,
      book$variables[[name]], book$variables[rule$items[1:2]]))
    list(rows = which(sides[[1]] != sides[[2]]))
  },
  sentence = function(rule, book) paste(some_of(rule$settings), "should agree")
)

are_parallels <- function(names, book) {
  bases <- vapply(
    book$exports[intersect(names, names(book$exports))],
    function(export) paste0(export$adds_to, ""), ""
  )
  length(bases) == 2 && any(bases %in% names)
}

# Values that two variables can be compared by.
comparable <- function(value, variable, both) {
  storage <- vapply(both, `[[`, "", "storage")
  if (
    all(storage == "number") ||
    (all(storage == "date") && length(unique(vapply(both, `[[`, "", "level"))) == 1)
  ) return(value)
  if (all(storage == "coded") && identical(both[[1]]$codes, both[[2]]$codes)) return(value)
  known <- unique(value[!is.na(value)])
  text <- if (is_coded(variable)) label_of(variable, known) else value_text(variable, known)
  text_fold(text)[match(value, known)]
}
