# What stands behind a command: its options by name, with their defaults, and
# `args`, the rest.

parse_arguments <- function(name, command, args) {
  options <- c(command$options(), help_option())
  usage <- function(...) stop_mavik("usage_error", ..., "; `mavik ", name, " --help` shows how")
  cut <- cut_arguments(args, options, name, usage)
  given <- with_defaults(getopt::getopt(options_table(options), cut$flags), options)
  if (length(cut$rest) > command$most && !given$help) usage(
    "`mavik ", name, "` takes ", count_of(command$most, "argument"), " at most; `",
    cut$rest[command$most + 1], "` is one too many"
  )
  c(given, list(args = cut$rest))
}

# The flags, each with its value behind `=`, and the rest. Every flag is one of the
# command's, stands once, and has its value.
cut_arguments <- function(args, options, name, usage) {
  flags <- lapply(options, function(option) c(option$flag, option$letter))
  seen <- integer()
  cut <- rest <- character()
  k <- 1
  while (k <= length(args)) {
    flag <- sub("=.*", "", args[k])
    if (!startsWith(flag, "-") || flag == "-") {
      rest <- c(rest, args[k])
    } else {
      place <- match(TRUE, vapply(flags, function(own) flag %in% own, TRUE))
      if (is.na(place)) stop_mavik(
        "usage_error", "`", args[k], "` is not an option of `mavik ", name, "`",
        did_you_mean(flag, unlist(flags)), "; `mavik ", name, " --help` lists them"
      )
      if (place %in% seen) usage("`", flag, "` is given twice: once is enough")
      seen <- c(seen, place)
      value <- value_behind(args, k, options[[place]], unlist(flags), usage)
      cut <- c(cut, paste0(options[[place]]$flag, value))
      if (!is.null(value) && !grepl("=", args[k], fixed = TRUE)) k <- k + 1
    }
    k <- k + 1
  }
  list(flags = cut, rest = rest)
}

# What stands behind a flag, as `=value`; the last `=` of a value is doubled, since
# getopt takes one away.
value_behind <- function(args, k, option, known, usage) {
  inside <- grepl("=", args[k], fixed = TRUE)
  if (is.null(option$value)) {
    if (inside) usage("`", option$flag, "` takes no value")
    return(NULL)
  }
  value <- if (inside) sub("^[^=]*=", "", args[k]) else args[k + 1]
  if (!inside && (is.na(value) || sub("=.*", "", value) %in% known)) usage(
    "`", option$flag, "` needs a value behind it (", option$value, ")"
  )
  if (!inside && grepl("^-[^0-9.]", value)) usage(
    "`", value, "` behind `", option$flag, "` looks like an option; a value that begins so is ",
    "written `", option$flag, "=", value, "`"
  )
  paste0("=", value, if (endsWith(value, "=")) "=")
}

options_table <- function(options) {
  valued <- !vapply(options, function(option) is.null(option$value), TRUE)
  cbind(names_of_options(options), NA, as.integer(valued), ifelse(valued, "character", "logical"))
}

names_of_options <- function(options) sub("^--", "", vapply(options, `[[`, "", "flag"))

with_defaults <- function(given, options) {
  all <- with_names(lapply(options, `[[`, "default"), names_of_options(options))
  told <- intersect(names(given), names(all))
  all[told] <- given[told]
  Filter(Negate(is.null), all)
}
