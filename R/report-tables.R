# The page of the declared tables: an index, then each with what it is of, its tests, its figure.

output_tables <- list(
  file = "tables.html",
  for_readers = TRUE,
  help = "the tables that the codebook declares, each with its base, tests and figure",
  wanted = function(study) length(study$book$declared) > 0,
  write = function(study, path) write_page(tables_page(study, study$tabulated), path)
)

tables_page <- function(study, tables) {
  t <- htmltools::tags
  title <- paste0(study$book$study$title, ": tables")
  page_html(title, NULL, list(
    t$header(
      t$h1(title),
      t$p(class = "lead", paste0(
        count_of(length(tables), "table"), " of ", count_of(n_retained(study), "respondent")
      ))
    ),
    t$nav(`aria-label` = "Tables", t$ol(class = "index", lapply(tables, function(table) t$li(
      t$a(href = paste0("#table-", table$name), table$title)
    )))),
    lapply(tables, table_section_html), t$footer(
      "Page made by Mavik ", as.character(utils::packageVersion("mavik")), "."
    )
  ), study$book$language)
}

table_section_html <- function(table) {
  t <- htmltools::tags
  tests <- unlist(lapply(table$sections, section_tests, table = table))
  t$section(
    id = paste0("table-", table$name), class = "declared",
    t$h2(table$title), page_said(c(table_facts(table), table$note)),
    if (is_item_table(table)) items_page_table(table) else htmltools::HTML(table_html(table)),
    if (length(tests) > 0) page_said(tests),
    htmltools::HTML(paste(table_figures(table), collapse = "\n"))
  )
}

items_page_table <- function(table) {
  view <- item_view(table)
  columns <- c(list(view$left[[1]]), lapply(seq_along(view$heads), function(j) view$cells[, j]))
  names(columns) <- make.unique(c("Item", view$heads))
  page_table(
    paste("Of each answer:", view$titles[1]), columns,
    c("Item" = "row", numbers_of(names(columns)[-1]))
  )
}

# The lines that stand in one row of the page: the statistics of a code in one cell each.
rows_of_lines <- function(lines) {
  id <- ifelse(
    lines$type %in% c("code", "option", "net"), paste(lines$type, lines$code), seq_len(nrow(lines))
  )
  unname(split(seq_len(nrow(lines)), factor(id, unique(id))))
}

table_html <- function(table) {
  shown <- unique(unlist(lapply(table$sections, function(section) section$lines$statistic[
    section$lines$type %in% c("code", "option", "net")
  ])))
  caption <- if (length(shown) > 0) paste("Of each answer:", paste(
    statistic_words[shown], collapse = ", "
  )) else "Statistics of the answered"
  several <- length(table$sections) > 1
  paste0(
    "<div class=\"wide\"><table class=\"banner\"><caption>", caption, "</caption><thead>",
    table_heads(table), "</thead>", paste(vapply(table$sections, function(section) paste0(
      "<tbody>", if (several) paste0(
        "<tr class=\"part\"><th scope=\"rowgroup\" colspan=\"", nrow(table$columns) + 1, "\">",
        htmltools::htmlEscape(section$label), "</th></tr>\n"
      ), section_rows(section), "</tbody>\n"
    ), ""), collapse = ""), "</table></div>"
  )
}

# The groups with what each is by above them.
table_heads <- function(table) {
  columns <- table$columns
  span <- rle(columns$group)
  titles <- vapply(table$groups, `[[`, "", "title")
  above <- paste0(
    "<th class=\"group\" scope=\"colgroup\" colspan=\"", span$lengths, "\">",
    htmltools::htmlEscape(titles), "</th>", collapse = ""
  )
  paste0(
    if (any(nzchar(titles))) paste0("<tr><td></td>", above, "</tr>"), "<tr><td></td>",
    paste0("<th scope=\"col\" class=\"number\">", htmltools::htmlEscape(columns$label), ifelse(
      nzchar(columns$letter), paste0(" <small>", columns$letter, "</small>"), ""
    ), "</th>", collapse = ""), "</tr>"
  )
}

section_rows <- function(section) {
  lines <- section$lines
  words <- line_words(lines)
  cells <- vapply(seq_len(nrow(lines)), function(i) joined_cells(section, i), character(
    ncol(section$value)
  ))
  cells <- matrix(cells, ncol(section$value))
  paste(vapply(rows_of_lines(lines), function(rows) {
    type <- lines$type[rows[1]]
    text <- do.call(paste, c(lapply(rows, function(i) cells[, i]), sep = "<br>"))
    paste0(
      "<tr class=\"", type, "\"><th scope=\"row\">",
      htmltools::htmlEscape(if (type == "gap") paste0("gap: ", words[rows[1]]) else words[rows[1]]),
      "</th>", paste0("<td class=\"number\">", text, "</td>", collapse = ""), "</tr>"
    )
  }, ""), collapse = "\n")
}

joined_cells <- function(section, i) {
  statistic <- section$lines$statistic[i]
  text <- table_cell_words(section$value[i, ], statistic, section$decimals)
  letters <- section$letters[i, ]
  percent <- grepl("percent", statistic) & !is.na(section$value[i, ])
  paste0(
    text, ifelse(percent, " %", ""),
    ifelse(nzchar(letters), paste0(" <small>", letters, "</small>"), "")
  )
}
