# R CMD check without the PDF manual; anything but a clean result fails. What is given goes to it
# (`--no-tests`).

r <- file.path(R.home("bin"), "R")
unlink(c(Sys.glob("mavik_*.tar.gz"), "mavik.Rcheck"), recursive = TRUE)
if (system2(r, c("CMD", "build", ".")) != 0) quit(save = "no", status = 1)
built <- Sys.glob("mavik_*.tar.gz")
# Debug symbols make the library larger than a package should be.
flags <- tempfile()
writeLines(c("CXXFLAGS = -O2", "CXX17FLAGS = -O2"), flags)
Sys.setenv(R_MAKEVARS_USER = flags, MAVIK_SOURCE = getwd(), LOCPATH_MAVIK = file.path(getwd(), ".build", "locales"), "_R_CHECK_FUTURE_FILE_TIMESTAMPS_" = "false")
status <- system2(r, c("CMD", "check", "--no-manual", commandArgs(TRUE), built))
log <- readLines("mavik.Rcheck/00check.log")
clean <- status == 0 && any(grepl("^Status: OK", log))
cat(if (clean) "check: clean\n" else "check: NOT clean\n")
quit(save = "no", status = if (clean) 0 else 1)
