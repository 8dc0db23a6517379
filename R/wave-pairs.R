# Which column of the new wave is which question: by rules, one after another,
# then by how near they are.

pair_columns <- function(slots, own, study, rules, forced, decided) {
  ignored <- c(unlist(attr(decided, "ignored")), ignored_before(study))
  free <- setdiff(own$export$names, c(
    keys_before(study), key_of_wave(own, study), ignored_among(ignored, own$export$names)
  ))
  board <- new_board(slots, free)
  turned <- turned_columns(slots, decided, own)
  read <- setdiff(unlist(attr(decided, "variables")), turned)
  pair_forced(board, forced)
  pair_decided(board, decided, turned, own, study)
  board$take(read)
  pair_by_rules(board, rules, own, study)
  pairs <- pair_near(board$pairs, board$open(), board$left(), own, study)
  pairs <- pair_partly(pairs, board$left(), own)
  taken <- vapply(pairs, function(pair) paste0(pair$column, ""), "")
  list(pairs = pairs, extra = setdiff(free, c(taken, read)))
}

# Columns that the codebook reads by their names alone, and that ask the question turned round.
turned_columns <- function(slots, decided, own) unlist(lapply(seq_along(decided), function(k) {
  known <- decided[[k]]
  if (is.null(known) || known$absent || isTRUE(known$said)) return(NULL)
  asked <- own$export$questions[known$column]
  if (isTRUE(nzchar(turned_round_by(unname(asked), slots[[k]]$questions)))) known$column
}))

# The questions and what each was paired with so far, and the columns still free.
new_board <- function(slots, free) {
  board <- new.env(parent = emptyenv())
  board$slots <- slots
  board$pairs <- lapply(slots, new_pair)
  board$taken <- character()
  board$open <- function() which(vapply(board$pairs, function(pair) pair$match == "", TRUE))
  board$left <- function() setdiff(free, board$taken)
  board$take <- function(columns) board$taken <- c(board$taken, columns)
  board$set <- function(k, column, match, rule = "", grounds = "") {
    board$pairs[[k]][c("column", "match", "rule", "grounds")] <- list(column, match, rule, grounds)
    board$take(column)
  }
  board
}

# What the sheet of decisions names.
pair_forced <- function(board, forced) {
  for (k in board$open()) {
    named <- names(forced)[match(board$slots[[k]]$variable, unlist(forced), nomatch = 0L)]
    column <- setdiff(named, board$taken)
    if (length(column) == 1) board$set(k, column, "decided", "", "named in the sheet")
  }
}

# What the codebook says of the wave already.
pair_decided <- function(board, decided, turned, own, study) {
  for (k in board$open()) {
    known <- if (length(decided) > 0) decided[[k]]
    if (is.null(known)) next
    if (known$absent) {
      board$pairs[[k]]$match <- "already_absent"
    } else if (
      isTRUE(known$column %in% setdiff(board$left(), turned)) &&
        (isTRUE(known$said) || fits_well(board$slots[[k]], known$column, own, study))
    ) {
      board$set(k, known$column, "already_decided", "", "as the codebook says")
      board$pairs[[k]]$slot$version <- known$version
    }
  }
}

keys_before <- function(study) unlist(lapply(
  study$book$exports, function(export) c(if (!is_numbered(export)) export$key, export$response)
))
ignored_before <- function(study) unique(unlist(lapply(study$book$exports, `[[`, "ignored")))

# The cells of a column read as a variable's, as if they held labels, or codes.
read_as <- function(variable, slot, raw, cells, own, study) {
  variable$cells <- cells
  decode_cells(
    raw$cells, variable, list(cells = cells, decimal = own$decimal, dates = slot$export$dates),
    study$book, raw$kinds, slot$role
  )
}

