# A number cut into bands that neither overlap nor leave a hole.

way_bands <- new_way(
  help = "a number in bands, without gaps or overlap",
  example = c(
    "years_band:",
    "  label: Years in choirs, banded",
    "  bands: {of: years, starts: {1: 0, 2: 2, 3: 10}}",
    "  codes: {1: Under 2, 2: 2 to under 10, 3: 10 and more}"
  ),
  value = map_field(list(
    of = field("text", "the number that is banded", "years", required = TRUE),
    starts = field("bounds", "where each code starts, that value included", "{1: 0, 2: 2, 3: 10}"),
    ends = field("bounds", "where each code ends, that value included", "{1: 2, 2: 10, 3: 80}")
  )),
  beside = list(codes = field("codes_or_list", "the codes of the bands with their labels",
    "{1: Under 2, 2: 2 to under 10, 3: 10 and more}")),
  uses = function(variable, book) variable$settings$of,
  makes = function(variable, book) {
    variable <- own_codes(variable, book)
    if (is.null(variable$level)) variable$level <- "ordinal"
    variable$storage <- "coded"
    variable
  },
  # Where a cut is felt, the coarser value has to change too.
  no_finer = function(variable, source, coarser) {
    edges <- variable$settings[[if (is.null(variable$settings$starts)) "ends" else "starts"]]$at
    for (edge in edges) {
      near <- edge + c(-1, 0, 1) * 1e-9 * max(1, abs(edge))
      bands <- band_of(near, variable$settings)
      for (step in 1:2) if (!anyNA(bands[step + 0:1]) && bands[step] != bands[step + 1] &&
        identical(coarser(near[step]), coarser(near[step + 1]))) return(FALSE)
    }
    TRUE
  },
  check = function(variable, book, say) check_bands(
    variable, book$variables[[variable$settings$of]], book, say
  ),
  compute = function(variable, inputs, book, rows) {
    column <- inputs[[variable$settings$of]]
    code <- over_values(column$value, function(value) band_of(value, variable$settings))
    outside <- rows_that(column$value, function(value) {
      !is.na(value) & is.na(band_of(value, variable$settings))
    })
    reason <- column$reason
    if (length(outside) > 0) reason <- replace(
      reason_or_none(column), outside, reason_id(book, "not_computable")
    )
    carrying(new_column(code, reason), findings = outside_bands(variable, column$value, outside))
  },
  sentence = function(variable, book) {
    bands <- band_edges(variable$settings, book$variables[[variable$settings$of]]$range)
    parts <- paste0(
      label_of(variable, bands$code), ": ", if (bands$starts) "from " else "above ",
      number_to_text(bands$from),
      ifelse(
        is.finite(bands$to),
        paste0(if (bands$starts) " to under " else " to ", number_to_text(bands$to)), " up"
      )
    )
    last <- length(parts)
    if (bands$starts && is.finite(bands$to[last])) parts[last] <- paste0(
      label_of(variable, bands$code[last]), ": from ", number_to_text(bands$from[last]), " to ",
      number_to_text(bands$to[last])
    )
    first <- if (!bands$starts && is.finite(bands$from[1])) paste0(
      label_of(variable, bands$code[1]), ": from ", number_to_text(bands$from[1]), " to ",
      number_to_text(bands$to[1])
    ) else if (!bands$starts) paste0(
      label_of(variable, bands$code[1]), ": up to ", number_to_text(bands$to[1])
    )
    if (!is.null(first)) parts[1] <- first
    paste0("Bands of ", variable$settings$of, ": ", paste(parts, collapse = "; "), ".")
  }
)

outside_bands <- function(variable, value, outside) {
  if (length(outside) == 0) return(NULL)
  span <- paste(number_to_text(range(value[outside])), collapse = " to ")
  list(new_finding(
    "warning", "outside_bands", variable$name, span, length(outside), outside, where_in(
      variable, "bands"
    ),
    paste0(
      "values of `", variable$settings$of,
      "` that lie in no band: give it a `range`, or a band for them"
    )
  ))
}

# Codes of a derived variable: its own, or a list's.
own_codes <- function(variable, book) {
  if (!is.null(variable$codes$list)) {
    variable$list <- variable$codes$list
    variable$codes <- book$lists[[variable$list]]$codes
  }
  variable
}

