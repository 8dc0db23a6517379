# A study of k items with known answers; `gaps` is the share of blanks.
scale_study <- function(answers, ..., codes = 5, reversed = character()) {
  k <- ncol(answers)
  frame <- data.frame(id = seq_len(nrow(answers)), part = "Low")
  for (j in seq_len(k)) frame[[paste0("q", j)]] <- ifelse(is.na(answers[, j]), "", answers[, j])
  items <- stats::setNames(lapply(seq_len(k), function(j) list(column = paste0("q", j), label = paste("Item", j), level = "ordinal", range = c(1, codes))), paste0("i", seq_len(k)))
  build_small(frame, items = list(stem = "S", items = items), s = list(label = "Score", score = utils::modifyList(list(of = "items", take = "mean", at_least = 1, reversed = if (length(reversed) > 0) reversed), list(...))))
}
made_answers <- function(n = 150, k = 6, gaps = 0, seed = 1) {
  set.seed(seed)
  common <- stats::rnorm(n)
  x <- vapply(seq_len(k), function(j) as.numeric(cut(0.3 * j / k + 0.7 * common + stats::rnorm(n), c(-Inf, -1, -0.3, 0.3, 1, Inf), labels = FALSE)), numeric(n))
  x[stats::runif(n * k) < gaps] <- NA
  x
}

test_that("each coefficient is what base R makes of it, with and without gaps", {
  for (gaps in c(0, 0.08)) {
    x <- made_answers(gaps = gaps)
    turned <- x
    turned[, 2] <- 6 - turned[, 2]
    study <- scale_study(turned, reversed = "i2")
    for (use in c("complete", "pairwise")) {
      got <- examine_scales(study, use = use)$scales[[1]]
      C <- if (use == "complete") stats::cov(x[stats::complete.cases(x), ]) else stats::cov(x, use = "pairwise.complete.obs")
      R <- stats::cov2cor(C)
      k <- 6
      alpha <- k / (k - 1) * (1 - sum(diag(C)) / sum(C))
      expect_equal(got$alpha, alpha)
      n <- if (use == "complete") sum(stats::complete.cases(x)) else min(crossprod(!is.na(x)))
      expect_equal(got$n, n)
      expect_equal(c(got$alpha_low, got$alpha_high), 1 - (1 - alpha) * stats::qf(c(0.975, 0.025), n - 1, (n - 1) * (k - 1)))
      expect_equal(got$mean_r, mean(R[upper.tri(R)]))
      expect_equal(got$alpha_standard, k * got$mean_r / (1 + (k - 1) * got$mean_r))
      fit <- stats::factanal(covmat = C, factors = 1, n.obs = n)
      l <- fit$loadings[, 1] * sqrt(diag(C))
      expect_equal(got$omega, sum(l)^2 / (sum(l)^2 + sum(fit$uniquenesses * diag(C))))
      if (use == "complete") {
        w <- x[stats::complete.cases(x), ]
        r <- stats::cor(rowSums(w[, c(1, 3, 5)]), rowSums(w[, c(2, 4, 6)]))
        expect_equal(got$split_half, 2 * r / (1 + r))
        expect_equal(got$items$item_rest, vapply(1:6, function(j) stats::cor(w[, j], rowSums(w[, -j])), 0))
        expect_equal(got$items$alpha_without, vapply(1:6, function(j) { D <- C[-j, -j]; 5 / 4 * (1 - sum(diag(D)) / sum(D)) }, 0))
      }
      expect_equal(got$items$mean, colMeans(x, na.rm = TRUE))
      expect_equal(got$items$sd, apply(x, 2, stats::sd, na.rm = TRUE))
      expect_equal(got$items$blank, unname(colMeans(is.na(x))))
      s <- rowMeans(x, na.rm = TRUE)
      expect_equal(unname(got$score), c(sum(!is.nan(s)), mean(s), stats::sd(s), min(s), max(s), mean((s - mean(s))^3) / mean((s - mean(s))^2)^1.5))
    }
  }
})

