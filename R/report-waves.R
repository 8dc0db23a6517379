# The chapter on waves: what each wave holds, what changed, and lines over waves.

waves_section <- function(study) {
  t <- htmltools::tags
  if (!has_waves(study)) return(NULL)
  statistics <- told_statistics(study)
  t$section(
    t$h2("Waves"), waves_table(study), wave_changes_table(study), statistics_by_wave(
      study, statistics
    ),
    lapply(wave_lines(study), line_block, statistics = statistics, study = study)
  )
}

waves_table <- function(study) {
  book <- study$book
  waves <- names(book$waves)
  came <- rows_by_wave(study)
  keys <- lapply(came, function(rows) study$records$key[intersect(rows, rows_retained(study))])
  again <- vapply(
    seq_along(waves), function(k) sum(keys[[k]] %in% unlist(keys[seq_len(k - 1)])), 0L
  )
  absent <- vapply(
    waves,
    function(wave) sum(!vapply(
      book$variables[kept_variables(book)],
      function(variable) wave %in% waves_asked(variable, book), TRUE
    )),
    0L
  )
  columns <- list(
    "Wave" = vapply(book$waves, `[[`, "", "label"), "Records" = grouped(lengths(came)),
    "Retained" = grouped(lengths(keys)), "In an earlier wave too" = grouped(again),
    "Variables not asked" = grouped(absent)
  )
  if (!is_panel(book)) columns[["In an earlier wave too"]] <- NULL
  page_table(
    switch(
      book$design, panel = "A panel: a key is the same person in every wave",
      "Each wave is of people of its own"
    ),
    columns, c("Wave" = "row", numbers_of(names(columns)[-1]))
  )
}

# Nothing is drawn of what nobody answered.
line_block <- function(answer, statistics, study) {
  t <- htmltools::tags
  figure <- wave_drawing(
    statistics[statistics$variable %in% answer$names, ], study,
    paste("Lines over the waves:", answer$title)
  )
  if (is.null(figure)) return(NULL)
  t$div(t$h3(t$code(class = "name", answer$name), " ", answer$title), figure)
}

wave_drawing <- function(statistics, study, words) {
  lines <- lines_of_waves(statistics, study)
  waves <- vapply(study$book$waves, `[[`, "", "label", USE.NAMES = FALSE)
  if (!is.null(lines)) draw_waves(lines, waves, words)
}

wave_kinds <- c("wave_change", "direction_reversed", "codes_shifted", "missing_became_answer")

wave_changes_table <- function(study) {
  t <- htmltools::tags
  told <- findings(study)
  told <- told[told$kind %in% wave_kinds, ]
  limits <- wave_change_limits(study$book)
  said <- paste0(
    "A change of ", number_to_text(limits$share), " points of share or ",
    number_to_text(limits$mean),
    " standard deviations of the mean from one wave to the next is pointed out, as is what looks ",
    "like a mistake."
  )
  if (nrow(told) == 0) return(t$p(class = "about", said, " There is none."))
  list(
    t$p(class = "about", said),
    page_table(
      "What changed from wave to wave",
      list("Variable" = told$variable, "Kind" = told$kind, "What it looks like" = told$message),
      c("Variable" = "row", "Kind" = "code")
    )
  )
}

# A variable a row; for each wave n and the mean, or the share of the commonest answer.
statistics_by_wave <- function(study, statistics) {
  book <- study$book
  waves <- utils::tail(names(book$waves), 8)
  names <- unique(statistics$variable)
  chosen <- lapply(
    split(seq_len(nrow(statistics)), factor(statistics$variable, names)), main_statistic, statistics
  )
  asked <- lapply(book$variables[names], waves_asked, book = book)
  columns <- list("Variable" = names, "Statistic" = vapply(chosen, `[[`, "", "words"))
  for (wave in waves) {
    there <- vapply(asked, function(own) wave %in% own, TRUE)
    of_wave <- function(what) vapply(
      chosen, function(trend) trend[[what]][match(wave, trend$wave)], 0
    )
    n <- of_wave("answered")
    value <- of_wave("value")
    places <- ifelse(startsWith(columns$Statistic, "%"), 1, 2)
    label <- book$waves[[wave]]$label
    columns[[paste0(label, ", n")]] <- ifelse(
      there, grouped(as.integer(ifelse(is.na(n), 0, n))), "not asked"
    )
    columns[[label]] <- ifelse(there & !is.na(value), number_show(value, places), "")
  }
  last <- if (length(book$waves) > length(waves)) paste0(", of the last ", length(waves), " waves")
  list(
    page_table(
      paste0("Answered, and the mean or the share of one answer", last),
      columns, c("Variable" = "row", numbers_of(names(columns)[-(1:2)]))
    ),
    gaps_by_wave(study, statistics)
  )
}

