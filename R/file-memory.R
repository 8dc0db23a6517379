# Memory: how much is free, and room for what a large file leaves behind.

# In bytes; as good as endless where the system does not tell.
free_memory <- function() {
  said <- tryCatch(suppressWarnings(readLines("/proc/meminfo")), error = function(e) character())
  line <- grep("^MemAvailable:", said, value = TRUE)
  if (length(line) != 1) Inf else as.double(gsub("[^0-9]", "", line)) * 1024
}

# On the way to what it makes of a large file R would collect its memory again and again; where it
# has room for some of these bytes before, it does so less often.
make_room <- function(bytes) {
  if (bytes < 4e7) return(invisible())
  # Where there is no such room it takes longer.
  tryCatch(reserve_room(min(bytes / 2, 5e8, free_memory() / 8)), error = function(e) NULL)
}
