# Labels in further languages: the same answers under other words.

# Every kind of text that a cell can hold.
spoken_codebook <- function(translations = NULL, language = NULL) {
  codebook <- small_codebook(
    part = list(column = "part", label = "Part", level = "nominal", codes = c("1" = "High", "2" = "Low", "3" = "Middle"),
      variants = list(High = "Hgh"), missing = list(dont_know = "Cannot tell"), other = list(code = 9, text = "part_words")),
    agree = list(column = "agree", label = "Agreement", level = "ordinal", codes = "agree3"),
    again = list(column = "again", label = "Agreement again", level = "ordinal", codes = "agree3", cells = "codes",
      delivered = list("3" = "Disagree", "2" = "Neither", "1" = "Agree", "7" = "Refused")),
    heard = list(label = "Heard", split = list(column = "heard", separator = ";",
      options = list(heard_radio = "Radio", heard_press = list(label = "Press", variants = "Papers")))),
    box = list(label = "Boxes", split = list(columns = list(box_a = "box_a", box_b = "box_b"), options = list(box_a = "Alone", box_b = "Together"))),
    missing = list(refused = list(code = -2, label = "Refused", written = c("no comment", "REF")),
      dont_know = list(code = -1, label = "Don't know"))
  )
  codebook$code_lists <- list(agree3 = list(codes = c("1" = "Disagree", "2" = "Neither", "3" = "Agree"), missing = list(dont_know = "No view")))
  codebook$translations <- translations
  codebook$exports$main$language <- language
  codebook
}

spoken_frame <- function(say = identity, n = 200) withr::with_seed(3, {
  of <- function(...) say(sample(c(...), n, TRUE))
  data.frame(
    id = seq_len(n), part = of("High", "Low", "middle", "Hgh", "Cannot tell", "Refused", "no comment", "", "something else"),
    agree = of("Disagree", "Neither", "Agree", "No view", "Don't know", "REF", ""), again = sample(c("1", "2", "3", "7", "8"), n, TRUE),
    heard = of("Radio", "Press", "Radio;Press", "Papers;Radio", "Refused", ""), box_a = of("Alone", ""), box_b = of("Together", "", "Refused")
  )
})

# Another language: each text by other words; a joined cell part by part. Variants stay.
in_tongue <- function(texts) {
  own <- c("Hgh", "Papers", "something else", "")
  vapply(strsplit(paste0(texts, "|"), ";", fixed = TRUE), function(parts) {
    parts <- sub("|", "", parts, fixed = TRUE)
    paste(ifelse(parts %in% own, parts, paste0("\u00e7a ", chartr("aeiou", "eioua", parts), " ici")), collapse = ";")
  }, "")
}

sheet_in <- function(codebook, file, tongue = in_tongue) {
  sheet <- translation_sheet(codebook, "fr", file)
  sheet$translation <- tongue(sheet$text)
  utils::write.csv(sheet, file, row.names = FALSE)
  file
}

test_that("an export in another language reads like the first one", {
  file <- sheet_in(spoken_codebook(), tempfile(fileext = ".csv"))
  plain <- build_study(spoken_codebook(), list(main = spoken_frame()))
  spoken <- build_study(spoken_codebook(list(fr = file), "fr"), list(main = spoken_frame(in_tongue)))
  expect_equal(spoken$data, plain$data)
  expect_equal(spoken$reasons, plain$reasons)
  # No translated label or form leaves a row in the ledger.
  told <- function(study) table(ledger(study)$kind, ledger(study)$variable)
  expect_equal(told(spoken), told(plain))
  expect_gt(sum(spoken$data$part == 3, na.rm = TRUE), 10)
})

test_that("tables, answers and pages show a language, and the data stay as they are", {
  file <- sheet_in(spoken_codebook(), tempfile(fileext = ".csv"))
  project <- withr::local_tempdir()
  codebook <- spoken_codebook(list(fr = file))
  codebook$exports$main$file <- "raw/main.csv"
  dir.create(file.path(project, "raw"))
  utils::write.csv(spoken_frame(), file.path(project, "raw/main.csv"), row.names = FALSE)
  write_codebook(codebook, file.path(project, "study.yml"))
  study <- build_study(project)
  expect_equal(levels(study_table(study, "labels", language = "fr")$part)[1:3], in_tongue(c("High", "Low", "Middle")))
  expect_equal(levels(study_table(study, "labels")$part)[1:3], c("High", "Low", "Middle"))
  expect_equal(answers(project, "part", language = "fr")$tables[[1]]$table$label[1], in_tongue("High"))
  expect_match(paste(command("answers", "part", "--project", project, "--language", "fr")$out, collapse = "\n"), in_tongue("Low"), fixed = TRUE)
  plain <- write_study(study, file.path(project, "one"))
  french <- write_study(study, file.path(project, "two"), language = "fr")
  for (name in setdiff(list.files(plain), c("codebook.html", "report.html", "provenance.json"))) expect_identical(
    bytes_of(file.path(plain, name)), bytes_of(file.path(french, name)), info = name
  )
  page <- paste(readLines(file.path(french, "codebook.html"), encoding = "UTF-8"), collapse = "\n")
  expect_match(page, "<html lang=\"fr\">", fixed = TRUE)
  expect_match(page, in_tongue("Agreement again"), fixed = TRUE)
  expect_match(page, in_tongue("Refused"), fixed = TRUE)
  expect_equal(jsonlite::read_json(file.path(french, "provenance.json"))$language, "fr")
  # The codebook goes through a workbook and back with its languages.
  book <- file.path(project, "book.xlsx")
  write_codebook(read_codebook(project), book)
  expect_equal(unclass(read_codebook(book))$translations, list(fr = file))
  for (asked in list("de", "FR")) expect_match(
    command("answers", "part", "--project", project, "--language", asked)$err, "is not a language of this codebook; it has `fr`"
  )
  expect_equal(command("build", project, "--language", "de")$status, 2)
})

