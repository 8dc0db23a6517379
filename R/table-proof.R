# Old by new: for a derived variable what became of each value and gap of what it
# is made of, over the retained respondents.

proof_of <- function(study, name) {
  variable <- study$book$variables[[name]]
  used <- study$book$uses[[name]]
  if (length(used) == 0) return(NULL)
  hidden <- private_variables(study$book)
  if (name %in% hidden) return(NULL)
  sources <- setdiff(used, hidden)
  shows <- way_of(variable)$proof
  if (shows == "none") return(NULL)
  if (shows == "reversed") return(c(
    list(range_proof(study, variable)),
    lapply(intersect(variable$settings$reversed, sources), reversed_proof, study = study)
  ))
  if (length(sources) > 6) sources <- utils::head(sources, 6)
  Filter(
    Negate(is.null),
    c(
      list(if (shows == "range") range_proof(study, variable)),
      lapply(
        sources, function(source) source_proof(study, variable, study$book$variables[[source]])
      )
    )
  )
}

# Labels of values, and of reasons in gaps, as a factor in the codebook's order.
shown_states <- function(study, name) {
  variable <- study$book$variables[[name]]
  tally <- study$tallies$counts[[name]]
  if (is.null(tally)) tally <- count_variable(study, name)
  codes <- as.integer(tally$codes$code)
  used <- match(tally$gaps$name, study$book$reasons$name)
  number <- number_to_text(codes)
  label <- label_of(variable, codes)
  labels <- c(
    ifelse(label == number, number, paste(number, label)),
    paste0("(", study$book$reasons$label[used], ")", recycle0 = TRUE)
  )
  structure(
    states_at(study$data[[name]], study$reasons[[name]], study$retained, codes, used),
    levels = make.unique(labels), class = "factor"
  )
}

source_proof <- function(study, variable, source) {
  if (is_coded(source) && is_coded(variable)) {
    old <- shown_states(study, source$name)
    new <- shown_states(study, variable$name)
    counts <- count_pairs(old, new, nlevels(old), nlevels(new))
    met <- rowSums(counts) > 0
    return(list(
      kind = "cross", source = source$name, rows = levels(old)[met], columns = levels(new),
      counts = counts[met, , drop = FALSE]
    ))
  }
  if (source$storage == "number" && is_coded(variable))
    return(spread_proof(study, variable, source))
  if (way_of(variable)$proof == "gaps" && source$name == variable$settings$of) return(gap_proof(
    study, variable, source
  ))
  if (way_of(variable)$proof == "lookup") return(lookup_proof(study, variable, source))
  NULL
}

# The lowest and highest value that went into each code, and the gaps.
spread_proof <- function(study, variable, source) {
  new <- shown_states(study, variable$name)
  spread <- spread_of(
    new, nlevels(new), as.double(study$data[[source$name]]), study$retained
  )
  c(list(kind = "spread", source = source$name, code = levels(new)), spread)
}

gap_proof <- function(study, variable, source) {
  before <- retained_of(study$reasons[[source$name]], study)
  after <- retained_of(study$data[[variable$name]], study)
  if (is.null(before)) return(NULL)
  used <- sort(unique(as.integer(before[!is.na(before)])))
  list(kind = "filled", source = source$name, reason = study$book$reasons$label[used],
    gaps = vapply(used, function(id) sum(as.integer(before) == id, na.rm = TRUE), 0L),
    filled = vapply(
      used, function(id) sum(as.integer(before) == id & !is.na(after), na.rm = TRUE), 0L
    ))
}

# How many rows there were on both sides, and how many met.
lookup_proof <- function(study, variable, source) {
  if (takes_earlier(variable)) return(NULL)
  table <- study$book$tables[[variable$settings[["in"]]]]
  reason <- retained_of(study$reasons[[variable$name]], study)
  lost <- sum(reason == "not_found", na.rm = TRUE)
  if (is.null(table$key)) return(NULL)
  asked <- key_texts(source, retained_of(study$data[[source$name]], study))
  n <- n_retained(study)
  list(
    kind = "lookup", source = source$name, before = n, after = n, rows = table$records,
    met = sum(asked %in% table$key), lost = lost, unused = sum(!table$key %in% asked, na.rm = TRUE),
    gap = sum(is.na(asked))
  )
}

# Old by new of a reversed item: each code and what it is scored as.
reversed_proof <- function(study, item) {
  variable <- study$book$variables[[item]]
  value <- retained_of(study$data[[item]], study)
  codes <- if (is_coded(variable)) all_codes(variable) else sort(unique(value))
  counts <- if (is_coded(variable)) code_counts(study, item, codes) else
    tabulate(match(value, codes), length(codes))
  list(
    kind = "reversed", source = item,
    label = if (is_coded(variable)) label_of(variable, codes) else number_to_text(codes),
    code = codes, scored = sum(bounds_of(variable)) - codes,
    count = counts, gaps = length(value) - sum(counts)
  )
}

possible_of <- function(variable) {
  possible <- if (is.null(variable$possible)) variable$range else variable$possible
  if (is.null(possible)) c(NA, NA) else as.numeric(possible)
}

range_proof <- function(study, variable) {
  tally <- study$tallies$counts[[variable$name]]
  if (is.null(tally)) tally <- count_variable(study, variable$name)
  ends <- tally$statistics[c("min", "max")]
  list(kind = "range", possible = possible_of(variable),
    actual = if (is.null(ends)) c(NA_real_, NA_real_) else unname(ends), n = tally$answered,
    gaps = tally$gaps)
}
