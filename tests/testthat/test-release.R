# What is loaded into a server is tried in test-database.R.
all_formats <- setdiff(names(core$formats()), "postgresql")

test_that("values, reasons and labels come back from every format through other readers", {
  forms <- expand.grid(values = c("codes", "labels"), gaps = c("empty", "beside"), stringsAsFactors = FALSE)
  project <- awkward_release(sprintf("r%d: {formats: [%s], values: %s, gaps: %s, with: [texts]}", seq_len(nrow(forms)), paste(all_formats, collapse = ", "), forms$values, forms$gaps))
  study <- build_study(project)
  for (at in seq_len(nrow(forms))) {
    release <- release_study(study, paste0("r", at))
    expect_gt(release$compared, 0)
    expect_setequal(release$left_out, character())
    truth <- release_truth(study, release$variables)
    for (format in names(release_readers)) {
      if (format == "sqlite" && !has_python("sqlite3")) next
      read <- release_readers[[format]](release$folder, release$variables)
      about <- paste(format, forms$values[at], forms$gaps[at])
      wanted <- truth$data
      # A workbook keeps fifteen digits, as it says.
      if (format == "xlsx") wanted$size <- plain_text(core$rounded_to(as.double(wanted$size), 15))
      for (name in release$variables) {
        expect_equal(if (name == "size" && format %in% c("sqlite", "xlsx")) as.double(read$data[[name]]) else read$data[[name]],
          if (name == "size" && format %in% c("sqlite", "xlsx")) as.double(wanted[[name]]) else wanted[[name]], info = paste(about, name))
        expect_equal(read$reasons[[name]], truth$reasons[[name]], info = paste(about, name))
      }
    }
  }
})

test_that("a release of many records goes out in several Parquet files that hold what one would", {
  project <- demo_project(tempfile())
  file <- file.path(project, "choirs.yml")
  kinds <- c(codes = "{values: codes, gaps: codes}", labels = "{values: labels, gaps: labels}", beside = "{values: codes, gaps: beside}")
  formats <- c("parquet, sqlite, postgresql_script", "parquet", "parquet")
  lines <- paste0("  many_", names(kinds), ": {formats: [", formats, "], ", substring(kinds, 2))
  text <- readLines(file, encoding = "UTF-8")
  writeLines(append(text, lines, match("releases:", text)), file, useBytes = TRUE)
  study <- build_study(project)
  n <- nrow(study_table(study))
  read <- function(folder, name) {
    files <- sort(list.files(folder, paste0("^", name, ".*[.]parquet$"), full.names = TRUE))
    list(length(files), do.call(rbind, lapply(files, function(file) as.data.frame(nanoparquet::read_parquet(file)))))
  }
  for (kind in names(kinds)) {
    whole <- release_study(study, paste0("many_", kind), tempfile("whole"))$folder
    # Read back by the release itself as well, which refuses what is not the same.
    parts <- withr::with_options(list(mavik.rows_in_file = 61L), release_study(study, paste0("many_", kind), tempfile("parts"))$folder)
    for (name in c("analysis", "gaps")) {
      one <- read(whole, name)
      some <- read(parts, name)
      expect_equal(c(one[[1]], some[[1]]), c(1, ceiling(n / 61)))
      expect_equal(some[[2]], one[[2]], info = paste(kind, name))
      expect_gt(nrow(some[[2]]), 100)
    }
  }
})

