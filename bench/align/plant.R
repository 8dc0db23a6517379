# Differences planted between two waves, and whether an alignment tells of each.

# The first wave, the second with its plants, and the true answers of the second in the words of
# the first (NA where there is none).
made_pair <- function(words, seed) {
  set.seed(seed)
  questions <- questions_of(words)
  panel <- seed %% 2 == 0
  n <- 350
  lean <- as.list(stats::setNames(stats::runif(length(questions), 0.3, 0.75), vapply(questions, `[[`, "", "name")))
  for (list in names(words$lists)) lean[[list]] <- sample(c(0.35, 0.68), 1)
  for (name in c(names(words$single), "joint")) lean[[name]] <- stats::runif(1, 0.5, 1.8)
  first <- draw_wave(questions, n, lean)
  second <- draw_wave(questions, n, lean, if (panel) first)
  made <- list(
    words = words, questions = questions, panel = panel, first = first$frame, second = second$frame, truth = second$frame,
    names = vapply(questions, `[[`, "", "name"), asked = vapply(questions, `[[`, "", "asked"), gone = character(), fresh = character(),
    plants = list(), first_cells = list(), touched = character()
  )
  names(made$names) <- names(made$asked) <- made$names
  for (name in names(made$truth)) made$truth[[name]][made$truth[[name]] == ""] <- NA
  for (kind in sample(plant_kinds, 9)) made <- do.call(paste0("plant_", kind), list(made))
  made
}

plant <- function(made, kind, of, ...) {
  made$plants <- c(made$plants, list(list(kind = kind, of = of, ...)))
  made$touched <- c(made$touched, of)
  made
}
untouched <- function(made, kinds, lists = TRUE) {
  names <- vapply(Filter(function(q) q$kind %in% kinds && (lists || q$list == q$name), made$questions), `[[`, "", "name")
  names[!names %in% made$touched & !vapply(names, function(name) list_of_question(made, name), "") %in% made$touched]
}
list_of_question <- function(made, name) { it <- Filter(function(q) q$name == name, made$questions); if (length(it) == 0) "" else it[[1]]$list }
of_list <- function(made, list) vapply(Filter(function(q) q$list == list, made$questions), `[[`, "", "name")
one_of <- function(x) x[sample(length(x), 1)]
labels_of <- function(made, name) Filter(function(q) q$name == name, made$questions)[[1]]$labels

