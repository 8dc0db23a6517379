# The page of an alignment: what each line would change, and both waves' answers side by side
# for all that differs.

align_page <- function(alignment) {
  t <- htmltools::tags
  title <- paste0(alignment$title, ": wave ", alignment$wave, " against ", alignment$against)
  page_html(title, NULL, list(
    t$header(t$h1(title), t$p(class = "lead", paste0(
      paste(alignment$files, collapse = ", "), ", ", count_of(alignment$records, "record")
    ))),
    lapply(c(alignment$stranger, alignment$language), function(words) if (has_text(words)) t$p(
      t$strong("To look at: "), words
    )),
    counts_section(alignment), lines_section(alignment), spread_sections(alignment),
    t$footer("Page made by Mavik ", as.character(utils::packageVersion("mavik")), ".")
  ))
}

counts_section <- function(alignment) {
  counts <- alignment$counts[alignment$counts > 0]
  htmltools::tags$section(
    htmltools::tags$h2("What was found"),
    page_table("Questions and code lists", list(
      "Found" = unname(c(match_words, change_names)[names(counts)]), "Count" = grouped(counts)
    ), c("Found" = "row", "Count" = "number"))
  )
}

lines_section <- function(alignment) {
  t <- htmltools::tags
  parts <- parts_of_lines(alignment$lines)
  t$section(
    t$h2("What is proposed"),
    if (nrow(alignment$lines) == 0) t$p("Nothing: all is decided."),
    lapply(names(parts), function(title) {
      lines <- alignment$lines[parts[[title]], ]
      heading <- paste0(
        gsub("`", "", title, fixed = TRUE), " (", count_of(nrow(lines), "line"), ")"
      )
      if (nrow(lines) > 0) page_table(heading, list(
        "Line" = lines$line, "What it changes" = lines$effect, "Grounds" = lines$grounds,
        "It writes" = lines$writes
      ), c("Line" = "row", "It writes" = "code"))
    })
  )
}

spread_sections <- function(alignment) {
  shares <- alignment$shares
  if (nrow(shares) == 0) return(NULL)
  t <- htmltools::tags
  id <- joined_id(shares$variable, shares$column)
  t$section(class = "sides",
    t$h2("Answers side by side"),
    page_said(paste0(
      "For every question that differs: the answers of ", alignment$against,
      " (before) and of the ",
      "new file (now), in percent of those who answered, of questions with several answers in ",
      "percent of all records. What stands in quotes is no label of the codebook."
    )),
    lapply(unname(split(shares, factor(id, unique(id)))), spread_block, alignment = alignment)
  )
}

spread_block <- function(shares, alignment) {
  t <- htmltools::tags
  column <- alignment$columns[match(shares$column[1], alignment$columns$column), ]
  changed <- alignment$codes[alignment$codes$variable == shares$variable[1], ]
  list(
    t$h3(t$code(class = "name", shares$variable[1]), " ", shorten(
      stem_of(column$wording)[2], 120
    )),
    page_said(c(
      paste0("Column ", shares$column[1], if (nzchar(column$grounds)) paste0(
        ": ", column$grounds
      )),
      paste0(change_words_of(changed), changed$grounds, recycle0 = TRUE)
    )),
    assignments_table(alignment$assignments[alignment$assignments$variable == shares$variable[1],
      ]),
    lapply(unname(split(shares, factor(shares$reading, unique(shares$reading)))), spread_table)
  )
}

assignments_table <- function(some) {
  if (nrow(some) == 0) return(NULL)
  page_table("What the numbers may stand for, the likeliest first", list(
    "Reading" = some$reading, "Shares differ by" = percent_shown(100 * some$distance),
    "Correlations differ by" = two_decimals(some$correlations),
    "Same persons alike" = percent_shown(100 * some$same_persons), "It writes" = some$delivered
  ), c(
    "Reading" = "row", "Shares differ by" = "number", "Correlations differ by" = "number",
    "Same persons alike" = "number", "It writes" = "code"
  ))
}

change_words_of <- function(changed) vapply(seq_len(nrow(changed)), function(row) {
  said <- c(changed$before[row], changed$now[row])
  said <- said[nzchar(said)]
  if (length(said) == 0) "" else paste0(
    paste0("\u201c", said, "\u201d", collapse = " \u2192 "), ": "
  )
}, "")

spread_table <- function(shares) {
  percent <- function(count, of) ifelse(is.na(count) | of == 0, NA, 100 * count / of)
  before <- percent(shares$before, shares$of_before)
  now <- percent(shares$now, shares$of_now)
  shown <- function(x) ifelse(is.na(x), "", percent_shown(x))
  counted <- function(x) ifelse(is.na(x), "", grouped(x))
  bars <- function(x) page_bar(ifelse(is.na(x), 0, x))
  reading <- shares$reading[1]
  page_table(
    if (nzchar(reading)) paste("The numbers read", reading) else "Before and now", list(
      "Answer" = shares$answer, "Before" = counted(shares$before), "% before" = shown(before),
      " " = bars(before), "Now" = counted(shares$now), "% now" = shown(now), "  " = bars(now)
    ), c(
      "Answer" = "row", "Before" = "number", "% before" = "number", " " = "bar",
      "Now" = "number", "% now" = "number", "  " = "bar"
    )
  )
}

page_said <- function(lines) htmltools::HTML(page_about(lines, code = FALSE))
