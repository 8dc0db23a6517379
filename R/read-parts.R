# A delimited file in parts: cut where records are likely to begin, each part read by itself,
# here or by another process, and the seams verified once the parts are there.

# What there is to do: a task a part. NULL where a file is no delimited text, or its heading
# cannot be read (reading it as a whole says why). `wanted` gives the columns that are of use.
parts_to_read <- function(source, options, shown, wanted, ends, folder) {
  if (reader_for(source, shown)$laid_out != "text") return(NULL)
  # Workers stand elsewhere, and see this machine's folders at best.
  path <- utf8_copy(real_path(source), options$encoding, shown, folder)
  head <- read_head(path, options)
  if (is.null(head)) return(NULL)
  grid <- list(heading = head$heading, columns = vector("list", head$expected), lines = integer())
  raw <- raw_of_grid(grid, shown)
  names <- intersect(raw$names, wanted)
  ends <- seams_of(path, ends, head$end)
  tasks <- lapply(seq_along(ends), function(k) list(
    path = path, mark = delimiters[[options$delimiter]], at = k, of = length(ends), shown = shown,
    skip = if (k == 1) options$skip else 0, heads = if (k == 1) length(options$heading) else 0L,
    from = if (k == 1) 0 else ends[k - 1], to = ends[k], expected = 0L,
    wanted = match(names, raw$names), names = names,
    threads = if (has_workers()) 1L else threads_allowed(),
    file = file.path(folder, paste0("part-", k, ".cells"))
  ))
  list(tasks = tasks, head = head, path = path, source = real_path(source), options = options,
    shown = shown, before = times_of(source))
}

# The heading rows as they stand; NULL where there is none.
read_head <- function(path, options) {
  rows <- length(options$heading)
  read <- read_span(
    local_path(path), delimiters[[options$delimiter]], options$skip, rows, 0, Inf, 0L,
    integer(), rows
  )
  if (nzchar(read$problem) || length(read$heading) < rows) return(NULL)
  read$heading <- with_names(read$heading, options$heading)
  read
}

# Where each part ends: behind the record in which its share of the bytes does, and never
# within the heading.
seams_of <- function(path, shares, heading) {
  size <- file.size(path)
  inner <- unique(likely_starts(local_path(path), floor(size * sort(shares))))
  c(inner[inner > heading & inner < size], Inf)
}

# What a large part takes in memory ends with the process that read it, and piles up nowhere.
read_part_apart <- function(task) {
  size <- min(task$to, file.size(task$path)) - task$from
  large <- size >= getOption("mavik.least_apart", 5e7)
  job <- split_off(function() read_part(task), large)
  on.exit(job$stop_waiting())
  job$wait()
}

# One part. Its cells stand in a file, and what is known of them in another beside it, which
# comes last: a part is there when that is.
read_part <- function(task) {
  read <- read_span(
    local_path(task$path), task$mark, task$skip, task$heads, task$from, task$to,
    task$expected, task$wanted, Inf, task$threads
  )
  read$from <- task$from
  if (nzchar(read$problem)) return(read[setdiff(names(read), "columns")])
  columns <- with_names(read$columns, task$names)
  # No record begins in a part that lies within one cell.
  columns[vapply(columns, is.null, TRUE)] <- list(list(cells = character(), index = raw()))
  read$columns <- NULL
  # What is known of a file goes before the file changes.
  unlink(facts_beside(task$file))
  read$stored <- store_cells(columns, task$file)
  write_beside(facts_beside(task$file), function(beside) write_object(read, beside))
  read
}

facts_beside <- function(file) sub("[.]cells$", ".facts", file)

# A part that another build read, where its bytes are those that were written.
read_before <- function(task) {
  facts <- facts_beside(task$file)
  if (!file.exists(facts) || !file.exists(task$file)) return(NULL)
  part <- tryCatch(readRDS(facts), error = function(e) NULL)
  bytes <- readBin(task$file, "raw", file.size(task$file))
  if (is.null(part) || !identical(part$stored$digest, bytes_digest(bytes))) {
    unlink(c(facts, task$file))
    stop_mavik("build_error", task$file, ": part ", task$at, " of ", task$shown,
      ", kept by an earlier build, was altered since; it is removed now: build again")
  }
  part$stored$file <- task$file
  part
}

# The parts as one export. A seam that lies within a cell, or a part of another width, is
# read once more from where the part before it ended.
join_parts <- function(cut, parts) {
  tasks <- cut$tasks
  lines <- list()
  line <- 1
  end <- expected <- 0
  used <- list()
  for (k in seq_along(parts)) {
    task <- tasks[[k]]
    part <- parts[[k]]
    if (k > 1 && end >= task$to) next
    if (k > 1 && (part$from != end || !part$expected %in% c(0L, expected))) {
      task$from <- end
      task$expected <- expected
      part <- read_part(task)
    }
    if (nzchar(part$problem)) {
      part$line <- part$line + line - 1
      check_shape(part, cut$options, cut$shown)
    }
    if (k == 1) expected <- part$expected
    lines[[k]] <- part$lines + as.integer(line - 1)
    line <- line + part$behind - 1
    end <- part$end
    used <- c(used, list(part$stored))
  }
  check_as_read(cut$source, cut$before, cut$shown)
  lines <- unlist(lines)
  heading <- cut$head$heading
  check_shape(list(problem = "", lines = lines, line = 0), cut$options, cut$shown)
  raw_of_grid(list(
    heading = heading, columns = new_waiting(used, tasks[[1]]$names),
    lines = lines[-seq_along(heading)]
  ), cut$shown)
}

