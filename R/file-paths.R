# Where a path really leads.

real_path <- function(path) {
  path <- path.expand(path)
  if (file.exists(path)) return(place_led_to(path))
  above <- dirname(path)
  if (above == path) return(path)
  above <- real_path(above)
  paste0(above, if (!endsWith(above, "/")) "/", basename(path))
}

# The package fs does it on every system and in every locale. To load it takes some 50 ms of each
# command, where base R asks the system the same.
place_led_to <- function(path) {
  if (.Platform$OS.type == "unix" && stringi::stri_enc_isascii(path)) {
    real <- normalizePath(path, mustWork = TRUE)
    if (stringi::stri_enc_isascii(real)) return(real)
  }
  as.character(fs::path_real(path))
}

# Small and capital letters are one to some systems: where names differ in these alone, the
# system's own number of a file or folder tells.
same_file <- function(a, b) {
  if (is.null(b) || !file.exists(a) || !file.exists(b)) return(FALSE)
  places <- c(real_path(a), real_path(b))
  if (places[1] == places[2]) return(TRUE)
  tolower_ascii(places[1]) == tolower_ascii(places[2]) && identical(place_of(a), place_of(b))
}

place_of <- function(path) {
  facts <- fs::file_info(path)
  c(facts$device_id, facts$inode)
}

# Whether it is one of these places, or lies in one of them.
is_among <- function(path, places) any(vapply(as.character(places), function(place) {
  real_path(path) == real_path(place) || same_file(path, place) || is_inside(path, place)
}, TRUE))

# Below a folder, at whatever depth.
is_inside <- function(path, folder) {
  here <- real_path(path)
  there <- real_path(folder)
  while (dirname(here) != here) {
    here <- dirname(here)
    if (here == there || same_file(here, there)) return(TRUE)
  }
  FALSE
}

# How a project names a file: from its own folder where it lies inside.
named_from <- function(file, project) {
  if (is.null(project)) return(file)
  real <- real_path(file)
  start <- paste0(sub("/$", "", real_path(project)), "/")
  if (startsWith(real, start)) return(substring(real, nchar(start) + 1))
  if (is_inside(real, project)) as.character(fs::path_rel(real, real_path(project))) else real
}

# Size and time, to the last fraction of a second that the system keeps.
times_of <- function(files) {
  facts <- file.info(files)
  cbind(size = facts$size, mtime = as.double(facts$mtime), ctime = as.double(facts$ctime))
}

# As a kernel opens it.
local_path <- function(path) enc2native(path.expand(path))
