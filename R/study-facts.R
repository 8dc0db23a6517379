# What a build rested on: raw files and sheets, with their digests.

# Facts of all raw files, in the order of the exports.
facts_of_inputs <- function(inputs, book) {
  facts <- unlist(lapply(inputs, function(input) {
    c(list(input$facts), lapply(unname(input$parallels), `[[`, "facts"))
  }), recursive = FALSE)
  facts[order(match(vapply(facts, `[[`, "", "export"), names(book$exports)))]
}

# Where threads are allowed, two processes decode: digests are begun when they have done that.
begin_digests <- function(facts) {
  for (fact in facts) if (is.function(fact$blake2b)) fact$blake2b(begin = TRUE)
}

await_digest <- function(facts) {
  if (is.function(facts$blake2b)) facts$blake2b <- facts$blake2b()
  facts
}

# Files beside the exports that a build rests on.
sheet_facts <- function(book, digests) {
  files <- Filter(Negate(is.null), sheet_files(book))
  unname(Map(function(name, file) {
    path <- export_path(list(file = file), book)
    if (!file.exists(path)) return(NULL)
    list(
      sheet = name, file = file, blake2b = if (digests) file_digest(path), bytes = file.size(path)
    )
  }, names(files), files))
}
