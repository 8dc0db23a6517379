# A column of a second file, found by a key. Looked-up cells are decoded like
# those of an export.

way_lookup <- new_way(
  help =
    "a value from a second file, found by a key; or the same person's answer in an earlier wave",
  example =
    paste0(
      "region: {lookup: {in: roster, by: choir, column: Region}, label: Region of the choir, ",
      "level: nominal, codes: {1: Upper valley, 2: Lower valley}}"
    ),
  asks = function(variable) variable$settings[["in"]],
  proof = "lookup",
  value = map_field(list(
    "in" = field("text", "which of the `lookups`", "roster"),
    by = field("text", "the variable that holds the key", "choir"),
    column = field("heading", "the column of the file", "Region"),
    wave = field("text", "in place of a file: the earlier wave whose answer is wanted", "spring"),
    variable = field("text", "with `wave`: the variable of the earlier wave", "years")
  )),
  beside = way_column$beside[setdiff(names(way_column$beside), c("from", "other"))],
  uses = function(variable, book) if (takes_earlier(variable)) variable$settings$variable else
    variable$settings$by,
  makes = function(variable, book) if (takes_earlier(variable)) like_taken(variable, book) else
    way_column$makes(variable, book),
  check = function(variable, book, say) {
    path_of <- function(...) where_in(variable, "lookup", ...)
    if (takes_earlier(variable)) return(check_earlier(variable, book, path_of, say))
    for (key in names(lookup_needs)) {
      if (lacks(variable, "lookup", key)) return(say(
        path_of(), paste0("`", key, "` is missing: ", lookup_needs[[key]])
      ))
      if (is.null(variable$settings[[key]])) return()
    }
    if (!is.null(variable$settings$variable)) say(
      path_of("variable"), "goes with `wave`: of a file name the `column`"
    )
    if (is.null(book$lookups[[variable$settings[["in"]]]])) return(say(
      path_of("in"),
      paste0(
        "`", variable$settings[["in"]], "` is not one of the `lookups`",
        did_you_mean(variable$settings[["in"]], names(book$lookups))
      )
    ))
    by <- book$variables[[variable$settings$by]]
    if (!is.null(by$storage) && !by$storage %in% c("text", "coded", "number")) say(
      path_of("by"), paste0("`", by$name, "` (level ", by$level, ") cannot be a key")
    )
    way_column$check(variable, book, say)
  },
  compute = function(variable, inputs, book, rows) {
    if (takes_earlier(variable)) take_earlier(
      variable, inputs[[variable$settings$variable]], book, rows
    ) else look_up(variable, inputs[[variable$settings$by]], book)
  },
  sentence = function(variable, book) if (takes_earlier(variable)) paste0(
    "The same person's `", variable$settings$variable, "` of wave ", variable$settings$wave, "."
  ) else paste0(
    "Looked up in ", variable$settings[["in"]], " (",
    book$lookups[[variable$settings[["in"]]]]$file, ") by ", variable$settings$by,
    ": its column \u201c", variable$settings$column, "\u201d."
  )
)

lookup_needs <- c(
  "in" = "which of the `lookups`", by = "the variable that holds the key",
  column = "the column of the file"
)

like_taken <- function(variable, book) {
  source <- if (!is.null(variable$settings$variable)) book$variables[[variable$settings$variable]]
  for (part in c("level", "codes", "range", "unit", "decimals", "dates"))
    if (is.null(variable[[part]])) variable[[part]] <- source[[part]]
  variable$storage <- source$storage
  variable
}

check_earlier <- function(variable, book, path_of, say) {
  settings <- variable$settings
  if (!is_panel(book)) say(
    path_of("wave"),
    paste0(
      "takes an answer of an earlier wave: that needs a panel, where a key is the same person in ",
      "every wave (`design: panel` under `study`)"
    )
  )
  if (!settings$wave %in% names(book$waves)) return(say(
    path_of("wave"),
    paste0(
      "`", settings$wave, "` is not a wave of this codebook",
      did_you_mean(settings$wave, names(book$waves))
    )
  ))
  for (key in c("in", "by", "column")) if (!is.null(settings[[key]])) say(
    path_of(key),
    "does not go with `wave`: the person's key is what matches, `variable` what is wanted"
  )
  if (is.null(settings$variable)) return(say(
    path_of(), "`variable` is missing: the variable of the earlier wave"
  ))
  if (isTRUE(book$variables[[settings$variable]]$carrier)) say(
    path_of("variable"),
    paste0("`", settings$variable, "` has several answers: name one of its options")
  )
  if (length(intersect(names(variable$version_of), names(book$exports))) > 0) say(
    variable$path,
    "an earlier wave's answer is the same for all later waves: nothing can differ between them"
  )
}

