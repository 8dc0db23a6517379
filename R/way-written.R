# The text of a write-in: internal, made by `split` and by `other`.

way_written <- new_way(
  internal = TRUE,
  follows = function(variable) variable$settings$of,
  correctable = function(variable) !is.null(variable$settings$column),
  proof = "none",
  holds = "words",
  value = field("given"),
  reads = function(variable) if (!is.null(variable$settings$column))
    c(.written = variable$settings$column),
  uses = function(variable, book) variable$settings$of,
  makes = function(variable, book) {
    variable$storage <- "text"
    source <- book$variables[[variable$settings$of]]
    if (is.null(variable$private)) variable$private <- isTRUE(source$private)
    variable
  },
  decode = function(cells, variable, role, export, book, kinds) {
    if (isTRUE(variable$settings$own)) return(decode_written_column(cells, book))
    source <- version_in(book$variables[[variable$settings$of]], export)
    if (is_absent(source)) source <- book$variables[[variable$settings$of]]
    main <- decode_cells(cells, source, export, book, kinds)
    # Words that the sheet gave a code are no write-in from the start.
    code <- if (is.null(source$other)) NA else source$other$code
    stands <- main$kind == "write_in" & (is.na(code) | main$value %in% code)
    text <- ifelse(stands, text_trim(cells), NA)
    list(
      value = text, reason = ifelse(is.na(text), reason_id(book, "not_asked"), 0L),
      kind = character(length(cells)), doubt = logical(length(cells))
    )
  },
  compute = function(variable, inputs, book, rows) {
    if (!is.null(inputs$.written)) return(inputs$.written)
    source <- book$variables[[variable$settings$of]]
    column <- inputs[[source$name]]
    text <- set_written(levels(column$value))
    none <- !nzchar(text)
    text[none] <- NA
    reason <- over_levels(
      column$value, ifelse(none, reason_id(book, "not_asked"), 0L), book$held
    )
    own <- which(gaps_in(reason))
    new_column(
      over_levels(column$value, text, book$held), replace(reason, own, column$reason[own])
    )
  },
  # Beside a single choice the text goes where the choice goes; where the choice
  # was set aside, rule and universe set the text aside as well, each with its row.
  refine = function(variable, column, inputs, book) {
    source <- book$variables[[variable$settings$of]]
    if (!is_coded(source)) return(column)
    main <- inputs[[source$name]]
    chosen <- !is.na(main$value) & main$value == source$other$code
    reason <- reason_or_none(column)
    elsewhere <- !is.na(main$value) & !chosen & !isTRUE(variable$settings$own)
    # What the sheet gave a code is no write-in any more.
    sheet <- source$write_ins
    coded <- !is.na(main$value) & !chosen & !is.na(column$value) &
      text_fold(column$value) %in% sheet$folded[sheet$code %in% main$value]
    gone <- (is.na(column$value) & !chosen) | elsewhere | coded
    column$value[gone] <- NA
    other <- ifelse(is.na(main$value), reason_or_none(main), reason_id(book, "not_asked"))
    reason[gone] <- other[gone]
    reason[is.na(column$value) & !gone & chosen] <- reason_id(book, "no_answer")
    new_column(column$value, reason)
  },
  sentence = function(variable, book) paste0(
    "What was written in",
    if (isTRUE(variable$settings$own)) paste0(
      ", from the column \u201c", variable$settings$column, "\u201d"
    ),
    ", beside ", variable$settings$of, "."
  )
)
