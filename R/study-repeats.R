# Several records of one respondent in a wave, among those that no screen dropped.

settle_repeats <- function(screened, settled, decoded, book, records) {
  retained <- which(is.na(screened$dropped))
  groups <- repeated_groups(records, retained)
  screened$instead <- same_text("", length(records$key), book$held)
  if (length(groups) == 0) return(screened)
  if (is.null(book$duplicates)) stop_repeated(groups, records, book)
  keep <- book$duplicates$keep
  rank <- repeat_rank(book$duplicates, settled, decoded, book, length(records$key))
  judged <- lapply(groups, judge_group, keep = keep, rank = rank, settled = settled, book = book)
  for (judgement in judged) {
    screened$dropped[judgement$rest] <- "duplicate"
    screened$instead[judgement$rest] <- if (is.na(judgement$kept))
      "none of the records of this respondent is kept" else
      paste0("kept: ", at_line(records$export[judgement$kept], records$line[judgement$kept]))
  }
  screened$findings <- repeat_findings(judged, keep, book)
  screened
}

repeated_groups <- function(records, retained) {
  retained <- retained[repeated_rows(at_rows(records$key, retained))]
  if (length(retained) == 0) return(list())
  id <- joined_id(records$wave[retained], records$key[retained])
  again <- repeated_rows(id)
  if (length(again) == 0) return(list())
  unname(split(retained[again], factor(id[again], unique(id[again]))))
}

# The larger the better; a gap loses against any value.
repeat_rank <- function(duplicates, settled, decoded, book, n) {
  if (duplicates$keep == "none") return(numeric(n))
  if (duplicates$keep == "fullest") {
    answers <- names(Filter(is_kept_answer, book$variables))
    return(answered_counts(answers, decoded, settled, book, n)$answered)
  }
  value <- as.double(settled$values[[duplicates$by]]$value)
  if (duplicates$keep == "first") value <- -value
  ifelse(is.na(value), -Inf, value)
}

judge_group <- function(rows, keep, rank, settled, book) {
  differ <- differing(rows, settled, book)
  if (keep == "none") return(list(kept = NA, rest = rows, differ = differ, tie = FALSE))
  best <- rows[rank[rows] == max(rank[rows])]
  kept <- if (keep == "last") best[length(best)] else best[1]
  list(kept = kept, rest = setdiff(rows, kept), differ = differ, tie = length(best) > 1)
}

# Answers in which the records of one respondent differ.
differing <- function(rows, settled, book) {
  by <- book$duplicates$by
  answers <- Filter(
    function(variable) is_kept_answer(variable) && !variable$name %in% by, book$variables
  )
  same <- vapply(names(answers), function(name) {
    column <- settled$values[[name]]
    value <- column$value[rows]
    reason <- if (is.null(column$reason)) 0L else column$reason[rows]
    length(unique(value)) == 1 && length(unique(reason)) == 1
  }, TRUE)
  names(answers)[!same]
}

repeat_findings <- function(judged, keep, book) {
  conflict <- lengths(lapply(judged, `[[`, "differ")) > 0
  tie <- vapply(judged, `[[`, TRUE, "tie")
  shown <- function(level, kind, of, ...) {
    first <- unlist(lapply(judged[of], function(judgement) judgement$rest[1]))
    if (any(of)) list(new_finding(
      level, kind, "", "", sum(lengths(lapply(judged[of], `[[`, "rest"))), first, "duplicates",
      paste0(...)
    ))
  }
  kept <- switch(
    keep, none = "none is kept", fullest = "the fullest is kept",
    paste0("the ", keep, " by `", book$duplicates$by, "` is kept")
  )
  most <- sort(table(unlist(lapply(judged, `[[`, "differ"))), decreasing = TRUE)
  c(
    shown(
      "note", "duplicate_same", !conflict,
      "further records of respondents that are here already, with the same answers; ", kept
    ),
    shown(
      "warning", "duplicate_differs", conflict,
      "further records of respondents that are here already, with other answers (in ",
      some_of(names(most), 4), "); ", kept, ": look whether it is the right one"
    ),
    shown(if (any(tie & conflict)) "warning" else "note", "duplicate_tie", tie,
      "records of one respondent between which ",
      if (is.null(book$duplicates$by)) "nothing" else paste0("`", book$duplicates$by, "`"),
      " decides; the ", if (keep == "last") "later" else "earlier", " line is kept")
  )
}

retain_one <- "say which record to retain, `duplicates: {keep: last, by: ...}`"

stop_repeated <- function(groups, records, book) {
  keys <- vapply(groups, function(rows) records$key[rows[1]], "")
  shown <- vapply(utils::head(groups, 5), function(rows) {
    name <- if (key_is_private(book)) "a private key" else paste0("`", records$key[rows[1]], "`")
    files <- vapply(book$exports[records$export[rows]], `[[`, "", "shown")
    paste0(name, " (", paste(at_line(files, records$line[rows]), collapse = ", "), ")")
  }, "")
  rest <- length(groups) - length(shown)
  stop_mavik("build_error", count_of(length(groups), "key"), " of wave ",
    some_of(unique(vapply(groups, function(rows) records$wave[rows[1]], ""))), " ",
    if (length(groups) == 1) "stands" else "stand", " more than once: ", paste(
      shown, collapse = "; "
    ), if (rest > 0) paste(" and", rest, "more"),
    ". A key must name one respondent: ", retain_one, ", take the repeats out of the export, or ",
    "choose another key column",
    if (length(unique(records$export[unlist(groups)])) > 1)
      "; where two exports hold the same responses, say of one that it `adds_to` the other",
    facts = list(keys = keys))
}
