# Work done by a process that splits off this one and shares its memory.

# Begins at once where it `really` shall and the system lets processes split off. What comes back
# waits for the result, or does the work here where there was no such process, or it did not get to
# its end; `stop_waiting()` ends it.
split_off <- function(work, really = has_workers()) {
  if (!really || !parallelly::supportsMulticore()) return(list(
    wait = work, stop_waiting = function() NULL
  ))
  job <- parallel::mcparallel(tryCatch({
    # Its progress is nobody's: the process that waits tells its own.
    tell_no_progress()
    list(value = work())
  }, error = function(e) e), mc.set.seed = FALSE, silent = TRUE)
  fetched <- FALSE
  fetch <- function() {
    fetched <<- TRUE
    suppressWarnings(parallel::mccollect(job))[[1]]
  }
  list(
    wait = function() {
      got <- fetch()
      if (inherits(got, "error")) stop(got)
      if (is.null(got)) work() else got$value
    },
    stop_waiting = function() if (!fetched) {
      tools::pskill(job$pid)
      fetch()
    }
  )
}

# Whether a second process is worth it: there are workers, or the user allows threads and there is
# much to do.
shares_work <- function(rows) has_workers() || threads_for(rows) > 1

# Few rows need none.
threads_for <- function(rows) if (rows >= 1e5) threads_allowed() else 1L

# Does something to each item of a list; where work is shared every other one by a process that
# splits off.
by_two <- function(items, act, really = has_workers()) {
  theirs <- seq_along(items) %% 2 == 0
  other <- split_off(function() lapply(items[theirs], act), really && any(theirs))
  on.exit(other$stop_waiting())
  out <- vector("list", length(items))
  names(out) <- names(items)
  out[!theirs] <- lapply(items[!theirs], act)
  out[theirs] <- other$wait()
  out
}
