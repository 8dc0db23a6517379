# Files with other questions of the same respondents, joined by their key.

# The column of `other` that holds the keys of `base`, each once; NULL where none does. One of
# another name must hold nearly all of them.
key_beside <- function(base, key, other) {
  if (is.null(key) || !key %in% base$names) return(NULL)
  mine <- text_trim(base$columns[[key]]$cells)
  same <- function(column) {
    theirs <- text_trim(column$cells)
    told <- nzchar(theirs)
    if (sum(told) < 2 || any(occurrences(column)[told] > 1)) return(0)
    mean(theirs[told] %in% mine)
  }
  if (key %in% other$names) return(if (same(other$columns[[key]]) >= 0.5) key)
  share <- vapply(other$columns, same, 0)
  if (any(share >= 0.8)) other$names[which.max(share)]
}

# The columns that `other` has more, beside the records of `whole` with the same key.
join_questions <- function(whole, other, key, their_key) {
  keys <- function(export, name) text_trim(export$columns[[name]]$cells)[
    export$columns[[name]]$index
  ]
  row <- match(keys(whole, key), keys(other, their_key))
  fresh <- setdiff(other$names, c(their_key, whole$names))
  whole$columns[fresh] <- lapply(other$columns[fresh], function(column) {
    cells <- c(column$cells, "")
    index <- column$index[row]
    index[is.na(index)] <- length(cells)
    used <- unique(index)
    list(cells = cells[used], index = match(index, used))
  })
  for (part in c("questions", "marks")) whole[[part]] <- c(whole[[part]], other[[part]][fresh])
  whole$names <- c(whole$names, fresh)
  whole
}

# A file that has what answers name, each once, is looked up.
list_hint <- function(base, other) {
  folded <- function(column) text_fold(column$cells)
  lists <- Filter(function(name) {
    column <- other$columns[[name]]
    all(occurrences(column)[nzchar(folded(column))] <= 1)
  }, other$names)
  for (theirs in lists) for (mine in base$names) {
    column <- base$columns[[mine]]
    named <- folded(column)
    counts <- occurrences(column) * nzchar(named)
    met <- named %in% folded(other$columns[[theirs]])
    # Numbers meet by chance.
    if (sum(counts > 0) > 2 && anyNA(text_to_number(named[counts > 0])) &&
      weighted_share(met, counts) >= 0.8) return(paste0(
        "; it looks like a list of what `", mine, "` names: say it under `lookups`, with the key `",
        theirs, "`"
      ))
  }
  ""
}

# The key is the base's.
questions_alone <- function(columns) lapply(columns, function(column) {
  if (column$kind == "key") column$kind <- "identifier"
  column
})

# The export of the codebook to which a file adds other questions of its respondents, and the
# column that says whose they are; NULL where it is no such file.
joins_export <- function(file, book) {
  if (is.data.frame(file$file)) return(NULL)
  inside <- named_from(file$file, book$project)
  of_files <- Filter(function(export) !is.null(export$file), book$exports)
  if (inside %in% unlist(lapply(of_files, export_files, book = book))) return(NULL)
  exports <- Filter(function(export) !is_numbered(export), platform_exports(of_files))
  for (export in exports) {
    path <- export_path(export, book)
    if (is_pattern(export$file) || !file.exists(path)) next
    known <- read_raw(
      path, export[c("heading", "skip", "delimiter", "encoding", "sheet")], export$file
    )
    shared <- intersect(known$names, file$export$names)
    if (length(shared) >= 0.5 * min(length(known$names), length(file$export$names))) next
    key <- key_beside(known, export$key, file$export)
    name <- utils::tail(make.unique(c(names(book$exports), export_name(inside)), sep = "_"), 1)
    if (!is.null(key)) return(list(name = name, base = export$name, key = key, file = inside))
  }
  NULL
}

# Where files are the export of one wave, or newer ones.
stop_joined <- function(sorted, hint) {
  k <- which(sorted$role == "joined")
  if (length(k) > 0) stop_mavik(
    "draft_error", sorted$data[[k[1]]]$file, ": holds other questions of the respondents of ",
    sorted$data[[1]]$file, "; ", hint
  )
}