# How much of a column reads as answers of a variable, as labels and as codes.
fit_of <- function(slot, column, own, study) {
  variable <- slot$version
  raw <- own$export$columns[[column]]
  counts <- occurrences(raw) * nzchar(text_trim(raw$cells))
  if (sum(counts) == 0 || variable$storage == "text") return(c(labels = NA, codes = NA))
  read <- function(cells) {
    decoded <- read_as(variable, slot, raw, cells, own, study)
    fits <- !decoded$kind %in% c("unlisted", "write_in") & decoded$reason != reason_id(
      study$book, "set_aside"
    )
    if (slot$role == "cell") fits <- nzchar(text_trim(raw$cells)) &
      !is.na(decoded$value) & !startsWith(paste0(decoded$value), set_mark)
    sum(counts[fits]) / sum(counts)
  }
  c(
    labels = read("labels"),
    codes = if (variable$storage == "coded" || identical(slot$role, "cell")) read("codes") else NA
  )
}

fits_well <- function(slot, column, own, study, least = 0.4) {
  fit <- fit_of(slot, column, own, study)
  all(is.na(fit)) || max(fit, na.rm = TRUE) >= least
}

# What is left, by grounds that are told: the best pair first, each once. Answers
# are read only where wording or name come near at all.
pair_near <- function(pairs, open, columns, own, study, least = 0.55) {
  if (length(open) == 0 || length(columns) == 0) return(mark_left(pairs, open))
  near <- lapply(open, function(k) near_columns(pairs[[k]]$slot, columns, own, study))
  score <- matrix(0, length(open), length(columns), dimnames = list(NULL, columns))
  for (i in seq_along(open)) for (column in names(near[[i]]))
    score[i, column] <- near[[i]][[column]]$score
  ranked <- score
  repeat {
    best <- which(ranked == max(ranked), arr.ind = TRUE)[1, ]
    if (ranked[best[1], best[2]] < least) break
    nearest_pair <- open[best[1]]
    column <- columns[best[2]]
    others <- columns[order(-score[best[1], ])]
    others <- utils::head(others[others != column & score[best[1], others] >= least - 0.15], 3)
    pairs[[nearest_pair]][c("column", "match", "rule", "grounds")] <- list(
      column, "possible", "", near[[best[1]]][[column]]$grounds
    )
    pairs[[nearest_pair]]$candidates <- vapply(
      others, function(other) paste0(other, " (", near[[best[1]]][[other]]$grounds, ")"), "",
      USE.NAMES = FALSE
    )
    ranked[best[1], ] <- -1
    ranked[, best[2]] <- -1
  }
  mark_left(pairs, open)
}

# The columns that come nearest by wording and name, with all grounds.
near_columns <- function(slot, columns, own, study, most = 4) {
  asked <- own$export$questions[columns]
  wording <- if (length(slot$questions) == 0) rep(NA_real_, length(columns)) else do.call(
    pmax, lapply(slot$questions, wording_likeness, questions = asked)
  )
  wording[!nzchar(asked)] <- NA
  name <- do.call(pmax, lapply(slot$columns, name_likeness, names = columns))
  likely <- pmax(wording, name, na.rm = TRUE) >= 0.6 & (is.na(wording) | wording >= 0.35)
  chosen <- utils::head(order(-likely, -ifelse(is.na(wording), name, wording + 0.3 * name)), most)
  chosen <- chosen[likely[chosen]]
  with_names(
    lapply(chosen, function(k) nearness(slot, columns[k], wording[k], name[k], own, study)),
    columns[chosen]
  )
}

mark_left <- function(pairs, open) {
  for (k in open) if (pairs[[k]]$match == "") pairs[[k]]$match <- "only_codebook"
  pairs
}

