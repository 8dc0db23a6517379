# Small things for letters and lists.

tolower_ascii <- function(text) chartr(
  paste(LETTERS, collapse = ""), paste(letters, collapse = ""), text
)

with_names <- function(x, names) {
  names(x) <- names
  x
}

count_true <- function(truths, n) {
  out <- integer(n)
  for (truth in truths) out <- out + truth
  out
}

weighted_share <- function(yes, count) if (sum(count) == 0) 0 else sum(count[yes]) / sum(count)

text_trim <- function(x) {
  x <- as.character(x)
  at <- open_ends(x)
  x[at] <- stringi::stri_replace_all_regex(
    x[at], "^[\\p{White_Space}\\x{200B}\\x{FEFF}]+|[\\p{White_Space}\\x{200B}\\x{FEFF}]+$", ""
  )
  x
}

# Several texts as one by which equal rows are known: no text of a cell holds the mark
# between them.
joined_id <- function(...) paste(..., sep = "\r", recycle0 = TRUE)

# Of a list of texts.
joined_list <- function(texts) paste(texts, collapse = "\r")
