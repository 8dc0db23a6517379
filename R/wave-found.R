# What an alignment found, as tables and counts.

columns_found <- function(pairs, own) {
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
  lines <- data.frame(match = match, column = column,
    wording = ifelse(
      nzchar(column), own$export$questions[match(column, own$export$names)],
      of(function(pair) utils::head(pair$slot$questions, 1))
    ),
    variable = of(function(pair) pair$slot$variable),
    rule = of(function(pair) pair$rule), grounds = of(function(pair) paste(c(
      if (nzchar(pair$grounds)) pair$grounds, asked_before(pair, own$export$questions)
    ), collapse = "; ")),
    candidates = of(function(pair) paste(pair$candidates, collapse = "; ")))
  lines <- rbind(
    lines,
    data.frame(
      match = rep("only_new", length(extra)), column = extra,
      wording = unname(own$export$questions[extra]), variable = rep("", length(extra)),
      rule = rep("", length(extra)), grounds = rep("", length(extra)),
      candidates = rep("", length(extra))
    )
  )
  lines <- lines[order(match(lines$match, align_matches), match(lines$column, own$export$names)), ]
  rownames(lines) <- NULL
  lines
}

# What a question was asked by where the column asks it in other words.
asked_before <- function(pair, questions) {
  before <- pair$slot$questions
  if (is.na(pair$column) || length(before) == 0) return(NULL)
  now <- questions[[pair$column]]
  if (!nzchar(now) || text_unnumbered(now) %in% text_unnumbered(before)) return(NULL)
  paste0("it was \u201c", shorten_text(before[length(before)], 70), "\u201d")
}

align_matches <- c(
  "same", "already_decided", "rule", "decided", "possible", "only_codebook", "only_new",
  "already_absent"
)

code_changes_known <- c(
  "direction_reversed", "moved", "codes_unknown", "label_changed", "merged", "split", "added",
  "gone", "odd", "unsure"
)

codes_found <- function(pairs) {
  rows <- unlist(
    lapply(
      pairs,
      function(pair) lapply(
        if (is.null(pair$assignments)) pair$changes else list(new_change(
          "codes_unknown", "", "", assignments_said(pair$assignments)
        )),
        function(change) data.frame(
          variable = pair$slot$variable, column = pair$column, change = change$change,
          before = change$before, now = change$now, grounds = change$grounds
        )
      )
    ),
    recursive = FALSE
  )
  if (length(rows) == 0) return(data.frame(
    variable = character(), column = character(), change = character(), before = character(),
    now = character(), grounds = character()
  ))
  do.call(rbind, rows)
}

counts_found <- function(columns, codes) {
  matches <- vapply(align_matches, function(match) sum(columns$match == match), 0L)
  changes <- vapply(code_changes_known, function(change) sum(codes$change == change), 0L)
  c(
    matches[
      matches > 0 | names(matches) %in% c("same", "rule", "possible", "only_codebook", "only_new")
    ],
    changes[changes > 0]
  )
}

# Most labels unknown, all over the file: another language rather than many changes.
language_hint <- function(pairs) {
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
drop_decided <- function(alignment, decisions) {
  edits <- attr(alignment, "edits")
  alignment$lines$decision[alignment$lines$match == "decided"] <- "accept"
  if (!is.null(decisions)) {
    id <- function(table) joined_id(table$match, table$column, table$variable, table$writes)
    said <- decisions$decision[match(id(alignment$lines), id(decisions))]
    alignment$lines$decision[said %in% "accept"] <- "accept"
    gone <- said %in% "reject"
    alignment$lines <- alignment$lines[!gone, ]
    edits <- edits[!gone]
    alignment$kept <- decisions[decisions$decision == "reject", ]
    alignment$rejected <- nrow(alignment$kept)
  }
  alignment$lines$line <- seq_len(nrow(alignment$lines))
  rownames(alignment$lines) <- NULL
  attr(alignment, "edits") <- edits
  alignment
}
