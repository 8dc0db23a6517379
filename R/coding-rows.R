# The rows of a sheet for open answers, with what people typed before.

coding_rows <- function(study, entry, before, once) {
  rows <- rows_retained(study)
  text <- study$data[[entry$settings$of]][rows]
  rows <- rows[!is.na(text)]
  text <- text[!is.na(text)]
  hidden <- key_is_private(study$book)
  if (hidden && !once) stop_mavik(
    "build_error", "the key is private and is not written: code each answer once (`--once`)"
  )
  if (!once && length(unaddressed(study$book)) > 0) {
    stop_mavik("build_error", numbered_said(unaddressed(study$book)),
      "; or code each answer once (`--once`)")
  }
  now <- data.frame(wave = study$records$wave[rows], respondent = ids_of(study$records)[rows],
    answer = text, count = equal_answers(text))
  if (once) {
    folded <- text_fold(text)
    first <- !duplicated(folded)
    now <- data.frame(
      wave = "", respondent = "", answer = text[first], count = now$count[first]
    )
    now <- now[order(-now$count), ]
  }
  columns <- paste(
    "code",
    seq_len(max(
      entry$settings$up_to, 1L,
      suppressWarnings(as.integer(sub(
        "code ", "", grep("^code [0-9]+$", names(before), value = TRUE)
      )))
    ))
  )
  merge_coding(now, before, columns, once)
}

# How many answers read the same, but for case and spaces.
equal_answers <- function(text) {
  folded <- text_fold(text)
  known <- unique(folded)
  place <- match(folded, known)
  tabulate(place, length(known))[place]
}

# What was typed before goes to its answer; an answer that changed keeps it, and
# says so; rows that nobody in the data goes with stay at the end.
merge_coding <- function(now, before, columns, once) {
  typed <- c(columns, "coder", "note")
  more <- setdiff(names(before), c(names(now), typed, "state", "answer before", ".line"))
  for (key in c(typed, more)) now[[key]] <- rep("", nrow(now))
  now$state <- if (is.null(before)) rep("", nrow(now)) else "new"
  now[["answer before"]] <- rep("", nrow(now))
  if (!is.null(before)) now <- take_over_coding(now, before, c(typed, more), once)
  now <- now[order(match(now$state, c("new", "changed", "", "gone"))), ]
  rownames(now) <- NULL
  now[c(
    if (!once) c("wave", "respondent"), "answer", "count", typed, more, "state",
    if (any(nzchar(now[["answer before"]]))) "answer before"
  )]
}

# What was typed before, beside the same respondent and answer, else beside the
# respondent whose answer changed.
take_over_coding <- function(now, before, typed, once) {
  blank <- function(x) if (is.null(x)) rep("", length(before$answer)) else x
  old <- list(
    wave = if (is.null(before$wave)) rep(now$wave[1], length(before$answer)) else before$wave,
    respondent = blank(before$respondent), answer = before$answer
  )
  folded <- text_fold(old$answer)
  sheet <- c(old, list(
    id = joined_id(old$wave, old$respondent, folded),
    folded_any = if (once) folded else ifelse(nzchar(old$respondent), NA, folded)
  ))
  place <- match_coding(sheet, now$wave, now$respondent, text_fold(now$answer))
  same <- !is.na(place)
  left <- setdiff(seq_along(folded), place)
  if (!once) {
    people <- paste(old$wave, text_near(old$respondent))[left]
    person <- match(paste(now$wave, text_near(now$respondent)), people)
    changed <- is.na(place) & !is.na(person)
    place[changed] <- left[person[changed]]
    now$state[changed] <- "changed"
    now[["answer before"]][changed] <- old$answer[place[changed]]
  }
  now$state[same] <- ""
  has <- !is.na(place)
  for (key in intersect(typed, names(before))) now[[key]][has] <- before[[key]][place[has]]
  rbind(now, gone_coding(now, before, setdiff(seq_along(folded), place), typed))
}

# A code that a row had and no row of now takes is kept.
gone_coding <- function(now, before, gone, typed) {
  filled <- lapply(before[intersect(typed, names(before))], function(text) nzchar(text[gone]))
  gone <- gone[Reduce(`|`, filled, logical(length(gone)))]
  kept <- now[rep(NA_integer_, length(gone)), ]
  kept[] <- lapply(names(now), function(key) {
    if (key == "count") return(rep(NA_integer_, length(gone)))
    if (is.null(before[[key]])) rep("", length(gone)) else before[[key]][gone]
  })
  kept$state <- rep("gone", length(gone))
  kept
}

# Each write-in once, with how many wrote it and what it was given.
write_in_rows <- function(study, entry, before) {
  text <- if (holds_several(entry)) set_written(entry_sets(study, entry)) else
    study$data[[entry$other$text]]
  if (is.null(text)) stop_mavik(
    "build_error", "`", entry$name,
    "` keeps no words of its write-ins: name a variable under `other > text`"
  )
  text <- retained_of(text, study)
  text <- text[!is.na(text) & nzchar(text)]
  folded <- text_fold(text)
  first <- !duplicated(folded)
  now <- data.frame(
    answer = text[first], code = rep("", sum(first)),
    count = as.integer(table(factor(folded, folded[first]))), note = rep("", sum(first))
  )
  if (!is.null(before)) {
    place <- match(text_fold(now$answer), text_fold(before$answer))
    for (key in c("code", "note")) if (!is.null(before[[key]]))
      now[[key]][!is.na(place)] <- before[[key]][place[!is.na(place)]]
    gone <- setdiff(which(nzchar(before$code)), place)
    if (length(gone) > 0) now <- rbind(
      now,
      data.frame(
        answer = before$answer[gone], code = before$code[gone], count = 0L,
        note = if (is.null(before$note)) "" else before$note[gone]
      )
    )
  }
  now <- now[order(nzchar(now$code), -now$count), ]
  rownames(now) <- NULL
  now
}

entry_sets <- function(study, entry) {
  sets <- as.character(study$data[[entry$name]])
  ifelse(is.na(sets), "", sets)
}
