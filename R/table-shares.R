# Codes and options of a table: counts, percents, nets, and the mean of ordered codes.

count_section <- function(variable, study, declared, chosen, groups) {
  texts <- variable$texts
  codes <- if (is.null(texts)) all_codes(variable) else texts$value
  labels <- if (is.null(texts)) label_of(variable, codes) else texts$label
  value <- study$data[[variable$name]][chosen$rows]
  place <- match(value, codes)
  counts <- lapply(groups, cross_counts, place = place, size = length(codes),
    weights = chosen$weights)
  together <- bind_counts(counts)
  rows <- data.frame(type = "code", code = as.character(codes), label = as.character(labels))
  order <- order_of_answers(together, declared)
  rows <- rows[order, ]
  together <- lapply(together, function(cells) cells[order, , drop = FALSE])
  nets <- nets_of(declared$nets, variable, rows$code)
  if (length(nets) > 0) {
    rows <- rbind(rows, data.frame(
      type = "net", code = vapply(nets, paste, "", collapse = ","), label = names(nets)
    ))
    together <- with_nets(together, nets, rows$code)
  }
  lines <- share_lines(rows, together, declared, groups)
  if (wants_mean(variable, declared)) {
    mean <- measure_lines(as.double(value), mean_shows(declared), declared, chosen, groups)
    lines <- bind_lines(lines, mean)
  }
  tests <- tests_by_group(groups, declared, study, chosen, value, TRUE, function(g) share_test(
    counts[[g]], length(chosen$weights) > 0
  ))
  c(lines, list(kind = "codes", tests = tests))
}

# A test for each group but all; none where it is followed over something.
tests_by_group <- function(groups, declared, study, chosen, value, coded, test) lapply(
  seq_along(groups)[-1], function(g) {
    if (!is.null(declared$over)) return(NULL)
    group <- groups[[g]]
    if (!is_paired(group$variable, study$book)) return(test(g))
    persons_test(
      value, factor(group$labels[group$of], group$labels), study$records$key[chosen$rows], coded,
      length(chosen$weights) > 0
    )
  }
)

# As the codes stand, or the largest share of all respondents first.
order_of_answers <- function(together, declared) if (identical(declared$order, "share")) order(
  -together$percent[, 1], seq_len(nrow(together$percent))
) else seq_len(nrow(together$percent))

# Counts of the cells of a group, and the same by weight.
cross_counts <- function(group, place, size, weights) {
  k <- length(group$codes)
  counts <- pair_counts(place, group$of, size, k)
  if (length(weights) == 0) return(list(
    counts = counts, weighted = counts, squares = sum(counts),
    effective = as.double(colSums(counts))
  ))
  weighted <- pair_weights(place, group$of, weights, size, k)
  squares <- colSums(pair_weights(place, group$of, weights^2, size, k))
  list(
    counts = counts, weighted = weighted, squares = sum(squares),
    effective = effective_base(colSums(weighted), squares)
  )
}

# Kish: (sum w)^2 / sum w^2.
effective_base <- function(sum, squares) ifelse(squares > 0, sum^2 / squares, 0)

# The percents of all columns side by side. The row percent is of all respondents of a group's
# own columns.
bind_counts <- function(counts) {
  bind <- function(of) do.call(cbind, lapply(counts, of))
  weighted <- bind(function(cell) cell$weighted)
  every_row <- function(x) matrix(x, nrow(weighted), ncol(weighted), byrow = TRUE)
  list(
    counts = bind(function(cell) cell$counts),
    percent = percent_of(weighted, every_row(colSums(weighted))),
    row_percent = bind(function(cell) percent_of(
      cell$weighted, matrix(rowSums(cell$weighted), nrow(cell$weighted), ncol(cell$weighted))
    )),
    base = every_row(colSums(bind(function(cell) cell$counts))),
    effective = every_row(unlist(lapply(counts, `[[`, "effective")))
  )
}

percent_of <- function(part, whole) ifelse(whole > 0, 100 * part / whole, NA_real_)

# Nets by label: the codes of this variable that they hold.
nets_of <- function(nets, variable, codes) {
  if (!is_coded(variable)) return(list())
  meant <- lapply(nets, function(said) as.character(codes_meant(said, variable)))
  Filter(function(own) !anyNA(own) && all(own %in% codes), meant)
}

with_nets <- function(together, nets, codes) {
  add <- function(cells) rbind(cells, do.call(rbind, lapply(nets, function(own) colSums(
    cells[match(own, codes), , drop = FALSE]
  ))))
  together$counts <- add(together$counts)
  together$percent <- add(together$percent)
  for (of in c("base", "effective")) together[[of]] <- together[[of]][
    rep(1L, nrow(together$counts)), , drop = FALSE
  ]
  together$row_percent <- rbind(together$row_percent, matrix(
    NA_real_, length(nets), ncol(together$row_percent)
  ))
  together
}

