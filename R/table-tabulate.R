# A declared table counted: the records it is of, its columns, and a section for each part.

# A list: `declared`, `name`, `title`, `note`, `n` (respondents), `all` (retained), `weight` with
# `no_weight` (respondents without one), `columns` (a data frame: `variable`, `code`, `label`,
# `letter`, `n`, `group`), `groups` (what is grouped by, with the respondents left out, by reason)
# and `sections`.
tabulate_table <- function(study, declared) {
  chosen <- table_records(study, declared$where, declared$weight)
  groups <- table_groups(study, declared, chosen)
  columns <- do.call(rbind, lapply(seq_along(groups), function(k) data.frame(
    variable = groups[[k]]$variable, code = groups[[k]]$codes, label = groups[[k]]$labels,
    letter = column_letters(groups[[k]], declared), group = k,
    n = tabulate(groups[[k]]$of, length(groups[[k]]$codes))
  )))
  list(
    declared = declared, name = declared$name, title = declared$title, note = declared$note,
    n = length(chosen$rows), all = n_retained(study), where = declared$where_text,
    weight = declared$weight, no_weight = chosen$no_weight, columns = columns, groups = groups,
    sections = lapply(declared$of, table_section, study = study, declared = declared,
      chosen = chosen, groups = groups)
  )
}

# The rows that are counted and their weights. Weights that are gaps or negative count nobody.
table_records <- function(study, where, weight) {
  rows <- rows_retained(study)
  if (!is.null(where)) {
    true <- which(truth_of(where, study))
    rows <- if (length(rows) == nrow(study$data)) true else true[true %in% rows]
  }
  if (is.null(weight)) return(list(rows = rows, weights = numeric(), no_weight = 0L))
  w <- as.double(study$data[[weight]][rows])
  has <- !is.na(w) & w >= 0
  list(rows = rows[has], weights = w[has], no_weight = sum(!has))
}

# All respondents, then each group of `by`; each spread over `over` where there is one.
table_groups <- function(study, declared, chosen) {
  every <- list(
    variable = "", title = "", codes = "", labels = "All",
    of = rep(1L, length(chosen$rows)), left = NULL
  )
  by <- lapply(declared$by, group_codes, study = study, rows = chosen$rows)
  if (declared$nested) by <- list(Reduce(within_each, by))
  groups <- c(list(every), by)
  if (is.null(declared$over)) return(groups)
  over <- over_codes(declared$over, study, chosen$rows)
  lapply(groups, function(group) within_each(group, over))
}

group_codes <- function(name, study, rows) {
  variable <- study$book$variables[[name]]
  value <- study$data[[name]][rows]
  known <- if (is.null(variable$texts)) all_codes(variable) else variable$texts$value
  labels <- if (is.null(variable$texts)) label_of(variable, known) else variable$texts$label
  list(
    variable = name, title = paste0(variable$label, ""), codes = as.character(known),
    labels = as.character(labels), of = match(value, known),
    left = left_out(study, name, rows)
  )
}

# Why respondents stand in no group: counts by reason.
left_out <- function(study, name, rows) {
  gaps <- count_gaps(study$reasons[[name]][rows], study$book, length(rows))
  gaps[c("name", "label", "count")]
}

# The steps of an ordered variable that occur, the waves, or the days (of many days the months,
# of many months the years).
over_codes <- function(name, study, rows, most = 60) {
  variable <- study$book$variables[[name]]
  if (!is_date(variable)) {
    group <- group_codes(name, study, rows)
    met <- sort(unique(group$of[!is.na(group$of)]))
    group$of <- match(group$of, met)
    group[c("codes", "labels")] <- list(group$codes[met], group$labels[met])
    return(group)
  }
  text <- value_text(variable, as.double(study$data[[name]][rows]))
  for (width in c(10, 7, 4)) {
    step <- substr(text, 1, width)
    steps <- sort_c(unique(step[!is.na(step)]))
    if (length(steps) <= most) break
  }
  list(
    variable = name, title = paste0(variable$label, ""), codes = steps, labels = steps,
    of = match(step, steps), left = left_out(study, name, rows)
  )
}

