# Numbers and lines as pages, figures and terminals show them.

two_decimals <- function(x) ifelse(is.na(x), "\u2013", number_show(x, 2))

three <- function(x) ifelse(is.na(x), "\u2013", number_show(x, 3))

percent_shown <- function(percent) ifelse(is.na(percent), "", paste0(number_show(percent, 1), " %"))

shorten <- function(text, width) {
  text <- visible_controls(text_squeeze(text))
  long <- !is.na(text) & nchar(text, "width") > width
  text[long] <- paste0(
    stringi::stri_trim_right(cli::ansi_substr(text[long], 1, width - 1)), "\u2026"
  )
  as.character(text)
}

interval_shown <- function(t) ifelse(
  is.na(t$low), "\u2013", paste(two_decimals(t$low), "to", two_decimals(t$high))
)

# What the groups of a table are called: their label, where they have one.
group_words <- function(answer) if (has_text(answer$by_label)) answer$by_label else answer$by
