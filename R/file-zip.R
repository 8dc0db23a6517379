# Workbooks and documents are archives whose entries bear the time of writing: a fixed one
# instead, so that equal contents are equal bytes.

fix_zip_times <- function(path) {
  bytes <- readBin(path, "raw", file.size(path))
  whole <- function(before, size) sum(
    as.integer(bytes[before + seq_len(size)]) * 256^(seq_len(size) - 1))
  end <- utils::tail(grepRaw("PK\005\006", bytes, all = TRUE, fixed = TRUE), 1) - 1
  count <- whole(end + 10, 2)
  entry_start <- whole(end + 16, 4)
  # 1 January 2000, midnight, in the archive's own form.
  stamp <- as.raw(c(0x00, 0x00, 0x21, 0x28))
  for (entry in seq_len(count)) {
    bytes[entry_start + 12 + 1:4] <- stamp
    local <- whole(entry_start + 42, 4)
    bytes[local + 10 + 1:4] <- stamp
    names <- whole(entry_start + 28, 2)
    bytes <- without_times(bytes, entry_start + 46 + names, whole(entry_start + 30, 2))
    bytes <- without_times(bytes, local + 30 + whole(local + 26, 2), whole(local + 28, 2))
    entry_start <- entry_start + 46 + names + whole(entry_start + 30, 2) +
      whole(entry_start + 32, 2)
  }
  write_checked(bytes, path)
}

# The extra fields of an entry: those of Unix times are set to the same moment.
without_times <- function(bytes, from, size) {
  byte <- from
  while (byte + 4 <= from + size) {
    kind <- as.integer(bytes[byte + 1:2])
    length <- sum(as.integer(bytes[byte + 3:4]) * c(1, 256))
    if (identical(kind, c(0x55L, 0x54L)) && length >= 5) for (k in seq(1, length - 4, by = 4))
      bytes[byte + 4 + k + 1:4] <- as.raw(c(0x80, 0x43, 0x6d, 0x38))
    byte <- byte + 4 + length
  }
  bytes
}
