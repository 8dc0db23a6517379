command_completions <- list(
  place = 30, summary = "Print completions for a shell, or the man page",
  arguments = "bash|zsh|man", most = 1, example = "mavik completions bash > ~/.mavik-completions",
  options = function() list(),
  run = function(given) {
    kind <- c(given$args, "")[1]
    if (!kind %in% c("bash", "zsh", "man")) stop_mavik(
      "usage_error", "`mavik completions` takes bash, zsh or man",
      if (nzchar(kind)) paste0(", not `", kind, "`"),
      ". For bash, write into ~/.bashrc: eval \"$(mavik completions bash)\""
    )
    show_lines(switch(kind, bash = bash_completions(), zsh = zsh_completions(), man = man_page()))
    0L
  }
)

# The options of every command: flags and what stands behind them.
options_of_commands <- function() lapply(commands(), function(command) {
  lapply(c(command$options(), help_option()), function(option) list(
    flag = option$flag, help = option$help, value = option$value
  ))
})

takes_file <- function(value) !is.null(value) && grepl("FILE|DIR|SHEET|PROJECT", value)

bash_completions <- function() {
  known <- options_of_commands()
  flags <- function(options) vapply(options, `[[`, "", "flag")
  of_files <- unique(unlist(lapply(unname(known), function(options) flags(Filter(
    function(option) takes_file(option$value), options
  )))))
  others <- setdiff(unique(unlist(lapply(unname(known), function(options) flags(Filter(
    function(option) !is.null(option$value), options
  ))))), of_files)
  c(
    "# Completions of mavik for bash: eval \"$(mavik completions bash)\" in ~/.bashrc",
    "_mavik() {",
    "  local word=${COMP_WORDS[COMP_CWORD]} before=${COMP_WORDS[COMP_CWORD-1]} flags",
    "  COMPREPLY=()",
    "  if [ \"$COMP_CWORD\" -eq 1 ]; then",
    paste0("    COMPREPLY=($(compgen -W \"", paste(names(known), collapse = " "),
      " --help --version\" -- \"$word\"))"),
    "    return",
    "  fi",
    "  case $before in",
    paste0("    ", paste(of_files, collapse = "|"), ") COMPREPLY=($(compgen -f -- \"$word\"));",
      " return ;;"),
    paste0("    ", paste(others, collapse = "|"), ") return ;;"),
    "  esac",
    "  case ${COMP_WORDS[1]} in",
    paste0("    ", names(known), ") flags=\"", vapply(known, function(options) paste(
      flags(options), collapse = " "
    ), ""), "\" ;;"),
    "  esac",
    "  if [ \"${word#-}\" != \"$word\" ]; then COMPREPLY=($(compgen -W \"$flags\" -- \"$word\"))",
    "  else COMPREPLY=($(compgen -f -- \"$word\")); fi",
    "}",
    "complete -o filenames -F _mavik mavik"
  )
}

zsh_completions <- function() {
  known <- options_of_commands()
  plain <- function(text) gsub("'", "'\\\\''", gsub("([]:[])", "\\\\\\1", text))
  option <- function(flag) paste0(
    "'", flag$flag, "[", plain(flag$help), "]",
    if (!is.null(flag$value)) paste0(
      ":", plain(flag$value), ":", if (takes_file(flag$value)) "_files"
      else " "), "'"
  )
  summaries <- vapply(commands(), `[[`, "", "summary")
  c(
    "#compdef mavik",
    "# Completions of mavik for zsh: source <(mavik completions zsh) in ~/.zshrc",
    "_mavik() {",
    "  local -a names",
    "  names=(", paste0("    '", names(known), ":", plain(summaries), "'"), "  )",
    "  if (( CURRENT == 2 )); then _describe 'command' names; return; fi",
    "  case $words[2] in",
    unlist(lapply(names(known), function(name) c(
      paste0("    ", name, ") _arguments \\"),
      paste0("      ", vapply(known[[name]], option, ""), " \\"), "      '*:file:_files' ;;"
    ))),
    "  esac",
    "}",
    "(( $+functions[compdef] )) || { autoload -Uz compinit; compinit; }",
    "compdef _mavik mavik"
  )
}

# The manual in the form that `man` reads, from the words of the help.
man_page <- function() {
  plain <- function(text) {
    text <- gsub("\\", "\\e", text, fixed = TRUE)
    text <- gsub("-", "\\-", text, fixed = TRUE)
    sub("^([.'])", "\\\\&\\1", text)
  }
  known <- commands()
  of_command <- function(name) {
    command <- known[[name]]
    options <- c(command$options(), help_option())
    c(
      paste0(".SS ", plain(paste("mavik", name, command$arguments))),
      plain(paste0(command$summary, ".")),
      unlist(lapply(options, function(option) c(
        ".TP", paste0(".B ", plain(paste(c(
          option$flag, option$value
        ), collapse = " "))), plain(option$help)
      ))),
      ".PP", "Example:", ".PP", ".nf", plain(command$example), ".fi"
    )
  }
  c(
    paste0(".TH MAVIK 1 \"\" \"mavik ", utils::packageVersion("mavik"), "\""),
    ".SH NAME", "mavik \\- raw questionnaire exports become a documented analysis file",
    ".SH SYNOPSIS", ".B mavik", "COMMAND [ARGUMENTS] [OPTIONS]",
    ".SH COMMANDS", unlist(lapply(names(known), of_command)),
    ".SH OPTIONS OF EVERY COMMAND",
    ".TP", ".B \\-\\-quiet", "Print nothing but errors.",
    ".TP", ".B \\-\\-no\\-color", "No colours, on a terminal either.",
    ".SH EXIT STATUS", plain(exit_words),
    ".SH ENVIRONMENT",
    ".TP", ".B NO_COLOR", "Where it is set, nothing is coloured.",
    ".TP", ".B MAVIK_SECRET", plain("The file of the secret for releases.")
  )
}
