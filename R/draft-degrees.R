# The order of answers by words of degree: how much of one thing each label says.

# From the lowest to the highest, where all labels say how much of one thing.
degree_steps <- function(labels) {
  if (length(labels) < 3 || length(labels) > 11) return(NULL)
  folded <- gsub("[,;:.!/]", " ", gsub("\\([^)]*\\)", " ", text_fold(labels)))
  folded <- stringi::stri_trim_both(gsub(" +", " ", folded))
  # More than a few words beside those of degree say no degree.
  if (max(stringi::stri_count_fixed(folded, " ")) > 9) return(NULL)
  read <- lapply(folded, degree_of)
  stems <- lapply(read, `[[`, "stem")
  poles <- poles_of(unique(unlist(stems)))
  if (is.null(poles)) return(NULL)
  step <- vapply(seq_along(read), function(k) step_of(read[[k]], poles), 0)
  if (anyNA(step) || anyDuplicated(step)) NULL else step
}

# The adverb of a label, whether it is denied, whether it is the middle, and what is left.
degree_of <- function(text) {
  words <- order_words()
  if (is_middle(text, words)) return(list(middle = TRUE, stem = character()))
  place <- which(words_in(text, words$degree))[1]
  weight <- words$degree$value[place]
  # `Too little`, `far too much`: the rest is what there is too much of.
  if (grepl("^((much|far|way) )?(too|zu|trop) ", text)) {
    weight <- if (grepl("^(too|zu|trop) ", text)) 5 else 6
    text <- sub("^((much|far|way) )?(too|zu|trop) ", "", text)
  } else if (!is.na(place)) {
    text <- swap_word(text, words$degree$word[place], " ")
    # `Slightly too slow` is less of it than `too slow`.
    text <- sub("^ *(too|zu|trop) ", "", text)
  }
  # `Not worried at all` is not at all.
  if (grepl("^(not|no) .* (at all)$", text)) {
    weight <- 0
    text <- sub("^(not|no) (.*) at all$", "\\2", text)
  }
  left <- strsplit(stringi::stri_trim_both(text), " +")[[1]]
  denied <- left %in% words$no$word
  stem <- setdiff(left[!denied], c(words$light$word, ""))
  list(
    middle = FALSE, weight = weight, denied = any(denied), stem = stem,
    bare = length(stem) == 0
  )
}

is_middle <- function(text, words) {
  text <- sub(" (as|than) (usual|before|now|ever|last year|a year ago)$", "", text)
  plain <- sub(
    "^(it is|is|are|i am|stay|stays|stayed|remain|remains|remained) ", "",
    sub("^about the ", "the ", text)
  )
  any(c(text, plain) %in% words$middle$word) ||
    grepl("^(neither|weder|ni|n\u00e9|nem|noch|neither) .* (nor|noch|ni|n\u00e9|nem) ", text) ||
    grepl("^(not|no) .* not ", text) || grepl("neutral|undecided", text) ||
    grepl("^(just |about )?(the )?right (length|size|amount|number|speed|pace|level)$", text)
}

# Which stems stand for the low and which for the high end; NULL where they are of
# several things.
poles_of <- function(stems) {
  if (length(stems) == 0) return(list(high = character(), low = character()))
  pairs <- opposite_pairs()
  high <- low <- character()
  for (row in seq_len(nrow(pairs))) if (pairs$high[row] %in% stems && pairs$low[row] %in% stems) {
    high <- pairs$high[row]
    low <- pairs$low[row]
    break
  }
  if (length(high) == 0) for (stem in stems) {
    turned <- intersect(
      paste0(c("un", "dis", "in", "im", "ir", "non", "on", "des", "m\u00e9"), stem), stems
    )
    if (length(turned) > 0) {
      high <- stem
      low <- turned[1]
      break
    }
  }
  rest <- setdiff(stems, c(high, low))
  if (length(high) > 0) return(if (length(rest) == 0) list(high = high, low = low))
  # One thing only, told by one word or the same ones each time.
  if (length(stems) == 1) {
    known <- which(pairs$low == stems)
    return(if (length(known) > 0) list(high = character(), low = stems, one = TRUE) else
      list(high = stems, low = character()))
  }
  NULL
}

opposite_pairs <- function() once_a_session("opposites", function() {
  parts <- strsplit(order_words()$opposites$word, " ", fixed = TRUE)
  data.frame(high = vapply(parts, `[`, "", 1), low = vapply(parts, `[`, "", 2))
})

step_of <- function(wording, poles) {
  if (wording$middle) return(0)
  weight <- if (is.na(wording$weight)) 4 else wording$weight
  # A list of one word that is itself the low end rises with it.
  low <- any(wording$stem %in% poles$low) && !isTRUE(poles$one)
  if (wording$bare && is.na(wording$weight)) return(if (wording$denied) -6.5 else NA_real_)
  if (weight == 0) return(if (low) 6.5 else -6.5)
  step <- if (low) -weight else weight
  if (wording$denied) step <- if (is.na(wording$weight)) -4.2 * sign(step) else -step
  step
}

# `SD`, `D`, `N`, `A`, `SA`: agreement or satisfaction by its letters, both ends of it among them.
letter_steps <- function(labels) {
  folded <- gsub("[. ]", "", text_fold(labels))
  folded[folded %in% c("u", "ns", "nad", "nand", "nsnd")] <- "n"
  for (steps in list(c("sd", "d", "n", "a", "sa"), c("vd", "d", "n", "s", "vs"))) {
    step <- match(folded, steps)
    if (length(step) > 3 && !anyNA(step) && !anyDuplicated(step) && all(c(1, 5) %in% step))
      return(step)
  }
  NULL
}

# `Rarely (less than 25 %)`, `Often (50-75 %)`: the words say the order.
order_without_brackets <- function(labels) {
  plain <- stringi::stri_trim_both(gsub("\\([^()]*\\)", "", labels))
  if (identical(plain, labels) || !all(nzchar(plain)) || anyDuplicated(text_fold(plain)))
    return(NULL)
  known_order(labels, bare_labels(plain))
}