share_shows <- function(declared) {
  shown <- intersect(c("count", "column_percent", "row_percent"), declared$show)
  if (length(shown) > 0) shown else c("count", "column_percent")
}

# A line a code and statistic, then what they are of: `base` and `effective` have a row for each
# of `rows`, of which that of row `of` is shown.
share_lines <- function(rows, together, declared, groups, of = 1L) {
  shows <- share_shows(declared)
  cells <- list(
    count = together$counts, column_percent = together$percent,
    row_percent = together$row_percent
  )
  k <- ncol(together$counts)
  lines <- rows[rep(seq_len(nrow(rows)), each = length(shows)), ]
  lines$statistic <- rep(shows, nrow(rows))
  pick <- function(of) do.call(rbind, lapply(seq_len(nrow(rows)), function(i) do.call(
    rbind, lapply(shows, function(show) of(i, show))
  )))
  none <- rep(NA_real_, k)
  ends <- wilson_interval(together$percent, together$effective)
  letters <- if ("differences" %in% declared$show) share_letters(together, groups)
  lettered <- if ("column_percent" %in% shows) "column_percent" else shows[1]
  body <- new_lines_of(
    lines, pick(function(i, show) cells[[show]][i, ]),
    pick(function(i, show) together$base[i, ]),
    pick(function(i, show) if (show == "column_percent") ends$low[i, ] else none),
    pick(function(i, show) if (show == "column_percent") ends$high[i, ] else none),
    if (is.null(letters)) "" else pick(function(i, show) if (show == lettered) letters[i, ] else
      rep("", k))
  )
  bind_lines(body, base_lines(together$base[of, ], together$effective[of, ], declared))
}

base_lines <- function(base, effective, declared) {
  weighted <- !is.null(declared$weight)
  statistics <- c("base", if (weighted) "effective_base")
  new_lines_of(
    data.frame(type = "base", code = "", label = "", statistic = statistics),
    rbind(base, if (weighted) effective), base
  )
}

# Wilson's interval of a share in percent at a base.
wilson_interval <- function(percent, base, level = 0.95) {
  z <- stats::qnorm((1 + level) / 2)
  p <- percent / 100
  middle <- (p + z^2 / (2 * base)) / (1 + z^2 / base)
  half <- z / (1 + z^2 / base) * sqrt(p * (1 - p) / base + z^2 / (4 * base^2))
  list(low = 100 * pmax(middle - half, 0), high = 100 * pmin(middle + half, 1))
}

# The mean of ordered codes stands under them, unless `show` names percents only.
wants_mean <- function(variable, declared) is_coded(variable) &&
  variable$level %in% ordered_levels && (
    length(declared$show) == 0 || any(mean_statistics %in% declared$show)
  )

mean_statistics <- c("mean", "sd", "median", "quartiles", "min", "max")
mean_shows <- function(declared) {
  shown <- intersect(mean_statistics, declared$show)
  if (length(shown) > 0) shown else "mean"
}

# Options of a question with several answers: the share of the respondents who answered, each of
# those who were offered it.
count_options <- function(part, study, declared, chosen, groups) {
  names <- part$options
  labels <- vapply(study$book$variables[names], function(variable) paste0(variable$label, ""), "")
  counts <- lapply(names, function(name) {
    place <- match(study$data[[name]][chosen$rows], c(1L, 0L))
    bind_counts(lapply(groups, cross_counts, place = place, size = 2L, weights = chosen$weights))
  })
  all <- function(what, pick) do.call(rbind, lapply(counts, function(cell) pick(cell[[what]])))
  first <- function(cells) cells[1, ]
  together <- list(
    counts = all("counts", first), percent = all("percent", first),
    row_percent = all("row_percent", first), base = all("base", first),
    effective = all("effective", first)
  )
  order <- order_of_answers(together, declared)
  together <- lapply(together, function(cells) cells[order, , drop = FALSE])
  labels <- labels[order]
  widest <- which.max(rowSums(together$base))
  c(
    share_lines(
      data.frame(type = "option", code = names[order], label = unname(labels)), together,
      declared, groups, widest
    ),
    list(
      kind = "options", tests = rep(list(list(none = "several answers a person")), length(
        groups
      ) - 1), bases = bases_of_options(labels, together$base[, 1], widest)
    )
  )
}

# Options that fewer were offered than the others, with whom their percents are of.
bases_of_options <- function(labels, base, widest) {
  fewer <- which(base < base[widest])
  if (length(fewer) > 0) paste0(
    "percents of ", paste0("\u201c", labels[fewer], "\u201d are of ", grouped(base[fewer]),
      collapse = ", "), " respondents who were offered it"
  )
}
