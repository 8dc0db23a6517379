# What goes out beside a changed variable must tell no more than that.

# `before` and `after` hold the same rows. Gives a list of `path` and `message`.
telling_problems <- function(before, after, release) {
  changed <- names(release$disclosure$changes)
  plain <- setdiff(release$variables, changed)
  path <- c(release$path, "disclosure")
  found <- lapply(changed, function(name) {
    book <- before$book
    sources <- intersect(all_uses(name, book), plain)
    same <- Filter(function(other) length(intersect(
      read_columns(name, book), read_columns(other, book)
    )) > 0, plain)
    gated <- Filter(function(other) name %in% universe_uses(book$variables[[other]]), plain)
    made <- Filter(function(other) name %in% all_uses(other, book), plain)
    c(
      lapply(sources, function(other) paste0(
        "`", name, "` is changed, and `", other, "`, of which it is made, goes out as it is"
      )),
      lapply(same, function(other) paste0(
        "`", name, "` is changed, and `", other, "` reads the same column and goes out as it is"
      )),
      lapply(made, function(other) {
        why <- tells_more(other, changed, before, after, release)
        if (!is.null(why)) paste0(
          "`", other, "` is made of `", name, "`, which is changed, and ", why
        )
      }),
      lapply(gated, function(other) if (gate_tells_more(other, before, after)) paste0(
        "who was asked `", other, "` depends on `", name, "`, which is changed, and tells answers ",
        "apart that the change puts together"
      ))
    )
  })
  lapply(unique(unlist(found)), function(message) list(path = path, message = paste0(
    message, ": leave it out (`without`), or change it too"
  )))
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
  reason <- before$reasons[[name]]
  asked <- if (is.null(reason)) rep(1L, nrow(before$data)) else 1L + (
    reason %in% c("not_asked", "set_aside")
  )
  inputs <- combination_of(lapply(uses, function(one) value_or_reason(after, one)))
  max(combination_of(list(inputs, asked)), 0L) > max(inputs, 0L)
}

all_uses <- function(name, book) {
  seen <- character()
  uses <- book$uses[[name]]
  while (length(uses) > 0) {
    seen <- union(seen, uses)
    uses <- setdiff(unlist(book$uses[uses]), seen)
  }
  seen
}

# Ways whose values can be no finer than what they are made of.
plain_ways <- c("bands", "recode", "when")

# NULL where each changed value goes with one value of it, by the way it is made and in the data.
tells_more <- function(name, changed, before, after, release) {
  book <- before$book
  variable <- book$variables[[name]]
  uses <- book$uses[[name]]
  if (!variable$way %in% plain_ways || !any(changed %in% uses) ||
    any(changed %in% unlist(lapply(setdiff(uses, changed), all_uses, book = book))))
    return("may tell more than that")
  said <- release$disclosure$changes
  for (source in intersect(uses, changed)) if (!made_no_finer(
    variable, book$variables[[source]], said[[source]]
  )) return("cuts it finer than that")
  inputs <- combination_of(lapply(uses, function(one) value_or_reason(after, one)))
  both <- combination_of(list(inputs, value_or_reason(before, name)))
  if (max(both, 0L) > max(inputs, 0L)) "tells answers apart that the change puts together"
}

# By its cuts, or the codes it puts together; a pseudonym stands for one value each.
made_no_finer <- function(variable, source, change) {
  if (change$kind == "pseudonym" || variable$way == "when") return(TRUE)
  if (change$kind == "shift") return(FALSE)
  if (variable$way == "recode") {
    codes <- all_codes(source)
    old <- lapply(variable$settings$to, old_codes, source = source)
    new <- rep(names(variable$settings$to), lengths(old))[match(codes, unlist(old))]
    coarse <- coarse_of(source, codes, change)
    return(all(tapply(new, coarse, function(group) length(unique(group)) == 1)))
  }
  edges <- if (is.null(variable$settings$starts)) variable$settings$ends else
    variable$settings$starts
  cuts <- edges$at
  near <- 1e-9 * pmax(1, abs(cuts))
  changed <- function(value) if (change$kind == "limit") pmin(
    pmax(value, change$range[1]), change$range[2]
  ) else coarse_of(source, value, change)
  band <- function(value) band_of(value, variable$settings)
  for (at in seq_along(cuts)) {
    pair <- cuts[at] + c(-1, 0, 1) * near[at]
    bands <- band(pair)
    for (step in 1:2) if (!anyNA(bands[step + 0:1]) && bands[step] != bands[step + 1] &&
      identical(changed(pair[step]), changed(pair[step + 1]))) return(FALSE)
  }
  TRUE
}
