# What a draft knows of all columns together before it is written.

# What becomes of each column: its name, its entry, its code list, its block.
plan_draft <- function(seen) {
  kinds <- vapply(seen$columns, `[[`, "", "kind")
  filled <- vapply(seen$columns, `[[`, 0L, "filled")
  ignored <- names(kinds)[
    kinds %in% c("paradata", "constant", "empty") | (kinds == "personal" & filled == 0)
  ]
  record <- names(kinds)[kinds == "response"][1]
  used <- setdiff(names(kinds)[kinds != "wave"], c(ignored, record))
  seen$columns[used] <- rate_neighbours(find_ranks(join_scales(seen$columns[used])))
  key <- names(kinds)[kinds == "key"]
  # A blank key would stop the build, and one that often occurs twice is none: it becomes a
  # variable.
  twice <- if (length(key) > 0 && !isTRUE(seen$columns[[key[1]]]$within_waves))
    sum(seen$columns[[key[1]]]$cells$count > 1) else 0L
  if (
    length(key) > 0 && (seen$columns[[key[1]]]$filled < seen$records || twice > 0.1 * seen$records)
  ) key <- character()
  lists <- shared_lists(seen$columns[used])
  # What a draft itself may add.
  added <- c("wave", if (length(key) == 0) "respondent")
  names <- variable_names(used, c(added, names(lists)), seen$columns)
  blocks <- draft_blocks(used, names, seen, lists)
  list(
    columns = seen$columns, repeats = if (length(key) > 0) twice else 0L,
    ignored = ignored, record = if (!is.na(record)) record,
    key = if (length(key) > 0) key[1] else "numbered", used = used, names = names,
    lists = lists, missing = missing_seen(seen$columns[used]), blocks = blocks,
    sets = draft_sets(used, names, seen$columns, c(unname(names), vapply(blocks, `[[`, "", "name")))
  )
}

# A question whose few answers are all labels of a scale that a neighbour with
# the same stem has in full.
join_scales <- function(columns) {
  stem <- vapply(columns, function(column) stem_of(asked_in(column))[1], "")
  for (k in which(vapply(columns, `[[`, "", "kind") %in% c("text", "choice") & nzchar(stem))) {
    like <- Filter(
      function(column) column$kind == "scale" && is.null(column$range), columns[stem == stem[k]]
    )
    own <- columns[[k]]$cells
    own <- own$text[is.na(own$gap)]
    if (length(like) == 0 || !all(text_fold(own) %in% text_fold(like[[1]]$scale))) next
    columns[[k]][c("kind", "scale", "codes", "grounds")] <- like[[1]][c(
      "kind", "scale", "codes", "grounds"
    )]
    columns[[k]][c("odd", "variants")] <- NULL
  }
  columns
}

# Questions of one stem that hold 1 to their number: things put in an order.
find_ranks <- function(columns) {
  stem <- vapply(
    columns, function(column) if (column$kind == "number") stem_of(asked_in(column))[1] else "", ""
  )
  for (of in split(seq_along(columns), factor(stem, setdiff(unique(stem), "")))) {
    number <- text_to_number(unlist(lapply(
      columns[of], function(column) column$cells$text[is.na(column$cells$gap)]
    )))
    if (length(of) >= 3 && !anyNA(number) && setequal(number, seq_along(of))) columns[of] <- lapply(
      columns[of], function(column) c(column, list(ranks = length(of)))
    )
  }
  columns
}

# Columns with the same labels share one code list.
shared_lists <- function(columns) {
  coded <- Filter(function(profile) profile$kind %in% c("scale", "choice") &&
    is.null(profile$range), columns)
  lists <- list()
  for (column in coded) {
    fits <- which(vapply(lists, function(list) !is.null(joined_labels(list, column)), TRUE))
    if (length(fits) == 0) {
      lists[[length(lists) + 1]] <- list(
        labels = column$scale, codes = column$codes, kind = column$kind, grounds = column$grounds,
        given = column$given, columns = column$name
      )
    } else {
      joined <- joined_labels(lists[[fits[1]]], column)
      lists[[fits[1]]]$labels <- joined$labels
      lists[[fits[1]]]$codes <- joined$codes
      lists[[fits[1]]]$columns <- c(lists[[fits[1]]]$columns, column$name)
    }
  }
  base <- c(agreement = "agree", frequency = "often", satisfaction = "satisfied",
    quality = "quality", importance = "important",
    likelihood = "likely", amount = "amount", ease = "ease")
  names(lists) <- make.unique(vapply(lists, function(list) {
    scale <- base[sub("a scale of ", "", list$grounds)]
    if (setequal(text_fold(list$labels), c("yes", "no"))) return("yes_no")
    paste0(
      if (is.na(scale)) if (list$kind == "scale") "scale" else "list" else scale,
      length(list$labels)
    )
  }, ""), sep = "_")
  lists
}

