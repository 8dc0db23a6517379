# The page of `look`: the columns, and the picture of gaps.

look_page <- function(seen) {
  t <- htmltools::tags
  title <- paste("What is in", basename(seen$file))
  columns <- as.data.frame(seen)
  page_html(title, NULL, list(
    t$header(
      t$h1(title),
      t$p(
        class = "lead",
        paste0(count_of(seen$records, "record"), " by ", count_of(length(seen$columns), "column"))
      )
    ),
    if (!is.null(seen$totals)) t$p(t$strong("This looks like ", seen$totals)),
    if (!is.null(seen$picture)) t$section(
      t$h2("Gaps"),
      t$p(class = "about",
        paste0("Each row of the picture is ",
          if (seen$picture$each <= 1) "a record" else paste(
            "about", grouped(round(seen$picture$each)), "records"
          ),
        "; the records are in the order of where their answers end. Dark is blank: a step from ",
        "the right is a break-off, a whole band a question that few were asked.")),
      htmltools::HTML(gaps_svg(seen$picture)), gaps_table(seen$picture)
    ),
    t$section(t$h2("Columns"), page_table("What each column seems to hold", list(
      "Column" = columns$column, "Kind" = unname(kind_words[columns$kind]),
      "Filled" = percent_shown(100 * columns$filled / seen$records),
      "Distinct" = grouped(columns$distinct), "Grounds" = columns$grounds
    ), c("Column" = "row", "Filled" = "number", "Distinct" = "number"))),
    t$footer("Page made by Mavik ", as.character(utils::packageVersion("mavik")), ".")
  ))
}

# Neighbouring bands of one shade are one rectangle.
gaps_svg <- function(picture, width = 1200, height = 480, head = 90) {
  questions <- ncol(picture$blank)
  step <- width / questions
  tall <- height / nrow(picture$blank)
  shade <- round(picture$blank * 4)
  rects <- unlist(lapply(seq_len(questions), function(k) {
    runs <- rle(shade[, k])
    from <- cumsum(c(0, runs$lengths))[seq_along(runs$lengths)]
    dark <- runs$values > 0
    sprintf("<rect x=\"%s\" y=\"%s\" width=\"%s\" height=\"%s\" opacity=\"%s\"/>",
      svg_number((k - 1) * step + 0.5), svg_number(head + from[dark] * tall),
      svg_number(max(step - 1, 0.5)), svg_number(runs$lengths[dark] * tall + 0.2),
      svg_number(runs$values[dark] / 4))
  }))
  every <- ceiling(questions / 60)
  named <- seq(1, questions, by = every)
  labels <- sprintf("<text transform=\"translate(%s %s) rotate(-60)\">%s</text>",
    svg_number((named - 0.5) * step + 4), head - 6,
    htmltools::htmlEscape(shorten(picture$questions[named], 16)))
  paste0("<svg class=\"picture\" viewBox=\"0 0 ", width + 40, " ", height + head,
    "\" role=\"img\" aria-label=\"Blanks by question and record; the table below has the shares\">",
    paste(labels, collapse = ""), paste(rects, collapse = ""), "</svg>")
}

svg_number <- function(x) number_to_text(round(x, 2))

gaps_table <- function(picture) {
  blank <- 100 * colMeans(picture$blank)
  page_table("Blanks by question",
    list(
      "Question" = picture$questions, "Text" = shorten(picture$texts, 90),
      "Blank" = percent_shown(blank), " " = page_bar(blank, TRUE)
    ),
    c("Question" = "row", "Blank" = "number", " " = "bar"))
}
