# Digests (BLAKE2b, as `b2sum` prints them) are worked out in a process beside, where the
# system can fork one and the file is large: they then cost no time of their own.

file_digest <- function(path) {
  connection <- file(path, "rb")
  on.exit(close(connection))
  paste(format(unclass(openssl::blake2b(connection))), collapse = "")
}

bytes_digest <- function(bytes) paste(format(unclass(openssl::blake2b(bytes))), collapse = "")

# Begins at once; call what comes back to have the digest.
digest_beside <- function(path, large = 2^24) digests_beside(path, large)[[1]]

# Those of several files, by one process that takes one after the other.
digests_beside <- function(paths, large = 2^24) {
  job <- split_off(
    function() vapply(paths, file_digest, ""), isTRUE(sum(file.size(paths)) >= large)
  )
  digests <- NULL
  lapply(seq_along(paths), function(k) function() {
    if (is.null(digests)) digests <<- job$wait()
    digests[[k]]
  })
}
