# Columns that hold one of a list of answers, and spellings of its labels.

# One of a list of answers: a known scale, or a choice of labels. Slips of the pen are
# variants; a rare label is one all the same.
choice_of <- function(answers) {
  choice <- listed_choice(answers)
  if (is.null(choice)) return(NULL)
  range <- range_made_date(choice$scale)
  if (!is.null(range)) choice$grounds <- paste0(choice$grounds, "; ", range)
  labels_without_entities(choice)
}

# `12-Oct`, `05. Jun` among labels that are no dates.
range_made_date <- function(labels) {
  dated <- grep("^([0-9]{1,2}[-. ]+\\p{L}{3,}[.]?|\\p{L}{3,}[.]?-[0-9]{1,2})$", labels,
    perl = TRUE, value = TRUE)
  if (length(dated) == 0 || length(dated) == length(labels)) return(NULL)
  digits <- months_in_digits(sub("[-. ]+", "- ", dated))
  if (all(is.na(digits))) return(NULL)
  ends <- sort(as.integer(strsplit(digits[!is.na(digits)][1], "- ", fixed = TRUE)[[1]]))
  paste0("\u201c", dated[!is.na(digits)][1], "\u201d may be ", ends[1], "-", ends[2],
    ", of which a spreadsheet made a date")
}

# `Rock &amp; Pop` is a form of its label.
labels_without_entities <- function(choice) {
  plain <- without_entities(choice$scale)
  coded <- which(plain != choice$scale)
  if (length(coded) == 0 || anyDuplicated(text_fold(plain))) return(choice)
  variants <- choice$variants
  place <- match(variants$label, choice$scale)
  variants$label <- plain[place]
  choice$variants <- rbind(
    variants, data.frame(text = choice$scale[coded], label = plain[coded])
  )
  choice$scale <- plain
  choice
}

listed_choice <- function(answers) {
  total <- sum(answers$count)
  if (nrow(answers) < 2 || total < 2) return(NULL)
  labelled <- core_labels(answers, total)
  if (is.null(labelled)) return(NULL)
  core <- labelled$labels
  # Places of files and pages are chosen from no list.
  if (mean(grepl("^(https?://|www[.])", core$text)) > 0.5) return(NULL)
  scale <- scale_of(core)
  # Where hardly an answer comes again nothing was chosen from.
  few <- nrow(core) > 12 && total < 2 * nrow(core)
  if (!is.null(scale) && !few) return(scale_choice(labelled, scale))
  total <- total - labelled$written
  covered <- (sum(core$count) + labelled$spelt) / total
  short <- stats::median(nchar(core$text)) <= 80
  repeated <- total / labelled$different >= if (nrow(core) > 20) 4 else 2.5
  if (nrow(core) > 250 || covered < 0.8 || !short || !repeated) return(NULL)
  grounds <- paste0(
    count_of(nrow(core), "label"), " make up ", number_show(100 * covered, 0), " % of the answers",
    if (labelled$written > 0) paste0(
      ", but for ", count_of(labelled$written, "write-in"), " behind \u201cOther\u201d"
    ),
    if (labelled$unheld > 0) paste0(
      "; of the rare texts ", grouped(labelled$unheld), " were not held against the labels"
    )
  )
  numbers <- numbers_beside(core$text)
  if (is.null(numbers)) numbers <- codes_of_names(core$text)
  c(
    list(
      kind = "choice", grounds = grounds, codes = sort(numbers), scale = core$text[order(numbers)]
    ),
    labelled[c("variants", "odd", "labels")]
  )
}

