# Two builds side by side, as a page.

comparison_page <- function(compared, sides) {
  t <- htmltools::tags
  number <- function(names) with_names(rep("number", length(names)), names)
  cells <- compared$cells
  moved <- compared$moved[order(-abs(compared$moved$now - compared$moved$was)), ]
  entries <- compared$codebook
  sources <- compared$sources
  people <- rbind(
    cbind(change = rep("came", nrow(compared$respondents$came)), compared$respondents$came),
    cbind(change = rep("gone", nrow(compared$respondents$gone)), compared$respondents$gone)
  )
  page_html(paste0(compared$title, ": two builds compared"), NULL, list(
    t$header(
      t$h1(compared$title),
      t$p(class = "lead", "Two builds compared: ", t$code(sides[1]), " and ", t$code(sides[2]))
    ),
    if (compared$same) t$p(
      class = "about", "The two are the same: respondents, cells, codebook, raw files and sheets."
    ),
    t$section(t$h2("What can have caused it"),
      if (nrow(sources) + nrow(entries) == 0) t$p(
        class = "about", "Raw files, sheets, codebook and version are the same."
      ),
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
      )),
    t$section(t$h2("Respondents"),
      t$p(
        class = "about", count_of(compared$respondents$both, "respondent"), " in both, ",
        grouped(nrow(compared$respondents$came)), " came, ",
        grouped(nrow(compared$respondents$gone)), " gone."
      ),
      if (nrow(people) > 0) page_table(
        "Who came and who is gone",
        list(
          "Change" = utils::head(people$change, 500), "Wave" = utils::head(people$wave, 500),
          "Respondent" = utils::head(people$respondent, 500)
        ),
        c("Change" = "row")
      )),
    t$section(t$h2("Cells"),
      if (nrow(cells) == 0)
        t$p(class = "about", "No cell of respondents in both builds differs.") else
      page_table(
        "Changed cells by variable",
        list(
          "Variable" = cells$variable, "Changed" = grouped(cells$changed),
          "Examples" = cells$examples, "What bears on it" = cells$causes
        ),
        c("Variable" = "row", "Changed" = "number")
      )),
    if (nrow(moved) > 0) t$section(t$h2("Statistics that changed"),
      page_table("Shares of the answered (percent) and means", list(
      "Variable" = moved$variable, "What" = moved$what, "Was" = number_show(moved$was, 2),
      "Now" = number_show(moved$now, 2), "Difference" = number_show(moved$now - moved$was, 2)),
      c("Variable" = "row", number(c("Was", "Now", "Difference"))))),
    t$footer("Made by Mavik ", as.character(utils::packageVersion("mavik")), ".")
  ))
}
