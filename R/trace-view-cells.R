# The raw cells of a variable and what was done to it, for the page of the data. Words are those
# that a story of a single cell has.

# One list a role: where it stands in each export, its distinct cells with what each decodes to,
# and the cell of each record.
view_cells <- function(variable, inputs, book, records, shelf) {
  roles <- unique(unlist(lapply(book$exports, function(export) {
    version <- version_in(variable, export)
    if (!is_absent(version)) names(way_of(version)$reads(version))
  })))
  lapply(as.list(roles), function(role) {
    parts <- lapply(names(inputs), function(name) cells_of_role(
      variable, role, inputs[[name]], book$exports[[name]], book,
      records$position[records$export == name]
    ))
    names(parts) <- names(inputs)
    parts <- Filter(Negate(is.null), parts)
    index <- integer(length(records$export))
    line <- integer(length(records$export))
    before <- 0L
    for (name in names(parts)) {
      here <- which(records$export == name)
      part <- parts[[name]]
      index[here] <- ifelse(is.na(part$index), 0L, part$index + before)
      line[here] <- ifelse(is.na(part$line), 0L, part$line)
      before <- before + length(part$cells)
    }
    bind <- function(what) cut_text(as.character(unlist(
      lapply(parts, `[[`, what), use.names = FALSE
    )))
    cells <- bind("cells")
    decoded <- bind("decoded")
    list(
      of = lapply(parts, function(part) list(
        column = part$column, file = part$file, path = shelf$path(part$path), from = part$from
      )),
      cells = I(cells), index = shelf$put(index), line = shelf$put(line),
      # Texts mostly stand as they are, and are not held twice.
      other = shelf$put(which(decoded != cells) - 1L), decoded = I(decoded[decoded != cells]),
      words = shelf$put(shelf$word(bind("words"))), paths = shelf$put(shelf$path(bind("paths")))
    )
  })
}

cells_of_role <- function(variable, role, input, export, book, position) {
  version <- version_in(variable, export)
  if (is_absent(version)) return(NULL)
  column <- way_of(version)$reads(version)[role]
  if (is.na(column)) return(NULL)
  read <- cells_at(version, column[[1]], input, export, position)
  source <- read$source
  index <- read$index
  used <- sort(unique(index[!is.na(index)]))
  cells <- source$raw$cells[used]
  decoded <- decode_cells(cells, version, source$export, book, source$raw$kinds[used], role)
  steps <- steps_of_cells(cells, decoded, version, book, role)
  list(
    column = column[[1]], file = source$export$shown, from = source$export$name,
    path = paste(c("exports", source$export$entry), collapse = " > "), cells = cells,
    index = match(index, used), line = read$line, decoded = steps$value, words = steps$words,
    paths = steps$path
  )
}

# The step of each distinct cell; texts that stand as they are need no look at each.
steps_of_cells <- function(cells, decoded, variable, book, role) {
  n <- length(cells)
  out <- list(value = character(n), words = character(n), path = character(n))
  plain <- variable$storage == "text" & !nzchar(decoded$kind) & decoded$reason == 0L &
    role != ".written" & holds_one(variable)
  if (length(plain) != n) plain <- rep(FALSE, n)
  first <- which(plain)[1]
  for (i in c(which(!plain), first[!is.na(first)])) {
    answer <- lapply(decoded[c("value", "reason", "kind", "doubt")], `[`, i)
    step <- decode_step(cells[i], answer, variable, book, identity, role)
    for (part in names(out)) out[[part]][i] <- step[[part]]
  }
  if (any(plain)) {
    out$value[plain] <- decoded$value[plain]
    out$words[plain] <- out$words[first]
    out$path[plain] <- out$path[first]
  }
  out
}

# What the ledger says of the variable, in the order of its steps: rows with the same words are
# one entry.
view_entries <- function(name, study, rows, shelf) {
  variable <- study$book$variables[[name]]
  entries <- Filter(function(entry) entry$variable == name && any(entry$rows %in% rows),
    study$ledger)
  entries <- entries[order(match(vapply(entries, `[[`, "", "kind"), names(ledger_kinds)))]
  unlist(lapply(entries, function(entry) {
    here <- which(entry$rows %in% rows)
    note <- rep(entry$note, length.out = length(entry$rows))[here]
    group <- paste(study$records$export[entry$rows[here]], note, sep = "\r")
    lapply(unname(split(here, factor(group, unique(group)))), function(same) view_entry(
      entry, same, variable, study, rows, shelf
    ))
  }), recursive = FALSE)
}

view_entry <- function(entry, same, variable, study, rows, shelf) {
  row <- entry$rows[same[1]]
  note <- rep(entry$note, length.out = length(entry$rows))[same[1]]
  shown <- function(text, code) {
    coded <- code & is_coded(variable) & nzchar(text)
    text[coded] <- vapply(as.integer(text[coded]), value_shown, "", variable = variable)
    cut_text(text)
  }
  raw <- entry$kind %in% c("variant", "unlisted", "write_in")
  told <- !raw || (entry$kind == "write_in" && any(nzchar(entry$note)))
  words <- if (!told) "" else if (entry$kind == "universe")
    "answered although not asked: set aside; " else
    step_words(study, entry, row, note, study$book)
  list(
    kind = entry$kind, told = told, words = words, path = shelf$path(entry$rule),
    gap = nzchar(entry$now_reason), rows = shelf$put(match(entry$rows[same], rows) - 1L),
    now = I(shown(entry$now, TRUE)), to = shelf$put(entry$now_index[same] - 1L),
    was = I(shown(entry$was, !raw)), from = shelf$put(entry$was_index[same] - 1L)
  )
}
