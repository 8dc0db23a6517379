# What the figure of the flow shows: each step from where the one before ended.

flow_breaks <- function(top) pretty(c(0, top), 5)[pretty(c(0, top), 5) <= top]

flow_steps <- function(study) {
  counts <- disposition_counts(study)
  drops <- dropped_of(counts)
  retained <- counts[setdiff(names(counts), names(drops))]
  came <- sum(counts)
  after <- came - cumsum(as.integer(drops))
  ends <- sum(retained) - cumsum(as.integer(retained))
  count <- c(came, as.integer(drops), as.integer(retained))
  data.frame(
    name = c("received", paste("\u2212", names(drops), recycle0 = TRUE),
      if (identical(names(retained), "retained")) "retained" else paste("retained:",
      tolower_ascii(dispositions[names(retained)]), recycle0 = TRUE)),
    from = c(0, after, ends), to = c(came, after + as.integer(drops), ends + as.integer(retained)),
    part = rep(c("all", "drop", "retained"), c(1, length(drops), length(retained))),
    label = paste0(grouped(count), " (", percent_shown(100 * count / came), ")")
  )
}
