compile_variables <- function(value, book, say) {
  book$variables <- list()
  book$blocks <- list()
  if (is.null(value)) return(book)
  if (!is_map(value)) {
    say("variables", "must hold entries with names of their own")
    return(book)
  }
  entries <- spread_waves(
    spread_recodes(spread_blocks(value, say), value, say), book$exports, book$waves, say
  )
  spread <- spread_companions(apply_instruments(entries, book$instruments, say))
  entries <- spread$entries
  book$blocks <- split(vapply(entries, `[[`, "", "name"), factor(
    vapply(entries, function(entry) paste0(entry$block, ""), ""), unique(unlist(lapply(
      entries, `[[`, "block"
    )))
  ))
  check_variable_names(entries, names(book$blocks), say)
  book$blocks <- c(book$blocks, spread$sets)
  variables <- lapply(entries, function(entry) read_versions(read_variable(entry, say), entry, say))
  names(variables) <- vapply(entries, `[[`, "", "name")
  variables <- variables[!duplicated(names(variables))]
  broken <- vapply(variables, is.null, TRUE)
  book$unread <- names(variables)[broken]
  book$variables <- variables[!broken]
  order_and_make(book, say)
}

is_block <- function(entry) is.list(entry) && "items" %in% names(entry)

# One entry a variable: a block's shared keys, overridden by the item's own.
# `origin` keeps the path at which each key stands.
spread_blocks <- function(value, say) {
  spread <- lapply(names(value), function(name) {
    entry <- value[[name]]
    path <- c("variables", name)
    if (!is_map(entry)) {
      say(path, "must hold keys: a way (such as `column`), a label, a level")
      return(NULL)
    }
    if (!is_block(entry)) {
      return(list(list(
        name = name, block = NULL, stem = NULL, path = path, keys = entry,
        origin = origin_of(path, entry), layers = layers_of(entry, path)
      )))
    }
    shared <- entry[setdiff(names(entry), c(names(block_fields()), "label"))]
    if ("label" %in% names(entry)) say(
      c(path, "label"), "a block has a `stem`; each of its items has a label of its own"
    )
    if (!is.null(entry$stem) && !is_text(entry$stem)) say(c(path, "stem"), "must be one text")
    if (!is_map(entry$items)) {
      say(c(path, "items"), "must hold the items of the block, each with its name")
      return(NULL)
    }
    lapply(names(entry$items), function(item) {
      own <- entry$items[[item]]
      inner <- c(path, "items", item)
      if (!is_map(own)) {
        say(inner, "must hold keys: a way (such as `column`) and a label")
        own <- list()
      }
      list(name = item, block = name, stem = entry$stem, path = inner, keys = override(shared, own),
        origin = override(origin_of(path, shared), origin_of(inner, own)), layers = c(
          layers_of(shared, path), layers_of(own, inner)
        ))
    })
  })
  unlist(spread, recursive = FALSE)
}

# An item's own `split` says only what differs from the block's.
override <- function(shared, own) {
  if (is_map(shared$split) && is_map(own$split)) own$split <- override(shared$split, own$split)
  shared[names(own)] <- own
  shared
}

# A recode of a block, or of a list of variables, becomes a block of recodes.
spread_recodes <- function(entries, value, say) {
  known <- with_names(lapply(entries, `[[`, "keys"), vapply(entries, `[[`, "", "name"))
  unlist(lapply(entries, function(entry) {
    recode <- entry$keys$recode
    of <- recoded_items(recode, value)
    if (is.null(of)) return(list(entry))
    if (is.null(recode$ending)) say(c(entry$path, "recode"), paste0(
      "`ending` is missing: what the names of the recoded items end in, `ending: _turned` makes `",
      of$items[1], "_turned`"
    ))
    ending <- if (is_text(recode$ending)) recode$ending else "_recoded"
    lapply(of$items, function(item) {
      own <- entry
      own$name <- paste0(item, ending)
      own$block <- entry$name
      own$stem <- if (is_text(entry$keys$label)) entry$keys$label else of$stem
      own$keys$recode$of <- item
      own$keys$recode$ending <- NULL
      # One that is not there is told once, not by what it lacks.
      own$keys$label <- if (is.null(known[[item]])) item else at_key(known[[item]], "label")
      own$keys$question <- NULL
      own
    })
  }), recursive = FALSE)
}

# The names that a recode goes over, with their stem; NULL where it is of one variable.
recoded_items <- function(recode, value) {
  if (!is_map(recode) || !is.character(recode$of)) return(NULL)
  block <- if (length(recode$of) == 1) Filter(is_block, value)[[recode$of]]
  if (!is.null(block)) return(
    if (is_map(block$items)) list(items = names(block$items), stem = block$stem)
  )
  if (length(recode$of) > 1 || !is.null(recode$ending) && isTRUE(attr(recode$of, "list")))
    list(items = unique(recode$of))
}

# Entries with the variables that come with them right behind. An entry of such
# a name that says no way of its own overrides what it says.
spread_companions <- function(entries) {
  sets <- list()
  known <- ways()
  out <- list()
  for (entry in entries) {
    keys <- intersect(names(entry$keys), names(Filter(function(way) !is.null(way$spread), known)))
    spread <- if (length(keys) == 1) known[[keys]]$spread(entry)
    if (is.null(spread)) {
      out <- c(out, list(entry))
      next
    }
    if (length(spread$members) > 0) sets[[entry$name]] <- spread$members
    out <- c(
      out, if (!is.null(spread$entry)) list(spread$entry),
      companion_versions(spread$companions, entry, known[[keys]]$spread)
    )
  }
  made <- vapply(Filter(function(entry) !is.null(entry$with), out), `[[`, "", "name")
  own <- vapply(
    out,
    function(entry) is.null(entry$with) && entry$name %in% made &&
      !any(names(entry$keys) %in% names(known)),
    TRUE
  )
  for (entry in out[own]) {
    place <- which(vapply(out, function(entered) !is.null(entered$with) && entered$name ==
      entry$name,
      TRUE))[1]
    out[[place]] <- override_companion(out[[place]], entry)
  }
  list(entries = out[!own], sets = sets)
}

