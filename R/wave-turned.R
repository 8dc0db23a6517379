# Wordings that changed between waves, and those that turn a question round: `I do not look forward
# to it` for `I look forward to it`.

# Questions that a wave asks turned round, or in other words, under the name of the one before; not
# where the codebook says of the wave what it holds.
reworded_questions <- function(study) {
  book <- study$book
  exports <- Filter(function(export) is.null(export$adds_to), book$exports)
  answers <- Filter(function(variable) is_answer(variable) && holds_one(variable), book$variables)
  unlist(lapply(unname(answers), function(variable) {
    said <- vapply(exports, function(export) {
      columns <- columns_in(variable, export)
      asked <- study$asked[[export$name]]$questions
      if (length(columns) == 1) paste0(unname(asked[columns])) else ""
    }, "")
    said[said == "NA"] <- ""
    first <- which(nzchar(said))[1]
    later <- setdiff(which(nzchar(said) & !said %in% said[first]), first)
    own <- vapply(exports, function(export) !is.null(variable$versions) &&
      !identical(version_in(variable, export), variable), TRUE)
    wave <- vapply(exports, `[[`, "", "wave")
    unlist(lapply(later[!own[later]], function(k) {
      by <- turned_round_by(said[k], said[first])
      if (nzchar(by)) return(list(question_turned_finding(
        variable, exports[[k]], said[c(first, k)], by, study
      )))
      before <- said[seq_len(k - 1)][wave[seq_len(k - 1)] != wave[k]]
      reworded_finding(variable, exports[[k]], said[[k]], before[nzchar(before)], study)
    }), recursive = FALSE)
  }), recursive = FALSE)
}

# `before` are the wordings of earlier waves.
reworded_finding <- function(variable, export, said, before, study) {
  if (length(before) == 0 || text_unnumbered(said) %in% text_unnumbered(before)) return(list())
  list(new_finding(
    "note", "question_reworded", variable$name, "", sum(study$records$export == export$name),
    integer(), variable$path, paste0(
      "wave ", export$wave, " asks \u201c", text_squeeze(said), "\u201d, before it was \u201c",
      text_squeeze(before[length(before)]), "\u201d: if that is another question, say `by_wave: {",
      export$wave, ": absent}` and make a question of its own of it; `by_wave: {", export$wave,
      ": {column: ", columns_in(variable, export), "}}` says that it is the same"
    )
  ))
}

question_turned_finding <- function(variable, export, said, by, study) new_finding(
  "warning", "question_turned", variable$name, "", sum(study$records$export == export$name),
  integer(), variable$path, paste0(
    "wave ", export$wave, " asks \u201c", text_squeeze(said[2]), "\u201d, before it was \u201c",
    text_squeeze(said[1]), "\u201d: the other way round, by \u201c", by, "\u201d? Then its ",
    "answers mean the opposite: say `by_wave: {", export$wave, ": absent}` and make a question of ",
    "its own of it; `by_wave: {", export$wave, ": {column: ", columns_in(variable, export),
    "}}` says that it is the same"
  )
)

# The word by which one wording is another one turned round; "" where none does.
turned_round_by <- function(question, questions) {
  found <- vapply(questions, function(before) turning_word(before, question), "")
  # One wording that stands as it is, of several, is enough.
  if (length(found) == 0 || any(!nzchar(found))) "" else unname(found[1])
}

turning_word <- function(before, now) {
  if (!isTRUE(nzchar(before)) || !isTRUE(nzchar(now))) return("")
  # `No. of concerts`, `if not` and `or not` deny nothing.
  plain <- gsub("\\bno[.]|\\b(if|or) not\\b", " ", text_fold(c(before, now)))
  words <- lapply(stringi::stri_extract_all_words(plain), split_denials)
  alone <- list(setdiff(words[[1]], words[[2]]), setdiff(words[[2]], words[[1]]))
  denied <- vapply(words, function(said) any(said %in% denials()), TRUE)
  if (denied[1] != denied[2]) return(intersect(words[[which(denied)]], denials())[1])
  pairs <- opposite_pairs()
  for (k in 1:2) {
    here <- alone[[k]]
    there <- alone[[3 - k]]
    prefixed <- here[sub("^(un|dis|in|im|ir|non|mis|des|d\u00e9s)", "", here) %in% there]
    opposed <- here[here %in% c(
      pairs$low[pairs$high %in% there], pairs$high[pairs$low %in% there]
    )]
    if (length(c(prefixed, opposed)) > 0) return(c(prefixed, opposed)[1])
  }
  ""
}

# `don't` denies as `do not` does.
split_denials <- function(words) unlist(strsplit(
  gsub("(.)n't$", "\\1 not", sub("^cannot$", "can not", words)), " ", fixed = TRUE
))

denials <- function() c(
  "not", "never", "no", "nobody", "nothing", "nor", "nicht", "kein", "keine", "keinen", "keinem",
  "keiner", "nie", "niemals", "pas", "jamais", "aucun", "aucune", "nunca", "jam\u00e1s",
  "ning\u00fan", "ninguna", "non", "nessun", "nessuna", "n\u00e3o", "nenhum", "nenhuma", "niet",
  "without", "lack", "lacks", "ohne", "sans", "sin", "senza", "sem", "zonder", "bez",
  "geen", "nooit", "nigdy", "\u017caden", "\u017cadna", "inte", "aldrig", "ikke"
)