test_that("gaps within the cells are codes or labels of their reasons, and what would mean two things is refused", {
  project <- awkward_release(c(
    "a: {formats: [csv, xlsx, parquet, datapackage], gaps: codes}", "b: {formats: [csv, xlsx, parquet, datapackage], values: labels, gaps: labels}",
    "c: {formats: [csv, datapackage], gaps: labels, variables: [sing, ease, born]}"
  ))
  study <- build_study(project)
  for (name in c("a", "b", "c")) {
    release <- release_study(study, name)
    data <- plain_csv(file.path(release$folder, "analysis.csv"))
    gaps <- plain_csv(file.path(release$folder, "gaps.csv"))
    missing <- plain_csv(file.path(release$folder, "missing.csv"))
    shown <- if (name == "a") missing$code else missing$label
    for (column in setdiff(intersect(names(data), names(gaps)), "wave")) {
      gap <- gaps[[column]] != ""
      expect_equal(data[[column]][gap], shown[match(gaps[[column]][gap], missing$code)], info = paste(name, column))
      expect_false(any(data[[column]][!gap] %in% shown), info = paste(name, column))
    }
    fields <- jsonlite::read_json(file.path(release$folder, "datapackage.json"))$resources[[1]]$schema
    expect_true(all(shown %in% unlist(fields$missingValues)), info = name)
  }
  # -3 is an answer here: only a column beside can say which is which.
  clash <- awkward_release(c("a: {formats: [csv], gaps: codes, variables: [size, place]}", "b: {formats: [csv], gaps: beside, variables: [size, place]}"))
  file <- file.path(clash, "raw/a.csv")
  writeLines(sub("0.1,1850", "-3,1850", readLines(file, encoding = "UTF-8"), fixed = TRUE), file, useBytes = TRUE)
  expect_match(message_of(release_study(clash, "a"), "mavik_release_error"), "`size` has the answer `-3`, which is the code of a missing reason too: say `gaps: beside`")
  expect_false(file.exists(file.path(clash, "release/a")))
  expect_true("size.gap" %in% names(plain_csv(file.path(release_study(clash, "b")$folder, "analysis.csv"))))
})

test_that("the scripts load the data wherever the folder lies, with levels in order, dates, labels and reasons", {
  project <- awkward_release(c("a: {formats: [parquet], scripts: [R, Python], with: [texts]}", "b: {formats: [csv], values: labels, gaps: labels, scripts: [R, Python], variables: {without: [words]}}"))
  study <- build_study(project)
  for (name in c("a", "b")) {
    release <- release_study(study, name)
    truth <- release_truth(study, release$variables)
    place <- file.path(tempfile(), "ein Ördner mit Raum")
    dir.create(place, recursive = TRUE)
    file.copy(release$folder, place, recursive = TRUE)
    script <- file.path(place, name, "load.R")
    loaded <- new.env()
    withr::with_dir("/", sys.source(script, loaded, chdir = TRUE))
    withr::with_dir("/", source(script, local = loaded, encoding = "UTF-8"))
    expect_equal(levels(loaded$analysis$ease), c("Not at all", 2:6, "Completely"))
    expect_s3_class(loaded$analysis$ease, "ordered")
    expect_equal(attr(loaded$analysis$sing, "label"), "Do you \"sing\", ever? <i> `now`")
    expect_equal(plain_text(loaded$analysis$born), truth$data$born)
    expect_equal(plain_text(`attr<-`(loaded$analysis$sent, "label", NULL)), truth$data$sent)
    missing <- loaded$missing
    for (variable in release$variables) {
      expect_equal(code_of(`attr<-`(loaded$analysis[[variable]], "label", NULL), variable, loaded$codes), truth$data[[variable]], info = variable)
      reason <- if (loaded$variables$gaps[loaded$variables$variable == variable] > 0) loaded$reasons[[variable]] else rep("", nrow(loaded$analysis))
      expect_equal(plain_text(reason), ifelse(truth$reasons[[variable]] == "", "", missing$label[match(truth$reasons[[variable]], missing$reason)]), info = variable)
    }
    # As a script of its own too, in a locale without letters beyond ASCII.
    status <- withr::with_dir("/", system2(file.path(R.home("bin"), "Rscript"), shQuote(script), env = "LC_ALL=C", stdout = TRUE, stderr = TRUE))
    expect_equal(length(status), 0)
  }
})

