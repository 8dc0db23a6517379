# Who does the work of a build: processes of this machine, or what the user's plan file says.

# Runs `expr` under the plan, where files are read in parts; `workers` is how many the command
# line says.
with_plan <- function(workers, book, expr) {
  plan <- if (!is.null(workers)) list(plan = "multisession", workers = workers) else
    read_plan(plan_file())
  if (is.null(plan)) return(with_threads(threads_of_size(
    delimited_sizes(list(exports = locate_exports(book, list())))
  ), expr))
  here <- c("sequential", "multisession")
  if (plan$plan %in% here && identical(plan$workers, 1L)) return(expr)
  # Jobs of a cluster are told in files, beside the parts.
  jobs <- paste0(work_place(book), "-jobs")
  theirs <- options(future.cache.path = jobs)
  on.exit({
    options(theirs)
    unlink(jobs, recursive = TRUE)
  })
  old <- begin_plan(plan)
  on.exit(future::plan(old), add = TRUE, after = FALSE)
  if (plan$plan != "multisession") return(expr)
  # What is written is not sent to others: it takes as many threads instead.
  with_threads(plan$workers, expr)
}

with_threads <- function(at_least, expr) {
  if (at_least <= threads_allowed()) return(expr)
  threads <- data.table::setDTthreads(at_least)
  on.exit(data.table::setDTthreads(threads))
  expr
}

plan_file <- function() file.path(tools::R_user_dir("mavik", "config"), "plan.yml")

# All cores where raw files are large: threads are there at once, workers take seconds to begin.
threads_of_size <- function(sizes) {
  if (sum(sizes) < large_file) 1L else as.integer(min(parallelly::availableCores(), 8))
}

plan_keys <- c("plan", "workers", "template", "resources")
plan_names <- c("sequential", "multisession", "cluster", "batchtools_slurm")

# NULL where there is no such file. It is a document and no code: names of a closed list.
read_plan <- function(file) {
  if (!file.exists(file)) return(NULL)
  wrong <- function(...) stop_mavik("usage_error", file, ": ", ...)
  said <- tryCatch(yaml::read_yaml(file), error = function(e) wrong(
    "cannot be read as YAML: ", text_squeeze(conditionMessage(e))
  ))
  if (!is.list(said) || is.null(names(said))) wrong("says no plan; it begins with `plan: ",
    "multisession`")
  odd <- setdiff(names(said), plan_keys)
  if (length(odd) > 0) wrong("`", odd[1], "` is not one of its keys (", some_of(plan_keys), ")",
    did_you_mean(odd[1], plan_keys))
  if (!isTRUE(said$plan %in% plan_names)) wrong("`plan` is one of ", some_of(plan_names),
    if (length(said$plan) == 1) did_you_mean(said$plan, plan_names))
  if (said$plan == "cluster" && !is.character(said$workers)) wrong(
    "the plan `cluster` names its machines, `workers: [anna, berta]`"
  )
  hosts <- said$plan == "cluster"
  if (!hosts && !is.null(said$workers)) said$workers <- count_said(said$workers, "workers")
  if (said$plan == "sequential") said$workers <- 1L
  said$file <- file
  said
}

# Sets the plan and gives the one before.
begin_plan <- function(plan) {
  strategy <- switch(plan$plan, multisession = future::multisession, cluster = future::cluster,
    batchtools_slurm = slurm_plan(plan))
  workers <- if (is.null(plan$workers)) future::availableCores() else plan$workers
  if (plan$plan == "cluster") for (host in unique(workers)) check_reached(host, plan$file)
  tryCatch(
    if (plan$plan == "batchtools_slurm") future::plan(strategy) else future::plan(
      strategy, workers = workers
    ),
    error = function(e) stop_mavik("build_error", if (!is.null(plan$file)) paste0(plan$file, ": "),
      "the workers ", some_of(workers), " cannot be started (", text_squeeze(conditionMessage(e)),
      "); nothing was written")
  )
}

# A machine that is not there would be waited for, for many minutes.
check_reached <- function(host, file) {
  if (host %in% c("localhost", "127.0.0.1", Sys.info()[["nodename"]])) return(invisible())
  asked <- shQuote(c("-o", "BatchMode=yes", "-o", "ConnectTimeout=10", "--", host, "true"))
  said <- suppressWarnings(tryCatch(
    system2("ssh", asked, stdout = TRUE, stderr = TRUE),
    error = function(e) structure(conditionMessage(e), status = 1)
  ))
  if (is.null(attr(said, "status"))) return(invisible())
  stop_mavik("build_error", file, ": the machine `", host, "` cannot be reached (",
    text_squeeze(paste(said, collapse = " ")), "); nothing was written")
}

slurm_plan <- function(plan) {
  if (!requireNamespace("future.batchtools", quietly = TRUE)) stop_mavik("build_error", plan$file,
    ": the plan `batchtools_slurm` needs the R package future.batchtools; install it")
  template <- if (is.null(plan$template)) system.file("slurm.tmpl", package = "mavik") else
    path.expand(plan$template)
  future::tweak(getExportedValue("future.batchtools", "batchtools_slurm"), template = template,
    resources = as.list(plan$resources),
    workers = if (is.null(plan$workers)) 10L else plan$workers)
}