joined_labels <- function(list, profile) {
  a <- text_fold(list$labels)
  b <- text_fold(profile$scale)
  if (isTRUE(list$given) || isTRUE(profile$given)) {
    same <- identical(paste(list$codes, a), paste(profile$codes, b))
    return(if (same) list)
  }
  if (setequal(a, b)) return(list)
  if (
    list$kind != "scale" || profile$kind != "scale" || list$grounds != profile$grounds ||
    mean(b %in% a) < 0.5
  ) return(NULL)
  joined <- scale_order(c(list$labels, profile$scale[!b %in% a]))
  if (is.null(joined) || length(joined$labels) > max(length(a), length(b)) + 1) NULL else joined
}

missing_seen <- function(columns) {
  labelled <- setdiff(unique(unlist(lapply(columns, function(column) c(
    names(column$missing), names(column$rating$gaps), names(column$told$gaps)
  )))), "no_answer")
  cells <- do.call(rbind,
    lapply(
      Filter(
        function(profile) !profile$kind %in% c(
          "text", "key", "response", "personal", "several", "date"),
        columns
      ),
      function(column) {
    column$cells[!is.na(column$cells$gap), c("text", "count", "gap")]
  }))
  none <- lapply(
    with_names(labelled, labelled),
    function(name) list(forms = reason_drafts[[name]][2], counts = 0L)
  )
  if (is.null(cells) || nrow(cells) == 0) {
    stray <- numbers_beside_labels(columns)
    return(if (is.null(stray)) none else c(none, list(coded_missing = stray)))
  }
  gaps <- lapply(
    split(cells, factor(cells$gap, intersect(names(missing_words()), cells$gap))),
    function(of) {
    total <- rowsum(of$count, text_fold(of$text))
    # A form with words of its own gives no label to all.
    order <- order(is.na(reason_of_word(rownames(total))), -total)
    forms <- of$text[match(rownames(total)[order], text_fold(of$text))]
    list(forms = forms, counts = as.integer(total)[order])
  })
  gaps <- c(gaps, none[setdiff(labelled, names(gaps))])
  stray <- numbers_beside_labels(columns)
  if (is.null(stray)) gaps else c(gaps, list(coded_missing = stray))
}

# 77, 99 or -1 among labels of several columns: one decision for all of them.
numbers_beside_labels <- function(columns) {
  odd <- do.call(rbind, lapply(
    Filter(function(profile) profile$kind %in% c("scale", "choice") && is.null(profile$range),
      columns),
    function(column) column$odd[
      text_to_number(column$odd$text) %in% c(-9:-1, 77, 88, 97, 98, 99, 777, 888, 999, 9999),
      c("text", "count")
    ]
  ))
  if (is.null(odd) || nrow(odd) == 0 || sum(odd$count) < 3) return(NULL)
  total <- rowsum(odd$count, odd$text)
  list(forms = rownames(total), counts = as.integer(total))
}

variable_names <- function(used, not, columns) {
  words <- vapply(used, function(column) {
    name <- without_told(plain_question(column))
    from <- if (nchar(name) > 20 && lengths(strsplit(name, " +")) > 3) key_words(name) else name
    # A number of a question says less than its words.
    asked <- columns[[column]]$question
    if (grepl("^[[:alpha:]]{0,4}[._ -]?[0-9]+([._-]?[0-9a-zA-Z]{1,3})*$", name) && nzchar(asked)) {
      part <- stem_of(plain_question(asked))
      from <- key_words(if (nzchar(part[1])) part[2] else part[length(part)])
    }
    as_name(from)
  }, "")
  alike <- words %in% words[duplicated(words)]
  words[alike] <- vapply(which(alike), function(place) named_by_item(used[place], words[place]), "")
  taken <- words %in% c(reserved_words, not)
  words[taken] <- paste0(words[taken], "_x")
  with_names(make.unique(words, sep = "_"), used)
}

