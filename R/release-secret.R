#' Make a secret for releases
#'
#' Pseudonyms, moved dates and the order of records of a release come from a secret that is kept
#' outside the project: with it they are the same over waves and releases, without it nobody can
#' make them again.
#'
#' @param file Where to write it: a new file, outside every project. Only you can read it.
#' @return `file`, invisibly.
#' @section Errors: A file that stands there already: a new secret makes new pseudonyms.
#' @examples
#' file <- tempfile("secret")
#' new_secret(file)
#' file.info(file)$mode
#' @export
new_secret <- function(file) {
  keep_own_options()
  if (file.exists(file)) stop_mavik(
    "release_error", file, ": stands there already; whoever replaces a secret gets other ",
    "pseudonyms: choose another name"
  )
  check_secret_folder(file)
  old <- Sys.umask("077")
  on.exit(Sys.umask(old), add = TRUE)
  secret <- paste(as.character(openssl::rand_bytes(32)), collapse = "")
  write_text(secret, file)
  Sys.chmod(file, "600")
  invisible(file)
}

check_secret_folder <- function(file) {
  folder <- dirname(real_path(file))
  while (TRUE) {
    if (length(list.files(folder, "[.]ya?ml$")) > 0 && dir.exists(file.path(folder, "raw")))
      stop_mavik("release_error", "the secret would lie inside the project ", basename(folder),
        ": choose a place outside, where only you read")
    up <- dirname(folder)
    if (up == folder) return(invisible())
    folder <- up
  }
}

# What the file holds. No message says it, nor where it lies.
read_secret <- function(file, book) {
  from <- "the file of the secret (`--secret FILE`, or the variable MAVIK_SECRET)"
  if (is.null(file)) file <- Sys.getenv("MAVIK_SECRET")
  if (!nzchar(file)) stop_mavik(
    "release_error", "this release needs a secret: name ", from,
    "; `mavik release --new-secret FILE` makes one"
  )
  if (!file.exists(file) || dir.exists(file)) stop_mavik(
    "release_error", from, " is not there; `mavik release --new-secret FILE` makes one"
  )
  if (!is.null(book$project) && is_inside(file, book$project)) stop_mavik(
    "release_error", from, " lies inside the project, and would be handed on with it: move it out"
  )
  if (.Platform$OS.type == "unix" && bitwAnd(as.integer(file.info(file)$mode), 63L) > 0) stop_mavik(
    "release_error", from, " can be read by others: make it yours alone, `chmod 600 FILE`"
  )
  text <- text_trim(paste(readLines(file, warn = FALSE), collapse = "\n"))
  if (nchar(text) < 16) stop_mavik(
    "release_error", from, if (nzchar(text)) " is too short (16 characters at least)" else
      " is empty", "; `mavik release --new-secret FILE` makes one"
  )
  charToRaw(text)
}
