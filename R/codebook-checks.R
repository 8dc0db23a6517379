# Universes, rules and screens: read by the tables of their kinds, their
# conditions checked, and all of it put into one order of work.

# `troubled` where the codebook has problems already: what was misread may well
# trip a check, and the other problems are told as far as they can be.
compile_checks <- function(top, book, say, troubled) {
  book <- compile_universes(book, say)
  book$rules <- compile_parts(top$rules, "rules", rules(), rule_fields(), book, say, troubled)
  book$rules <- lapply(book$rules, name_set_aside, book = book, say = say)
  book$screens <- compile_parts(
    top$screens, "screens", screens(), screen_fields(), book, say, troubled
  )
  check_screen_names(names(book$screens), say)
  if (!is.null(top$duplicates)) book$duplicates <- compile_duplicates(top$duplicates, book, say)
  book$complete <- spread_names(top$study$complete, c("study", "complete"), book, say)
  order_work(book, say)
}

compile_universes <- function(book, say) {
  ids <- character()
  made <- list()
  condition_of <- function(variable) {
    if (is.null(variable$universe)) return(NULL)
    path <- where_in(variable, "universe")
    if (way_of(variable)$everybody) say(
      path,
      paste0("the ", variable$settings, " is there for everybody: a universe has no meaning here")
    )
    id <- joined_list(c(variable$universe, path))
    place <- match(id, ids)
    if (is.na(place)) {
      ids <<- c(ids, id)
      place <- length(ids)
      made[[place]] <<- list(compile_expression(variable$universe, book, path, say))
    }
    made[[place]][[1]]
  }
  for (name in names(book$variables)) {
    variable <- book$variables[[name]]
    book$variables[[name]]$universe <- condition_of(variable)
    for (version in names(variable$versions)) if (!is_absent(variable$versions[[version]]))
      book$variables[[name]]$versions[[version]]$universe <-
        condition_of(variable$versions[[version]])
  }
  book
}

# Blocks and variables as variables.
spread_names <- function(names, path, book, say) {
  known <- c(names(book$variables), book$unread)
  for (name in setdiff(names, c(known, names(book$blocks)))) {
    say(
      path,
      paste0(
        "`", name, "` is not a variable or block of this codebook",
        did_you_mean(name, c(known, names(book$blocks)))
      )
    )
  }
  # A question with several answers counts as one.
  unique(unlist(lapply(
    names,
    function(name) if (name %in% names(book$blocks) && !name %in% names(book$variables))
      book$blocks[[name]] else intersect(name, names(book$variables))
  )))
}

is_answer <- function(variable) length(columns_of(variable)) > 0

# What a respondent told and the study keeps.
is_kept_answer <- function(variable) is_answer(variable) && (
  variable$kept || isTRUE(variable$carrier)
)

duplicate_fields <- function() {
  list(
    keep = field("choice", "which of several records of one respondent is retained", "last",
      required = TRUE,
      values = c("first", "last", "fullest", "none")),
    by = field("text", "for `first` and `last`: the variable that tells their order", "ended")
  )
}

compile_duplicates <- function(duplicates, book, say) {
  by <- duplicates$by
  if (is.null(by)) {
    if (isTRUE(duplicates$keep %in% c("first", "last"))) say(
      "duplicates",
      paste0(
        "`by` is missing: the ", duplicates$keep,
        " by which variable? (never by the place in a file)"
      )
    )
    return(duplicates)
  }
  variable <- book$variables[[by]]
  if (is.null(variable)) {
    if (!by %in% book$unread) say(
      c("duplicates", "by"),
      paste0(
        "`", by, "` is not a variable of this codebook", did_you_mean(by, names(book$variables))
      )
    )
  } else if (isTRUE(duplicates$keep %in% c("fullest", "none"))) {
    say(c("duplicates", "by"), paste0("goes with `first` and `last` only"))
  } else if (!(
    variable$storage %in% c("number", "date") ||
    (is_coded(variable) && variable$level %in% ordered_levels)
  )) {
    say(
      c("duplicates", "by"),
      paste0(
        "`", by, "` has no order (level ", variable$level,
        "): name a date, a number or an ordinal variable"
      )
    )
  }
  duplicates
}

