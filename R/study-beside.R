# Answers are decoded variable by variable, and none looks at another: so processes beside
# decode some each, and leave the columns in files.

# The `names` of the variables that are decoded beside, and what they come to, by variable, when
# it is waited for; none where there is nobody to do it, or too little.
decode_beside <- function(reading, inputs, book, offsets, corrected) {
  nobody <- list(names = character(), wait = list, stop_waiting = function() NULL)
  alone <- vapply(
    reading, function(variable) length(way_of(variable)$follows(variable)) == 0, TRUE
  )
  # Corrections need the sheet.
  names <- setdiff(names(reading)[alone], corrected)
  if (is.null(book$held) || length(names) < 2) return(nobody)
  job <- list(offsets = offsets, book = book_for_decoding(book))
  if (!has_workers()) {
    if (threads_for(offsets[length(offsets)]) < 2) return(nobody)
    return(decode_half(reading[names], inputs, book, job))
  }
  waits <- all(vapply(inputs, function(input) is_waiting(input$columns), TRUE))
  if (!waits) return(nobody)
  signal_progress("decode", count_of(length(names), "variable"))
  groups <- split(names, seq_along(names) %% min(length(names), 2 * future::nbrOfWorkers()))
  job$inputs <- lapply(inputs, `[`, c("columns", "facts", "parallels"))
  tasks <- lapply(groups, function(names) c(job, list(reading = reading[names])))
  done <- at_work(tasks, decode_task, function(task) paste(
    "decoding", some_of(names(task$reading), 5)
  ))
  list(
    names = names, wait = function() unlist(unname(done), recursive = FALSE),
    stop_waiting = function() NULL
  )
}

# Every other variable by a process that splits off. Texts stay: to hand over many takes longer
# than to decode them.
decode_half <- function(reading, inputs, book, job) {
  reading <- Filter(function(variable) variable$storage != "text", reading)
  job$reading <- reading[seq_along(reading) %% 2 == 0]
  # What nobody there reads is not kept for it.
  columns <- lapply(pending_columns(job$reading, inputs, book), names)
  job$inputs <- Map(function(input, columns) {
    input$columns <- input$columns[intersect(columns, names(input$columns))]
    input[c("columns", "facts", "parallels")]
  }, inputs, columns)
  other <- split_off(function() decode_task(job), length(job$reading) > 0)
  c(list(names = names(job$reading)), other)
}

decode_task <- function(task) lapply(task$reading, function(variable) {
  answers <- decode_variable(variable, task$inputs, task$book, task$offsets, NULL)
  answers$column <- stored_column(answers$column, task$book$held)
  answers
})

# What another process decoded, as a column and entries of this one.
fetched <- function(decoded, folder) {
  decoded$column <- mapped_column(decoded$column)
  decoded$ledger <- held_entries(decoded$ledger, folder)
  decoded
}

book_for_decoding <- function(book) {
  book[c("document", "declared", "releases", "work", "work_uses")] <- NULL
  book
}
