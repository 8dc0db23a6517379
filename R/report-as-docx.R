# The codebook as a document for word processors: headings, tables, contents with links.

format_docx <- new_format(
  help = paste0(
    "`codebook.docx`: the codebook as a document for word processors, with contents, tables of ",
    "codes and gaps, and page numbers"
  ),
  cannot = "figures; the data; texts with control characters",
  files = function(edition) "codebook.docx",
  check = function(edition) check_labels(edition, "docx", odd_in_xml),
  write = function(edition, folder) {
    document <- officer::read_docx()
    title <- edition$study$book$study$title
    document <- officer::set_doc_properties(
      document, title = title, creator = "Mavik", created = .POSIXct(0, "UTC")
    )
    document <- officer::body_set_default_section(document, officer::prop_section(
      footer_default = officer::block_list(officer::fpar(
        officer::ftext(paste0(title, "   ")), officer::run_word_field("PAGE")
      ))
    ))
    add_to_body(document, document_parts(edition))
    path <- file.path(folder, "codebook.docx")
    print(document, target = path)
    fix_document(path)
  },
  back = function(edition, folder) {
    body <- officer::docx_body_xml(officer::read_docx(file.path(folder, "codebook.docx")))
    heads <- xml2::xml_text(xml2::xml_find_all(
      body, "//w:p[w:pPr/w:pStyle/@w:val='Titre2']"
    ))
    list(
      names = sub(":.*", "", heads),
      labels = sub("^[^:]+:? ?", "", heads)
    )
  }
)

# The parts stand before the settings of the section, which end the body.
add_to_body <- function(document, parts) {
  body <- xml2::xml_find_first(officer::docx_body_xml(document), "//w:body")
  whole <- xml2::read_xml(paste0(
    "<w:body xmlns:w=\"http://schemas.openxmlformats.org/wordprocessingml/2006/main\">",
    paste(parts, collapse = ""), "</w:body>"
  ))
  first <- xml2::xml_find_all(body, "w:p")
  last <- xml2::xml_find_first(body, "w:sectPr")
  for (part in xml2::xml_children(whole)) xml2::xml_add_sibling(last, part, .where = "before")
  xml2::xml_remove(first)
}

# Without the moment of writing: the same document is the same bytes.
fix_document <- function(path) {
  folder <- tempfile("document")
  on.exit(unlink(folder, recursive = TRUE))
  utils::unzip(path, exdir = folder)
  core <- file.path(folder, "docProps", "core.xml")
  text <- paste(readLines(core, encoding = "UTF-8", warn = FALSE), collapse = "\n")
  text <- gsub("(<dcterms:(created|modified)[^>]*>)[^<]*", "\\12000-01-01T00:00:00Z", text)
  write_checked(line_bytes(text), core)
  files <- sort_c(list.files(folder, recursive = TRUE, all.files = TRUE))
  Sys.chmod(file.path(folder, files), "644")
  unlink(path)
  zip::zip(path, c("[Content_Types].xml", setdiff(files, "[Content_Types].xml")),
    root = folder, include_directories = FALSE, mode = "mirror")
  fix_zip_times(path)
}

document_parts <- function(edition) {
  book <- edition$study$book
  c(
    doc_text(book$study$title, size = 40, bold = TRUE),
    doc_text(paste0("Codebook: ", edition$release$label), size = 28, grey = TRUE),
    doc_table(doc_facts(edition), c(2000, 7000), head = FALSE),
    doc_heading("Contents", 1, "contents"), doc_contents(edition),
    doc_heading("Missing reasons", 1, "missing"),
    doc_text("A gap keeps its reason. Of several reasons the one that stands first here wins."),
    doc_missing(edition),
    doc_heading("Variables", 1, "variables"),
    unlist(lapply(edition$names, function(name) doc_variable(edition, name)))
  )
}

doc_facts <- function(edition) {
  facts <- edition$study$book$study
  said <- Filter(has_text, lapply(list(
    "Each row" = facts$row, "Records" = grouped(edition$n),
    "Variables" = grouped(length(edition$names)), "Holds" = choice_shown(edition$study),
    "Waves" = paste(vapply(edition$study$book$waves, `[[`, "", "label"), collapse = ", "),
    "Collected" = if (!is.null(facts$collected)) sub("/", " to ", facts$collected, fixed = TRUE),
    "Producer" = facts$producer, "Source" = facts$source, "Licence" = facts$licence,
    "Study id" = facts$id, "Notes" = facts$notes
  ), function(fact) if (is.null(fact)) "" else as.character(fact)))
  list(names(said), unlist(said, use.names = FALSE))
}

