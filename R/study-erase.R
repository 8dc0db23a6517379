# Withdrawn consent: the records that a screen with `erase` meets are taken out
# before anything else is made of them, so that no value, finding or row of the
# ledger ever holds what they told. A count by screen is all that is left.
#
# Where the screen names the drop and rests on an answer, the person said so:
# the person's other records in the wave (in a panel, in all waves) go too. An
# empty record that meets it takes nobody else with it.

erased_records <- function(inputs, book, records, sheet) {
  erase <- erasing_screens(book)
  none <- list(rows = integer(), counts = integer())
  if (length(erase) == 0) return(none)
  # Who meets one is dropped there or before: what stands behind the last tells nothing of it.
  book$screens <- book$screens[seq_len(max(match(erase, names(book$screens))))]
  part <- part_of_book(book, unlist(lapply(book$screens, `[[`, "reads")))
  placed <- place_corrections(sheet, records, book, NULL)
  placed$of <- placed$of[intersect(names(placed$of), names(part$variables))]
  read <- decode_answers(inputs, part, records, placed)
  decoded <- read$values
  rows <- rows_of_records(records, book)
  rows$contradicted <- read$contradicted
  settled <- settle_answers(decoded, part, rows, records)
  screened <- screen_records(settled, decoded, part, records)
  met <- sort(unique(unlist(screened$met[erase])))
  if (length(met) == 0) return(none)
  spoken <- met[screened$dropped[met] %in% erase & said_so(met, screened$dropped, settled, part)]
  person <- if (is_panel(book)) records$key else joined_id(records$wave, records$key)
  also <- which(person %in% person[spoken])
  name <- screened$dropped
  of_person <- name[spoken][match(person, person[spoken])]
  gone <- sort(unique(c(met, also)))
  by <- ifelse(
    gone %in% met,
    ifelse(name[gone] %in% erase, name[gone], first_erase(gone, screened$met, erase)),
    of_person[gone]
  )
  counts <- table(factor(by, erase))
  # Of whom a record stays, the key stays too: only an empty one went.
  of <- joined_id(records$wave, records$key)
  list(rows = gone, counts = counts[counts > 0], keys = data.frame(wave = records$wave[gone],
    key = records$key[gone], id = ids_of(records)[gone], row = gone,
    whole = !of[gone] %in% of[-gone]))
}

erasing_screens <- function(book) names(
  Filter(function(screen) isTRUE(screen$erase), book$screens)
)

# Whether a variable that the naming screen reads holds an answer.
said_so <- function(rows, dropped, settled, book) {
  out <- logical(length(rows))
  for (name in unique(stats::na.omit(dropped[rows]))) {
    here <- which(dropped[rows] == name)
    for (column in settled$values[book$screens[[name]]$reads]) out[here] <- out[here] |
      !is.na(column$value[rows[here]])
  }
  out
}

first_erase <- function(rows, met, erase) {
  out <- rep(erase[1], length(rows))
  for (name in rev(erase)) out[rows %in% met[[name]]] <- name
  out
}

# The book cut down to what some variables need.
part_of_book <- function(book, names) {
  open <- paste0("v:", unique(names))
  needed <- character()
  while (length(open) > 0) {
    needed <- c(needed, open)
    open <- setdiff(unlist(book$work_uses[open]), needed)
  }
  book$work <- intersect(book$work, needed)
  kept <- unique(sub("^[qv]:", "", grep("^[qv]:", needed, value = TRUE)))
  # The words of a write-in are decoded with the choice they belong to.
  kept <- c(kept, unlist(lapply(book$variables[intersect(kept, names(book$variables))],
    function(variable) way_of(variable)$follows(variable))))
  book$variables <- book$variables[intersect(names(book$variables), kept)]
  book$rules <- book$rules[intersect(names(book$rules), sub("^r:", "", needed))]
  book
}

drop_records <- function(inputs, gone) {
  offset <- 0L
  for (k in seq_along(inputs)) {
    input <- inputs[[k]]
    n <- input$facts$records
    keep <- !(seq_len(n) + offset) %in% gone
    offset <- offset + n
    if (all(keep)) next
    input$records <- lapply(input$records, `[`, keep)
    if (!is.null(input$record)) input$record <- input$record[keep]
    input$columns <- each_column(input$columns, keeping(keep))
    input$parallels <- lapply(input$parallels, function(parallel) {
      parallel$map <- parallel$map[keep]
      parallel$alone$here <- match(intersect(parallel$alone$here, which(keep)), which(keep))
      parallel$columns <- each_column(parallel$columns, met_by(parallel$map))
      parallel
    })
    input$facts$records <- sum(keep)
    inputs[[k]] <- input
  }
  inputs
}

# The cells of some records, and those of a parallel that records of the base go with.
keeping <- function(keep) {
  force(keep)
  function(column) {
    column$index <- column$index[keep]
    used_cells(column)
  }
}

met_by <- function(map) {
  force(map)
  function(column) {
    column$index[!seq_along(column$index) %in% map] <- NA
    used_cells(column)
  }
}

# A cell that no record has any more is gone for good.
used_cells <- function(column) {
  used <- which(occurrences(column) > 0)
  place <- integer(length(column$cells))
  place[used] <- seq_along(used)
  column$cells <- column$cells[used]
  if (!is.null(column$kinds)) column$kinds <- column$kinds[used]
  column$index <- place[column$index]
  column
}

# What the cache holds of people who are purged goes with them, and what was not private when it
# was kept; a study that was kept of these very files and this codebook, before its sheets are
# read, never held either.
forget_cache <- function(book, purged) {
  if (is.null(book$file)) return(invisible())
  folder <- study_folder(book)
  kept <- suppressWarnings(tryCatch(readRDS(file.path(folder, "study.rds"))$stamp,
    error = function(e) NULL))
  current <- !is.null(kept) && identical(kept, study_stamp(book))
  index <- if (purged || key_is_private(book)) index_file(book)
  unlink(c(index, if (!current) folder), recursive = TRUE)
}