plant_renamed <- function(made) {
  of <- one_of(untouched(made, c("choice", "number"), FALSE))
  made$names[[of]] <- paste0("v", sample(100:999, 1))
  plant(made, "renamed", of)
}
plant_reworded <- function(made) {
  of <- one_of(untouched(made, c("choice", "number", "text"), FALSE))
  for (old in names(made$words$reworded)) made$asked[[of]] <- sub(old, made$words$reworded[[old]], made$asked[[of]], fixed = TRUE)
  made$names[[of]] <- paste0(made$names[[of]], "_b")
  plant(made, "reworded", of)
}
plant_moved <- function(made) {
  of <- one_of(untouched(made, c("choice", "number"), FALSE))
  made$order <- c(of, setdiff(names(made$second), of))
  plant(made, "moved", of)
}
plant_retyped <- function(made) {
  free <- untouched(made, "choice", FALSE)
  label <- NULL
  for (of in free) if (is.null(label)) { hit <- intersect(labels_of(made, of), names(made$words$opposites)); if (length(hit) > 0) { label <- hit[1]; at <- of } }
  if (is.null(label)) return(made)
  made$second[[at]][made$second[[at]] == label] <- made$words$opposites[[label]]
  plant(made, "retyped", at, before = label, now = made$words$opposites[[label]])
}
# Another answer takes the place of one, as many gave it.
plant_swapped <- function(made) {
  free <- untouched(made, "choice", FALSE)
  at <- NULL
  for (of in free) if (is.null(at)) { hit <- intersect(labels_of(made, of), names(made$words$swapped)); if (length(hit) > 0) { label <- hit[1]; at <- of } }
  if (is.null(at)) return(made)
  hit <- made$second[[at]] == label
  made$truth[[at]][hit] <- made$second[[at]][hit] <- made$words$swapped[[label]]
  plant(made, "swapped", at, now = made$words$swapped[[label]])
}
plant_merged <- function(made) {
  if ("joint" %in% made$touched) return(made)
  labels <- made$words$merged
  whole <- setdiff(labels[[3]], labels[[2]])
  parts <- setdiff(labels[[2]], labels[[3]])
  hit <- made$second$joint %in% parts
  made$second$joint[hit] <- whole
  made$truth$joint[hit] <- whole
  plant(made, "merged", "joint")
}
plant_split <- function(made) {
  if ("joint" %in% made$touched) return(made)
  labels <- made$words$merged
  whole <- setdiff(labels[[3]], labels[[2]])
  hit <- made$first$joint %in% setdiff(labels[[2]], labels[[3]])
  made$first$joint[hit] <- whole
  made$questions <- lapply(made$questions, function(q) { if (q$name == "joint") q$labels <- labels[[3]]; q })
  plant(made, "split", "joint")
}
in_numbers <- function(made, kind, turn) {
  lists <- setdiff(names(made$words$lists), c(made$touched, vapply(made$touched, list_of_question, "", made = made)))
  if (length(lists) == 0) return(made)
  list <- one_of(lists)
  labels <- made$words$lists[[list]]
  for (name in of_list(made, list)) {
    code <- match(made$second[[name]], labels)
    made$second[[name]] <- ifelse(is.na(code), "", as.character(turn(code, length(labels))))
  }
  plant(made, kind, list, delivered = stats::setNames(labels, turn(seq_along(labels), length(labels))))
}
plant_numbers_reversed <- function(made) in_numbers(made, "numbers_reversed", function(code, k) k + 1 - code)
plant_numbers_straight <- function(made) in_numbers(made, "numbers_straight", function(code, k) code)
plant_numbers_shifted <- function(made) in_numbers(made, "numbers_shifted", function(code, k) code - 1)
# Codes in both waves, the other way round in the second.
plant_codes_reversed <- function(made) {
  lists <- setdiff(names(made$words$lists), c(made$touched, vapply(made$touched, list_of_question, "", made = made)))
  if (length(lists) == 0) return(made)
  list <- one_of(lists)
  labels <- made$words$lists[[list]]
  for (name in of_list(made, list)) {
    code <- function(x) { at <- match(x, labels); ifelse(is.na(at), "", as.character(at)) }
    made$first[[name]] <- code(made$first[[name]])
    back <- code(made$second[[name]])
    made$second[[name]] <- ifelse(back == "", "", as.character(6 - suppressWarnings(as.integer(back))))
  }
  made$first_cells[[list]] <- "codes"
  plant(made, "codes_reversed", list)
}
plant_gap_recoded <- function(made) {
  of <- one_of(untouched(made, "choice", FALSE))
  for (wave in c("first", "second")) made[[wave]][[of]][stats::runif(length(made[[wave]][[of]])) < 0.08] <- made$words$gap
  hit <- made$second[[of]] == made$words$gap
  made$truth[[of]][hit] <- made$second[[of]][hit] <- made$words$gap_other
  plant(made, "gap_recoded", of, now = made$words$gap_other)
}
plant_option_added <- function(made) {
  of <- one_of(untouched(made, "choice", FALSE))
  hit <- stats::runif(length(made$second[[of]])) < 0.12
  made$truth[[of]][hit] <- made$second[[of]][hit] <- "Another thing altogether"
  plant(made, "option_added", of, now = "Another thing altogether")
}
plant_step_added <- function(made) {
  of <- one_of(intersect(untouched(made, "step", FALSE), names(made$words$steps)))
  if (is.na(of)) return(made)
  now <- made$words$steps[[of]][[3]]
  fresh <- setdiff(now, made$words$steps[[of]][[2]])
  at <- match(fresh[1], now)
  hit <- (made$second[[of]] == now[at + length(fresh)] | !made$second[[of]] %in% now) & made$second[[of]] != "" & stats::runif(length(made$second[[of]])) < 0.9
  made$truth[[of]][hit] <- made$second[[of]][hit] <- fresh[1 + (stats::runif(sum(hit)) < 0.5) * (length(fresh) - 1)]
  plant(made, "step_added", of, now = fresh)
}
plant_lengthened <- function(made) {
  list <- names(made$words$longer)
  if (list %in% made$touched || any(of_list(made, list) %in% made$touched)) return(made)
  longer <- made$words$longer[[list]]
  for (name in of_list(made, list)) {
    hit <- made$second[[name]] != "" & stats::runif(length(made$second[[name]])) < 0.4
    fresh <- setdiff(longer, made$words$lists[[list]])
    made$truth[[name]][hit] <- made$second[[name]][hit] <- ifelse(match(made$second[[name]][hit], made$words$lists[[list]]) <= 2, fresh[1], fresh[2])
  }
  plant(made, "lengthened", list, now = setdiff(longer, made$words$lists[[list]]))
}
plant_gone <- function(made) {
  of <- one_of(untouched(made, c("choice", "number"), FALSE))
  made$second[[of]] <- made$truth[[of]] <- NULL
  made$gone <- c(made$gone, of)
  plant(made, "gone", of)
}
# Another question takes the place and the list of one that is gone.
plant_replaced <- function(made) {
  of <- one_of(untouched(made, "choice", FALSE))
  made$second$other <- sample(labels_of(made, of), length(made$second[[1]]), TRUE)
  made$names[["other"]] <- "other"
  made$asked[["other"]] <- made$words$replaced
  made$fresh <- c(made$fresh, "other")
  made$second[[of]] <- made$truth[[of]] <- NULL
  made$gone <- c(made$gone, of)
  plant(made, "replaced", of)
}
plant_fresh <- function(made) {
  made$second$stand <- sample(c("Yes", "No"), length(made$second[[1]]), TRUE)
  made$names[["stand"]] <- "stand"
  made$asked[["stand"]] <- made$words$fresh$alike
  made$fresh <- c(made$fresh, "stand")
  plant(made, "fresh", "stand")
}
plant_fresh_block <- function(made) {
  items <- paste0("foyer", seq_along(made$words$fresh$items))
  labels <- made$words$lists[[1]]
  for (k in seq_along(items)) {
    made$second[[items[k]]] <- sample(labels, length(made$second[[1]]), TRUE)
    made$names[[items[k]]] <- items[k]
    made$asked[[items[k]]] <- paste(made$words$fresh$stem, made$words$fresh$items[k], sep = " - ")
  }
  made$fresh <- c(made$fresh, items)
  plant(made, "fresh_block", paste(items, collapse = ", "))
}
plant_several_added <- function(made) {
  option <- made$words$several[[3]]
  hit <- stats::runif(length(made$second$several)) < 0.2
  made$second$several[hit] <- sub("^; ", "", paste(made$second$several[hit], option, sep = "; "))
  plant(made, "several_added", "several", now = option)
}

