#' Compare two builds
#'
#' What differs between two outputs of a build: respondents, cells, shares and
#' means, entries of the codebook, and what can have caused it.
#'
#' @param old,new Output folders of [write_study()], or studies.
#' @return A `mavik_comparison`: a list with `respondents` (`came`, `gone`: data
#'   frames of wave and respondent; `both`, a number), `variables` (`came`,
#'   `gone`), `cells` (a data frame: `variable`, `changed`, `examples`, `causes`),
#'   `changes` (every changed cell: `variable`, `wave`, `respondent`, `was`,
#'   `now`; gaps as their reason in brackets), `moved` (`variable`, `what`, `was`,
#'   `now`: shares of the answered in percent points, means), `codebook` (`path`,
#'   `change`, `was`, `now`), `sources` (what differs of the raw files, the sheets
#'   and the version of Mavik: `what`, `file`, `change`) and `same`.
#' @section Errors: A folder that holds no build, or one whose files were changed
#'   after it; keys that are private where the raw files differ, since no record
#'   could be told from another.
#' @examples
#' project <- demo_project(tempfile())
#' codebook <- read_codebook(project)
#' old <- build_study(codebook)
#' new <- build_study(edit_codebook(codebook, variables = list(years = list(range = c(0, 60)))))
#' compare_studies(old, new)
#' @export
compare_studies <- function(old, new) {
  keep_own_options()
  old <- output_side(old, "old")
  new <- output_side(new, "new")
  sources <- differing_sources(old, new)
  ids <- match_sides(old, new)
  entries <- differing_entries(old$document, new$document)
  rows <- list(old = which(!is.na(ids)), new = ids[!is.na(ids)])
  shared <- intersect(names(old$cells), names(new$cells))
  changes <- lapply(shared, changed_cells, old = old, new = new, rows = rows)
  changes <- do.call(rbind, c(list(no_changes()), changes))
  came <- setdiff(seq_along(new$wave), ids)
  gone <- which(is.na(ids))
  who <- function(side, rows) data.frame(wave = side$wave[rows], respondent = side$respondent[rows])
  causes <- cause_finder(new, entries, sources)
  out <- list(
    respondents = list(came = who(new, came), gone = who(old, gone), both = length(rows$old)),
    variables = list(
      came = setdiff(names(new$cells), names(old$cells)),
      gone = setdiff(names(old$cells), names(new$cells))
    ),
    cells = cell_counts(changes, causes), changes = changes, moved = moved_statistics(
      old, new, shared
    ),
    codebook = entries, sources = sources, title = new$document$study$title
  )
  out$same <- nrow(changes) + length(came) + length(gone) + nrow(entries) + nrow(sources) +
    length(unlist(out$variables)) == 0
  structure(out, class = "mavik_comparison")
}

no_changes <- function() data.frame(
  variable = character(), wave = character(), respondent = character(), was = character(),
  now = character()
)

# One side: its cells as texts by variable, who they belong to, and its record.
output_side <- function(side, called) {
  if (inherits(side, "mavik_study")) {
    folder <- tempfile("side")
    on.exit(unlink(folder, recursive = TRUE))
    dir.create(folder)
    for (output in parts_named("output_")[c("analysis", "gaps", "provenance")]) output$write(
      side, file.path(folder, output$file)
    )
    return(read_side(folder, called))
  }
  if (!is_text(side) || !dir.exists(side)) stop_mavik(
    "build_error", called, ": give the output folder of a build, or a study"
  )
  if (
    !file.exists(file.path(side, "provenance.json")) &&
    file.exists(file.path(side, "out", "provenance.json"))
  ) side <- file.path(side, "out")
  if (!file.exists(file.path(side, "provenance.json"))) stop_mavik(
    "build_error", side, ": holds no build (no provenance.json)"
  )
  read_side(side, side)
}

