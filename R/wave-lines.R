# What was found as a table, and as lines of the codebook that would decide it.
# A line holds `edits`: a path and the value that is merged in there.

align_result <- function(pairs, own, study, options, path) {
  pairs <- lapply(pairs, function(pair) c(pair, list(overlay = overlay_of(pair, own, study))))
  lines <- c(
    list(export_line(pairs, own, study, options)), column_lines(pairs, own, study),
    code_kind_lines(pairs, own, study), change_lines_of(pairs, own, study, options),
    absent_lines(pairs, own, study), new_lines(pairs, own, study)
  )
  lines <- Filter(Negate(is.null), lines)
  columns <- columns_found(pairs, own, study)
  codes <- codes_found(pairs)
  structure(list(
    wave = own$wave, against = if (length(pairs) > 0) pairs[[1]]$slot$wave else "",
    title = study$book$study$title, file = path, files = vapply(own$files, `[[`, "", "inside"),
    records = own$export$records, columns = columns, codes = codes,
    counts = counts_found(columns, codes), lines = line_table(lines), language = language_hint(
      pairs, own
    ), rejected = 0L
  ), class = "mavik_align", edits = lapply(lines, `[[`, "edits"))
}

new_line <- function(
  match, variable, edits, column = "", grounds = "", candidates = character(), sure = TRUE,
  wording = ""
) {
  list(
    match = match, variable = variable, column = column, grounds = grounds,
    candidates = paste(candidates, collapse = "; "), sure = sure, wording = wording, edits = edits
  )
}

new_edit <- function(path, value, after = NULL) list(path = path, value = value, after = after)

line_table <- function(lines) {
  of <- function(name, none = "") vapply(lines, function(line) line[[name]], none)
  data.frame(line = seq_along(lines), match = of("match"), column = of("column"),
    wording = of("wording"), variable = of("variable"), grounds = of("grounds"),
    candidates = of("candidates"),
    writes = vapply(
      lines, function(line) paste(vapply(line$edits, edit_shown, ""), collapse = "; "), ""
    ), decision = rep("", length(lines)), sure = of("sure", TRUE))
}

edit_shown <- function(edit) paste0(
  paste(edit$path, collapse = " > "), ": ",
  flow_text(edit$value, edit$path[length(edit$path)], top = TRUE)
)

# The plain entry of a variable, before anything is said of a wave.
plain_of <- function(pair, study) study$book$variables[[pair$slot$variable]]

# What must be said of the wave, besides the column: what its cells hold, and what
# an earlier wave's overlay says that this wave needs as well.
overlay_of <- function(pair, own, study) {
  if (is.na(pair$column) || is.na(pair$cells) || pair$slot$version$storage != "coded") return(NULL)
  said <- if (pair$match == "already_decided") pair$slot$version else plain_of(pair, study)
  out <- list()
  if (pair$cells != (if (is.null(said$cells)) own$cells else said$cells)) out$cells <- pair$cells
  if (pair$cells == "codes") {
    change <- Filter(
      function(change) change$change %in% c("direction_reversed", "moved"), pair$changes
    )
    stands <- if (length(change) == 0) pair$slot$version$delivered else
      if (is.null(change[[1]]$delivered)) mirrored_labels(pair$slot$version) else
        change[[1]]$delivered
    if (is.null(stands) && !is.null(said$delivered)) stands <- with_names(
      said$codes$label, number_to_text(said$codes$code)
    )
    if (!identical(unlist(stands), unlist(said$delivered))) out$delivered <- as.list(stands)
  } else out$variants <- carried_forms(pair, said, own, study)
  if (length(out) > 0) out[intersect(c("cells", "delivered", "variants"), names(out))]
}

# Texts that the last wave's overlay reads and the plain entry does not.
carried_forms <- function(pair, said, own, study) {
  if (identical(said, pair$slot$version)) return(NULL)
  raw <- own$export$columns[[pair$column]]
  read <- lapply(
    list(pair$slot$version, said),
    function(version) read_as(version, pair$slot, raw, "labels", own, study)$value
  )
  fresh <- which(!is.na(read[[1]]) & (is.na(read[[2]]) | read[[2]] != read[[1]]))
  if (length(fresh) == 0) return(NULL)
  split(
    text_trim(raw$cells[fresh]),
    factor(label_of(said, read[[1]][fresh]), unique(label_of(said, read[[1]][fresh])))
  )
}

