# A declared table as lines: the groups across, in blocks of columns where they do not fit side
# by side, the names of the rows repeated.

declared_lines <- function(table, width = tables_width()) {
  view <- if (is_item_table(table)) item_view(table) else banner_view(table)
  c(
    heading_shown(table$title), cli::col_grey(paste0("  ", table_facts(table))),
    blocks_of_columns(view, width),
    cli::col_grey(paste0("  ", c(unlist(lapply(
      table$sections, section_tests, table = table
    )), table$note), recycle0 = TRUE)), ""
  )
}

tables_width <- function() max(cli::console_width(), 80)

# The words left of the cells (`left`, a list of columns), the heads, and the cells.
banner_view <- function(table) {
  several <- length(table$sections) > 1
  rows <- lapply(table$sections, function(section) {
    lines <- section$lines
    first <- !duplicated(paste(lines$type, lines$code, ifelse(
      lines$type %in% c("code", "option", "net"), "", lines$statistic
    )))
    cells <- t(vapply(seq_len(nrow(lines)), function(i) table_cell_words(
      section$value[i, ], lines$statistic[i], section$decimals, section$letters[i, ]
    ), character(ncol(section$value))))
    cells <- matrix(cells, nrow(lines))
    words <- ifelse(lines$type == "gap", paste("gap:", lines$label), line_words(lines))
    plain <- lines$type %in% c("code", "option", "net")
    list(
      label = c(if (several) section$label, ifelse(first, paste0(
        if (several) "  ", words
      ), "")),
      what = c(if (several) "", ifelse(plain, statistic_words[lines$statistic], "")),
      cells = rbind(if (several) rep("", ncol(cells)), cells)
    )
  })
  columns <- table$columns
  titles <- vapply(table$groups, `[[`, "", "title")[columns$group]
  list(
    left = list(
      unlist(lapply(rows, `[[`, "label")), unlist(lapply(rows, `[[`, "what"))
    ),
    heads = paste0(columns$label, ifelse(nzchar(columns$letter), paste0(
      " ", columns$letter
    ), "")), titles = titles, cells = do.call(rbind, lapply(rows, `[[`, "cells"))
  )
}

blocks_of_columns <- function(view, width) {
  left <- lapply(view$left, function(words) shorten(words, 38))
  taken <- sum(vapply(left, function(words) max(nchar(words, "width")) + 2, 0)) + 2
  heads <- wrapped_heads(view$heads)
  deep <- nrow(heads)
  wide <- pmax(
    apply(nchar(view$cells, "width"), 2, max), apply(nchar(heads, "width"), 2, max)
  ) + 2
  block <- fitting_blocks(wide, width - taken)
  unlist(lapply(unname(split(seq_along(view$heads), block)), function(places) {
    titles <- view$titles[places]
    titles[duplicated(paste(titles, rle_ids(titles)))] <- ""
    titled <- any(nzchar(titles))
    columns <- lapply(places, function(j) c(heads[, j], view$cells[, j]))
    names(columns) <- paste0("c", seq_along(columns))
    rows <- columns_shown(c(with_names(
      lapply(left, function(words) c(rep("", deep), words)), paste0("l", seq_along(left))
    ), columns), right = names(columns))
    top <- seq_len(deep)
    above <- if (titled) cli::col_grey(title_line(titles, wide[places], rows[deep]))
    c(if (places[1] > 1) "", above, cli::col_grey(rows[top]), rows[-top])
  }), use.names = FALSE)
}

# Long heads on up to four lines, the last of them right above the cells.
wrapped_heads <- function(heads, width = 16, most = 4) {
  lines <- lapply(heads, function(head) {
    own <- shorten(strwrap(visible_controls(head), width), width + 2)
    own <- if (length(own) > most) c(own[seq_len(most - 1)], paste0(own[most], "\u2026")) else own
    if (length(own) == 0) "" else own
  })
  deep <- max(lengths(lines))
  matrix(
    unlist(lapply(lines, function(own) c(rep("", deep - length(own)), own))), nrow = deep
  )
}

rle_ids <- function(x) cumsum(c(TRUE, x[-1] != x[-length(x)]))

# The titles of groups, each beginning where its first column does.
title_line <- function(titles, wide, below) {
  ends <- cli::ansi_nchar(below) - rev(cumsum(rev(c(wide[-1], 0))))
  starts <- ends - wide + 3
  line <- ""
  for (k in which(nzchar(titles))) line <- paste0(
    formatC(line, width = -(starts[k] - 1), flag = "-"), shorten(titles[k], 60), " "
  )
  sub(" +$", "", line)
}

# Columns into blocks that fit, at least one in each.
fitting_blocks <- function(wide, room) {
  block <- integer(length(wide))
  used <- Inf
  now <- 0L
  for (k in seq_along(wide)) {
    if (used + wide[k] > room) {
      now <- now + 1L
      used <- 0
    }
    used <- used + wide[k]
    block[k] <- now
  }
  block
}
