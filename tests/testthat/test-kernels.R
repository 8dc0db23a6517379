# Each kernel beside its plain version in R, on random columns with gaps.

test_that("tables are written as plain R writes them, by any number of threads", {
  set.seed(3)
  n <- 10000
  texts <- c("plain", "", NA, "a,b", "say \"hm\"", "two\nlines", "\u00e9t\u00e9", " spaced ", "1")
  table <- list(
    whole = sample(c(NA, -3:12, .Machine$integer.max), n, TRUE), real = sample(c(NA, 0.1, 1/3, -2.5, 1e-7, 1e16, 5, -0), n, TRUE) * sample(c(1, 3), n, TRUE),
    text = sample(texts, n, TRUE), reason = factor(sample(c(NA, "-2", "a,b"), n, TRUE)), `odd, name` = sample(texts, n, TRUE)
  )
  rows <- sort(sample(n, 6000))
  plain <- function(table) {
    table$real <- core$number_to_text(table$real)
    paste0(core$csv_lines(as.data.frame(table, optional = TRUE)), "\n", collapse = "")
  }
  for (threads in 1:3) for (some in list(NULL, rows)) {
    path <- tempfile()
    expect_equal(core$write_rows(path, names(table), unname(table), some, threads), "")
    part <- if (is.null(some)) table else lapply(table, `[`, some)
    expect_identical(bytes_of(path), charToRaw(enc2utf8(plain(part))))
  }
  # Texts that are listed: few and short, few and long, more than there are rows.
  for (known in list(texts, c(texts, strrep("long, ", 6:20), strrep("x", 28:36)), paste0(texts, 1:20000))) {
    places <- sample(c(NA, seq_along(known)), n, TRUE)
    for (index in c(list(places), if (length(known) < 255) list(core$as_places(as.raw(replace(places, is.na(places), 0)))))) {
      for (some in list(NULL, rows, rev(rows))) {
        path <- tempfile()
        listed <- list(a = core$listed_texts(index, known), b = table$whole, c = core$listed_texts(index, known))
        expect_equal(core$write_rows(path, names(listed), unname(listed), some, 2L), "")
        part <- list(a = known[places], b = table$whole, c = known[places])
        if (!is.null(some)) part <- lapply(part, `[`, some)
        expect_identical(bytes_of(path), charToRaw(enc2utf8(paste0(core$csv_lines(as.data.frame(part)), "\n", collapse = ""))))
      }
    }
  }
  # Neighbours of few and short texts, more together than one list holds, between others.
  tables <- c(list(0:1, 1:5, c(-9L, 100L), 1:30, 0:9)[sample(5, 60, TRUE)], list(as.numeric(1:200) / 7, 10000000 + 1:3))[sample(62)]
  places <- lapply(tables, function(table) sample(0:length(table), n, TRUE))
  wide <- Map(function(table, places) core$looked_up(as.raw(places), table, NULL, list()), tables, places)
  cells <- Map(function(table, places) ifelse(places == 0, "", core$number_to_text(table)[replace(places, places == 0, NA)]), tables, places)
  wide[[30]] <- cells[[30]] <- rep("between", n)
  lines <- do.call(paste, c(unname(cells), sep = ","))
  for (some in list(NULL, rows, 1:3)) {
    path <- tempfile()
    expect_equal(core$write_rows(path, paste0("v", 1:62), unname(wide), some, 2L), "")
    plain <- c(paste0("v", 1:62, collapse = ","), if (is.null(some)) lines else lines[some])
    expect_identical(bytes_of(path), charToRaw(paste0(plain, "\n", collapse = "")))
  }
  expect_match(core$write_rows(file.path(tempdir(), "no/such/folder.csv"), "a", list(1L), NULL, 1L), "[a-z]")
})

