# One for all tests of this file.
view_browser <- local({
  started <- NULL
  function() {
    if (is.null(started)) started <<- start_browser(env = testthat::teardown_env())
    started
  }
})

# A page of the demo, or of another project, open in a real browser.
open_view <- function(project, browser = view_browser(), ...) {
  file <- tempfile(fileext = ".html")
  done <- command("view", project, "--out", file, ...)
  if (done$status != 0) stop(paste(done$err, collapse = "\n"))
  browser$seconds <- browser$open(file)
  browser$file <- file
  browser
}

# What the page holds, unpacked.
page_holds <- function(file) {
  html <- paste(readLines(file, encoding = "UTF-8", warn = FALSE), collapse = "\n")
  packed <- sub(".*<script type=\"text/plain\" id=\"data\">([^<]*)</script>.*", "\\1", html)
  whole <- memDecompress(jsonlite::base64_dec(packed), "gzip")
  size <- readBin(whole[1:4], "integer", size = 4, endian = "little")
  list(html = html, head = rawToChar(whole[4 + seq_len(size)]), bytes = whole)
}

test_that("the page tells of a cell what `mavik why` tells, step by step", {
  project <- demo_project(tempfile(), 2)
  browser <- open_view(project)
  study <- build_study(project)
  expect_equal(browser$run("page.rows().length"), nrow(study_table(study)))
  browser$run("document.getElementById('dropped').click()")
  expect_equal(browser$run("page.rows().length"), nrow(study$data))
  touched <- ledger(study)
  touched <- touched[touched$variable %in% names(study$data) & touched$respondent %in% study$records$key, ]
  set.seed(11)
  each <- do.call(rbind, lapply(split(touched, touched$kind), function(one) one[sample(nrow(one), min(cases(3), nrow(one))), c("wave", "respondent", "variable")]))
  shown <- setdiff(names(study$data), names(Filter(function(one) isTRUE(one$carrier), study$book$variables)))
  row <- sample(nrow(study$data), cases(60))
  some <- data.frame(wave = study$records$wave[row], respondent = study$records$key[row], variable = sample(shown, length(row), replace = TRUE))
  tried <- unique(rbind(each, some))
  expect_gt(nrow(tried), length(row))
  compared <- 0
  for (i in seq_len(nrow(tried))) {
    case <- tried[i, ]
    told <- why(study, case$variable, case$respondent, case$wave)$stories
    # Of two records of a respondent the page shows each; those that stand alone are compared.
    if (length(told) != 1) next
    steps <- told[[1]]$steps
    steps <- steps[steps$step != "worked", c("step", "value", "words")]
    page <- browser$run(sprintf("page.steps('%s', page.rows()[page.record('%s', '%s')])", case$variable, case$respondent, case$wave))
    page <- data.frame(step = vapply(page, `[[`, "", "step"), value = vapply(page, `[[`, "", "value"), words = vapply(page, `[[`, "", "words"))
    expect_equal(page, steps, ignore_attr = TRUE, info = paste(unlist(case), collapse = " "))
    compared <- compared + 1
  }
  expect_gt(compared, 0.8 * length(row))
})

