# The page that documents the analysis file, made from the codebook and the
# counts of the same study.

output_codebook <- list(
  file = "codebook.html",
  for_readers = TRUE,
  help = "every variable, documented",
  write = function(study, path) write_page(codebook_page(tally_study(study)), path)
)

# `release` is the label of what goes out, where that is not the analysis file itself: then nothing
# is said of what stays back.
codebook_page <- function(study, release = NULL) {
  t <- htmltools::tags
  book <- study$book
  names <- kept_variables(book)
  articles <- variable_articles(study, names)
  main <- list(
    t$header(
      t$h1(book$study$title),
      t$p(class = "lead", if (is.null(release)) "Codebook of the analysis file" else paste0(
        "Codebook: ", release
      ))
    ),
    study_section(study, names, is.null(release)),
    t$section(t$h2("Missing reasons"), reasons_section(study, names, is.null(release))),
    t$section(
      t$h2("Variables"),
      lapply(runs_of_blocks(book, names), function(run) block_section(study, run, articles))
    ),
    if (is.null(release)) unpublished_section(book, names),
    t$footer(
      "Made by Mavik ", as.character(utils::packageVersion("mavik")),
      " from the codebook", if (is.null(release)) " and the raw files named above", "."
    )
  )
  page_html(
    paste0(book$study$title, ": codebook"), finder_section(book, names), main, book$language
  )
}

study_section <- function(study, names, with_files) {
  t <- htmltools::tags
  facts <- study$book$study
  t$section(
    `aria-label` = "The study",
    page_facts(list(
      "Each row" = facts$row, "Chosen" = choice_shown(study), "Rows" = grouped(n_retained(study)),
      "Variables" = length(names),
      "Waves" = paste(vapply(study$book$waves, `[[`, "", "label"), collapse = ", "),
      "Collected" = period_shown(facts$collected), "Producer" = facts$producer,
      "Source" = facts$source,
      "Weight" = facts$weight, "Licence" = facts$licence, "Study id" = facts$id,
      "Notes" = facts$notes
    )),
    if (with_files) page_table("Raw files", list(
      "Export" = vapply(study$inputs, `[[`, "", "export"),
      "File" = vapply(
        study$inputs, function(input) if (is.null(input$file)) "a data frame" else input$file, ""
      ),
      "Records" = grouped(vapply(study$inputs, `[[`, 0L, "records")), "Columns" = grouped(vapply(
        study$inputs, `[[`, 0L, "columns"
      )),
      "BLAKE2b" = vapply(
        study$inputs, function(input) if (is.null(input$blake2b)) "" else input$blake2b, ""
      )
    ), c(
      "Export" = "row", "File" = "code", "Records" = "number", "Columns" = "number",
      "BLAKE2b" = "digest"
    ))
  )
}

period_shown <- function(period) if (!is.null(period)) paste(
  strsplit(period, "/", fixed = TRUE)[[1]], collapse = " to "
)

reasons_section <- function(study, names, as_built) {
  t <- htmltools::tags
  reasons <- study$book$reasons
  counts <- count_reasons(study, names)
  list(
    t$p(class = "about",
      paste0(
        "A gap keeps its reason. Where a derived value lacks several inputs it takes the reason ",
        "that stands first here. "
      ),
      if (as_built) list(
        t$code("analysis.csv"), " leaves gaps empty; ", t$code("gaps.csv"), " holds these codes."
      )),
    page_table("Codes and how many cells have them", list(
      "Code" = reasons$code, "Reason" = reasons$label, "Cells" = grouped(counts$cells),
      "Variables" = counts$variables
    ), c("Code" = "number", "Reason" = "row", "Cells" = "number", "Variables" = "number"))
  )
}

# Neighbours of one block stand together under its stem.
runs_of_blocks <- function(book, names) {
  blocks <- vapply(
    book$variables[names], function(variable) if (is.null(variable$block)) "" else variable$block,
    ""
  )
  change <- blocks == "" | c(TRUE, blocks[-1] != blocks[-length(blocks)])[seq_along(blocks)]
  unname(split(names, cumsum(change)))
}

block_section <- function(study, run, articles) {
  t <- htmltools::tags
  first <- study$book$variables[[run[1]]]
  if (is.null(first$block)) return(unname(articles[run]))
  t$div(class = "block",
    t$p(
      class = "about", t$strong("Block"), t$code(first$block, .noWS = "after"),
      if (!is.null(first$stem)) paste0(": ", first$stem)
    ),
    if (!is.null(first$asked)) t$p(class = "question", first$asked), unname(articles[run]))
}

unpublished_section <- function(book, names) {
  t <- htmltools::tags
  others <- Filter(
    function(variable) !isTRUE(variable$carrier),
    book$variables[setdiff(names(book$variables), names)]
  )
  if (length(others) == 0) return(NULL)
  t$section(
    t$h2("Used in the build, not in the analysis file"),
    t$ul(lapply(others, function(variable) {
      t$li(
        t$code(variable$name), if (!is.null(variable$label)) paste0(" ", variable$label),
        if (isTRUE(variable$private)) " (private)"
      )
    }))
  )
}

finder_section <- function(book, names) {
  t <- htmltools::tags
  t$nav(
    class = "finder", `aria-label` = "Variables",
    t$label(`for` = "find", "Find a variable"),
    t$input(
      id = "find", type = "search", autocomplete = "off", `aria-controls` = "found",
      `aria-describedby` = "told"
    ),
    t$p(id = "told", class = "told", role = "status", paste(length(names), "variables")),
    t$ul(id = "found", finder_lines(book$variables[names]))
  )
}

# As tags are set in, but without a tag for each.
finder_lines <- function(variables) {
  if (length(variables) == 0) return(NULL)
  more <- vapply(variables, function(variable) paste(
    c(variable$question, variable$codes$label), collapse = " "
  ), "")
  label <- vapply(variables, function(variable) paste0(variable$label, ""), "")
  htmltools::HTML(paste0("\n", paste0(
    "          <li data-more=\"", htmltools::htmlEscape(more, TRUE), "\">\n",
    "            <a href=\"#v-", names(variables), "\">\n",
    "              <code>", names(variables), "</code>\n",
    "              <span>", htmltools::htmlEscape(label), "</span>\n",
    "            </a>\n          </li>\n", collapse = ""
  ), "        "))
}
