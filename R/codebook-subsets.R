# Named conditions, and the weight of the study: what is said once and used by name.

# The texts of the subsets by name; they become conditions where they are used.
read_subsets <- function(value, variables, say) {
  if (is.null(value)) return(NULL)
  if (!is_map(value)) {
    say("subsets", "must hold conditions with names of their own")
    return(NULL)
  }
  check_names(names(value), "subsets", study_name, say)
  sound <- vapply(names(value), function(name) {
    path <- c("subsets", name)
    if (!is_text(value[[name]])) {
      say(path, "must be one condition, `singers: 'member == \"Yes\"'`")
    } else if (name %in% reserved_words) {
      say(path, paste0("`", name, "` has a meaning of its own in conditions: give another name"))
    } else if (name %in% names(variables)) {
      say(path, paste0("`", name, "` is the name of a variable or block: give another name"))
    } else return(TRUE)
    FALSE
  }, TRUE)
  value[sound]
}

# Each is read by itself, so that what is wrong is told where it stands.
check_subsets <- function(book, say) {
  for (name in names(book$subsets)) {
    if (name %in% names(book$variables)) say(
      c("subsets", name), paste0("`", name, "` is the name of a variable: give another name")
    )
    compile_expression(book$subsets[[name]], book, c("subsets", name), say, open = name)
  }
}

check_study_weight <- function(book, say) {
  weight <- book$study$weight
  if (is.null(weight) || weight %in% book$unread) return()
  problem <- weight_problem(weight, book)
  if (!is.null(problem)) say(c("study", "weight"), problem)
}

# The weight that is meant: the study's where none is named, none where `none` is.
weight_meant <- function(weight, book) {
  if (is.null(weight)) weight <- book$study$weight
  if (identical(weight, "none")) NULL else weight
}

# Why a variable cannot be a weight; NULL where it can.
weight_problem <- function(weight, book) {
  if (weight == "none") return("`none` stands for no weight: give the variable another name")
  variable <- book$variables[[weight]]
  if (is.null(variable)) return(paste0(
    "`", weight, "` is not a variable of this codebook",
    did_you_mean(weight, names(book$variables))
  ))
  if (isTRUE(variable$private)) return(
    paste0("`", weight, "` is private: nothing is shown of it")
  )
  if (!isTRUE(variable$failed) && !identical(variable$storage, "number")) return(
    paste0("`", weight, "` is no number (level ", variable$level, "): it cannot weight")
  )
}