test_that("counts, states and spreads are those of base R", {
  set.seed(5)
  n <- 4000
  code <- sample(c(NA, 1:5, 9L), n, TRUE)
  reason <- factor(ifelse(is.na(code), sample(c("left", "refused"), n, TRUE), NA), c("refused", "asked", "left"))
  number <- round(stats::rnorm(n, 50, 20), 1)
  number[sample(n, 300)] <- NA
  for (rows in list(NULL, sort(sample(n, 1500)), 7L, integer())) {
    of <- function(x) if (is.null(rows)) x else x[rows]
    expect_identical(core$count_between(code, rows, 1L, 9L), tabulate(of(code), 9L))
    expect_identical(core$count_between(reason, rows, 1L, 3L), tabulate(as.integer(of(reason)), 3L))
    states <- core$states_at(code, reason, rows, c(5L, 1L, 9L), c(3L, 1L))
    plain <- match(of(code), c(5L, 1L, 9L))
    plain[is.na(of(code))] <- 3L + match(as.integer(of(reason)[is.na(of(code))]), c(3L, 1L))
    expect_identical(states, plain)
    other <- sample(c(NA, 1:3), length(states), TRUE)
    expect_equal(core$count_pairs(states, other, 5L, 3L), unclass(table(factor(states, 1:5), factor(other, 1:3))), ignore_attr = TRUE)
    spread <- core$spread_of(states, 5L, number, rows)
    expect_identical(spread$n, tabulate(states, 5L))
    by <- function(take) unname(vapply(1:5, function(k) { x <- stats::na.omit(of(number)[states %in% k]); if (length(x)) take(x) else NA_real_ }, 0))
    expect_equal(spread$low, by(min))
    expect_equal(spread$high, by(max))
    expect_identical(spread$gaps, tabulate(states[is.na(of(number))], 5L))
    x <- of(number)[!is.na(of(number))]
    tally <- core$tally_number(number, rows)
    expect_equal(tally[["n"]], length(x))
    if (length(x) > 1) {
      expect_equal(unname(tally[c("mean", "sd", "min", "max")]), c(mean(x), stats::sd(x), min(x), max(x)))
      expect_equal(unname(tally[c("q1", "median", "q3")]), unname(stats::quantile(x, c(0.25, 0.5, 0.75))))
      expect_equal(tally[["skew"]], mean((x - mean(x))^3) / mean((x - mean(x))^2)^1.5)
      expect_equal(tally[["whole"]], as.numeric(all(x == round(x))))
    }
    breaks <- seq(0, 100, 12.5)
    expect_equal(core$bin_counts(number, breaks, rows), as.integer(table(cut(x, breaks, include.lowest = TRUE, right = FALSE))))
    at <- if (is.null(rows)) seq_len(n) else rows
    order <- at[!is.na(of(number))][order(x)]
    expect_equal(core$ranked_rows(number, rows), if (length(order) < 3) integer() else order[c(1, ceiling(length(order) / 2), length(order))])
    expect_equal(core$count_near(number, 50, rows), sum(x == 50))
  }
  index <- sample(c(NA, 1:6), n, TRUE)
  seen <- core$tally_cells(index, 7L, c(TRUE, FALSE, TRUE, TRUE, FALSE, FALSE, TRUE), 5L)
  expect_identical(seen$counts, tabulate(index, 7L))
  expect_equal(seen$first, vapply(c(1, 3, 4, 7), function(k) c(which(index == k), rep(NA_integer_, 5))[1:5], integer(5)))
  wanted <- c(TRUE, FALSE, TRUE, TRUE, FALSE, FALSE, TRUE)
  expect_identical(core$rows_among(index, wanted), which(wanted[index]))
  expect_identical(core$rows_among(index, !logical(7)), which(!is.na(index)))
  expect_identical(core$rows_among(index, logical(7)), integer())
  for (value in list(c(NA, 1.5, NaN, 7, -Inf, 3, 5), c(NA, 1L, 7L, 3L, 5L))) for (range in list(c(3, 5), c(-Inf, 2), c(0, Inf))) {
    expect_identical(core$rows_outside(value, range[1], range[2]), which(core$is_outside(value, range)))
  }
})