test_that("filters, sorting and switches show what the study holds, by mouse and by key, and nothing leaves the page", {
  project <- demo_project(tempfile())
  browser <- open_view(project)
  run <- browser$run
  click <- function(id) run(sprintf("document.getElementById('%s').click()", id))
  conditions <- list(
    "voice == \"Alto\"" = list("voice", "label", "2 Alto"), "years >= 5 & years <= 9" = list("years", "span", c("5", "9")),
    "is_missing(years, \"no_answer\")" = list("years", "label", "(No answer)"), "contains(best, \"tea\")" = list("best", "words", "tea"),
    "debut >= \"2015-01-01\"" = list("debut", "span", c("2015-01-01", "")), "is_missing(weekly, \"not_asked\") | weekly == 1" = list("weekly", "both", c("1", "1", "(Not asked)"))
  )
  study <- build_study(project)
  type <- function(name, at, text) run(sprintf("(() => { const one = document.querySelectorAll(\"[data-filter='%s'] input:not([type=checkbox])\")[%d]; one.value = '%s'; one.dispatchEvent(new Event('input')); })()", name, at, text))
  tick <- function(name, label) run(sprintf("[...document.querySelectorAll(\"[data-filter='%s'] label\")].find(one => one.children[1].textContent === \"%s\").querySelector('input').click()", name, label))
  run("document.getElementById('grid').focus()")
  for (condition in names(conditions)) {
    case <- conditions[[condition]]
    click("filters")
    run(sprintf("(() => { const one = document.querySelector('#side select'); one.value = '%s'; one.dispatchEvent(new Event('change')); })()", case[[1]]))
    if (case[[2]] == "label") tick(case[[1]], case[[3]])
    if (case[[2]] == "words") type(case[[1]], 0, case[[3]])
    if (case[[2]] %in% c("span", "both")) { type(case[[1]], 0, case[[3]][1]); type(case[[1]], 1, case[[3]][2]) }
    if (case[[2]] == "both") tick(case[[1]], case[[3]][3])
    checked <- jsonlite::fromJSON(paste(command("check", project, "--where", condition, "--json")$out, collapse = "\n"))
    lines <- checked$line[checked$stands == "retained"]
    expect_gt(length(lines), 0)
    expect_equal(sort(unlist(run("page.rows().map(row => page.line(row))"))), sort(lines), info = condition)
    run("[...document.querySelectorAll('#side button')].find(one => one.textContent === 'Take all away').click()")
    browser$key("Escape")
  }
  # Sorted upwards and downwards by the keyboard, gaps last.
  grid <- function() run("document.getElementById('grid').focus()")
  expect_equal(run("document.activeElement.id"), "grid")
  at <- run("page.columns().indexOf('years')")
  for (k in seq_len(at + 1)) browser$key("ArrowRight")
  sorted <- function() unlist(run("page.rows().slice(0, 400).map(row => page.steps('years', row).slice(-1)[0].value)"))
  browser$key("s")
  up <- suppressWarnings(as.numeric(sorted()))
  expect_false(is.unsorted(up[!is.na(up)]))
  expect_true(all(which(is.na(up)) > max(which(!is.na(up)))))
  browser$key("s")
  expect_false(is.unsorted(-as.numeric(sorted()[nzchar(sorted())])))
  browser$key("s")
  table <- study_table(study, values = "labels")
  csv <- function() utils::read.csv(text = run("page.csv()"), check.names = FALSE, colClasses = "character", na.strings = character(), encoding = "UTF-8")
  seen <- csv()
  for (name in intersect(names(seen), c("voice", "years", "standing", "debut", "best", "belonging"))) {
    wanted <- if (is.numeric(table[[name]])) core$number_to_text(table[[name]]) else as.character(table[[name]])
    expect_equal(seen[[name]], ifelse(is.na(wanted), "", wanted), info = name)
  }
  run("document.getElementById('codes').click()")
  expect_equal(csv()$voice, { codes <- study_table(study)$voice; ifelse(is.na(codes), "", codes) })
  run("document.getElementById('raws').click()")
  raw <- as.data.frame(read_export(file.path(project, "raw/spring.csv"), c("names", "questions")), optional = TRUE)
  lines <- unlist(run("page.rows().map(row => page.line(row))"))
  export <- read_export(file.path(project, "raw/spring.csv"), c("names", "questions"))
  expect_equal(csv()$years, raw$Q4[match(lines, export$lines)])
  # Story, variable, record and keys by the keyboard, and back to where one was.
  run("document.getElementById('values').click()")
  grid()
  browser$key("Enter")
  expect_match(run("document.querySelector('#side h2').textContent"), "^years, record ")
  browser$key("Escape")
  expect_equal(run("document.activeElement.id"), "grid")
  browser$key("r")
  first <- run("document.querySelector('#side h2').textContent")
  expect_match(first, "^Record ")
  expect_equal(length(unlist(run("[...document.querySelectorAll('#side dt code')].map(one => one.textContent)"))), length(run("page.columns()")))
  run("[...document.querySelectorAll('#side button')].find(one => one.textContent === 'Next').click()")
  expect_false(identical(run("document.querySelector('#side h2').textContent"), first))
  browser$key("Escape")
  browser$key("PageUp"); browser$key("ArrowUp"); browser$key("Enter")
  expect_equal(run("document.querySelector('#side h2').textContent"), "years")
  counts <- unlist(run("[...document.querySelectorAll('#side tbody td.n')].map(one => Number(one.textContent.replace(/,/g, '')))"))
  expect_equal(sum(counts), nrow(table))
  # Read by others: a grid with its size, one active cell, buttons that say their state.
  expect_equal(run("document.getElementById('grid').getAttribute('aria-rowcount')"), as.character(nrow(table) + 1))
  expect_true(run("!!document.getElementById(document.getElementById('grid').getAttribute('aria-activedescendant'))"))
  expect_lt(run("document.querySelectorAll('#sheet .row').length"), 80)
  # Asked for nothing, and not allowed to.
  expect_equal(run("performance.getEntriesByType('resource').length"), 0)
  expect_equal(run("fetch('http://127.0.0.1:9/').then(() => 'went', () => 'refused')"), "refused")
  for (width in c(400, 1600)) {
    browser$size(width, 800)
    expect_lte(run("document.documentElement.scrollWidth"), width)
  }
})

