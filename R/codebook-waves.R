# What differs in a wave or in one file. An entry's `by_wave` and `by_export`
# become versions of it: the entry as it holds there, or `absent`.

# Entries with `versions` (keys and origin, or `absent`) and `version_of`, which
# of them holds in each export that differs.
spread_waves <- function(entries, exports, waves, say) {
  lapply(entries, function(entry) {
    layers <- c(entry$layers, option_layers(entry, say))
    entry$layers <- NULL
    entry$keys[c("by_wave", "by_export")] <- NULL
    entry$keys <- plain_options(entry$keys)
    if (length(layers) == 0) return(with_typed(entry, exports))
    layers <- Filter(function(layer) isTRUE(layer_holds(layer, exports, waves, say)), layers)
    for (export in exports) {
      here <- Filter(
        function(layer) identical(
          layer$name, if (layer$by == "by_wave") export$wave else export$entry
        ),
        layers
      )
      if (length(here) == 0) next
      # What is said of one file beats what is said of its wave; an item beats its block.
      here <- here[order(vapply(here, `[[`, "", "by") == "by_export")]
      id <- paste(
        vapply(
          here, function(layer) paste(c(layer$path, layer$by, layer$name), collapse = " > "), ""
        ),
        collapse = " + "
      )
      if (is.null(entry$versions[[id]])) entry$versions[[id]] <- lay_over(entry, here)
      entry$version_of[[export$name]] <- id
    }
    with_typed(entry, exports, layers)
  })
}

# The two keys as layers, in the order in which they are laid over.
layers_of <- function(keys, path) {
  unlist(lapply(c("by_wave", "by_export"), function(by) {
    value <- keys[[by]]
    if (is.null(value)) return(NULL)
    if (!is_map(value)) return(list(list(by = by, name = NULL, path = path, over = value)))
    lapply(
      names(value), function(name) list(by = by, name = name, path = path, over = value[[name]])
    )
  }), recursive = FALSE)
}

fixed_keys <- c(level = "a variable has one level", kept = "a variable is kept or not in all waves",
  private = "what is private is so in all waves",
  is = "the key and the wave are the same everywhere",
  stem = "a block has one stem", items = "items say themselves what differs for them")

layer_holds <- function(layer, exports, waves, say) {
  if (is.null(layer$name)) return(say(
    c(layer$path, layer$by),
    if (layer$by == "by_wave")
      "must say for each wave what differs, `{autumn: {column: Q5}}` or `{autumn: absent}`" else
        "must say for each export what differs, `{paper: {column: Q5}}`"
  ))
  path <- c(layer$path, layer$by, layer$name)
  known <- if (layer$by == "by_wave") names(waves) else unique(vapply(
    exports, `[[`, "", "entry"
  ))
  if (!layer$name %in% known) return(say(
    path,
    paste0(
      "`", layer$name, "` is not ", if (layer$by == "by_wave") "a wave" else "an export",
      " of this codebook", did_you_mean(layer$name, known)
    )
  ))
  if (!is.null(layer$option) || identical(layer$over, "absent")) return(TRUE)
  if (!is_map(layer$over)) return(say(
    path, "must hold the keys that differ, `{column: Q5}`, or say `absent`"
  ))
  for (key in intersect(names(layer$over), names(fixed_keys))) say(
    c(path, key), paste0("`", key, "` cannot differ: ", fixed_keys[[key]])
  )
  !any(names(layer$over) %in% names(fixed_keys))
}

lay_over <- function(entry, layers) {
  keys <- entry$keys
  origin <- entry$origin
  for (layer in layers) {
    if (identical(layer$over, "absent")) keys <- NULL
    else if (!is.null(layer$option)) keys$split <- without_option(keys$split, layer$option)
    else {
      for (key in names(layer$over)) {
        keys[[key]] <- key_over(key, keys[[key]], layer$over[[key]])
        origin[[key]] <- c(layer$path, layer$by, layer$name, key)
      }
    }
    if (is.null(keys)) return("absent")
  }
  list(keys = plain_options(keys), origin = origin)
}

