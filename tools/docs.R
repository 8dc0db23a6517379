# Renders the guides (vignettes/) as plain HTML with the look of Mavik's pages: docs/guides/, and
# docs/index.html. Run from the package's folder, with the package installed: Rscript tools/docs.R

options(cli.num_colors = 1L)
guides <- c("first-codebook", "checking", "scales", "second-wave", "tables", "handing-on")
place <- normalizePath("docs/guides", mustWork = FALSE)
dir.create(place, recursive = TRUE, showWarnings = FALSE)
core <- asNamespace("mavik")
# The guides take the styles of Mavik's own pages.
write_guide <- function(title, main, file, styles) {
  html <- core$page_html(title, NULL, main)
  html <- sub("(?s)<style>.*?</style>", paste0("<link rel=\"stylesheet\" href=\"", styles, "\">"), html, perl = TRUE)
  core$write_page(html, file)
}
title_of <- function(lines) sub("^title: \"(.*)\"$", "\\1", grep("^title: ", lines, value = TRUE)[1])
titles <- character()
for (guide in guides) {
  lines <- readLines(file.path("vignettes", paste0(guide, ".Rmd")), encoding = "UTF-8")
  titles[guide] <- title_of(lines)
  body <- lines[-seq_len(which(lines == "---")[2])]
  work <- tempfile("guide")
  dir.create(work)
  old <- setwd(work)
  knitr::opts_chunk$set(error = FALSE, warning = FALSE, message = FALSE)
  set.seed(1)
  text <- knitr::knit(text = paste(body, collapse = "\n"), quiet = TRUE)
  # Each guide's folder is made anew: its name says nothing.
  text <- gsub("/tmp/Rtmp[A-Za-z0-9]+/", "", text)
  text <- gsub("(choirs|secret)[0-9a-f]{8,}", "\\1", text)
  html <- markdown::mark(text = text, format = "html", template = FALSE)
  setwd(old)
  for (figure in list.files(file.path(work, "figure"), "[.]svg$")) {
    svg <- paste(readLines(file.path(work, "figure", figure), encoding = "UTF-8"), collapse = "\n")
    svg <- sub("^<\\?xml[^>]*>\\s*", "", svg)
    html <- gsub(paste0("<img[^>]*", figure, "[^>]*>"), paste0("<div class=\"wide\">", gsub("\\", "\\\\", svg, fixed = TRUE), "</div>"), html)
  }
  main <- htmltools::tagList(
    htmltools::tags$p(class = "about", htmltools::a(href = "../index.html", "All guides")),
    htmltools::h1(titles[[guide]]), htmltools::HTML(html),
    htmltools::tags$footer("Made by Mavik ", as.character(utils::packageVersion("mavik")), " on its demo.")
  )
  write_guide(titles[[guide]], main, file.path(place, paste0(guide, ".html")), "../../inst/page/page.css")
}
# Pages that are kept as plain text too; between them they link as HTML.
pages <- c(handbook = "Mavik: the handbook", "large-studies" = "Mavik: large studies")
for (page in names(pages)) {
  text <- readLines(file.path("docs", paste0(page, ".md")), encoding = "UTF-8")
  text <- gsub(paste0("\\]\\((", paste(names(pages), collapse = "|"), ")[.]md\\)"), "](\\1.html)", text)
  write_guide(pages[[page]], htmltools::tagList(
    htmltools::tags$p(class = "about", htmltools::a(href = "index.html", "Guides and reference")),
    htmltools::h1(sub("^# ", "", text[1])),
    htmltools::HTML(gsub("<img ", "<img style=\"max-width:100%\" ", markdown::mark(text = text[-1], format = "html", template = FALSE, options = "-embed_resources")))
  ), file.path("docs", paste0(page, ".html")), "../inst/page/page.css")
}
links <- htmltools::tags$ul(lapply(guides, function(guide) htmltools::tags$li(
  htmltools::a(href = paste0("guides/", guide, ".html"), titles[[guide]])
)))
write_guide("Mavik: guides", htmltools::tagList(
  htmltools::h1("Mavik"),
  htmltools::p(class = "lead", "Raw questionnaire exports become a documented analysis file, and every cell can say why it is as it is."),
  htmltools::h2("Guides"), links,
  htmltools::h2("Reference"), htmltools::tags$ul(
    htmltools::tags$li(htmltools::a(href = "handbook.html", "The handbook: every part of Mavik")),
    htmltools::tags$li(htmltools::a(href = "large-studies.html", "Large studies: parts, workers, clusters")),
    htmltools::tags$li(htmltools::a(href = "reference.html", "The codebook's language, key by key")),
    htmltools::tags$li("Help pages of the R functions: ", htmltools::code("help(package = \"mavik\")")),
    htmltools::tags$li("The manual of the command: ", htmltools::code("mavik completions man | man -l -"))
  ),
  htmltools::tags$footer("Made by Mavik ", as.character(utils::packageVersion("mavik")), ".")
), "docs/index.html", "../inst/page/page.css")