test_that("the script for pandas gives the same categories, texts, numbers and reasons", {
  if (!has_python("pandas")) skip("no pandas")
  project <- awkward_release(c("a: {formats: [parquet], scripts: [Python], with: [texts]}", "b: {formats: [csv], values: labels, gaps: labels, scripts: [R, Python], variables: {without: [words]}}"))
  study <- build_study(project)
  for (name in c("a", "b")) {
    release <- release_study(study, name)
    truth <- release_truth(study, release$variables)
    shown <- study_table(study, values = "labels")
    place <- file.path(tempfile(), "ein Ördner mit Raum")
    dir.create(place, recursive = TRUE)
    file.copy(release$folder, place, recursive = TRUE)
    python <- tempfile(fileext = ".py")
    writeLines(c(
      "import importlib.util as util, json, sys", "spec = util.spec_from_file_location('load', sys.argv[1])", "load = util.module_from_spec(spec)",
      "spec.loader.exec_module(load)", "a = load.analysis",
      "out = {'ease': list(a['ease'].cat.categories), 'ordered': bool(a['ease'].cat.ordered), 'label': a.attrs['labels']['sing'],",
      "  'person': list(a['person']), 'sing': [None if x != x else x for x in a['sing']], 'born': [None if x is load.pd.NaT else str(x.date()) if hasattr(x, 'date') else x for x in a['born']],",
      "  'why': [None if x != x else x for x in load.reasons['sing']], 'size': [None if x != x else x for x in a['size']]}", "print(json.dumps(out))"
    ), python)
    read <- jsonlite::fromJSON(system2("/usr/bin/python3", c(python, shQuote(file.path(place, name, "load.py"))), stdout = TRUE))
    expect_equal(read$ease, levels(shown$ease))
    expect_true(read$ordered)
    expect_equal(read$label, "Do you \"sing\", ever? <i> `now`")
    expect_equal(read$person, truth$data$person)
    expect_equal(plain_text(read$sing), plain_text(shown$sing))
    expect_equal(plain_text(read$why), study$book$reasons$label[match(truth$reasons$sing, study$book$reasons$name)] |> plain_text())
    expect_equal(read$size, shown$size)
  }
})

test_that("tables that are joined count as `answers` does", {
  project <- demo_project(tempfile(), waves = 2)
  file <- file.path(project, "choirs.yml")
  writeLines(c(readLines(file, encoding = "UTF-8"), "  joined: {formats: [sqlite, long, selections]}"), file, useBytes = TRUE)
  study <- build_study(project)
  folder <- release_study(study, "joined")$folder
  con <- DBI::dbConnect(RSQLite::SQLite(), file.path(folder, "analysis.sqlite"))
  withr::defer(DBI::dbDisconnect(con))
  known <- answers(study, "voice")$tables[[1]]
  counted <- DBI::dbGetQuery(con, "SELECT c.code, c.label, COUNT(a.row) AS count FROM codes c LEFT JOIN analysis a ON a.voice = c.code WHERE c.variable = 'voice' GROUP BY c.code ORDER BY c.code")
  expect_equal(counted$count, known$table$count)
  expect_equal(counted$label, known$table$label)
  gaps <- DBI::dbGetQuery(con, "SELECT m.reason, COUNT(*) AS count FROM gaps JOIN missing m USING (code) WHERE variable = 'voice' GROUP BY 1")
  expect_equal(gaps$count[match(known$gaps$name, gaps$reason)], known$gaps$count)
  ticked <- DBI::dbGetQuery(con, "SELECT option, COUNT(*) AS count FROM selections WHERE question = 'reasons' GROUP BY 1")
  shown <- plain_csv(file.path(folder, "selections.csv"))
  for (option in ticked$option) {
    of <- answers(study, option)$tables[[1]]$table
    expect_equal(ticked$count[ticked$option == option], of$count[of$code == 1], info = option)
    expect_equal(sum(shown$option == option), of$count[of$code == 1], info = option)
  }
  long <- plain_csv(file.path(folder, "long.csv"))
  both <- merge(long[long$variable == "voice", ], long[long$variable == "member", c("wave", "respondent", "value")], by = c("wave", "respondent"))
  cross <- answers(study, "voice", by = "member")$tables[[1]]
  expect_equal(nrow(both), nrow(study_table(study)))
  expect_equal(as.vector(table(factor(both$value.x, 1:4), factor(both$value.y, 1:2))), as.vector(table(study_table(study)$voice, study_table(study)$member)))
})

