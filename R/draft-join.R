# Files with other questions of the same respondents, joined by their key.

# The column of `other` that holds the keys of `base`, each once; NULL where none does, or where
# both ask the same otherwise.
key_beside <- function(base, key, other) {
  if (is.null(key) || !key %in% base$names || ask_alike(other, base)) return(NULL)
  found <- Filter(function(name) holds_keys(
    other$columns[[name]], base$columns[[key]], name == key
  ), unique(c(intersect(key, other$names), other$names)))
  if (length(found) == 0) return(NULL)
  # A column of the same heading is read in both files: it must be the same question.
  if (all(agreement_by_column(base, other, key, found[1]) >= 0.8)) found[1]
}

# Numbers that run on without holes are those of any list: they must be the same ones under the same
# heading. Other keys do not meet by chance.
holds_keys <- function(column, keys, same_heading) {
  if (!each_once(column)) return(FALSE)
  theirs <- setdiff(text_trim(column$cells), "")
  mine <- setdiff(text_trim(keys$cells), "")
  if (length(theirs) < 2) return(FALSE)
  shares <- c(mean(theirs %in% mine), mean(mine %in% theirs))
  if (run_on(mine) || run_on(theirs)) return(same_heading && min(shares) >= 0.8)
  shares[1] >= if (same_heading) 0.5 else 0.8
}

run_on <- function(keys) {
  number <- text_to_number(keys)
  all(is_whole(number)) && length(number) > 0.2 * (max(number) - min(number) + 1)
}

each_once <- function(column) all(occurrences(column)[nzchar(text_trim(column$cells))] <= 1)

# The columns that `other` has more, beside the records of `whole` with the same key.
join_questions <- function(whole, other, key, their_key) {
  row <- match(column_texts(whole$columns[[key]]), column_texts(other$columns[[their_key]]))
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
  lists <- Filter(function(name) each_once(other$columns[[name]]), other$names)
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

# The exports of the codebook to whose respondents a file adds other questions, and the column that
# says whose they are: it must be one. None where it asks what an export asks.
exports_joined <- function(file, book) {
  if (is.data.frame(file$file)) return(list())
  inside <- named_from(file$file, book$project)
  of_files <- Filter(function(export) !is.null(export$file), book$exports)
  if (inside %in% unlist(lapply(of_files, export_files, book = book))) return(list())
  met <- lapply(unname(platform_exports(of_files)), function(export) {
    path <- export_path(export, book)
    if (is_numbered(export) || is_pattern(export$file) || !file.exists(path)) return(NULL)
    known <- read_raw(
      path, export[c("heading", "skip", "delimiter", "encoding", "sheet")], export$file
    )
    key <- key_beside(known, export$key, file$export)
    if (!is.null(key)) list(
      name = free_name(export_name(inside), names(book$exports)), base = export$name, key = key,
      file = inside
    )
  })
  Filter(Negate(is.null), met)
}

# Where files are the export of one wave, or newer ones.
stop_joined <- function(sorted, hint) {
  k <- which(sorted$role == "joined")
  if (length(k) > 0) stop_mavik(
    "draft_error", sorted$data[[k[1]]]$file, ": holds other questions of the respondents of ",
    sorted$data[[1]]$file, "; ", hint
  )
}