origin_of <- function(path, keys) lapply(
  with_names(names(keys), names(keys)), function(key) c(path, key)
)

check_variable_names <- function(entries, blocks, say) {
  names <- vapply(entries, `[[`, "", "name")
  for (entry in entries) {
    if (entry$name %in% blocks) say(
      entry$path,
      paste0(
        "`", entry$name, "` is the name of a block too: names are shared by blocks and variables"
      )
    )
  }
  for (k in which(duplicated(names))) say(
    entries[[k]]$path, paste0("the name `", names[k], "` is taken already")
  )
  for (name in unique(c(names, blocks))) {
    path <- if (name %in% names) entries[[match(name, names)]]$path else c("variables", name)
    if (!stringi::stri_detect_regex(name, study_name)) {
      check_names(name, path[-length(path)], study_name, say)
    } else if (name %in% reserved_words) {
      say(
        path,
        paste0("`", name, "` has a meaning of its own in R or in conditions: give another name")
      )
    }
  }
}

# Somebody who works at one entry has the whole codebook read over and over: an entry that says the
# same reads the same, with all there is to say of it.
read_variable <- function(entry, say) {
  input <- list(entry, names(ways()))
  read <- lately_of("variables_read", entry$name, input, function(input) {
    said <- list()
    variable <- read_entry_keys(entry, function(path, message) {
      said[[length(said) + 1]] <<- list(path, message)
      NULL
    })
    list(variable = variable, said = said)
  })
  for (what in read$said) say(what[[1]], what[[2]])
  read$variable
}

# The entry's keys read by their fields; `variable$origin` says where each stands.
read_entry_keys <- function(entry, say) {
  failed <- FALSE
  report <- say
  say <- function(path, message) {
    failed <<- TRUE
    report(path, message)
  }
  unread <- list()
  say_unread <- function(path, message) {
    unread[[length(unread) + 1]] <<- path
    say(path, message)
  }
  known <- if (is.null(entry$with)) open_ways() else ways()
  given <- intersect(names(entry$keys), names(known))
  keyed <- function(key) if (is.null(entry$origin[[key]])) c(entry$path, key) else
    entry$origin[[key]]
  if (length(given) != 1) {
    say_no_way(entry, given, known, keyed, say)
    return(NULL)
  }
  way <- known[[given]]
  fields <- c(variable_fields(), way$beside)
  for (key in setdiff(names(entry$keys), c(given, names(fields)))) {
    say(keyed(key), unknown_key(key, c(given, names(fields))))
  }
  variable <- lapply(fields, function(field) field$default)
  for (key in intersect(names(fields), names(entry$keys))) {
    variable[[key]] <- read_field(entry$keys[[key]], fields[[key]], keyed(key), say_unread)
  }
  settings <- read_field(entry$keys[[given]], way$value, keyed(given), say_unread)
  if (is.null(settings)) return(NULL)
  if (isTRUE(variable$kept) && is.null(variable$label)) say(
    entry$path, "`label` is missing: a kept variable needs one"
  )
  if (!is.null(entry$with)) variable$with <- entry$with
  do.call(new_variable, c(
    list(name = entry$name, block = entry$block, stem = entry$stem, path = entry$path,
      origin = entry$origin, said = names(entry$keys), failed = failed,
      unread = unread, way = given, settings = settings),
    Filter(Negate(is.null), variable[setdiff(names(variable), c("name", "block", "stem"))])
  ))
}

# A misspelt way is told where it stands, and not that there is none.
say_no_way <- function(entry, given, known, keyed, say) {
  if (length(given) > 1) return(say(entry$path, paste0("has ", length(given), " ways (",
    some_of(given), "): a variable is made in one")))
  odd <- setdiff(names(entry$keys), c(names(variable_fields()),
    unlist(lapply(known, function(way) names(way$beside)))))
  near <- Filter(function(key) !is.null(nearest(key, names(known))), odd)
  for (key in near) say(keyed(key), paste0("`", key, "` is not a key that can stand here",
    did_you_mean(key, names(known))))
  if (length(near) > 0) return()
  say(entry$path, paste0("does not say how it is made: one of ", some_of(names(known), 12)))
  for (key in odd) say(keyed(key), paste0("`", key, "` is not a key that can stand here"))
}

where_in <- function(variable, ...) {
  keys <- c(...)
  origin <- variable$origin[[keys[1]]]
  c(if (is.null(origin)) c(variable$path, keys[1]) else origin, keys[-1])
}

# Whether nothing stands under a key: what could not be read was told already. Two keys are those
# of the way and of one of its settings.
lacks <- function(variable, ...) {
  keys <- c(...)
  value <- if (length(keys) == 1) variable[[keys]] else variable$settings[[keys[2]]]
  here <- where_in(variable, keys)
  is.null(value) && !any(vapply(
    variable$unread, function(path) begins_path(here, path) || begins_path(path, here), TRUE
  ))
}

# Problems but for those of what could not be read.
but_unread <- function(variable, note) function(path, message) {
  told <- vapply(variable$unread, begins_path, TRUE, path = path)
  if (!any(told)) note(path, message)
}

begins_path <- function(start, path) identical(utils::head(path, length(start)), start)

# What an entry says of its write-in.
other_of <- function(variable) way_of(variable)$write_in(variable)
