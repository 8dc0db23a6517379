# Workbooks and documents are archives whose entries bear the time of writing: a fixed one
# instead, so that equal contents are equal bytes.

fix_zip_times <- function(path) {
  bytes <- readBin(path, "raw", file.size(path))
  whole <- function(at, size) sum(as.integer(bytes[at + seq_len(size)]) * 256^(seq_len(size) - 1))
  end <- utils::tail(grepRaw("PK\005\006", bytes, all = TRUE, fixed = TRUE), 1) - 1
  count <- whole(end + 10, 2)
  at <- whole(end + 16, 4)
  # 1 January 2000, midnight, in the archive's own form.
  stamp <- as.raw(c(0x00, 0x00, 0x21, 0x28))
  for (entry in seq_len(count)) {
    bytes[at + 12 + 1:4] <- stamp
    local <- whole(at + 42, 4)
    bytes[local + 10 + 1:4] <- stamp
    names <- whole(at + 28, 2)
    bytes <- without_times(bytes, at + 46 + names, whole(at + 30, 2))
    bytes <- without_times(bytes, local + 30 + whole(local + 26, 2), whole(local + 28, 2))
    at <- at + 46 + names + whole(at + 30, 2) + whole(at + 32, 2)
  }
  write_checked(bytes, path)
}

# The extra fields of an entry: those of Unix times are set to the same moment.
without_times <- function(bytes, from, size) {
  at <- from
  while (at + 4 <= from + size) {
    kind <- as.integer(bytes[at + 1:2])
    length <- sum(as.integer(bytes[at + 3:4]) * c(1, 256))
    if (identical(kind, c(0x55L, 0x54L)) && length >= 5) for (k in seq(1, length - 4, by = 4))
      bytes[at + 4 + k + 1:4] <- as.raw(c(0x80, 0x43, 0x6d, 0x38))
    at <- at + 4 + length
  }
  bytes
}
