# Columns of large studies wait in files: what is held is a plain vector to all who read it,
# and takes no memory but for the pages that are looked at. A file may go as soon as it is
# mapped, so that a process that ends leaves nothing.

# `folder` is NULL where all stays in memory.
held_vector <- function(x, folder) {
  if (is.null(folder) || length(x) < least_held() || is_mapped(x)) return(x)
  mapped_vector(stored_vector(x, folder))
}

held_column <- function(column, folder) {
  column["value"] <- list(narrow_vector(column$value, folder))
  column["reason"] <- list(narrow_vector(column$reason, folder))
  if (is.null(folder)) return(column)
  shared <- same_places(column$value, column$reason)
  column["value"] <- list(held_vector(column$value, folder))
  column["reason"] <- list(
    if (shared) looked_like(column$reason, column$value) else held_vector(column$reason, folder)
  )
  column
}

# What another process can hand over of a column, and the column again.
stored_column <- function(column, folder) {
  column <- lapply(column[c("value", "reason")], narrow_vector, folder = folder)
  shared <- same_places(column$value, column$reason)
  list(
    value = stored_vector(column$value, folder), shared = shared,
    reason = if (shared) list(
      table = looked_parts(column$reason)$table, attributes = as.list(attributes(column$reason))
    ) else stored_vector(column$reason, folder)
  )
}

mapped_column <- function(stored) {
  value <- mapped_vector(stored$value)
  if (!stored$shared) return(list(value = value, reason = mapped_vector(stored$reason)))
  list(value = value, reason = at_places_of(value, stored$reason$table, stored$reason$attributes))
}

# A byte a row where few values occur.
narrow_vector <- function(x, folder) {
  if (length(x) < least_held() || is_mapped(x)) return(x)
  parts <- narrow_parts(x)
  if (is.null(parts)) return(x)
  looked_up(parts$index, parts$table, folder, as.list(attributes(x)))
}

# A column looked up by the places of another that has the same.
looked_like <- function(x, other) at_places_of(
  other, looked_parts(x)$table, as.list(attributes(x))
)

at_places_of <- function(other, table, attributes) {
  places <- looked_parts(other)
  looked_up(places$index, table, places$folder, attributes)
}

# Rows of the ledger; of a variable there are most often few, and each file takes its time.
held_entries <- function(entries, folder) {
  if (is.null(folder)) return(entries)
  parts <- c("rows", "was_index", "now_index")
  lapply(entries, function(entry) {
    if (length(entry$rows) < 10 * least_held()) return(entry)
    entry[parts] <- lapply(entry[parts], held_vector, folder = folder)
    entry
  })
}

# Shorter ones are not worth a file.
least_held <- function() getOption("mavik.least_held", 10000L)

# The same values with other attributes, without a copy where they lie in a file.
seen_as <- function(x, attributes) {
  looked <- looked_parts(x)
  if (!is.null(looked)) return(looked_up(looked$index, looked$table, looked$folder, attributes))
  if (is_mapped(x)) return(mapped_as(x, attributes))
  attributes(x) <- attributes
  x
}

# What another process can hand over: the vector's file, and how to make it again.
stored_vector <- function(x, folder) {
  if (is.character(x)) return(stored_text(x, folder))
  looked <- looked_parts(x)
  if (!is.null(looked)) return(list(
    places = stored_vector(looked$index, folder), table = looked$table, folder = folder,
    attributes = as.list(attributes(x))
  ))
  # A factor is of integers too.
  if (!typeof(x) %in% c("raw", "integer", "double")) return(list(plain = x))
  file <- tempfile("column-", folder)
  problem <- store_values(x, enc2native(file))
  if (nzchar(problem)) stop_full(folder, problem)
  list(file = file, type = typeof(x), n = length(x), attributes = as.list(attributes(x)))
}

# Texts that come again are kept once; what hardly comes again stays as it is.
stored_text <- function(x, folder) {
  if (is_run(x)) return(list(plain = x))
  parts <- listed_parts(x)
  if (is.null(parts)) {
    # Where the first all differ, as keys do, the rest is not looked at.
    first <- utils::head(x, 10000)
    if (length(unique(first)) > 0.9 * length(first)) return(list(plain = x))
    known <- unique(x)
    if (length(known) > length(x) / 2) return(list(plain = x))
    parts <- list(index = match(x, known), known = known)
  }
  list(places = stored_vector(parts$index, folder), known = parts$known)
}

mapped_vector <- function(stored, keep = FALSE) {
  if (!is.null(stored$places)) {
    places <- mapped_vector(stored$places, keep)
    if (!is.null(stored$known)) return(listed_texts(places, stored$known))
    return(looked_up(places, stored$table, stored$folder, stored$attributes))
  }
  if (is.null(stored$file)) return(stored$plain)
  if (!keep) on.exit(unlink(stored$file))
  x <- map_values(enc2native(stored$file), stored$type, stored$n, stored$attributes)
  if (is.null(x)) stop_mavik("build_error", stored$file,
    ": a file of the work folder is gone or was cut short while the build ran: build again")
  x
}

# The same for vectors that are kept in a folder of their own, which may be renamed.
kept_vector <- function(x, folder) {
  if (length(x) < least_held()) return(list(plain = x))
  with_files(stored_vector(x, folder), basename)
}

found_vector <- function(stored, folder) {
  if (!is.null(stored$table)) stored$folder <- folder
  mapped_vector(with_files(stored, function(file) file.path(folder, file)), keep = TRUE)
}

with_files <- function(stored, act) {
  if (!is.null(stored$file)) stored$file <- act(stored$file)
  if (!is.null(stored$places)) stored$places <- with_files(stored$places, act)
  stored
}

stop_full <- function(folder, problem) stop_mavik("write_error", folder,
  ": the work folder cannot be written (", problem, "): a build in parts needs about twice the ",
  "size of its raw files there; make room, or name another folder, MAVIK_WORK=DIR")