test_that("nothing private, dropped, left out or of this machine goes out", {
  project <- awkward_release(c(
    sprintf("all: {formats: [%s], scripts: [R, Python], with: [addresses, responses, ledger, texts]}", paste(all_formats, collapse = ", ")),
    sprintf("less: {formats: [%s], with: [ledger], where: 'wave == \"spring\"', variables: {without: [place, born, person]}}", paste(all_formats, collapse = ", "))
  ))
  study <- build_study(project)
  contents <- function(folder) {
    open <- tempfile()
    dir.create(open)
    file.copy(list.files(folder, full.names = TRUE), open)
    for (archive in list.files(open, "[.](xlsx|docx)$", full.names = TRUE)) utils::unzip(archive, exdir = paste0(archive, ".open"))
    saveRDS(readRDS(file.path(open, "analysis.rds")), file.path(open, "plain.rds"), compress = FALSE)
    files <- list.files(open, recursive = TRUE, full.names = TRUE)
    lapply(core$with_names(files, sub(open, "", files, fixed = TRUE)), bytes_of)
  }
  holds <- function(found, text) names(Filter(function(bytes) length(grepRaw(text, bytes, fixed = TRUE)) > 0, found))
  all <- contents(release_study(study, "all")$folder)
  never <- c("secret@x.example", "other@x.example", "dropped-one", "gone words", "gone-place", normalizePath(project), tempdir(), "Mail")
  for (text in never) expect_equal(holds(all, text), character(), info = text)
  # The search itself finds what is there.
  for (text in c("0010020", "resp-01", "literally")) expect_gt(length(holds(all, text)), 3)
  less <- contents(release_study(study, "less")$folder)
  for (text in c(never, "resp-01", "resp-06", "0010020", "1850", "literally", "aa key bb", "_x000D_ stays")) expect_equal(holds(less, text), character(), info = text)
  expect_equal(nrow(plain_csv(file.path(project, "release/less/analysis.csv"))), 4)
  expect_equal(names(plain_csv(file.path(project, "release/less/gaps.csv")))[1:2], c("wave", "row"))
})

test_that("equal inputs give equal bytes in every format, whatever the folder, locale and time zone", {
  skip_on_os("windows")
  locales <- Sys.getenv("LOCPATH_MAVIK")
  if (!dir.exists(file.path(locales, "tr_TR.UTF-8"))) skip("the locales tr_TR.UTF-8 and de_DE.UTF-8 are not compiled")
  project <- awkward_release(sprintf("all: {formats: [%s], scripts: [R, Python], with: [addresses, responses, ledger, texts], gaps: beside}", paste(all_formats, collapse = ", ")))
  other <- file.path(tempfile(), "anderswo")
  dir.create(other, recursive = TRUE)
  file.copy(list.files(project, full.names = TRUE), other, recursive = TRUE)
  digests <- function(folder) {
    files <- list.files(folder)
    vapply(core$with_names(files, files), function(file) core$file_digest(file.path(folder, file)), "")
  }
  first <- digests(release_study(build_study(project), "all")$folder)
  expect_setequal(names(first), release_study(project, "all", dry_run = TRUE)$files$file)
  run <- command("release", "all", "--project", other, env = c("TZ=Pacific/Auckland", "LC_ALL=tr_TR.UTF-8", paste0("LOCPATH=", locales), "R_DATATABLE_NUM_THREADS=1"), wd = "/")
  expect_equal(run$status, 0, info = run$err)
  expect_equal(digests(file.path(other, "release/all")), first)
  record <- jsonlite::read_json(file.path(other, "release/all/provenance.json"))
  expect_equal(vapply(record$outputs, `[[`, "", "blake2b"), first[names(record$outputs)])
  expect_setequal(names(record$outputs), setdiff(names(first), "provenance.json"))
})

