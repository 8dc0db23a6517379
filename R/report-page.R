# The shell that pages share: one file, nothing fetched, texts escaped. A page
# without a finder stands alone.

page_html <- function(title, finder, main, language = NULL) {
  t <- htmltools::tags
  if (is.null(language)) language <- "en"
  page <- t$html(
    lang = language, dir = if (is_right_to_left(language)) "rtl",
    t$head(
      t$meta(charset = "utf-8"), t$meta(
        name = "viewport", content = "width=device-width, initial-scale=1"
      ),
      t$title(title), t$style(htmltools::HTML(page_file("page.css")))
    ),
    t$body(
      t$a(class = "skip", href = "#main", "Skip to the content"),
      t$div(
        class = if (is.null(finder)) "alone" else "layout", finder,
        t$main(id = "main", tabindex = "-1", main)
      ),
      if (!is.null(finder)) t$script(htmltools::HTML(page_file("finder.js")))
    )
  )
  paste0("<!DOCTYPE html>\n", htmltools::doRenderTags(page), "\n")
}

page_file <- function(name) {
  paste(
    readLines(system.file("page", name, package = "mavik"), encoding = "UTF-8"), collapse = "\n"
  )
}

write_page <- function(html, path) write_checked(charToRaw(enc2utf8(without_controls(html))), path)

# A character that steers a terminal or turns a line round is shown, never passed on.
without_controls <- function(html) visible_controls(html, keep = "\n\t\r")

page_facts <- function(facts) htmltools::HTML(facts_lists(list(facts)))

# Of several things at once; a fact that is not there is left out.
facts_lists <- function(all) {
  all <- lapply(all, function(facts) facts[vapply(facts, function(fact) {
    length(fact) > 0 && !is.na(fact)
  }, TRUE)])
  lines <- paste0(
    "<div><dt>", htmltools::htmlEscape(unlist(lapply(all, names))), "</dt><dd>",
    htmltools::htmlEscape(vapply(unlist(unname(all), recursive = FALSE), as.character, "")),
    "</dd></div>", recycle0 = TRUE
  )
  paste0("<dl class=\"facts\">", join_by(lines, lengths(all)), "</dl>\n", recycle0 = TRUE)
}

# What is said about what it stands under: with code one paragraph, else one for each line.
page_about <- function(lines, code = TRUE) {
  if (code) return(about_each(list(lines)))
  paste0("<p class=\"about\">", htmltools::htmlEscape(lines), "</p>\n", collapse = "",
    recycle0 = TRUE)
}

# Of several things at once.
about_each <- function(all) {
  said <- lengths(all) > 0
  text <- join_by(with_code(as.character(unlist(all))), lengths(all), " ")
  ifelse(said, paste0("<p class=\"about\">", text, "</p>\n"), "")
}

# A table from columns of equal length, named by their headings. `as` says what each is:
# "text" (the default, with code between backticks), "row" (the row's heading), "number",
# "bar", "code" or "digest"; `class` marks rows. Bars come ready, all else is escaped.
page_table <- function(caption, columns, as = character(), class = "") htmltools::HTML(
  page_tables(caption, columns, as, class)
)

# Several of the same columns, one's rows behind the other's, so many each.
page_tables <- function(caption, columns, as = character(), class = "", sizes = NULL) {
  kind <- ifelse(is.na(as[names(columns)]), "text", as[names(columns)])
  open <- c(text = "<td>", row = "<th scope=\"row\">", number = "<td class=\"number\">",
    bar = "<td class=\"bar\">",
    code = "<td><code>", digest = "<td class=\"digest\"><code>")
  close <- c(
    text = "</td>", row = "</th>", number = "</td>", bar = "</td>", code = "</code></td>",
    digest = "</code></td>"
  )
  cells <- Map(function(column, kind) {
    text <- if (kind == "bar") column else
      htmltools::htmlEscape(if (is.numeric(column)) number_to_text(column) else column)
    if (kind == "text") text <- stringi::stri_replace_all_regex(
      text, "`([^`]+)`", "<code>$1</code>"
    )
    paste0(open[[kind]], text, close[[kind]])
  }, columns, kind)
  heads <- paste0(
    "<th scope=\"col\"", ifelse(kind == "number", " class=\"number\"", ""), ">",
    htmltools::htmlEscape(names(columns)), "</th>"
  )
  rows <- paste0(
    "<tr", ifelse(nzchar(class), paste0(" class=\"", class, "\""), ""), ">",
    do.call(paste0, unname(cells)), "</tr>"
  )
  paste0(
    "<div class=\"wide\"><table><caption>", htmltools::htmlEscape(caption), "</caption><thead><tr>",
    paste(heads, collapse = ""),
    "</tr></thead><tbody>\n", join_by(rows, if (is.null(sizes)) length(rows) else sizes, "\n"),
    "\n</tbody></table></div>", recycle0 = TRUE
  )
}

page_caption <- function(text) htmltools::tags$p(class = "about", text)

# A sentence with what stands between backticks as code.
page_words <- function(text) htmltools::HTML(with_code(text))

with_code <- function(text) stringi::stri_replace_all_regex(
  htmltools::htmlEscape(text), "`([^`]+)`", "<code>$1</code>"
)

# Bars of `percent`; gaps are drawn open, so that print without colour tells them apart.
page_bar <- function(percent, gap = FALSE) {
  gap <- rep_len(gap, length(percent))
  width <- round_half(pmin(ifelse(is.na(percent), 0, percent), 100), 2)
  paste0(
    "<svg viewBox=\"0 0 100 8\" preserveAspectRatio=\"none\" aria-hidden=\"true\" ",
    "focusable=\"false\"><rect",
    ifelse(gap,
      paste0(
        " x=\"0.4\" y=\"1\" width=\"", number_to_text(round_half(pmax(width - 0.8, 0), 2)),
        "\" height=\"6\" class=\"open\"/>"
      ),
      paste0(" x=\"0\" y=\"0\" width=\"", number_to_text(width), "\" height=\"8\" class=\"full\"/>")
    ), "</svg>"
  )
}