# Not row-local: the answer of the person's retained record in the earlier
# wave. Who answered in that wave or before it has none.
take_earlier <- function(variable, source, book, rows) {
  retained <- if (is.null(rows$retained)) seq_len(rows$n) else rows$retained
  there <- retained[rows$wave[retained] == variable$settings$wave]
  place <- there[match(rows$key, rows$key[there])]
  later <- match(rows$wave, names(book$waves)) > match(variable$settings$wave, names(book$waves))
  place[!later] <- NA
  reason <- reason_or_none(source)[place]
  reason[is.na(place)] <- reason_id(book, ifelse(later, "not_found", "not_in_wave"))[is.na(place)]
  new_column(source$value[place], reason)
}

look_up <- function(variable, key, book) {
  table <- book$tables[[variable$settings[["in"]]]]
  raw <- table$columns[[variable$settings$column]]
  by <- book$variables[[variable$settings$by]]
  asked <- key_texts(by, key$value)
  place <- match(asked, table$key, incomparables = NA)
  decoded <- decode_cells(raw$cells, variable, table$export, book, raw$kinds)
  looked <- raw
  looked$index <- raw$index[place]
  column <- gather(decoded, looked$index, book)
  reason <- reason_or_none(column)
  own <- reason_or_none(key)
  reason[own > 0L] <- own[own > 0L]
  counts <- tabulate(looked$index, length(raw$cells))
  told <- rows_among(looked$index, nzchar(decoded$kind))
  rows <- split(told, looked$index[told])
  rows_of <- function(cell) c(integer(), utils::head(rows[[as.character(cell)]], 5))
  carrying(
    new_column(column$value, reason), decode_entries(decoded, looked, variable, 0L),
    unlisted_findings(raw$cells, counts, decoded, variable, rows_of)
  )
}

# Keys as texts: of a coded variable its label, as the files hold it.
key_texts <- function(by, value) {
  if (is.character(value)) return(text_trim(value))
  text <- if (is_coded(by)) label_of(by, value) else number_to_text(value)
  text[is.na(value)] <- NA
  text
}

# What is not found, both ways, and keys that nearly match: once a lookup and key.
# Where somebody was purged, a key that nobody asks for may be theirs: it is not named.
lookup_findings <- function(values, book, purged = FALSE) {
  looks <- Filter(function(variable) !is.null(way_of(variable)$asks(variable)), book$variables)
  pair <- vapply(looks, function(variable) {
    paste(way_of(variable)$asks(variable), variable$settings$by)
  }, "")
  unlist(lapply(looks[!duplicated(pair)], function(variable) {
    by <- variable$settings$by
    table <- book$tables[[way_of(variable)$asks(variable)]]
    asked <- key_texts(book$variables[[by]], values[[by]]$value)
    c(
      lost_keys(asked, table, book$variables[[by]], length(book$waves) > 1),
      if (any(!table$key %in% asked)) list(new_finding(
        "note", "lookup_row_unused", "",
        if (purged) "" else some_of(setdiff(table$key, asked), 8, quote = FALSE),
        sum(!table$key %in% asked), integer(), c("lookups", table$export$name),
        paste0("rows of ", table$export$shown, " that no respondent goes with")
      )),
      table$told
    )
  }), recursive = FALSE)
}

# Keys that the file does not have: each that nearly matches one, and the rest.
lost_keys <- function(asked, table, source, waves) {
  by <- source$name
  lost <- which(!is.na(asked) & !asked %in% table$key)
  words <- unique(asked[lost])
  near <- table$key[match(text_near(words), text_near(table$key))]
  path <- c("lookups", table$export$name)
  rest <- lost[asked[lost] %in% words[is.na(near)]]
  c(
    lapply(which(!is.na(near)), function(word) {
      rows <- lost[asked[lost] == words[word]]
      line <- paste(c(if (waves) "WAVE", "RESPONDENT", by, words[word], near[word]), collapse = ",")
      new_finding(
        "warning", "lookup_near_match", by, words[word], length(rows), rows, path,
        paste0(
          "is not in ", table$export$shown, ", but `", near[word],
          "` is: the two differ only in case, spaces or leading zeros; ",
          # A number has no zeros in front that a correction could give it.
          if (source$storage == "number") paste0(
            "`", by, "` is a number and holds none: say `level: identifier` of it, then "
          ), "to match them, a line of the corrections: `", line, "`"
        )
      )
    }),
    if (any(is.na(near))) list(new_finding(
      "warning", "not_found", by, some_of(words[is.na(near)], 8, quote = FALSE), length(rest),
      rest, path,
      paste0(
        "keys of respondents that are not in ", table$export$shown, ": ",
        count_of(sum(is.na(near)), "key")
      )
    ))
  )
}
