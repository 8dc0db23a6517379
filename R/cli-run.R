#' Run a Mavik command
#'
#' The one door of the command line: `mavik` and `./mavik` call it with their
#' arguments. Results go to standard output, messages to standard error.
#'
#' @param args The arguments, as a character vector: a command and its own.
#' @return The exit status: 0 when the command did its work, 2 when nothing was
#'   written.
#' @examples
#' run_command(c("build", "--help"))
#' @export
run_command <- function(args = commandArgs(trailingOnly = TRUE)) {
  keep_own_options()
  theirs <- list(
    mavik.quiet = getOption("mavik.quiet"), cli.num_colors = getOption("cli.num_colors")
  )
  on.exit(options(theirs), add = TRUE)
  speak_utf8()
  tryCatch(
    dispatch(args),
    mavik_error = function(e) say_error(conditionMessage(e)),
    interrupt = function(e) say_error("stopped; nothing was written"),
    # Whoever reads the output had enough of it (`| head`): no fault, and nobody to tell.
    error = function(e) if (grepl("SIGPIPE", conditionMessage(e), fixed = TRUE)) 0L else
      say_error(paste0(
        "unexpected: ", conditionMessage(e), "; this is a fault of Mavik, please report it"
      ))
  )
}

# Names of files and folders hold any letters; a bare C locale knows none of them.
speak_utf8 <- function() {
  if (isTRUE(l10n_info()[["UTF-8"]])) return(invisible())
  for (locale in c("C.UTF-8", "C.utf8",
    "en_US.UTF-8")) if (nzchar(suppressWarnings(Sys.setlocale("LC_CTYPE", locale)))) break
}

dispatch <- function(args) {
  known <- commands()
  args <- with_switches(args)
  if (length(args) == 0 && length(raw_files_here()) > 0) {
    show_lines(next_words(raw_files_here()))
    return(0L)
  }
  first <- if (length(args) == 0) "--help" else args[1]
  if (first %in% c("--help", "-h", "help")) {
    if (first == "help" && length(args) > 1) return(dispatch(c(args[2], "--help")))
    show_lines(overview(known))
    return(0L)
  }
  if (first == "--version") {
    show_lines(paste("mavik", utils::packageVersion("mavik")))
    return(0L)
  }
  command <- known[[first]]
  if (is.null(command)) {
    stop_mavik(
      "usage_error", "`", first, "` is not a command", did_you_mean(first, names(known)),
      "; `mavik --help` lists them"
    )
  }
  given <- parse_arguments(first, command, args[-1])
  if (given$help) {
    show_lines(command_help(first, command))
    return(0L)
  }
  withCallingHandlers(with_progress(command$run(given)),
    mavik_notice = function(notice) say_note(conditionMessage(notice)))
}

# `--quiet` and `--no-color` stand anywhere, with every command.
with_switches <- function(args) {
  options(mavik.quiet = "--quiet" %in% args)
  if ("--no-color" %in% args || nzchar(Sys.getenv("NO_COLOR"))) options(cli.num_colors = 1L)
  args[!args %in% c("--quiet", "--no-color")]
}

# Files that look like exports, in a folder that has no codebook.
raw_files_here <- function() {
  if (!is.null(project_above())) return(character())
  files <- list.files(c(".", "raw"), "[.](csv|tsv|xlsx|ods|parquet)$", full.names = TRUE,
    ignore.case = TRUE)
  files <- sub("^[.]/", "", files)
  files[!grepl("(^|/)[.~]", files)]
}

next_words <- function(files) {
  first <- if (grepl("[ ()'&;]", files[1])) shQuote(files[1]) else files[1]
  c(
    paste0("There is no codebook here yet, but ", count_of(length(files), "file"), ": ", some_of(
      files, 6, quote = FALSE
    )), "",
    "Next:", columns_shown(list(
      call = c(paste("mavik look", first), paste("mavik draft", first), "mavik --help"),
      words = c("what is in it", "a first codebook, with the grounds for each guess",
        "all commands")
    ))
  )
}

# A command is one object `command_<name>`: `summary`, `arguments` (as shown, and
# how many at most), `options` (`new_option`), `example`, and `run`, which takes
# what was given and returns the exit status.
commands <- function() {
  commands <- parts_named("command_")
  commands[order(vapply(commands, `[[`, 0, "place"))]
}

# Where they stand; JSON is printed alone. The status of a command that did its work.
say_written <- function(given) {
  files <- c(given$html, given$figure)
  if (!given$json && length(files) > 0) show_lines(paste0("Written to ", files))
  0L
}

overview <- function(known) {
  c(
    "Mavik turns raw questionnaire exports into a documented analysis file.", "",
    "  mavik COMMAND [ARGUMENTS] [OPTIONS]", "",
    paste0(
      "  ", formatC(names(known), width = -max(nchar(names(known))) - 1),
      vapply(known, `[[`, "", "summary")
    ), "",
    paste0(
      "`mavik COMMAND --help` shows a command's options and an example; `mavik --version` the ",
      "version."
    ),
    "With every command: `--quiet` prints errors only, `--no-color` (or NO_COLOR) no colours.",
    exit_words
  )
}

exit_words <- "Exit status: 0 done; 1 `check` has open errors or warnings; 2 nothing was written."

command_help <- function(name, command) {
  options <- c(command$options(), help_option())
  flags <- vapply(options, function(option) {
    paste0(paste(c(option$letter, option$flag), collapse = ", "),
      if (!is.null(option$value)) paste0(" ", option$value))
  }, "")
  c(
    paste0(command$summary, "."), "", paste("  mavik", name, command$arguments, "[OPTIONS]"), "",
    paste0(
      "  ", formatC(flags, width = -max(nchar(flags)) - 2),
      vapply(options, `[[`, "", "help")
    ), "",
    "Example:", paste0("  ", command$example)
  )
}