test_that("lines are cut out of a file as they stand, wherever one begins to look", {
  set.seed(35)
  file <- withr::local_tempfile()
  into <- withr::local_tempfile()
  for (size in c(1, 40, 9000)) for (ended in c(TRUE, FALSE)) {
    lines <- vapply(sample(0:30, size, TRUE), function(n) strrep("\u00e9,", n), "")
    cat(paste(lines, collapse = "\n"), if (ended) "\n", sep = "", file = file)
    ends <- cumsum(nchar(paste0(lines, "\n"), "bytes"))
    for (every in c(1L, 7L, 4096L)) {
      starts <- core$line_starts(file, every)
      expect_equal(starts, c(0, ends[which(seq_len(size - !ended) %% every == 0)]))
      from <- sort(sample(size, min(size, 6)))
      to <- pmin(from + sample(0:3, length(from), TRUE), c(from[-1] - 1L, size))
      wanted <- unlist(Map(seq, from, to))
      for (some in list(starts, numeric())) {
        expect_true(core$cut_lines(file, into, from, to, some, every))
        expect_identical(readLines(into, warn = FALSE, encoding = "UTF-8"), lines[wanted])
      }
    }
  }
})

test_that("what stands more than once is found, in any encoding", {
  set.seed(33)
  accents <- c("\u00e9t\u00e9", "\u00fc")
  latin <- iconv(accents, "UTF-8", "latin1")
  texts <- sample(c(paste0("M", 1:900), NA, "", accents, latin), 1500, TRUE)
  numbers <- sample(c(0, 1:800 / 7, 1e300), 900, TRUE)
  for (x in list(texts, texts[!texts %in% accents], numbers, character(), "M1", c(NA, NA, "a"), 5, paste0("M", 1:5000)))
    expect_identical(core$repeated_rows(x), which(duplicated(x) | duplicated(x, fromLast = TRUE)))
  places <- core$as_places(as.raw(c(1:9, 9:1)))
  for (rows in list(1:9, 9:1, c(1:8, 10L), 1:8, c(1:8, NA), places[1:9], places, as.double(1:9)))
    expect_identical(list(core$are_all_rows(rows, 9), core$at_rows(letters[1:9], rows)), list(identical(rows, 1:9), letters[1:9][rows]))
  for (index in list(places, 1:5, c(1L, NA), core$as_places(as.raw(c(3, 0))), c(2, NA), integer())) expect_identical(core$any_gap(index), anyNA(index))
})

test_that("moments of whole numbers are the same however a column is held", {
  set.seed(34)
  for (known in list(1:5, c(1930:2020), c(-3L, 0L, 4000L), 7L, c(0.5, 0.1, 3), c(0, 1e9), c(-1e16, 1e16, 3))) {
    index <- sample(length(known), 5000, TRUE)
    x <- as.double(known)[index]
    tally <- core$tally_number(x, NULL)
    expect_equal(tally[["mean"]], mean(x))
    expect_equal(tally[["sd"]], stats::sd(x))
    if (length(known) > 1) expect_equal(tally[["skew"]], mean((x - mean(x))^3) / mean((x - mean(x))^2)^1.5)
    looked <- core$looked_up(index, as.double(known), NULL, list())
    expect_identical(core$tally_number(looked, NULL), tally)
    if (max(abs(known)) < 1e5 && all(known == round(known))) expect_identical(core$tally_number(rev(x), NULL), tally)
  }
})

