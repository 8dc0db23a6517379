#' Examine scales
#'
#' How the items of each score hang together. Items are taken after reversing, as
#' the score takes them, over the retained respondents.
#'
#' @param codebook A study, a codebook, or what [read_codebook()] takes.
#' @param scales Names of scores; all of them if not said.
#' @param use `"complete"`: respondents who answered all items; `"pairwise"`: for
#'   each pair of items those who answered both.
#' @param by_wave Whether to examine each wave apart too, where there are several.
#' @param thresholds What is pointed out: `negative` (an item-rest correlation
#'   below it), `floor_ceiling` (share of respondents at the lowest or highest score),
#'   `blank` (share of an item's gaps among those asked), `weak` (an item-rest
#'   correlation below it).
#' @param exports Data frames in place of files, as in [build_study()].
#' @param language A language of the codebook's `translations`, for its labels.
#' @return A `mavik_scales`: a list with an entry a scale (and wave): `scale`,
#'   `label`, `wave`, `use`, `n` (respondents behind the coefficients), `k`
#'   (items), `score` (n, mean, sd, min, max, skew), `possible` (range), `alpha`,
#'   `alpha_low`, `alpha_high` (95 % interval), `alpha_standard`, `mean_r`,
#'   `omega`, `split_half`, `items` (a data frame: `item`, `label`, `reversed`,
#'   `n`, `mean`, `sd`, `item_rest`, `alpha_without`, `blank`), `answers` (counts
#'   of the codes, a row an item), and `warnings`. `NA` where there are too few
#'   respondents or items, or no spread.
#' @section Formulas: C is the covariance matrix of k items, S the sum of its elements.
#'   Alpha is k / (k - 1) (1 - trace(C) / S) (Cronbach 1951, Psychometrika 16,
#'   297-334); its interval follows from the F distribution with n - 1 and (n - 1)(k - 1)
#'   degrees of freedom (Feldt 1965, Psychometrika 30, 357-370). The standardised
#'   alpha is k r / (1 + (k - 1) r), r the mean correlation between items. Omega is
#'   (sum of loadings)^2 / ((sum of loadings)^2 + sum of unique variances) of one
#'   factor fitted by maximum likelihood, in the items' own units (McDonald 1999,
#'   Test Theory). The split half is the correlation r of the odd with the even
#'   items, by the Spearman-Brown formula 2 r / (1 + r) (Spearman 1910, Brown 1910). The item-rest
#'   correlation leaves the item out of the sum. Skew is m3 / m2^1.5.
#' @examples
#' examine_scales(demo_project(tempfile()))
#' @export
examine_scales <- function(
  codebook, scales = NULL, use = c("complete", "pairwise"), by_wave = TRUE, thresholds = list(),
  exports = list(), language = NULL
) {
  keep_own_options()
  use <- match.arg(use)
  book <- if (inherits(codebook, "mavik_study")) codebook$book else known_book(codebook)
  chosen <- scales_chosen(scales, book)
  limits <- limits_of(thresholds)
  items <- unlist(lapply(book$variables[chosen], items_of_score, book = book))
  study <- study_with(codebook, unique(c(chosen, unlist(book$uses[chosen]), items)), exports)
  study <- study_in(study, language)
  rows <- rows_retained(study)
  waves <- names(study$book$waves)
  in_wave <- function(wave) rows[study$records$wave[rows] == wave]
  each <- unlist(lapply(chosen, function(name) c(
    list(examine_scale(study, name, rows, use, limits, "")),
    if (by_wave && length(waves) > 1) lapply(waves, function(wave) {
      examine_scale(study, name, in_wave(wave), use, limits, wave)
    })
  )), recursive = FALSE)
  each <- Filter(Negate(is.null), each)
  if (length(each) > 0) names(each) <- vapply(each, function(examined) paste(
    c(examined$scale, if (nzchar(paste0(examined$wave, ""))) examined$wave), collapse = "."
  ), "")
  structure(
    list(
      title = study$book$study$title, scales = each, use = use,
      thresholds = limits, language = language
    ),
    class = "mavik_scales"
  )
}

