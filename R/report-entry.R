#' Write the questionnaire to print
#'
#' A page for A4 paper: the questions in the order of the codebook, boxes with their codes, lines
#' for numbers and words, and whom to skip which question, in words made from the universes.
#'
#' @param codebook A codebook, or what [read_codebook()] takes.
#' @param file Where to write, `.html`.
#' @param of,without,export,wave As in [entry_sheet()].
#' @param forms How many copies, numbered from 1; one without a number if not said.
#' @param replace Whether a file of another make that stands there may be replaced.
#' @return `file`, invisibly.
#' @section Errors: Those of [entry_sheet()].
#' @examples
#' page <- print_form(
#'   demo_project(tempfile()), tempfile(fileext = ".html"), of = c("member", "belong")
#' )
#' file.exists(page)
#' @export
print_form <- function(
  codebook, file, of = NULL, forms = NULL, export = NULL, wave = NULL, without = NULL,
  replace = FALSE
) {
  keep_own_options()
  if (!is_text(file) || !grepl("[.]html?$", file, ignore.case = TRUE)) stop_mavik(
    "write_error", file, ": a questionnaire is written as .html"
  )
  if (!is.null(forms) && (!is.numeric(forms) || forms < 1 || forms > 500)) stop_mavik(
    "usage_error", "`forms` must be from 1 to 500"
  )
  target <- entry_export(codebook, of, export, wave, NULL, without)
  check_may_write(file, raw_places(target$book), replace)
  groups <- form_groups(fields_to_type(target))
  form <- form_html(groups, target)
  numbers <- if (is.null(forms)) "" else number_to_text(seq_len(forms))
  pages <- vapply(numbers, function(number) gsub("{form}", number, form, fixed = TRUE), "")
  write_page(form_page(target$book, paste(pages, collapse = "\n")), file)
  invisible(file)
}

form_page <- function(book, body) {
  t <- htmltools::tags
  page <- t$html(
    lang = "en",
    t$head(
      t$meta(charset = "utf-8"),
      t$meta(name = "viewport", content = "width=device-width, initial-scale=1"),
      t$title(paste0(book$study$title, ": questionnaire")),
      t$style(htmltools::HTML(page_file("form.css")))
    ),
    t$body(htmltools::HTML(body), htmltools::HTML("<!-- Made by Mavik -->"))
  )
  paste0("<!DOCTYPE html>\n", htmltools::doRenderTags(page), "\n")
}

# Questions as they stand on paper: a block, the boxes of one question, or a question alone.
form_groups <- function(fields) {
  unit <- vapply(fields, function(field) {
    if (is.null(field$block)) field$variable else field$block
  }, "")
  groups <- unname(split(fields, cumsum(c(TRUE, unit[-1] != unit[-length(unit)]))))
  Map(function(fields, number) list(
    fields = fields, number = number, universe = fields[[1]]$universe,
    stem = form_stem(fields)
  ), groups, seq_along(groups))
}

# What the questions of a group share, asked once.
form_stem <- function(fields) {
  if (length(fields) == 1) return(fields[[1]]$question)
  stems <- unique(vapply(fields, function(field) stem_of(field$question)[1], ""))
  if (length(stems) == 1 && nzchar(stems)) return(stems)
  bases <- unique(vapply(fields, function(field) sub(" - [^-]*$", "", field$question), ""))
  if (length(bases) == 1) bases else ""
}

form_html <- function(groups, target) {
  t <- htmltools::tags
  book <- target$book
  naming <- naming_of(groups, book)
  wave <- if (length(book$waves) > 1) book$waves[[target$export$wave]]$label
  key <- if (!is_numbered(target$export)) Filter(is_key, book$variables)[1][[1]]$label
  runs <- runs_of_gates(groups)
  htmltools::doRenderTags(t$section(
    class = "form",
    t$header(
      t$div(t$h1(book$study$title), if (!is.null(wave)) t$p(wave)),
      t$div(
        class = "numbers",
        t$p("Form", t$span(class = "blank", "{form}")),
        if (!is.null(key)) t$p(key, t$span(class = "blank", ""))
      )
    ),
    lapply(runs, function(run) list(
      gate_html(run, groups, naming, book),
      lapply(groups[run], group_html)
    )),
    t$footer("Thank you.")
  ))
}

# How a condition calls what is asked on the paper.
naming_of <- function(groups, book) {
  number <- unlist(lapply(groups, function(group) with_names(
    rep(group$number, length(group$fields)), vapply(group$fields, `[[`, "", "variable")
  )))
  item <- unlist(lapply(groups, function(group) vapply(group$fields, function(field) {
    if (length(group$fields) > 1 && field$kind != "tick") item_words(field, group) else ""
  }, "")))
  function(name) {
    box <- box_option(name, book)
    place <- match(if (is.null(box)) name else box$of, names(number))
    if (is.na(place)) return(NULL)
    paste0("question ", number[[place]], if (is.null(box) && nzchar(item[place])) paste0(
      " (", item[place], ")"
    ))
  }
}

