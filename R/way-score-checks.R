# What can be wrong about a score.

check_score <- function(variable, book, say) {
  path_of <- function(...) where_in(variable, "score", ...)
  settings <- variable$settings
  items <- items_of_score(variable, book)
  if (!is.null(attr(variable$range, "texts"))) say(
    where_in(variable, "range"), "the bounds of a score are numbers"
  )
  if (!variable$level %in% c("interval", "ratio")) say(
    where_in(variable, "level"), paste0("a score is interval or ratio, never ", variable$level)
  )
  if (lacks(variable, "score", "of")) return(say(
    path_of(), "`of` is missing: the items: a block, or a list of variables"
  ))
  if (lacks(variable, "score", "take")) return(say(
    path_of(), "`take` is missing: `mean`, `sum` or `percent`"
  ))
  if (is.null(settings$of) || is.null(settings$take)) return()
  for (item in items[duplicated(items)]) say(
    path_of("of"), paste0("`", item, "` occurs twice among the items")
  )
  unknown <- function(item, ...) say(
    path_of(...), paste0("`", item, "` is not one of the items", did_you_mean(item, items))
  )
  for (item in setdiff(settings$reversed, items)) unknown(item, "reversed")
  if (length(items) == 0) return(say(path_of("of"), "names no items"))
  for (item in setdiff(names(settings$weights), items)) unknown(item, "weights", item)
  weights <- text_to_number(settings$weights)
  for (item in names(settings$weights)[is.na(weights) | weights <= 0]) say(
    path_of("weights", item), "must be a number above 0"
  )
  levels <- vapply(items, function(item) book$variables[[item]]$level, "")
  for (item in items[!levels %in% ordered_levels]) say(path_of("of"), paste0(
    "`", item, "` is ", levels[[item]], ": a score needs ordinal, interval or ratio items"
  ))
  if (all(levels %in% ordered_levels)) check_item_bounds(variable, items, book, path_of, say)
  check_least(settings, length(items), path_of, say)
  check_instrument_bounds(settings, items, book, path_of, say)
  if (!is.null(settings$standard) && isTRUE(settings$standard$sd == 0)) say(
    path_of("standard", "sd"), "must be above 0"
  )
}

check_least <- function(settings, n, path_of, say) {
  least <- settings$at_least
  sum <- settings$take == "sum"
  if (is.numeric(least) && least > n) say(
    path_of("at_least"), paste0(least, " is more than the ", count_of(n, "item"))
  )
  if (sum && !isTRUE(settings$prorate) && is.numeric(least) && least_answered(least, n) < n) say(
    path_of("at_least"),
    paste0(
      "a sum over fewer than all items is too small by what is missing: ",
      "say `prorate: yes`, take a mean, or ask for all"
    )
  )
  if (isTRUE(settings$prorate) && !sum) say(path_of("prorate"), "has a meaning for a sum only")
}

check_instrument_bounds <- function(settings, items, book, path_of, say) {
  wanted <- attr_free(settings$numbers$bounds)
  if (is.null(wanted)) return()
  fits <- function(item) identical(as.numeric(bounds_of(book$variables[[item]])), wanted)
  for (item in items[!vapply(items, fits, TRUE)]) say(
    path_of("items", settings$numbers$of[[item]]),
    paste0(
      "`", item, "` has other bounds than the instrument, ",
      paste(number_to_text(wanted), collapse = " to ")
    )
  )
}

attr_free <- function(range) if (!is.null(range)) as.numeric(range)

check_item_bounds <- function(variable, items, book, path_of, say) {
  bounds <- lapply(book$variables[items], bounds_of)
  shown <- vapply(
    bounds,
    function(bound) if (is.null(bound)) "no bounds" else
      paste(number_to_text(bound), collapse = " to "),
    ""
  )
  if (variable$settings$take == "percent") {
    if (any(shown == "no bounds")) say(
      path_of("of"),
      paste0(
        "`", items[shown == "no bounds"][1],
        "` has no bounds: a percent of what is possible needs them; give it a `range`"
      )
    )
  } else if (length(unique(shown)) > 1) {
    first <- match(unique(shown), shown)
    say(path_of("of"),
      paste0("the items have different bounds (",
        paste0("`", items[first], "`: ", unique(shown), collapse = ", "),
      "): bring them to one range first, or take a percent of what is possible"))
  } else if (shown[1] == "no bounds" && length(variable$settings$reversed) > 0) {
    say(
      path_of("reversed"),
      paste0(
        "`", variable$settings$reversed[1],
        "` has no bounds to be reversed by: give the items a `range`"
      )
    )
  }
}
