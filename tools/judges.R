# Releases of the demo, judged by readers that are not Mavik's: pandas, the npm packages
# datapackage, tableschema and hyparquet, and LibreOffice. What is missing is installed where that
# can be, into a work folder or by apt; what still lacks is skipped and counted.

work <- file.path(normalizePath("."), ".build", "judges")
unlink(file.path(work, c("choirs", "sheets", "saved", "read")), recursive = TRUE)
dir.create(file.path(work, "read"), recursive = TRUE, showWarnings = FALSE)
counts <- c(passed = 0, failed = 0, skipped = 0)
judge <- function(name, problem) {
  counts[[if (nzchar(problem)) "failed" else "passed"]] <<- counts[[if (nzchar(problem)) "failed" else "passed"]] + 1
  cat(if (nzchar(problem)) paste0("not ok ", name, ": ", problem) else paste("ok", name), "\n")
}
skip <- function(name, why) {
  counts[["skipped"]] <<- counts[["skipped"]] + 1
  cat("skipped ", name, ": ", why, "\n", sep = "")
}
has <- function(program) nzchar(Sys.which(program))
quiet <- function(...) suppressWarnings(system2(..., stdout = FALSE, stderr = FALSE))
from_apt <- function(packages) if (has("apt-get") && system("test $(id -u) = 0") == 0) quiet(
  "apt-get", c("install", "-y", "-qq", "--no-install-recommends", packages), env = "DEBIAN_FRONTEND=noninteractive"
)

project <- mavik::demo_project(file.path(work, "choirs"), waves = 2)
codebook <- file.path(project, "choirs.yml")
formats <- "csv, parquet, xlsx, sqlite, datapackage, ddi, docx"
cat(sprintf("  %s: {formats: [%s], values: %s, scripts: [R, Python]}\n", c("coded", "worded"), formats, c("codes", "labels")),
  file = codebook, append = TRUE, sep = "")
study <- mavik::build_study(project)
folders <- vapply(c("coded", "worded"), function(name) mavik::release_study(study, name)$folder, "")
csv <- function(folder) utils::read.csv(file.path(folder, "analysis.csv"), colClasses = "character", na.strings = character(), check.names = FALSE, encoding = "UTF-8")

# Python's pandas, through the script that lies in the release.
pandas <- function() quiet("/usr/bin/python3", c("-c", shQuote("import pandas"))) == 0
if (!pandas()) from_apt("python3-pandas")
for (folder in folders) {
  name <- paste0("pandas: load.py of ", basename(folder))
  if (!pandas()) { skip(name, "no pandas"); next }
  out <- file.path(work, "read", paste0(basename(folder), ".csv"))
  script <- tempfile(fileext = ".py")
  writeLines(c(
    "import importlib.util as util, sys", "spec = util.spec_from_file_location('load', sys.argv[1])", "load = util.module_from_spec(spec)",
    "spec.loader.exec_module(load)", "load.analysis.to_csv(sys.argv[2], index=False)", "print(bool(load.analysis['belong1'].cat.ordered))"
  ), script)
  said <- system2("/usr/bin/python3", c(script, shQuote(file.path(folder, "load.py")), shQuote(out)), stdout = TRUE)
  back <- utils::read.csv(out, colClasses = "character", na.strings = character(), check.names = FALSE, encoding = "UTF-8")
  shown <- mavik::study_table(study, values = "labels")[names(back)]
  same <- vapply(names(back), function(column) {
    wanted <- shown[[column]]
    if (is.numeric(wanted)) return(identical(is.na(wanted), back[[column]] == "") && all(as.numeric(back[[column]]) == wanted, na.rm = TRUE))
    identical(ifelse(is.na(wanted), "", as.character(wanted)), back[[column]])
  }, TRUE)
  judge(name, if (!identical(said, "True")) "levels are not in order" else paste(names(same)[!same], collapse = ", "))
}

