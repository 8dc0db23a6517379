# How the core speaks: it stops with a classed condition that carries its
# facts, or signals how far it has come. Who listens decides what is shown.

stop_mavik <- function(class, ..., facts = list()) {
  stop(structure(
    class = c(paste0("mavik_", class), "mavik_error", "error", "condition"),
    c(list(message = visible_controls(paste0(...), keep = "\n\t"), call = NULL), facts)
  ))
}

# Besides whoever handles it, the listener that the interface left here is told, where somebody
# sits at R.
listening <- new.env()

# For the rest of this process.
tell_no_progress <- function() listening$nobody <- TRUE

signal_progress <- function(step, what = "", done = NULL, total = NULL) {
  if (isTRUE(listening$nobody)) return(invisible())
  progress <- structure(
    class = c("mavik_progress", "condition"),
    list(
      message = paste(step, what), call = NULL, step = step, what = what, done = done, total = total
    )
  )
  signalCondition(progress)
  if (interactive() && is.function(listening$progress)) listening$progress(progress)
  invisible()
}

# The user's own settings of R change nothing that is computed, shown or written;
# they are as they were when the calling function ends.
keep_own_options <- function(frame = parent.frame()) {
  ours <- list(OutDec = ".", digits = 7L, scipen = 0L, encoding = "native.enc", warn = 0L)
  theirs <- options()[names(ours)]
  if (identical(theirs, ours)) return(invisible())
  options(ours)
  do.call(on.exit, list(bquote(options(.(theirs))), add = TRUE), envir = frame)
}

# What a person should know of the work, beside its result.
signal_notice <- function(...) {
  text <- visible_controls(paste0(...))
  signalCondition(structure(
    class = c("mavik_notice", "condition"), list(message = text, call = NULL)
  ))
  invisible(text)
}

# Where something stands: `raw/spring.csv:1204`.
at_line <- function(file, line = NULL) if (is.null(line)) file else paste0(
  file, ":", number_to_text(line)
)

# "a, b and 3 more": what a message names of a long list.
some_of <- function(x, most = 5, quote = TRUE) {
  shown <- utils::head(x, most)
  if (quote) shown <- paste0("`", shown, "`")
  rest <- length(x) - length(shown)
  if (rest > 0) return(paste0(paste(shown, collapse = ", "), " and ", rest, " more"))
  if (length(shown) < 2) return(paste(shown, collapse = ""))
  paste(paste(shown[-length(shown)], collapse = ", "), "and", shown[length(shown)])
}

count_of <- function(n, thing, many = paste0(thing, "s")) {
  paste(grouped(n), if (n == 1) thing else many)
}

lines_of <- function(lines) paste(
  if (length(lines) == 1) "line" else "lines", some_of(number_to_text(lines), 8, quote = FALSE)
)