test_that("nothing private is in the file, texts are never markup, and what is long is cut and says so", {
  secret <- "topsecret-7731"
  nasty <- c("<script>window.broken = 1</script>", "<img src=x onerror='window.broken = 2'>", "</script><b>bold", "=1+1", "{title} {data} {js}", strrep("ab ", 350000), "line one\nline two")
  frame <- data.frame(id = seq_along(nasty), part = rep(c("High", "Low"), length.out = length(nasty)), said = nasty, mail = paste0(secret, seq_along(nasty), "@x.example"))
  project <- project_with(c(
    "mavik: 1", "study: {title: \"<i>Small</i> & quiet\"}", "waves: {one: {label: One}}", "exports: {main: {file: raw/a.csv, key: id}}",
    "variables:", "  id: {is: key, label: Id}", "  part: {column: part, label: Part, level: nominal, codes: {1: High, 2: Low}}",
    "  said: {column: said, label: Said, level: text}", "  mail: {column: mail, label: Mail, level: text, private: yes}",
    "  has_mail: {label: Has mail, when: [{if: 'is_missing(mail)', is: 0}, {else: 1}], codes: {0: No, 1: Yes}}"
  ))
  utils::write.csv(frame, file.path(project, "raw/a.csv"), row.names = FALSE)
  browser <- open_view(project)
  held <- page_holds(browser$file)
  for (text in c(held$html, held$head)) expect_no_match(text, secret, fixed = TRUE)
  expect_length(grepRaw(secret, held$bytes, fixed = TRUE), 0)
  expect_no_match(held$head, "has_mail", fixed = TRUE)
  expect_match(held$head, "1,050,000 characters", fixed = TRUE)
  expect_lt(file.size(browser$file), 100000)
  expect_true(browser$run("window.broken === undefined"))
  expect_equal(browser$run("document.querySelector('h1').textContent"), "<i>Small</i> & quiet")
  seen <- unlist(browser$run("[...document.querySelectorAll('#sheet [role=gridcell]')].map(one => one.textContent)"))
  for (text in nasty[1:5]) expect_true(text %in% seen, info = text)
  expect_equal(browser$run("document.querySelectorAll('#sheet script, #sheet img, #sheet b ~ b').length"), 0)
  said <- function(...) paste(command("view", project, "--out", tempfile(fileext = ".html"), ...)$err, collapse = "\n")
  expect_match(said("--variables", "mail"), "`mail` is private: nothing of it can be on the page", fixed = TRUE)
  expect_match(said("--variables", "saidd"), "did you mean `said`?", fixed = TRUE)
  expect_match(said("--where", "part == \"Lwo\""), "is not a label of `part`", fixed = TRUE)
  expect_match(said("--where", "part == \"High\" & part == \"Low\""), "leaves no record", fixed = TRUE)
  expect_match(said("--sample", "0"), "1 or more", fixed = TRUE)
  expect_match(paste(command("view", tempfile())$err, collapse = "\n"), "no such file or project folder", fixed = TRUE)
  expect_match(paste(command("view", project, "--out", file.path(project, "raw/a.html"))$err, collapse = "\n"), "never written to", fixed = TRUE)
  few <- open_view(project, browser, "--sample", "3", "--where", "part == \"High\"")
  expect_equal(few$run("page.rows().length"), 3)
  expect_match(few$run("document.getElementById('told').textContent"), "3 of 3 records; a sample of 4, at even distances; where part == \"High\"", fixed = TRUE)
})