# The labels of a list, slips of the pen of them, and what is neither.
core_labels <- function(answers, total) {
  # Where five thousand texts are not half of the answers no list is, in whatever spellings.
  if (nrow(answers) > 5000 && sum(utils::head(sort(answers$count, TRUE), 5000)) < 0.5 * total)
    return(NULL)
  folded <- text_fold(answers$text)
  first <- !duplicated(folded)
  labels <- answers[first, ]
  if (!all(first)) labels$count <- as.integer(rowsum(answers$count, match(folded, folded[first])))
  frequent <- frequent_labels(labels, total)
  written <- are_write_ins(labels, frequent)
  frequent <- frequent & !written
  core <- labels[frequent, ]
  # Too many labels, or too little that they cover, for a list of answers.
  if (nrow(core) < 1 || nrow(core) > 250 || (nrow(core) > 40 && sum(core$count) < 0.8 * total))
    return(NULL)
  # Where little comes again it is no list, and spellings are not looked for.
  if (total >= 40 && sum(core$count) < 0.5 * total) return(NULL)
  rare <- labels[!frequent, ]
  bare <- bare_among_words(labels)
  held <- seq_len(min(nrow(rare), spellings_held %/% nrow(core)))
  slips <- c(
    near_spellings(rare$text[held], core$text), rep(NA_character_, nrow(rare) - length(held))
  )
  among <- near_spellings_within(core)
  meant <- with_names(rep(NA_character_, nrow(labels)), labels$text)
  meant[rare$text] <- slips
  meant[core$text[!is.na(among)]] <- among[!is.na(among)]
  short <- short_forms(labels$text)
  meant[!is.na(short)] <- short[!is.na(short)]
  meant[bare] <- NA
  # `0` beside `none`.
  none <- labels$text[!bare & fold_in(labels$text, zero_words())]
  if (length(none) == 1) meant[bare & labels$text == "0"] <- none
  own <- is.na(meant) & !bare & !written & (frequent | is_rare_label(labels, frequent, meant, bare))
  if (sum(own) < 2) return(NULL)
  list(
    variants = data.frame(text = labels$text[!is.na(meant)], label = unname(meant[!is.na(meant)])),
    odd = labels[is.na(meant) & !own, ], labels = labels[own, ],
    different = sum(!written), written = sum(labels$count[written]),
    unheld = nrow(rare) - length(held), spelt = sum(labels$count[!is.na(meant)])
  )
}

# `Other - a friend`, `Other: by chance`: each from one or two.
are_write_ins <- function(labels, frequent) {
  tail <- tells_other(labels$text)
  if (sum(tail) < 3 || stats::median(labels$count[tail]) > 2) return(tail & FALSE)
  tail & (!frequent | labels$count <= 2)
}

# `Y` and `N` beside `Yes` and `No`, or beside one of these and nothing else.
short_forms <- function(texts) {
  folded <- text_fold(texts)
  out <- rep(NA_character_, length(texts))
  for (pair in list(
    c("yes", "no"), c("ja", "nein"), c("oui", "non"), c("ja", "nee"), c("s\u00ed", "no"),
    c("si", "no"), c("s\u00ec", "no"), c("sim", "n\u00e3o"), c("tak", "nie")
  )) {
    letters <- substr(pair, 1, 1)
    if (!all(pair %in% folded) && !(all(letters %in% folded) && all(folded %in% c(pair, letters))))
      next
    word <- match(pair, folded)
    letter <- match(letters, folded)
    both <- !is.na(letter) & !is.na(word)
    out[letter[both]] <- texts[word[both]]
  }
  out
}

frequent_labels <- function(labels, total) {
  frequent <- labels$count >= max(2, 0.01 * total)
  tail <- sum(labels$count >= 2 & !frequent)
  if (tail > max(3, sum(frequent) / 3)) frequent <- labels$count >= 2
  if (total < 40) frequent <- labels$count >= 1
  frequent
}

# A bare number among words is no label: somebody began to code and stopped.
bare_among_words <- function(labels) {
  number <- !is.na(text_to_number(labels$text))
  ordered <- weighted_share(number, labels$count) >= 0.2 ||
    !is.null(ends_only(labels$text, text_fold(labels$text))) ||
    !is.null(number_steps(labels$text))
  number & !ordered
}