test_that("what does not read back is not put in place", {
  project <- awkward_release("all: {formats: [csv], with: [texts]}")
  study <- build_study(project)
  edition <- core$edition_of(study, study$book$releases$all)
  folder <- tempfile()
  dir.create(folder)
  csv <- core$format_csv
  csv$write(edition, folder)
  expect_equal(core$compare_edition(edition, "csv", csv$back(edition, folder)), 6 * length(edition$names))
  spoil <- list(
    list("analysis.csv", "0.1,", "0.2,", "the values of `size`"), list("analysis.csv", ",0010020,", ",10020,", "the values of `place`"),
    list("gaps.csv", "-2", "-3", "the reasons of `sing`"), list("analysis.csv", "1850-02-03", "1850-02-04", "the values of `born`"),
    list("analysis.csv", "person,wave", "wave,person", "in another order"), list("analysis.csv", "literally", "literaly", "the values of `words`")
  )
  for (one in spoil) {
    copy <- tempfile()
    dir.create(copy)
    file.copy(list.files(folder, full.names = TRUE), copy)
    file <- file.path(copy, one[[1]])
    text <- rawToChar(bytes_of(file))
    expect_match(text, one[[2]], fixed = TRUE)
    writeBin(charToRaw(sub(one[[2]], one[[3]], text, fixed = TRUE)), file)
    expect_match(message_of(core$compare_edition(edition, "csv", csv$back(edition, copy)), "mavik_release_error"), one[[4]], fixed = TRUE, info = one[[3]])
  }
})

test_that("the documents follow their standards", {
  project <- awkward_release("all: {formats: [csv, ddi, datapackage, docx, html, dictionary, methods], values: labels}")
  study <- build_study(project)
  folder <- release_study(study, "all")$folder
  names <- names(plain_csv(file.path(folder, "analysis.csv")))
  ddi <- xml2::read_xml(file.path(folder, "ddi.xml"))
  expect_equal(unname(xml2::xml_ns(ddi)[["d1"]]), "ddi:codebook:2_5")
  ddi <- xml2::xml_ns_strip(ddi)
  # The order in which DDI-Codebook 2.5 has the elements that stand within these.
  order <- list(
    codeBook = c("docDscr", "stdyDscr", "fileDscr", "dataDscr", "otherMat"), stdyDscr = c("citation", "stdyInfo", "method", "dataAccs"),
    citation = c("titlStmt", "rspStmt", "prodStmt", "distStmt"), sumDscr = c("timePrd", "collDate", "nation", "anlyUnit", "universe"),
    dataColl = c("timeMeth", "dataCollector", "sources", "weight"), fileTxt = c("fileName", "fileCont", "dimensns", "fileType"), dataDscr = c("varGrp", "var"),
    var = c("location", "labl", "qstn", "valrng", "invalrng", "universe", "sumStat", "txt", "catgry", "codInstr", "derivation", "varFormat"), catgry = c("catValu", "labl", "txt", "catStat")
  )
  for (element in names(order)) for (node in xml2::xml_find_all(ddi, paste0("//", element))) {
    here <- xml2::xml_name(xml2::xml_children(node))
    expect_true(all(here %in% order[[element]]), info = paste(element, paste(here, collapse = " ")))
    expect_false(is.unsorted(match(here, order[[element]])), info = element)
  }
  expect_equal(xml2::xml_attr(xml2::xml_find_all(ddi, "//var"), "name"), names)
  ids <- xml2::xml_attr(xml2::xml_find_all(ddi, "//*[@ID]"), "ID")
  expect_equal(anyDuplicated(ids), 0)
  expect_true(all(unlist(strsplit(xml2::xml_attr(xml2::xml_find_all(ddi, "//varGrp"), "var"), " ")) %in% ids))
  sing <- xml2::xml_find_first(ddi, "//var[@name='sing']")
  known <- answers(study, "sing")$tables[[1]]
  expect_equal(as.integer(xml2::xml_text(xml2::xml_find_all(sing, "catgry/catStat"))), c(known$table$count, known$gaps$count))
  expect_equal(xml2::xml_text(xml2::xml_find_all(sing, "catgry[@missing='Y']/catValu")), core$number_to_text(known$gaps$code))
  package <- jsonlite::read_json(file.path(folder, "datapackage.json"))
  for (resource in package$resources) {
    file <- file.path(folder, resource$path)
    expect_equal(file.size(file), resource$bytes)
    expect_equal(resource$hash, paste0("sha256:", as.character(openssl::sha256(file(file)))))
    data <- plain_csv(file)
    fields <- resource$schema$fields
    expect_equal(vapply(fields, `[[`, "", "name"), names(data))
    for (field in fields) {
      cells <- setdiff(data[[field$name]], unlist(c(resource$schema$missingValues, field$missingValues)))
      categories <- vapply(field$categories, function(one) as.character(one$value), "")
      if (length(categories) > 0) expect_equal(setdiff(cells, categories), character(), info = field$name)
      if (field$type %in% c("integer", "number")) expect_false(anyNA(suppressWarnings(as.numeric(cells))), info = field$name)
      if (isTRUE(field$constraints$required)) expect_false("" %in% data[[field$name]], info = field$name)
    }
    keys <- unlist(resource$schema$primaryKey)
    if (length(keys) > 0) expect_equal(anyDuplicated(data[keys]), 0, info = resource$path)
    for (key in resource$schema$foreignKeys) {
      target <- Filter(function(one) one$name == key$reference$resource, package$resources)[[1]]
      there <- plain_csv(file.path(folder, target$path))[unlist(key$reference$fields)]
      expect_true(all(do.call(paste, unname(data[unlist(key$fields)])) %in% do.call(paste, unname(there))), info = resource$path)
    }
  }
  ease <- Filter(function(field) field$name == "ease", package$resources[[1]]$schema$fields)[[1]]
  expect_true(ease$categoriesOrdered)
  document <- officer::docx_summary(officer::read_docx(file.path(folder, "codebook.docx")))
  expect_equal(sub(":.*", "", document$text[document$style_name %in% "heading 2"]), names)
  expect_true("Yes, \"often\"" %in% document$text)
  dictionary <- xml2::xml_text(xml2::xml_find_all(xml2::read_html(file.path(folder, "dictionary.html")), "//tbody/tr/th"))
  expect_equal(dictionary, names)
  methods <- paste(readLines(file.path(folder, "methods.txt"), encoding = "UTF-8"), collapse = " ")
  for (said in c("7 records were received in 2 waves", "Dropped were 1 (trials:", "6 were retained")) expect_match(methods, said, fixed = TRUE)
})

