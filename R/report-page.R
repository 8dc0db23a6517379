# The shell that pages share: one file, nothing fetched, texts escaped.

page_html <- function(title, finder, main, language = "en") {
  t <- htmltools::tags
  page <- t$html(
    lang = language,
    t$head(
      t$meta(charset = "utf-8"), t$meta(name = "viewport", content = "width=device-width, initial-scale=1"),
      t$title(title), t$style(htmltools::HTML(page_file("page.css")))
    ),
    t$body(
      t$a(class = "skip", href = "#main", "Skip to the content"),
      t$div(class = "layout", finder, t$main(id = "main", tabindex = "-1", main)),
      t$script(htmltools::HTML(page_file("finder.js")))
    )
  )
  paste0("<!DOCTYPE html>\n", as.character(page), "\n")
}

page_file <- function(name) {
  paste(readLines(system.file("page", name, package = "mavik"), encoding = "UTF-8"), collapse = "\n")
}

write_page <- function(html, path) {
  connection <- file(path, "wb")
  on.exit(close(connection))
  writeBin(charToRaw(enc2utf8(html)), connection)
}

page_facts <- function(facts) {
  t <- htmltools::tags
  facts <- Filter(function(fact) length(fact) > 0, facts)
  t$dl(class = "facts", lapply(names(facts), function(name) list(t$dt(name), t$dd(facts[[name]]))))
}

# `rows` are tags; headings whose text is in `numbers` sit over numbers.
page_table <- function(caption, headings, rows, numbers = character()) {
  t <- htmltools::tags
  t$div(class = "wide", t$table(
    t$caption(caption),
    t$thead(t$tr(lapply(headings, function(one) t$th(scope = "col", class = if (one %in% numbers) "number", one)))),
    t$tbody(rows)
  ))
}

# A bar of `percent`; gaps are drawn open, so that print without colour tells them apart.
page_bar <- function(percent, gap = FALSE) {
  width <- if (is.na(percent)) 0 else round_half(min(percent, 100), 2)
  htmltools::HTML(paste0(
    "<svg viewBox=\"0 0 100 8\" preserveAspectRatio=\"none\" aria-hidden=\"true\" focusable=\"false\">",
    if (gap) paste0("<rect x=\"0.4\" y=\"1\" width=\"", number_to_text(max(width - 0.8, 0)), "\" height=\"6\" fill=\"none\" stroke=\"#9a4a22\" stroke-width=\"0.8\"/>")
    else paste0("<rect x=\"0\" y=\"0\" width=\"", number_to_text(width), "\" height=\"8\" fill=\"#2c6e63\"/>"),
    "</svg>"
  ))
}
