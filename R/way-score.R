way_score <- new_way(
  help = "a composite of several items",
  example = c(
    "belonging:",
    "  label: Belonging to the choir",
    "  score: {of: belong, reversed: [belong2, belong5], take: mean, at_least: 4}"
  ),
  proof = "reversed",
  value = map_field(list(
    of = field("texts", "the items: a block, or a list of variables; or scores", "belong"),
    instrument = field("text", "in place of `of`: one of the `instruments`", "pitch"),
    items = field(
      "pairs", "which variable is which item of the instrument", "{1: pitch1, 2: pitch2}"
    ),
    subscale = field("text", "one of the instrument's subscales", "accuracy"),
    over = field("choice", "of scores: their items, or the scores as they are",
      values = c("scores", "items"), default = "scores"),
    reversed = field("texts", "the items that are worded the other way", "[belong2, belong5]",
      default = character()),
    take = field("choice", "the mean, the sum, or the percent of what is possible",
      values = c("mean", "sum", "percent")),
    at_least = field(
      "amount", "how many items must be answered, or their share", "4", default = "all"
    ),
    prorate = field(
      "yes_no", "a sum over fewer items is filled up in proportion", "yes", default = FALSE
    ),
    weights = field("pairs", "a weight for each item; 1 if not said", "{belong1: 2}"),
    standard = map_field(list(
      mean = field("number", "the published mean", "3.4", required = TRUE),
      sd = field("number", "the published standard deviation", "0.8", required = TRUE, least = 0)
    ), "the published mean and standard deviation that the score is set against"),
    numbers = field("given")
  )),
  beside = list(range = field(
    "range", "the scores that can be; what lies outside is set aside", "[1, 5]"
  )),
  uses = function(variable, book) items_of_score(variable, book),
  makes = function(variable, book) {
    if (is.null(variable$level)) variable$level <- "interval"
    variable$storage <- "number"
    items <- items_of_score(variable, book)
    variable$settings$reversed <- union(variable$settings$reversed, reversed_below(variable, book))
    variable$possible <- possible_range(variable, items, book)
    variable$range <- if (is.null(variable$range)) variable$possible else range_by_level(variable)
    if (is.null(variable$decimals)) variable$decimals <- 2L
    variable
  },
  check = function(variable, book, say) check_score(variable, book, say),
  compute = function(variable, inputs, book, rows) {
    items <- items_of_score(variable, book)
    value <- worked_score(lapply(inputs[items], `[[`, "value"), variable, items, book, rows$n)
    new_column(value, score_reason(value, inputs[items], book))
  },
  explain = function(variable, inputs, book) score_in_numbers(variable, inputs, book),
  sentence = function(variable, book) {
    items <- items_of_score(variable, book)
    settings <- variable$settings
    least <- least_answered(settings$at_least, length(items))
    weights <- item_weights(variable, items)
    numbered <- settings$numbers$of
    paste0(
      switch(
        settings$take, mean = "Mean of ", sum = "Sum of ",
        percent = "Percent of what is possible in "
      ), count_of(length(items), "item"), " (",
      paste0(items, if (!is.null(numbered)) paste0(": ", numbered[items]), collapse = ", "), ")",
      if (!is.null(numbered)) paste0(
        ", numbered as in the instrument ", settings$instrument,
        if (!is.null(settings$subscale)) paste0(", subscale ", settings$subscale)
      ),
      if (any(weights != 1)) paste0(", weighted ", paste(number_to_text(weights), collapse = ", ")),
      if (length(settings$reversed) > 0) paste0(
        ", after reversing ", paste(settings$reversed, collapse = ", ")
      ),
      if (least == length(items)) "; all must be answered" else paste0(
        "; at least ", least, " must be answered"
      ),
      if (isTRUE(settings$prorate)) ", what is missing is filled up in proportion",
      if (!is.null(settings$standard)) paste0(
        "; set against the published mean ", number_to_text(settings$standard$mean), " and sd ",
        number_to_text(settings$standard$sd)
      ),
      if (!is.null(variable$possible)) paste0(". Possible range ",
        paste(number_to_text(round_half(variable$possible, 4)), collapse = " to ")), "."
    )
  }
)

# Blocks spread out into their items, scores into theirs where that is asked.
items_of_score <- function(variable, book) {
  unlist(lapply(variable$settings$of, function(name) {
    if (name %in% names(book$blocks)) return(book$blocks[[name]])
    inner <- book$variables[[name]]
    if (identical(variable$settings$over, "items") && !is.null(inner) && inner$way == "score")
      items_of_score(inner, book) else name
  }))
}

# What the scores below reverse is reversed in a total over their items too.
reversed_below <- function(variable, book) {
  if (!identical(variable$settings$over, "items")) return(character())
  below <- Filter(
    function(name) isTRUE(book$variables[[name]]$way == "score"), variable$settings$of
  )
  unlist(lapply(
    below,
    function(name) c(
      book$variables[[name]]$settings$reversed, reversed_below(book$variables[[name]], book)
    )
  ))
}