# The mean, or the share of the commonest answer; of yes and no that of yes. `own` are the rows of
# one variable.
main_statistic <- function(own, statistics) {
  kind <- statistics$statistic[own]
  told <- function(words, rows, value) list(
    words = words, wave = statistics$wave[rows], value = value, answered = as.double(
      statistics$answered[rows]
    )
  )
  means <- own[kind == "mean"]
  if (length(means) > 0) return(told("mean", means, statistics$value[means]))
  shares <- own[kind == "share"]
  value <- statistics$value[shares]
  value[is.na(value)] <- 0
  if (length(shares) == 0) return(told("", shares, value))
  codes <- statistics$code[shares]
  code <- factor(codes, unique(codes))
  top <- names(which.max(tapply(value * statistics$answered[shares], code, sum)))
  if (setequal(codes, c("0", "1"))) top <- "1"
  words <- paste0("% ", statistics$label[shares[match(top, codes)]])
  told(words, shares[codes == top], value[codes == top])
}

gaps_by_wave <- function(study, statistics) {
  gaps <- statistics[statistics$statistic == "gap", ]
  if (nrow(gaps) == 0) return(NULL)
  count <- tapply(
    gaps$value,
    list(
      factor(gaps$label, intersect(study$book$reasons$label, gaps$label)),
      factor(gaps$wave, names(study$book$waves))
    ),
    sum, default = 0
  )
  columns <- c(
    list("Reason" = rownames(count)),
    with_names(
      lapply(colnames(count), function(wave) grouped(count[, wave])),
      vapply(study$book$waves, `[[`, "", "label")
    )
  )
  page_table(
    paste0(
      "Gaps by reason, over the variables above where they were asked; all shares and gaps are ",
      "in waves.csv"
    ),
    columns, c("Reason" = "row", numbers_of(names(columns)[-1]))
  )
}

# What is worth a figure: scores, blocks of items with a mean, and what changed.
wave_lines <- function(study, most = 8) {
  book <- study$book
  kept <- compared_variables(study)
  scores <- kept[vapply(book$variables[kept], is_score, TRUE)]
  blocks <- Filter(
    function(names) length(names) > 1 && length(names) <= 10,
    lapply(
      book$blocks,
      function(block) Filter(
        function(name) has_mean(book$variables[[name]]), intersect(block, kept)
      )
    )
  )
  told <- findings(study)
  changed <- setdiff(
    intersect(kept, told$variable[told$kind %in% wave_kinds]), c(scores, unlist(blocks))
  )
  device <- function(name) list(
    name = name, title = paste0(book$variables[[name]]$label, ""), names = name
  )
  utils::head(
    c(
      lapply(scores, device), lapply(changed, device),
      lapply(
        names(blocks),
        function(name) list(
          name = name, title = paste0(book$variables[[blocks[[name]][1]]]$stem, ""),
          names = blocks[[name]]
        )
      )
    ),
    most
  )
}

waves_page <- function(study, names, statistics, weight = NULL) {
  t <- htmltools::tags
  page_html(paste0(study$book$study$title, ": waves"), NULL, list(
    t$header(
      t$h1(study$book$study$title), t$p(class = "lead", page_words(paste0(
        "Over the waves: ", some_of(names, 9), if (!is.null(weight)) paste0(
          ", weighted by `", weight, "`"
        )
      )))
    ),
    lapply(unique(statistics$variable), function(name) {
      own <- statistics[statistics$variable == name, ]
      label <- paste0(study$book$variables[[name]]$label, "")
      t$section(
        t$h2(t$code(name), " ", label), wave_drawing(
          own, study, paste("Lines over the waves:", label)
        ), waves_compact_table(own, study)
      )
    }),
    t$footer("Made by Mavik ", as.character(utils::packageVersion("mavik")), ".")
  ))
}

# A statistic a row, a wave a column.
waves_compact_table <- function(own, study) {
  view <- waves_view(own, study)
  cells <- with_names(view$cells, make.unique(unname(view$waves)))
  page_table("By wave", c(
    list("Statistic" = view$what), if (any(nzchar(view$group))) list("Group" = view$group), cells
  ), c("Statistic" = "row", numbers_of(names(cells))))
}