# Nothing is shown of private items, so a score of them is not looked into.
scales_chosen <- function(scales, book) {
  known <- names(Filter(is_score, book$variables))
  for (name in setdiff(scales, known)) stop_mavik(
    "build_error", "`", name, "` is not a score of this codebook", did_you_mean(name, known)
  )
  private <- private_variables(book)
  hidden <- intersect(scales, private)
  if (length(hidden) > 0) stop_mavik(
    "build_error", "`", hidden[1], "` is private: nothing is shown of it"
  )
  Filter(
    function(name) !any(items_of_score(book$variables[[name]], book) %in% private),
    setdiff(if (is.null(scales)) known else scales, private)
  )
}

scale_limits <- list(negative = 0, floor_ceiling = 0.15, blank = 0.2, weak = 0.2)

limits_of <- function(thresholds) {
  thresholds <- as.list(thresholds)
  named <- names(thresholds)
  if (length(thresholds) > 0 && (is.null(named) || !all(nzchar(named)))) stop_mavik("build_error",
    "`thresholds` needs names: ", some_of(names(scale_limits)))
  for (name in setdiff(named, names(scale_limits))) stop_mavik("build_error", "`", name,
    "` is not one of the thresholds, ", some_of(names(scale_limits)), did_you_mean(name,
    names(scale_limits)))
  for (name in named) if (!is.numeric(thresholds[[name]]) || length(thresholds[[name]]) != 1 ||
    is.na(thresholds[[name]])) stop_mavik("build_error", "the threshold `", name,
    "` must be one number")
  utils::modifyList(scale_limits, thresholds)
}

examine_scale <- function(study, name, rows, use, limits, wave) {
  book <- study$book
  variable <- book$variables[[name]]
  items <- items_of_score(variable, book)
  # An item that was not asked in a wave is no part of the scale there.
  if (nzchar(wave)) items <- items[vapply(
    book$variables[items], function(item) wave %in% waves_asked(item, book), TRUE
  )]
  if (length(items) == 0) return(NULL)
  moments <- scale_moments(
    unname(as.list(study$data[items])), turned_by(variable, items, book), rows
  )
  if (use == "pairwise") {
    inputs <- lapply(
      with_names(items, items), function(item) list(value = study$data[[item]][rows])
    )
    scored <- do.call(cbind, scored_items(variable, items, inputs, book))
    moments$covariance <- if (length(rows) > 1) suppressWarnings(stats::cov(
      scored, use = "pairwise.complete.obs"
    )) else moments$covariance
    moments$complete <- min(crossprod(!is.na(scored)))
  }
  value <- study$data[[name]]
  known <- if (!nzchar(wave)) study$tallies$counts[[name]]$statistics
  statistics <- if (is.null(known)) tally_number(value, rows) else known
  out <- c(
    list(scale = name, label = paste0(variable$label, ""), wave = wave, use = use,
      n = moments$complete, k = length(items),
      score = statistics[c("n", "mean", "sd", "min", "max", "skew")],
      possible = as.numeric(variable$possible),
      floor_ceiling = floor_ceiling_shares(value, rows, variable$possible, statistics[["n"]])),
    hang_together(moments$covariance, moments$complete), list(
      split_half = split_half(moments$covariance),
      items = item_statistics(items, variable, moments, study, if (nzchar(wave)) rows),
      answers = item_answers(items, study, if (nzchar(wave)) rows)
    )
  )
  out$straightlined <- if (length(variable$settings$reversed) > 0 && length(items) > 2)
    moments$straightlined else NA
  out$warnings <- scale_warnings(out, book, limits)
  out
}

floor_ceiling_shares <- function(value, rows, range, n) {
  if (is.null(range) || n == 0) return(c(low = NA_real_, high = NA_real_))
  c(low = count_near(value, range[1], rows) / n, high = count_near(value, range[2], rows) / n)
}

