# Open answers to which people gave codes in a sheet. The entry carries the set
# of codes; each code becomes a variable of its own.

way_coded <- new_way(
  help = "open answers that people gave codes in a sheet: one 0/1 variable for each code",
  example = c(
    "best_codes:",
    "  label: What is best, coded",
    paste0(
      "  coded: {of: best, sheet: sheets/best.csv, up_to: 2, codes: {best_people: The people, ",
      "best_music: The music, best_place: The place}}"
    )
  ),
  sheet = function(variable) variable$settings$sheet,
  text_coded = function(variable) variable$settings$of,
  value = map_field(list(
    of = field("text", "the text variable that was coded", "best", required = TRUE),
    sheet = field("text", "the coders' sheet", "sheets/best.csv", required = TRUE),
    up_to = field("whole", "how many codes an answer can have", "2", default = 3L, least = 1),
    codes = field("names", "a variable for each code, with the code's label",
      "{best_people: The people, best_music: The music}", required = TRUE)
  )),
  spread = function(entry) spread_coded(entry),
  uses = function(variable, book) variable$settings$of,
  makes = function(variable, book) {
    variable$storage <- "set"
    variable$level <- "nominal"
    variable$carrier <- TRUE
    codes <- variable$settings$codes
    variable$options <- list(
      name = names(codes), label = unname(unlist(codes)), code = seq_along(codes),
      variants = rep(list(character()), length(codes))
    )
    variable
  },
  check = function(variable, book, say) {
    source <- book$variables[[variable$settings$of]]
    if (!identical(source$storage, "text")) say(
      where_in(variable, "coded", "of"),
      paste0("`", source$name, "` is no text (level ", source$level, "): only texts are coded")
    )
    folded <- text_fold(variable$options$label)
    for (k in which(duplicated(folded))) say(
      where_in(variable, "coded", "codes", variable$options$name[k]),
      paste0("`", variable$options$label[k], "` stands for two codes")
    )
  },
  compute = function(variable, inputs, book, rows) code_answers(
    variable, inputs[[variable$settings$of]], book, rows
  ),
  sentence = function(variable, book) paste0(
    "Codes that people gave to ", variable$settings$of, " in the sheet \u201c",
    variable$settings$sheet, "\u201d."
  )
)

# A code counts where respondent and answer are those it was given for.
code_answers <- function(variable, source, book, rows) {
  sheet <- variable$coding
  has <- which(!is.na(source$value))
  place <- rep(NA_integer_, length(source$value))
  folded <- text_fold(source$value[has])
  place[has] <- match_coding(sheet, rows$wave[has], rows$id[has], folded)
  set <- sheet$set[place]
  own <- sheet$invented[place]
  waits <- is.na(set) & !is.na(source$value) & !(nzchar(own) & !is.na(own))
  reason <- reason_or_none(source)
  reason[is.na(set) & reason == 0L] <- reason_id(book, "not_found")
  person <- joined_id(rows$wave[has], text_near(rows$id[has]))
  told <- which(!is.na(sheet$set) & nzchar(sheet$respondent) & !seq_along(sheet$set) %in% place)
  changed <- told[
    joined_id(sheet$wave[told], text_near(sheet$respondent[told])) %in% person
  ]
  path <- where_in(variable, "coded", "sheet")
  finding <- function(level, kind, rows, count, ...) if (count > 0) list(new_finding(
    level, kind, variable$settings$of, "", count, rows, path, paste0(...)
  ))
  again <- paste0("`mavik coding ", variable$name, "` updates ", variable$settings$sheet)
  carrying(new_column(as_sets(set), reason), findings = c(
    finding(
      "warning", "coded_answer_changed",
      has[person %in% joined_id(sheet$wave[changed], text_near(sheet$respondent[changed]))],
      length(changed),
      "answers that are others than those that were coded: their codes are not taken; ", again
    ),
    finding(
      "note", "not_coded", which(waits), sum(waits), "answers that have no code yet; ", again
    ),
    invented_findings(variable, own),
    finding(
      "note", "coding_row_unmatched", integer(), length(setdiff(told, changed)),
      "coded answers of respondents that are not in the study (",
      lines_of(sheet$line[setdiff(told, changed)]), " of ", variable$settings$sheet, ")"
    )
  ))
}

# Codes that a coder made up, each with the line that would take it over.
invented_findings <- function(variable, invented) {
  labels <- unique(invented[nzchar(invented) & !is.na(invented)])
  lapply(labels[!duplicated(text_fold(labels))], function(label) {
    rows <- which(text_fold(invented) == text_fold(label))
    meant <- did_you_mean(label, variable$options$label)
    new_finding(
      "warning", "code_invented", variable$name, label, length(rows), rows,
      where_in(variable, "coded", "codes"), paste0(
        "a code that the codebook does not have: until it does, the answers with it are not found",
        if (nzchar(meant)) meant else ".", " The line that takes it over: `",
        invented_name(label, variable), ": ", yaml_word(label), "`"
      )
    )
  })
}

# The variable that a code of a coder's own would be.
invented_name <- function(label, variable) {
  name <- tolower_ascii(paste(variable$settings$of, label))
  substr(gsub("^_+|_+$", "", gsub("[^a-z0-9]+", "_", name)), 1, 32)
}

# Rows of the sheet for answers: by respondent and answer; a key that lost its
# zeros in a spreadsheet still counts where it means one respondent; else by answer.
match_coding <- function(sheet, wave, key, folded) {
  place <- match(joined_id(wave, key, folded), sheet$id)
  open <- is.na(place) & nzchar(key)
  near <- function(wave, key, folded) joined_id(wave, text_near(key), folded)
  own <- near(sheet$wave, sheet$respondent, text_fold(sheet$answer))
  own[!nzchar(sheet$respondent) | own %in% own[duplicated(own)]] <- NA
  asked <- near(wave, key, folded)
  # Two respondents that nearly match: nobody knows which is meant.
  pairs <- !duplicated(joined_id(asked, key))
  asked[asked %in% asked[pairs][duplicated(asked[pairs])]] <- NA
  place[open] <- match(asked[open], own, incomparables = NA)
  open <- is.na(place)
  place[open] <- match(folded[open], sheet$folded_any, incomparables = NA)
  place
}

spread_coded <- function(entry) {
  coded <- entry$keys$coded
  if (!is_map(coded) || !is_map(coded$codes)) return(NULL)
  shared <- entry$keys[intersect(names(entry$keys), c("kept", "private"))]
  names <- names(coded$codes)
  made <- lapply(seq_along(names), function(k) companion(entry, names[k], c(
    list(
      option = list(of = entry$name, at = k),
      label = if (is_text(coded$codes[[k]])) coded$codes[[k]] else names[k], level = "nominal",
      codes = list("0" = "No", "1" = "Yes")
    ), shared), if (is_text(entry$keys$label)) entry$keys$label, c("coded", "codes", names[k])))
  entry$keys$kept <- "no"
  list(entry = entry, companions = made, members = names)
}
