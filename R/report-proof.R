# Old by new, as tables of a page.

proof_tables <- function(proofs) lapply(
  proofs,
  function(proof) switch(
    proof$kind, cross = cross_proof(proof), spread = spread_html(proof),
    filled = filled_html(proof), lookup = lookup_html(proof), range = range_html(proof),
    reversed = reversed_html(proof)
  )
)

numbers_of <- function(names) with_names(rep("number", length(names)), names)
count_or_blank <- function(count) ifelse(count > 0, grouped(count), "")

cross_proof <- function(proof) {
  columns <- with_names(
    lapply(
      seq_along(proof$columns),
      function(j) count_or_blank(c(proof$counts[, j], sum(proof$counts[, j])))
    ),
    proof$columns
  )
  page_table(paste0("Old by new: ", proof$source, " down, the made values across"),
    c(
      with_names(list(c(proof$rows, "All")), proof$source), columns,
      list("All" = grouped(c(rowSums(proof$counts), sum(proof$counts))))
    ),
    c(with_names("row", proof$source), numbers_of(c(names(columns), "All"))), class = c(
      rep("", length(proof$rows)), "total"
    ))
}

spread_html <- function(proof) {
  shown <- function(x) ifelse(is.na(x), "", number_to_text(round_half(x, 4)))
  page_table(
    paste0("Old by new: which values of ", proof$source, " each code holds"),
    list(
      "New" = proof$code, "n" = count_or_blank(proof$n), "Lowest" = shown(proof$low),
      "Highest" = shown(proof$high), "From a gap" = count_or_blank(proof$gaps)
    ),
    c("New" = "row", numbers_of(c("n", "Lowest", "Highest", "From a gap")))
  )
}

filled_html <- function(proof) page_table(
  paste0("Gaps of ", proof$source, " before and after"),
  list(
    "Reason" = proof$reason, "Gaps" = grouped(proof$gaps), "Filled" = count_or_blank(proof$filled)
  ),
  c("Reason" = "row", numbers_of(c("Gaps", "Filled")))
)

lookup_html <- function(proof) page_table("Rows before and after the look-up",
  list(
    "Rows before" = grouped(proof$before), "Rows after" = grouped(proof$after),
    "Matched" = grouped(proof$met), "Not found" = grouped(proof$lost),
    "No key" = grouped(proof$gap), "Rows of the file" = grouped(proof$rows),
    "Unused rows" = grouped(proof$unused)
  ),
  numbers_of(c(
    "Rows before", "Rows after", "Matched", "Not found", "No key", "Rows of the file", "Unused rows"
  )))

range_html <- function(proof) {
  shown <- function(x) ifelse(is.na(x) | !is.finite(x), "open", number_to_text(round_half(x, 4)))
  page_table("Possible and actual range",
    list(
      "Lowest possible" = shown(proof$possible[1]), "Highest possible" = shown(proof$possible[2]),
      "Lowest" = shown(proof$actual[1]), "Highest" = shown(proof$actual[2]), "n" = grouped(proof$n)
    ),
    numbers_of(c("Lowest possible", "Highest possible", "Lowest", "Highest", "n")))
}

reversed_html <- function(proof) page_table(
  paste0("Old by new: the reversed item ", proof$source),
  list(
    "Answer" = c(proof$label, "gaps"), "Code" = c(number_to_text(proof$code), ""),
    "Scored as" = c(number_to_text(proof$scored), ""), "Count" = grouped(c(proof$count, proof$gaps))
  ),
  c("Answer" = "row", numbers_of(c("Code", "Scored as", "Count")))
)

# A chapter of the report: every derived variable of the analysis file.
made_section <- function(study) {
  t <- htmltools::tags
  names <- Filter(function(name) length(study$book$uses[[name]]) > 0, kept_variables(study$book))
  proofs <- lapply(study$tallies$proofs[names], proof_tables)
  names <- names[lengths(proofs) > 0]
  if (length(names) == 0) return(NULL)
  t$section(t$h2("Derived variables: old by new"), lapply(names, function(name) {
    variable <- study$book$variables[[name]]
    t$article(
      t$h3(t$code(class = "name", name), " ", variable$label),
      t$p(class = "about", page_words(way_of(variable)$sentence(variable, study$book))),
      proofs[[name]]
    )
  }))
}
