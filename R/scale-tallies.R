# What the pages of a study count, each counted once: variables, old by new, scales.

tally_study <- function(study) {
  if (!is.null(study$tallies)) return(study)
  kept <- kept_variables(study$book)
  each <- function(names, tally) by_two(with_names(names, names), function(name) {
    tally(study, name)
  }, shares_work(nrow(study$data)))
  scores <- intersect(kept, names(Filter(is_score, study$book$variables)))
  study$tallies <- list(counts = each(kept, count_variable))
  study$tallies$proofs <- each(kept, proof_of)
  study$tallies$scales <- examine_scales(study, scores)$scales
  study
}
