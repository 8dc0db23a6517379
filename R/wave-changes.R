# What differs in code lists, as lines of the codebook.

# What cells hold: one line a block where all its items agree.
code_kind_lines <- function(pairs, own, study) {
  pairs <- Filter(function(pair) !is.null(pair$overlay), pairs)
  block <- vapply(pairs, function(pair) paste0(plain_of(pair, study)$block, ""), "")
  id <- ifelse(
    nzchar(block),
    paste(block, vapply(pairs, function(pair) paste(flow_text(pair$overlay), collapse = ""), "")),
    seq_along(pairs)
  )
  unname(lapply(split(seq_along(pairs), factor(id, unique(id))), function(alike) {
    names <- vapply(pairs[alike], function(pair) pair$slot$variable, "")
    whole <- nzchar(block[alike[1]]) && setequal(names, study$book$blocks[[block[alike[1]]]])
    paths <- if (whole) list(c("variables", block[alike[1]])) else lapply(
      pairs[alike], function(pair) entry_path_of(plain_of(pair, study))
    )
    overlay <- pairs[[alike[1]]]$overlay
    verdict <- pairs[[alike[1]]]$direction
    guessed <- pairs[[alike[1]]]$assignments
    if (!is.null(guessed)) return(new_line(
      "codes_unknown", if (whole) block[alike[1]] else paste(names, collapse = ", "),
      lapply(paths, function(path) new_edit(c(path, "by_wave", own$wave), overlay)),
      column = paste(vapply(pairs[alike], `[[`, "", "column"), collapse = ", "),
      grounds = assignments_said(guessed), sure = FALSE
    ))
    reversed <- any(vapply(
      pairs[[alike[1]]]$changes, function(change) change$change == "direction_reversed", TRUE
    ))
    new_line(
      if (reversed) "direction_reversed" else if (!is.null(overlay$delivered)) "moved" else
        if (is.null(overlay$cells)) "spellings" else "cells",
      if (whole) block[alike[1]] else paste(names, collapse = ", "),
      lapply(paths, function(path) new_edit(c(path, "by_wave", own$wave), overlay)),
      column = paste(vapply(pairs[alike], `[[`, "", "column"), collapse = ", "),
      grounds = if (reversed) paste0(
        "direction reversed: ", change_grounds(pairs[[alike[1]]], "direction_reversed")
      ) else if (!is.null(overlay$delivered)) "the codes stand for other labels" else
        if (is.null(overlay$cells)) "spellings of the last wave, in this one too" else
        paste0(
          "holds ", overlay$cells, " where the rest of the file holds ", own$cells,
          if (!is.null(verdict)) paste0("; ", verdict$grounds)
        ), sure = if (reversed) all(vapply(pairs[alike], is_sure_reversal, TRUE)) else
          is.null(verdict) || verdict$sure)
  }))
}

# By the labels of the codes, or where more than the shares of the answers says so: opinions can
# turn, but not together with all that they went with.
is_sure_reversal <- function(pair) is.null(pair$direction) || pair$direction$votes >= 2

change_grounds <- function(pair, change) Filter(function(candidate)
  candidate$change == change, pair$changes)[[1]]$grounds

# Labels changed, options added or gone; the same change of a shared list is one line.
change_lines_of <- function(pairs, own, study, options) {
  made <- unlist(lapply(pairs, function(pair) {
    if (is.null(pair$changes)) return(NULL)
    lapply(pair$changes, function(change) change_line(change, pair, own, study, options))
  }), recursive = FALSE)
  made <- Filter(Negate(is.null), made)
  if (length(made) == 0) return(list())
  shown <- vapply(
    made,
    function(line) paste(line$match, if (length(line$edits) == 0) line$grounds else paste(
      vapply(line$edits, edit_shown, ""), collapse = "; "
    )), ""
  )
  lapply(unname(split(made, factor(shown, unique(shown)))), function(same) {
    first <- same[[1]]
    for (part in c("variable", "column")) first[[part]] <- paste(
      unique(vapply(same, `[[`, "", part)), collapse = ", "
    )
    first
  })
}

change_line <- function(change, pair, own, study, options) {
  variable <- plain_of(pair, study)
  split <- holds_several(variable)
  line <- function(edits, grounds = change$grounds, sure = TRUE) new_line(
    change$change, variable$name, edits, pair$column, paste0(change_words(change), ": ", grounds),
    sure = sure
  )
  if (change$change == "label_changed") {
    return(relabelled_line(change, variable, own, study, options, line))
  }
  if (change$change %in% c("merged", "split")) return(line(list(), sure = FALSE))
  if (change$change == "added" && options$merge) return(added_line(change, variable, study, line))
  if (change$change == "gone" && split) return(line(list(option_edit(
    variable, study, change$before, list(by_wave = with_names(list("absent"), own$wave))
  ))))
  NULL
}

# The label that is kept, the other as a form of it. That is sure only where the two differ by a
# slip of the pen: like shares do not make one answer of two.
relabelled_line <- function(change, variable, own, study, options, line) {
  labels <- if (holds_several(variable)) variable$options$label else variable$codes$label
  slip <- is_slip(change$now, change$before, setdiff(labels, change$before))
  made <- relabelled_edits(change, variable, own, study, options, line)
  made$sure <- slip
  made
}

