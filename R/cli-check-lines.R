# What a check found, as lines.

check_shown <- function(checked, project) {
  checked <- visible(checked)
  groups <- checked$groups
  c(
    heading_shown(paste0(
      checked$title, if (!is.null(checked$variable)) paste0(": ", checked$variable)
    )),
    paste0(
      "  Checked, nothing written. Of ", count_of(checked$records, "record"), " ",
      grouped(checked$retained), " would be retained."
    ),
    to_look_at(checked),
    if (!is.null(checked$story)) c("", variable_story_shown(checked$story)),
    if (nrow(groups) > 0) c("", heading_shown("To look at, the worst first"), group_lines(groups)),
    if (nrow(checked$aside) > 0) c(
      "", heading_shown("What a build sets aside"), aside_shown(checked$aside)
    ),
    if (nrow(checked$unchecked) > 0) unchecked_shown(checked$unchecked),
    if (nrow(checked$proposals) > 0) c(
      "", heading_shown("Lines that would settle findings"),
      proposals_shown(checked$proposals, project)
    ),
    if (nrow(groups) > 0) c("", paste0(
      "  A finding that may stay as it is: add it under `accepted`, ",
      "{kind: KIND, variable: NAME, note: WHY}."
    ))
  )
}

# How many findings are open, in one line.
to_look_at <- function(checked) {
  levels <- table(factor(open_findings(checked$findings)$level, c("error", "warning", "note")))
  levels <- levels[levels > 0]
  counts <- vapply(names(levels), function(level) count_of(levels[[level]], level), "")
  groups <- nrow(checked$groups)
  paste0(
    "  ",
    if (length(levels) == 0) "No finding needs review"
    else paste0("To look at: ", paste(counts, collapse = ", ")),
    if (groups < sum(levels)) paste0(", in ", count_of(groups, "group")),
    if (checked$accepted > 0) paste0("; ", checked$accepted, " accepted"), "."
  )
}

unchecked_shown <- function(unchecked) {
  c(
    "", heading_shown("Nothing looks at these"),
    paste0(
      "  read as they stand: no code list, range, universe or rule; give them one, ",
      "or look through them yourself"
    ),
    columns_shown(list(
      variable = unchecked$variable, level = unchecked$level, label = shorten(unchecked$label, 60)
    ))
  )
}

group_lines <- function(groups) {
  width <- min(max(cli::console_width(), 80), 140)
  unlist(lapply(seq_len(nrow(groups)), function(row) {
    group <- groups[row, ]
    if (group$kind == "rule") group$variables <- sub("^rules > ", "", group$path)
    names <- strsplit(group$variables, ", ", fixed = TRUE)[[1]]
    texts <- strsplit(group$written, " | ", fixed = TRUE)[[1]]
    who <- if (length(names) > 4) paste0(
      paste(names[1:3], collapse = ", "), " and ", length(names) - 3, " more variables"
    ) else group$variables
    head <- paste0("  ", level_mark(group$level), " ", group$kind,
      if (nzchar(who)) paste0("  ", cli::style_bold(who)), "  ", count_of(group$count,
      if (group$kind %in% c("unused_column", "ignored_absent")) "column" else "time"))
    c(
      head,
      if (length(texts) > 0) paste0(
        "      ",
        shorten(
          paste0(
            "\u201c", paste(utils::head(texts, 6), collapse = "\u201d, \u201c"), "\u201d",
            if (length(texts) > 6) paste0(" and ", length(texts) - 6, " more")
          ),
          width - 8
        )
      ),
      cli::ansi_strwrap(group$message, width = width - 6, indent = 6, exdent = 6),
      if (nzchar(group$examples)) cli::col_grey(paste0(
        "      respondents ", shorten(group$examples, width - 20)
      )),
      if (nzchar(group$proposals)) paste0(
        "      see ", if (grepl(",", group$proposals)) "lines " else "line ", group$proposals,
        " below"
      )
    )
  }))
}

level_mark <- function(level) switch(
  level, error = cli::col_red(level), warning = cli::col_yellow(level), cli::col_grey(level)
)

aside_shown <- function(aside) {
  shown <- aside[aside$answers > 0 | (!is.na(aside$records) & aside$records > 0), ]
  none <- nrow(aside) - nrow(shown)
  c(
    if (nrow(shown) > 0) columns_shown(list(
      answers = ifelse(shown$reports_only, "\u2013", grouped(shown$answers)), kind = shown$kind,
      variable = ifelse(nzchar(shown$variable), shown$variable, sub("^rules > ", "", shown$path)),
      line = ifelse(is.na(shown$line), "", paste("line", shown$line)),
      words = ifelse(
        is.na(shown$records), "",
        paste0(
          grouped(shown$records),
          ifelse(shown$records == 1, " record breaks it", " records break it"),
          ifelse(shown$reports_only, ": reported only", "")
        )
      )
    ), right = "answers"),
    if (none > 0) paste0(
      "  ", if (nrow(shown) > 0) "and " else "", count_of(none, "other check"),
      " (ranges, universes, rules) that no answer breaks"
    )
  )
}

proposals_shown <- function(proposals, project, most = 20) {
  shown <- utils::head(proposals, most)
  c(
    columns_shown(list(number = paste0(shown$number, "."),
      count = paste(grouped(shown$count), "\u00d7"), adds = shorten(shown$adds,
      90), path = paste0("under ", shown$path), line = ifelse(is.na(shown$line), "",
      paste("line", shown$line))), right = c("number", "count")),
    if (nrow(proposals) > most)
      paste0("  and ", nrow(proposals) - most, " more (--json shows all)"),
    paste0("  Add all of them: mavik check ", project, " --apply; some: --apply --only 1,3")
  )
}

record_shown <- function(record) {
  unlist(lapply(
    split(
      record, factor(paste(record$export, record$line), unique(paste(record$export, record$line)))
    ),
    function(screened) c(
    heading_shown(paste0("Wave ", screened$wave[1], ", ",
      at_line(screened$file[1], screened$line[1]))), paste0(
      "  ",
      if (screened$stands[1] == "retained") "retained in the analysis file" else paste(
        "dropped:", screened$stands[1]
      )
    ), "",
    columns_shown(list(variable = c("variable", screened$variable),
      column = c("column", shorten(screened$column, 20)),
      raw = c("raw cell", shorten(screened$raw, 40)),
      value = c(
        "value", ifelse(nzchar(screened$gap), paste0("\u2013 ", screened$gap),
          shorten(screened$value, 40))
      ), label = c("label", shorten(screened$label, 44)))), ""
  )))
}

found_shown <- function(records, where, most = 200) {
  shown <- utils::head(records, most)
  c(
    heading_shown(paste0(count_of(nrow(records), "record"), " where ", text_squeeze(where))),
    if (nrow(records) > 0) columns_shown(lapply(
      with_names(names(shown), names(shown)),
      function(name) c(name, shorten(as.character(shown[[name]]), 40))
    )),
    if (nrow(records) > most) paste0(
      "  and ", grouped(nrow(records) - most), " more (--json lists all)"
    )
  )
}
