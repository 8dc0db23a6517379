# Digests (BLAKE2b, as `b2sum` prints them) are worked out in a process beside, where the
# system can fork one and the file is large: they then cost no time of their own.

file_digest <- function(path) {
  size <- file.size(path)
  plain <- isTRUE(size > 0) && !dir.exists(path)
  if (plain && size < 2^22) return(bytes_digest(readBin(path, "raw", size)))
  digest <- if (plain) pass_over(local_path(path), size, bytes_digest)
  if (!is.null(digest)) return(digest)
  connection <- file(path, "rb")
  on.exit(close(connection))
  as_hex(openssl::blake2b(connection))
}

# The library that is loaded in a tenth of the other's time, and faster.
bytes_digest <- function(bytes) as_hex(sodium::hash(bytes, size = 64L))

as_hex <- function(hash) paste(format(unclass(hash)), collapse = "")

# The digest of fewer bytes takes no longer than to split off a process, after which each page of
# memory that is written to is copied once.
worth_splitting <- 2^27

# Begins at once, or where it is `later` when what comes back is first called, with `begin` or to
# have the digest.
digest_beside <- function(path, large = worth_splitting, written = FALSE, later = FALSE) {
  digests_beside(path, large, written, later)[[1]]
}

# Those of several files, by one process that takes one after the other. What was `written` is
# brought to the disk meanwhile; who needs it there looks once more, which then takes no time.
digests_beside <- function(paths, large = worth_splitting, written = FALSE, later = FALSE) {
  force(paths)
  job <- digests <- NULL
  start <- function() job <<- split_off(function() {
    digests <- vapply(paths, file_digest, "")
    if (written) for (path in paths) sync_file(local_path(path))
    digests
  }, isTRUE(sum(file.size(paths)) >= large))
  if (!later) start()
  lapply(seq_along(paths), function(k) function(begin = FALSE) {
    if (is.null(job)) start()
    if (begin) return(NULL)
    if (is.null(digests)) digests <<- job$wait()
    digests[[k]]
  })
}

# Of a file that has been read: the digest that was begun is to be one of what was read.
digest_as_read <- function(digest, path, before, shown) {
  force(digest)
  function(begin = FALSE) {
    sum <- digest(begin)
    if (!begin) check_as_read(path, before, shown)
    sum
  }
}

check_as_read <- function(path, before, shown) {
  if (!identical(before, times_of(path))) stop_read(shown, NULL,
    "changed while it was read; build again")
}
