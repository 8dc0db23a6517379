# Repeated headings become `Other`, `Other (2)`, left to right; blank ones are
# called after their place.
unique_names <- function(x) {
  blank <- !nzchar(x)
  x[blank] <- paste("Column", seq_along(x))[blank]
  out <- x
  taken <- unique(x)
  for (k in which(duplicated(x))) {
    number <- 2
    while (paste0(x[k], " (", number, ")") %in% taken) number <- number + 1
    out[k] <- paste0(x[k], " (", number, ")")
    taken <- c(taken, out[k])
  }
  out
}

# The known word that was most likely meant, or NULL.
nearest <- function(word, known, most = 0.4) {
  if (length(known) == 0 || !nzchar(word)) return(NULL)
  same <- known[text_near(known) == text_near(word)]
  if (length(same) > 0) return(same[1])
  distance <- utils::adist(text_fold(word), text_fold(known), partial = FALSE)[1, ]
  best <- which.min(distance)
  if (distance[best] > max(1, most * nchar(word))) return(NULL)
  known[best]
}

did_you_mean <- function(word, known) {
  near <- nearest(word, known)
  # A word with which only one of the known ones begins is a shorter form of it.
  begun <- known[startsWith(text_fold(known), text_fold(word))]
  if (is.null(near) && nchar(word) >= 3 && length(begun) == 1) near <- begun
  if (is.null(near)) "" else paste0("; did you mean `", near, "`?")
}