# Written forms add to what stands there; a way's own map says only what differs; all else replaces.
key_over <- function(key, old, new) {
  if (!is_map(old) || !is_map(new)) return(new)
  if (key %in% c("variants", "missing")) {
    for (part in names(new)) old[[part]] <- if (
      is.character(old[[part]]) && is.character(new[[part]])
    ) unique(c(old[[part]], new[[part]])) else new[[part]]
    return(old)
  }
  if (!key %in% names(ways())) return(new)
  old[names(new)] <- new
  # A question may be asked in a wave without its write-in.
  if (identical(old$other, "absent")) old$other <- NULL
  # Boxes and options name each other: what a wave does not list was not asked there.
  if (is_map(new$columns) && is_map(old$options)) old$options <- old$options[intersect(
    names(old$options), names(new$columns)
  )]
  else if (is_map(new$options) && is_map(old$columns)) old$columns <- old$columns[intersect(
    names(old$columns), names(new$options)
  )]
  old
}

without_option <- function(split, option) {
  split$options[[option]] <- NULL
  split$columns[[option]] <- NULL
  split
}

# An option may say of itself in which waves it was not offered.
option_layers <- function(entry, say) {
  options <- at_key(entry$keys$split, "options")
  if (!is_map(options)) return(NULL)
  unlist(lapply(names(options), function(name) {
    layers <- layers_of(
      if (is.list(options[[name]])) options[[name]] else list(),
      c(
        if (is.null(entry$origin$split)) c(entry$path, "split") else entry$origin$split, "options",
        name
      )
    )
    for (layer in layers) if (!identical(layer$over, "absent")) say(
      c(layer$path, layer$by, layer$name),
      paste0(
        "an option can say `absent` here; what else differs in a wave stands under the ",
        "question's own `by_wave`"
      )
    )
    lapply(Filter(function(layer) identical(layer$over, "absent"), layers), function(layer) {
      layer$over <- list()
      c(layer, list(option = name))
    })
  }), recursive = FALSE)
}

plain_options <- function(keys) {
  if (!is_map(at_key(keys$split, "options"))) return(keys)
  keys$split$options <- lapply(
    keys$split$options,
    function(field) if (is.list(field)) field[setdiff(names(field), c("by_wave", "by_export"))] else
      field
  )
  keys
}

# Companions of an entry in its versions; what has none there is absent there.
companion_versions <- function(companions, entry, spread) {
  for (id in names(entry$versions)) {
    version <- entry$versions[[id]]
    there <- if (is_absent(version)) list() else {
      as_entry <- entry
      as_entry[c("keys", "origin")] <- version
      spread(as_entry)$companions
    }
    names <- vapply(there, `[[`, "", "name")
    for (k in seq_along(companions)) {
      companion <- companions[[k]]
      place <- match(companion$name, names)
      if (is.na(place)) companions[[k]]$versions[[id]] <- "absent"
      else if (is.null(companion$keys$option) && !identical(there[[place]]$keys, companion$keys))
        companions[[k]]$versions[[id]] <- there[[place]][c("keys", "origin")]
      else next
      companions[[k]]$version_of <- entry$version_of[
        entry$version_of %in% names(companions[[k]]$versions)
      ]
    }
  }
  companions
}

# A companion's entry with what an entry of its name overrides.
override_companion <- function(companion, own) {
  exports <- union(names(companion$version_of), names(own$version_of))
  version_for <- function(entry, export) if (export %in% names(entry$version_of))
    entry$versions[[entry$version_of[[export]]]] else entry[c("keys", "origin")]
  versions <- lapply(with_names(exports, exports), function(export) {
    both <- list(version_for(companion, export), version_for(own, export))
    if (any(vapply(both, is_absent, TRUE))) "absent" else list(
      keys = override(both[[1]]$keys, both[[2]]$keys),
      origin = override(both[[1]]$origin, both[[2]]$origin)
    )
  })
  companion$keys <- override(companion$keys, own$keys)
  companion$origin <- override(companion$origin, own$origin)
  companion$versions <- if (length(versions) > 0) versions
  companion$version_of <- if (length(versions) > 0) as.list(with_names(exports, exports))
  companion
}

universe_uses <- function(variable) unique(unlist(lapply(
  all_versions(variable), function(version) version$universe$uses
)))
