# Work whose result is a file, done by a process that splits off this one and shares its memory.

# Begins at once where the user has processes at work and the system lets them split off; what comes
# back waits for it, or does the work here where there was none, or where it did not get to its end.
# `stop_waiting()` of it ends the other process.
split_off <- function(work) {
  if (!has_workers() || !future::supportsMulticore()) return(list(
    wait = work, stop_waiting = function() NULL
  ))
  job <- parallel::mcparallel(quietly_done(work), mc.set.seed = FALSE, silent = TRUE)
  fetched <- FALSE
  fetch <- function() {
    fetched <<- TRUE
    suppressWarnings(parallel::mccollect(job))[[1]]
  }
  list(
    wait = function() {
      got <- fetch()
      if (inherits(got, "error")) stop(got)
      if (!identical(got, "done")) work()
    },
    stop_waiting = function() if (!fetched) {
      tools::pskill(job$pid)
      fetch()
    }
  )
}

# Its progress is nobody's: the process that waits tells its own.
quietly_done <- function(work) tryCatch({
  tell_no_progress()
  work()
  "done"
}, error = function(e) e)