test_that("bad releases are refused with their place, all at once, and nothing is replaced", {
  bad <- c(
    "a: {formats: [csv], variables: [mail]}", "b: {formats: [csv], variables: [sung]}", "c: {formats: [cvs]}", "d: {label: Nothing}",
    "e: {formats: [csv], variables: [trial]}", "f: {formats: [csv], where: 'mail == \"x\"'}", "g: {formats: [csv], waves: [winter]}",
    "h: {formats: [csv], variables: {without: [person, wave, sing, ease, size, born, sent, place, empty, hear, low]}}", "i: {formats: [csv], values: both}",
    "j: {formats: [csv], variables: {but: [sing]}}", "k: {formats: [csv], with: [everything]}", "l: {formats: [csv], scripts: [Julia]}"
  )
  said <- strsplit(message_of(read_codebook(awkward_release(bad)), "mavik_codebook_error"), "\n")[[1]]
  wanted <- c(
    "a > variables: `mail` is private: it never goes out", "b > variables: `sung` is not a variable or block.*did you mean `sing`", "c > formats: `cvs` is not one of.*csv",
    "d: names no format", "e > variables: `trial` is not in the analysis file", "f > where: the condition reads `mail`, which is private", "g > waves: `winter` is not a wave",
    "h > variables: no variable is left", "i > values: `both` is not one of", "j > variables: must be a list of variables", "k > with: `everything` is not one of", "l > scripts: `Julia` is not one of"
  )
  for (at in seq_along(wanted)) expect_match(said, paste0("^study.yml:[0-9]+ releases > ", wanted[at]), all = FALSE, info = wanted[at])
  project <- awkward_release(c("fine: {formats: [csv]}", "other: {formats: [csv]}", "none: {formats: [csv], where: 'size > 1e18'}", "picks: {formats: [selections], variables: [sing]}"))
  expect_equal(command("release", "fine", "--project", project)$status, 0)
  folder <- file.path(project, "release/fine")
  before <- lapply(list.files(folder, full.names = TRUE), bytes_of)
  unchanged <- function(info) expect_equal(lapply(list.files(folder, full.names = TRUE), bytes_of), before, info = info)
  refused <- list(
    list(c("fines"), "`fines` is not a release of this codebook.*did you mean `fine`"), list(c("fine", "--out", file.path(project, "raw")), "raw files"),
    list(c("fine", "none"), "leaves no record"), list(c("fine", "picks"), "study.yml:[0-9]+ releases > picks > formats: `selections`: no question")
  )
  for (one in refused) {
    run <- do.call(command, as.list(c("release", one[[1]], "--project", project)))
    expect_equal(run$status, 2, info = one[[2]])
    expect_match(paste(run$err, collapse = "\n"), one[[2]])
    unchanged(one[[2]])
    expect_equal(list.files(file.path(project, "release")), "fine", info = one[[2]])
  }
  study <- build_study(project)
  write_study(study)
  expect_match(message_of(release_study(study, "other", folder)), "holds the release `fine`: each release has a folder of its own")
  expect_match(message_of(release_study(study, "other", file.path(project, "out"))), "lies in `out/`")
  expect_match(message_of(release_study(study, "other", project)), "holds .*which Mavik did not write")
  foreign <- file.path(folder, "notes.txt")
  writeLines("mine", foreign)
  expect_match(message_of(release_study(study, "fine")), "holds `notes.txt`, which Mavik did not write")
  unlink(foreign)
  unchanged("after all")
})