# The standards' own readers, in JavaScript.
node <- file.path(work, "node")
if (has("npm") && !dir.exists(file.path(node, "node_modules", "hyparquet"))) {
  dir.create(node, showWarnings = FALSE)
  writeLines("{\"private\": true}", file.path(node, "package.json"))
  quiet("npm", c("install", "--prefix", shQuote(node), "--no-audit", "--no-fund", "datapackage@1", "tableschema@1", "hyparquet@1"))
}
for (folder in folders) {
  if (!dir.exists(file.path(node, "node_modules", "hyparquet"))) { skip(paste("npm:", basename(folder)), "npm could not install the judges"); next }
  file.copy("tools/judges.js", file.path(node, "judges.js"), overwrite = TRUE)
  lines <- system2("node", c(shQuote(file.path(node, "judges.js")), shQuote(folder)), stdout = TRUE, stderr = TRUE)
  for (line in grep("^(not )?ok ", lines, value = TRUE)) judge(
    paste0(basename(folder), ": ", sub(":.*not ok", "", sub("^(not )?ok ", "", line))), if (startsWith(line, "not")) line else ""
  )
  if (!any(grepl("^ok parquet", lines))) judge(paste("npm:", basename(folder)), paste(utils::tail(lines, 2), collapse = " "))
}

# LibreOffice opens the workbook and the document.
office <- function() has("soffice")
if (!office()) from_apt(c("libreoffice-calc", "libreoffice-writer", "poppler-utils"))
convert <- function(file, to) {
  out <- file.path(work, "read", basename(dirname(file)))
  dir.create(out, showWarnings = FALSE)
  quiet("soffice", c("--headless", "--convert-to", shQuote(to), "--outdir", shQuote(out), shQuote(file)), env = "LD_LIBRARY_PATH=")
  file.path(out, paste0(sub("[.][a-z]+$", "", basename(file)), ".", sub(":.*", "", to)))
}
for (folder in folders) {
  if (!office()) { skip(paste("LibreOffice:", basename(folder)), "no LibreOffice"); next }
  sheet <- convert(file.path(folder, "analysis.xlsx"), "csv:Text - txt - csv (StarCalc):44,34,76,1,,0,false,true,false,false,false,1")
  sheet <- if (file.exists(sheet)) sheet else sub("[.]csv$", "-data.csv", sheet)
  back <- if (file.exists(sheet)) utils::read.csv(sheet, colClasses = "character", na.strings = character(), check.names = FALSE, encoding = "UTF-8")
  wanted <- csv(folder)
  same <- if (is.null(back)) FALSE else vapply(names(wanted), function(column) {
    a <- wanted[[column]]
    b <- back[[column]]
    near <- suppressWarnings(abs(as.numeric(a) - as.numeric(b)) < 1e-6)
    all(a == b | (!is.na(near) & near))
  }, TRUE)
  judge(paste0("LibreOffice: the cells of the workbook of ", basename(folder)), if (isTRUE(all(same))) "" else paste("differ:", paste(names(wanted)[!same], collapse = ", ")))
  page <- convert(file.path(folder, "codebook.docx"), "pdf")
  if (!has("pdftotext")) { skip(paste("the document of", basename(folder)), "no pdftotext"); next }
  text <- if (file.exists(page)) sub("^\\f", "", system2("pdftotext", c(shQuote(page), "-"), stdout = TRUE)) else ""
  missing <- names(wanted)[!vapply(names(wanted), function(one) any(startsWith(text, paste0(one, ":"))), TRUE)]
  judge(paste0("LibreOffice: the document of ", basename(folder), " names every variable"), paste(missing, collapse = ", "))
}