# A field that word processors can bring up to date, with its entries as links in it.
doc_contents <- function(edition) {
  labels <- vapply(edition$names, function(name) doc_title(edition, name), "")
  field <- function(kind) paste0("<w:r><w:fldChar w:fldCharType=\"", kind, "\"/></w:r>")
  entry <- function(text, mark, style, before = "", after = "") paste0(
    "<w:p><w:pPr><w:pStyle w:val=\"", style,
    "\"/><w:spacing w:before=\"0\" w:after=\"0\"/></w:pPr>",
    before, "<w:hyperlink w:anchor=\"", mark, "\"><w:r><w:t xml:space=\"preserve\">",
    doc_escape(text), "</w:t></w:r></w:hyperlink>", after, "</w:p>"
  )
  begin <- paste0(field("begin"), "<w:r><w:instrText xml:space=\"preserve\"> TOC \\o \"1-2\" \\h ",
    "</w:instrText></w:r>", field("separate"))
  last <- length(labels)
  c(
    entry("Missing reasons", "missing", "TM1", before = begin),
    entry("Variables", "variables", "TM1"),
    vapply(seq_along(labels), function(k) entry(
      labels[k], paste0("v_", edition$names[k]), "TM2",
      after = if (k == last) field("end") else ""
    ), "")
  )
}

doc_title <- function(edition, name) paste0(c(
  name, edition_variable(edition, name)$label
), collapse = ": ")

doc_missing <- function(edition) {
  missing <- describe_missing(edition)
  doc_table(list(
    c("Code", number_to_text(missing$code)), c("Reason", missing$label),
    c("Cells", grouped(missing$cells))
  ), c(1200, 5800, 2000), right = c(1, 3))
}

doc_variable <- function(edition, name) {
  book <- edition$study$book
  variable <- book$variables[[name]]
  counts <- count_variable(edition$study, name)
  stem <- stem_over(variable, book)
  universe <- universe_shown(variable)
  facts <- c(
    variable$level, variable$unit, if (!is.null(variable$range)) paste(
      range_shown(variable), collapse = " to "
    ), paste0("answered ", grouped(counts$answered), " of ", grouped(counts$n))
  )
  c(
    doc_heading(doc_title(edition, name), 2, paste0("v_", name)),
    if (has_text(stem)) doc_text(stem, italic = TRUE),
    if (has_text(variable$question) && text_fold(variable$question) != text_fold(paste0(
      variable$label, ""
    ))) doc_text(variable$question, italic = TRUE),
    doc_text(paste(facts, collapse = "; ")),
    if (nzchar(universe)) doc_text(paste("Asked where", universe)),
    doc_text(gsub("`", "", made_in_words(variable, book), fixed = TRUE), grey = TRUE),
    if (has_text(variable$note)) doc_text(variable$note),
    doc_statistics(counts$statistics, variable$decimals), doc_counts(counts)
  )
}

doc_statistics <- function(statistics, decimals) {
  if (is.null(statistics)) return(NULL)
  if (is.null(decimals)) decimals <- 2
  words <- c(
    n = "n", mean = "Mean", sd = "SD", min = "Smallest", q1 = "Lower quartile", median = "Median",
    q3 = "Upper quartile", max = "Largest"
  )
  shown <- ifelse(names(words) == "n", grouped(statistics[["n"]]), mapply(
    number_show, unlist(statistics[names(words)]),
    ifelse(names(words) %in% c("min", "max"), decimals, max(decimals, 2))
  ))
  doc_table(Map(c, unname(words), shown), rep(1125, 8), right = 1:8)
}