# The work graph: an answer that a rule may set aside is routed (`q:`) before it
# is settled (`v:`); rules (`r:`) read the answers they may set aside as routed.
order_work <- function(book, say) {
  late <- names(Filter(is_disposition, book$variables))
  edges <- work_edges(book)
  for (name in intersect(
    late,
    c(
      unlist(book$uses), unlist(lapply(book$variables, universe_uses)),
      unlist(lapply(c(book$rules, book$screens), `[[`, "reads"))
    )
  )) {
    say(
      book$variables[[name]]$path,
      paste0("nothing can be made of `", name, "`: the disposition is known only when all else is")
    )
  }
  edges <- edges[setdiff(names(edges), paste0("v:", late))]
  edges <- lapply(edges, intersect, names(edges))
  sorted <- graph_order(edges)
  # A circle among ways was told already.
  if (!is.null(sorted$cycle) && !isTRUE(book$circular)) say_cycle(sorted$cycle, book, say)
  book$work <- sorted$order
  book$work_uses <- edges
  book
}

work_edges <- function(book) {
  may <- lapply(with_names(names(book$variables), names(book$variables)), function(name) {
    names(Filter(function(rule) name %in% rule$aside, book$rules))
  })
  tag <- function(kind, names) if (length(names) > 0) paste0(kind, ":", names) else character()
  routed <- names(may)[lengths(may) > 0]
  of_variable <- lapply(book$variables, function(variable) {
    name <- variable$name
    filters <- tag("v", universe_uses(variable))
    c(
      if (name %in% routed) c(tag("q", name), tag("r", may[[name]])) else filters,
      tag("v", book$uses[[name]])
    )
  })
  of_routed <- lapply(book$variables[routed], function(variable) tag("v", universe_uses(variable)))
  of_rule <- lapply(book$rules, function(rule) if (is.null(rule$files)) c(tag("q", rule$aside),
    tag("v", setdiff(rule$reads, rule$aside))))
  # An earlier wave's answer is that of the retained record.
  earlier <- names(Filter(takes_earlier, book$variables))
  of_variable[earlier] <- lapply(of_variable[earlier], c, "s:")
  names(of_variable) <- tag("v", names(of_variable))
  names(of_routed) <- tag("q", names(of_routed))
  names(of_rule) <- tag("r", names(of_rule))
  c(
    of_routed, of_rule, of_variable,
    if (length(earlier) > 0) list("s:" = tag("v", read_by_screens(book)))
  )
}

read_by_screens <- function(book) {
  unique(c(
    unlist(lapply(book$screens, function(screen) c(screen$reads, screen$counts))),
    book$duplicates$by,
    if (identical(book$duplicates$keep, "fullest")) names(Filter(is_kept_answer, book$variables))
  ))
}

say_cycle <- function(cycle, book, say) {
  shown <- ifelse(
    cycle == "s:", "who is retained",
    ifelse(startsWith(cycle, "r:"), paste("rule", substring(cycle, 3)), substring(cycle, 3))
  )
  shown <- shown[c(TRUE, shown[-1] != shown[-length(shown)])]
  if (length(shown) > 1 && shown[1] == shown[length(shown)]) shown <- shown[-length(shown)]
  first <- cycle[1]
  path <- if (first == "s:") "screens" else if (startsWith(first, "r:")) book$rules[[substring(
    first, 3
  )]]$path else {
    variable <- book$variables[[substring(first, 3)]]
    if (is.null(variable$universe)) variable$path else where_in(variable, "universe")
  }
  say(
    path,
    paste0(
      "goes in a circle: ", paste(c(shown, shown[1]), collapse = " <- "),
      "; what decides about an answer cannot rest on it"
    )
  )
}

accepted_fields <- function() {
  list(
    kind = field("text", "the kind of the finding", "unlisted", required = TRUE),
    variable = field("text", "the variable it is about; any if not said", "years"),
    written = field("text", "the text it is about; any if not said", "since school"),
    path = field("text", "its place in the codebook; any if not said", "rules > joined_after"),
    note = field("text", "why it may be so", "cannot be known")
  )
}
