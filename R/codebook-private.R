# What nobody may see of: private variables, and the key where one of them is it.

private_variables <- function(book) {
  own <- names(said_private(book))
  if (key_is_private(book)) unique(c(own, key_variable(book))) else own
}

said_private <- function(book) {
  book$variables[vapply(lapply(book$variables, `[[`, "private"), isTRUE, TRUE)]
}

key_variable <- function(book) {
  keys <- names(Filter(is_key, book$variables))
  if (length(keys) == 0) "" else keys[1]
}

# The key is private where a private variable is it, or reads its column.
key_is_private <- function(book) {
  keys <- unique(vapply(book$exports, `[[`, "", "key"))
  any(vapply(said_private(book), function(variable) {
    is_key(variable) || any(columns_of(variable) %in% keys)
  }, TRUE))
}

# Those of the analysis file.
kept_variables <- function(book) {
  hidden <- private_variables(book)
  names(Filter(
    function(variable) isTRUE(variable$kept) && !variable$name %in% hidden, book$variables
  ))
}