test_that("a column that is looked up is the plain one to whoever reads it", {
  set.seed(21)
  folder <- tempfile()
  dir.create(folder)
  n <- 12000L
  tables <- list(c(4L, -9L, NA, 0L, 7L), c(0.1, NA, 3, 1e-7, -2.5), seq_len(250L) * 3L, c(seq(0.5, 300), NA))
  for (table in tables) for (narrow in c(TRUE, FALSE)) for (place in list(NULL, folder, file.path(folder, "gone"))) {
    if (narrow && length(table) > 255) next
    index <- sample(0:length(table), n, TRUE)
    plain <- table[replace(index, index == 0, NA)]
    looked <- function() core$looked_up(if (narrow) as.raw(index) else replace(index, index == 0, NA), table, place, list())
    x <- looked()
    expect_identical(length(x), n)
    for (at in list(5L, c(3, NA, 1e6, 2), -1:-11990, integer(), c(TRUE, FALSE, NA), n:1)) expect_identical(x[at], plain[at])
    expect_identical(list(is.na(x), anyNA(x), range(x, na.rm = TRUE), x[[9]], x == x[4]), list(is.na(plain), anyNA(plain), range(plain, na.rm = TRUE), plain[[9]], plain == plain[4]))
    y <- x
    y[3] <- table[1]
    expect_identical(y, replace(plain, 3, table[1]))
    expect_identical(looked(), plain)
    expect_identical(x, plain)
    # Written to by reference, it is what was written to all who read it.
    z <- structure(list(v = looked()), class = "data.frame", row.names = .set_row_names(n))
    data.table::set(z, 3L, "v", table[1])
    expect_identical(list(z$v[3], z$v[[3]], unname(unlist(z)), core$looked_parts(z$v)), list(table[1], table[1], replace(plain, 3, table[1]), NULL))
    expect_identical(unserialize(serialize(looked(), NULL)), plain)
    if (is.integer(table)) expect_identical(core$only_zero(looked()), all(plain %in% 0L))
    for (rows in list(NULL, sort(sample(n, 900)), integer())) {
      expect_identical(core$count_between(looked(), rows, -9L, 9L), core$count_between(plain, rows, -9L, 9L))
      expect_identical(core$tally_number(looked(), rows), core$tally_number(plain, rows))
      breaks <- seq(-10, 800, 90)
      expect_identical(core$bin_counts(looked(), breaks, rows), core$bin_counts(plain, breaks, rows))
      expect_identical(core$ranked_rows(looked(), rows), core$ranked_rows(plain, rows))
      expect_identical(core$count_near(looked(), 3, rows), core$count_near(plain, 3, rows))
      if (is.integer(table)) expect_identical(core$states_at(looked(), looked(), rows, c(4L, 7L), c(0L, 3L)), core$states_at(plain, plain, rows, c(4L, 7L), c(0L, 3L)))
      paths <- c(tempfile(), tempfile())
      core$write_csv(list(a = looked(), b = rev(plain)), paths[1], rows)
      core$write_csv(list(a = plain, b = rev(plain)), paths[2], rows)
      expect_identical(bytes_of(paths[1]), bytes_of(paths[2]))
    }
    expect_identical(core$rows_outside(looked(), 0, 5), core$rows_outside(plain, 0, 5))
    expect_identical(core$gaps_in(looked()), is.na(plain))
    for (value in table[1:4]) {
      expect_identical(core$rows_that(looked(), function(x) x == value), which(plain == value))
      expect_identical(core$over_values(looked(), function(x) x * 2)[], plain * 2)
    }
    first <- looked()
    held <- core$held_column(list(value = first, reason = core$looked_up(core$looked_parts(first)$index, rev(seq_along(table)), place, list())), folder)
    expect_true(core$is_mapped(held$value))
    late <- core$held_column(list(value = looked(), reason = NULL), folder)$value
    data.table::set(structure(list(v = late), class = "data.frame", row.names = .set_row_names(n)), 3L, "v", table[1])
    expect_identical(core$seen_as(late, list(class = "Date")), structure(replace(plain, 3, table[1]), class = "Date"))
    expect_identical(held$value, plain)
    expect_identical(held$reason, rev(seq_along(table))[replace(index, index == 0, NA)])
    expect_identical(core$seen_as(held$value, list(class = "Date")), structure(plain, class = "Date"))
  }
  expect_equal(list.files(folder), character())
})

test_that("places are counted and found alike in bytes and in integers", {
  set.seed(22)
  wanted <- c(TRUE, FALSE, TRUE, TRUE, FALSE, FALSE, TRUE)
  for (gaps in c(TRUE, FALSE)) {
    index <- sample(if (gaps) 0:6 else 1:6, 3000, TRUE)
    wide <- replace(index, index == 0, NA)
    places <- core$as_places(as.raw(index))
    expect_identical(places, wide)
    band <- sample(9L, 3000, TRUE)
    for (at in list(places, wide)) {
      expect_identical(core$rows_among(at, wanted), which(wanted[wide]))
      expect_identical(core$tally_cells(at, 7L, wanted, 4L), core$tally_cells(wide, 7L, wanted, 4L))
      expect_identical(core$count_between(at, NULL, 1L, 7L), tabulate(wide, 7L))
      expect_identical(core$count_in_bands(at, wanted, band, 9L), tabulate(band[which(wanted[wide])], 9L))
      expect_identical(core$places_met(at, 1:40, 7L), 1:7 %in% wide[1:40])
    }
    joined <- core$join_index(list(as.raw(index), wide, places), list(1:7, c(9L, 8L, 10L, 3L, 4L, 5L, 6L), 7:1), 10L)
    expect_identical(joined, c(wide, c(9L, 8L, 10L, 3L, 4L, 5L, 6L)[wide], (7:1)[wide]))
    expect_identical(core$join_index(list(as.raw(index), wide), list(301:307, 1:7), 307L), c((301:307)[wide], wide))
  }
})

