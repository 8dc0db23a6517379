command_reference <- list(
  place = 13, summary = "The codebook language, key by key, and the words of the outputs",
  arguments = "[KEY]", most = 1, example = "mavik reference score",
  options = function() list(
    value_option("--html", "FILE", "all of it as an HTML page"),
    replace_option(),
    json_option()
  ),
  json = list("reference" = c(
    keys = "the language: part, place, key, type, required, default, help, example, goes_with",
    words = "the words of the outputs: part, place, key, help"
  )),
  run = function(given) {
    if (!is.null(given$html)) check_may_write(given$html, character(), given$replace)
    entries <- language_entries()
    words <- rbind(vocabulary_entries(), json_entries())
    if (!is.null(given$html)) {
      write_text(reference_page(entries, words), given$html)
      if (length(given$args) == 0 && !given$json) return(say_written(given))
    }
    if (length(given$args) > 0) {
      entries <- entries_named(entries, given$args)
      words <- words_named(words, given$args)
      if (nrow(entries) + nrow(words) == 0) no_such_key(given$args)
    }
    show_lines(if (given$json) json_of(list(keys = entries, words = words))
      else if (length(given$args) == 0) reference_overview(entries) else reference_shown(
        entries, words
      ))
    say_written(given)
  }
)

# What the JSON of each command holds.
json_entries <- function() {
  shapes <- unlist(lapply(unname(commands()), `[[`, "json"), recursive = FALSE)
  do.call(rbind, lapply(names(shapes), function(name) {
    data.frame(
      part = "JSON of the commands", place = paste0("mavik ", name, " --json"),
      key = names(shapes[[name]]), help = unname(shapes[[name]])
    )
  }))
}

# By the key itself, its path (`exports > heading`), or the way, rule or screen,
# which brings all that goes with it.
entries_named <- function(entries, word) {
  path <- path_plain(word)
  full <- path_plain(paste(entries$place, entries$key, sep = " > "))
  short <- gsub(" > [A-Z]+", "", full)
  inside <- startsWith(short, paste0(path, " > ")) & entries$part == "key"
  entries[entries$key == word | full == path | short == path |
    endsWith(short, paste0(" > ", path)) | entries$goes_with == word | inside, ]
}

path_plain <- function(text) sub("^ > ", "", gsub("\\s*[>.]\\s*", " > ", trimws(text)))

words_named <- function(words, word) {
  plain <- sub("[.]csv$", "", word)
  words[
    words$key == word | sub("[.]csv$", "", words$place) == plain |
    startsWith(words$place, paste("mavik", word)),
  ]
}

no_such_key <- function(word) {
  known <- unique(c(language_entries()$key, vocabulary_entries()$key))
  stop_mavik(
    "usage_error", "`", word, "` is no key of the language", did_you_mean(word, known),
    "; `mavik reference` lists them"
  )
}

reference_overview <- function(entries) {
  chapter <- chapter_of(entries)
  lines <- unlist(lapply(intersect(names(language_chapters), chapter), function(name) {
    some <- entries[chapter == name, ]
    head <- some$part %in% c("key", "function") | some$key == some$goes_with
    some <- some[head & !duplicated(paste(some$part, some$place, some$key)), ]
    c(
      "", heading_shown(language_chapters[[name]]),
      columns_shown(list(key = key_below(some, name), help = shorten(some$help, 88)))
    )
  }))
  c(lines[-1], "",
    paste0(
      "`mavik reference KEY` tells all of a key, a way or an operator; `mavik reference ",
      "findings` the kinds of"
    ),
    paste0(
      "findings; so do `ledger`, `gaps`, `waves`, and `check`, `look`, ... the JSON of a ",
      "command. --html writes all of it."
    ))
}

# Keys of keys with the key that they stand under.
key_below <- function(entries, chapter) {
  deeper <- sub("^ > ", "", sub(paste0("^", chapter, "( > [A-Z]+)?"), "", entries$place))
  ifelse(entries$part == "key" & nzchar(deeper), paste(deeper, ">", entries$key), entries$key)
}

reference_shown <- function(entries, words) {
  entries <- joined_entries(entries)
  c(
    unlist(lapply(seq_len(nrow(entries)), function(row) key_lines(entries[row, ]))),
    unlist(lapply(unique(paste(words$part, words$place)), function(place) {
      some <- words[paste(words$part, words$place) == place, ]
      kind <- vocabulary_chapters[some$part[1]]
      c(
        heading_shown(if (is.na(kind) || some$part[1] == "column") some$place[1] else kind),
        columns_shown(list(key = some$key, help = some$help)), ""
      )
    }))
  )
}

# One entry for ways that share a key.
joined_entries <- function(entries) {
  same <- do.call(
    joined_id, unname(entries[c("place", "key", "type", "default", "help", "example")])
  )
  entries$goes_with <- vapply(
    same, function(entry) paste(unique(entries$goes_with[same == entry]), collapse = ", "), "",
    USE.NAMES = FALSE
  )
  entries[!duplicated(same), ]
}

key_lines <- function(entry) {
  own <- entry$key == entry$goes_with
  where <- paste0(
    if (nzchar(entry$place)) entry$place else "at the top of a codebook",
    if (
      nzchar(entry$goes_with) && !own &&
      !grepl(paste(" >", entry$goes_with), entry$place, fixed = TRUE)
    ) paste0(", with ", entry$goes_with)
  )
  takes <- c(
    if (nzchar(entry$type)) entry$type, if (entry$required) "needed",
    if (nzchar(entry$default)) paste0("`", entry$default, "` if not said")
  )
  c(
    paste0(heading_shown(entry$key), "  ", cli::col_grey(where)),
    cli::ansi_strwrap(entry$help, max(cli::console_width(), 80) - 4, indent = 2, exdent = 2),
    if (length(takes) > 0) cli::ansi_strwrap(
      paste(takes, collapse = "; "), width = max(cli::console_width(), 80) - 4, indent = 2,
      exdent = 4
    ),
    if (nzchar(entry$example)) paste0("      ", strsplit(entry$example, "\n", fixed = TRUE)[[1]]),
    ""
  )
}
