# Who is retained: screens in their order, then repeated keys among those that are retained.
# Every screen a record meets is kept; the first that drops names the drop.

screen_records <- function(settled, decoded, book, records) {
  n <- length(records$key)
  met <- lapply(book$screens, function(screen) {
    inputs <- settled$values[screen$reads]
    state <- answered_counts(screen$counts, decoded, settled, book, n)
    screens()[[screen$kind]]$compute(screen, inputs, state, book, n)
  })
  dropped <- rep(NA_integer_, n)
  for (place in seq_along(met)) {
    if (book$screens[[place]]$report) next
    rows <- met[[place]]$rows
    dropped[rows[is.na(dropped[rows])]] <- place
  }
  list(met = lapply(met, `[[`, "rows"), more = lapply(met, `[[`, "more"),
    dropped = held_places(paste(names(met)), dropped, book$held))
}

# Of some variables: how many were answered (refusals count), and how many asked, in each
# record.
answered_counts <- function(names, decoded, settled, book, n) {
  answered <- asked <- integer(n)
  for (name in names) {
    state <- answered_state(name, decoded, settled, book)
    asked <- asked + state$asked
    answered <- answered + state$answered
  }
  list(asked = asked, answered = answered)
}

answered_state <- function(name, decoded, settled, book) {
  silent <- reason_id(book, c("no_answer", "not_asked", "not_in_wave", "not_found"))
  unasked <- reason_id(book, c("not_asked", "not_in_wave", "not_found"))
  answer <- is_answer(book$variables[[name]])
  column <- if (answer) decoded[[name]] else settled$values[[name]]
  reason <- reason_or_none(column)
  asked <- !reason %in% unasked
  asked[settled$outside[[name]]] <- FALSE
  # Where a filter was not asked itself, neither was what stands behind it.
  if (answer) asked[reason_or_none(settled$values[[name]]) %in% unasked] <- FALSE
  list(answered = asked & (!is.na(column$value) | (answer & !reason %in% silent)), asked = asked)
}

disposition_of <- function(dropped, decoded, settled, book, n) {
  known <- c("retained", "complete", "partial", "break_off")
  state <- rep(1L, n)
  if (!is.null(book$complete)) {
    # A question with several answers is one question, not its options.
    blocks <- lapply(book$study$complete,
      function(name) if (name %in% names(book$variables)) name else book$blocks[[name]])
    asked <- answered <- integer(n)
    for (block in blocks) {
      counts <- answered_counts(block, decoded, settled, book, n)
      here <- counts$asked > 0L
      asked <- asked + here
      answered <- answered + (here & counts$answered > 0L)
    }
    # Answered in full, in part, not at all.
    state <- 4L - (answered > 0L) - (answered == asked) * (1L + (answered == 0L))
  }
  gone <- which(!is.na(dropped))
  known <- c(known, unique(dropped[gone]))
  state[gone] <- match(dropped[gone], known)
  held_places(known, state, book$held)
}

flow_findings <- function(screened, book, n, erased) {
  out <- list(new_finding(
    "note", "received", "", "", n + sum(erased), integer(), "exports", "records received"
  ))
  for (name in names(book$screens)) {
    screen <- book$screens[[name]]
    said <- screens()[[screen$kind]]$sentence(screen, book)
    more <- screened$more[[name]]
    rows <- if (screen$report) screened$met[[name]] else which(screened$dropped == name)
    gone <- if (name %in% names(erased)) erased[[name]] else 0L
    if (gone > 0) out <- c(
      out,
      list(new_finding(
        "note", "erased", "", name, gone, integer(), screen$path,
        paste0(said, ": their answers were purged; this count is what is left")
      ))
    )
    if (length(rows) > 0) out <- c(out,
      list(new_finding("note", if (screen$report) "marked" else "dropped", "", name, length(rows),
        rows, screen$path,
      paste0(
        said, if (screen$report) ": marked, not dropped" else ": dropped",
        if (!is.null(more)) paste0("; ", more)
      ))))
  }
  retained <- sum(is.na(screened$dropped))
  c(
    out,
    list(new_finding(
      "note", "retained", "", "", retained, integer(), "screens",
      "records retained in the analysis file"
    ))
  )
}

# A row of the ledger for each record that was dropped, with all screens it met.
drop_entries <- function(screened, book, n) {
  met <- rep("", n)
  for (name in names(screened$met)) {
    rows <- screened$met[[name]]
    met[rows] <- ifelse(nzchar(met[rows]), paste0(met[rows], ", ", name), name)
  }
  names <- intersect(c(names(book$screens), "duplicate"), screened$dropped)
  lapply(names, function(name) {
    rows <- which(screened$dropped == name)
    twice <- name == "duplicate"
    note <- if (twice) screened$instead[rows] else ifelse(
      met[rows] == name, "", paste("meets", met[rows])
    )
    new_entry(
      "dropped", "", if (twice) "duplicates" else book$screens[[name]]$path, rows, "",
      rep(1L, length(rows)), note = note
    )
  })
}

# Of those counts the ones of records that are not retained.
dropped_of <- function(counts) counts[!names(counts) %in% retained_dispositions()]

retained_dispositions <- function() setdiff(names(dispositions), "duplicate")

# Records by disposition, those that are retained first; the erased under their screen.
disposition_counts <- function(study) {
  names <- c(retained_dispositions(), names(study$book$screens), "duplicate")
  counts <- with_names(counted_each(study$disposition, names), names)
  counts[names(study$erased)] <- counts[names(study$erased)] + study$erased
  counts[counts > 0]
}

# How often each of some texts stands; where texts are kept once, by their places.
counted_each <- function(texts, each) {
  parts <- listed_parts(texts)
  if (is.null(parts)) return(tabulate(match(texts, each), length(each)))
  counts <- tabulate(as.integer(parts$index), length(parts$known))[match(each, parts$known)]
  counts[is.na(counts)] <- 0L
  counts
}
