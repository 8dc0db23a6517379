# Columns that hold one of a list of answers, and spellings of its labels.

# One of a list of answers: a known scale, or a choice of labels. Spellings near
# a frequent one are variants, and rare cells that are no label do not stop it.
choice_of <- function(answers) {
  total <- sum(answers$count)
  if (nrow(answers) < 2 || total < 2) return(NULL)
  found <- core_labels(answers, total)
  if (is.null(found)) return(NULL)
  scale <- scale_of(found$labels)
  if (!is.null(scale)) return(scale_choice(found, scale))
  core <- found$labels
  covered <- sum(core$count) / total
  short <- stats::median(nchar(core$text)) <= 80
  repeated <- total / found$different >= if (nrow(core) > 20) 4 else 2.5
  if (nrow(core) > 250 || covered < 0.8 || !short || !repeated) return(NULL)
  grounds <- paste0(
    count_of(nrow(core), "label"), " make up ", number_show(100 * covered, 0), " % of the answers",
    if (found$unheld > 0) paste0(
      "; of the rare texts ", grouped(found$unheld), " were not held against the labels"
    )
  )
  c(
    list(kind = "choice", grounds = grounds, codes = seq_len(nrow(core)), scale = core$text),
    found[c("variants", "odd", "labels")]
  )
}

# The frequent labels, other spellings of them, and what is neither.
core_labels <- function(answers, total) {
  folded <- text_fold(answers$text)
  labels <- answers[!duplicated(folded), ]
  labels$count <- as.integer(rowsum(answers$count, factor(folded, unique(folded))))
  frequent <- labels$count >= max(2, 0.01 * total)
  tail <- sum(labels$count >= 2 & !frequent)
  if (tail > max(3, sum(frequent) / 3)) frequent <- labels$count >= 2
  if (total < 40) frequent <- labels$count >= 1
  core <- labels[frequent, ]
  if (nrow(core) < 2) return(NULL)
  # Too many labels, or too little that they cover, for a list of answers.
  if (nrow(core) > 250 || (nrow(core) > 40 && sum(core$count) < 0.8 * total)) return(NULL)
  rare <- labels[!frequent, ]
  held <- seq_len(min(nrow(rare), spellings_held %/% nrow(core)))
  near <- c(
    near_spellings(rare$text[held], core$text), rep(NA_character_, nrow(rare) - length(held))
  )
  # A bare number among words is no label: somebody began to code and stopped.
  number <- !is.na(text_to_number(core$text))
  bare <- number & weighted_share(number, core$count) < 0.2 &
    is.null(ends_only(core$text, text_fold(core$text)))
  odd_numbers <- core[bare, ]
  core <- core[!bare, ]
  frequent[frequent][bare] <- FALSE
  in_core <- near_spellings_within(core)
  variants <- data.frame(
    text = c(rare$text[!is.na(near)], labels[frequent, ]$text[!is.na(in_core)]),
    label = c(near[!is.na(near)], in_core[!is.na(in_core)])
  )
  list(
    variants = variants, odd = rbind(rare[is.na(near), ], odd_numbers),
    labels = core[is.na(in_core), ], different = nrow(labels),
    unheld = nrow(rare) - length(held)
  )
}

# How many pairs of a rare text and a label are held against each other in a column.
spellings_held <- 2e5

# A known scale; labels that are none of its steps may be spellings of one.
scale_choice <- function(found, scale) {
  more <- near_spellings(scale$odd$text, scale$labels)
  spelt <- data.frame(text = scale$odd$text[!is.na(more)], label = more[!is.na(more)])
  list(
    kind = "scale", grounds = paste0("a scale of ", scale$name), codes = scale$codes,
    scale = scale$labels, range = scale$range, variants = rbind(found$variants, spelt),
    odd = rbind(found$odd, scale$odd[is.na(more), ]),
    labels = found$labels[!found$labels$text %in% scale$odd$text, ]
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

# The frequent label that a rare spelling was most likely meant for, or NA.
near_spellings <- function(rare, labels) {
  near <- rep(NA_character_, length(rare))
  # Nothing is near that is longer or shorter by more than two letters.
  size <- nchar(text_fold(rare))
  sizes <- unique(nchar(text_fold(labels)))
  some <- which(Reduce(`|`, lapply(sizes, function(one) abs(size - one) <= 2)))
  if (length(some) > 0) near[some] <- nearest_spellings(rare[some], labels)
  near
}

nearest_spellings <- function(rare, labels) {
  distance <- utils::adist(text_fold(rare), text_fold(labels))
  vapply(seq_along(rare), function(i) {
    best <- order(distance[i, ])[1:2]
    # Short words, digits and the entries of long lists (countries) differ by a letter and mean
    # another thing.
    long <- length(labels) > 12
    allowed <- if (nchar(rare[i]) < (if (long) 8 else 5)) 0 else
      if (nchar(rare[i]) < 8 || long) 1 else 2
    if (digits_of(rare[i]) != digits_of(labels[best[1]])) allowed <- 0
    clear <- is.na(best[2]) || distance[i, best[2]] > distance[i, best[1]]
    if (distance[i, best[1]] <= allowed && clear) labels[best[1]] else NA_character_
  }, "")
}

digits_of <- function(text) gsub("[^0-9]", "", text)

# Among frequent labels: one that is near another and less than a tenth of it.
near_spellings_within <- function(core) {
  if (nrow(core) > 12) return(rep(NA_character_, nrow(core)))
  vapply(seq_len(nrow(core)), function(i) {
    larger <- core$count > 10 * core$count[i]
    if (!any(larger)) return(NA_character_)
    near_spellings(core$text[i], core$text[larger])
  }, "")
}
