# Gaps of certain kinds filled from other answers of the same person.

way_impute <- new_way(
  help = "a variable with some of its gaps filled from others, and a flag",
  example = c(
    "evenings_filled:",
    "  label: Evenings in January, gaps filled",
    paste0(
      "  impute: {of: evenings_jan, mean_of: [evenings_dec, evenings_feb], gaps: [no_answer], ",
      "flag: evenings_imputed}"
    )
  ),
  proof = "gaps",
  value = map_field(list(
    of = field("text", "the variable whose gaps are filled", "evenings_jan", required = TRUE),
    mean_of = field("texts", "all of these must be answered; their mean is taken",
      "[evenings_dec, evenings_feb]"),
    first_of = field("texts", "the first of these that is answered is taken", "[evenings_dec]"),
    gaps = field("texts", "the reasons that may be filled", "[no_answer]", required = TRUE),
    flag = field("text", "the variable that says where it was filled", "evenings_imputed")
  )),
  beside = list(range = field("range", "the values that can be; a filled one outside is not taken",
    "[0, 31]")),
  spread = function(entry) {
    impute <- entry$keys$impute
    if (!is_map(impute) || !has_text(impute$flag)) return(NULL)
    label <- paste0(if (is_text(entry$keys$label)) entry$keys$label else entry$name, ": filled")
    list(
      entry = entry,
      companions = list(companion(
        entry, impute$flag,
        c(
          list(
            filled = list(of = entry$name, source = impute$of), label = label, level = "nominal",
            codes = list("0" = "No", "1" = "Yes")
          ),
          entry$keys[intersect(names(entry$keys), c("kept", "private"))]
        ),
        NULL, c("impute", "flag")
      ))
    )
  },
  uses = function(variable, book) unlist(c(variable$settings$of, stand_ins(variable, book))),
  makes = function(variable, book) {
    source <- book$variables[[variable$settings$of]]
    for (key in c("level", "unit", "decimals", "codes", "range", "storage"))
      if (is.null(variable[[key]])) variable[[key]] <- source[[key]]
    variable$range <- range_by_level(variable)
    variable
  },
  check = function(variable, book, say) check_impute(variable, book, say),
  compute = function(variable, inputs, book, rows) {
    settings <- variable$settings
    column <- inputs[[settings$of]]
    reason <- reason_or_none(column)
    may <- which(reason %in% reason_id(book, settings$gaps))
    parts <- lapply(inputs[stand_ins(variable, book)], function(input) input$value[may])
    fill <- if (is.null(settings$mean_of))
      data.table::fcoalesce(lapply(unname(parts), as.double)) else Reduce(
        `+`, lapply(parts, as.double)
      ) / length(parts)
    outside <- outside_range(fill, variable)
    filled <- !is.na(fill) & !outside
    rows_filled <- may[filled]
    value <- column$value
    if (is_coded(variable)) fill <- as.integer(fill)
    value[rows_filled] <- fill[filled]
    was <- reason[rows_filled]
    reason[rows_filled] <- 0L
    now <- distinct_of(fill[filled])
    entries <- lapply(unname(split(seq_along(rows_filled), was)), function(alike) {
      new_entry("imputed", variable$name, where_in(variable, "impute"), rows_filled[alike], "",
        rep(1L, length(alike)),
        value_text(variable, now$value), now$index[alike],
        was_reason = book$reasons$name[was[alike[1]]])
    })
    carrying(
      new_column(value, reason), entries, not_filled_finding(variable, fill[outside], may[outside])
    )
  },
  sentence = function(variable, book) {
    settings <- variable$settings
    with <- if (is.null(settings$mean_of)) paste(
      "the first answered of", some_of(settings$first_of, 9, quote = FALSE)
    ) else paste(
      "the mean of", some_of(settings$mean_of, 9, quote = FALSE), "where all are answered"
    )
    paste0(
      settings$of, ", with its gaps of the kind ",
      some_of(book$reasons$label[reason_id(book, settings$gaps)], 9, quote = FALSE), " filled by ",
      with, "."
    )
  }
)

outside_range <- function(value, variable) {
  if (is.null(variable$range) || is_coded(variable)) return(logical(length(value)))
  is_outside(value, variable$range)
}

not_filled_finding <- function(variable, value, rows) {
  if (length(rows) == 0) return(list())
  shown <- some_of(number_to_text(sort(unique(value))), 5, quote = FALSE)
  list(new_finding("warning", "imputed_outside", variable$name, shown, length(rows), rows,
    where_in(variable, "impute"), paste0("would fill gaps with values outside ",
      paste(range_shown(variable), collapse = " to "), ": these gaps stay as they were")))
}

stand_ins <- function(variable, book) {
  unique(unlist(lapply(
    c(variable$settings$mean_of, variable$settings$first_of),
    function(name) if (name %in% names(book$blocks)) book$blocks[[name]] else name
  )))
}

check_impute <- function(variable, book, say) {
  settings <- variable$settings
  path_of <- function(...) where_in(variable, "impute", ...)
  lacking <- c(lacks(variable, "impute", "mean_of"), lacks(variable, "impute", "first_of"))
  if (lacking[1] == lacking[2]) return(say(path_of(), "says either `mean_of` or `first_of`"))
  if (is.null(settings$mean_of) && is.null(settings$first_of)) return()
  source <- book$variables[[settings$of]]
  if (is_coded(source) && "range" %in% variable$said) say(where_in(variable, "range"),
    paste0("has a meaning for numbers only; `", source$name, "` has codes"))
  else if (!is.null(attr(variable$range, "texts"))) say(where_in(variable, "range"),
    "the bounds are numbers")
  key <- if (is.null(settings$mean_of)) "first_of" else "mean_of"
  for (reason in setdiff(settings$gaps, book$reasons$name)) say(
    path_of("gaps"),
    paste0("`", reason, "` is not a missing reason", did_you_mean(reason, book$reasons$name))
  )
  if (!source$storage %in% c("number", "coded")) return(say(
    path_of("of"), paste0("`", source$name, "` is ", source$level,
      ": only numbers and codes are filled")
  ))
  if (key == "mean_of" && is_coded(source)) say(
    path_of("mean_of"), paste0("a mean is no code of `", source$name, "`: take `first_of`")
  )
  for (name in stand_ins(variable, book)) {
    other <- book$variables[[name]]
    if (name == source$name) say(path_of(key), paste0("`", name, "` cannot stand in for itself"))
    if (name %in% rests_on_imputed(name, book)) say(
      path_of(key), paste0("`", name,
        "` rests on imputed values: only original answers can stand in")
    )
    if (
      !identical(other$storage, source$storage) ||
      (is_coded(source) && !identical(other$codes, source$codes))
    ) say(path_of(key), paste0("`", name, "` does not have the values of `", source$name, "`"))
  }
  if (length(rests_on_imputed(source$name, book)) > 0) say(
    path_of("of"), paste0("`", source$name, "` rests on imputed values itself")
  )
}

rests_on_imputed <- function(name, book) {
  near <- c(name, all_uses(name, book))
  if (any(vapply(book$variables[near], function(variable)
    variable$way == "impute", TRUE))) name else character()
}
