# A study changed so that nobody is known again, as its release says. What comes out holds the
# records that go out and no others, in data and codebook alike, so that every format is right.

# Gives the study, `changes` (variable, change, cells) and `rare`, the respondents in combinations
# smaller than asked for.
disclosed_study <- function(study, release, secret = NULL) {
  said <- release$disclosure
  study <- only_retained(study)
  before <- study
  told <- list()
  for (name in names(said$changes)) {
    changed <- tryCatch(
      change_variable(study, name, said$changes[[name]], secret),
      mavik_release_error = function(e) stop_telling(list(list(
        path = c(release$path, "disclosure"), message = conditionMessage(e)
      )), study)
    )
    study <- changed$study
    told[[name]] <- data.frame(variable = name, change = changed$words, cells = changed$cells)
  }
  stop_telling(telling_problems(before, study, release), study)
  small <- smallest_cells(study, before$records$key, release)
  study <- small$study
  if (identical(said$order, "shuffled")) study <- shuffled(study, small$keys, secret)
  none <- data.frame(variable = character(), change = character(), cells = integer())
  changes <- do.call(rbind, c(list(none), unname(told), list(small$changes)))
  rownames(changes) <- NULL
  list(study = without_condition(study, release), changes = changes, rare = small$rare)
}

stop_telling <- function(problems, study) if (length(problems) > 0) stop_mavik(
  "release_error", paste(problem_lines(problem_table(problems, study$book$document)),
    collapse = "\n")
)

# Of the records that go out; rows of the ledger follow.
only_retained <- function(study) {
  rows <- rows_retained(study)
  study <- rows_of_study(study, rows)
  study["retained"] <- list(NULL)
  study["chosen"] <- list(NULL)
  study
}

rows_of_study <- function(study, rows) {
  cut <- function(table) structure(
    lapply(unclass(table), function(column) column[rows]), class = "data.frame",
    row.names = .set_row_names(length(rows)), names = names(table)
  )
  study$data <- cut(study$data)
  study$reasons <- cut(study$reasons)
  study$records <- lapply(study$records, `[`, rows)
  study$ledger <- lapply(study$ledger, function(entry) {
    entry <- keep_rows(entry, rows)
    entry$rows <- match(entry$rows, rows)
    entry
  })
  study
}

change_variable <- function(study, name, change, secret) switch(change$kind,
  pseudonym = with_pseudonyms(study, name, secret),
  coarsen = made_coarser(study, name, change),
  shift = with_shifted_dates(study, name, secret),
  limit = with_limits(study, name, change$range)
)

# The note tells readers what they have before them.
changed_as <- function(study, name, value, words, ..., cells = sum(!is.na(value))) {
  study$data[[name]] <- value
  more <- list(...)
  for (key in names(more)) study$book$variables[[name]][key] <- list(more[[key]])
  note <- study$book$variables[[name]]$note
  study$book$variables[[name]]$note <- paste(c(note, paste0("In this release: ", words, ".")),
    collapse = " ")
  list(study = study, words = words, cells = cells)
}

with_pseudonyms <- function(study, name, secret) {
  key <- is_key(study$book$variables[[name]])
  value <- study$data[[name]]
  known <- unique(value[!is.na(value)])
  # The key has one pseudonym whatever its variable is called, in all waves and releases.
  made <- keyed_hash(paste0(if (key) "key" else name, "\r", known), secret)
  if (anyDuplicated(made)) stop_mavik(
    "release_error", "two values of `", name, "` would have one pseudonym: take another secret"
  )
  value <- made[match(value, known)]
  if (key) study$records$key <- made[match(study$records$key, known)]
  changed_as(study, name, value, "pseudonyms from a secret")
}

# 20 digits of the HMAC with SHA-256 (RFC 2104): 80 bits.
keyed_hash <- function(texts, secret) substr(as.character(openssl::sha256(
  enc2utf8(texts), key = secret
)), 1, 20)

# A number from 0 up for each text, from the same hash.
keyed_number <- function(texts, secret) strtoi(substr(keyed_hash(texts, secret), 1, 7), 16L)

with_shifted_dates <- function(study, name, secret) {
  variable <- study$book$variables[[name]]
  known <- unique(study$records$key)
  days <- keyed_number(paste0("shift\r", known), secret) %% 364 - 182
  # Nobody's dates stay where they are.
  days <- ifelse(days >= 0, days + 1, days)[match(study$records$key, known)]
  value <- study$data[[name]]
  step <- if (variable$level == "date") 1 else 86400
  moved <- value_as_r(variable, as.double(value) + step * days)
  changed_as(study, name, moved,
    "moved by a number of days that is the same for all dates of a person", range = NULL)
}

