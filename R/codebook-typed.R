# A sheet into which answers from paper are typed: an export whose layout goes without saying.
# A question with several answers in one cell has a column for each option there.

typed_heading <- c("questions", "names")
typed_sheet <- "entry"
typed_response <- "Form"
# What the sheet says of the typing itself.
typed_marks <- c(clerk = "Clerk", date = "Typed on", progress = "Progress", open = "Open fields")

# What an export with `typed` need not say.
as_typed_export <- function(export, said, path, say) {
  if (is.null(export$typed)) return(export)
  if (!is.null(said$adds_to)) say(c(path, "adds_to"), paste0(
    "`adds_to` cannot go with `typed`: a typed sheet is an export of its own"
  ))
  if (is.list(said$wave)) say(c(path, "wave"), paste0(
    "a column cannot tell the waves of a typed sheet apart: make a sheet for each wave"
  ))
  if (!"heading" %in% names(said)) export$heading <- typed_heading
  if (is.null(export$sheet) && is_workbook(paste0(export$file, ""))) export$sheet <- typed_sheet
  if (is.null(export$response)) export$response <- typed_response
  if (is.null(said$cells)) export$cells <- "either"
  export$cells_said <- TRUE
  export$ignored <- union(export$ignored, typed_marks)
  export
}

# An entry with what differs for it in typed sheets, as a version of its own. `layers` are what its
# `by_wave` and `by_export` say.
with_typed <- function(entry, exports, layers = list()) {
  for (export in exports) {
    if (is.null(export$typed)) next
    before <- entry$version_of[[export$name]]
    here <- if (is.null(before)) entry[c("keys", "origin")] else entry$versions[[before]]
    if (is_absent(here)) next
    own <- Filter(function(layer) layer$by == "by_export" && layer$name == export$entry, layers)
    version <- typed_version(entry, here, export$typed, unlist(lapply(own, function(layer)
      names(layer$over))))
    if (identical(version, here)) next
    id <- paste(c("typed", export$entry, before), collapse = " > ")
    entry$versions[[id]] <- version
    entry$version_of[[export$name]] <- id
  }
  entry
}

# `own` are the keys that the codebook says of this very sheet.
typed_version <- function(entry, here, typed, own) {
  keys <- here$keys
  split <- at_key(keys$split, "options")
  if (is.null(keys$column) && !is_map(split)) return(here)
  named <- c(entry$name, entry$block) %in% unlist(typed)
  if (any(named) == is.null(typed$of)) return("absent")
  # What is said of a raw file says nothing about this sheet.
  keys[setdiff(c("cells", "delivered", "from"), own)] <- NULL
  if (is_map(split) && is_text(keys$split$column)) keys$split <- typed_boxes(keys$split)
  list(keys = keys, origin = here$origin)
}

# One cell with several answers becomes a box for each, and one for the write-in.
typed_boxes <- function(split) {
  box <- function(name) paste0(split$column, ": ", name)
  names <- names(split$options)
  if (is_map(split$other) && !is_text(split$other$column)) {
    words <- c(split$other$text, split$other$flag)
    if (is_text(words[1])) split$other$column <- box(words[1])
  }
  split$columns <- with_names(as.list(box(names)), names)
  split[setdiff(names(split), "column")]
}

# What came from the platform, each once: a typed sheet says nothing about how it delivers.
platform_exports <- function(exports) {
  own <- Filter(function(export) is.null(export$adds_to), exports)
  delivered <- Filter(Negate(is_typed), own)
  if (length(delivered) > 0) delivered else own
}

is_typed <- function(export) !is.null(export$typed)