read_side <- function(folder, shown) {
  record <- tryCatch(
    jsonlite::read_json(file.path(folder, "provenance.json")), error = function(e) NULL
  )
  if (is.null(record$mavik) || is.null(record$codebook$document)) stop_mavik(
    "build_error", shown, ": provenance.json is not that of a build"
  )
  for (name in c("analysis.csv", "gaps.csv")) {
    path <- file.path(folder, name)
    said <- record$outputs[[name]]
    if (!file.exists(path)) stop_mavik("build_error", shown, ": ", name, " is missing")
    if (
      !is.null(said) &&
      (file.size(path) != said$bytes ||
        (!is.null(said$blake2b) && file_digest(path) != said$blake2b))
    ) {
      stop_mavik("build_error", shown, ": ", name, " was changed after the build; build again")
    }
  }
  read <- function(name) {
    path <- file.path(folder, name)
    as.list(data.table::fread(
      file = path, sep = ",", header = TRUE, colClasses = "character", na.strings = NULL,
      strip.white = FALSE, encoding = "UTF-8", showProgress = FALSE, blank.lines.skip = FALSE
    ))
  }
  cells <- read("analysis.csv")
  gaps <- read("gaps.csv")
  list(
    shown = shown, record = record, document = normalise(record$codebook$document),
    wave = gaps$wave, respondent = gaps$respondent,
    place = paste(gaps$export,
      gaps$line), response = response_of(normalise(record$codebook$document), cells,
      gaps$wave), cells = cells, gaps = gaps[-(1:4)],
      private = length(gaps$respondent) > 0 && all(gaps$respondent == masked)
  )
}

# For each old row its new one. Never by position: by wave and key, or, where
# the key is private, by line of raw files that are the same.
match_sides <- function(old, new) {
  numbered <- is_numbered_side(old) || is_numbered_side(new)
  if (numbered && !is.null(old$response) && !is.null(new$response)) return(match(joined_id(old$wave,
    old$response), joined_id(new$wave, new$response)))
  if (old$private || new$private || numbered) {
    same <- identical(
      lapply(old$record$inputs, `[[`, "blake2b"), lapply(new$record$inputs, `[[`, "blake2b")
    )
    if (!same || is.null(old$record$inputs[[1]]$blake2b)) stop_mavik("build_error",
      if (numbered) "records are numbered, not named, and" else "the key is private and",
      " the raw files differ: no record of one build can be told from those of the other",
      if (numbered) paste0(
        "; where the platform numbers its responses, name that column as `response` of the ",
        "export and keep a variable of it"
      ))
    return(match(paste(old$wave, old$place), paste(new$wave, new$place)))
  }
  match(joined_id(old$wave, old$respondent), joined_id(new$wave, new$respondent))
}

is_numbered_side <- function(side) any(vapply(side$document$exports,
  function(export) identical(export$key, "numbered"), TRUE))

# The platform's own numbers of the responses, where the analysis file holds them once each.
response_of <- function(document, cells, wave) {
  columns <- unique(unlist(lapply(document$exports, `[[`, "response")))
  entries <- flat_entries(document)
  reads <- names(Filter(function(keys) is_text(keys$column) && keys$column %in% columns, entries))
  reads <- intersect(reads, names(cells))
  if (length(reads) == 0 || !all(nzchar(cells[[reads[1]]])) ||
    anyDuplicated(paste(wave, cells[[reads[1]]]))) return(NULL)
  cells[[reads[1]]]
}

changed_cells <- function(name, old, new, rows) {
  was <- old$cells[[name]][rows$old]
  now <- new$cells[[name]][rows$new]
  gap <- function(side, rows) if (is.null(side$gaps[[name]])) rep("", length(rows)) else
    side$gaps[[name]][rows]
  was_gap <- gap(old, rows$old)
  now_gap <- gap(new, rows$new)
  odd <- which(was != now | was_gap != now_gap)
  if (length(odd) == 0) return(NULL)
  data.frame(variable = name, wave = new$wave[rows$new[odd]],
    respondent = new$respondent[rows$new[odd]],
    was = side_shown(old, name, was[odd], was_gap[odd]), now = side_shown(
      new, name, now[odd], now_gap[odd]
    ))
}

