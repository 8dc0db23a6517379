# The same by regular expressions and R's own calendar.
plain_dates <- function(x, format) {
  read <- strptime(x, format, tz = "UTC")
  as.numeric(as.POSIXct(read))
}

test_that("the kernel reads dates as R's own calendar does, and refuses what is none", {
  set.seed(41)
  days <- as.Date(sample(-200000:200000, 3000), origin = "1970-01-01")
  days <- days[format(days, "%Y") >= "1000"]
  forms <- c("dd/MM/yyyy" = "%d/%m/%Y", "MM/dd/yyyy" = "%m/%d/%Y", "dd.MM.yyyy" = "%d.%m.%Y", "yyyyMMdd" = "%Y%m%d", "yyyy-MM-dd" = "%Y-%m-%d")
  for (pattern in names(forms)) {
    text <- format(days, forms[[pattern]])
    read <- core$dates_parse(text, core$date_form(pattern)$tokens)
    expect_equal(read, plain_dates(text, forms[[pattern]]), info = pattern)
    expect_equal(core$date_to_text(read / 86400, "date"), format(days))
  }
  moments <- .POSIXct(sample(2e9, 2000), "UTC")
  expect_equal(core$text_to_date(format(moments, "%Y-%m-%dT%H:%M:%SZ"), "datetime")$value, as.numeric(moments))
  expect_equal(core$text_to_date(format(moments, "%d/%m/%Y %I:%M %p"), "datetime", "dd/MM/yyyy hh:mm a")$value, floor(as.numeric(moments) / 60) * 60)
  # Months in words, whole and short, in the languages that are known.
  lines <- strsplit(sub("^[0-9]+: ", "", grep("^[0-9]", readLines(system.file("text", "months.txt", package = "mavik"), encoding = "UTF-8"), value = TRUE)), " | ", fixed = TRUE)
  expect_length(lines, 12)
  expect_false(anyDuplicated(names(core$month_words())) > 0)
  for (month in seq_along(lines)) expect_equal(
    core$text_to_date(c(paste("28", toupper(lines[[month]]), "2026"), "29 02 2026", "2 Smarch 2026", "31 April 2026", "may", "12 listopada 2026"), "date", "d MMM yyyy")$value,
    c(rep(as.numeric(as.Date(sprintf("2026-%02d-28", month))), length(lines[[month]])), rep(NA, 5)), info = month
  )
  expect_equal(core$text_to_date("3 de febrero de 2026 7:05 pm", "datetime", "d 'de' MMM 'de' yyyy h:mm a")$value, 1770145500)
  expect_equal(core$text_to_date(c("3 f\u00e9vr. 2026", "3.f\u00e9vr.2026", "Feb. 3, 2026"), "date", c("d MMMM yyyy", "d.MMM.yyyy", "MMM d, yyyy"))$value, rep(20487, 3))
  # Days of the week, of which a date has but one.
  days <- core$word_rows("weekdays.txt")
  expect_length(days, 7)
  for (day in seq_along(days)) {
    words <- days[[day]]
    own <- paste0(toupper(words), " ", day + 1, ". 3. 2026")
    expect_equal(core$text_to_date(own, "date", "EEE d. M. yyyy")$value, rep(20513 + day, length(words)), info = words[1])
    next_day <- core$text_to_date(paste(words, day + 2, "3 2026"), "date", "EEEE d M yyyy")$value
    expect_equal(is.na(next_day), !words %in% days[[day %% 7 + 1]], info = words[1])
  }
  expect_equal(core$text_to_date(c("Mon. 2 Mar. 2026", "mar 3 mars 2026", "Lunes, 2 de marzo de 2026", "02/03/2026 (Mon)", "02/03/2026 (Fri)", "2 March 2026", "Blue 2 March 2026"), "date",
    c("EEE d MMM yyyy", "EEEE, d 'de' MMMM 'de' yyyy", "dd/MM/yyyy (EEE)"))$value, c(20514, 20515, 20514, 20514, NA, NA, NA))
  # In its zone it is Monday.
  zoned <- core$text_to_date(c("Mon Mar 02 2026 00:05:22 GMT+0100", "Fri Mar 04 2026 00:05:22 GMT+0100"), "datetime", "EEE MMM dd yyyy HH:mm:ss 'GMT'X")
  expect_equal(zoned[c("value", "zone")], list(value = c(1772406322, NA), zone = c(TRUE, FALSE)))
  wrong <- c("2023-02-29", "2024-13-01", "2024-00-10", "2024-01-32", "1900-02-29", "2024-1-2", "24-01-02", "2024-01-02x", "x2024-01-02", "2024/01/02", "", NA, "2024-01-02 25:00")
  expect_true(all(is.na(core$text_to_date(wrong, "date")$value)))
  expect_equal(core$text_to_date(c("2000-02-29", " 2024-02-29 ", "2024-02-29\u00a0"), "date")$value, as.numeric(as.Date(c("2000-02-29", "2024-02-29", "2024-02-29"))))
  zones <- core$text_to_date(c("2026-03-02T10:00:00+01:00", "2026-03-02T10:00-0530", "2026-03-02T10:00:00.5Z", "2026-03-02 10:00"), "datetime")
  expect_equal(core$date_to_text(zones$value, "datetime"), c("2026-03-02T09:00:00", "2026-03-02T15:30:00", "2026-03-02T10:00:00.5", "2026-03-02T10:00:00"))
  expect_equal(zones$zone, c(TRUE, TRUE, TRUE, FALSE))
})

