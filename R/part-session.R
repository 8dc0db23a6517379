# What is worked out once a session and never changes in it.

session <- new.env()

once_a_session <- function(name, make) {
  known <- session[[name]]
  if (!is.null(known)) return(known)
  assign(name, make(), envir = session)
  session[[name]]
}

# What was made of the same input lately is not made again; the last few are remembered.
lately <- function(name, input, make, most = 8L, within = session) {
  known <- within[[name]]
  for (made in known) if (identical(made$input, input)) return(made$output)
  output <- make(input)
  assign(name, utils::head(c(list(list(input = input, output = output)), known), most), within)
  output
}

# The same for many things of one kind, each by its name; all are forgotten when they become more
# than `many`.
lately_of <- function(kind, name, input, make, most = 4L, many = 5000L) {
  if (length(session[[kind]]) > many) rm(list = kind, envir = session)
  lately(substr(name, 1, 100), input, make, most, once_a_session(kind, new.env))
}

# The objects of one kind, found by their names (`way_`): a new one is one new file.
parts_named <- function(prefix) once_a_session(prefix, function() {
  env <- topenv()
  names <- ls(env, sorted = FALSE)
  names <- names[startsWith(names, prefix) & names != prefix]
  names <- sort(names[!grepl("[^a-z_]", names)], method = "radix")
  things <- mget(names, envir = env)
  things <- things[vapply(things, is.list, TRUE)]
  names(things) <- substring(names(things), nchar(prefix) + 1)
  things
})

# What a package does with letters (upper case, order) is the same in every locale.
with_plain_locale <- function(expr) {
  categories <- c("LC_CTYPE", "LC_COLLATE")
  old <- vapply(categories, Sys.getlocale, "")
  on.exit(Map(Sys.setlocale, categories, old))
  if (!nzchar(suppressWarnings(Sys.setlocale("LC_CTYPE", "C.UTF-8")))) Sys.setlocale(
    "LC_CTYPE", "C"
  )
  Sys.setlocale("LC_COLLATE", "C")
  expr
}
