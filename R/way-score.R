way_score <- list(
  value = map_field(list(
    of = field("texts", "the items: a block, or a list of variables", required = TRUE),
    reversed = field("texts", default = character()),
    take = field("choice", "`mean` or `sum`", required = TRUE, values = c("mean", "sum")),
    at_least = field("amount", default = "all"),
    prorate = field("yes_no", default = FALSE)
  )),
  beside = list(),
  reads = function(variable) NULL,
  uses = function(variable, book) items_of_score(variable, book),
  makes = function(variable, book) {
    if (is.null(variable$level)) variable$level <- "interval"
    variable$storage <- "number"
    items <- items_of_score(variable, book)
    bounds <- if (length(items) > 0) bounds_of(book$variables[[items[1]]])
    times <- if (identical(variable$settings$take, "sum")) length(items) else 1
    if (!is.null(bounds)) variable$range <- bounds * times
    if (is.null(variable$decimals)) variable$decimals <- 2L
    variable
  },
  check = function(variable, book, say) {
    at <- function(...) where_in(variable, "score", ...)
    items <- items_of_score(variable, book)
    if (!variable$level %in% c("interval", "ratio")) say(where_in(variable, "level"), paste0("a score is interval or ratio, never ", variable$level))
    for (item in items[duplicated(items)]) say(at("of"), paste0("`", item, "` stands twice among the items"))
    for (item in setdiff(variable$settings$reversed, items)) {
      say(at("reversed"), paste0("`", item, "` is not one of the items", did_you_mean(item, items)))
    }
    if (length(items) == 0) return(say(at("of"), "names no items"))
    levels <- vapply(items, function(item) book$variables[[item]]$level, "")
    for (item in items[!levels %in% ordered_levels]) {
      say(at("of"), paste0("`", item, "` is ", levels[[item]], ": a score needs ordinal, interval or ratio items"))
    }
    if (all(levels %in% ordered_levels)) check_item_bounds(variable, items, book, at, say)
    least <- variable$settings$at_least
    if (is.numeric(least) && least > length(items)) say(at("at_least"), paste0(least, " is more than the ", count_of(length(items), "item")))
    if (is.numeric(least) && least < length(items) && identical(variable$settings$take, "sum") && !isTRUE(variable$settings$prorate)) {
      say(at("at_least"), "a sum over fewer than all items is too small by what is missing: say `prorate: yes`, take a mean, or ask for all")
    }
    if (isTRUE(variable$settings$prorate) && identical(variable$settings$take, "mean")) say(at("prorate"), "has a meaning for a sum only")
  },
  compute = function(variable, inputs, book, rows) {
    items <- items_of_score(variable, book)
    settings <- variable$settings
    total <- numeric(rows$n)
    answered <- integer(rows$n)
    for (item in items) {
      value <- as.double(inputs[[item]]$value)
      if (item %in% settings$reversed) value <- sum(bounds_of(book$variables[[item]])) - value
      has <- !is.na(value)
      answered <- answered + has
      value[!has] <- 0
      total <- total + value
    }
    enough <- answered >= (if (identical(settings$at_least, "all")) length(items) else settings$at_least)
    value <- if (settings$take == "sum") total * (length(items) / answered) else total / answered
    if (settings$take == "sum") value[answered == length(items)] <- total[answered == length(items)]
    value[!enough] <- NA
    new_column(value, score_reason(enough, inputs[items], book, rows$n))
  },
  explain = function(variable, inputs, book) score_in_figures(variable, inputs, book),
  sentence = function(variable, book) {
    items <- items_of_score(variable, book)
    settings <- variable$settings
    least <- if (identical(settings$at_least, "all")) length(items) else settings$at_least
    paste0(
      if (settings$take == "mean") "Mean of " else "Sum of ", count_of(length(items), "item"), " (", paste(items, collapse = ", "), ")",
      if (length(settings$reversed) > 0) paste0(", after reversing ", paste(settings$reversed, collapse = ", ")),
      if (least == length(items)) "; all must be answered" else paste0("; at least ", least, " must be answered"),
      if (isTRUE(settings$prorate)) ", what is missing is filled up in proportion",
      if (!is.null(variable$range)) paste0(". Possible range ", paste(number_to_text(variable$range), collapse = " to ")), "."
    )
  }
)

# One record's score worked out, item by item.
score_in_figures <- function(variable, inputs, book) {
  items <- items_of_score(variable, book)
  settings <- variable$settings
  value <- vapply(items, function(item) as.double(inputs[[item]]$value), 0)
  scored <- ifelse(items %in% settings$reversed, vapply(items, function(item) sum(bounds_of(book$variables[[item]])), 0) - value, value)
  has <- !is.na(value)
  parts <- paste0(number_to_text(scored), ifelse(items %in% settings$reversed, paste0(" (", items, " reversed: ", number_to_text(value), ")"), paste0(" (", items, ")")))
  if (sum(has) == 0) return("None of the items is answered here.")
  total <- sum(scored[has])
  paste0("Here: ", paste(parts[has], collapse = " + "), " = ", number_to_text(total),
    if (settings$take == "mean") paste0("; ", number_to_text(total), " / ", sum(has), " = ", number_show(total / sum(has), variable$decimals))
    else if (!all(has)) paste0("; ", number_to_text(total), " x ", length(items), " / ", sum(has), " = ", number_show(total * length(items) / sum(has), variable$decimals)),
    if (!all(has)) paste0("; no value: ", paste(items[!has], collapse = ", ")), ".")
}

# Blocks spread out into their items.
items_of_score <- function(variable, book) {
  unlist(lapply(variable$settings$of, function(name) {
    if (name %in% names(book$blocks)) book$blocks[[name]] else name
  }))
}

check_item_bounds <- function(variable, items, book, at, say) {
  bounds <- lapply(book$variables[items], bounds_of)
  shown <- vapply(bounds, function(one) if (is.null(one)) "no bounds" else paste(number_to_text(one), collapse = " to "), "")
  if (length(unique(shown)) > 1) {
    first <- match(unique(shown), shown)
    say(at("of"), paste0("the items have different bounds (", paste0("`", items[first], "`: ", unique(shown), collapse = ", "),
      "): bring them to one range first"))
  } else if (shown[1] == "no bounds" && length(variable$settings$reversed) > 0) {
    say(at("reversed"), paste0("`", variable$settings$reversed[1], "` has no bounds to be reversed by: give the items a `range`"))
  }
}

# Where nobody was asked any item, the score takes their reason.
score_reason <- function(enough, items, book, n) {
  reason <- integer(n)
  reason[!enough] <- reason_id(book, "too_few")
  unasked <- reason_id(book, c("not_asked", "not_in_wave"))
  open <- !enough
  for (item in items) open <- open & reason_or_none(item) %in% unasked
  reason[open] <- first_reason(items, n)[open]
  reason
}