test_that("the sheet keeps what was translated, and tells what changed, lacks or is gone", {
  file <- tempfile(fileext = ".xlsx")
  first <- translation_sheet(spoken_codebook(), "fr", file)
  expect_named(first, c("path", "text", "translation", "changed since"))
  expect_false(anyDuplicated(first$path) > 0)
  csv <- sheet_in(spoken_codebook(), tempfile(fileext = ".csv"))
  changed <- spoken_codebook(list(fr = csv))
  changed$variables$part$codes[["3"]] <- "Between"
  changed$variables$part$label <- NULL
  changed$variables$part$label <- "Part sung"
  changed$variables$agree <- NULL
  changed$variables$more <- list(column = "box_a", label = "A new text", level = "text")
  told <- findings(build_study(changed, list(main = spoken_frame())))
  told <- told[told$path == "translations > fr", ]
  expect_setequal(told$kind, c("untranslated", "translation_outdated", "translation_unmatched"))
  expect_match(told$message[told$kind == "untranslated"], "`variables > more > label`", fixed = TRUE)
  expect_match(told$message[told$kind == "translation_outdated"], "`variables > part > label` and `variables > part > codes > 3`", fixed = TRUE)
  sheet <- translation_sheet(changed, "fr", csv)
  at <- sheet$path == "variables > part > codes > 3"
  expect_equal(unlist(sheet[at, c("text", "changed since", "translation")], use.names = FALSE), c("Between", "Middle", in_tongue("Middle")))
  expect_equal(sheet$text[sheet$path == "variables > agree > label"], "")
  # Written again nothing differs; emptied, the translation counts.
  expect_equal(translation_sheet(changed, "fr", csv), sheet)
  sheet$`changed since`[at] <- ""
  utils::write.csv(sheet, csv, row.names = FALSE)
  expect_true(in_tongue("Middle") %in% levels(study_table(build_study(changed, list(main = spoken_frame())), "labels", language = "fr")$part))
})

test_that("a translation that could mean another code, and bad sheets, are errors with their place", {
  wrong <- function(from, to, ...) {
    file <- tempfile(fileext = ".csv")
    sheet <- translation_sheet(spoken_codebook(), "fr", file)
    sheet$translation[match(from, sheet$path)] <- to
    utils::write.csv(sheet, file, row.names = FALSE)
    message_of(build_study(spoken_codebook(list(fr = file)), list(main = spoken_frame())))
  }
  expect_match(wrong("variables > part > codes > 1", "low"), "translations > fr: .*csv:[0-9]+: `low`, for `High` of `part`, is the label of another code")
  expect_match(wrong(c("variables > part > codes > 1", "variables > part > codes > 2"), c("Ton", "ton")), "is given for `(Low|High)` too")
  expect_match(wrong("missing > refused > label", "Not asked"), "of the missing reasons, is the label of another code")
  expect_match(wrong("variables > heard > split > options > heard_radio", "Press"), "`Press`, for `Radio` of `heard`")
  slips <- list(
    list(list(fr = "nowhere.csv"), NULL, "there is no such sheet yet; `mavik convert PROJECT --texts fr` writes it"),
    list(list(French = "a.csv"), NULL, "translations > French: `French` is not the tag of a language"),
    list(list(fr = "a.txt"), NULL, "translations > fr: `a.txt` is neither .xlsx nor .csv"),
    list(NULL, "fr", "exports > main > language: `fr` is not under `translations`: `translations: \\{fr: sheets/fr.xlsx\\}`"),
    list(list(fr = "a.csv"), "fi", "exports > main > language: `fi` is not under `translations`; did you mean `fr`")
  )
  for (slip in slips) expect_match(message_of(build_study(spoken_codebook(slip[[1]], slip[[2]]), list(main = spoken_frame()))), slip[[3]])
  expect_match(message_of(translation_sheet(spoken_codebook(), "french!", tempfile(fileext = ".csv"))), "is not the tag of a language")
})
