# Lists that run the other way in a wave, by what stands outside them.

# Items whose list runs the other way, by the same evidence as for a new wave.
reversed_lists <- function(study, by_wave, least) {
  book <- study$book
  items <- Filter(function(variable) is_answer(variable) && is_directed(variable), book$variables)
  if (length(items) == 0) return(list())
  list_id <- vapply(items, list_of_codes, "")
  outside <- utils::head(
    names(Filter(function(variable) has_mean(variable) && is_answer(variable), book$variables)), 40
  )
  waves <- lapply(by_wave, wave_correlations, study = study, items = names(items),
    outside = outside)
  answered <- vapply(names(items), function(name) {
    vapply(by_wave, function(rows) sum(!is.na(study$data[[name]][rows])), 0L)
  }, integer(length(by_wave)))
  answered <- matrix(answered, length(by_wave))
  out <- list()
  for (k in seq_along(by_wave)[-1]) {
    same <- if (is_panel(book)) match(
      study$records$key[waves[[k]]$rows], study$records$key[by_wave[[k - 1]]]
    )
    for (id in unique(list_id)) {
      here <- names(items)[list_id == id & answered[k - 1, ] >= least & answered[k, ] >= least]
      others <- outside[vapply(book$variables[outside], list_of_codes, "") != id]
      evidence <- lapply(
        with_names(here, here),
        function(name) reversed_evidence(
          study, items[[name]], by_wave[c(k - 1, k)], waves[c(k - 1, k)], others, same
        )
      )
      reversed <- reversed_among(evidence)
      out[paste(names(reversed), names(by_wave)[k], recycle0 = TRUE)] <- reversed
    }
  }
  out
}

# What looks reversed, by more than the shares or by shares that fit clearly better mirrored: an
# answer of last wave may well have moved by itself.
reversed_among <- function(evidence) {
  if (length(evidence) == 0) return(list())
  verdicts <- with_names(judge_items(evidence), names(evidence))
  lapply(
    Filter(
      function(verdict) verdict$votes >= 2 || (verdict$votes == 1 && verdict$clear), verdicts
    ),
    `[[`, "grounds"
  )
}

# Correlations of items with what stands outside; a few thousand records tell a sign.
wave_correlations <- function(rows, study, items, outside, most = 4000) {
  rows <- if (length(rows) > most) rows[round(seq(1, length(rows), length.out = most))] else rows
  values <- function(names) vapply(
    names, function(name) as.double(study$data[[name]][rows]), numeric(length(rows))
  )
  x <- matrix(values(items), length(rows), dimnames = list(NULL, items))
  y <- matrix(values(outside), length(rows), dimnames = list(NULL, outside))
  if (length(rows) < 3) return(list(
    r = matrix(NA_real_, length(items), length(outside), dimnames = list(items, outside)),
    rows = rows
  ))
  r <- suppressWarnings(stats::cor(x, y, use = "pairwise.complete.obs"))
  r[crossprod(!is.na(x), !is.na(y)) < 20] <- NA
  list(r = r, rows = rows)
}

# `same` are the places of the sampled persons in the earlier wave.
reversed_evidence <- function(study, variable, pair, waves, outside, same) {
  value <- study$data[[variable$name]]
  codes <- sort(all_codes(variable))
  sampled <- waves[[2]]$rows
  persons <- if (is.null(same)) NA_real_ else safe_cor(value[pair[[1]]][same], value[sampled])
  evidence_of(
    shares_of(value[pair[[1]]], codes), shares_of(value[pair[[2]]], codes),
    rbind(waves[[1]]$r[variable$name, outside], waves[[2]]$r[variable$name, outside]),
    sum(!is.na(value[sampled])), persons
  )
}

# Lists of which one wave came as labels and the next as numbers, or the other way: where
# another reading of the numbers fits clearly better, that is told with both fits.
turned_lists <- function(study, by_wave, least, told) {
  book <- study$book
  names <- names(Filter(function(variable) holds_one(variable) && is_coded(variable) &&
    length(variable$codes$code) >= 2 && !isTRUE(variable$private), book$variables))
  turned <- lapply(names, function(name) {
    variable <- book$variables[[name]]
    waves <- Filter(function(wave) length(by_wave[[wave]]) >= least, waves_asked(variable, book))
    lapply(seq_along(waves)[-1], function(k) {
      pair <- waves[c(k - 1, k)]
      forms <- lapply(pair, forms_in_wave, variable = variable, book = book)
      if (setequal(forms[[1]], forms[[2]]) || paste(name, pair[2]) %in% told) return(NULL)
      turned_finding(study, variable, pair, by_wave[pair], least)
    })
  })
  Filter(Negate(is.null), unlist(turned, recursive = FALSE))
}

forms_in_wave <- function(wave, variable, book) {
  here <- platform_exports(Filter(function(export) export$wave == wave, book$exports))
  unique(unlist(lapply(here, function(export) {
    version <- version_in(variable, export)
    if (!is_absent(version)) file_holds(version, export)
  })))
}

turned_finding <- function(study, variable, pair, rows, least) {
  codes <- sort(variable$codes$code)
  value <- study$data[[variable$name]]
  old <- shares_of(value[rows[[1]]], codes)
  new <- shares_of(value[rows[[2]]], codes)
  if (sum(!is.na(value[rows[[1]]])) < least || sum(!is.na(value[rows[[2]]])) < least) return(NULL)
  shifted <- function(by) {
    place <- seq_along(codes) + by
    moved <- numeric(length(codes))
    moved[place[place %in% seq_along(codes)]] <- new[place %in% seq_along(codes)]
    moved
  }
  others <- c(
    mirrored = distance_of(old, rev(new)), `shifted by one up` = distance_of(old, shifted(1)),
    `shifted by one down` = distance_of(old, shifted(-1))
  )
  best <- which.min(others)
  same <- distance_of(old, new)
  if (!is_clearly_better(same, others[[best]])) return(NULL)
  new_finding("warning", "codes_turned", variable$name, pair[2], length(rows[[2]]), integer(),
    c(variable$path, "by_wave", pair[2]),
    paste0(
      "came as labels in one of ", pair[1], " and ", pair[2], " and as numbers in the other; ",
      "as they are read shares differ by ", number_show(100 * same, 0), " points, ",
      names(others)[best], " by ", number_show(100 * others[[best]], 0),
      ": look at the questionnaire, and say under `delivered` what each number stands for"
    ))
}