relabelled_edits <- function(change, variable, own, study, options, line) {
  newer <- options$keep_label == "newer"
  if (holds_several(variable)) {
    says <- if (newer) list(label = change$now, variants = change$before) else
      list(variants = change$now)
    return(line(list(option_edit(variable, study, change$before, says))))
  }
  if (newer && is.null(variable$list)) {
    code <- number_to_text(variable$codes$code[match(change$before, variable$codes$label)])
    forms <- with_names(list(change$before), change$now)
    return(line(list(
      new_edit(c(where_in(variable, "codes"), code), change$now),
      new_edit(c(entry_path_of(variable), "variants"), forms)
    )))
  }
  forms <- list(variants = with_names(list(change$now), change$before))
  shared <- if (newer) "; its code list is shared, so the older label stays"
  line(
    list(new_edit(c(entry_path_of(variable), "by_wave", own$wave), forms)),
    grounds = paste0(change$grounds, shared)
  )
}

# A new option, or a code at the end of its list, unless a recode has to place it.
added_line <- function(change, variable, study, line) {
  if (holds_several(variable)) {
    name <- fresh_name(change$now, variable, study)
    absent <- with_names(rep(list("absent"), length(study$book$waves)), names(study$book$waves))
    option <- with_names(list(list(label = change$now, by_wave = absent)), name)
    return(line(list(new_edit(options_path_of(variable, study), option))))
  }
  if (is.null(variable$codes)) return(line(list(), sure = FALSE, grounds = paste0(
    change$grounds, "; its codes have no labels: say what this means, under `codes` or `missing`"
  )))
  users <- recodes_of(variable, study$book)
  if (length(users) > 0) return(line(list(), sure = FALSE, grounds = paste0(
    change$grounds, "; ", some_of(users), " must say where it goes, so add it to both yourself"
  )))
  where <- if (is.null(variable$list)) where_in(variable, "codes") else
    c("code_lists", variable$list, "codes")
  code <- number_to_text(max(variable$codes$code) + 1L)
  place <- if (variable$level %in% ordered_levels) place_of_step(change$now, variable)
  if (!is.null(place) && !place$last) return(line(list(), sure = FALSE, grounds = paste0(
    change$grounds, "; ", place$words
  )))
  line(list(new_edit(where, with_names(list(change$now), code))))
}

change_words <- function(change) switch(
  change$change,
  label_changed = paste0("\u201c", change$before, "\u201d is now \u201c", change$now, "\u201d"),
  added = paste0("new option \u201c", change$now, "\u201d"),
  gone = paste0("no longer \u201c", change$before, "\u201d"), change$change
)

option_edit <- function(variable, study, label, value) new_edit(
  c(options_path_of(variable, study), variable$options$name[match(label, variable$options$label)]),
  value
)

# A name like those of its neighbours: what they begin with, and the label's last word of weight.
fresh_name <- function(label, variable, study) {
  known <- variable$options$name
  start <- if (
    length(known) > 1 && all(grepl("_", known)) && length(unique(sub("_.*", "_", known))) == 1
  ) sub("_.*", "_", known[1]) else ""
  words <- strsplit(
    gsub("[^a-z0-9]+", " ", tolower_ascii(stringi::stri_trans_general(label, "latin-ascii"))), " "
  )[[1]]
  weighty <- words[
    nchar(words) > 3 & !words %in% c("with", "from", "that", "this", "other", "they")
  ]
  words <- c(if (!any(nzchar(words))) "option", words[nzchar(words)], weighty)
  name <- substr(paste0(start, words[length(words)]), 1, 32)
  if (!grepl("^[a-z]", name)) name <- substr(paste0("o_", name), 1, 32)
  utils::tail(
    make.unique(c(names(study$book$variables), names(study$book$blocks), known, name), sep = "_"), 1
  )
}

# Where a new step of an ordered list stands by its words. Only the highest one can take the
# next code; of all others a person has to say which numbers the codes get.
place_of_step <- function(label, variable) {
  labels <- variable$codes$label[order(variable$codes$code)]
  known <- scale_order(c(labels, label))
  old <- if (!is.null(known)) setdiff(known$labels, label)
  unknown <- list(last = FALSE, words = paste0(
    "the list is ordered, and its words do not tell where this step stands: give it a code yourself"
  ))
  if (is.null(known) || !(identical(old, labels) || identical(old, rev(labels)))) return(unknown)
  steps <- if (identical(old, labels)) known$labels else rev(known$labels)
  place <- match(label, steps)
  if (place == length(steps)) return(list(last = TRUE, words = ""))
  list(last = FALSE, words = paste0(
    "by its words it stands ", if (place == 1) paste0("below \u201c", steps[2]) else paste0(
      "between \u201c", steps[place - 1], "\u201d and \u201c", steps[place + 1]
    ), "\u201d, where no code is free: give the codes new numbers yourself"
  ))
}
