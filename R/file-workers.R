# Work that falls into tasks goes to whatever plan of `future` is set: processes of this
# machine, of others, or jobs of a cluster; here, one after the other, where there is none.

# `work(task)` for each task, in their order. A task that fails is tried once more; `say(task)`
# names it where that fails too. `done(n)` is told how many there are.
at_work <- function(tasks, work, say, done = function(n) NULL) {
  if (length(tasks) < 2 || !has_workers()) return(work_here(tasks, work, say, done))
  theirs <- options(future.globals.maxSize = Inf)
  on.exit(options(theirs))
  results <- vector("list", length(tasks))
  open <- seq_along(tasks)
  failed <- integer(length(tasks))
  running <- list()
  pause <- 0.01
  while (length(open) + length(running) > 0) {
    while (length(open) > 0 && length(running) < future::nbrOfWorkers()) {
      task <- open[1]
      open <- open[-1]
      running[[as.character(task)]] <- send_out(tasks[[task]], work)
    }
    ready <- Filter(function(name) is_ready(running[[name]]), names(running))
    # To ask often takes from the workers' time.
    if (length(ready) == 0) Sys.sleep(pause)
    pause <- if (length(ready) == 0) min(0.1, 1.5 * pause) else 0.01
    for (name in ready) {
      task <- as.integer(name)
      got <- fetch_back(running[[name]])
      running[[name]] <- NULL
      if (is.null(got$problem)) {
        results[task] <- list(got$value)
        done(length(tasks) - length(open) - length(running))
        next
      }
      failed[task] <- failed[task] + 1L
      if (failed[task] > 1) stop_part(say(tasks[[task]]), got$problem)
      open <- c(task, open)
      if (!got$lost) next
      # A worker that is gone takes the plan's others with it: all are begun anew.
      open <- sort(c(open, as.integer(names(running))))
      running <- list()
      renew_workers()
      break
    }
  }
  results
}

has_workers <- function() isNamespaceLoaded("future") &&
  !inherits(future::plan(), "sequential")

work_here <- function(tasks, work, say, done) lapply(seq_along(tasks), function(k) {
  out <- tryCatch(work(tasks[[k]]), mavik_error = stop, error = function(e) tryCatch(
    work(tasks[[k]]), mavik_error = stop,
    error = function(e) stop_part(say(tasks[[k]]), conditionMessage(e))
  ))
  done(k)
  out
})

stop_part <- function(named, problem) stop_mavik("build_error", named, " failed twice (",
  text_squeeze(problem), "); nothing was written; build again")

# What stops with an error of ours comes back as it is, and stops here.
send_out <- function(task, work) tryCatch(
  future::future(tryCatch(list(value = work(task)), mavik_error = function(e) list(stopped = e)),
    globals = list(work = work, task = task), packages = "mavik", seed = NULL, lazy = FALSE),
  error = function(e) structure(list(problem = conditionMessage(e)), class = "mavik_unsent")
)

is_ready <- function(sent) inherits(sent, "mavik_unsent") ||
  tryCatch(future::resolved(sent), error = function(e) TRUE)

fetch_back <- function(sent) {
  if (inherits(sent, "mavik_unsent")) return(list(problem = sent$problem, lost = TRUE))
  got <- tryCatch(future::value(sent), FutureError = function(e) list(
    problem = paste("the worker is gone:", conditionMessage(e)), lost = TRUE
  ), error = function(e) list(problem = conditionMessage(e), lost = FALSE))
  if (!is.null(got$stopped)) stop(got$stopped)
  got
}

# The same plan from its beginning.
renew_workers <- function() {
  plan <- future::plan("list")
  future::plan(future::sequential)
  future::plan(plan)
}