test_that("a text that a format cannot hold is refused with its line; what others hold goes out whole", {
  project <- awkward_release(c("sheet: {formats: [xlsx], with: [texts]}", "plain: {formats: [csv, parquet, sqlite, rds], with: [texts]}"))
  file <- file.path(project, "raw/a.csv")
  long <- paste(rep("la", 20000), collapse = "")
  text <- sub("\\n literally", long, rawToChar(bytes_of(file)), fixed = TRUE)
  # A control character, and a line end of two.
  text <- sub("NA,NA,,", "NA,\"bell \001 and\r\nnext\",,", text, fixed = TRUE)
  writeBin(charToRaw(text), file)
  expect_match(message_of(release_study(project, "sheet"), "mavik_release_error"), "study.yml:[0-9]+ releases > sheet > formats: `xlsx`: a cell holds 32,767 letters at most, and 1 answer to `words` is longer")
  study <- build_study(project)
  release <- release_study(study, "plain")
  expect_true(long %in% plain_csv(file.path(release$folder, "analysis.csv"))$words)
  writeBin(charToRaw(sub(long, "short", rawToChar(bytes_of(file)), fixed = TRUE)), file)
  sheet <- release_study(project, "sheet")
  expect_true("bell _x0001_ and_x000D_\nnext" %in% openxlsx::read.xlsx(file.path(sheet$folder, "analysis.xlsx"), "data")$words)
  documents <- awkward_release("all: {formats: [ddi, docx], variables: [sing]}")
  yml <- file.path(documents, "study.yml")
  writeLines(sub("Ähnlich", "\"\\\\x07 bell\"", sub("Ähnlich", "\"\\\\x07 bell\"", readLines(yml, encoding = "UTF-8"))), yml, useBytes = TRUE)
  said <- message_of(release_study(documents, "all"))
  expect_match(said, "study.yml:[0-9]+ variables > sing > codes: `ddi` cannot hold this text: it holds a control character")
  expect_match(said, "`docx` cannot hold")
})

test_that("a workbook too large is refused before it is written, with the way out", {
  study <- build_study(awkward_release("all: {formats: [xlsx]}"))
  edition <- core$edition_of(study, study$book$releases$all)
  said <- function(n) {
    edition$n <- n
    vapply(core$check_sheet_size(edition), `[[`, "", "message")
  }
  expect_equal(said(1000L), character())
  expect_match(said(400000L), "cells are more than a workbook is good for \\(2,000,000\\): take `csv` or `parquet`, or fewer")
  expect_match(said(1100000L), "1,100,000 records are more rows than a sheet has")
})
