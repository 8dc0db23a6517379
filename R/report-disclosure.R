# What still identifies in a release, for those who decide whether it goes out. It tells nothing
# that the release itself does not.

beside_disclosure <- list(
  file = "disclosure.html",
  write = function(edition, path) write_page(disclosure_page(edition), path)
)

disclosure_page <- function(edition) {
  t <- htmltools::tags
  book <- edition$study$book
  main <- list(
    t$header(
      t$h1(book$study$title),
      t$p(class = "lead", paste0(
        edition$release$label, ": what was changed, and what still identifies, in ",
        count_of(edition$n, "record")
      ))
    ),
    t$section(
      t$h2("What was changed"), changes_table(edition$changes),
      if (is.null(edition$release$disclosure$order)) said_about(paste0(
        "The records stand in the order of the raw files: whoever knows that order knows the ",
        "persons. `order: shuffled` takes it away."
      ))
    ),
    t$section(t$h2("Combinations"), cells_section(edition)),
    t$section(
      t$h2("What may still tell who somebody is"),
      t$p(class = "about", paste0(
        "Each variable that goes out, with what somebody could know of a person. Look at those ",
        "with a remark: they stand first."
      )),
      page_table("Variables", identifying_table(edition), c(
        "Variable" = "row", "Fewest" = "number"
      ))
    ),
    t$footer("Made by Mavik ", as.character(utils::packageVersion("mavik")), ".")
  )
  page_html(paste0(book$study$title, ": disclosure"), NULL, main, book$language)
}

changes_table <- function(changes) {
  if (nrow(changes) == 0) return(said_about("Nothing: every value goes out as it is."))
  page_table("Each change, and how many cells it touched", list(
    "Variable" = changes$variable, "Change" = changes$change, "Cells" = grouped(changes$cells)
  ), c("Variable" = "row", "Cells" = "number"))
}

said_about <- function(text) htmltools::HTML(page_about(text))

# How many respondents share each combination of the variables that others may know.
cells_section <- function(edition) {
  cell <- edition$release$disclosure$smallest
  if (is.null(cell)) return(said_about(paste0(
    "No combinations are looked at: say under `smallest_cell` which variables others may know ",
    "of a person, and how many must share them."
  )))
  sizes <- cell_sizes(edition, cell$of)
  bands <- c(1, 2, 3, 5, 10, 20, 50, Inf)
  label <- c("1 (alone)", "2", "3 to 4", "5 to 9", "10 to 19", "20 to 49", "50 and more")
  band <- cut(sizes, bands, label, right = FALSE)
  list(
    said_about(paste0(
      "Combinations of ", some_of(cell$of), "; at least ", cell$at_least, " respondents ",
      "asked for. ",
      if (edition$rare == 0) "None was rarer." else paste0(
        count_of(edition$rare, "respondent"), if (edition$rare == 1) " was" else " were",
        " in rarer ones", switch(cell$rare, drop = ": their records are dropped.",
          blank = ": answers are emptied.", accepted = paste0(": accepted. ", cell$note))
      )
    )),
    page_table("In this release, by how many respondents share one", list(
      "Respondents" = label, "Combinations" = grouped(as.vector(table(band))),
      "Respondents in them" = grouped(as.vector(tapply(sizes, band, sum, default = 0)))
    ), c("Respondents" = "row", "Combinations" = "number", "Respondents in them" = "number"))
  )
}

cell_sizes <- function(edition, names) {
  study <- edition$study
  group <- combination_of(lapply(names, function(name) value_or_reason(study, name)))
  person <- combination_of(list(group, match(study$records$key, unique(study$records$key))))
  tabulate(group[!duplicated(person)], max(group, 0L))
}

identifying_table <- function(edition) {
  facts <- lapply(edition$names, function(name) identifying(edition, name))
  # Those with a remark first, else in their order.
  place <- order(!nzchar(vapply(facts, `[[`, "", "remark")))
  facts <- facts[place]
  names <- edition$names[place]
  list(
    "Variable" = names,
    "Label" = vapply(names, function(name) paste0(edition_variable(
      edition, name
    )$label, ""), ""),
    "What it is" = vapply(facts, `[[`, "", "what"),
    "Fewest" = vapply(facts, `[[`, "", "fewest"), "Remark" = vapply(facts, `[[`, "", "remark")
  )
}

# `fewest` is how many records share the rarest value.
identifying <- function(edition, name) {
  variable <- edition_variable(edition, name)
  value <- edition_values(edition, name)$value
  counts <- tabulate(match(value, unique(value[!is.na(value)])))
  fewest <- if (length(counts) == 0) "" else grouped(min(counts))
  changed <- edition$release$disclosure$changes[[name]]$kind
  alone <- sum(counts == 1)
  told <- function(what, remark = "") list(what = what, fewest = fewest, remark = remark)
  if (identical(changed, "pseudonym")) return(told("pseudonym"))
  if (has_labels(variable)) return(told("codes", if (any(counts < 5)) paste0(
    "rare: ", some_of(rare_codes(variable, value), 4, quote = FALSE)
  ) else ""))
  if (is_date(variable)) return(told(if (variable$level == "date") "exact date" else "exact moment",
    if (identical(changed, "shift")) "moved, the days between dates of a person stay" else
      "an exact date is often known to others: make it coarser, or move it"))
  if (is_free_text(variable)) return(told("free text",
    "people name themselves and others in texts: read them, or leave them out"))
  if (variable$storage == "text") return(told("identifier", if (identical(variable$level,
    "identifier")) "goes out as it is: anybody who knows it knows the person" else ""))
  told("number", if (alone > 0) paste0(
    count_of(alone, "value"), if (alone == 1) " is" else " are",
    " held by one record alone: bands or limits would hide ", if (alone == 1) "it" else "them"
  ) else "")
}

rare_codes <- function(variable, value) {
  codes <- released_codes(variable, value)
  count <- tabulate(match(value, codes$code), nrow(codes))
  rare <- count > 0 & count < 5
  paste0(codes$label[rare], " (", count[rare], ")")
}
