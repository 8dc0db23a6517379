# Installs the package where R looks first and may write.

library <- .libPaths()[1]
if (file.access(library, 2) != 0) {
  library <- Sys.getenv("R_LIBS_USER")
  dir.create(library, recursive = TRUE, showWarnings = FALSE)
}
# As many files at once are compiled as there are cores.
if (!nzchar(Sys.getenv("MAKEFLAGS"))) Sys.setenv(MAKEFLAGS = paste0("-j", max(1L, parallel::detectCores(), na.rm = TRUE)))
status <- system2(file.path(R.home("bin"), "R"), c("CMD", "INSTALL", "--no-test-load", paste0("--library=", shQuote(library)), "."))
quit(save = "no", status = status)
