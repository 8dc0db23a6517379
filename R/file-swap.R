# An output folder is whole at every moment: it is written beside and swapped in
# under a lock, and what a killed build left is set right by the next one.

# Runs `write(beside)` for a new folder that then takes the place of `place`.
replace_folder <- function(place, out, write) {
  lock <- take_lock(place, out)
  on.exit(release_lock(place, lock))
  recover_folder(place)
  beside <- paste0(place, ".writing-", random_name())
  if (!dir.create(beside, showWarnings = FALSE)) stop_mavik(
    "write_error", out, ": the folder cannot be written beside it; check its permissions"
  )
  on.exit(unlink(beside, recursive = TRUE), add = TRUE, after = FALSE)
  write(beside)
  for (file in list.files(beside, full.names = TRUE)) {
    problem <- sync_file(enc2native(file))
    if (nzchar(problem)) stop_mavik("write_error", file.path(out, basename(file)),
      ": cannot be written (", problem, "); the earlier outputs stand as they were")
  }
  sync_folder(enc2native(beside))
  swap_in(beside, place)
  sync_folder(enc2native(dirname(place)))
}

swap_in <- function(beside, place) {
  old <- paste0(place, ".before-", random_name())
  had <- file.exists(place)
  rename <- function(from, to) suppressWarnings(file.rename(from, to))
  if (had && !rename(place, old)) stop_mavik("write_error", place,
    ": is in use or may not be replaced; nothing was changed")
  if (!rename(beside, place)) {
    if (had) rename(old, place)
    stop_mavik("write_error", place, ": could not be put in place; what stood there is unchanged")
  }
  if (had && !clear_folder(old)) signal_notice(
    "the earlier outputs could not be removed and stand in ", old, "; the next build tries again"
  )
}

# What stopped builds left beside: the earlier outputs go back where the stop fell
# between the two renames, all else goes.
recover_folder <- function(place) {
  left <- list.files(dirname(place), paste0("^", quote_regex(basename(place)),
    "[.](writing|before|locking)-[A-Za-z0-9]+$"), full.names = TRUE)
  before <- left[grepl("[.]before-[A-Za-z0-9]+$", left)]
  before <- before[order(file.mtime(before), decreasing = TRUE)]
  if (!file.exists(place) && length(before) > 0 && file.rename(before[1], place)) {
    signal_notice("a build was stopped while it replaced ", place,
      ": the earlier outputs are put back")
    left <- setdiff(left, before[1])
  }
  gone <- left[vapply(left, clear_folder, TRUE)]
  if (length(gone) > 0) signal_notice("removed what a stopped build had left: ",
    some_of(basename(gone), 5))
}

# A folder that may not be written to is opened first.
clear_folder <- function(folder) {
  inside <- list.files(folder, all.files = TRUE, recursive = TRUE, include.dirs = TRUE,
    full.names = TRUE)
  suppressWarnings(Sys.chmod(c(folder, inside[dir.exists(inside)]), "700"))
  unlink(folder, recursive = TRUE)
  !file.exists(folder)
}

quote_regex <- function(text) gsub("([^A-Za-z0-9_-])", "\\\\\\1", text)

# The lock is a folder that names who holds it. It is made beside and renamed, which only one
# process can do: so it is never there without its owner, wherever a build is killed.
take_lock <- function(place, out) {
  lock <- paste0(place, ".lock")
  for (try in 1:3) {
    if (put_lock(place, lock, out)) return(lock)
    if (file.exists(lock) && !dir.exists(lock)) break
    owner <- lock_owner(lock)
    if (is_alive(owner, lock)) {
      stop_mavik("write_error", out, ": another build writes there", owner_named(owner),
        "; wait for it, or remove ", lock, " if it is no more")
    }
    free_lock(place, lock, owner)
  }
  stop_mavik("write_error", out, ": the lock ", lock,
    " cannot be taken; remove it if no build writes there")
}

# Whoever holds the lock may take away what is about to become one.
put_lock <- function(place, lock, out) {
  mine <- paste0(place, ".locking-", random_name())
  if (!dir.create(mine, showWarnings = FALSE)) stop_mavik("write_error", out,
    ": the folder cannot be written beside it; check its permissions")
  on.exit(unlink(mine, recursive = TRUE))
  tryCatch(write_checked(line_bytes(c(this_process(), "")), file.path(mine, "owner")),
    error = function(e) if (dir.exists(mine)) stop(e))
  !file.exists(lock) && suppressWarnings(file.rename(mine, lock))
}

# Let go of at once: to delete a folder takes a step for the owner and one for the folder.
release_lock <- function(place, lock) {
  gone <- paste0(place, ".locking-", random_name())
  unlink(if (suppressWarnings(file.rename(lock, gone))) gone else lock, recursive = TRUE)
}

# A lock that somebody has taken since it was looked at goes back.
free_lock <- function(place, lock, owner) {
  gone <- paste0(place, ".locking-", random_name())
  if (!suppressWarnings(file.rename(lock, gone))) return(invisible())
  if (!identical(lock_owner(gone), owner)) file.rename(gone, lock)
  unlink(gone, recursive = TRUE)
}

owner_named <- function(owner) if (length(owner) > 1) paste0(" (process ", owner[2],
  if (length(owner) > 3) paste(" of", owner[4]), " on ", owner[1], ")")

lock_owner <- function(lock) tryCatch(suppressWarnings(readLines(file.path(lock, "owner"))),
  error = function(e) character())

# Host, number, when it began (numbers come again, also after a restart), and whose it is.
this_process <- function() c(Sys.info()[["nodename"]], Sys.getpid(), process_began(Sys.getpid()),
  Sys.info()[["user"]])

process_began <- function(pid) {
  stat <- tryCatch(suppressWarnings(readLines(file.path("/proc", pid, "stat"), n = 1)),
    error = function(e) NULL)
  if (length(stat) == 0) return("")
  boot <- tryCatch(suppressWarnings(readLines("/proc/sys/kernel/random/boot_id", n = 1)),
    error = function(e) "")
  fields <- strsplit(sub("^.*[)] ", "", stat), " ", fixed = TRUE)[[1]]
  # One that has ended and that nobody has taken note of yet is still listed.
  if (fields[1] %in% c("Z", "X")) return("ended")
  paste(boot, fields[20])
}

# A lock whose owner is not written yet may be a second old; on another host nobody can ask.
is_alive <- function(owner, lock) {
  if (length(owner) < 2) return(isTRUE(difftime(Sys.time(), file.mtime(lock), units = "secs") < 30))
  if (owner[1] != Sys.info()[["nodename"]]) return(TRUE)
  pid <- suppressWarnings(as.integer(owner[2]))
  if (is.na(pid) || !isTRUE(tools::pskill(pid, 0L))) return(FALSE)
  began <- process_began(pid)
  # Where the system does not say, or the process has just ended.
  if (!nzchar(began)) return(isTRUE(tools::pskill(pid, 0L)))
  is.na(owner[3]) || identical(began, owner[3])
}