test_that("properties of alpha and of scores", {
  x <- made_answers(gaps = 0.05, seed = 4)
  alpha <- function(x, ...) examine_scales(scale_study(x, ...))$scales[[1]]$alpha
  expect_equal(alpha(6 - x), alpha(x))
  expect_equal(alpha(x, reversed = paste0("i", 1:6)), alpha(x))
  expect_equal(alpha(x + 2, codes = 7), alpha(x, codes = 7))
  expect_equal(alpha(matrix(x[, 1], nrow(x), 4)), 1)
  sums <- scale_study(x, take = "sum", prorate = TRUE)$data$s
  means <- scale_study(x)$data$s
  expect_equal(sums, 6 * means)
  expect_equal(scale_study(x, take = "percent")$data$s, 100 * (means - 1) / 4)
  expect_equal(scale_study(x, standard = list(mean = 3, sd = 0.5))$data$s, (means - 3) / 0.5)
  w <- c(2, 1, 1, 1, 1, 0.5)
  expect_equal(scale_study(x, weights = c(i1 = 2, i6 = 0.5))$data$s, apply(x, 1, function(row) sum(row * w, na.rm = TRUE) / sum(w[!is.na(row)])))
  expect_equal(which(is.na(scale_study(x, at_least = 0.8)$data$s)), which(rowSums(!is.na(x)) < 5))
  expect_equal(scale_study(x, take = "sum", at_least = "all", standard = list(mean = 18, sd = 4))$book$variables$s$range, c(6 - 18, 30 - 18) / 4)
})

test_that("a score of scores goes over items or over scores, as said", {
  frame <- data.frame(id = 1:3, part = "Low", a = c("1", "2", "3"), b = c("3", "", "1"), d = c("2", "2", "2"))
  rate <- function(column) list(column = column, label = column, level = "ordinal", range = c(1, 3))
  sub <- function(of, ...) list(label = "S", score = list(of = of, take = "mean", at_least = 1, ...))
  study <- build_small(frame, a = rate("a"), b = rate("b"), d = rate("d"), one = sub(c("a", "b"), reversed = "b"), two = sub("d"), by_scores = sub(c("one", "two")), by_items = sub(c("one", "two"), over = "items"))
  expect_equal(study$data$one, c(1, 2, 3))
  expect_equal(study$data$by_scores, c(1.5, 2, 2.5))
  expect_equal(study$data$by_items, c(4 / 3, 2, 8 / 3))
  expect_match(core$ways()$score$sentence(study$book$variables$by_items, study$book), "reversing b")
})

test_that("an instrument is described once, in the codebook or in a file, and used by its own numbers", {
  instrument <- list(label = "Belonging", items = c("1" = "At home", "4" = "Left out", "7" = "Missed"), bounds = c(1, 3), reversed = "4", subscales = list(warm = c("1", "7")), take = "sum")
  frame <- data.frame(id = 1:2, part = "Low", a = c("1", "3"), b = c("3", "1"), d = c("2", ""))
  rate <- function(column, top = 3) list(column = column, label = column, level = "ordinal", range = c(1, top))
  book <- function(instrument, ..., top = 3) utils::modifyList(small_codebook(a = rate("a", top), b = rate("b"), d = rate("d"), s = list(label = "S", score = list(instrument = "bel", items = c("1" = "a", "4" = "b", "7" = "d"), ...))), list(instruments = list(bel = instrument)))
  study <- build_study(book(instrument), list(main = frame))
  expect_equal(study$data$s, c(1 + 1 + 2, NA))
  expect_match(core$ways()$score$sentence(study$book$variables$s, study$book), "a: 1, b: 4, d: 7\\), numbered as in the instrument bel, after reversing b")
  expect_equal(build_study(book(instrument, subscale = "warm", take = "mean", at_least = 1), list(main = frame))$data$s, c(1.5, 3))
  file <- tempfile(tmpdir = getwd(), fileext = ".yml")
  on.exit(unlink(file))
  core$write_text(core$document_lines(core$normalise(instrument)), file)
  expect_equal(build_study(book(list(file = basename(file))), list(main = frame))$data$s, study$data$s)
  # The codebook stays the same, and the file beside it counts as it stands now.
  core$write_text(core$document_lines(core$normalise(utils::modifyList(instrument, list(take = "mean")))), file)
  expect_equal(build_study(book(list(file = basename(file))), list(main = frame))$data$s, study$data$s / 3)
  said <- function(...) message_of(build_study(book(...), list(main = frame)), "mavik_codebook_error")
  expect_match(said(instrument, top = 5), "`a` has other bounds than the instrument, 1 to 3")
  expect_match(said(instrument, subscale = "cold"), "`cold` is not one of its subscales")
  expect_match(said(utils::modifyList(instrument, list(reversed = "9"))), "`9` is not the number of one of its items")
  expect_match(said(utils::modifyList(instrument, list(items = c("1" = "x", "4" = "y", "7" = "z", "8" = "w")))), "does not say which variable is item `8`")
})

