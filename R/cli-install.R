#' Put the command `mavik` on the PATH
#'
#' Writes a small launcher that runs this installed package.
#'
#' @param dir A folder that is on the PATH; by default the first of
#'   `~/.local/bin` and `/usr/local/bin` that is on it and can be written to.
#' @return The path of the launcher, invisibly.
#' @section Errors: A folder that cannot be written to, or a `mavik` that stands
#'   there and is no such launcher.
#' @examples
#' basename(install_command(tempdir()))
#' @export
install_command <- function(dir = NULL) {
  if (is.null(dir)) {
    folders <- path.expand(c("~/.local/bin", "/usr/local/bin"))
    on_path <- strsplit(Sys.getenv("PATH"), .Platform$path.sep, fixed = TRUE)[[1]]
    dir <- folders[folders %in% on_path & file.access(folders, 2) == 0][1]
    if (is.na(dir)) stop_mavik(
      "write_error", "no folder of your own is on the PATH: name one, install_command(\"~/bin\")"
    )
  }
  if (!dir.exists(dir) || file.access(dir, 2) != 0) stop_mavik(
    "write_error", dir, ": is not a folder that you may write to"
  )
  path <- file.path(dir, "mavik")
  mark <- "# Runs the R package mavik."
  if (file.exists(path) && !mark %in% readLines(path, warn = FALSE)) stop_mavik(
    "write_error", path, ": another file of this name stands there"
  )
  # R starts faster without the packages that it attaches for who types at it, with room for what it
  # loads, which it would else clear away again and again, and in large pages of memory.
  start <- paste(shQuote(file.path(R.home("bin"), "Rscript")), "--default-packages=NULL")
  script <- system.file("exec", "mavik", package = "mavik", mustWork = TRUE)
  library <- dirname(system.file(package = "mavik"))
  writeLines(c(
    "#!/bin/sh", mark, paste0("R_LIBS=", shQuote(library), "${R_LIBS:+:$R_LIBS}"),
    "R_NSIZE=${R_NSIZE:-1500000} R_VSIZE=${R_VSIZE:-64M}",
    "GLIBC_TUNABLES=${GLIBC_TUNABLES:-glibc.malloc.hugetlb=1}",
    "export R_LIBS R_NSIZE R_VSIZE GLIBC_TUNABLES",
    paste("exec", start, shQuote(script), "\"$@\"")
  ), path)
  Sys.chmod(path, "755")
  message("`mavik` stands in ", dir)
  invisible(path)
}