band_edges <- function(settings, range) {
  starts <- !is.null(settings$starts)
  edges <- if (starts) settings$starts else settings$ends
  low <- if (is.null(range)) -Inf else range[1]
  high <- if (is.null(range)) Inf else range[2]
  n <- length(edges$at)
  list(
    code = edges$code, starts = starts, from = if (starts) edges$at else c(low, edges$at[-n]),
    to = if (starts) c(edges$at[-1], high) else edges$at
  )
}

# A start belongs to its own band, an end too; beyond the range nothing stands.
band_of <- function(value, settings) {
  starts <- !is.null(settings$starts)
  edges <- if (starts) settings$starts else settings$ends
  interval <- if (starts) findInterval(value, edges$at) else findInterval(
    value, edges$at, left.open = TRUE
  ) + 1L
  interval[!is.na(interval) & (interval < 1 | interval > length(edges$at))] <- NA
  edges$code[interval]
}

check_bands <- function(variable, source, book, say) {
  settings <- variable$settings
  path_of <- function(...) where_in(variable, "bands", ...)
  check_made_codes(variable, book, say)
  if (!identical(source$storage, "number")) return(say(path_of("of"), paste0(
    "`", source$name, "` is no number (level ", source$level, "): only numbers are banded"
  )))
  if (is.null(settings$starts) == is.null(settings$ends)) return(say(
    path_of(), "says either `starts` or `ends` of its bands"
  ))
  side <- if (is.null(settings$starts)) "ends" else "starts"
  bounds <- settings[[side]]
  for (code in setdiff(bounds$code, variable$codes$code)) say(
    path_of(side, code), paste0("the code ", code, " has no label under `codes`")
  )
  for (code in setdiff(variable$codes$code, bounds$code)) say(
    where_in(variable, "codes"),
    paste0("`", label_of(variable, code), "` has no band: say where it ", side)
  )
  if (is.unsorted(bounds$at, strictly = TRUE)) return(say(path_of(side), paste0(
    "the bands overlap: ", paste(number_to_text(bounds$at), collapse = ", "),
    " do not rise from band to band"
  )))
  if (!is.null(source$range)) check_band_range(side, bounds, source, path_of, say)
}

# Bands leave no hole in what the source can be, and none lies outside it.
check_band_range <- function(side, bounds, source, path, say) {
  range <- source$range
  n <- length(bounds$at)
  shown <- function(value, open) if (is.finite(value)) number_to_text(value) else open
  hole <- function(from, to) say(path(side), paste0(
    "leaves a hole: `", source$name, "` can be ", from, " to ", to, ", which is in no band"
  ))
  outside <- function(code, verb, bound) say(path(side), paste0(
    "the band of ", code, " ", verb, " the range of `", source$name, "`, ", number_to_text(bound),
    ": nobody can be in it"
  ))
  if (side == "starts" && bounds$at[1] > range[1]) hole(
    shown(range[1], "any lower value"), paste("under", number_to_text(bounds$at[1]))
  )
  if (side == "ends" && bounds$at[n] < range[2]) hole(
    paste("above", number_to_text(bounds$at[n])), shown(range[2], "any higher value")
  )
  if (side == "starts" && bounds$at[n] > range[2]) {
    outside(bounds$code[n], "starts above", range[2])
  }
  if (side == "ends" && bounds$at[1] < range[1]) outside(bounds$code[1], "ends below", range[1])
}

check_made_codes <- function(variable, book, say) {
  if (!is.null(variable$list) && is.null(book$lists[[variable$list]])) return(say(
    where_in(variable, "codes"),
    paste0(
      "`", variable$list, "` is not a code list", did_you_mean(variable$list, names(book$lists))
    )
  ))
  if (lacks(variable, "codes")) say(
    variable$path, "`codes` is missing: what do the codes mean?"
  )
  if (!variable$level %in% c("nominal", ordered_levels)) say(
    where_in(variable, "level"), paste0("codes cannot be ", variable$level)
  )
  check_reason_codes(
    if (is.null(variable$list)) variable$codes, NULL, book$reasons, where_in(variable, "codes"), say
  )
}
