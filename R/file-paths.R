# Where a path really leads.

real_path <- function(path) {
  path <- path.expand(path)
  if (file.exists(path)) return(normalizePath(path))
  if (dirname(path) == path) return(path)
  file.path(sub("/$", "", real_path(dirname(path))), basename(path))
}

is_inside <- function(path, folder) startsWith(real_path(path), paste0(real_path(folder), "/"))

same_file <- function(a, b) !is.null(b) && file.exists(a) && normalizePath(a) == normalizePath(b)

# How a project names a file: from its own folder where it lies inside.
named_from <- function(file, project) {
  if (is.null(project)) return(file)
  real <- real_path(file)
  home <- paste0(real_path(project), "/")
  if (startsWith(real, home)) substring(real, nchar(home) + 1) else real
}

# Size and time, to the last fraction of a second that the system keeps.
times_of <- function(files) {
  facts <- file.info(files)
  cbind(size = facts$size, mtime = as.double(facts$mtime), ctime = as.double(facts$ctime))
}
