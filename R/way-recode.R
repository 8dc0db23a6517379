way_recode <- new_way(
  help = "codes collapsed, reordered or reversed",
  example = c(
    "sings_low:",
    "  label: Sings a lower part",
    "  recode: {of: voice, to: {0: [Soprano, Alto], 1: [Tenor, Bass]}}",
    "  codes: {0: No, 1: Yes}"
  ),
  value = map_field(list(
    of = field("text", "the variable that is recoded, or a block, or a list of variables",
      "voice", required = TRUE),
    to = field("groups", "for each new code its old ones, every old one once",
      "{0: [Soprano, Alto], 1: [Tenor, Bass]}"),
    gaps = field("groups", "old codes that become a missing reason", "{refused: [Other]}",
      default = list()),
    rest = field(
      "choice", "`kept`: old codes that `to` does not name stay as they are", values = "kept"
    ),
    reversed = field(
      "yes_no", "the codes the other way round, each with its label", "yes", default = FALSE
    ),
    ending = field(
      "text", "of a block or a list: what the names of the recoded variables end in", "_low"
    )
  )),
  beside = list(
    codes = field("codes_or_list", "the new codes with their labels", "{0: No, 1: Yes}")
  ),
  uses = function(variable, book) variable$settings$of,
  places_codes_of = function(variable) variable$settings$of,
  no_finer = function(variable, source, coarser) {
    codes <- all_codes(source)
    old <- lapply(variable$settings$to, old_codes, source = source)
    new <- rep(names(variable$settings$to), lengths(old))[match(codes, unlist(old))]
    all(tapply(new, coarser(codes), function(group) length(unique(group)) == 1))
  },
  makes = function(variable, book) {
    source <- book$variables[[variable$settings$of]]
    if (is.null(variable$level)) variable$level <- source$level
    if (is_coded(source)) variable$settings <- full_recode(variable$settings, source)
    if (is.null(variable$codes) && !"codes" %in% variable$said) variable$codes <- carried_codes(
      variable, source
    )
    if (!is.null(variable$codes$list)) {
      variable$list <- variable$codes$list
      variable$codes <- book$lists[[variable$list]]$codes
    }
    variable$storage <- "coded"
    variable
  },
  check = function(variable, book, say) {
    source <- book$variables[[variable$settings$of]]
    if (is.null(variable$settings$of)) return()
    if (!is.null(variable$settings$ending)) say(
      where_in(variable, "recode", "ending"), "has a meaning only where `of` is a block or a list"
    )
    if (lacks(variable, "recode", "to")) return(say(
      where_in(variable, "recode"),
      "`to` is missing: for each new code its old ones, or `reversed: yes`"
    ))
    if (is.null(variable$settings$to)) return()
    if (!is_coded(source)) {
      return(say(
        where_in(variable, "recode", "of"),
        paste0(
          "`", source$name, "` has no codes (level ", source$level,
          "): only coded variables can be recoded"
        )
      ))
    }
    if (!variable$level %in% c("nominal", ordered_levels)) say(
      where_in(variable, "level"), paste0("a recode cannot be ", variable$level)
    )
    check_new_codes(variable, book, say)
    check_old_codes(variable, source, book, say)
  },
  compute = function(variable, inputs, book, rows) {
    source <- book$variables[[variable$settings$of]]
    map <- recode_map(variable, source, book)
    column <- inputs[[variable$settings$of]]
    reason <- column$reason
    for (gap in setdiff(map$reason, 0L)) {
      gone <- rows_that(column$value, function(value) value %in% map$old[map$reason == gap])
      reason <- replace(if (is.null(reason)) integer(rows$n) else reason, gone, gap)
    }
    new_column(over_values(column$value, function(value) map$new[match(value, map$old)]), reason)
  },
  sentence = function(variable, book) {
    source <- book$variables[[variable$settings$of]]
    map <- recode_map(variable, source, book)
    into <- ifelse(
      is.na(map$new), book$reasons$label[pmax(map$reason, 1)], label_of(variable, map$new)
    )
    groups <- split(label_of(source, map$old), factor(into, unique(into)))
    parts <- vapply(
      names(groups),
      function(to) paste0(paste(groups[[to]], collapse = ", "), " become \u201c", to, "\u201d"), ""
    )
    paste0("Recoded from ", source$name, ": ", paste(parts, collapse = "; "), ".")
  }
)

