# How many threads the user allows.

# As many as data.table may have, which is asked only where it is loaded or more than its own
# variable speaks for it: to load it takes longer than to build a small study.
threads_allowed <- function() {
  others <- c("R_DATATABLE_NUM_PROCS_PERCENT", "OMP_THREAD_LIMIT", "OMP_NUM_THREADS")
  if (isNamespaceLoaded("data.table") || any(nzchar(Sys.getenv(others)))) {
    return(data.table::getDTthreads())
  }
  said <- suppressWarnings(as.integer(Sys.getenv("R_DATATABLE_NUM_THREADS")))
  cores <- cores_here()
  if (isTRUE(said >= 1)) min(said, cores) else max(cores %/% 2L, 1L)
}
