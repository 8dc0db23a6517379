# Small things for letters and lists.

tolower_ascii <- function(text) chartr(
  paste(LETTERS, collapse = ""), paste(letters, collapse = ""), text
)

with_names <- function(x, names) {
  names(x) <- names
  x
}

# A data frame of columns of one length; data.frame() takes its time to see to more.
new_frame <- function(...) {
  columns <- list(...)
  structure(columns, class = "data.frame", row.names = .set_row_names(length(columns[[1]])))
}

# Texts pasted together, so many at a time.
join_by <- function(texts, sizes, mark = "") {
  out <- rep("", length(sizes))
  out[sizes > 0] <- stringi::stri_join_list(
    unname(split(as.character(texts), rep(seq_along(sizes), sizes))), sep = mark
  )
  out
}

count_true <- function(truths, n) {
  out <- integer(n)
  for (truth in truths) out <- out + truth
  out
}

weighted_share <- function(yes, count) if (sum(count) == 0) 0 else sum(count[yes]) / sum(count)

text_trim <- function(x) {
  x <- as.character(x)
  loose <- open_ends(x)
  if (length(loose) > 0) x[loose] <- stringi::stri_replace_all_regex(
    x[loose], "^[\\p{White_Space}\\x{200B}\\x{FEFF}]+|[\\p{White_Space}\\x{200B}\\x{FEFF}]+$", ""
  )
  x
}

# Several texts as one by which equal rows are known: no text of a cell holds the mark
# between them.
joined_id <- function(...) paste(..., sep = "\r", recycle0 = TRUE)

# Of a list of texts.
joined_list <- function(texts) paste(texts, collapse = "\r")

# Several columns are fetched at once, and kept until another one is asked for.
in_batches <- function(names, rows, fetch, cells = 1e7) {
  batch <- (seq_along(names) - 1) %/% max(1, cells %/% max(1, rows))
  last_batch <- -1
  held <- NULL
  function(name) {
    wanted <- batch[match(name, names)]
    if (is.na(wanted)) return(NULL)
    if (wanted != last_batch) {
      held <<- fetch(names[batch == wanted])
      last_batch <<- wanted
    }
    held[[name]]
  }
}

# Of several files only the one that was asked for last is held.
one_held <- function() {
  last_file <- ""
  held <- NULL
  function(file, read) {
    if (file != last_file) {
      held <<- NULL
      held <<- read(file)
      last_file <<- file
    }
    held
  }
}

# The name, or with the first number behind it that makes it new.
free_name <- function(name, taken) {
  tries <- c(name, paste0(name, "_", seq_len(length(taken) + 1) + 1))
  setdiff(tries, taken)[1]
}
