# Instruments: published sets of items with their directions, described once. A
# score that names one says only which variable is which item.

instrument_fields <- function() {
  list(
    file = field("text", "a YAML file that holds the instrument", "instruments/pitch.yml"),
    label = field("text", "its name as readers see it", "Ease with pitch"),
    source = field("text", "where it was published", "Kestrel Valley handbook, 2025"),
    items = field("names", "the items by the instrument's own numbers",
      "{1: I sing in tune, 2: I lose the note}"),
    bounds = field("range", "the lowest and highest answer", "[1, 5]"),
    reversed = field("texts", "numbers of the reversed items", "[2]", default = character()),
    subscales = field("groups", "items of each subscale", "{accuracy: [1, 2]}", default = list()),
    take = field("choice", "what the score is", "mean", values = c("mean", "sum", "percent")),
    at_least = field(
      "amount", "how many items must be answered, or their share", "2", default = "all"
    ),
    prorate = field(
      "yes_no", "a sum over fewer items is filled up in proportion", "yes", default = FALSE
    )
  )
}

compile_instruments <- function(value, project, say) {
  instruments <- read_parts(value, "instruments", instrument_fields(), part_name, say)
  for (name in names(instruments)) {
    path <- c("instruments", name)
    if (!is.null(instruments[[name]]$file)) instruments[[name]] <- instrument_from(
      instruments[[name]]$file, project, path, say
    )
    instrument <- instruments[[name]]
    if (is.null(instrument)) next
    if (is.null(instrument$items)) say(
      path, "`items` is missing: the items by the instrument's own numbers"
    )
    if (is.null(instrument$take)) say(path, "`take` is missing: `mean`, `sum` or `percent`")
    for (number in setdiff(c(instrument$reversed, unlist(instrument$subscales)),
      names(instrument$items))) say(
      path,
      paste0(
        "`", number, "` is not the number of one of its items",
        did_you_mean(number, names(instrument$items))
      )
    )
  }
  Filter(Negate(is.null), instruments)
}

instrument_from <- function(file, project, path, say) {
  place <- file.path(if (is.null(project)) "." else project, file)
  if (!file.exists(place)) return(say(c(path, "file"), paste0(file, ": no such file")))
  read <- tryCatch(
    unclass_document(parse_lines(codebook_lines(place), place)),
    mavik_codebook_error = function(e) say(c(path, "file"), conditionMessage(e))
  )
  if (is.null(read)) NULL else read_fields(read, instrument_fields(), path, say)
}

# Files beside the codebook that hold its instruments.
instrument_files <- function(document) {
  if (is_map(document$instruments)) lapply(
    unname(document$instruments),
    function(instrument) if (is_text(at_key(instrument, "file"))) instrument$file
  )
}

# A score by an instrument becomes a score over variables.
apply_instruments <- function(entries, instruments, say) {
  lapply(entries, function(entry) {
    score <- entry$keys$score
    if (is_map(score) && "numbers" %in% names(score)) say(
      c(entry$path, "score", "numbers"), "`numbers` is not a key that can stand here"
    )
    if (!is_map(score) || is.null(score$instrument)) return(entry)
    named <- paste(unlist(score$instrument), collapse = " ")
    instrument <- if (is_text(score$instrument)) instruments[[score$instrument]]
    if (is.null(instrument)) {
      say(c(entry$path, "score", "instrument"), paste0(
        "`", named, "` is not one of the `instruments`", did_you_mean(named, names(instruments))
      ))
      return(entry)
    }
    apply_instrument(entry, instrument, say)
  })
}

apply_instrument <- function(entry, instrument, say) {
  score <- entry$keys$score
  path <- c(entry$path, "score")
  given <- if (is_map(score$items)) unlist(Filter(is_text, score$items))
  wanted <- numbers_wanted(score, instrument, path, say)
  known <- names(instrument$items)
  for (number in setdiff(names(given), known)) say(
    c(path, "items", number),
    paste0("the instrument has no item `", number, "`", did_you_mean(number, known))
  )
  missing <- setdiff(wanted, names(given))
  if (length(missing) > 0) say(
    c(path, "items"), paste0("does not say which variable is item ", some_of(missing, 9))
  )
  numbers <- intersect(wanted, names(given))
  if (length(numbers) == 0) return(entry)
  score$of <- unname(given[numbers])
  score$reversed <- unname(given[intersect(instrument$reversed, numbers)])
  if (length(score$reversed) == 0) score$reversed <- NULL
  for (key in c("take", "at_least")) {
    own <- instrument[[key]]
    if (is.null(score[[key]]) && !is.null(own)) {
      score[[key]] <- if (is.numeric(own)) number_to_text(own) else own
    }
  }
  if (is.null(score$prorate) && isTRUE(instrument$prorate)) score$prorate <- "yes"
  score$numbers <- list(of = with_names(numbers, score$of), bounds = instrument$bounds)
  entry$keys$score <- score
  entry
}

# The items' numbers: all of the instrument, or those of a subscale.
numbers_wanted <- function(score, instrument, path, say) {
  if (!is_text(score$subscale)) return(names(instrument$items))
  wanted <- instrument$subscales[[score$subscale]]
  if (!is.null(wanted)) return(wanted)
  say(c(path, "subscale"), paste0(
    "`", score$subscale, "` is not one of its subscales",
    did_you_mean(score$subscale, names(instrument$subscales))
  ))
  names(instrument$items)
}
