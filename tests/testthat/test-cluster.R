# A cluster's jobs build what this machine builds: a real Slurm of one node.

test_that("jobs of a Slurm build the demo to the same bytes", {
  # Half a minute of waiting for a scheduler: `make slurm` and `make thorough` ask for it.
  skip_if(!nzchar(Sys.getenv("MAVIK_SLURM")) && !nzchar(Sys.getenv("MAVIK_THOROUGH")), "no Slurm was asked for (make slurm)")
  begin <- file.path(source_folder(), "tools", "slurm", "begin")
  skip_if_not(all(nzchar(Sys.which(c("slurmctld", "slurmd", "munged")))) && requireNamespace("future.batchtools", quietly = TRUE), "no Slurm here (make slurm sets one up)")
  folder <- tempfile("slurm")
  up <- system2(begin, folder, stdout = TRUE, stderr = TRUE)
  on.exit(system2(file.path(dirname(begin), "end"), folder))
  skip_if_not(is.null(attr(up, "status")), paste("Slurm cannot be set up here:", utils::tail(up, 1)))
  config <- tempfile("config")
  dir.create(file.path(config, "R", "mavik"), recursive = TRUE)
  writeLines(c("plan: batchtools_slurm", "workers: 2", "resources: {walltime: 600, memory: 500}"), file.path(config, "R", "mavik", "plan.yml"))
  project <- demo_project(tempfile())
  built <- installed("build", project, "--parts", "2", env = c(utils::tail(up, 1), paste0("R_USER_CONFIG_DIR=", config)))
  expect_equal(built$status, 0)
  here <- write_study(build_study(project), tempfile("out"))
  for (name in list.files(here)) expect_identical(bytes_of(file.path(project, "out", name)), bytes_of(file.path(here, name)), info = name)
  jobs <- grep("sched.*Allocate JobId", readLines(file.path(folder, "log", "slurmctld.log")), value = TRUE)
  expect_gte(length(jobs), 2)
  expect_equal(setdiff(list.files(file.path(project, ".mavik"), "jobs|parts"), "parts"), character())
})
