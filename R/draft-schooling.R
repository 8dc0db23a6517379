# Schools and certificates in the order in which they are gone through.

schooling_steps <- function(labels) {
  if (length(labels) < 3) return(NULL)
  folded <- gsub("[^[:alnum:] ]", " ", gsub("'s\\b", "", text_fold(labels)))
  step <- numeric()
  for (text in folded) {
    word <- first_word(
      stringi::stri_replace_all_regex(text, "\\b(school|schools)\\b", ""), schooling_table()
    )
    if (is.na(word)) return(NULL)
    step <- c(step, word)
  }
  if ( anyDuplicated(step) || length(unique(step > 0)) < 1 || max(step) < 3)
    return(NULL)
  unname(step)
}

schooling_table <- function() once_a_session("schooling", function() {
  table <- order_words()$schooling
  table$word <- stringi::stri_trim_both(stringi::stri_replace_all_regex(
    table$word, "\\b(school|schools)\\b", ""
  ))
  table <- table[nzchar(table$word), ]
  table$padded <- padded(table$word)
  # `Master's degree` is the higher of its words.
  table[order(-nchar(table$word), -table$value), ]
})
