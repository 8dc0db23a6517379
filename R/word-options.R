# Options of commands: flags, values, and those that several commands share.

# What an option is. `value` says in a word what stands behind it, and is NULL for
# a flag; without a default an option that is not given is NULL.
new_option <- function(flag, help, value = NULL, default = if (is.null(value)) FALSE,
                       letter = NULL) {
  list(flag = flag, letter = letter, help = help, value = value, default = default)
}

flag_option <- function(name, help) new_option(name, help)

value_option <- function(name, metavar, help, default = NULL) {
  new_option(name, help, value = metavar, default = default)
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

help_option <- function() list(new_option("--help", "this help", letter = "-h"))