test_that("packed texts are found and given back as they were", {
  set.seed(12)
  texts <- sample(c("M001", "", NA, "\u00e9\u4e2d", "M0", "M001 ", "NA"), 400, TRUE)
  packed <- core$pack_texts(texts)
  expect_identical(core$unpack_texts(packed), texts)
  expect_identical(core$unpack_texts(core$pack_texts(character())), character())
  rows <- sample(c(NA, 1:401, 0), 500, TRUE)
  expect_identical(core$packed_at(packed, rows), ifelse(is.na(rows) | rows == 0, NA, texts[replace(rows, rows == 0, NA)]))
  for (text in c(unique(texts[!is.na(texts)]), "M00", "m001")) expect_identical(core$packed_rows(packed, text), which(texts == text))
})

# The same bytes from a run, and from places in it, as from plain texts.
expect_written_alike <- function(run, x, places) {
  files <- replicate(4, tempfile())
  core$write_csv(list(key = run), files[1])
  core$write_csv(list(key = x), files[2])
  core$write_csv(list(key = core$listed_texts(places, run)), files[3])
  core$write_csv(list(key = x[places]), files[4])
  expect_identical(readLines(files[1]), readLines(files[2]))
  expect_identical(readLines(files[3]), readLines(files[4]))
}

test_that("texts in a run are the plain texts to whoever looks, and those that do not make them agree", {
  set.seed(4)
  letters_here <- c("a", "b", "E", "0", " ", "\u00e9", "\U1F3B5", ",", "\"", "\n")
  plain <- c(0:5000, "", replicate(2500, paste(sample(letters_here, sample(0:9, 1), TRUE), collapse = "")))
  for (n in c(0, 1, 15:17, 33, 6000)) for (most in c(10, 700, 4e6)) {
    x <- sample(plain, n, TRUE)
    made <- function() core$run_texts(core$pack_texts(x))
    run <- made()
    expect_identical(core$repeated_rows(run, most), which(duplicated(x) | duplicated(x, fromLast = TRUE)))
    expect_identical(core$repeated_rows(x, most), core$repeated_rows(x))
    for (act in mget(c("near_marks", "rows_blank", "count_distinct"), core)) expect_identical(act(run), act(x))
    expect_identical(core$rows_holding(run, "E"), grep("E", x))
    expect_false(core$has_gaps(run))
    rows <- sample(c(NA, seq_len(n + 2)), 60, TRUE)
    expect_identical(list(run[rows], run[as.double(rows)], core$rows_called(run, "7")), list(x[rows], x[rows], which(x == "7")))
    many <- sort(sample(n, 5000 * (n > 0), TRUE))
    part <- run[many]
    expect_equal(core$is_run(part), n > 0)
    places <- as.integer(rows[which(rows <= n)])
    expect_written_alike(run, x, places)
    # Nothing so far looked at the whole.
    expect_false(core$run_is_spread(run) || core$run_is_spread(part))
    expect_identical(part, x[many])
    expect_identical(core$joined_texts(list(a = made(), b = run)), c(x, x))
    other <- made()
    other[2] <- "new"
    expect_identical(other, replace(x, 2, "new"))
    expect_identical(unserialize(serialize(made(), NULL)), x)
  }
  expect_null(core$run_texts(core$pack_texts(c("a", NA))))
})

test_that("the rows of cells that need no trimming are put behind each other, others are not", {
  cells <- c("M1", "b c", "\u00e9", "", "d")
  at <- function(index, of = cells) core$run_rows(core$pack_texts(of), index)
  for (index in list(c(1L, 2L, 5L, 4L, 1L), integer(), 4L)) expect_identical(core$unpack_texts(at(index, cells[-3][c(1, 2, 3, 3, 4)])), cells[-3][c(1, 2, 3, 3, 4)][index])
  expect_identical(at(1:2, c("a", "b")), core$pack_texts(c("a", "b")))
  for (odd in c("\u00e9", " a", "a\t", "a\u200b", NA)) expect_null(at(1:2, c("a", odd)))
  for (index in list(c(1L, NA), c(0L, 1L), 1:3)) expect_null(at(index, c("a", "b")))
})