# Neighbouring questions that are asked of the same people.
runs_of_gates <- function(groups) {
  text <- vapply(groups, function(group) paste0(group$universe$text, ""), "")
  unname(split(seq_along(groups), cumsum(c(TRUE, text[-1] != text[-length(text)]))))
}

gate_html <- function(run, groups, naming, book) {
  universe <- groups[[run[1]]]$universe
  if (is.null(universe)) return(NULL)
  words <- condition_to_people(universe$tree, naming, book)
  if (is.null(words)) words <- text_squeeze(universe$text)
  last <- groups[[rev(run)[1]]]$number
  which <- if (length(run) == 1) paste("Question", last) else paste0(
    "Questions ", groups[[run[1]]]$number, " to ", last
  )
  on <- if (last < length(groups)) paste("go on to question", last + 1) else
    "you have reached the end"
  htmltools::tags$p(class = "asked", paste0(
    which, ": only if ", words, ". Otherwise ", on, "."
  ))
}

group_html <- function(group) {
  t <- htmltools::tags
  first <- group$fields[[1]]
  kinds <- unique(vapply(group$fields, `[[`, "", "kind"))
  codes <- unique(lapply(group$fields, `[[`, "codes"))
  body <- if (length(group$fields) == 1) field_html(first)
    else if (identical(kinds, "choice") && length(codes) == 1) matrix_html(group)
    else if (all(kinds %in% c("tick", "words"))) ticks_html(group)
    else lapply(group$fields, function(field) t$div(
      class = "item", t$span(class = "words", item_words(field, group)), field_html(field)
    ))
  t$article(
    t$p(class = "question", t$b(paste0(group$number, ".")), if (nzchar(group$stem)) group$stem),
    body
  )
}

# A field's own words under the question that its group shares.
item_words <- function(field, group) {
  if (!nzchar(group$stem)) return(field$question)
  own <- substring(field$question, nchar(group$stem) + 1)
  sub("^ - ", "", own)
}

field_html <- function(field) {
  t <- htmltools::tags
  switch(field$kind,
    choice = boxes_html(field$codes, field$gaps, across = is_bare(field$codes)),
    tick = boxes_html(list(code = "", label = field$item), NULL),
    number = t$div(class = "boxes", t$span(class = "line short"), t$small(hint_of(field)),
      gaps_html(field$gaps)),
    date = t$div(class = "boxes", t$span(class = "line short"), t$small(
      if (field$level == "datetime") "year-month-day, hour:minute" else "year-month-day"
    ), gaps_html(field$gaps)),
    t$div(class = "lines", t$span(class = "line"), if (!identical(field$level, "identifier"))
      t$span(class = "line"))
  )
}

# The unit, and the bounds where they say something.
hint_of <- function(field) {
  span <- if (!identical(as.numeric(field$range), c(0, Inf))) trimws(sub(
    "^,", "", entry_span(field)
  ))
  paste(c(field$unit, span), collapse = " ")
}

is_bare <- function(codes) any(codes$label == number_to_text(codes$code))

boxes_html <- function(codes, gaps, across = FALSE) {
  t <- htmltools::tags
  box <- function(code, label) {
    code <- number_or_text(code)
    t$span(class = "box", t$i(), if (nzchar(code)) t$small(code), if (label != code) label)
  }
  t$div(
    class = if (across || sum(nchar(codes$label)) < 60) "boxes" else "boxes down",
    Map(box, as.list(codes$code), codes$label), gaps_html(gaps)
  )
}

gaps_html <- function(gaps) {
  t <- htmltools::tags
  lapply(seq_along(gaps$code), function(k) t$span(
    class = "box gap", t$i(), t$small(number_to_text(gaps$code[k])), gaps$label[k]
  ))
}

matrix_html <- function(group) {
  t <- htmltools::tags
  codes <- group$fields[[1]]$codes
  gaps <- group$fields[[1]]$gaps
  heads <- c(codes$label, gaps$label)
  numbers <- number_to_text(c(codes$code, gaps$code))
  t$table(
    t$thead(t$tr(t$th(), lapply(heads, t$th))),
    t$tbody(lapply(group$fields, function(field) t$tr(
      t$th(item_words(field, group)), lapply(numbers, function(number) t$td(t$i(), t$small(number)))
    )))
  )
}

# Boxes to tick, one for each option, question by question.
ticks_html <- function(group) {
  t <- htmltools::tags
  owner <- vapply(group$fields, `[[`, "", "variable")
  lapply(split(group$fields, factor(owner, unique(owner))), function(fields) {
    own <- if (length(unique(owner)) > 1) sub(
      paste0(" - ", fields[[1]]$item), "", item_words(fields[[1]], group), fixed = TRUE
    )
    t$div(
      class = "item", if (!is.null(own)) t$span(class = "words", own),
      t$div(
        class = "boxes down", lapply(fields, function(field) if (field$kind == "tick") t$span(
          class = "box", t$i(), field$item
        ) else t$span(class = "box", field$item, t$span(class = "line")))
      )
    )
  })
}