test_that("dates go through a build with their kind, their gaps and their findings", {
  frame <- data.frame(id = 1:9, part = "Low", d = c("02/03/2026", "31/02/2026", "", "Refused", "2026-03-04", "1/1/1901", "5.3.2026", "02/03/2027", "second"), e = c("2026-03-02 10:00", "2026-03", "2026-03-02T10:00Z", rep("", 6)))
  study <- build_small(frame, d = list(column = "d", label = "D", level = "date", dates = c("dd/MM/yyyy", "d.M.yyyy"), range = c("2000", "2026-12"), variants = list("2026-03-02" = "second")),
    e = list(column = "e", label = "E", level = "datetime"))
  expect_equal(study$data$d, as.Date(c("2026-03-02", NA, NA, NA, NA, NA, "2026-03-05", NA, "2026-03-02")))
  expect_equal(as.character(study$reasons$d), c(NA, "set_aside", "no_answer", "refused", "set_aside", "set_aside", NA, "set_aside", NA))
  expect_equal(format(study$data$e[c(1, 3)]), rep("2026-03-02 10:00:00", 2))
  found <- findings(study)
  expect_setequal(paste(found$kind, found$written), c("unlisted 31/02/2026", "unlisted 2026-03-04", "unlisted 1/1/1901", "range 2027-03-02", "unlisted 2026-03", "mixed_time_zones 2026-03-02 10:00"))
  expect_match(found$message[found$written == "1/1/1901"], "it fits `dates: d/M/yyyy`")
  rows <- ledger(study)
  expect_equal(rows[rows$kind == "variant", c("was", "now")], data.frame(was = "second", now = "2026-03-02"), ignore_attr = TRUE)
  out <- write_study(study, tempfile())
  expect_equal(utils::read.csv(file.path(out, "analysis.csv"), colClasses = "character")$e[1:3], c("2026-03-02T10:00:00", "", "2026-03-02T10:00:00"))
  expect_equal(study_table(study, gaps = "codes")$d[2:3], c("-7", "-3"))
  reduced <- build_small(data.frame(id = 1:2, part = "", d = c("2026-03", "2026")), d = list(column = "d", label = "D", level = "date"))
  expect_equal(ledger(reduced)$now, c("2026-03-01", "2026-01-01"))
  for (bad in list(list("dd/MM/yy", "century"), list("dd/QQ/yyyy", "`QQ` is not a letter"), list("MMM yy", "century"), list("dd MMMMM yyyy", "`MMMMM` is not a letter"), list("dd/yyyy", "does not name a date"))) {
    expect_match(message_of(read_codebook(small_codebook(d = list(column = "d", label = "D", level = "date", dates = bad[[1]])))), bad[[2]])
  }
  expect_match(message_of(read_codebook(small_codebook(d = list(column = "d", label = "D", level = "date", range = c(1, 80))))), "bounds of level date are ISO")
  expect_match(message_of(read_codebook(small_codebook(d = list(column = "d", label = "D", level = "ratio", range = c("2020-01-01", "up"))))), "are numbers")
})

test_that("a workbook's own dates need no pattern", {
  skip_if_not_installed("openxlsx")
  path <- tempfile(fileext = ".xlsx")
  book <- openxlsx::createWorkbook()
  openxlsx::addWorksheet(book, "a")
  openxlsx::writeData(book, "a", data.frame(id = 1:3, d = as.Date(c("2026-03-02", "2024-02-29", "1999-12-31"))))
  openxlsx::saveWorkbook(book, path)
  document <- small_codebook(d = list(column = "d", label = "D", level = "date", dates = "dd/MM/yyyy"))
  document$variables$part <- NULL
  document$exports$main$file <- path
  expect_equal(build_study(document)$data$d, as.Date(c("2026-03-02", "2024-02-29", "1999-12-31")))
})

test_that("a date that nobody gave is written as gaps", {
  study <- build_small(data.frame(id = c("a", "b"), part = "High", day = ""), day = list(column = "day", label = "Day", level = "date"))
  out <- write_study(study, tempfile())
  expect_equal(utils::read.csv(file.path(out, "analysis.csv"), colClasses = "character")$day, c("", ""))
})