# A share asks for that part of the items, rounded up.
least_answered <- function(at_least, items) {
  if (identical(at_least, "all")) items else
    if (at_least < 1) ceiling(at_least * items - 1e-9) else at_least
}

item_weights <- function(variable, items) {
  said <- variable$settings$weights
  out <- with_names(rep(1, length(items)), items)
  out[intersect(names(said), items)] <- text_to_number(said[intersect(names(said), items)])
  out
}

possible_range <- function(variable, items, book) {
  bounds <- lapply(book$variables[items], bounds_of)
  if (length(items) == 0 || any(vapply(bounds, is.null, TRUE))) return(NULL)
  weights <- item_weights(variable, items)
  low <- sum(weights * vapply(bounds, `[`, 0, 1))
  high <- sum(weights * vapply(bounds, `[`, 0, 2))
  range <- switch(
    paste0(variable$settings$take, ""), mean = c(low, high) / sum(weights), sum = c(low, high),
    percent = c(0, 100)
  )
  standard <- variable$settings$standard
  if (is.null(standard) || is.null(range)) range else (range - standard$mean) / standard$sd
}

# Item answers as doubles, the reversed ones turned by the codebook's bounds.
scored_items <- function(variable, items, inputs, book) {
  lapply(with_names(items, items), function(item) {
    value <- as.double(inputs[[item]]$value)
    if (item %in% variable$settings$reversed)
      sum(bounds_of(book$variables[[item]])) - value else value
  })
}

# `columns` are the items' answers as they stand.
worked_score <- function(columns, variable, items, book, n) {
  settings <- variable$settings
  weights <- item_weights(variable, items)
  bounds <- lapply(book$variables[items], bounds_of)
  percent <- settings$take == "percent"
  low <- if (percent) vapply(bounds, `[`, 0, 1) else rep(0, length(items))
  span <- if (percent) vapply(bounds, diff, 0) else rep(0, length(items))
  value <- score_values(
    unname(columns), turned_by(variable, items, book), as.double(low), as.double(span),
    unname(weights), n, settings$take, least_answered(settings$at_least, length(items))
  )
  standard <- settings$standard
  if (is.null(standard)) value else (value - standard$mean) / standard$sd
}

# What an item's answer is taken from where it is reversed: the sum of its bounds.
turned_by <- function(variable, items, book) {
  vapply(
    items,
    function(item) if (item %in% variable$settings$reversed)
      sum(bounds_of(book$variables[[item]])) else NA_real_,
    0, USE.NAMES = FALSE
  )
}

# One record's score worked out, item by item.
score_in_numbers <- function(variable, inputs, book) {
  items <- items_of_score(variable, book)
  settings <- variable$settings
  value <- vapply(items, function(item) as.double(inputs[[item]]$value), 0)
  scored <- unlist(scored_items(variable, items, inputs, book))
  has <- !is.na(value)
  weights <- item_weights(variable, items)
  parts <- paste0(
    ifelse(weights == 1, "", paste0(number_to_text(weights), " x ")), number_to_text(scored),
    ifelse(
      items %in% settings$reversed, paste0(" (", items, " reversed: ", number_to_text(value), ")"),
      paste0(" (", items, ")")
    )
  )
  if (sum(has) == 0) return("None of the items is answered here.")
  total <- sum((weights * scored)[has])
  by <- sum(weights[has])
  out <- worked_score(as.list(value), variable, items, book, 1L)
  paste0("Here: ", paste(parts[has], collapse = " + "), " = ", number_to_text(total),
    switch(settings$take,
      mean = paste0(
        "; ", number_to_text(total), " / ", number_to_text(by), " = ",
        number_show(total / by, variable$decimals)
      ),
      sum = if (!all(has)) paste0(
        "; ", number_to_text(total), " x ", number_to_text(sum(weights)), " / ", number_to_text(by),
        " = ", number_show(total * sum(weights) / by, variable$decimals)
      ),
      percent = "; less the lowest possible, by the possible span"),
    if (!is.null(settings$standard) || settings$take == "percent") paste0(
      "; score ", if (is.na(out)) "none" else number_show(out, variable$decimals)
    ),
    if (!all(has)) paste0("; no value: ", paste(items[!has], collapse = ", ")),
    if (is.na(out)) paste0(
      "; fewer than ", least_answered(settings$at_least, length(items)), " answered: no score"
    ), ".")
}

# Where nobody was asked any item, the score takes their reason.
score_reason <- function(value, items, book) gaps_of_score(
  value, lapply(items, function(item) item$reason),
  reason_id(book, c("not_asked", "not_in_wave")), reason_id(book, "too_few")
)