as_name <- function(words) {
  name <- stringi::stri_trans_general(words, "any-latin; latin-ascii; lower")
  name <- gsub("^_+|_+$", "", gsub("[^a-z0-9]+", "_", name))
  if (!grepl("^[a-z]", name)) name <- paste0("v", name)
  substr(name, 1, 28)
}

# Items of one stem, whose first words are the same.
named_by_item <- function(column, name) {
  part <- stem_of(plain_question(column))
  if (!nzchar(part[1])) return(name)
  first <- function(text, count) strsplit(key_words(text), " ", fixed = TRUE)[[1]][seq_len(count)]
  words <- c(first(part[1], 2), first(part[2], 2))
  as_name(paste(words[!is.na(words)], collapse = " "))
}

# What most headings have.
heading_words <- c("", "the", "a", "an", "of", "in", "to", "do", "does", "did", "you", "your",
  "how", "what", "which", "is", "are", "for", "with", "and", "or", "on", "at", "have", "has",
  "please", "following", "be", "we", "can", "if", "by", "that", "this", "it", "would", "there",
  "most", "each", "these", "my", "i", "many", "much", "often", "usually", "was", "were", "been",
  "us", "our", "from", "as", "any", "all")

# The first words that carry a question, in the order they stand.
key_words <- function(text) {
  plain <- stringi::stri_trans_general(without_instruction(text), "any-latin; latin-ascii; lower")
  words <- strsplit(gsub("[^[:alnum:] ]", " ", plain), " +")[[1]]
  kept <- words[!words %in% heading_words]
  paste(utils::head(if (length(kept) > 0) kept else words, 3), collapse = " ")
}

# `(Tick all that apply)` says how to answer, and nothing of the question.
without_instruction <- function(text) {
  parts <- stringi::stri_match_first_regex(text, "^(.*\\S)\\s*[(\\[]([^()\\[\\]]+)[)\\]]$")
  if (is.na(parts[1])) parts <- stringi::stri_match_first_regex(
    text, "^(.*[?.:])\\s+([^?.:]+)[.:]?$"
  )
  if (is.na(parts[1]) || !asks_several(parts[3])) text else parts[2]
}

# Neighbours with one code list and one stem: the items of a matrix question.
draft_blocks <- function(used, names, seen, lists) {
  of <- rep(NA_character_, length(used))
  for (list in names(lists)) of[used %in% lists[[list]]$columns] <- list
  stem <- vapply(seen$columns[used], function(column) stem_of(asked_in(column))[1], "")
  prefix <- sub("[._ ]?([0-9]+|[a-z])$", "", unname(names))
  same <- c(FALSE, !is.na(of[-1]) & !is.na(of[-length(of)]) & of[-1] == of[-length(of)] &
    (
      (nzchar(stem[-1]) & stem[-1] == stem[-length(stem)]) |
      (
        stem[-1] == "" & stem[-length(stem)] == "" & prefix[-1] == prefix[-length(prefix)] &
        prefix[-1] != names[-1]
      )
    ))
  runs <- split(seq_along(used), cumsum(!same))
  runs <- Filter(function(run) length(run) >= 2, runs)
  taken <- unname(names)
  blocks <- lapply(runs, function(run) {
    shared <- unique(prefix[run])
    name <- if (length(shared) == 1 && grepl(study_name, shared)) shared else substr(
      gsub("[^a-z0-9]+", "_", key_words(stem[run[1]])), 1, 24
    )
    if (!grepl(study_name, name)) name <- paste0("block_", run[1])
    while (name %in% c(taken, reserved_words)) name <- paste0(name, "_items")
    taken <<- c(taken, name)
    list(name = name, columns = used[run], stem = stem[run[1]])
  })
  unname(blocks)
}
