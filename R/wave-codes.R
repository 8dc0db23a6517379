# The code lists of a matched question side by side: options added, gone,
# changed, codes that moved, a list that runs the other way.

add_codes <- function(pair, own, study) {
  if (is.na(pair$column)) return(pair)
  slot <- pair$slot
  pair$fit <- fit_of(slot, pair$column, own, study)
  # A column that nobody answered tells nothing of its codes.
  silent <- all(is.na(pair$fit))
  pair$cells <- if (silent) NA_character_ else names(which.max(pair$fit))
  # Where hardly an answer fits, numbers or words tell what the cells hold.
  if (slot$version$storage == "coded" && !silent && max(pair$fit, na.rm = TRUE) < 0.4) {
    numeric <- numeric_share(own$export$columns[[pair$column]])
    pair$cells <- if (numeric > 0.5) "codes" else "labels"
    pair$fit[[pair$cells]] <- pair$fit[[pair$cells]] + 1e-9
  }
  pair$changes <- if (slot$version$storage == "coded" && silent) list() else
    if (slot$version$storage == "coded") coded_changes(pair, own, study) else
    if (identical(slot$role, "cell")) option_changes(pair, own, study) else list()
  pair
}

numeric_share <- function(raw) {
  counts <- occurrences(raw) * nzchar(text_trim(raw$cells))
  sum(counts[!is.na(text_to_number(raw$cells))]) / max(sum(counts), 1)
}

new_change <- function(change, before = "", now = "", grounds = "", ...) list(
  change = change, before = before, now = now, grounds = grounds, ...
)

coded_changes <- function(pair, own, study) {
  if (pair$cells == "codes") return(code_changes(pair, own))
  variable <- pair$slot$version
  raw <- own$export$columns[[pair$column]]
  decoded <- read_as(variable, pair$slot, raw, "labels", own, study)
  counts <- occurrences(raw)
  fresh <- which(decoded$kind %in% c("unlisted", "write_in") & counts > 0)
  now <- tapply(counts[fresh], text_trim(raw$cells[fresh]), sum)
  value <- decoded$value
  value[decoded$kind == "write_in"] <- NA
  present <- unique(value[counts > 0])
  old <- values_before(pair$slot, study)
  shares <- shares_of(old, variable$codes$code)
  gone <- which(!variable$codes$code %in% present & shares * sum(counts * nzchar(raw$cells)) >= 3)
  if (!is.null(variable$other)) gone <- gone[variable$codes$code[gone] != variable$other$code]
  compare_labels(
    variable$codes$label[gone], shares[gone], now, sum(counts * nzchar(text_trim(raw$cells)))
  )
}

# Labels that only one side has: those that pair up have changed.
compare_labels <- function(gone, share_gone, now, n) {
  words <- names(now)
  share_now <- as.numeric(now) / max(n, 1)
  joined <- c(joined_labels_of(gone, words, "merged"), joined_labels_of(words, gone, "split"))
  if (length(joined) > 0) {
    old <- unlist(lapply(joined, `[[`, "old"))
    fresh <- unlist(lapply(joined, `[[`, "fresh"))
    keep <- !gone %in% old
    return(c(
      lapply(joined, function(label) joined_change(label, gone, share_gone, words, share_now)),
      compare_labels(gone[keep], share_gone[keep], now[!words %in% fresh], n)
    ))
  }
  paired <- pair_labels(gone, share_gone, words, share_now)
  rest <- setdiff(seq_along(words), paired$now)
  lost <- setdiff(seq_along(gone), paired$gone)
  often <- share_now * n >= max(3, 0.01 * n)
  answers <- grouped(round(share_now * n))
  c(
    paired$changes,
    lapply(rest[often[rest]], function(j) {
      new_change("added", "", words[j], paste0(answers[j], " answers"))
    }),
    lapply(rest[!often[rest]], function(j) new_change(
      "odd", "", words[j],
      paste0(answers[j], " answers: a spelling, or a slip; `mavik check` says more")
    )),
    lapply(lost, function(i) {
      share <- number_show(100 * share_gone[i], 0)
      new_change("gone", gone[i], "", paste0(share, " % before, nobody now"))
    })
  )
}

# A label that holds the words of two that are gone (merged), or the other way (split).
joined_labels_of <- function(parts, wholes, change) {
  if (length(parts) < 2 || length(wholes) == 0) return(list())
  light <- c("or", "and", "oder", "und", "ou", "et", "y", "o", "e", "of", "en", "the", "a", "in")
  words <- function(text) setdiff(letters_of(text_fold(text)), light)
  joined <- lapply(wholes, function(whole) {
    own <- words(whole)
    inside <- parts[vapply(parts, function(part) {
      mine <- words(part)
      length(mine) > 0 && length(mine) < length(own) && all(mine %in% own)
    }, TRUE)]
    if (length(inside) < 2) return(NULL)
    if (change == "merged") list(change = change, old = inside, fresh = whole) else
      list(change = change, old = whole, fresh = inside)
  })
  Filter(Negate(is.null), joined)
}

