# The columns of a sheet in which answers from paper are typed, and what can be typed in each.

# A list of fields, in the order of the codebook: `heading`, `question`, `variable`, `role`,
# `kind` (choice, number, date, tick, text or words), and for each kind what it takes.
entry_fields <- function(book, export) {
  fields <- list()
  for (variable in book$variables) {
    version <- version_in(variable, export)
    if (is_absent(version)) next
    roles <- way_of(version)$reads(version)
    for (role in names(roles)) {
      # The key and the form number have columns of their own.
      if (roles[[role]] %in% own_columns(export)) next
      field <- entry_field(version, role, roles[[role]], book)
      if (is.null(fields[[field$heading]])) fields[[field$heading]] <- field
    }
  }
  unname(fields)
}

entry_field <- function(variable, role, heading, book) {
  place <- match(role, variable$options$name)
  kind <- if (role == ".written") "words"
    else if (!is.null(variable$options)) "tick"
    else c(coded = "choice", number = "number", date = "date", text = "text")[[variable$storage]]
  item <- if (kind == "tick") variable$options$label[place] else if (role == ".written")
    written_label(variable)
  question <- entry_question(variable)
  list(
    heading = heading, variable = variable$name, block = variable$block, role = role, kind = kind,
    item = item, question = paste(c(question, item), collapse = " - "),
    codes = if (kind == "choice") entry_codes(variable), range = variable$range,
    level = variable$level, unit = variable$unit, universe = variable$universe,
    asked_of = text_squeeze(paste0(variable$universe$text, "")),
    gaps = if (!kind %in% c("text", "words")) entry_gaps(book)
  )
}

written_label <- function(variable) {
  other <- other_of(variable)
  if (is.null(other$label)) "Other, in own words" else paste0(other$label, ", in own words")
}

# The question as it was asked, else what the codebook calls it.
entry_question <- function(variable) {
  if (!is.null(variable$question)) {
    boxes <- length(variable$options$name) > 0
    return(if (boxes) whole_question(variable$question) else variable$question)
  }
  label <- if (is.null(variable$label)) variable$name else variable$label
  paste(c(variable$stem, label), collapse = " - ")
}

# A box's heading begins with the question that all its boxes share.
whole_question <- function(question) {
  stem <- stem_of(question)
  if (nzchar(stem[1])) stem[1] else question
}

# Listed codes, and the bare ones between them where there are not too many to offer.
entry_codes <- function(variable) {
  code <- all_codes(variable)
  if (length(code) > 120) code <- variable$codes$code
  list(code = code, label = label_of(variable, code))
}

# Reasons that a paper form can give.
entry_gaps <- function(book) {
  listed <- book$reasons$listed & !is.na(book$reasons$label)
  list(
    id = which(listed), code = book$reasons$code[listed], label = book$reasons$label[listed]
  )
}

# What can be typed, in words.
entry_takes <- function(field) {
  listed <- function(of) paste0(number_to_text(of$code), " ", of$label, recycle0 = TRUE)
  bare <- function(codes) ifelse(
    codes$label == number_to_text(codes$code), codes$label, listed(codes)
  )
  takes <- switch(field$kind,
    choice = paste(bare(field$codes), collapse = "; "), tick = "x where it is ticked",
    number = paste0("a number", entry_span(field)),
    date = paste0(
      if (field$level == "datetime") "a date and time, 2026-03-21 18:30" else "a date, 2026-03-21",
      entry_span(field)
    ),
    "text"
  )
  gaps <- listed(field$gaps)
  paste(c(takes, if (length(gaps) > 0) paste("or", paste(gaps, collapse = "; "))), collapse = "; ")
}

entry_span <- function(field) {
  if (is.null(field$range)) return("")
  shown <- range_shown(list(storage = field$kind, range = field$range, level = field$level))
  open <- is.infinite(field$range)
  if (all(open)) "" else if (open[1]) paste(", at most", shown[2]) else
    if (open[2]) paste(", at least", shown[1]) else paste(" from", shown[1], "to", shown[2])
}
