# What can have caused the differences between two builds.

# Raw files, sheets and version. Digests where both builds have them, else sizes.
differing_sources <- function(old, new) {
  of <- function(record, kind, key) with_names(
    record[[kind]], vapply(record[[kind]], `[[`, "", key)
  )
  compare <- function(kind, key, words) {
    a <- of(old$record, kind, key)
    b <- of(new$record, kind, key)
    rows <- lapply(union(names(a), names(b)), function(name) {
      row <- function(change) data.frame(
        what = words, name = name, file = paste0(c(b[[name]]$file, a[[name]]$file)[1], ""),
        change = change
      )
      if (is.null(a[[name]])) return(row("new"))
      if (is.null(b[[name]])) return(row("gone"))
      sums <- list(a[[name]]$blake2b, b[[name]]$blake2b)
      same <- if (any(lengths(sums) == 0)) identical(a[[name]]$bytes, b[[name]]$bytes) else
        identical(sums[[1]], sums[[2]])
      if (same) return(NULL)
      more <- if (!identical(a[[name]]$records, b[[name]]$records) && length(b[[name]]$records) > 0)
        paste0(", ", grouped(a[[name]]$records), " -> ", grouped(b[[name]]$records), " records")
      row(paste0("content differs", more))
    })
    do.call(rbind, rows)
  }
  version <- if (!identical(old$record$mavik, new$record$mavik)) data.frame(
    what = "version", name = "mavik", file = "",
    change = paste(old$record$mavik, "->", new$record$mavik)
  )
  choice <- if (!identical(old$record$chosen, new$record$chosen)) {
    data.frame(what = "choice", name = "outputs", file = "",
      change = paste(choice_words(old$record$chosen), "->", choice_words(new$record$chosen)))
  }
  do.call(rbind, c(list(data.frame(what = character(), name = character(), file = character(),
    change = character())), list(compare("inputs", "export", "raw file"),
    compare("sheets", "file", "sheet"), version, choice)))
}

# Which waves and respondents a build's outputs were cut down to.
choice_words <- function(chosen) {
  if (is.null(chosen)) return("all records")
  paste(c(if (length(chosen$waves) > 0) paste("wave", paste(unlist(chosen$waves), collapse = ", ")),
    if (length(chosen$where) > 0) paste("where", chosen$where)), collapse = ", ")
}

# Entries of two documents that differ, as deep as they do.
differing_entries <- function(old, new, path = character()) {
  row <- function(change, was, now) data.frame(
    path = paste(path, collapse = " > "), change = change, was = was, now = now
  )
  if (identical(old, new)) return(no_entries())
  deep <- is_map(old) && is_map(new) && !(
    length(path) > 0 && path[length(path)] %in% c("range", "heading")
  )
  if (!deep) {
    if (is.null(old)) return(row("new", "", flow_text(new)))
    if (is.null(new)) return(row("gone", flow_text(old), ""))
    return(row("changed", flow_text(old), flow_text(new)))
  }
  keys <- union(names(old), names(new))
  rows <- lapply(keys, function(key) differing_entries(old[[key]], new[[key]], c(path, key)))
  out <- do.call(rbind, c(list(no_entries()), rows))
  if (nrow(out) == 0 && path_matters(path)) out <- row(
    "order", paste(names(old), collapse = ", "), paste(names(new), collapse = ", ")
  )
  out
}

no_entries <- function() data.frame(
  path = character(), change = character(), was = character(), now = character()
)

# Which of the differences bear on a variable: its own entry and those of what it
# is made of, or asked and judged by; lists it shares; and the files.
cause_finder <- function(new, entries, sources) {
  book <- side_book(new$document)
  touched <- strsplit(entries$path, " > ", fixed = TRUE)
  function(name) {
    near <- if (is.null(book)) name else upstream_of(name, book)
    lists <- unlist(lapply(book$variables[near], `[[`, "list"))
    rules <- names(Filter(function(rule) any(rule$aside %in% near), book$rules))
    bears <- vapply(touched, function(path) {
      if (path[1] == "variables") return(any(path %in% c(
        near, unlist(lapply(book$variables[near], `[[`, "block"))
      )))
      if (path[1] == "code_lists") return(isTRUE(path[2] %in% lists))
      if (path[1] == "rules") return(isTRUE(path[2] %in% rules) || is.null(book$rules[[path[2]]]))
      path[1] %in% c("exports", "missing", "corrections", "duplicates", "mavik")
    }, TRUE)
    paste(
      c(
        entries$path[bears],
        ifelse(nzchar(sources$file), sources$file, paste(sources$what, sources$change))
      ),
      collapse = "; "
    )
  }
}

upstream_of <- function(name, book) {
  near <- character()
  open <- name
  while (length(open) > 0) {
    near <- c(near, open)
    more <- unlist(c(book$uses[open], lapply(book$variables[open], universe_uses),
      lapply(Filter(function(rule) any(rule$aside %in% open), book$rules), `[[`, "reads")))
    open <- setdiff(more, near)
  }
  near
}
