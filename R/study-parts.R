# A build in parts: raw files are cut, parts are read by whatever workers there are, and what
# was decoded and made waits in files. What comes out is the same, to the byte.

# What was asked for: `parts` a file, or parts of at most `part_size` bytes. Without either
# large files are read in parts.
asked_parts <- function(parts, part_size) {
  if (is.null(parts) && is.null(part_size)) return(NULL)
  if (!is.null(parts) && !is.null(part_size)) stop_mavik(
    "usage_error", "say how many parts, or how large they are, not both"
  )
  if (!is.null(part_size)) return(list(bytes = bytes_said(part_size)))
  list(count = count_said(parts, "parts"))
}

count_said <- function(text, what) {
  count <- suppressWarnings(as.double(text))
  if (length(count) != 1 || is.na(count) || count < 1 || count != round(count) || count > 1e5)
    stop_mavik("usage_error", what, " are a whole number from 1 to 100,000, not `", text, "`")
  as.integer(count)
}

# `500MB`, `2 GB`, or a number of bytes.
bytes_said <- function(text) {
  units <- c(B = 1, KB = 1e3, MB = 1e6, GB = 1e9)
  said <- toupper(text_trim(format(text, scientific = FALSE)))
  unit <- sub("^[0-9.]+ *", "", said)
  number <- suppressWarnings(as.double(sub(" *[A-Z]*$", "", said)))
  bytes <- number * if (nzchar(unit)) units[unit] else 1
  if (length(bytes) != 1 || is.na(bytes) || bytes < 1) stop_mavik(
    "usage_error", "the size of a part is a number with a unit, 500MB, not `", text, "`"
  )
  unname(bytes)
}

# The work folder of a build in parts, and what is cut how; NULL where all is read whole.
# It is there until `end_work()`. (Measurements ask for the `whole`.)
begin_work <- function(book, asked) {
  sizes <- delimited_sizes(book)
  if (is.null(asked)) asked <- asked_by_size(sizes)
  if (is.null(asked) || isTRUE(asked$whole) || length(sizes) == 0) return(NULL)
  place <- real_path(work_place(book))
  dir.create(place, recursive = TRUE, showWarnings = FALSE, mode = "0700")
  if (!dir.exists(place)) stop_full(place, "the folder cannot be made")
  lock <- take_lock(place, shown_work(book))
  left <- list.files(dirname(place), "[.]locking-", full.names = TRUE)
  unlink(left[startsWith(left, paste0(place, "."))], recursive = TRUE)
  unlink(list.files(place, "^held-", full.names = TRUE), recursive = TRUE)
  unlink(list.files(file.path(place, "read"), "[.]writing-", full.names = TRUE, recursive = TRUE))
  held <- tempfile("held-", place)
  dir.create(held, mode = "0700")
  kept <- may_keep_parts(book)
  parts <- file.path(if (kept) place else held, "read")
  dir.create(parts, showWarnings = FALSE, mode = "0700")
  if (!kept) unlink(file.path(place, "read"), recursive = TRUE)
  list(asked = asked, place = place, lock = lock, held = held, parts = parts, kept = kept)
}

# What is decoded of large files waits in files of the work folder. Very large ones, and those above
# half the free memory, are read in parts; workers have something to do only in parts.
asked_by_size <- function(sizes) {
  if (!is_large(sizes)) return(NULL)
  if (!has_workers() && sum(sizes) < min(8 * large_file, free_memory() / 2))
    return(list(at_once = TRUE))
  list(bytes = min(2 * large_file, free_memory() / 4))
}

is_large <- function(sizes) sum(sizes) > min(large_file, free_memory() / 2)

large_file <- 2.5e8

# `used` are the folders of the parts of a build that came to its end: others go then.
end_work <- function(work, used = NULL) {
  if (is.null(work)) return(invisible())
  forget_waiting()
  unlink(work$held, recursive = TRUE)
  if (!is.null(used)) unlink(
    setdiff(list.files(work$parts, full.names = TRUE), used), recursive = TRUE
  )
  if (!work$kept || length(list.files(work$parts)) == 0) unlink(work$place, recursive = TRUE)
  release_lock(work$place, work$lock)
}

work_place <- function(book) {
  said <- Sys.getenv("MAVIK_WORK")
  if (nzchar(said)) return(file.path(said, paste0(
    "mavik-", substring(bytes_digest(charToRaw(real_path(book$project))), 1, 16)
  )))
  # A project that may only be read has its work done elsewhere.
  ours <- !is.null(book$file) && file.access(book$project, 2) == 0
  if (ours) file.path(book$project, ".mavik", "parts") else passing_place()
}

passing_place <- function() file.path(tempdir(), "mavik-parts")

shown_work <- function(book) if (is.null(book$file)) "in R" else book$file

