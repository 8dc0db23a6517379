# What goes out beside a changed variable must tell no more than that.

# `before` and `after` hold the same rows. Gives a list of `path` and `message`.
telling_problems <- function(before, after, release) {
  changes <- release$disclosure$changes
  changed <- names(changes)
  told <- lapply(changed, function(name) {
    beside <- beside_changed(name, setdiff(release$variables, changed), before$book)
    # What is made of a key may name persons in the sentence that says how.
    hides <- changes[[name]]$kind == "pseudonym"
    c(
      beside$sources, beside$same,
      lapply(names(beside$made), function(other) {
        why <- if (hides) "may tell more than that" else tells_more(
          other, changes, before, after
        )
        if (!is.null(why)) paste0(beside$made[[other]], why)
      }),
      lapply(names(beside$gated), function(other) {
        if (hides || gate_tells_more(other, before, after)) beside$gated[[other]]
      })
    )
  })
  as_problems(told, release)
}

# An answer that is emptied must not stand anywhere else either.
emptied_problems <- function(study, release) {
  emptied <- release$disclosure$smallest$blank
  as_problems(lapply(emptied, function(name) {
    beside <- beside_changed(name, setdiff(release$variables, emptied), study$book)
    c(beside$sources, beside$same, paste0(unlist(beside$made), "may tell it", recycle0 = TRUE),
      beside$gated)
  }), release)
}

as_problems <- function(messages, release) lapply(unique(unlist(messages)), function(message) list(
  path = c(release$path, "disclosure"), message = paste0(
    message, ": leave it out (`without`), or change it too"
  )
))

# What of `out` stands in some relation to a changed variable, each with the words for it.
beside_changed <- function(name, out, book) {
  kinds_where <- function(test) Filter(test, out)
  words <- function(names, text) with_names(lapply(names, text), names)
  own <- read_columns(name, book)
  list(
    sources = words(intersect(all_uses(name, book), out), function(other) paste0(
      "`", name, "` is changed, and `", other, "`, of which it is made, goes out as it is"
    )),
    same = words(kinds_where(function(other) any(own %in% read_columns(other, book))), function(
      other
    ) paste0("`", name, "` is changed, and `", other,
      "` reads the same column and goes out as it is")),
    made = words(kinds_where(function(other) name %in% all_uses(other, book)),
      function(other) paste0(
      "`", other, "` is made of `", name, "`, which is changed, and "
    )),
    gated = words(kinds_where(function(other) name %in% universe_uses(book$variables[[other]])),
      function(
      other
    ) paste0("who was asked `", other, "` depends on `", name,
      "`, which is changed, and tells answers apart that the change puts together"))
  )
}

# The key reads a column of each export too.
read_columns <- function(name, book) {
  variable <- book$variables[[name]]
  if (is_key(variable)) vapply(book$exports, `[[`, "", "key", USE.NAMES = FALSE) else
    columns_of(variable)
}

# Whether being asked goes with what the changed values say. Answers of those who were not asked
# are set aside.
gate_tells_more <- function(name, before, after) {
  uses <- universe_uses(before$book$variables[[name]])
  if (!all(uses %in% names(after$data))) return(TRUE)
  reason <- before$reasons[[name]]
  asked <- if (is.null(reason)) rep(1L, nrow(before$data)) else 1L + (
    reason %in% c("not_asked", "set_aside")
  )
  inputs <- combination_of(lapply(uses, function(used) value_or_reason(after, used)))
  max(combination_of(list(inputs, asked)), 0L) > max(inputs, 0L)
}

# NULL where each changed value goes with one value of it, by the way it is made and in the data.
tells_more <- function(name, changes, before, after) {
  book <- before$book
  variable <- book$variables[[name]]
  uses <- book$uses[[name]]
  changed <- names(changes)
  # Private inputs are not at hand, and what they tell cannot be looked at.
  no_finer <- way_of(variable)$no_finer
  if (is.null(no_finer) || !any(changed %in% uses) || !all(uses %in% names(after$data)) ||
    any(changed %in% unlist(lapply(setdiff(uses, changed), all_uses, book = book))))
    return("may tell more than that")
  for (source in book$variables[intersect(uses, changed)]) if (!no_finer(
    variable, source, coarser_by(source, changes[[source$name]])
  )) return("cuts it finer than that")
  inputs <- combination_of(lapply(uses, function(used) value_or_reason(after, used)))
  both <- combination_of(list(inputs, value_or_reason(before, name)))
  if (max(both, 0L) > max(inputs, 0L)) "tells answers apart that the change puts together"
}

# The values of a source as a change leaves them; of shifted ones nothing can be told.
coarser_by <- function(source, change) function(value) switch(change$kind,
  shift = rep(0, length(value)), limit = pmin(pmax(value, change$range[1]), change$range[2]),
  coarse_of(source, value, change)
)
