# The sheet of corrections: what a person found out about single answers. It is
# applied to decoded answers; each line must still fit what it corrects.

correction_columns <- c("wave", "respondent", "variable", "was", "now", "note", "who", "date")
# A sheet of differences between two entries: `first` was read, and `right` is right.
difference_columns <- c(
  "form", "wave", "respondent", "variable", "question", "first", "second", "right", "note", "who",
  "date", "first cell", "second cell"
)

read_corrections <- function(book) {
  if (is.null(book$corrections)) return(NULL)
  do.call(rbind, lapply(book$corrections, read_correction_sheet, book = book))
}

read_correction_sheet <- function(file, book) {
  check_stands(file, book)
  path <- export_path(list(file = file), book)
  raw <- read_raw(path, list(
    heading = "names", skip = 0, delimiter = "comma", encoding = "UTF-8",
    sheet = first_sheet(path, file)
  ), file)
  differences <- all(c("first", "right") %in% raw$names)
  columns <- if (differences) difference_columns else correction_columns
  needed <- c(
    if (length(book$waves) > 1) "wave", "respondent", "variable",
    if (differences) c("first", "right") else c("was", "now")
  )
  odd <- setdiff(raw$names, columns)
  lacking <- setdiff(needed, raw$names)
  if (length(odd) + length(lacking) > 0) {
    stop_mavik("build_error", at_line(file, 1), ": ",
      if (length(lacking) > 0) paste0("lacks the column ", some_of(lacking)),
      if (length(odd) > 0 && length(lacking) > 0) "; ", if (length(odd) > 0) paste0(
        "`", odd[1], "` is not one of its columns"
      ), ": they are ", some_of(columns, 13),
      if (length(raw$names) == 1) "; is it saved with another delimiter than the comma?")
  }
  texts <- lapply(raw$columns, column_texts)
  if (differences) texts[c("was", "now")] <- texts[c("first", "right")]
  texts[setdiff(correction_columns, names(texts))] <- list(rep("", raw$records))
  if (!"wave" %in% raw$names) texts$wave <- rep(names(book$waves)[1], raw$records)
  keep <- if (differences) nzchar(texts$now) & texts$now != texts$was else Reduce(
    `|`, lapply(texts[setdiff(raw$names, "wave")], nzchar), logical(raw$records)
  )
  sheet <- c(texts[correction_columns], list(
    file = rep(file, raw$records), line = raw$lines
  ))
  as.data.frame(lapply(sheet, `[`, keep), stringsAsFactors = FALSE)
}

# Each line with the rows it means, by variable; `gone` are keys that were
# purged, whose corrections go with them.
place_corrections <- function(sheet, records, book, gone) {
  if (is.null(sheet)) return(list(of = list(), problems = character()))
  known <- names(Filter(function(variable) way_of(variable)$correctable(variable), book$variables))
  id <- joined_id(sheet$wave, sheet$respondent)
  sheet <- sheet[!id %in% joined_id(gone$wave, gone$id), ]
  id <- joined_id(sheet$wave, sheet$respondent)
  wave <- !sheet$wave %in% names(book$waves)
  variable <- !sheet$variable %in% known
  here <- joined_id(records$wave, ids_of(records))
  unknown <- !wave & !id %in% here
  several <- !is.null(records$id) & id %in% here[duplicated(here)]
  again <- !wave & !variable & !unknown & duplicated(joined_id(id, sheet$variable))
  problem <- function(wrong, words) if (any(wrong)) paste0(
    at_line(sheet$file[wrong], sheet$line[wrong]), ": ", words(which(wrong))
  )
  hidden <- key_is_private(book)
  problems <- c(
    problem(wave, function(lines) paste0(
      "`", sheet$wave[lines], "` is not a wave of the codebook"
    )),
    problem(unknown, function(lines) paste0(
      ifelse(hidden, "the respondent", paste0("the respondent `", sheet$respondent[lines], "`")),
      " is not in wave `", sheet$wave[lines], "`",
      if (!hidden) vapply(sheet$respondent[lines], near_id, "", ids = ids_of(records))
    )),
    problem(
      variable,
      function(lines) paste0(
        "`", sheet$variable[lines], "` is not an answer read from cells",
        vapply(sheet$variable[lines], did_you_mean, "", known = known)
      )
    ),
    problem(several, function(lines) paste0("the response number `", sheet$respondent[lines],
      "` stands for several records: which is meant nobody can say")),
    problem(
      again,
      function(lines) paste0(
        "`", sheet$variable[lines], "` of this respondent is corrected twice: keep one line"
      )
    )
  )
  good <- sheet[!(wave | variable | unknown | several | again), ]
  list(of = split(good, good$variable), problems = problems)
}

near_id <- function(id, ids) {
  near <- ids[match(text_near(id), text_near(ids))]
  if (is.na(near)) "" else paste0("; did you mean `", near, "`?")
}