test_that("different texts are counted as base R does, listed or not", {
  set.seed(9)
  texts <- c("a", NA, "b", "a", "")
  index <- sample(c(NA, 1:5), 300, TRUE)
  listed <- core$listed_texts(index, texts)
  for (rows in list(NULL, 1:40, integer())) {
    plain <- if (is.null(rows)) texts[index] else texts[index][rows]
    expect_equal(core$count_distinct(listed, rows), length(setdiff(unique(plain), NA)))
    expect_equal(core$count_distinct(texts[index], rows), length(setdiff(unique(plain), NA)))
  }
})

test_that("scores are those of base R", {
  set.seed(6)
  items <- replicate(5, sample(c(NA, 1:5), 2500, TRUE), simplify = FALSE)
  turned <- items
  for (k in c(2, 4)) turned[[k]] <- 6 - turned[[k]]
  m <- do.call(cbind, turned)
  turn <- c(NA, 6, NA, 6, NA)
  weights <- c(1, 2, 1, 1, 0.5)
  has <- !is.na(m)
  w <- as.vector(has %*% weights)
  total <- as.vector(ifelse(has, m, 0) %*% weights)
  of <- function(take, least, low = rep(0, 5), span = rep(0, 5)) core$score_values(items, turn, low, span, weights, 2500, take, least)
  looked <- lapply(items, function(item) core$looked_up(as.raw(ifelse(is.na(item), 0, 6 - item)), 5:1, NULL, list()))
  expect_identical(core$score_values(looked, turn, 0 * turn, 0 * turn, weights, 2500, "sum", 2), core$score_values(items, turn, 0 * turn, 0 * turn, weights, 2500, "sum", 2))
  # Five items are added up by rows, fewer by the patterns of their answers, and decimals by rows.
  half <- core$looked_up(as.raw(ifelse(is.na(items[[1]]), 0, 6 - items[[1]])), c(5, 4, 3, 2, 1.5), NULL, list())
  blank <- core$looked_up(raw(2500), 5:1, NULL, list())
  for (at in list(1:5, 2:3, 3, c(4, 2, 1))) for (rows in list(7:2400, rev(seq(1, 2500, 2)), 5L, integer())) {
    expect_identical(core$scale_moments(looked[at], turn[at], rows), core$scale_moments(items[at], turn[at], rows))
    expect_identical(core$scale_moments(c(list(half), looked[at]), c(7, turn[at]), rows), core$scale_moments(c(list(as.vector(half)[1:2500]), items[at]), c(7, turn[at]), rows))
    expect_identical(core$scale_moments(c(list(blank), looked[at]), c(6, turn[at]), rows), core$scale_moments(c(list(rep(NA_integer_, 2500)), items[at]), c(6, turn[at]), rows))
  }
  # Several texts of a file have one value.
  twice <- lapply(items, function(item) core$looked_up(as.raw(ifelse(is.na(item), 0, 6 - item + 5 * (seq_along(item) %% 2))), c(5:1, 5:1), NULL, list()))
  expect_identical(core$scale_moments(twice[2:4], turn[2:4], 1:2500), core$scale_moments(items[2:4], turn[2:4], 1:2500))
  # By the patterns of the answers, as by rows.
  for (take in c("mean", "sum", "percent")) for (at in list(2:3, 3, c(4, 2, 1))) for (kind in list(looked, twice)) {
    score <- function(items) core$score_values(items, turn[at], rep(1, length(at)), rep(4, length(at)), weights[at], 2500, take, 2)
    expect_identical(score(kind[at]), score(items[at]))
  }
  few <- core$scale_moments(looked[2:3], turn[2:3], 1:2500)
  expect_equal(few$covariance, stats::cov(m[, 2:3], use = "complete.obs"), ignore_attr = TRUE)
  expect_equal(few[c("complete", "straightlined")], list(complete = sum(rowSums(has[, 2:3]) == 2), straightlined = sum(items[[2]] == items[[3]], na.rm = TRUE)))
  expect_equal(of("mean", 3), ifelse(rowSums(has) < 3, NA, total / w))
  expect_equal(of("sum", 1), ifelse(rowSums(has) < 1, NA, ifelse(rowSums(has) < 5, total / w * sum(weights), total)))
  expect_equal(of("percent", 2, rep(1, 5), rep(4, 5)), ifelse(rowSums(has) < 2, NA, 100 * (total - w) / (4 * w)))
  score <- of("sum", 4)
  reasons <- lapply(1:4, function(j) sample(c(0L, 2L, 5L, 6L), 2500, TRUE, c(1, 1, 9, 9)))
  least <- do.call(pmin, reasons)
  plain <- ifelse(is.na(score), ifelse(rowSums(do.call(cbind, reasons) < 5) == 0, least, 9L), 0L)
  expect_true(all(c(0L, 5L, 6L, 9L) %in% plain))
  expect_identical(core$gaps_of_score(score, reasons, 5:6, 9L), plain)
  reasons[[2]] <- core$narrow_vector(reasons[[2]], NULL)
  expect_identical(core$gaps_of_score(score, reasons, 5:6, 9L), plain)
  expect_identical(core$gaps_of_score(score, c(reasons, list(NULL)), 5:6, 9L), ifelse(is.na(score), 9L, 0L))
})

