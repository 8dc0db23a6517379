# Several files of one wave: more respondents (stacked), the same responses
# again (a parallel, often as codes), other questions of the same respondents, or the labels of
# codes.

# Reads all, and says of each what it is: `base`, `stacked`, `parallel`, `joined` or `labels`.
# `form_of` says the layout of a file.
sort_files <- function(files, sheet, form_of = function(file) find_form(file, sheet)) {
  read <- lapply(files, function(file) {
    form <- form_of(file)
    list(file = file, form = closed_form(form), export = read_found(file, form))
  })
  labels <- vapply(read, function(file) is_label_file(file$export, setdiff(read, list(file))), TRUE)
  data <- read[!labels]
  if (length(data) == 0) stop_mavik(
    "draft_error", "none of the files holds answers: ", some_of(unlist(files))
  )
  seen <- lapply(data, function(file) look_at(file$export, file$form))
  # The worded file is the base: it says what the codes mean. Of other questions the one is that
  # more people answered.
  sorted <- roles_of_files(data, seen, order(vapply(seen, `[[`, "", "cells") == "codes"))
  records <- vapply(sorted$data, function(file) file$export$records, 0L)
  larger <- which(sorted$role == "joined" & records > records[1])
  if (length(larger) > 0) {
    front <- larger[which.max(records[larger])]
    sorted <- roles_of_files(
      sorted$data, sorted$seen, c(front, setdiff(seq_along(records), front))
    )
  }
  c(sorted, list(labels = unlist(
    lapply(read[labels], function(file) labels_from(file$export, sorted$data[[1]]$export$names)),
    recursive = FALSE
  )))
}

# What each file is to the first of them in this order.
roles_of_files <- function(data, seen, order) {
  data <- data[order]
  seen <- seen[order]
  for (i in seq_along(data)) data[[i]][c("paired", "joined")] <- NULL
  for (i in seq_along(data)[-1]) data[[i]]$paired <- paired_with_base(data[[i]], data[[1]])
  for (i in seq_along(data)[-1]) data[[i]]$joined <- joined_to_base(data[[i]], data[[1]], seen[[1]])
  role <- vapply(
    seq_along(data),
    function(k) if (k == 1) "base" else role_of(data[[k]], data[[1]], seen[[1]]), ""
  )
  list(data = data, seen = seen, role = role)
}

# Where few headings are the same, answers may tell that the responses are.
paired_with_base <- function(other, base) {
  if (!ask_alike(other$export, base$export)) paired_by_answers(base$export, other$export)
}

# The key in a file of other questions.
joined_to_base <- function(other, base, seen) {
  if (is.null(other$paired)) key_beside(base$export, seen$keys$column, other$export)
}

ask_alike <- function(other, base) {
  shared <- intersect(base$names, other$names)
  length(shared) >= 0.5 * min(length(base$names), length(other$names))
}

role_of <- function(other, base, seen) {
  key <- if (is.null(seen$keys)) NULL else seen$keys$column
  shared <- intersect(base$export$names, other$export$names)
  if (!is.null(other$paired)) return("parallel")
  if (!is.null(other$joined)) return("joined")
  if (!ask_alike(other$export, base$export)) stop_mavik(
    "draft_error", other$file, ": shares ", count_of(length(shared), "column"), " with ",
    base$file, ", and no column of it names the same respondents, or they answer one otherwise ",
    "there; draft them apart", list_hint(base$export, other$export)
  )
  if (is.null(key) || !key %in% shared) return("stacked")
  mine <- text_trim(base$export$columns[[key]]$cells)
  theirs <- text_trim(other$export$columns[[key]]$cells)
  if (length(intersect(mine, theirs)) < 0.5 * min(length(mine), length(theirs))) return("stacked")
  same <- same_answers(base$export, other$export, key)
  if (is.null(same) || same >= 0.8 || forms_differ(base, other, shared)) "parallel" else
    "restarts"
}

# How far the records of one key agree in the answers that both files hold: the same
# responses agree nearly wholly, other persons under the same numbers by chance.
same_answers <- function(mine, other, key) {
  agree <- agreement_by_column(mine, other, key, key)
  if (length(agree) == 0) NULL else stats::median(agree)
}

agreement_by_column <- function(mine, other, key, their_key) {
  row <- match(column_texts(mine$columns[[key]]), column_texts(other$columns[[their_key]]))
  both <- which(!is.na(row))
  unlist(lapply(setdiff(intersect(mine$names, other$names), c(key, their_key)), function(name) {
    a <- text_fold(mine$columns[[name]]$cells)[mine$columns[[name]]$index[both]]
    b <- text_fold(other$columns[[name]]$cells)[other$columns[[name]]$index[row[both]]]
    full <- nzchar(a) & nzchar(b)
    if (sum(full) >= 5 && length(unique(a[full])) > 1) mean(a[full] == b[full])
  }))
}

