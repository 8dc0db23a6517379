# The items of a block as one table, and questions with several answers.

# Items with the same codes: a row each.
items_table <- function(asked, study, rows, weights, groups) {
  variable <- study$book$variables[[asked$names[1]]]
  codes <- all_codes(variable)
  each <- lapply(asked$names, function(name) one_table(name, study, rows, weights, NULL))
  table <- data.frame(
    variable = asked$names, label = vapply(each, `[[`, "", "label"),
    n = vapply(each, `[[`, 0L, "answered")
  )
  of_codes <- function(key, none) t(vapply(
    each, function(option) option$table[[key]][match(codes, option$table$code)],
    none[seq_along(codes)]
  ))
  counts <- of_codes("count", integer(length(codes)))
  percent <- of_codes(if (is.null(weights)) "of_answered" else "weighted", numeric(length(codes)))
  if (variable$level %in% ordered_levels) table$mean <- vapply(asked$names, function(name) {
    x <- as.double(study$data[[name]][rows])
    if (is.null(weights)) mean(x, na.rm = TRUE) else weighted_mean(x, weights)
  }, 0)
  reasons <- study$book$reasons
  gaps <- vapply(asked$names, function(name) {
    tabulate(as.integer(study$reasons[[name]][rows]), nrow(reasons))
  }, integer(nrow(reasons)))
  seen <- which(rowSums(gaps) > 0)
  out <- list(
    kind = "items", variable = asked$name, label = paste0(variable$stem, ""), n = length(rows),
    codes = label_of(variable, codes), table = table, counts = matrix(counts, length(each)),
    percent = matrix(percent, length(each)),
    gaps = list(
      reason = reasons$name[seen], label = reasons$label[seen], counts = gaps[seen, , drop = FALSE]
    )
  )
  if (!is.null(groups)) out$by_items <- lapply(
    asked$names, function(name) one_table(name, study, rows, weights, groups)
  )
  out
}

# Several answers a person: percent of the respondents that answered, and of all ticks.
set_table <- function(asked, study, rows, weights, groups) {
  names <- asked$names
  value <- lapply(names, function(name) study$data[[name]][rows])
  count <- vapply(value, function(ticks) sum(ticks == 1L, na.rm = TRUE), 0L)
  base <- vapply(value, function(ticks) sum(!is.na(ticks)), 0L)
  carrier <- study$book$variables[[asked$name]]
  table <- data.frame(
    variable = names,
    label = vapply(study$book$variables[names], `[[`, "", "label", USE.NAMES = FALSE),
    count = count, of_respondents = ifelse(base > 0, 100 * count / base, NA),
    of_answers = share(count, sum(count))
  )
  if (!is.null(weights)) table$weighted <- vapply(
    value, function(ticks) 100 * weighted_mean(ticks, weights), 0
  )
  gaps <- count_gaps(study$reasons[[asked$name]][rows], study$book, length(rows))
  c(
    list(
      kind = "set", variable = asked$name, label = paste0(carrier$label, ""), n = length(rows),
      answered = length(rows) - sum(gaps$count), table = table, gaps = gaps,
      bases = bases_of_options(table$label, base, which.max(base))
    ),
    if (!is.null(groups)) with_group_gaps(
      set_groups(value, weights, groups, table$label), study$reasons[[asked$name]][rows], groups,
      study$book$reasons
    )
  )
}

with_group_gaps <- function(grouped, reason, groups, reasons) {
  grouped$groups$gaps <- gaps_by_group(
    reason, list(of = as.integer(groups), codes = levels(groups)), reasons
  )
  grouped$untested <- "several answers a person"
  grouped
}

# The share of each option in each group, and in all who are in one.
set_groups <- function(value, weights, groups, labels) {
  of_rows <- function(ticks, own) {
    if (length(own) == 0) return(NA_real_)
    if (is.null(weights)) 100 * mean(ticks[own], na.rm = TRUE)
    else 100 * weighted_mean(ticks[own], weights[own])
  }
  percent <- vapply(value, function(ticks) {
    in_group <- lapply(seq_len(nlevels(groups)), function(i) which(as.integer(groups) == i))
    told <- lapply(c(in_group, list(which(!is.na(groups)))), function(own) own[!is.na(ticks[own])])
    vapply(told, function(own) of_rows(ticks, own), 0)
  }, numeric(nlevels(groups) + 1))
  has <- Reduce(`|`, lapply(value, function(ticks) !is.na(ticks)))
  list(
    by = attr(groups, "name"), by_label = attr(groups, "label"), ungrouped = sum(is.na(groups)),
    groups = list(
      group = c(levels(groups), "Total"),
      n = c(as.integer(table(groups[has])), sum(has & !is.na(groups))),
      percent = matrix(percent, nrow = nlevels(groups) + 1), codes = labels
    )
  )
}