# Coefficients of a covariance matrix.
hang_together <- function(covariance, n) {
  k <- ncol(covariance)
  none <- list(
    alpha = NA_real_, alpha_low = NA_real_, alpha_high = NA_real_, alpha_standard = NA_real_,
    mean_r = NA_real_, omega = NA_real_
  )
  if (k < 2 || anyNA(covariance) || any(diag(covariance) <= 0) || sum(covariance) <= 0) return(none)
  alpha <- k / (k - 1) * (1 - sum(diag(covariance)) / sum(covariance))
  correlation <- stats::cov2cor(covariance)
  mean_r <- mean(correlation[lower.tri(correlation)])
  none$alpha <- alpha
  if (n > 2) {
    bounds <- stats::qf(c(0.975, 0.025), n - 1, (n - 1) * (k - 1))
    none[c("alpha_low", "alpha_high")] <- as.list(1 - (1 - alpha) * bounds)
  }
  none$mean_r <- mean_r
  none$alpha_standard <- k * mean_r / (1 + (k - 1) * mean_r)
  none$omega <- omega_of(covariance, n)
  none
}

# One factor; below three items it cannot be told, and it may not be found.
omega_of <- function(covariance, n) {
  if (ncol(covariance) < 3 || n < 5) return(NA_real_)
  fit <- tryCatch(
    suppressWarnings(stats::factanal(covmat = list(cov = covariance, n.obs = n), factors = 1)),
    error = function(e) NULL
  )
  if (is.null(fit)) return(NA_real_)
  size <- sqrt(diag(covariance))
  common <- sum(fit$loadings[, 1] * size)^2
  common / (common + sum(fit$uniquenesses * size^2))
}

split_half <- function(covariance) {
  k <- ncol(covariance)
  if (k < 2 || anyNA(covariance)) return(NA_real_)
  odd <- seq(1, k, 2)
  even <- seq(2, k, 2)
  spread <- sum(covariance[odd, odd]) * sum(covariance[even, even])
  if (spread <= 0) return(NA_real_)
  r <- sum(covariance[odd, even]) / sqrt(spread)
  2 * r / (1 + r)
}

item_statistics <- function(items, variable, moments, study, rows) {
  k <- length(items)
  covariance <- moments$covariance
  with_total <- rowSums(covariance)
  own <- diag(covariance)
  rest <- sum(covariance) - 2 * with_total + own
  alpha_without <- vapply(
    seq_len(k),
    function(item) if (k < 3) NA_real_ else hang_alpha(covariance[-item, -item, drop = FALSE]), 0
  )
  data.frame(
    item = items, label = vapply(
      study$book$variables[items], function(variable) paste0(variable$label, ""), "",
      USE.NAMES = FALSE
    ), reversed = items %in% variable$settings$reversed,
    n = moments$n, mean = moments$mean, sd = moments$sd,
    item_rest = ifelse(
      k > 1 & !is.na(own) & own > 0 & rest > 0, (with_total - own) / sqrt(pmax(own * rest, 0)), NA
    ), alpha_without = alpha_without,
    blank = vapply(items, function(item) blank_share(study, item, rows), 0), row.names = NULL
  )
}

hang_alpha <- function(covariance) {
  k <- ncol(covariance)
  if (anyNA(covariance) || sum(covariance) <= 0) NA_real_ else k / (k - 1) * (
    1 - sum(diag(covariance)) / sum(covariance)
  )
}

# Gaps among those who were asked the item; no `rows` are all that are retained.
blank_share <- function(study, item, rows) {
  reason <- study$reasons[[item]]
  if (is.null(reason)) return(0)
  counts <- if (is.null(rows)) reason_counts(study, item)[, 1] else
    count_between(reason, rows, 1L, nrow(study$book$reasons))
  n <- if (is.null(rows)) n_retained(study) else length(rows)
  unput <- sum(counts[reason_id(study$book, c("not_asked", "not_in_wave"))])
  if (n == unput) 0 else (sum(counts) - unput) / (n - unput)
}

# How often each answer was given, before reversing; `rows` as above.
item_answers <- function(items, study, rows) {
  variables <- study$book$variables[items]
  codes <- all_codes(variables[[1]])
  same <- is_coded(variables[[1]]) && length(codes) > 0 && length(codes) <= 15 && all(vapply(
    variables, function(variable) is_coded(variable) && identical(all_codes(variable), codes), TRUE
  ))
  if (!same) return(NULL)
  counts <- vapply(items, function(item) {
    if (is.null(rows)) code_counts(study, item, codes) else
      count_whole(study$data[[item]], codes, rows)
  }, integer(length(codes)))
  list(codes = codes, labels = label_of(variables[[1]], codes), counts = t(counts))
}
