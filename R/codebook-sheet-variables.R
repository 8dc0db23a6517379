# Variables as rows of a sheet: `block` names the block of an item, `way` the key that says how it
# is made and `takes` what stands there. Codes of its own stand on a sheet of theirs, a row a code.

variable_rows <- function(entries) {
  unlist(unname(Map(function(name, entry) {
    if (!is_block(entry)) return(list(variable_row(name, entry)))
    c(list(variable_row(name, entry[setdiff(names(entry), "items")])),
      unname(Map(
        function(item, own) variable_row(item, own, name), names(entry$items), entry$items
      )))
  }, names(entries), entries)), recursive = FALSE)
}

variable_row <- function(name, entry, block = NULL) {
  way <- intersect(names(entry), names(open_ways()))
  if (has_code_rows(entry)) entry$codes <- NULL
  if (length(way) == 1) {
    takes <- entry[[way]]
    entry[[way]] <- NULL
    entry <- c(list(way = way, takes = takes), entry)
  }
  c(list(name = name), if (!is.null(block)) list(block = block), entry)
}

has_code_rows <- function(entry) is_map(at_key(entry, "codes")) &&
  all(vapply(entry$codes, is_text, TRUE))

own_code_rows <- function(entries) {
  of <- function(name, entry) c(
    if (has_code_rows(entry)) unname(Map(
      function(code, label) list(name = name, code = code, label = label), names(entry$codes),
      entry$codes
    )),
    if (is_block(entry)) unlist(unname(Map(of, names(entry$items), entry$items)),
      recursive = FALSE)
  )
  unlist(unname(Map(of, names(entries), entries)), recursive = FALSE)
}

variable_section <- function(rows, sheet, problem) {
  rows <- lapply(named_rows(rows, problem), row_with_way, problem = problem)
  names <- vapply(rows, function(row) row$cells$name, "")
  block <- vapply(rows, function(row) if (is_text(row$cells$block)) row$cells$block else "", "")
  value <- places <- list()
  for (k in which(!nzchar(block))) {
    row <- rows[[k]]
    if (row$cells$name %in% names(value)) problem(
      row$places[["name"]], paste0("the name `", row$cells$name, "` occurs twice")
    )
    entry <- row$cells[setdiff(names(row$cells), c("name", "block"))]
    path <- c(sheet, row$cells$name)
    places <- c(places, place_list(row, path, names(entry)))
    items <- rows[block == row$cells$name]
    if (length(items) > 0) {
      entry$items <- with_names(
        lapply(items, function(item) item$cells[setdiff(names(item$cells), c("name", "block"))]),
        vapply(items, function(item) item$cells$name, "")
      )
      places <- c(places, unlist(lapply(items, function(item) place_list(
        item, c(path, "items", item$cells$name), setdiff(names(item$cells), c("name", "block"))
      )), recursive = FALSE))
    }
    value[[row$cells$name]] <- entry
  }
  for (row in rows[nzchar(block) & !block %in% names[!nzchar(block)]]) problem(
    row$places[["block"]], paste0("there is no row for the block `", row$cells$block, "`")
  )
  list(value = value, places = places)
}

# The cell of `takes` under the key that `way` names.
row_with_way <- function(row, problem) {
  way <- row$cells$way
  known <- names(open_ways())
  if (is.null(way) && is.null(row$cells$takes)) return(row)
  if (is.null(way)) problem(row$places[["takes"]], paste0(
    "what stands under `takes` needs its `way`: one of ", some_of(known, 12)
  ))
  else if (!is_text(way) || !way %in% known) problem(row$places[["way"]], paste0(
    if (is_text(way)) paste0("`", way, "`") else "this", " is not a way: one of ",
    some_of(known, 12), if (is_text(way)) did_you_mean(way, known)
  ))
  else if (is.null(row$cells$takes)) problem(row$places[["way"]], paste0(
    "`takes` is missing: ", open_ways()[[way]]$help
  ))
  else if (way %in% names(row$cells)) problem(row$places[["way"]], paste0(
    "`", way, "` stands in a column of its own too: keep one"
  ))
  else {
    row$cells <- append(row$cells, with_names(list(row$cells$takes), way), match(
      "takes", names(row$cells)
    ))
    row$places[[way]] <- row$places[["takes"]]
  }
  row$cells[c("way", "takes")] <- NULL
  row
}

# Codes on a sheet of their own go to the variables that they are of.
own_codes_section <- function(rows, document, problem) {
  places <- list()
  for (row in named_rows(rows, problem)) {
    path <- variable_path(row$cells$name, document$variables)
    if (is.null(path)) {
      problem(row$places[["name"]], paste0(
        "`", row$cells$name, "` is not a row of the sheet `variables`",
        did_you_mean(row$cells$name, names_of_rows(document$variables))
      ))
      next
    }
    entry <- value_at(document, path)
    if (is.null(row$cells$code) || is.null(row$cells$label)) {
      problem(row$first, "a code and its label stand in one row: one of them is missing")
      next
    }
    if (!is.null(entry$codes) && !is_map(entry$codes)) problem(row$first, paste0(
      "`", row$cells$name, "` has codes under `codes` of the sheet `variables` too: keep one"
    ))
    else if (row$cells$code %in% names(entry$codes)) problem(row$places[["code"]], paste0(
      "the code `", row$cells$code, "` of `", row$cells$name, "` occurs twice"
    ))
    else {
      inner <- c(path, "codes")
      if (is.null(entry$codes)) places <- c(places, list(list(
        path = inner, place = row$first, row = row$row
      )))
      places <- c(places, list(list(
        path = c(inner, row$cells$code), place = row$places[["label"]], row = row$row
      )))
      entry$codes[[row$cells$code]] <- row$cells$label
      document <- set_at(document, path, in_key_order(entry))
    }
  }
  list(document = document, places = places)
}

names_of_rows <- function(variables) c(names(variables), unlist(lapply(
  unname(variables), function(entry) if (is.list(entry)) names(entry$items)
)))

variable_path <- function(name, variables) {
  if (name %in% names(variables)) return(c("variables", name))
  block <- names(Filter(function(entry) is.list(entry) && name %in% names(entry$items), variables))
  if (length(block) > 0) c("variables", block[1], "items", name)
}

set_at <- function(document, path, value) {
  if (length(path) == 0) return(value)
  document[[path[1]]] <- set_at(document[[path[1]]], path[-1], value)
  document
}

in_key_order <- function(entry) {
  known <- c("label", "stem", names(open_ways()), "level", "codes")
  entry[order(match(names(entry), known, nomatch = length(known) + 1L))]
}