doc_counts <- function(counts) {
  codes <- counts$codes
  # Of texts with labels those that nobody has say nothing.
  if (is.character(codes$code)) codes <- codes[codes$count > 0, ]
  gaps <- counts$gaps
  if (is.null(codes) && nrow(gaps) == 0) return(NULL)
  doc_table(list(
    c("Code", as.character(codes$code), number_to_text(gaps$code)),
    c("Label", codes$label, gaps$label), c("Count", grouped(c(codes$count, gaps$count))),
    c("% of answered", ifelse(
      is.na(codes$of_answered), "", paste0(number_show(codes$of_answered, 1))
    ), rep("", nrow(gaps)))
  ), c(1200, 4600, 1500, 1700), right = c(1, 3, 4),
    grey = length(codes$code) + 1 + seq_len(nrow(gaps)))
}

doc_escape <- function(text) htmltools::htmlEscape(enc2utf8(as.character(text)))

doc_run <- function(text, size = NULL, bold = FALSE, italic = FALSE, grey = FALSE) paste0(
  "<w:r><w:rPr>", if (bold) "<w:b/>", if (italic) "<w:i/>",
  if (grey) "<w:color w:val=\"5F5868\"/>", if (!is.null(size)) paste0(
    "<w:sz w:val=\"", size, "\"/>"
  ), "</w:rPr>", paste0(
    "<w:t xml:space=\"preserve\">",
    doc_escape(strsplit(paste0(text, ""), "\r?\n|\r")[[1]]), "</w:t>",
    collapse = "<w:br/>"
  ), "</w:r>"
)

doc_text <- function(text, ...) paste0(
  "<w:p><w:pPr><w:keepNext/><w:spacing w:before=\"40\" w:after=\"60\"/></w:pPr>",
  doc_run(text, ...), "</w:p>"
)

doc_heading <- function(text, level, mark) {
  id <- sum(utf8ToInt(mark) * seq_along(utf8ToInt(mark))) + 100000 * level
  paste0(
    "<w:p><w:pPr><w:pStyle w:val=\"Titre", level,
    "\"/><w:keepNext/><w:numPr><w:numId w:val=\"0\"/></w:numPr><w:ind w:left=\"0\" ",
    "w:firstLine=\"0\"/></w:pPr><w:bookmarkStart w:id=\"",
    id, "\" w:name=\"", mark, "\"/><w:r><w:t xml:space=\"preserve\">", doc_escape(text),
    "</w:t></w:r><w:bookmarkEnd w:id=\"", id, "\"/></w:p>"
  )
}

# Columns of texts, the first of each its heading; its row comes again on each page.
doc_table <- function(columns, widths, head = TRUE, right = integer(), grey = integer()) {
  rows <- length(columns[[1]])
  cell <- function(column, row) paste0(
    "<w:tc><w:tcPr><w:tcW w:w=\"", widths[column], "\" w:type=\"dxa\"/>",
    if (head && row == 1) "<w:shd w:val=\"clear\" w:color=\"auto\" w:fill=\"E3DCEA\"/>",
    "</w:tcPr><w:p><w:pPr><w:spacing w:before=\"20\" w:after=\"20\"/>",
    if (column %in% right) "<w:jc w:val=\"right\"/>", "</w:pPr>",
    doc_run(columns[[column]][row], size = 18, bold = if (head) row == 1 else column == 1,
      grey = row %in% grey), "</w:p></w:tc>"
  )
  line <- function(side) paste0(
    "<w:", side, " w:val=\"single\" w:sz=\"4\" w:space=\"0\" w:color=\"C4B8D0\"/>"
  )
  body <- vapply(seq_len(rows), function(row) paste0(
    "<w:tr><w:trPr><w:cantSplit/>", if (head && row == 1) "<w:tblHeader/>", "</w:trPr>",
    paste(vapply(seq_along(columns), cell, "", row = row), collapse = ""), "</w:tr>"
  ), "")
  paste0(
    "<w:tbl><w:tblPr><w:tblW w:w=\"", sum(widths), "\" w:type=\"dxa\"/><w:tblBorders>",
    line("top"), line("bottom"), line("insideH"), "</w:tblBorders><w:tblLayout w:type=\"fixed\"/>",
    "</w:tblPr><w:tblGrid>", paste0("<w:gridCol w:w=\"", widths, "\"/>", collapse = ""),
    "</w:tblGrid>", paste(body, collapse = ""), "</w:tbl><w:p><w:pPr><w:spacing w:before=\"0\" ",
    "w:after=\"60\"/></w:pPr></w:p>"
  )
}
