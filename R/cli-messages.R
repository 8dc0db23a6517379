# Facts of the core turned into words on standard error.

to_stderr <- function(...) {
  cat(paste0(...), "\n", sep = "", file = stderr())
}

say_error <- function(message) {
  head <- if (cli::num_ansi_colors(stderr()) > 1) cli::style_bold(cli::col_red("mavik:")) else "mavik:"
  to_stderr(head, " ", message)
  2L
}

progress_words <- c(read = "Reading", look = "Looking at", decode = "Decoding", make = "Making", write = "Writing")

# A line that shows how far the work has come, on a terminal and only where it takes long.
with_progress <- function(expr) {
  if (!cli::is_dynamic_tty(stderr())) return(expr)
  shown <- ""
  bar <- cli::cli_progress_bar(format = "{cli::pb_spin} {shown}", total = NA, clear = TRUE)
  on.exit(cli::cli_progress_done(bar))
  withCallingHandlers(expr, mavik_progress = function(p) {
    count <- if (!is.null(p$total)) paste0(" (", p$done, " of ", p$total, ")")
    shown <<- paste0(progress_words[[p$step]], " ", p$what, count)
    cli::cli_progress_update(id = bar, inc = 1)
  })
}

# Words beside each other in columns; the first column may be numbers.
columns_shown <- function(table, indent = "  ", right = character()) {
  cells <- lapply(names(table), function(name) {
    text <- as.character(table[[name]])
    cli::ansi_align(text, width = max(cli::ansi_nchar(text)), align = if (name %in% right) "right" else "left")
  })
  sub("[ ]+$", "", paste0(indent, do.call(paste, c(cells, sep = "  "))))
}

heading_shown <- function(text) cli::style_bold(text)

shorten <- function(text, width) {
  text <- text_squeeze(text)
  long <- !is.na(text) & nchar(text, "width") > width
  text[long] <- paste0(stringi::stri_trim_right(cli::ansi_substr(text[long], 1, width - 1)), "\u2026")
  as.character(text)
}
