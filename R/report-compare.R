# Two builds side by side, as a page.

comparison_page <- function(compared, sides) {
  t <- htmltools::tags
  page_html(paste0(compared$title, ": two builds compared"), NULL, list(
    t$header(
      t$h1(compared$title),
      t$p(class = "lead", "Two builds compared: ", t$code(sides[1]), " and ", t$code(sides[2]))
    ),
    if (compared$same) t$p(
      class = "about", "The two are the same: respondents, cells, codebook, raw files and sheets."
    ),
    t$section(
      t$h2("What can have caused it"), causes_html(compared$sources, compared$codebook)
    ),
    t$section(t$h2("Respondents"), respondents_html(compared$respondents)),
    t$section(t$h2("Cells"), changed_cells_html(compared$cells)),
    if (nrow(compared$moved) > 0) t$section(
      t$h2("Statistics that changed"), changed_statistics_html(compared$moved)
    ),
    t$footer("Made by Mavik ", as.character(utils::packageVersion("mavik")), ".")
  ))
}

causes_html <- function(sources, entries) {
  if (nrow(sources) + nrow(entries) == 0) return(htmltools::tags$p(
    class = "about", "Raw files, sheets, codebook and version are the same."
  ))
  list(
    if (nrow(sources) > 0) page_table(
      "Files and version that differ",
      list(
        "What" = sources$what, "File" = ifelse(nzchar(sources$file), sources$file, sources$name),
        "Change" = sources$change
      ),
      c("What" = "row")
    ),
    if (nrow(entries) > 0) page_table(
      "Entries of the codebook that differ",
      list(
        "Entry" = entries$path, "Change" = entries$change, "Was" = entries$was,
        "Now" = entries$now
      ),
      c("Entry" = "row", "Was" = "code", "Now" = "code")
    )
  )
}

respondents_html <- function(respondents, most = 500) {
  came <- respondents$came
  gone <- respondents$gone
  people <- utils::head(rbind(
    cbind(change = rep("came", nrow(came)), came), cbind(change = rep("gone", nrow(gone)), gone)
  ), most)
  list(
    htmltools::tags$p(
      class = "about", count_of(respondents$both, "respondent"), " in both, ",
      grouped(nrow(came)), " came, ", grouped(nrow(gone)), " gone."
    ),
    if (nrow(people) > 0) page_table(
      "Who came and who is gone",
      list("Change" = people$change, "Wave" = people$wave, "Respondent" = people$respondent),
      c("Change" = "row")
    )
  )
}

changed_cells_html <- function(cells) {
  if (nrow(cells) == 0) return(htmltools::tags$p(
    class = "about", "No cell of respondents in both builds differs."
  ))
  page_table(
    "Changed cells by variable",
    list(
      "Variable" = cells$variable, "Changed" = grouped(cells$changed),
      "Examples" = cells$examples, "What bears on it" = cells$causes
    ),
    c("Variable" = "row", "Changed" = "number")
  )
}

changed_statistics_html <- function(moved) {
  moved <- moved[order(-abs(moved$now - moved$was)), ]
  page_table(
    "Shares of the answered (percent) and means",
    list(
      "Variable" = moved$variable, "What" = moved$what, "Was" = number_show(moved$was, 2),
      "Now" = number_show(moved$now, 2), "Difference" = number_show(moved$now - moved$was, 2)
    ),
    c("Variable" = "row", numbers_of(c("Was", "Now", "Difference")))
  )
}
