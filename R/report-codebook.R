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
      lapply(runs_of_blocks(book, names), function(run) block_section(study, run))
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

block_section <- function(study, run) {
  t <- htmltools::tags
  first <- study$book$variables[[run[1]]]
  articles <- lapply(run, function(name) variable_article(study, name))
  if (is.null(first$block)) return(articles)
  t$div(class = "block",
    t$p(
      class = "about", t$strong("Block"), t$code(first$block, .noWS = "after"),
      if (!is.null(first$stem)) paste0(": ", first$stem)
    ),
    if (!is.null(first$asked)) t$p(class = "question", first$asked), articles)
}

# Written as text: a study has hundreds of these.
variable_article <- function(study, name) {
  variable <- study$book$variables[[name]]
  counts <- study$tallies$counts[[name]]
  scales <- if (is_score(variable)) scales_of(study, name)
  htmltools::HTML(paste0(
    "<article id=\"v-", name, "\" aria-labelledby=\"h-", name, "\">\n<h3 id=\"h-", name,
    "\"><code class=\"name\">", name, "</code> ",
    htmltools::htmlEscape(paste0(variable$label, "")), "</h3>\n",
    if (
      !is.null(variable$question) &&
      text_fold(variable$question) != text_fold(paste0(variable$label, ""))
    ) paste0("<p class=\"question\">", htmltools::htmlEscape(variable$question), "</p>\n"),
    page_about(c(
      made_in_words(variable, study$book), unlist(reading_in_words(variable, study$book))
    )),
    if (!is.null(variable$note)) page_about(variable$note, code = FALSE),
    page_facts(article_facts(variable, counts)),
    if (!is.null(counts$statistics)) statistics_table(counts$statistics, variable),
    if (!is.null(counts$bins)) draw_histogram(
      counts$bins$breaks, counts$bins$counts, paste("Distribution of", name), height = 120
    ),
    if (!is.null(counts$codes) || nrow(counts$gaps) > 0) counts_table(counts),
    paste(unlist(proof_tables(study$tallies$proofs[[name]])), collapse = "\n"),
    paste(unlist(lapply(scales, scale_tables)), collapse = "\n"), "</article>\n"
  ))
}

article_facts <- function(variable, counts) list(
  "Level" = variable$level, "Unit" = variable$unit,
  "Range" = if (!is.null(variable$range)) paste(range_shown(variable), collapse = " to "),
  "Answered" = paste0(
    grouped(counts$answered), " of ", grouped(counts$n), " (",
    percent_shown(100 * counts$answered / counts$n), ")"
  ),
  "Distinct" = counts$distinct, "Earliest" = counts$span[1], "Latest" = counts$span[2]
)

# Over all waves.
scales_of <- function(study, name) Filter(
  function(scale) scale$scale == name && !nzchar(scale$wave), study$tallies$scales
)

statistics_table <- function(statistics, variable) {
  decimals <- if (is.null(variable$decimals)) 2 else variable$decimals
  words <- c(
    n = "n", mean = "Mean", sd = "SD", min = "Smallest", q1 = "Lower quartile",
    median = "Median", q3 = "Upper quartile", max = "Largest"
  )
  places <- ifelse(names(words) %in% c("min", "max"), decimals, max(decimals, 2))
  shown <- as.list(number_show(unlist(statistics[names(words)]), places))
  shown$n <- grouped(statistics[["n"]])
  names(shown) <- words
  page_table(
    "Statistics of the answered", shown,
    structure(rep("number", length(shown)), names = names(shown))
  )
}

counts_table <- function(counts) {
  coded <- !is.null(counts$codes)
  codes <- counts$codes
  if (!coded) codes <- new_frame(
    code = "", label = "Answered", count = counts$answered,
    of_all = share(counts$answered, counts$n), of_answered = NA_real_
  )
  gaps <- counts$gaps
  percent <- c(codes$of_all, gaps$of_all)
  gap <- rep(c(FALSE, TRUE), c(nrow(codes), nrow(gaps)))
  columns <- list(
    "Code" = c(if (coded) number_or_text(codes$code) else "", number_to_text(gaps$code), ""),
    "Label" = c(codes$label, gaps$label, "All rows"),
    "Count" = grouped(c(codes$count, gaps$count, counts$n)),
    "% of all" = c(percent_shown(percent), ""), "% of answered" = c(
      percent_shown(codes$of_answered), rep("", nrow(gaps) + 1)
    ),
    " " = c(page_bar(percent, gap), "")
  )
  page_table("Answers and gaps", columns[coded | names(columns) != "% of answered"],
    c(
      "Code" = "number", "Label" = "row", "Count" = "number", "% of all" = "number",
      "% of answered" = "number", " " = "bar"
    ),
    class = c(ifelse(gap & !duplicated(gap), "gap first-gap", ifelse(gap, "gap", "")), "total"))
}

number_or_text <- function(code) if (is.numeric(code)) number_to_text(code) else code

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