test_that("few values are kept in a byte a row, and read as they were", {
  withr::local_options(mavik.least_held = 1L)
  n <- 4000
  columns <- list(
    sample(c(1L, NA, -5L, .Machine$integer.max), n, TRUE), sample(c(0.1 + 0.2, 0.3, NA, -0, 0, Inf, -Inf), n, TRUE),
    sample(255L, n, TRUE), rep(NA_integer_, n), factor(sample(c("a", "b", NA), n, TRUE)), as.Date(sample(c(1, 2.5, NA), n, TRUE), "1970-01-01"),
    # A long table of few values.
    core$looked_up(sample(c(NA, 1:900), n, TRUE), rep(c(4L, NA, 7L), 300), NULL, list()),
    core$looked_up(sample(c(NA, 1:900), n, TRUE), rep(c(0.5, NA, -0), 300), NULL, list())
  )
  for (column in columns) {
    plain <- unserialize(serialize(column, NULL))
    narrow <- core$narrow_vector(column, NULL)
    expect_type(core$looked_parts(narrow)$index, "raw")
    expect_identical(unserialize(serialize(narrow, NULL)), plain)
    expect_identical(1 / unclass(narrow)[], 1 / unclass(plain))
  }
  # Too many of them, what is neither a number nor a gap, and what is such a column already.
  for (column in list(sample(256L, 60000, TRUE), c(NaN, 1, NA), c("a", "b"), core$narrow_vector(columns[[1]], NULL)))
    expect_null(core$narrow_parts(column))
})

test_that("a universe leaves, takes and counts what its plain version does", {
  set.seed(8)
  n <- 3000
  reason <- sample(0:5, n, TRUE)
  missing <- reason > 0L
  truth <- sample(c(TRUE, FALSE, NA), n, TRUE)
  why <- sample(1:3, n, TRUE)
  # 1 no answer, 2 not asked, 3 set aside, 4 refused, 5 not found
  kept <- core$keep_universe(missing, reason, truth, why, 1L, 2L, 3L, c(2L, 3L, 5L))
  outside <- !truth & !is.na(truth)
  against <- which(outside & !reason %in% c(1L, 2L, 3L, 5L))
  now <- reason
  now[outside & reason == 1L] <- 2L
  now[is.na(truth) & reason == 1L] <- why[is.na(truth) & reason == 1L]
  now[against] <- 3L
  expect_identical(kept$reason, now)
  expect_identical(kept$against, against)
  expect_identical(kept$unsure, which(is.na(truth) & reason == 0L))
  expect_equal(unname(kept$skips), c(sum(truth & !missing, na.rm = TRUE), sum(truth & reason == 1L, na.rm = TRUE), sum(outside & reason == 1L), length(against), sum(is.na(truth) & !missing), sum(is.na(truth) & reason == 1L)))
})