# Sheets that people type in: LibreOffice opens them, prints them, and keeps what their cells take.
project <- mavik::demo_project(file.path(work, "sheets"))
made <- mavik::entry_sheet(project, forms = 20, onto = TRUE)
found <- mavik::align_wave(project, "autumn", file.path(project, "raw/autumn.xlsx"))
mavik::coding_sheet(project, "best_codes", file.path(project, "sheets/best.xlsx"))
sheets <- c(
  entry = made$file, coding = file.path(project, "sheets/best.xlsx"), align = mavik::write_decisions(found),
  corrections = attr(mavik::correction_sheet(project), "file"),
  codebook = mavik::write_codebook(project, file.path(project, "book.xlsx"))
)
# Every cell that takes something, with what and how.
taken <- function(file) {
  folder <- tempfile()
  utils::unzip(file, exdir = folder)
  pages <- sort(list.files(file.path(folder, "xl/worksheets"), "^sheet[0-9]+[.]xml$", full.names = TRUE))
  unlist(lapply(pages, function(page) {
    one <- xml2::xml_find_all(xml2::xml_ns_strip(xml2::read_xml(page)), "//dataValidation")
    unlist(lapply(one, function(rule) {
      refs <- strsplit(xml2::xml_attr(rule, "sqref"), " ", fixed = TRUE)[[1]]
      ends <- lapply(strsplit(refs, ":", fixed = TRUE), function(end) c(end[1], end[length(end)]))
      cells <- unlist(lapply(ends, function(end) {
        row <- as.integer(gsub("[A-Z]", "", end))
        column <- openxlsx::col2int(gsub("[0-9]", "", end))
        if (diff(row) > 300) row[2] <- row[1] + 300L
        outer(openxlsx::int2col(seq(column[1], column[2])), seq(row[1], row[2]), paste0)
      }))
      style <- xml2::xml_attr(rule, "errorStyle")
      paste(basename(page), cells, xml2::xml_attr(rule, "type"), if (is.na(style)) "stop" else style)
    }))
  }))
}
dir.create(file.path(work, "saved"), showWarnings = FALSE)
for (name in names(sheets)) {
  if (!office()) { skip(paste("LibreOffice: the sheet", name), "no LibreOffice"); next }
  page <- convert(sheets[[name]], "pdf")
  judge(paste("LibreOffice: prints the sheet", name), if (file.exists(page) && file.size(page) > 5000) "" else "no page")
  copy <- file.path(work, "saved", paste0(name, ".xlsx"))
  file.copy(sheets[[name]], copy, overwrite = TRUE)
  back <- convert(copy, "xlsx")
  before <- taken(sheets[[name]])
  lost <- setdiff(before, if (file.exists(back)) taken(back))
  judge(paste("LibreOffice: keeps what the cells of", name, "take"), if (length(before) == 0) "nothing was taken before" else
    if (length(lost) > 0) paste(length(lost), "of", length(before), "lost:", paste(utils::head(lost, 3), collapse = ", ")) else "")
}

# The page of the data, in a real browser.
browser <- function() any(has(c("chromium", "chromium-browser", "google-chrome")))
has <- function(program) any(nzchar(Sys.which(program)))
if (!browser()) from_apt(c("chromium", "fonts-dejavu-core"))
if (!browser()) skip("the page of the data", "no Chromium") else {
  told <- as.data.frame(testthat::test_file(
    "tests/testthat/test-view.R", reporter = "silent", package = "mavik", load_package = "installed", stop_on_failure = FALSE
  ))
  for (at in seq_len(nrow(told))) judge(paste("Chromium:", told$test[at]), if (told$skipped[at]) "skipped" else
    if (told$failed[at] > 0 || told$error[at]) paste(told$failed[at], "of", told$nb[at], "failed") else if (told$passed[at] == 0) "nothing was looked at" else "")
}

cat(sprintf("%d passed, %d failed, %d skipped\n", counts[["passed"]], counts[["failed"]], counts[["skipped"]]))
quit(save = "no", status = if (counts[["failed"]] > 0 || counts[["passed"]] == 0) 1 else 0)