# `reversed` and `rest` written out as a map of every old code.
full_recode <- function(settings, source) {
  if (isTRUE(settings$reversed) && is.null(settings$to)) {
    codes <- all_codes(source)
    settings$to <- with_names(
      as.list(number_to_text(codes)), number_to_text(sum(bounds_of(source)) - codes)
    )
  }
  if (identical(settings$rest, "kept") && !is.null(settings$to)) {
    named <- old_codes(source, unlist(c(settings$to, settings$gaps)))
    for (code in number_to_text(setdiff(all_codes(source), named))) settings$to[[code]] <- c(
      settings$to[[code]], code
    )
  }
  settings
}

# Labels that need not be said again: those of codes that are kept or reversed.
carried_codes <- function(variable, source) {
  settings <- variable$settings
  if (!isTRUE(settings$reversed) || is.null(settings$to)) return(NULL)
  old <- old_codes(source, unlist(settings$to))
  new <- as.integer(text_to_number(names(settings$to)))
  order <- order(new)
  labelled <- order[old[order] %in% source$codes$code]
  list(code = new[labelled], label = label_of(source, old[labelled]))
}

recode_map <- function(variable, source, book) {
  to <- variable$settings$to
  gaps <- variable$settings$gaps
  data.frame(
    old = as.integer(old_codes(source, unlist(c(to, gaps), use.names = FALSE))),
    new = as.integer(c(rep(text_to_number(names(to)), lengths(to)), rep(NA, sum(lengths(gaps))))),
    reason = c(rep(0L, sum(lengths(to))), rep(match(names(gaps), book$reasons$name), lengths(gaps)))
  )
}

check_new_codes <- function(variable, book, say) {
  if (is.null(variable$codes)) {
    if (lacks(variable, "codes") && is.null(variable$list)) return(say(
      variable$path, "`codes` is missing: what do the new codes mean?"
    ))
    if (!is.null(variable$list)) say(
      where_in(variable, "codes"),
      paste0(
        "`", variable$list, "` is not a code list", did_you_mean(variable$list, names(book$lists))
      )
    )
    return()
  }
  for (new in names(variable$settings$to)) {
    number <- text_to_number(new)
    bare <- identical(variable$settings$rest, "kept") || isTRUE(variable$settings$reversed)
    if (!number %in% variable$codes$code && !bare) say(
      where_in(variable, "recode", "to", new),
      paste0("the new code `", new, "` has no label under `codes`")
    )
  }
  check_reason_codes(
    if (is.null(variable$list)) variable$codes, NULL, book$reasons, where_in(variable, "codes"), say
  )
}

check_old_codes <- function(variable, source, book, say) {
  own_path <- where_in(variable, "recode")
  if (is.null(source$codes) && !all(is.finite(source$range))) return(say(
    own_path, paste0("`", source$name, "` has an open range: its codes cannot all be named")
  ))
  for (reason in setdiff(names(variable$settings$gaps), book$reasons$name)) {
    say(
      c(own_path, "gaps", reason),
      paste0("`", reason, "` is not a missing reason", did_you_mean(reason, book$reasons$name))
    )
  }
  words <- c(variable$settings$to, variable$settings$gaps)
  sections <- rep(c("to", "gaps"), c(length(variable$settings$to), length(variable$settings$gaps)))
  seen <- integer()
  for (i in seq_along(words)) {
    codes <- old_codes(source, words[[i]])
    path <- c(own_path, sections[i], names(words)[i])
    for (odd in words[[i]][is.na(codes)]) {
      say(
        path,
        paste0(
          "`", odd, "` is not a code or label of `", source$name, "`",
          did_you_mean(odd, source$codes$label)
        )
      )
    }
    for (code in codes[!is.na(codes) & (codes %in% seen | duplicated(codes))]) {
      say(path, paste0("`", label_of(source, code), "` of `", source$name, "` is named twice"))
    }
    seen <- c(seen, codes[!is.na(codes)])
  }
  forgotten <- setdiff(all_codes(source), seen)
  if (length(forgotten) > 0) say(
    own_path,
    paste0(
      "forgets ", some_of(label_of(source, forgotten)), " of `", source$name,
      "`: every old code must go somewhere"
    )
  )
}