with_limits <- function(study, name, range) {
  value <- study$data[[name]]
  cells <- sum(is_outside(value, range))
  limited <- pmin(pmax(value, range[1]), range[2])
  words <- paste0(
    if (is.finite(range[1])) paste0("values under ", number_to_text(range[1]), " are ",
      number_to_text(range[1])),
    if (all(is.finite(range))) ", ",
    if (is.finite(range[2])) paste0("values above ", number_to_text(range[2]), " are ",
      number_to_text(range[2]))
  )
  old <- study$book$variables[[name]]$range
  new <- if (is.null(old)) range else c(max(old[1], range[1]), min(old[2], range[2]))
  changed_as(study, name, limited, words, range = new, cells = cells)
}

made_coarser <- function(study, name, change) {
  variable <- study$book$variables[[name]]
  value <- study$data[[name]]
  coarse <- coarse_of(variable, value, change)
  distinct <- unique(value[!is.na(value)])
  groups <- unique(coarse[!is.na(coarse)])
  lost <- unique(value[is.na(coarse) & !is.na(value)])
  if (length(lost) > 0) stop_mavik(
    "release_error", "`coarsen` of `", name, "` has no place for ", some_of(value_text(
      variable, if (is_date(variable)) as.double(lost) else lost
    )), ": say where these go too"
  )
  if (length(distinct) > 1 && length(groups) >= length(distinct)) stop_mavik(
    "release_error", "`coarsen` of `", name, "` is as fine as the data (",
    count_of(length(distinct), "value"), " stay apart): nobody is hidden by it"
  )
  if (!is.null(change$by)) return(changed_as(
    study, name, coarse, paste0("by ", change$by), range = NULL,
    storage = if (change$by == "year") "number" else "text", dates = NULL, decimals = 0L,
    level = if (change$by == "year") "interval" else "date"
  ))
  codes <- coarse_codes(variable, change)
  changed_as(
    study, name, coarse, if (is.null(change$to)) "in bands" else "codes put together",
    storage = "coded", codes = codes, range = NULL, unit = NULL, decimals = NULL, texts = NULL,
    level = if (variable$level == "nominal") "nominal" else "ordinal"
  )
}

# The coarser value of each.
coarse_of <- function(variable, value, change) {
  if (!is.null(change$by)) {
    day <- as.POSIXlt(value_as_r(variable, as.double(value)), tz = "UTC")
    year <- day$year + 1900
    known <- !is.na(value)
    return(switch(change$by,
      year = as.double(year),
      quarter = ifelse(known, sprintf("%d-Q%d", year, day$mon %/% 3L + 1L), NA_character_),
      month = ifelse(known, sprintf("%d-%02d", year, day$mon + 1L), NA_character_)
    ))
  }
  if (is.null(change$to)) return(band_of(value, change))
  old <- lapply(change$to, old_codes, source = variable)
  new <- rep(as.integer(text_to_number(names(change$to))), lengths(old))
  new[match(value, unlist(old))]
}

# Labels said, else those of what is put together.
coarse_codes <- function(variable, change) {
  if (!is.null(change$codes)) return(change$codes)
  if (!is.null(change$to)) return(list(
    code = as.integer(text_to_number(names(change$to))), label = unname(vapply(
      change$to, function(words) paste(label_of(variable, old_codes(variable, words)),
        collapse = " or "), ""
    ))
  ))
  edges <- band_edges(change, variable$range)
  text <- function(value) ifelse(is.finite(value), number_to_text(value), "")
  label <- if (edges$starts) ifelse(
    is.finite(edges$to), paste(text(edges$from), "to under", text(edges$to)),
    paste(text(edges$from), "and more")
  ) else ifelse(is.finite(edges$from), paste("above", text(edges$from), "to", text(edges$to)),
    paste("up to", text(edges$to)))
  last <- length(label)
  if (edges$starts && is.finite(edges$to[last])) label[last] <- paste(
    text(edges$from[last]), "and more"
  )
  list(code = edges$code, label = label)
}

shuffled <- function(study, keys, secret) {
  id <- joined_id("order", study$records$wave, keys)
  rows_of_study(study, order(keyed_hash(id, secret), method = "radix"))
}

# Conditions are texts of people: what they say of values that do not go out is not told.
without_condition <- function(study, release) {
  told <- setdiff(release$variables, names(release$disclosure$changes))
  if (is.null(release$where) || !all(release$where$uses %in% told)) study$choice$where <- NULL
  study
}
