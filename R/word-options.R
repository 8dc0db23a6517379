# Options of commands: flags, values, and those that several commands share.

flag_option <- function(name, help) {
  optparse::make_option(name, action = "store_true", default = FALSE, help = help)
}

value_option <- function(name, metavar, help, default = NULL) {
  optparse::make_option(
    name, type = "character", default = default, metavar = metavar, help = help
  )
}

project_option <- function() {
  value_option(
    "--project", "PROJECT", "the project folder or its codebook (default: here)", default = "."
  )
}

# Of commands that show labels.
language_option <- function() value_option(
  "--language", "TAG", "labels in this language of the codebook's `translations`, `fr`"
)

json_option <- function() flag_option("--json", "print it as JSON")

# Of commands that write pages and figures.
replace_option <- function() flag_option("--replace", "write over files that stand there")

help_option <- function() {
  list(optparse::make_option(
    c("-h", "--help"), action = "store_true", default = FALSE, help = "this help"
  ))
}