# One in words, the other in codes: equal answers look unlike.
forms_differ <- function(base, other, shared) {
  numbers <- function(export) mean(vapply(shared, function(name) {
    cells <- text_trim(export$columns[[name]]$cells)
    mean(is.na(text_to_number(cells[nzchar(cells)])))
  }, 0), na.rm = TRUE)
  abs(numbers(base$export) - numbers(other$export)) > 0.25
}

# Stacked exports as one, over the columns that all have.
bind_exports <- function(exports) {
  names <- Reduce(intersect, lapply(exports, `[[`, "names"))
  columns <- lapply(with_names(names, names), function(name) {
    parts <- lapply(exports, function(export) export$columns[[name]])
    cells <- unique(unlist(lapply(parts, `[[`, "cells")))
    list(
      cells = cells,
      index = unlist(lapply(parts, function(part) match(part$cells, cells)[part$index]))
    )
  })
  whole <- exports[[1]]
  whole$names <- names
  whole$columns <- columns
  for (row in c("questions", "marks")) whole[[row]] <- whole[[row]][names]
  whole$records <- sum(vapply(exports, `[[`, 0L, "records"))
  whole
}

# For each column that both hold: how often each code meets each label.
codes_met <- function(base, parallel, key, columns) {
  row <- match(column_texts(base$columns[[key]]), column_texts(parallel$columns[[key]]))
  lapply(with_names(columns, columns), function(name) {
    column <- base$columns[[name]]
    other <- parallel$columns[[name]]
    met <- data.frame(label = column$index, code = other$index[row])
    met <- met[!is.na(met$code), ]
    pair <- tabulate(
      (met$label - 1) * length(other$cells) + met$code, length(column$cells) * length(other$cells)
    )
    places <- which(pair > 0)
    pairs <- data.frame(
      label = text_trim(column$cells)[(places - 1) %/% length(other$cells) + 1],
      code = text_to_number(other$cells[(places - 1) %% length(other$cells) + 1]),
      count = pair[places]
    )
    pairs[nzchar(pairs$label) & is_whole(pairs$code), ]
  })
}

# The codes of these labels where each has one code of its own, by its commonest.
codes_learnt <- function(labels, pairs) {
  pairs <- pairs[order(-pairs$count), ]
  code <- pairs$code[match(text_fold(labels), text_fold(pairs$label))]
  if (anyNA(code) || anyDuplicated(code)) NULL else as.integer(code)
}

met_comment <- function(labels, codes, pairs) {
  against <- pairs[
    text_fold(pairs$label) %in% text_fold(labels) &
    pairs$code != codes[match(text_fold(pairs$label), text_fold(labels))],
  ]
  counts <- vapply(
    seq_along(labels),
    function(i) sum(pairs$count[
      pairs$code == codes[i] & text_fold(pairs$label) == text_fold(labels[i])
    ]),
    0L
  )
  paste0("learnt from both files: ",
    paste0(codes, " met \u201c", labels, "\u201d ", grouped(counts), " times", collapse = ", "),
    if (nrow(against) > 0) paste0(
      "; against it: ",
      paste0(
        against$code, " met \u201c", against$label, "\u201d ", grouped(against$count), " times",
        collapse = ", "
      )
    ))
}

# A file of two or three columns: variable, code and label; the variable stands
# before each code or once above its codes.
is_label_file <- function(export, others) {
  if (length(export$columns) > 3 || length(export$columns) < 2 || length(others) == 0) return(FALSE)
  names <- unlist(lapply(others, function(other) other$export$names))
  length(labels_from(export, names)) >= 1
}

labels_from <- function(export, names) {
  rows <- as.matrix(as.data.frame(export))
  rows <- rbind(export$names, rows)
  rows[] <- text_trim(rows)
  width <- ncol(rows)
  code <- rows[, width - 1]
  label <- rows[, width]
  holds <- if (width == 3) rows[, 1] else ifelse(is.na(text_to_number(code)), code, "")
  known <- match(text_fold(holds), text_fold(names))
  start <- ifelse(nzchar(holds), known, NA)
  start_row <- cummax(ifelse(is.na(start) & !nzchar(holds), 0L, seq_along(start)))
  variable <- names[start[pmax(start_row, 1)]]
  good <- !is.na(variable) & is_whole(text_to_number(code)) & nzchar(label)
  lapply(split(which(good), factor(variable[good], unique(variable[good]))), function(codings) {
    list(codes = as.integer(text_to_number(code[codings])), labels = label[codings])
  })
}
