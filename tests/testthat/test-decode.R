# What a cell means: the variable, the file's cells, then cell = outcome. An
# outcome is a value, a reason, or "kind:value"; "?" before it marks a doubt.
outcomes <- function(cells, variable, held = "labels", decimal = "point") {
  document <- small_codebook(x = c(list(column = "x", label = "X"), variable), cells = held, missing = list(
    refused = list(code = -2, label = "Prefer not to say", written = c("REF", "999")), dont_know = list(code = -1, label = "Don't know", written = "?")
  ))
  document$code_lists <- list(agree = list(codes = c("1" = "No", "2" = "Perhaps", "3" = "Yes"), missing = list(dont_know = c("6", "Can't say"))))
  book <- core$compile_codebook(core$as_codebook(document))
  cells[cells == "<blank>"] <- ""
  out <- core$decode_cells(cells, book$variables$x, list(cells = held, decimal = decimal), book)
  paste0(ifelse(out$doubt, "?", ""), ifelse(nzchar(out$kind), paste0(out$kind, ":"), ""), ifelse(out$reason > 0, book$reasons$name[pmax(out$reason, 1)], out$value))
}

expect_cells <- function(expected, variable, ...) expect_equal(outcomes(names(expected), variable, ...), unname(expected), info = paste(names(variable), collapse = " "))

test_that("a cell means what the codebook says, and nothing is guessed", {
  agree <- list(level = "ordinal", codes = "agree")
  expect_cells(c("Yes" = "3", "yes " = "3", " YES" = "3", "<blank>" = "no_answer", "\u00a0" = "no_answer", "Can\u2019t  say" = "dont_know", "prefer not to say" = "refused",
    "REF" = "refused", "?" = "dont_know", "3" = "unlisted:set_aside", "6" = "dont_know", "Yess" = "unlisted:set_aside", "-2" = "unlisted:set_aside", "No answer" = "unlisted:set_aside"), agree)
  expect_cells(c("1" = "1", "3.0" = "3", " 2 " = "2", "03" = "3", "4" = "unlisted:set_aside", "2.5" = "unlisted:set_aside", "6" = "dont_know", "-2" = "refused",
    "-1" = "dont_know", "Yes" = "unlisted:set_aside", "999" = "refused"), agree, held = "codes")
  expect_cells(c("a" = "3", "B" = "1", "9" = "refused", "1" = "unlisted:set_aside"),
    c(agree, list(delivered = list(A = "Yes", b = "No", "9" = "refused"))), held = "codes")
  expect_cells(c("yep" = "variant:3", "3" = "variant:3", "Yes" = "3", "nope" = "refused"),
    c(agree, list(variants = list(Yes = c("Yep", "3")), missing = list(refused = "Nope"))))
  ends <- list(level = "ordinal", codes = c("1" = "Not at all", "7" = "Completely"), range = c(1, 7))
  expect_cells(c("not at all" = "1", "4" = "4", "7" = "7", "8" = "unlisted:set_aside", "4.5" = "unlisted:set_aside"), ends)
  expect_cells(c("Yes" = "2", "2" = "unlisted:set_aside"), list(level = "nominal", codes = c("1" = "No", "2" = "Yes"), cells = "labels"), held = "codes")
  for (held in c("labels", "codes")) expect_cells(c("1" = "1", "5" = "5", "6" = "unlisted:set_aside", "x" = "unlisted:set_aside", "REF" = "refused"), list(level = "ordinal", range = c(1, 5)), held = held)
  years <- list(level = "ratio", range = c(0, 80), variants = list("3" = "three"), missing = list(refused = "99"))
  expect_cells(c("12" = "12", "1.5" = "1.5", "three" = "variant:3", "99" = "refused", "99.0" = "refused", "999" = "refused", "120" = "120", "12 years" = "unlisted:set_aside",
    "1,5" = "unlisted:set_aside", "DK" = "unlisted:set_aside"), years)
  expect_cells(c("1,5" = "1.5", "1.5" = "unlisted:set_aside", "\u0663\u066b\u0665" = "3.5"), years, decimal = "comma")
  # Digits of other scripts are digits.
  expect_cells(c("\uff11\uff12" = "12", "\uff11\uff0e\uff15" = "1.5", "\u0667\u0663" = "73", "\u0967\u0968" = "12", "\u2460" = "unlisted:set_aside", "\uff11a" = "unlisted:set_aside"), years)
  expect_cells(c("999" = "?999", "7" = "7"), list(level = "ratio"))
  expect_cells(c("999" = "?999", "1000" = "1000"), list(level = "ratio", range = c(0, 2000)))
  expect_cells(c("-1" = "?-1"), list(level = "interval"), held = "codes")
  expect_cells(c("REF" = "REF", " kept  so " = "kept  so", "<blank>" = "no_answer", "999" = "999"), list(level = "text"))
  expect_cells(c("007" = "007", "?" = "?"), list(level = "identifier"))
})
