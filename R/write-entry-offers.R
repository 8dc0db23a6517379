# What the cells of a sheet to type in offer, what they stop, and what is greyed.

# The lists to choose from, each once; `gaps` holds the labels of reasons, then their codes.
entry_lists <- function(layout) {
  gaps <- Filter(Negate(is.null), lapply(layout$fields, `[[`, "gaps"))[1][[1]]
  lists <- list(gaps = c(gaps$label, number_to_text(gaps$code), if (length(gaps$code) == 0) "-"))
  for (field in layout$fields) {
    words <- entry_offered(field)
    if (length(words) > 0) lists[[entry_list_name(words)]] <- words
  }
  lists
}

entry_list_name <- function(words) joined_list(words)

entry_offered <- function(field) switch(field$kind,
  choice = c(field$codes$label, field$gaps$label), tick = c("x", field$gaps$label), NULL
)

offer_entry <- function(book, layout, ranges) {
  sheet <- typed_sheet
  first <- layout$rows[1]
  form <- layout$letters[1]
  check_cells(
    book, sheet, cells_of_column(layout, form), paste0(
      "COUNTIF($", form, "$", first, ":$", form, "$", layout$rows[length(layout$rows)], ",", form,
      first, ")=1"
    ), "custom", stops = TRUE, title = layout$headings[1],
    message = "This form number stands in another row already. Each form has its own."
  )
  letters <- field_letters(layout)
  for (k in seq_along(letters)) offer_field(
    book, sheet, layout$fields[[k]], cells_of_column(layout, letters[k]),
    paste0(letters[k], first), ranges
  )
}

# A list warns only, so that a code can be typed; a limit stops.
offer_field <- function(book, sheet, field, cells, cell, ranges) {
  takes <- entry_takes(field)
  words <- entry_offered(field)
  if (!is.null(words)) return(check_cells(
    book, sheet, cells, ranges[[entry_list_name(words)]], title = field$heading,
    message = paste0("Not on the list. It takes a label or its code: ", takes),
    prompt = takes
  ))
  if (!field$kind %in% c("number", "date")) return(invisible())
  bound <- function(side, sign) if (is.finite(c(field$range, NA, NA)[side])) paste0(
    ",", cell, sign, number_to_text(days_of_sheet(field$range[side], field$kind, field$level))
  )
  check_cells(
    book, sheet, cells, paste0(
      "OR(AND(ISNUMBER(", cell, ")", bound(1, ">="), bound(2, "<="), "),COUNTIF(", ranges[["gaps"]],
      ",", cell, ")>0)"
    ), "custom", stops = TRUE, title = field$heading,
    message = paste0("It takes ", takes, "."), prompt = takes
  )
}

# Questions that the answers before them rule out.
grey_entry <- function(book, layout, gates) {
  style <- openxlsx::createStyle(bgFill = "#CFC9D6", fontColour = "#6B6476")
  letters <- field_letters(layout)
  for (formula in unique(gates[nzchar(gates)])) {
    cells <- vapply(letters[gates == formula], cells_of_column, "", layout = layout)
    mark_cells(book, typed_sheet, paste(cells, collapse = " "), formula, style)
  }
}

# For each field the formula, of the first form's row, that says it was not asked; "" where the
# sheet never knows.
gate_formulas <- function(layout, codebook, ranges) {
  letters <- field_letters(layout)
  owner <- vapply(layout$fields, `[[`, "", "variable")
  boxes_of <- function(name) paste0(
    "$", letters[owner == name][1], layout$rows[1], ":$", rev(letters[owner == name])[1],
    layout$rows[1]
  )
  cells_of <- function(name) {
    box <- box_option(name, codebook)
    field_place <- if (is.null(box)) which(owner == name) else which(owner == box$of)[box$at]
    if (length(field_place) != 1 || is.na(field_place)) return(NULL)
    field <- layout$fields[[field_place]]
    cell <- paste0("$", letters[field_place], layout$rows[1])
    c(field, list(cell = cell, states = if (field$kind %in% c("choice", "tick")) cell_states(
      field, cell, boxes_of(field$variable), ranges[["gaps"]]
    )))
  }
  vapply(layout$fields, function(field) {
    formula <- not_asked_formula(field$universe, cells_of, codebook)
    if (is.null(formula) || nchar(formula) > 4000) "" else formula
  }, "")
}

# The box that an option of a question stands in.
box_option <- function(name, book) {
  settings <- book$variables[[name]]$settings
  if (is.list(settings) && identical(names(settings), c("of", "at")) && settings$at > 0) settings
}
