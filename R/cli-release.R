command_release <- list(
  place = 11.5, summary = "Write what is handed on: the releases that the codebook declares",
  arguments = "[NAME...]", most = 50, example = "mavik release archive --project choirs",
  options = function() list(
    value_option("--project", "PROJECT", "the project (default: the folder you are in)"),
    value_option("--out", "DIR", "where to write, a folder for each release (default: `release`)"),
    language_option(),
    value_option("--secret", "FILE", "the file of the secret for pseudonyms, moved dates, order"),
    value_option("--new-secret", "FILE", "make such a file, and nothing else"),
    flag_option("--dry-run", "only say what would go out"),
    flag_option("--json", "print what was done as JSON")
  ),
  json = list(
    "release NAME" = c(
      releases = paste0(
        "for each release: name, label, folder, records, variables, left_out, made_from_left_out, ",
        "formats, scripts, changes, rare, files (file, bytes), compared (cells that were read back)"
      ),
      written = "whether anything was written"
    )
  ),
  run = function(given) {
    if (!is.null(given$`new-secret`)) return(secret_made(given))
    project <- if (is.null(given$project)) "." else given$project
    book <- known_book(project)
    names <- if (length(given$args) == 0) names(book$releases) else unique(given$args)
    if (length(names) == 0) declared_release(book, "")
    # All names, and all places, before anything is written.
    base <- if (is.null(given$out)) file.path(shown_folder(project), "release") else given$out
    for (name in names) {
      declared_release(book, name)
      check_release_place(file.path(base, name), book, name)
    }
    if (!is.null(given$language)) stop_unknown_language(given$language, book)
    study <- study_released(project, names)
    release <- function(name, dry_run) release_study(
      study, name, file.path(base, name), given$language, given$secret, dry_run = dry_run
    )
    # What one of them cannot hold is known before the first is written.
    dry <- lapply(names, release, dry_run = TRUE)
    done <- if (given$`dry-run`) dry else lapply(names, release, dry_run = FALSE)
    show_lines(if (given$json) release_json(done, !given$`dry-run`) else unlist(lapply(
      done, release_lines, written = !given$`dry-run`
    )))
    0L
  }
)

secret_made <- function(given) {
  new_secret(given$`new-secret`)
  show_lines(paste0(
    "Written to ", given$`new-secret`, ". Keep it where only you read, and a copy in a safe ",
    "place: without it there will never be the same pseudonyms again."
  ))
  0L
}

release_json <- function(done, written) json_of(
  list(releases = lapply(done, function(release) {
    release <- unclass(release)
    made <- release$made_from_left_out
    release$made_from_left_out <- lapply(names(made), function(name) list(
      variable = name, of = unname(made[[name]])
    ))
    release$compared <- if (written) release$compared
    release
  }), written = written),
  c(
    "releases", "releases.variables", "releases.left_out", "releases.made_from_left_out",
    "made_from_left_out.of", "releases.changes", "releases.formats", "releases.scripts",
    "releases.files"
  )
)

release_lines <- function(issued, written) {
  changes <- issued$changes
  size <- if (written) shown_size(issued$files$bytes)
  made <- issued$made_from_left_out
  c(
    heading_shown(paste0(issued$label,
      if (issued$label != issued$name) paste0(" (", issued$name, ")"))),
    wrapped(paste0(
      count_of(issued$records, "record"), ", ", count_of(length(issued$variables), "variable"),
      if (length(issued$left_out) > 0) paste0(
        "; left out: ", some_of(issued$left_out, 12, quote = FALSE))
    )),
    if (length(made) > 0) wrapped(paste0("made from what is left out: ", some_of(paste0(
      names(made), " (of ", vapply(made, some_of, "", most = 4, quote = FALSE), ")"
    ), 6, quote = FALSE))),
    if (!is.null(changes)) columns_shown(list(
      cells = c("cells", grouped(changes$cells)), variable = c("variable", changes$variable),
      change = c("changed", changes$change)
    ), right = "cells"),
    if (written && issued$compared > 0) paste0(
      "  read back and compared: ", grouped(issued$compared), " cells, all as in the study"
    ),
    paste0("  ", if (written) "written to " else "would be written to ", issued$folder, "/"),
    if (written) paste0("  ", columns_shown(
      list(file = issued$files$file, size = size), right = "size"
    )) else strwrap(paste(issued$files$file, collapse = ", "), 96, 4, 4), ""
  )
}

wrapped <- function(text) strwrap(text, 98, 2, 4)

shown_size <- function(bytes) ifelse(
  bytes < 1000, paste(bytes, "B"), ifelse(
    bytes < 1e6, paste(number_show(bytes / 1000, 1), "kB"), paste(number_show(bytes / 1e6, 1), "MB")
  )
)
