test_that("texts that people take for the same fold to the same", {
  alike <- list(
    c("Don't know", "Don\u2019t know", "  don\u2018T   KNOW ", "Don`t\u00a0know", "Don\u00b4t know"),
    c("Caf\u00e9", "Cafe\u0301", "CAF\u00c9"),
    c("1 - Not at all", "1 \u2013 not at all", "1 \u2014 NOT AT ALL", "1 \u2212 Not\nat all"),
    c("\"Other\"", "\u201cother\u201d", "\u00abOther\u00bb"),
    c("Stra\u00dfe", "STRASSE"),
    c("", "   ", "\u00a0", "\t\n", "\u200b")
  )
  for (forms in alike) expect_length(unique(core$text_fold(forms)), 1)
  expect_length(unique(core$text_fold(vapply(alike, `[`, "", 1))), length(alike))
  expect_equal(core$text_fold("I"), "i")
})

test_that("the folding kernel equals the full folding", {
  set.seed(9)
  x <- replicate(500, paste(sample(c(letters, LETTERS, " ", " ", "\t", "\n", "`", "'", "-", "0", "\u00c4", "\u2019"), sample(0:12, 1), TRUE), collapse = ""))
  expect_identical(core$text_fold(x), core$text_fold_full(x))
  plain <- stringi::stri_enc_isascii(x)
  expect_identical(is.na(core$fold_ascii(x)), !plain)
  words <- unique(core$text_fold_full(x[nchar(x) < 3]))
  expect_identical(core$fold_in(c(x, NA), words), c(core$text_fold_full(x) %in% words, FALSE))
})

test_that("a number is what it says and nothing else", {
  read <- c("7" = 7, " 7 " = 7, "+7" = 7, "-7" = -7, "\u22127" = -7, "07" = 7, "7." = 7, ".5" = 0.5, "1e3" = 1000, "2.5E-1" = 0.25, "0.1" = 0.1)
  for (text in names(read)) expect_identical(core$text_to_number(text), read[[text]], info = text)
  for (text in c("", "7 years", "1,000", "1.2.3", "7-9", "$7", "1e", "0x1F", "Inf", "NaN", "1e999", "7%", "--7")) {
    expect_true(is.na(core$text_to_number(text)), info = text)
  }
  expect_identical(core$text_to_number(c("1,5", "1.5", ",5", "2"), "comma"), c(1.5, NA, 0.5, 2))
})

test_that("the number kernels equal their plain versions", {
  set.seed(1)
  x <- c(0, 1, -1, 1e5, 100000, 123456789, 1e15, 1e-5, 1e300, 4.9e-324, 1 / 3, 0.1 + 0.2, stats::rnorm(2000) * 10^sample(-20:20, 2000, TRUE))
  text <- core$number_to_text(x)
  expect_identical(core$text_to_number(text), x)
  plain <- vapply(x, function(one) {
    for (digits in 1:17) if (as.numeric(sprintf("%.*e", digits - 1, one)) == one) return(digits)
    17
  }, 0)
  digits <- nchar(gsub("^0+|(?<=[1-9])0+$", "", gsub("[-.]|e.*", "", text), perl = TRUE))
  whole <- abs(x) >= 1e15 | !grepl("e", text) & x == round(x)
  expect_true(all(digits[!whole] <= plain[!whole]))
  expect_equal(text[1:6], c("0", "1", "-1", "100000", "100000", "123456789"))
  decimals <- sprintf("%.4f", stats::runif(500, -1e4, 1e4))
  expect_identical(core$text_to_number(decimals), as.numeric(decimals))
})

test_that("numbers are shown as R's own formatting shows them, with commas before the point only", {
  set.seed(13)
  x <- c(stats::rnorm(1000) * 10^sample(-3:11, 1000, TRUE), 0, -0.001, 999.995, 999999.5, -1234.5678, 1e15, 1:5)
  for (decimals in 0:5) {
    plain <- formatC(core$round_half(x, decimals), format = "f", digits = decimals, big.mark = ",")
    expect_identical(core$number_show(x, decimals), plain, info = decimals)
  }
  table <- matrix(c(1234.5, NA, NaN, -7), 2, dimnames = list(c("a", "b"), NULL))
  expect_identical(core$number_show(table, 1), matrix(c("1,234.5", "", "", "-7.0"), 2, dimnames = list(c("a", "b"), NULL)))
  expect_identical(core$grouped(c(0, 999, 1000, -1234567)), c("0", "999", "1,000", "-1,234,567"))
})

test_that("headings get stable names, left to right", {
  expect_equal(core$unique_names(c("Other", "A", "Other", "", "Other", "")), c("Other", "A", "Other (2)", "Column 4", "Other (3)", "Column 6"))
  expect_equal(core$unique_names(c("Other", "Other (2)", "Other")), c("Other", "Other (2)", "Other (3)"))
})

test_that("plain texts are looked through as texts of all scripts are", {
  set.seed(12)
  bits <- c(letters[1:4], "A", "1", "20", " ", "-", "+", "<", "=", "%", "&", "#", "/", "*", "$", "'", ".", "_", "(", "?", "\n", "\t")
  texts <- c(replicate(3000, paste(sample(bits, sample(1:9, 1), TRUE), collapse = "")), "", "--", "a-1", "-1", "1-", "12.5", "-3", "abc\n")
  found <- function(pattern) lapply(stringi::stri_extract_all_regex(texts, pattern), function(one) one[!is.na(one)])
  expect_identical(lapply(texts, core$telling_marks), found("\\p{N}+|[+<>=%&#/*\\u20AC$\\u00A3]|(?<![\\p{L}\\p{N}])-|-(?![\\p{L}\\p{N}])"))
  expect_identical(lapply(texts, core$letters_of), lapply(found("\\p{L}[\\p{L}\\p{M}']*"), function(one) {
    one <- gsub("'", "", one, fixed = TRUE)
    one[nzchar(one)]
  }))
  words <- stringi::stri_trim_both(stringi::stri_replace_all_regex(texts, "[^\\p{L}\\p{N}']+", " "))
  expect_identical(vapply(texts, core$padded, "", USE.NAMES = FALSE), paste0(" ", words, " "))
  plain <- "^-?[0-9]+([.][0-9]+)?\\z|^[\\p{L}\\p{N}/](?:[\\p{L}\\p{N} '().?!/+_-]*[\\p{L}\\p{N}).?!])?\\z"
  expect_identical(vapply(texts, core$is_plain_scalar, TRUE, USE.NAMES = FALSE), stringi::stri_detect_regex(texts, plain))
  expect_gt(sum(lengths(lapply(texts, core$telling_marks)) > 1), 500)
})