# Each code of the file with the label at the other end; NULL where codes are bare.
mirrored_labels <- function(variable) {
  codes <- sort(all_codes(variable))
  if (!all(codes %in% variable$codes$code)) return(NULL)
  file <- if (is.null(variable$delivered)) with_names(
    label_of(variable, codes), number_to_text(codes)
  ) else variable$delivered
  meant <- match(text_fold(file), text_fold(variable$codes$label))
  if (anyNA(meant)) return(NULL)
  place <- match(variable$codes$code[meant], codes)
  with_names(label_of(variable, rev(codes)[place]), names(file))
}

export_line <- function(pairs, own, study, options) {
  if (length(own$known) > 0) return(NULL)
  before <- study$book$exports
  base <- before[[length(before)]]
  names <- own$export$names
  key <- intersect(c(base$key, vapply(before, `[[`, "", "key")), names)[1]
  record <- c(intersect(as.character(unlist(lapply(before, `[[`, "response"))), names), NA)[1]
  if (is.na(key) && !is_numbered(base)) key <- c(
    intersect(as.character(own$seen$keys$column), names), NA
  )[1]
  exports <- list()
  called <- export_names(own, study)
  for (at in seq_along(own$files)) {
    form <- own$files[[at]]$form
    parallel <- own$files[[at]]$parallel
    name <- called[at]
    exports[[name]] <- Filter(Negate(is.null), list(
      wave = if (!parallel) own$wave, adds_to = if (parallel) names(exports)[1],
      file = own$files[[at]]$inside, sheet = form$sheet, key = if (is.na(key)) "numbered" else key,
      response = if (!is.na(record)) record,
      cells = if (parallel)
        cells_of_parallel(own$files[[at]]$export, pairs, own, study) else own$cells,
      heading = form$heading, skip = if (form$skip > 0) number_to_text(form$skip),
      delimiter = if (form$delimiter != "comma") form$delimiter,
      decimal = if (own$decimal != "point") own$decimal,
      encoding = if (form$encoding != "UTF-8") form$encoding, ignored = intersect(
        ignored_before(study), names
      )
    ))
    if (length(exports[[name]]$ignored) == 0) exports[[name]]$ignored <- NULL
  }
  label <- if (is.null(options$label)) paste0(
    toupper(substr(own$wave, 1, 1)), gsub("_", " ", substring(own$wave, 2))
  ) else options$label
  said <- paste0(
    count_of(own$export$records, "record"),
    if (is.na(key)) "; no column names the respondent" else paste0(", by ", key)
  )
  new_line(
    "export", "",
    c(
      list(new_edit(c("waves", own$wave), list(label = label))),
      lapply(names(exports), function(name) new_edit(c("exports", name), exports[[name]]))
    ),
    grounds = said, sure = !is.na(key)
  )
}

# What the wave's exports are called, or will be.
export_names <- function(own, study) {
  if (length(own$known) > 0) return(own$known)
  names <- if (length(own$files) == 1) own$wave else paste0(own$wave, "_", seq_along(own$files))
  ifelse(names %in% names(study$book$exports), paste0(names, "_export"), names)
}

# Where a column has another name than the plain entry says: a question with
# several columns is one line.
column_lines <- function(pairs, own, study) {
  moved <- Filter(
    function(pair) !is.na(pair$column) && !identical(pair$column, read_in_wave(pair, study)), pairs
  )
  several <- vapply(moved, function(pair) plain_of(pair, study)$way == "split", TRUE)
  unit <- ifelse(
    several, vapply(moved, function(pair) pair$slot$variable, ""), paste(seq_along(moved), "alone")
  )
  unname(lapply(split(moved, factor(unit, unique(unit))), function(same) {
    one <- same[[1]]
    matches <- vapply(same, `[[`, "", "match")
    match <- if (any(matches == "possible")) "possible" else
      if (any(matches == "decided")) "decided" else "rule"
    grounds <- unique(vapply(
      same, function(pair) if (nzchar(pair$grounds)) pair$grounds else pair$rule, ""
    ))
    new_line(match, one$slot$variable, column_edits(same, pairs, own, study),
      paste(vapply(same, `[[`, "", "column"), collapse = ", "), paste(grounds, collapse = "; "),
      unlist(lapply(same, `[[`, "candidates")),
      sure = match != "possible", wording = own$export$questions[[one$column]])
  }))
}