test_that("numbers and ends of texts are read as the regular expressions read them", {
  set.seed(9)
  bits <- c("1", "20", ".", ",", "-", "+", "e", "E5", " ", "\t", "x", "\u2212", "\u00a0", "0")
  texts <- c(replicate(3000, paste(sample(bits, sample(1:6, 1), TRUE), collapse = "")), "", NA, strrep("9", 500), "1e400", "-0", "\u200b5")
  for (decimal in c("point", "comma")) expect_identical(core$text_to_number(texts, decimal), core$wide_to_number(texts, decimal), info = decimal)
  trimmed <- stringi::stri_replace_all_regex(texts, "^[\\p{White_Space}\\x{200B}\\x{FEFF}]+|[\\p{White_Space}\\x{200B}\\x{FEFF}]+$", "")
  expect_identical(core$text_trim(texts), trimmed)
})

test_that("near keys have the same mark, and no others", {
  set.seed(31)
  bits <- c("0", "00", "1", "a", "A", " ", "\t", "`", "'", "\u00e9", "\u00c9", "\uff10", "\u00a0", "-")
  keys <- c(replicate(4000, paste(sample(bits, sample(1:5, 1), TRUE), collapse = "")), "", "0", "00", "000a", "0 a", "00 7")
  near <- core$text_near(keys)
  expect_equal(match(core$near_marks(keys), unique(core$near_marks(keys))), match(near, unique(near)))
  expect_gt(length(unique(near)), 1000)
})

test_that("gaps of rows are those of plain R", {
  set.seed(32)
  n <- 20000
  index <- replicate(7, sample(5L, n, TRUE), simplify = FALSE)
  full <- replicate(7, sample(c(TRUE, FALSE), 5, TRUE), simplify = FALSE)
  weight <- lapply(1:7, function(i) core$odd_weight(i, 1:5))
  own <- vapply(1:7, core$odd_weight, 0, 1)
  seen <- core$gaps_of_rows(index, full, weight, own, n, 3L)
  is_full <- mapply(function(at, cells) cells[at], index, full)
  expect_equal(seen$answered, as.integer(rowSums(is_full)))
  expect_equal(seen$last, apply(is_full, 1, function(row) max(0L, which(row))))
  expect_equal(seen$late, as.integer(rowSums(is_full[, 4:7])))
  expect_identical(seen$pattern, Reduce(`+`, lapply(1:7, function(i) is_full[, i] * own[i])))
  expect_identical(seen$same, Reduce(`+`, lapply(1:7, function(i) weight[[i]][index[[i]]])))
})

test_that("the digest of a file is that of its bytes, however many there are", {
  file <- withr::local_tempfile()
  for (size in c(0, 1, 2^22 - 1, 2^22, 2^22 + 4097)) {
    writeBin(rep_len(as.raw(sample(256) - 1), size), file)
    bytes <- readBin(file, "raw", size)
    whole <- paste(format(unclass(openssl::blake2b(bytes))), collapse = "")
    expect_identical(core$file_digest(file), whole, info = size)
    expect_identical(core$bytes_digest(bytes), whole, info = size)
    expect_identical(core$pass_over(file, size, function(held) list(held)), if (size > 0) list(bytes))
  }
  for (wrong in c(size - 1, size + 1)) expect_null(core$pass_over(file, wrong, length))
  expect_null(core$pass_over(tempfile(), 5, length))
  expect_error(core$pass_over(file, size, function(held) stop("not today")), "not today")
  expect_error(suppressWarnings(core$file_digest(tempfile())), "cannot open")
  # That of a raw file is of what was read of it.
  digest <- core$digest_as_read(core$digest_beside(file), file, core$times_of(file), "raw.csv")
  expect_equal(digest(), core$file_digest(file))
  Sys.setFileTime(file, Sys.time() + 5)
  expect_match(message_of(digest()), "raw.csv: changed while it was read", fixed = TRUE)
  project <- project_with("mavik: 1\nstudy: {title: T}\nwaves: {one: {label: One}}\nexports: {a: {file: raw/a.csv, key: id}}\nvariables: {id: {is: key, label: Id}, x: {column: x, label: X, level: ratio}}", list("a.csv" = "id,x\n1,2\n"))
  changing <- withCallingHandlers(message_of(build_study(project)), mavik_progress = function(p) {
    if (p$step != "read") cat("2,3\n", file = file.path(project, "raw/a.csv"), append = TRUE)
  })
  expect_match(changing, "raw/a.csv: changed while it was read; build again")
})
