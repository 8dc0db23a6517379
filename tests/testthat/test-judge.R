# Made-up projects worked out twice: by the package, and one value at a time.

judged <- function(seed, ...) tryCatch(differs(seed, ...), error = function(e) paste("fault:", conditionMessage(e)))

test_that("what is built is what the language says, on projects made at random", {
  wanted <- cases(96)
  first <- as.integer(Sys.time()) %% 1000000L * 1000L
  built <- character()
  # What cannot be built (a circle, a branch that nothing reaches) is no case: the next is tried.
  for (seed in first + seq_len(3 * wanted)) {
    if (length(built) == wanted) break
    told <- judged(seed)
    if (!is.na(told)) built[[as.character(seed)]] <- told
  }
  cat("\nrandom projects with the seeds", first + 1, "to", seed, "\n")
  expect_length(built, wanted)
  expect_equal(built[nzchar(built)], stats::setNames(character(), character()))
})

test_that("the judge sees what is built otherwise", {
  turned <- function(book, frames) build_study(utils::modifyList(book, list(missing = NULL)), frames)
  no_rules <- function(book, frames) build_study(book[setdiff(names(book), "rules")], frames)
  no_screens <- function(book, frames) build_study(book[setdiff(names(book), "screens")], frames)
  asked_all <- function(book, frames) {
    book$variables <- lapply(book$variables, function(one) one[setdiff(names(one), "universe")])
    build_study(book, frames)
  }
  # The first project in which what is built otherwise differs, but for one that is refused.
  first_seen <- function(build) {
    for (seed in 1:24) {
      told <- judged(seed, build = build)
      if (!is.na(told) && nzchar(told) && !grepl("^(refused|fault)", told)) return(c(seed, told))
    }
  }
  for (build in list(turned, no_rules, no_screens, asked_all)) {
    seen <- first_seen(build)
    expect_match(seen[2], "row|standing|ledger")
    expect_equal(judged(as.integer(seen[1])), "")
  }
})