column_edits <- function(moved, pairs, own, study) {
  at <- function(variable, value) new_edit(c(entry_path_of(variable), "by_wave", own$wave), value)
  variable <- plain_of(moved[[1]], study)
  if (variable$way == "split") return(list(at(
    variable, list(split = split_columns(variable, moved, pairs))
  )))
  members <- c(list(moved[[1]]$slot["variable"]), moved[[1]]$slot$also)
  lapply(members, function(member) {
    variable <- study$book$variables[[member$variable]]
    at(
      variable,
      if (variable$way == "column") list(column = moved[[1]]$column) else
        list(other = utils::modifyList(
          study$book$document$variables[[variable$with]]$other, list(column = moved[[1]]$column)
        ))
    )
  })
}

# The columns of a question with several answers; of boxes all that the new file has.
split_columns <- function(variable, moved, pairs) {
  roles <- with_names(
    lapply(moved, `[[`, "column"), vapply(moved, function(pair) pair$slot$role, "")
  )
  out <- list()
  if (!is.null(roles$cell)) out$column <- roles$cell
  if (length(setdiff(names(roles), c("cell", ".written"))) > 0) out$columns <- boxes_there(
    variable, pairs
  )
  if (!is.null(roles$.written)) out$other <- c(
    variable$settings$other[intersect(
      c("flag", "text", "label"), names(Filter(Negate(is.null), variable$settings$other))
    )],
    list(column = roles$.written)
  )
  out
}

boxes_there <- function(variable, pairs) {
  own <- Filter(
    function(pair) pair$slot$variable == variable$name && !is.na(pair$column) &&
      pair$slot$role != ".written",
    pairs
  )
  with_names(lapply(own, `[[`, "column"), vapply(own, function(pair) pair$slot$role, ""))
}

# The column that would be read if nothing more were said.
read_in_wave <- function(pair, study) {
  if (pair$match %in% c("already_decided", "already_absent")) return(pair$column)
  reads <- ways()[[plain_of(pair, study)$way]]$reads(plain_of(pair, study))
  if (pair$slot$role %in% names(reads)) reads[[pair$slot$role]] else NA
}

entry_path_of <- function(variable) if (is.null(variable$with)) variable$path else c(
  "variables", variable$with
)

# Where the options of a question stand: a grid has them once, at its block.
options_path_of <- function(variable, study) {
  entry <- study$book$document$variables
  for (key in variable$path[-1]) entry <- entry[[key]]
  if (!is.null(variable$block) && is.null(at_key(entry$split, "options"))) c(
    "variables", variable$block, "split", "options"
  ) else c(entry_path_of(variable), "split", "options")
}

# What cells hold: one line a block where all its items agree.
code_kind_lines <- function(pairs, own, study) {
  pairs <- Filter(function(pair) !is.null(pair$overlay), pairs)
  block <- vapply(pairs, function(pair) paste0(plain_of(pair, study)$block, ""), "")
  id <- ifelse(
    nzchar(block),
    paste(block, vapply(pairs, function(pair) paste(flow_text(pair$overlay), collapse = ""), "")),
    seq_along(pairs)
  )
  unname(lapply(split(seq_along(pairs), factor(id, unique(id))), function(at) {
    names <- vapply(pairs[at], function(pair) pair$slot$variable, "")
    whole <- nzchar(block[at[1]]) && setequal(names, study$book$blocks[[block[at[1]]]])
    paths <- if (whole) list(c("variables", block[at[1]])) else lapply(
      pairs[at], function(pair) entry_path_of(plain_of(pair, study))
    )
    overlay <- pairs[[at[1]]]$overlay
    verdict <- pairs[[at[1]]]$direction
    reversed <- any(vapply(
      pairs[[at[1]]]$changes, function(change) change$change == "direction_reversed", TRUE
    ))
    new_line(
      if (reversed) "direction_reversed" else if (!is.null(overlay$delivered)) "moved" else
        if (is.null(overlay$cells)) "spellings" else "cells",
      if (whole) block[at[1]] else paste(names, collapse = ", "),
      lapply(paths, function(path) new_edit(c(path, "by_wave", own$wave), overlay)),
      column = paste(vapply(pairs[at], `[[`, "", "column"), collapse = ", "),
      grounds = if (reversed) paste0(
        "direction reversed: ", change_grounds(pairs[[at[1]]], "direction_reversed")
      ) else if (!is.null(overlay$delivered)) "the codes stand for other labels" else
        if (is.null(overlay$cells)) "spellings of the last wave, in this one too" else
        paste0(
          "holds ", overlay$cells, " where the rest of the file holds ", own$cells,
          if (!is.null(verdict)) paste0("; ", verdict$grounds)
        ), sure = is.null(verdict) || verdict$sure || reversed)
  }))
}