# Codes with their labels, gaps as their reason.
side_shown <- function(side, name, value, gap) {
  labels <- labels_in(side$document, name)
  reasons <- side_reasons(side$document)
  label <- if (is.null(labels)) rep(NA, length(value)) else labels[value]
  text <- ifelse(is.na(label), value, paste(value, label))
  ifelse(nzchar(gap), paste0("(", ifelse(is.na(reasons[gap]), gap, reasons[gap]), ")"), text)
}

side_book <- function(side) tryCatch(
  compile_codebook(new_codebook(side, NULL, NULL, getwd())), mavik_error = function(e) NULL
)

labels_in <- function(document, name) {
  entry <- flat_entries(document)[[name]]
  codes <- entry$codes
  if (is_text(codes)) codes <- document$code_lists[[codes]]$codes
  unlist(codes)
}

side_reasons <- function(document) {
  standing <- with_names(standing_reasons$label, number_to_text(standing_reasons$code))
  for (name in names(document$missing)) {
    reason <- document$missing[[name]]
    place <- match(name, standing_reasons$name)
    code <- if (is.null(reason$code)) number_to_text(standing_reasons$code[place]) else reason$code
    standing[code] <- if (is.null(reason$label)) standing_reasons$label[place] else reason$label
  }
  standing
}

# Entries by variable, a block's items with what the block shares.
flat_entries <- function(document) {
  entries <- spread_blocks(document$variables, function(...) NULL)
  with_names(lapply(entries, `[[`, "keys"), vapply(entries, `[[`, "", "name"))
}

cell_counts <- function(changes, causes) {
  names <- unique(changes$variable)
  data.frame(
    variable = names, changed = vapply(
      names, function(name) sum(changes$variable == name), 0L, USE.NAMES = FALSE
    ),
    examples = vapply(names, function(name) {
      change <- utils::head(changes[changes$variable == name, ], 3)
      paste(
        paste0(
          change$respondent, ": ", ifelse(nzchar(change$was), change$was, "empty"), " -> ",
          ifelse(nzchar(change$now), change$now, "empty")
        ),
        collapse = "; "
      )
    }, "", USE.NAMES = FALSE),
    causes = vapply(names, causes, "", USE.NAMES = FALSE)
  )
}

# Shares of the answered and means, where they moved.
moved_statistics <- function(old, new, names) {
  book <- side_book(new$document)
  out <- lapply(names, function(name) {
    labels <- labels_in(new$document, name)
    variable <- book$variables[[name]]
    values <- lapply(list(old, new), function(side) side$cells[[name]][nzchar(side$cells[[name]])])
    if (!is.null(labels)) return(moved_shares(name, labels, values))
    # Only what is a number has a mean: not keys, identifiers, texts or dates.
    if (!identical(variable$storage, "number") || way_of(variable)$everybody) return(NULL)
    number <- lapply(values, text_to_number)
    if (anyNA(unlist(number)) || any(lengths(number) == 0)) return(NULL)
    means <- vapply(number, mean, 0)
    if (means[1] == means[2]) return(NULL)
    data.frame(variable = name, what = "mean", was = means[1], now = means[2])
  })
  do.call(
    rbind,
    c(
      list(data.frame(
        variable = character(), what = character(), was = numeric(), now = numeric()
      )),
      out
    )
  )
}

moved_shares <- function(name, labels, values) {
  codes <- names(labels)
  shares <- vapply(
    values, function(value) share(tabulate(match(value, codes), length(codes)), length(value)),
    numeric(length(codes))
  )
  shares <- matrix(ifelse(is.na(shares), 0, shares), ncol = 2)
  odd <- which(shares[, 1] != shares[, 2])
  if (length(odd) == 0) return(NULL)
  data.frame(
    variable = name, what = unname(labels[odd]), was = shares[odd, 1], now = shares[odd, 2]
  )
}
