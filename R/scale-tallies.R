# What the pages of a study count, each counted once: variables, old by new, scales.

tally_study <- function(study) {
  if (!is.null(study$tallies)) return(study)
  kept <- kept_variables(study$book)
  shared <- shares_work(nrow(study$data))
  study$tallies <- list(counts = by_two(
    with_names(kept, kept), function(name) count_variable(study, name), shared
  ))
  scores <- intersect(kept, names(Filter(is_score, study$book$variables)))
  examined <- function(score) examine_scales(study, score)$scales
  # Scales, which take longest, first; they go by what was counted.
  counted <- by_two(c(
    lapply(with_names(scores, scores), function(score) function() examined(score)),
    lapply(with_names(kept, kept), function(name) function() proof_of(study, name))
  ), function(count) count(), shared)
  of_scales <- seq_along(counted) <= length(scores)
  study$tallies$proofs <- counted[!of_scales]
  study$tallies$scales <- unlist(unname(counted[of_scales]), recursive = FALSE)
  study
}