# Rare and a label all the same: several gave it, or a few texts are left that look like
# the labels; many different ones are what people wrote beside the list.
is_rare_label <- function(labels, frequent, meant, bare) {
  left <- !frequent & is.na(meant) & !bare
  size <- nchar(labels$text)
  if (!any(left)) return(left)
  # A list that has its own `Other` takes no write-ins: what else stands there is an answer.
  if (any(grepl("^other\\b", text_fold(labels$text[frequent])))) return(left & size <= 120)
  alike <- left & size <= 2 * max(size[frequent], 8) & !grepl("[.!?]$", labels$text)
  single <- left & labels$count == 1
  few <- sum(single) <= max(2, 0.15 * sum(frequent))
  whole <- scale_order(labels$text[frequent | alike])
  if (!is.null(whole)) return(alike)
  # Beside a scale stands what several gave; what one wrote is that person's.
  in_scale <- sum(frequent) >= 3 && !is.null(scale_order(labels$text[frequent]))
  alike & (labels$count >= 2 | few & !in_scale)
}

# How many pairs of a rare text and a label are held against each other in a column.
spellings_held <- 2e5

# A known scale; labels that are none of its steps may be spellings of one.
scale_choice <- function(choice, scale) {
  more <- near_spellings(scale$odd$text, scale$labels)
  spelt <- data.frame(text = scale$odd$text[!is.na(more)], label = more[!is.na(more)])
  apart <- scale$odd$text[is.na(more)]
  grounds <- paste0(if (grepl(" ", scale$name)) "ordered by " else "a scale of ", scale$name)
  list(
    kind = "scale", codes = c(scale$codes, max(scale$codes) + seq_along(apart)),
    grounds = if (length(apart) > 0) paste0(
      grounds, "; ", some_of(paste0("\u201c", apart, "\u201d"), 3, quote = FALSE), " beside it"
    ) else grounds,
    scale = c(scale$labels, apart), range = scale$range, variants = rbind(choice$variants, spelt),
    odd = choice$odd, labels = choice$labels[!choice$labels$text %in% spelt$text, ]
  )
}

# All labels fit a scale; or all but rare ones do.
scale_of <- function(core) {
  none <- core[0, ]
  whole <- scale_order(core$text)
  if (!is.null(whole)) return(c(whole, list(odd = none)))
  if (nrow(core) < 4) return(NULL)
  for (drop in rev(seq_len(nrow(core)))[seq_len(min(2, nrow(core) - 3))]) {
    if (core$count[drop] > 0.03 * sum(core$count)) next
    less <- scale_order(core$text[-drop])
    if (!is.null(less)) return(c(less, list(odd = core[drop, ])))
  }
  NULL
}

# The frequent label of which a rare text is a slip of the pen, or NA.
near_spellings <- function(rare, labels) {
  near <- rep(NA_character_, length(rare))
  # Nothing is near that is longer or shorter by more than two letters.
  size <- nchar(text_fold(rare))
  sizes <- unique(nchar(text_fold(labels)))
  some <- which(Reduce(`|`, lapply(sizes, function(length) abs(size - length) <= 2)))
  if (length(some) > 0) near[some] <- nearest_spellings(rare[some], labels)
  near
}

# Those within two letters are held against each other word by word.
nearest_spellings <- function(rare, labels) {
  distance <- utils::adist(text_fold(rare), text_fold(labels))
  vapply(seq_along(rare), function(i) {
    close <- labels[distance[i, ] <= 2]
    meant <- if (length(close) > 0) slip_of(rare[i], labels, close)
    if (is.null(meant)) NA_character_ else meant
  }, "")
}

# Among frequent labels: one that is near another and less than a tenth of it.
near_spellings_within <- function(core) {
  if (nrow(core) > 12) return(rep(NA_character_, nrow(core)))
  vapply(seq_len(nrow(core)), function(i) {
    larger <- core$count > 10 * core$count[i]
    if (!any(larger)) return(NA_character_)
    near_spellings(core$text[i], core$text[larger])
  }, "")
}