# ---- files and codebook ----

write_pair <- function(made, project) {
  keys <- list(first = sprintf("P%04d", seq_along(made$first[[1]])), second = sprintf(if (made$panel) "P%04d" else "R%04d", seq_along(made$second[[1]])))
  put <- function(frame, wave, file, names, asked) {
    heads <- data.frame(t(c("id", names)), stringsAsFactors = FALSE)
    rows <- data.frame(c("id", keys[[wave]]), rbind(unname(asked), unname(as.matrix(as.data.frame(frame)))))
    names(rows) <- unlist(heads)
    utils::write.csv(rows, file.path(project, "raw", file), row.names = FALSE)
  }
  first <- names(made$first)
  put(made$first, "first", "a.csv", first, vapply(made$questions, `[[`, "", "asked"))
  order <- if (is.null(made$order)) names(made$second) else c(intersect(made$order, names(made$second)), setdiff(names(made$second), made$order))
  put(made$second[order], "second", "b.csv", unname(made$names[order]), unname(made$asked[order]))
  writeLines(codebook_of(made), file.path(project, "study.yml"))
}

codebook_of <- function(made) {
  quoted <- function(x) paste0("\"", x, "\"")
  codes <- function(labels) paste0("{", paste0(seq_along(labels), ": ", quoted(labels), collapse = ", "), "}")
  entry <- function(q) {
    keys <- switch(q$kind,
      step = , choice = paste0("level: ", if (q$kind == "step") "ordinal" else "nominal", ", codes: ", if (q$list %in% names(made$words$lists)) q$list else codes(q$labels),
        if (!is.null(made$first_cells[[q$list]])) ", cells: codes"),
      number = paste0("level: ratio, range: [", q$ends[1], ", ", q$ends[2], "]"), text = "level: text"
    )
    if (q$kind == "several") return(c(paste0("  several:"), paste0("    label: ", quoted(q$asked)), "    split:", "      column: several", "      separator: \";\"", "      options:",
      paste0("        heard", seq_along(q$labels), ": ", quoted(q$labels))))
    paste0("  ", q$name, ": {column: ", q$name, ", label: ", quoted(q$asked), ", ", keys, "}")
  }
  c("mavik: 1", paste0("study: {title: Made, design: ", if (made$panel) "panel" else "repeated", "}"), "waves: {first: {label: First}}",
    "exports: {a: {wave: first, file: raw/a.csv, key: id, cells: labels, heading: [names, questions]}}",
    paste0("missing: {dont_know: {code: -1, label: ", quoted(made$words$gap), "}}"),
    "code_lists:", paste0("  ", names(made$words$lists), ": {codes: ", vapply(made$words$lists, codes, ""), "}"),
    "variables:", "  id: {is: key, label: Id}", "  wave: {is: wave, label: Wave}", unlist(lapply(made$questions, entry)))
}

