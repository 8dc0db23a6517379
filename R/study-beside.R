# Answers are decoded variable by variable, and none looks at another: so processes beside
# decode some each, and leave the columns in files.

# What was decoded beside, by variable; none where there is nobody to do it, or too little.
decode_beside <- function(reading, inputs, book, offsets, corrected) {
  if (is.null(book$held) || !has_workers()) return(list())
  waits <- all(vapply(inputs, function(input) is_waiting(input$columns), TRUE))
  alone <- vapply(
    reading, function(variable) length(way_of(variable)$follows(variable)) == 0, TRUE
  )
  # Corrections need the sheet.
  names <- setdiff(names(reading)[alone], corrected)
  if (!waits || length(names) < 2) return(list())
  signal_progress("decode", count_of(length(names), "variable"))
  groups <- split(names, seq_along(names) %% min(length(names), 2 * future::nbrOfWorkers()))
  job <- list(
    inputs = lapply(inputs, `[`, c("columns", "facts", "parallels")), offsets = offsets,
    book = book_for_decoding(book)
  )
  tasks <- lapply(groups, function(names) c(job, list(reading = reading[names])))
  done <- at_work(tasks, decode_task, function(task) paste(
    "decoding", some_of(names(task$reading), 5)
  ))
  unlist(unname(done), recursive = FALSE)
}

decode_task <- function(task) lapply(task$reading, function(variable) {
  answers <- decode_variable(variable, task$inputs, task$book, task$offsets, NULL)
  answers$column[c("value", "reason")] <- lapply(
    list(answers$column$value, answers$column$reason), stored_vector, folder = task$book$held
  )
  answers
})

# What another process decoded, as a column of this one.
fetched <- function(decoded) {
  decoded$column <- lapply(decoded$column[c("value", "reason")], mapped_vector)
  decoded
}

book_for_decoding <- function(book) {
  book[c("document", "declared", "releases", "work", "work_uses")] <- NULL
  book
}
