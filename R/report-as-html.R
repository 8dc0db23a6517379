# All variables on as few pages as they take: a line each, to be printed.

format_dictionary <- new_format(
  help = "`dictionary.html`: a line a variable, on as few pages as it takes, for printing",
  cannot = "questions, counts of single codes, how values were made",
  files = function(edition) "dictionary.html",
  write = function(edition, folder) write_page(dictionary_page(edition), file.path(
    folder, "dictionary.html"
  )),
  back = function(edition, folder) list(names = names_on_page(file.path(
    folder, "dictionary.html"
  ), "//tbody/tr/th[1]"))
)

# The whole codebook as a page, of what goes out.
format_html <- new_format(
  help = "`codebook.html`: the codebook as a page, with counts and figures",
  cannot = "the data",
  files = function(edition) "codebook.html",
  write = function(edition, folder) write_page(
    codebook_page(study_for_page(edition), edition$release$label), file.path(
      folder, "codebook.html"
    )
  ),
  back = function(edition, folder) list(names = names_on_page(file.path(
    folder, "codebook.html"
  ), "//article//h3/code[@class='name']"))
)

names_on_page <- function(file, path) trimws(xml2::xml_text(xml2::xml_find_all(
  xml2::read_html(file), path
)))

# Without old-by-new tables and scales of what stays back.
study_for_page <- function(edition) {
  study <- tally_study(edition$study)
  book <- study$book
  # What is changed is no proof of anything.
  whole <- function(name) is.null(edition$release$disclosure) && all(setdiff(
    book$uses[[name]], carriers_of(book)
  ) %in% edition$names)
  out <- Filter(whole, edition$names)
  study$tallies$proofs <- study$tallies$proofs[intersect(names(study$tallies$proofs), out)]
  study$tallies$scales <- Filter(function(scale) scale$scale %in% out, study$tallies$scales)
  study
}

dictionary_page <- function(edition) {
  t <- htmltools::tags
  book <- edition$study$book
  variables <- describe_variables(edition)
  main <- list(
    t$header(
      t$h1(book$study$title),
      t$p(class = "lead", paste0(
        edition$release$label, ": ", count_of(edition$n, "record"), ", ",
        count_of(length(edition$names), "variable")
      ))
    ),
    t$div(class = "dictionary", page_table("Variables in their order", list(
      "Variable" = variables$variable, "Label" = variables$label, "Level" = variables$level,
      "Codes, or range" = vapply(edition$names, codes_in_a_line, "", edition = edition),
      "Answered" = grouped(variables$answered), "Gaps" = grouped(variables$gaps)
    ), c("Variable" = "row", "Answered" = "number", "Gaps" = "number"))),
    t$footer(
      "Codes of gaps: ", gap_codes_in_a_line(edition), ". Made by Mavik ",
      as.character(utils::packageVersion("mavik")), "."
    )
  )
  page_html(paste0(book$study$title, ": dictionary"), NULL, main, book$language)
}

codes_in_a_line <- function(name, edition) {
  variable <- edition_variable(edition, name)
  if (!is.null(variable$texts)) {
    had <- variable$texts$value %in% edition_values(edition, name)$value
    return(paste(variable$texts$label[had], collapse = "; "))
  }
  if (is_coded(variable)) return(paste(
    number_to_text(variable$codes$code), variable$codes$label, collapse = "; "
  ))
  paste(c(span_in_words(variable), variable$unit), collapse = ", ")
}

span_in_words <- function(variable) {
  if (is.null(variable$range) || !any(is.finite(variable$range))) return(NULL)
  low <- bound_text(variable, 1)
  high <- bound_text(variable, 2)
  if (!nzchar(low)) paste("up to", high) else if (!nzchar(high)) paste("from", low) else
    paste(low, "to", high)
}

gap_codes_in_a_line <- function(edition) {
  missing <- describe_missing(edition)
  paste(number_to_text(missing$code), missing$label, collapse = "; ")
}