# One variable's corrections over its decoded column. `source_at(rows)` gives
# the raw text and the export of rows.
correct_answer <- function(column, variable, sheet, records, book, source_at) {
  who <- joined_id(records$wave, ids_of(records))
  rows <- which(who %in% joined_id(sheet$wave, sheet$respondent))
  line <- match(who[rows], joined_id(sheet$wave, sheet$respondent))
  source <- source_at(rows)
  was <- text_meant(sheet$was[line], source$export, variable, book)
  now <- text_meant(sheet$now[line], source$export, variable, book)
  held <- list(value = column$value[rows], reason = reason_or_none(column)[rows])
  same <- same_value(held$value, was$value) | (
    is.na(held$value) & is.na(was$value) & was$known & held$reason == was$reason
  )
  stands <- same | (text_fold(source$text) == text_fold(sheet$was[line])) %in% TRUE
  stale <- setdiff(seq_len(nrow(sheet)), line[stands])
  unread <- unique(line[stands & !now$known])
  hidden <- isTRUE(variable$private)
  problems <- c(
    if (length(stale) > 0) paste0(at_line(sheet$file[stale], sheet$line[stale]),
      ": `was` no longer stands: ", variable$name, " holds ",
      vapply(
        stale,
        function(cell) if (hidden) masked else paste0(
          "`", held_shown(held, match(cell, line), source$text, variable, book), "`"
        ),
        ""
      ), if (!hidden) paste0(", not `", sheet$was[stale], "`")),
    if (length(unread) > 0) paste0(
      at_line(sheet$file[unread], sheet$line[unread]), ": `now`",
      if (!hidden) paste0(" `", sheet$now[unread], "`"),
      " is not a value, label, code or reason of ", variable$name
    )
  )
  use <- which(stands & now$known)
  entries <- correction_entries(
    rows[use], lapply(held, `[`, use), lapply(now, `[`, use), sheet[line[use], ], variable, book
  )
  reason <- reason_or_none(column)
  reason[rows[use]] <- now$reason[use]
  column$value <- with_values(column$value, rows[use], now$value[use])
  list(
    column = new_column(column$value, reason), ledger = entries, problems = problems,
    rows = rows[use]
  )
}

held_shown <- function(held, row, text, variable, book) {
  if (!is.na(held$value[row])) return(
    if (is_coded(variable)) label_of(variable, held$value[row]) else
    value_text(variable, held$value[row]))
  if (nzchar(text[row]) && !is.na(text[row])) text[row] else book$reasons$label[held$reason[row]]
}

# A raw text, a label, a code or a reason as value and reason; `known` where it is one.
text_meant <- function(texts, exports, variable, book) {
  out <- list(
    value = rep(if (variable$storage %in% c("text", "set")) NA_character_ else NA_real_,
      length(texts)),
    reason = integer(length(texts)), known = logical(length(texts))
  )
  for (export in unique(exports)) {
    places <- which(exports == export)
    version <- version_in(variable, book$exports[[export]])
    if (is_absent(version)) version <- variable
    decoded <- if (variable$storage == "set") set_meant(
      texts[places], version, book$exports[[export]], book
    ) else decode_cells(texts[places], version, book$exports[[export]], book)
    out$value[places] <- if (is.factor(decoded$value)) as.character(decoded$value) else
      decoded$value
    out$reason[places] <- decoded$reason
    out$known[places] <- decoded$kind != "unlisted"
  }
  if (is_coded(variable)) {
    open <- which(!out$known)
    code <- old_codes(variable, texts[open])
    out$value[open] <- code
    out$known[open] <- !is.na(code)
  }
  reason <- match(texts, book$reasons$name)
  if (variable$storage != "text") reason <- ifelse(
    is.na(reason), match(text_fold(texts), text_fold(book$reasons$label)), reason
  )
  named <- !is.na(reason) & (!out$known | variable$storage == "text")
  out$value[named] <- NA
  out$reason[named] <- reason[named]
  out$known[named] <- TRUE
  out$reason[!is.na(out$value)] <- 0L
  if (is_coded(variable)) out$value <- as.integer(out$value)
  if (variable$storage == "set") out$value <- as_sets(out$value)
  out
}

# Answers as one text, whatever the file has; a set of which one box is not known has no text.
set_meant <- function(texts, variable, export, book) {
  none <- text_fold(texts) == none_ticked
  decoded <- decode_set(ifelse(none, "", texts), variable, export, book, NULL)
  decoded$value <- with_values(decoded$value, none, as_sets(rep("", sum(none))))
  decoded$reason[none] <- 0L
  decoded$kind[startsWith(texts, "(unknown: ")] <- "unlisted"
  decoded
}

none_ticked <- "none_ticked"

correction_entries <- function(rows, held, now, lines, variable, book) {
  gap <- function(reason) ifelse(reason > 0L, book$reasons$name[pmax(reason, 1L)], "")
  shown <- function(value) ifelse(is.na(value), "", value_text(variable, value))
  by <- ifelse(
    nzchar(lines$who) & nzchar(lines$date), paste0(lines$who, ", ", lines$date),
    paste0(lines$who, lines$date)
  )
  note <- ifelse(
    nzchar(by) & nzchar(lines$note), paste0(by, ": ", lines$note), paste0(by, lines$note)
  )
  lapply(unname(split(seq_along(rows), paste(held$reason, now$reason))), function(alike) {
    was <- distinct_of(shown(held$value[alike]))
    set <- distinct_of(shown(now$value[alike]))
    new_entry(
      "corrected", variable$name, "corrections", rows[alike], was$value, was$index, set$value,
      set$index, gap(held$reason[alike[1]]), gap(now$reason[alike[1]]), note[alike]
    )
  })
}