test_that("mistakes in a scale are found and named", {
  x <- made_answers(n = 300, seed = 9)
  x[, 3] <- 6 - x[, 3]
  said <- function(study) examine_scales(study)$scales[[1]]$warnings
  expect_match(said(scale_study(x))[1], "`i3` .*not listed as reversed")
  expect_length(grep("i3", said(scale_study(x, reversed = "i3"))), 0)
  expect_match(paste(said(scale_study(x, reversed = c("i3", "i5"))), collapse = "\n"), "`i5` .*listed as reversed: is it worded like the others")
  y <- made_answers(n = 300, seed = 9)
  y[, c(1, 2, 4)] <- 6 - y[, c(1, 2, 4)]
  expect_match(paste(said(scale_study(y)), collapse = "\n"), "the few that look negative may be the right ones")
  z <- pmin(made_answers(n = 300, gaps = 0.4), 5)
  z[, 1] <- 5
  z[1:200, ] <- 5
  expect_match(paste(said(scale_study(z)), collapse = "\n"), "ceiling")
  expect_match(paste(said(scale_study(made_answers(gaps = 0.4))), collapse = "\n"), "has no value for")
  study <- build_study(demo_project(tempfile()))
  expect_match(paste(examine_scales(study)$scales[[1]]$warnings, collapse = "\n"), "2 respondents gave one answer to all items")
  two <- build_small(data.frame(id = 1:3, part = "Low", a = "1", b = "2", d = "3"), block = list(stem = "S", level = "ordinal", range = c(1, 3), items = list(a = list(column = "a", label = "a"), b = list(column = "b", label = "b"), d = list(column = "d", label = "d"))),
    s = list(label = "S", score = list(of = c("a", "b"), take = "mean")), t = list(label = "T", score = list(of = "b", take = "mean")))
  expect_setequal(intersect(findings(two)$kind, c("item_in_two_scales", "item_in_no_scale")), c("item_in_two_scales", "item_in_no_scale"))
  expect_match(message_of(build_small(data.frame(id = 1, part = "Low"), s = list(label = "S", score = list(of = "part", take = "mean")))), "is nominal: a score needs")
})

test_that("each wave is examined apart, and the report draws them", {
  x <- made_answers(60, 3)
  frame <- function(rows) { out <- data.frame(id = rows); for (j in 1:3) out[[paste0("q", j)]] <- x[rows, j]; out }
  items <- stats::setNames(lapply(1:3, function(j) list(column = paste0("q", j), label = paste("Item", j), level = "ordinal", range = c(1, 5))), paste0("i", 1:3))
  book <- list(mavik = 1, study = list(title = "W"), waves = list(a = list(label = "A"), b = list(label = "B")), exports = list(one = list(wave = "a", key = "id"), two = list(wave = "b", key = "id")),
    variables = c(list(id = list(is = "key", label = "Id")), items, list(s = list(label = "S", score = list(of = names(items), take = "mean")))))
  study <- build_study(book, list(one = frame(1:30), two = frame(31:60)))
  found <- examine_scales(study)$scales
  expect_equal(unname(vapply(found, `[[`, "", "wave")), c("", "a", "b"))
  C <- stats::cov(x[1:30, ])
  expect_equal(found[[2]]$alpha, 1.5 * (1 - sum(diag(C)) / sum(C)))
  out <- write_study(study, tempfile())
  expect_match(paste(readLines(file.path(out, "report.html"), encoding = "UTF-8"), collapse = ""), "Lines over the waves: S", fixed = TRUE)
})

test_that("scales as a command, with page and figure", {
  project <- demo_project(tempfile())
  page <- tempfile(fileext = ".html")
  figure <- tempfile(fileext = ".svg")
  run <- command("scales", "belonging", "--project", project, "--html", page, "--figure", figure)
  expect_equal(run$status, 0, info = run$err)
  expect_match(paste(run$out, collapse = "\n"), "alpha .*0.840 .*0.797 to 0.876")
  expect_equal(length(gregexpr("<svg", paste(readLines(page, encoding = "UTF-8"), collapse = "\n"))[[1]]), 2)
  expect_true(any(grepl("I spend the tea break alone", readLines(figure, encoding = "UTF-8"))))
  expect_match(paste(command("scales", "--by", "voice", "--project", project)$out, collapse = "\n"), "Welch's F")
  facts <- jsonlite::fromJSON(paste(command("scales", "--json", "--pairwise", "--project", project)$out, collapse = "\n"), simplifyVector = FALSE)
  expect_equal(facts$scales[[1]]$use, "pairwise")
  expect_match(paste(command("scales", "--thresholds", "weak=0.6", "--project", project)$out, collapse = "\n"), "hardly goes with the rest")
  expect_match(command("scales", "--thresholds", "weak=x", "--project", project)$err, "takes pairs like")
  expect_match(command("scales", "belongin", "--project", project)$err, "did you mean `belonging`")
})
