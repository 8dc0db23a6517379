# A variable as it holds in a wave or file: its versions.

is_absent <- function(version) identical(version, "absent")

# The versions of a variable, read by the same fields.
read_versions <- function(variable, entry, say) {
  if (is.null(variable) || length(entry$versions) == 0) return(variable)
  variable$version_of <- unlist(entry$version_of)
  variable$versions <- lapply(entry$versions, function(version) {
    if (is_absent(version)) return(version)
    as_entry <- entry
    as_entry[c("keys", "origin")] <- version
    read <- read_variable(as_entry, say)
    if (is.null(read)) return(NULL)
    if (read$way != variable$way) return(say(
      read$path,
      paste0(
        "is made by `", variable$way, "`, and in a wave by `", read$way,
        "`: a variable is made in one way"
      )
    ))
    read
  })
  broken <- vapply(variable$versions, is.null, TRUE)
  if (any(broken)) variable$failed <- TRUE
  variable$versions <- variable$versions[!broken]
  variable$version_of <- variable$version_of[variable$version_of %in% names(variable$versions)]
  variable
}

# Versions learn level, codes and range like their variable, which holds the codes of all.
make_versions <- function(variable, book, note) {
  way <- way_of(variable)
  for (id in names(variable$versions)) {
    version <- variable$versions[[id]]
    if (is_absent(version)) next
    version$base <- variable
    version$exports <- names(variable$version_of)[variable$version_of == id]
    version <- way$makes(version, book)
    way$check(version, book, but_unread(version, note))
    version$base <- NULL
    version$private <- variable$private
    if (!identical(version$storage, variable$storage)) note(
      version$path,
      paste0(
        "would be ", version$storage, " in a wave and ", variable$storage,
        " in others: a variable has one kind of values"
      )
    )
    variable <- take_codes(variable, version, note)
    variable$versions[[id]] <- version
  }
  variable
}

# A label of one code cannot be another code's elsewhere: the answers would change their meaning.
take_codes <- function(variable, version, note) {
  if (!is_coded(variable) || is.null(version$codes) || identical(version$codes, variable$codes))
    return(variable)
  for (k in seq_along(version$codes$code)) {
    same <- match(text_fold(version$codes$label[k]), text_fold(variable$codes$label))
    if (!is.na(same) && variable$codes$code[same] != version$codes$code[k]) {
      note(
        where_in(version, "codes"),
        paste0(
          "`", version$codes$label[k], "` is code ", version$codes$code[k], " here and ",
          variable$codes$code[same],
          " elsewhere: keep one meaning a code, and say under `delivered` what the file's codes ",
          "stand for"
        )
      )
    }
  }
  fresh <- !version$codes$code %in% variable$codes$code
  variable$codes <- list(
    code = c(variable$codes$code, version$codes$code[fresh]),
    label = c(variable$codes$label, version$codes$label[fresh])
  )
  variable
}

# A variable as it holds in an export, or `absent`.
version_in <- function(variable, export) {
  if (is.null(variable$versions)) return(variable)
  id <- variable$version_of[export$unspread]
  if (is.na(id)) variable else variable$versions[[id]]
}

columns_in <- function(variable, export) {
  version <- version_in(variable, export)
  if (is_absent(version)) character() else columns_of(version)
}

# The variable and its versions that are not absent.
all_versions <- function(variable) if (is.null(variable$versions)) list(variable) else c(
  list(variable), Filter(Negate(is_absent), variable$versions)
)

in_all_versions <- function(variable, parts) {
  for (id in names(variable$versions)) if (!is_absent(variable$versions[[id]]))
    variable$versions[[id]][parts] <- variable[parts]
  variable
}