joined_change <- function(change, gone, share_gone, words, share_now) {
  share <- function(labels, all, shares) number_show(100 * sum(shares[match(labels, all)]), 0)
  new_change(
    change$change, paste(change$old, collapse = " + "), paste(change$fresh, collapse = " + "),
    paste0(
      share(change$old, gone, share_gone), " % before, ", share(change$fresh, words, share_now),
      " % now: by their words ", if (change$change == "merged")
        "several labels became one" else "one label became several",
      "; what that means for the codes is for a person to say"
    )
  )
}

# The likest pairs first, as long as they are alike, or the only ones left with like
# shares; `gone` and `now` are the places of what was paired.
pair_labels <- function(gone, share_gone, words, share_now) {
  likeness <- outer(
    seq_along(gone), seq_along(words), Vectorize(function(i, j) wording_likeness(gone[i], words[j]))
  )
  out <- list(changes = list(), gone = integer(), now = integer())
  while (length(out$gone) < length(gone) && length(out$now) < length(words)) {
    open <- likeness
    open[out$gone, ] <- -1
    open[, out$now] <- -1
    best <- which(open == max(open), arr.ind = TRUE)[1, ]
    i <- best[[1]]
    j <- best[[2]]
    left <- setdiff(seq_along(words), out$now)
    alone <- length(gone) - length(out$gone) == 1 && sum(share_now[left] >= 0.01) == 1 &&
      abs(share_gone[i] - share_now[j]) < 0.15
    if (likeness[i, j] < 0.4 && !alone) break
    grounds <- paste0(
      if (alone) "the only label that either side has alone, " else "labels alike, ",
      number_show(100 * share_gone[i], 0), " % before, ", number_show(100 * share_now[j], 0),
      " % now"
    )
    out$changes <- c(out$changes, list(new_change("label_changed", gone[i], words[j], grounds)))
    out$gone <- c(out$gone, i)
    out$now <- c(out$now, j)
  }
  out
}

# Where labels of the file's codes are known, by label; else only codes that the list lacks.
code_changes <- function(pair, own) {
  codes <- pair$slot$version$codes
  said <- own$code_labels[[pair$column]]
  if (is.null(said)) {
    held <- text_to_number(own$export$columns[[pair$column]]$cells)
    known <- c(all_codes(pair$slot$version), text_to_number(names(pair$slot$version$delivered)))
    beyond <- setdiff(held[is_whole(held)], known)
    return(lapply(
      sort(beyond),
      function(code) new_change(
        "odd", "", number_to_text(code),
        "a code that the list does not have; its label is not in the file"
      )
    ))
  }
  place <- match(text_fold(said$labels), text_fold(codes$label))
  moved <- which(!is.na(place) & codes$code[place] != said$codes)
  out <- lapply(
    moved,
    function(i) new_change(
      "moved", paste(codes$code[place[i]], said$labels[i]), paste(said$codes[i], said$labels[i]),
      "by the labels of the codes"
    )
  )
  reversed <- length(moved) > 0 && all(!is.na(place)) && length(place) == length(codes$code) &&
    all(codes$code[place] == rev(sort(codes$code))[match(said$codes, sort(codes$code))])
  if (isTRUE(reversed)) out <- list(new_change(
    "direction_reversed", "", "", "by the labels of the codes"
  ))
  delivered <- with_names(said$labels[!is.na(place)], number_to_text(said$codes[!is.na(place)]))
  c(if (length(out) > 0) list(c(out[[1]], list(delivered = delivered))), out[-1],
    lapply(
      which(is.na(place)),
      function(i) new_change("added", "", said$labels[i], paste("code", said$codes[i]))
    ),
    lapply(
      which(!text_fold(codes$label) %in% text_fold(said$labels)),
      function(i) new_change("gone", codes$label[i], "", "not among the labels of the codes")
    ))
}

# Options of a question with several answers.
option_changes <- function(pair, own, study) {
  variable <- pair$slot$version
  raw <- own$export$columns[[pair$column]]
  variable$cells <- pair$cells
  counts <- occurrences(raw)
  full <- which(nzchar(text_trim(raw$cells)) & counts > 0)
  split <- split_cells(
    raw$cells[full], option_forms(variable, list(cells = pair$cells)), variable$settings$separator
  )
  pieces <- strsplit(split$written, variable$settings$separator, fixed = TRUE)
  words <- text_trim(unlist(pieces))
  n <- sum(counts[full])
  now <- if (length(words) == 0) numeric() else tapply(
    rep(counts[full], lengths(pieces)), words, sum
  )
  now <- now[nzchar(names(now))]
  # Words that few wrote are write-ins.
  now <- now[now >= max(5, 0.02 * n)]
  ticked <- vapply(
    seq_along(variable$options$name), function(k) sum(counts[full][set_holds(split$set, k)]), 0
  )
  rows <- rows_retained(study)
  rows <- rows[study$records$wave[rows] == pair$slot$wave]
  before <- vapply(
    study$book$blocks[[variable$name]][seq_along(variable$options$name)],
    function(name) mean(study$data[[name]][rows], na.rm = TRUE), 0
  )
  gone <- which(ticked == 0 & before * n >= 5)
  compare_labels(variable$options$label[gone], before[gone], now, n)
}