nearness <- function(slot, column, wording, name, own, study) {
  fit <- fit_of(slot, column, own, study)
  codes <- if (all(is.na(fit))) NA else max(fit, na.rm = TRUE)
  place <- max(
    0, 1 - 4 * abs(slot$place - match(column, own$export$names) / length(own$export$names))
  )
  alike <- shares_likeness(slot, column, own, study, fit)
  parts <- c(name = name, wording = unname(wording), codes = codes, place = place, shares = alike)
  weight <- c(name = 0.2, wording = 0.4, codes = 0.2, place = 0.08, shares = 0.12)
  known <- !is.na(parts)
  score <- sum(parts[known] * weight[known]) / sum(weight[known])
  # Answers that do not fit: no likeness of the rest outweighs that.
  if (!is.na(codes) && codes < 0.3) score <- min(score, 0.3)
  words <- c(
    wording = "wording", name = "name", codes = "answers that fit", shares = "shares",
    place = "place in the questionnaire"
  )
  shown <- names(words)[known[names(words)]]
  turned <- turned_round_by(own$export$questions[[column]], slot$questions)
  list(
    score = score,
    grounds = paste0(
      paste0(words[shown], " ", number_show(100 * parts[shown], 0), " %", collapse = ", "),
      if (nzchar(turned)) paste0("; asked the other way round, by \u201c", turned, "\u201d?")
    )
  )
}

# Letters in order, or words of weight in common: `Age` and `Your age`.
name_likeness <- function(names, name) {
  letters <- 1 - utils::adist(text_near(names), text_near(name))[, 1] /
    pmax(nchar(names), nchar(name), 1)
  if (!any(grepl(" ", c(name, names), fixed = TRUE))) return(letters)
  words <- lapply(stringi::stri_extract_all_words(text_fold(c(name, names))), heading_stems)
  own <- words[[1]]
  of <- rep(seq_along(names), lengths(words)[-1])
  met <- tabulate(of[unlist(words[-1]) %in% own], length(names))
  pmax(letters, ifelse(met > 0, 2 * met / (length(own) + lengths(words)[-1]), 0))
}

# Without what every question has, and the ends of words.
heading_stems <- function(words) unique(substr(setdiff(words, c(heading_words, NA)), 1, 6))

# Words in common, and letters in order; of one question with several.
wording_likeness <- function(questions, question) {
  if (length(questions) == 0) return(numeric())
  words <- lapply(stringi::stri_extract_all_words(text_fold(c(question, questions))), unique)
  of <- rep(seq_along(questions), lengths(words)[-1])
  met <- tabulate(of[unlist(words[-1]) %in% words[[1]]], length(questions))
  shared <- 2 * met / pmax(length(words[[1]]) + lengths(words)[-1], 1)
  long <- pmax(nchar(questions), nchar(question)) > 400
  letters <- ifelse(
    long, shared,
    1 - utils::adist(text_fold(question), text_fold(questions))[1, ] / pmax(
      nchar(questions), nchar(question), 1
    )
  )
  unname((shared + letters) / 2)
}

# Shares per code (or the mean of a number) beside those of the earlier wave.
shares_likeness <- function(slot, column, own, study, fit) {
  variable <- study$book$variables[[slot$variable]]
  if (!variable$storage %in% c("coded", "number")) return(NA_real_)
  old <- values_before(slot, study)
  new <- values_now(slot, column, own, study, best_cells(fit))
  if (sum(!is.na(old)) < 10 || sum(!is.na(new)) < 10) return(NA_real_)
  if (variable$storage == "coded") return(
    1 - distance_of(shares_of(old, all_codes(variable)), shares_of(new, all_codes(variable)))
  )
  spread <- stats::sd(old, na.rm = TRUE)
  if (!isTRUE(spread > 0)) return(NA_real_)
  max(0, 1 - abs(mean(new, na.rm = TRUE) - mean(old, na.rm = TRUE)) / (2 * spread))
}

shares_of <- function(value, codes) {
  count <- tabulate(match(value, codes), length(codes))
  if (sum(count) == 0) count else count / sum(count)
}

# Half the sum of differences: the share that would have to move.
distance_of <- function(a, b) sum(abs(a - b)) / 2

values_before <- function(slot, study) {
  rows <- rows_retained(study)
  as.double(study$data[[slot$variable]][rows[study$records$wave[rows] == slot$wave]])
}

best_cells <- function(fit) if (all(is.na(fit))) "labels" else names(which.max(fit))

values_now <- function(slot, column, own, study, cells) {
  raw <- own$export$columns[[column]]
  as.double(read_as(slot$version, slot, raw, cells, own, study)$value[raw$index])
}
