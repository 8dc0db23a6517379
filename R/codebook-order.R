# Variables in the order in which they need each other, each made and checked.

# Along the graph every variable learns its level, codes and range from what it
# is made of, and its way checks it against the rest.
order_and_make <- function(book, say) {
  uses <- lapply(book$variables, function(variable) {
    of_version <- function(version) way_of(variable)$uses(version, book)
    unique(unlist(lapply(all_versions(variable), of_version)))
  })
  for (name in names(uses)) check_uses(book$variables[[name]], uses[[name]], book, say)
  whole <- vapply(uses, function(needs) all(needs %in% names(book$variables)), TRUE)
  book$uses <- lapply(uses, intersect, names(book$variables))
  sorted <- graph_order(book$uses)
  if (!is.null(sorted$cycle)) {
    first <- book$variables[[sorted$cycle[1]]]
    say(where_in(first, first$way), paste0(
      "goes in a circle: ", paste(c(sorted$cycle, sorted$cycle[1]), collapse = " <- "),
      "; a variable cannot be made from itself"
    ))
    book$circular <- TRUE
  }
  book$order <- sorted$order
  sound <- character()
  for (name in sorted$order) {
    if (!whole[[name]] || !all(book$uses[[name]] %in% sound)) next
    made <- make_checked(book$variables[[name]], book, say)
    if (made$sound) {
      inputs <- book$variables[book$uses[[name]]]
      private <- any(vapply(inputs, function(input) isTRUE(input$private), TRUE))
      if (is.null(made$variable$private)) made$variable$private <- private
      sound <- c(sound, name)
    }
    book$variables[[name]] <- made$variable
  }
  book
}

# Where a field could not be read nothing that rests on it is told a second time; its other problems
# are told as far as they can be.
make_checked <- function(variable, book, say) {
  failed <- variable$failed
  note <- function(path, message) {
    failed <<- TRUE
    say(path, message)
  }
  checked <- function() {
    made <- way_of(variable)$makes(variable, book)
    way_of(variable)$check(made, book, but_unread(variable, note))
    make_versions(made, book, note)
  }
  made <- if (variable$failed) tryCatch(checked(), error = function(e) variable) else checked()
  list(variable = made, sound = !failed)
}

check_uses <- function(variable, uses, book, say) {
  for (name in setdiff(uses, c(names(book$variables), book$unread))) {
    known <- c(names(book$variables), names(book$blocks))
    say(
      where_in(variable, variable$way),
      paste0("`", name, "` is not a variable of this codebook", did_you_mean(name, known))
    )
  }
}

# Inputs before what is made of them, else in the codebook's order; or a cycle.
graph_order <- function(uses) {
  done <- character()
  open <- names(uses)
  repeat {
    ready <- open[vapply(uses[open], function(needs) all(needs %in% done), TRUE)]
    if (length(ready) == 0) break
    done <- c(done, ready)
    open <- setdiff(open, ready)
  }
  if (length(open) == 0) return(list(order = done, cycle = NULL))
  trail <- open[1]
  repeat {
    from <- intersect(uses[[trail[length(trail)]]], open)[1]
    if (from %in% trail) return(list(order = done, cycle = trail[match(from, trail):length(trail)]))
    trail <- c(trail, from)
  }
}

# All that a variable is made of, and what that is made of in turn; of those in `but` no further.
all_uses <- function(name, book, but = character()) {
  seen <- character()
  uses <- book$uses[[name]]
  while (length(uses) > 0) {
    seen <- union(seen, uses)
    uses <- setdiff(unlist(book$uses[setdiff(uses, but)]), seen)
  }
  seen
}