change_grounds <- function(pair, change) Filter(function(one)
  one$change == change, pair$changes)[[1]]$grounds

# Labels changed, options added or gone; the same change of a shared list is one line.
change_lines_of <- function(pairs, own, study, options) {
  made <- unlist(lapply(pairs, function(pair) {
    if (is.null(pair$changes)) return(NULL)
    lapply(pair$changes, function(change) change_line(change, pair, own, study, options))
  }), recursive = FALSE)
  made <- Filter(Negate(is.null), made)
  shown <- vapply(
    made,
    function(line) paste(line$match, paste(vapply(line$edits, edit_shown, ""), collapse = "; ")), ""
  )
  lapply(unname(split(made, factor(shown, unique(shown)))), function(same) {
    one <- same[[1]]
    for (part in c("variable", "column")) one[[part]] <- paste(
      unique(vapply(same, `[[`, "", part)), collapse = ", "
    )
    one
  })
}

change_line <- function(change, pair, own, study, options) {
  variable <- plain_of(pair, study)
  split <- variable$way == "split"
  line <- function(edits, grounds = change$grounds, sure = TRUE) new_line(
    change$change, variable$name, edits, pair$column, paste0(change_words(change), ": ", grounds),
    sure = sure
  )
  if (change$change == "label_changed") {
    if (split) return(line(list(option_edit(
      variable, study, change$before,
      if (options$keep_label == "newer") list(label = change$now, variants = change$before) else
        list(variants = change$now)
    ))))
    if (options$keep_label == "newer" && is.null(variable$list)) {
      code <- number_to_text(variable$codes$code[match(change$before, variable$codes$label)])
      return(line(list(
        new_edit(c(where_in(variable, "codes"), code), change$now),
        new_edit(
          c(entry_path_of(variable), "variants"), with_names(list(change$before), change$now)
        )
      )))
    }
    shared <- options$keep_label == "newer"
    return(line(
      list(new_edit(
        c(entry_path_of(variable), "by_wave", own$wave),
        list(variants = with_names(list(change$now), change$before))
      )),
      grounds = paste0(
        change$grounds, if (shared) "; its code list is shared, so the older label stays"
      )
    ))
  }
  if (change$change == "added" && options$merge) {
    if (split) {
      name <- fresh_name(change$now, variable, study)
      absent <- with_names(rep(list("absent"), length(study$book$waves)), names(study$book$waves))
      return(line(list(new_edit(
        options_path_of(variable, study),
        with_names(list(list(label = change$now, by_wave = absent)), name)
      ))))
    }
    users <- recodes_of(variable, study$book)
    if (length(users) > 0) return(line(
      list(),
      grounds = paste0(
        change$grounds, "; ", some_of(users), " must say where it goes, so add it to both yourself"
      ),
      sure = FALSE
    ))
    where <- if (is.null(variable$list)) where_in(variable, "codes") else c(
      "code_lists", variable$list, "codes"
    )
    return(line(list(new_edit(
      where, with_names(list(change$now), number_to_text(max(variable$codes$code) + 1L))
    ))))
  }
  if (change$change == "gone" && split) return(line(list(option_edit(
    variable, study, change$before, list(by_wave = with_names(list("absent"), own$wave))
  ))))
  NULL
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

# Questions that only the codebook has: a block or a question of boxes as a whole where all of it is
# gone.
absent_lines <- function(pairs, own, study) {
  gone <- Filter(function(pair) pair$match == "only_codebook", pairs)
  if (length(gone) == 0) return(list())
  names <- unique(vapply(gone, function(pair) pair$slot$variable, ""))
  partly <- vapply(
    names,
    function(name) any(vapply(
      pairs, function(pair) pair$slot$variable == name && pair$match != "only_codebook", TRUE
    )),
    TRUE
  )
  some <- gone[vapply(gone, function(pair) partly[[pair$slot$variable]], TRUE)]
  whole <- names[!partly]
  block <- vapply(whole, function(name) paste0(study$book$variables[[name]]$block, ""), "")
  full <- vapply(block, function(one) nzchar(one) && all(study$book$blocks[[one]] %in% whole), TRUE)
  unit <- ifelse(full, block, whole)
  asked <- function(names) paste(
    utils::head(
      unlist(lapply(
        gone, function(pair) if (pair$slot$variable %in% names) utils::head(pair$slot$questions, 1)
      )),
      1
    ),
    collapse = ""
  )
  c(
    lapply(unique(unit), function(one) {
      # The words of a write-in have an entry of their own only where something is said of them.
      path <- if (one %in% c(
        block[full],
        names(Filter(
          function(variable) !is.null(way_of(variable)$follows(variable)), study$book$variables
        ))
      )) c("variables", one) else study$book$variables[[one]]$path
      new_line(
        "only_codebook", one,
        list(new_edit(c(path, "by_wave"), with_names(list("absent"), own$wave))),
        grounds = "no column of the new file is like it", wording = asked(whole[unit == one])
      )
    }),
    lapply(unname(split(some, vapply(some, function(pair) pair$slot$variable, ""))),
      function(same) {
      variable <- plain_of(same[[1]], study)
      roles <- vapply(same, function(pair) pair$slot$role, "")
      boxes <- setdiff(roles, ".written")
      value <- c(
        if (length(boxes) > 0) list(columns = boxes_there(variable, pairs)),
        if (".written" %in% roles) list(other = "absent")
      )
      new_line("only_codebook", variable$name,
        list(new_edit(c(entry_path_of(variable), "by_wave", own$wave), list(split = value))),
        grounds = paste(
          c(
            if (length(boxes) > 0) paste0(
              "the box of ", some_of(boxes, 9), " is not in the new file"
            ),
            if (".written" %in% roles) "nor is there a column of its write-in"
          ),
          collapse = "; "
        ))
    })
  )
}

# Columns that only the new file has: what platforms add is ignored, questions become variables.
new_lines <- function(pairs, own, study) {
  extra <- own$extra
  if (length(extra) == 0) return(list())
  seen <- own$seen
  seen$columns <- seen$columns[intersect(names(seen$columns), extra)]
  if (length(seen$columns) == 0) return(list())
  plan <- plan_draft(seen)
  plan <- one_by_one(plan, study$book)
  absent <- with_names(rep(list("absent"), length(study$book$waves)), names(study$book$waves))
  export <- export_names(own, study)[1]
  c(
    lapply(
      setdiff(extra, plan$used),
      function(column) new_line(
        "only_new", "", list(new_edit(c("exports", export, "ignored"), column)), column,
        paste("to be ignored:", seen$columns[[column]]$grounds),
        wording = own$export$questions[[column]]
      )
    ),
    lapply(intersect(extra, plan$used), function(column) {
      entry <- drafted_entry(column, seen, plan)
      place <- variable_before(column, pairs, own, study)
      new_line(
        "only_new", names(entry),
        list(new_edit(c("variables", names(entry)), c(entry[[1]], list(by_wave = absent)), place)),
        column, paste("a new question:", seen$columns[[column]]$grounds),
        wording = own$export$questions[[column]]
      )
    })
  )
}

drafted_entry <- function(column, seen, plan) {
  text <- c("variables:", single_lines(column, seen, plan))
  text <- paste(text, collapse = "\n")
  yaml::yaml.load(text, handlers = text_handlers, eval.expr = FALSE)$variables
}

# The entry of the question that stands before the column in the new file.
variable_before <- function(column, pairs, own, study) {
  places <- match(vapply(pairs, function(pair) paste0(pair$column, ""), ""), own$export$names)
  before <- which(!is.na(places) & places < match(column, own$export$names))
  if (length(before) == 0) return(NULL)
  entry_path_of(plain_of(pairs[[before[which.max(places[before])]]], study))[2]
}

columns_found <- function(pairs, own, study) {
  match <- vapply(pairs, function(pair) {
    if (
      pair$match == "same" &&
      (
        !is.null(pair$overlay) ||
        any(vapply(pair$changes, function(change) change$change != "odd", TRUE))
      )
    ) return("rule")
    pair$match
  }, "")
  of <- function(value) vapply(pairs, function(pair) paste0(value(pair), ""), "")
  column <- ifelse(is.na(vapply(pairs, `[[`, "", "column")), "", vapply(pairs, `[[`, "", "column"))
  extra <- own$extra
  found <- data.frame(match = match, column = column,
    wording = ifelse(
      nzchar(column), own$export$questions[match(column, own$export$names)],
      of(function(pair) utils::head(pair$slot$questions, 1))
    ),
    variable = of(function(pair) pair$slot$variable),
    rule = of(function(pair) pair$rule), grounds = of(function(pair) pair$grounds),
    candidates = of(function(pair) paste(pair$candidates, collapse = "; ")))
  found <- rbind(
    found,
    data.frame(
      match = rep("only_new", length(extra)), column = extra,
      wording = unname(own$export$questions[extra]), variable = rep("", length(extra)),
      rule = rep("", length(extra)), grounds = rep("", length(extra)),
      candidates = rep("", length(extra))
    )
  )
  found <- found[order(match(found$match, align_matches), match(found$column, own$export$names)), ]
  rownames(found) <- NULL
  found
}

align_matches <- c(
  "same", "already_decided", "rule", "decided", "possible", "only_codebook", "only_new",
  "already_absent"
)
code_changes_known <- c(
  "direction_reversed", "moved", "label_changed", "added", "gone", "odd", "unsure"
)

codes_found <- function(pairs) {
  found <- unlist(
    lapply(
      pairs,
      function(pair) lapply(
        pair$changes,
        function(change) data.frame(
          variable = pair$slot$variable, column = pair$column, change = change$change,
          before = change$before, now = change$now, grounds = change$grounds
        )
      )
    ),
    recursive = FALSE
  )
  if (length(found) == 0) return(data.frame(
    variable = character(), column = character(), change = character(), before = character(),
    now = character(), grounds = character()
  ))
  do.call(rbind, found)
}

counts_found <- function(columns, codes) {
  matches <- vapply(align_matches, function(one) sum(columns$match == one), 0L)
  changes <- vapply(code_changes_known, function(one) sum(codes$change == one), 0L)
  c(
    matches[
      matches > 0 | names(matches) %in% c("same", "rule", "possible", "only_codebook", "only_new")
    ],
    changes[changes > 0]
  )
}

# Most labels unknown, all over the file: another language rather than many changes.
language_hint <- function(pairs, own) {
  coded <- Filter(
    function(pair) !is.na(pair$column) && pair$slot$version$storage == "coded" &&
      !is.null(pair$slot$version$codes) && any(!is.na(pair$fit)),
    pairs
  )
  lists <- vapply(coded, function(pair) list_of_codes(pair$slot$version), "")
  coded <- coded[!duplicated(lists)]
  if (length(coded) < 3) return("")
  lost <- vapply(coded, function(pair) max(pair$fit, na.rm = TRUE) < 0.4, TRUE)
  if (mean(lost) < 0.5) return("")
  paste0(
    "most labels of the new file are none of the codebook's: is it in another language, or ",
    "another encoding? Ask the platform for the codes, or add the labels under `variants`"
  )
}

# What was decided before: rejected lines do not come up again, accepted ones are marked.
drop_decided <- function(found, decisions) {
  edits <- attr(found, "edits")
  found$lines$decision[found$lines$match == "decided"] <- "accept"
  if (!is.null(decisions)) {
    id <- function(table) paste(table$match, table$column, table$variable, table$writes, sep = "\r")
    said <- decisions$decision[match(id(found$lines), id(decisions))]
    found$lines$decision[said %in% "accept"] <- "accept"
    gone <- said %in% "reject"
    found$lines <- found$lines[!gone, ]
    edits <- edits[!gone]
    found$kept <- decisions[decisions$decision == "reject", ]
    found$rejected <- nrow(found$kept)
  }
  found$lines$line <- seq_len(nrow(found$lines))
  rownames(found$lines) <- NULL
  attr(found, "edits") <- edits
  found
}