# Groups within groups: every pair of them, the inner one running fastest.
within_each <- function(outer, inner) {
  k <- length(inner$codes)
  pair <- function(a, b) {
    a <- rep(a, each = k)
    b <- rep(b, length(outer$codes))
    ifelse(nzchar(a) & outer$variable != "", paste0(a, " / ", b), b)
  }
  list(
    variable = paste(c(outer$variable, inner$variable)[nzchar(
      c(outer$variable, inner$variable)
    )], collapse = " / "),
    title = paste(c(outer$title, inner$title)[nzchar(c(outer$title, inner$title))],
      collapse = " / "),
    codes = pair(outer$codes, inner$codes), labels = pair(outer$labels, inner$labels),
    of = (outer$of - 1L) * k + inner$of, left = rbind(outer$left, inner$left),
    outer = rep(if (outer$variable == "") "All" else outer$labels, each = k),
    inner = rep(inner$labels, length(outer$codes))
  )
}

column_letters <- function(group, declared) {
  k <- length(group$codes)
  if (!"differences" %in% declared$show || k < 2) return(rep("", k))
  letters_for(k)
}

letters_for <- function(k) c(LETTERS, paste0(rep(LETTERS, each = 26), LETTERS))[seq_len(k)]

# The counts of one part in all columns: `lines` (type, code, label, statistic) and a matrix of
# lines by columns each of `value`, `base`, `low`, `high` and `letters`; `tests` by group.
table_section <- function(part, study, declared, chosen, groups) {
  variable <- study$book$variables[[part$name]]
  counted <- if (!is.null(part$options)) count_options(
    part, study, declared, chosen, groups
  ) else
    if (is_coded(variable) || !is.null(variable$texts))
      count_section(variable, study, declared, chosen, groups) else
      measure_section(variable, study, declared, chosen, groups)
  gaps <- gap_lines(part$name, study, chosen, groups)
  c(list(
    variable = part$name, block = part$block, label = paste0(variable$label, ""),
    decimals = variable$decimals
  ), bind_lines(counted, gaps))
}

bind_lines <- function(counted, gaps) {
  bound <- counted
  bound$lines <- rbind(counted$lines, gaps$lines)
  for (cells in c("value", "base", "low", "high", "letters"))
    bound[[cells]] <- rbind(counted[[cells]], gaps[[cells]])
  bound
}

# The respondents of each column, and how many of them have each reason: with `base` they add up.
gap_lines <- function(name, study, chosen, groups) {
  reason <- study$reasons[[name]][chosen$rows]
  reasons <- study$book$reasons
  counts <- do.call(cbind, lapply(groups, gap_counts_of, reason = reason, reasons = reasons))
  seen <- which(rowSums(counts) > 0)
  n <- unlist(lapply(groups, function(group) tabulate(group$of, length(group$codes))))
  new_lines_of(
    data.frame(
      type = c("respondents", rep("gap", length(seen))), code = c("", reasons$name[seen]),
      label = c("", as.character(reasons$label[seen])),
      statistic = c("respondents", rep("gap", length(seen)))
    ),
    rbind(n, counts[seen, , drop = FALSE]), n
  )
}

# Counts of each reason (a row) in each of a group's codes.
gap_counts_of <- function(group, reason, reasons) {
  k <- length(group$codes)
  if (is.null(reason)) matrix(0L, nrow(reasons), k) else pair_counts(
    reason, group$of, nrow(reasons), k
  )
}

# Cells with nothing but a value and what it is of.
new_lines_of <- function(
  lines, value, base, low = NA_real_, high = NA_real_, letters = ""
) {
  value <- unname(matrix(as.double(value), nrow(lines)))
  shaped <- function(x) if (is.matrix(x)) unname(x) else matrix(
    x, nrow(value), ncol(value), byrow = length(x) == ncol(value)
  )
  list(
    lines = lines, value = value, base = shaped(as.double(base)), low = shaped(low),
    high = shaped(high), letters = shaped(letters)
  )
}
