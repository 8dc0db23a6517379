# Facts of the core turned into words on standard error.

to_stderr <- function(...) {
  cat(paste0(...), "\n", sep = "", file = stderr())
}

# All that is shown goes through here: what came out of a file never steers the terminal.
show_lines <- function(lines) {
  end_progress()
  if (!isTRUE(getOption("mavik.quiet"))) writeLines(visible_lines(as.character(lines)))
}

# Our own colours pass where there are colours at all.
visible_lines <- function(lines) {
  lines <- enc2utf8(lines)
  if (cli::num_ansi_colors() < 2) return(visible_controls(lines, keep = "\n"))
  lines <- stringi::stri_replace_all_regex(lines, "[\\x{E000}\\x{E001}]", "?")
  held <- stringi::stri_replace_all_regex(lines, "\\x{1B}\\[([0-9;]*)m", "\uE000$1\uE001")
  stringi::stri_replace_all_regex(visible_controls(held, keep = "\n"), "\uE000([0-9;]*)\uE001",
    "\033[$1m")
}

# Every text of a result, before it is coloured.
visible <- function(x) {
  rapply(unclass(x), function(text) {
    shown <- visible_controls(text, keep = "\n\t")
    attributes(shown) <- attributes(text)
    shown
  }, classes = "character", how = "replace")
}

say_note <- function(message) if (!isTRUE(getOption("mavik.quiet"))) to_stderr(
  "mavik: note: ", visible_controls(message)
)

say_error <- function(message) {
  head <- if (cli::num_ansi_colors(stderr()) > 1)
    cli::style_bold(cli::col_red("mavik:")) else "mavik:"
  to_stderr(head, " ", visible_controls(message, keep = "\n"))
  2L
}

progress_words <- c(
  read = "Reading", look = "Looking at", decode = "Decoding", make = "Making",
  count = "Counting", write = "Writing"
)

# A line that shows how far the work has come, on a terminal and only where it takes long.
with_progress <- function(expr) {
  if (!cli::is_dynamic_tty(stderr()) || isTRUE(getOption("mavik.quiet"))) return(expr)
  shown <- ""
  progress_bar$running <- cli::cli_progress_bar(
    format = "{cli::pb_spin} {shown}", total = NA, clear = TRUE
  )
  # One line at a time.
  other <- listening$progress
  listening$progress <- NULL
  on.exit({
    end_progress()
    listening$progress <- other
  })
  withCallingHandlers(expr, mavik_progress = function(p) {
    shown <<- progress_line(p)
    if (!is.null(progress_bar$running)) cli::cli_progress_update(id = progress_bar$running, inc = 1)
  })
}

# The line goes before a result is shown.
end_progress <- function() {
  if (!is.null(progress_bar$running)) cli::cli_progress_done(progress_bar$running)
  progress_bar$running <- NULL
}

# Padded, or the end of a longer line would stay behind a shorter one.
progress_line <- function(progress) {
  count <- if (!is.null(progress$total)) paste0(" (", progress$done, " of ", progress$total, ")")
  width <- max(cli::console_width() - 4L, 20L)
  cli::ansi_align(
    shorten(paste0(progress_words[[progress$step]], " ", progress$what, count), width), width
  )
}

# The same line at an interactive R; it goes with the call that the user made.
progress_bar <- new.env()

.onLoad <- function(libname, pkgname) {
  listening$progress <- show_progress
}

show_progress <- function(progress) {
  if (!cli::is_dynamic_tty(stderr())) return()
  called <- outermost_call()
  if (!identical(progress_bar$called, called)) {
    progress_bar$called <- called
    progress_bar$id <- cli::cli_progress_bar(
      format = "{cli::pb_spin} {cli::pb_status}", total = NA, clear = TRUE, .envir = called
    )
  }
  cli::cli_progress_update(
    id = progress_bar$id, inc = 1, status = progress_line(progress), .envir = called
  )
}

outermost_call <- function() {
  ours <- vapply(sys.frames(), function(frame) identical(topenv(frame), topenv()), TRUE)
  sys.frames()[[which(ours)[1]]]
}

# Words beside each other in columns; the first column may be numbers.
# Those in `quiet` are grey.
columns_shown <- function(table, indent = "  ", right = character(), quiet = character()) {
  cells <- lapply(names(table), function(name) {
    text <- visible_controls(as.character(table[[name]]))
    text <- cli::ansi_align(
      text, width = max(cli::ansi_nchar(text)), align = if (name %in% right) "right" else "left"
    )
    if (name %in% quiet) cli::col_grey(sub(" +$", "", text)) else text
  })
  sub("[ ]+$", "", paste0(indent, do.call(paste, c(cells, sep = "  "))))
}

heading_shown <- function(text) cli::style_bold(visible_controls(text))