# Parts hold raw answers: where some of these are private, or may have to be purged, none
# outlives its build.
may_keep_parts <- function(book) {
  lasts <- work_place(book) != passing_place()
  lasts && length(erasing_screens(book)) == 0 && !holds_secrets(book)
}

delimited_sizes <- function(book) {
  files <- unlist(lapply(unname(book$exports), function(export) {
    if (is.character(export$source) && !is_typed(export)) export$source
  }))
  files <- as.character(files)
  files <- files[file.exists(files) & !dir.exists(files)]
  zipped <- vapply(files, function(file) identical(readBin(file, "raw", 2), charToRaw("PK")), TRUE)
  file.size(files[!zipped])
}

# All delimited files of a build, read in parts; by the name of the first export of each.
read_in_parts <- function(book, work, digests) {
  if (is.null(work) || isTRUE(work$asked$at_once)) return(list())
  cuts <- list()
  on.exit(for (cut in cuts) if (cut$path != cut$source) unlink(cut$path))
  for (names in read_together(book$exports)) {
    cut <- cut_export(book$exports[names], book, work)
    if (!is.null(cut)) cuts[[names[1]]] <- cut
  }
  tasks <- unlist(lapply(unname(cuts), `[[`, "tasks"), recursive = FALSE)
  parts <- lapply(tasks, read_before)
  open <- which(vapply(parts, is.null, TRUE))
  total <- length(tasks)
  if (length(open) < total) signal_notice(count_of(total - length(open), "part"), " of ", total,
    " kept by an earlier build")
  parts[open] <- at_work(tasks[open], read_part_apart, part_named, function(n) signal_progress(
    "read", paste(count_of(length(cuts), "file"), "in parts"), n + total - length(open), total
  ))
  # Workers have all cores for the reading; what comes next leaves some idle.
  sums <- if (digests && length(cuts) > 0) digests_beside(
    vapply(cuts, `[[`, "", "source", USE.NAMES = FALSE)
  )
  of <- rep(seq_along(cuts), lengths(lapply(cuts, `[[`, "tasks")))
  lapply(with_names(seq_along(cuts), names(cuts)), function(k) list(
    # What is wrong with a file is told with what is wrong with the others.
    raw = tryCatch(join_parts(cuts[[k]], parts[of == k]), mavik_read_error = identity),
    digest = if (digests)
      digest_as_read(sums[[k]], cuts[[k]]$source, cuts[[k]]$before, cuts[[k]]$shown),
    folder = dirname(cuts[[k]]$tasks[[1]]$file)
  ))
}

# What a message calls a part. Lines are counted only then.
part_named <- function(task) {
  size <- file.size(task$path)
  lines <- c(line_ends(task$path, task$from) + 1, max(1, line_ends(task$path, min(task$to, size))))
  paste0("part ", task$at, " of ", task$of, " of ", task$shown, " (lines ",
    number_to_text(lines[1]), " to ", number_to_text(lines[2]), ")")
}

# How many line ends stand before a byte.
line_ends <- function(path, before) {
  con <- file(path, "rb")
  on.exit(close(con))
  count <- 0
  while (before > 0) {
    bytes <- readBin(con, "raw", min(before, 2^24))
    if (length(bytes) == 0) break
    count <- count + sum(bytes == as.raw(10))
    before <- before - length(bytes)
  }
  count
}

# As many as are needed; of several an even number, so that two workers end together.
count_of_parts <- function(needed) {
  count <- max(1, ceiling(needed))
  if (count > 2) count + count %% 2 else count
}

# A file is cut alike as long as it, its layout and the columns of use are the same.
cut_export <- function(exports, book, work) {
  export <- exports[[1]]
  if (!is.character(export$source) || is_pattern(export$source) || is_typed(export)) return(NULL)
  if (!file.exists(export$source) || dir.exists(export$source)) return(NULL)
  count <- work$asked$count
  if (is.null(count)) count <- count_of_parts(file.size(export$source) / work$asked$bytes)
  shares <- if (is.null(work$asked$shares)) seq_len(count - 1) / count else work$asked$shares
  wanted <- unique(unlist(lapply(exports, columns_needed, book = book)))
  options <- export[c("heading", "skip", "delimiter", "encoding", "sheet")]
  stamp <- list(
    real_path(export$source), unname(times_of(export$source)), options, wanted, shares,
    utils::packageDescription("mavik", fields = "Built")
  )
  folder <- file.path(work$parts, substring(bytes_digest(serialize(stamp, NULL)), 1, 24))
  dir.create(folder, showWarnings = FALSE, mode = "0700")
  tryCatch(
    parts_to_read(export$source, options, export$shown, wanted, shares, folder),
    mavik_read_error = function(e) NULL
  )
}