# ---- whether it is told ----

is_told_of <- function(plant, found, made) {
  columns <- found$columns
  codes <- found$codes
  lines <- found$lines
  column_right <- function(of) isTRUE(columns$column[match(of, columns$variable)] == made$names[[of]])
  changed <- function(of, changes) codes[codes$variable %in% of & codes$change %in% changes, ]
  members <- of_list(made, plant$of)
  switch(plant$kind,
    renamed = , reworded = , moved = column_right(plant$of),
    retyped = { it <- changed(plant$of, c("label_changed", "added", "odd")); any(it$now == plant$now & (it$change != "label_changed" | it$before == plant$before)) },
    merged = nrow(changed("joint", "merged")) == 1, split = nrow(changed("joint", "split")) == 1,
    numbers_reversed = , numbers_straight = , numbers_shifted = {
      mine <- lines[lines$match == "codes_unknown" & vapply(lines$variable, function(v) all(strsplit(v, ", ")[[1]] %in% members), TRUE), ]
      asked <- unlist(strsplit(mine$variable, ", "))
      wanted <- paste0("delivered: {", paste0(sort(names(plant$delivered)), ": ", plant$delivered[sort(names(plant$delivered))], collapse = ", "), "}")
      setequal(asked, members) && !any(mine$sure) && all(grepl(wanted, gsub("['\"]", "", mine$writes), fixed = TRUE))
    },
    codes_reversed = all(members %in% changed(members, c("direction_reversed", "unsure"))$variable),
    gap_recoded = any(changed(plant$of, c("added", "odd", "label_changed"))$now == plant$now),
    option_added = any(changed(plant$of, c("added", "label_changed"))$now == plant$now),
    several_added = any(changed("several", "added")$now == plant$now),
    step_added = , lengthened = {
      it <- changed(members, "added")
      mine <- lines[lines$match == "added" & grepl(members[1], lines$variable), ]
      all(plant$now %in% it$now) && !any(mine$sure & grepl("^(variables|code_lists)", mine$writes) & vapply(seq_len(nrow(mine)), function(i) any(vapply(plant$now, function(label) grepl(label, mine$writes[i], fixed = TRUE), TRUE)), TRUE) & !ends_list(plant, made))
    },
    swapped = plant$now %in% changed(plant$of, c("label_changed", "added", "odd"))$now, replaced = isTRUE(columns$match[match(plant$of, columns$variable)] %in% c("possible", "only_codebook")), gone = isTRUE(columns$match[match(plant$of, columns$variable)] == "only_codebook"),
    fresh = plant$of %in% columns$column[columns$match == "only_new"],
    fresh_block = any(lines$match == "only_new" & lines$column == plant$of)
  )
}

# Whether a new step is the last of its list: only then can it take the next code.
ends_list <- function(plant, made) {
  now <- if (plant$kind == "lengthened") made$words$longer[[plant$of]] else made$words$steps[[plant$of]][[3]]
  all(plant$now == now[length(now)])
}
