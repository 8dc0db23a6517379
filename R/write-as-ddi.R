# The documentation in the open standard of data archives, DDI-Codebook 2.5. The order of
# elements is the standard's.

format_ddi <- new_format(
  help = paste0(
    "`ddi.xml`: DDI-Codebook 2.5 with the study, the files of data, each variable with question, ",
    "universe, categories and counts, missing categories, how it was made, and groups of variables"
  ),
  cannot = "the data; records; the ledger; texts with control characters",
  files = function(edition) "ddi.xml",
  check = function(edition) check_labels(edition, "ddi", odd_in_xml),
  write = function(edition, folder) {
    document <- xml2::as_xml_document(list(codeBook = ddi_content(edition)))
    xml2::xml_set_attr(document, "xmlns", "ddi:codebook:2_5")
    write_checked(charToRaw(enc2utf8(as.character(document))), file.path(folder, "ddi.xml"))
  },
  back = function(edition, folder) {
    read <- xml2::xml_ns_strip(xml2::read_xml(file.path(folder, "ddi.xml")))
    described <- xml2::xml_find_all(read, "/codeBook/dataDscr/var")
    list(
      n = as.integer(xml2::xml_text(xml2::xml_find_first(read, "//caseQnty"))),
      names = xml2::xml_attr(described, "name"),
      labels = xml2::xml_text(xml2::xml_find_first(described, "labl")),
      codes_of = function(name) {
        element <- described[[match(name, xml2::xml_attr(described, "name"))]]
        label <- xml2::xml_text(xml2::xml_find_all(element, "catgry[not(@missing)]/labl"))
        if (length(label) > 0) label
      }
    )
  }
)

odd_in_xml <- function(text) if (stringi::stri_detect_regex(
  text, "[\\x{01}-\\x{08}\\x{0B}\\x{0C}\\x{0E}-\\x{1F}\\x{FFFE}\\x{FFFF}]"
)) "holds a control character" else ""

# An element with its attributes and what it holds; nothing where it holds nothing.
element <- function(..., .attributes = list()) {
  inner <- unlist_elements(list(...))
  said <- Filter(function(value) has_text(value), lapply(.attributes, function(value) if (
    is.null(value)
  ) NULL else as.character(value)))
  if (length(inner) == 0 && length(said) == 0) return(NULL)
  do.call(structure, c(list(.Data = inner), said))
}

# Texts and named elements in their order; NULL is left out, lists without names are opened.
unlist_elements <- function(parts) {
  names <- if (is.null(names(parts))) rep("", length(parts)) else names(parts)
  out <- list()
  for (k in seq_along(parts)) {
    part <- parts[[k]]
    if (is.null(part) || identical(part, "")) next
    if (nzchar(names[k])) out <- c(out, with_names(list(
      if (is.list(part)) part else list(as.character(part))
    ), names[k])) else out <- c(out, if (is.list(part)) unlist_elements(part) else list(
      as.character(part)
    ))
  }
  out
}

each_as <- function(name, parts) with_names(unname(parts), rep(name, length(parts)))

ddi_content <- function(edition) {
  book <- edition$study$book
  structure(unlist_elements(list(
    stdyDscr = ddi_study(edition), each_as("fileDscr", ddi_files(edition)),
    dataDscr = element(
      each_as("varGrp", ddi_groups(edition)), each_as("var", lapply(
        seq_along(edition$names), function(k) ddi_variable(edition, k)
      ))
    )
  )), version = "2.5", `xml:lang` = if (is.null(book$language)) "en" else book$language)
}

ddi_study <- function(edition) {
  facts <- edition$study$book$study
  days <- if (!is.null(facts$collected)) strsplit(facts$collected, "/", fixed = TRUE)[[1]]
  event <- if (length(days) == 2) c("start", "end") else "single"
  element(
    citation = element(
      titlStmt = element(titl = facts$title, IDNo = facts$id),
      prodStmt = element(
        producer = facts$producer, software = element("Mavik", .attributes = list(
          version = as.character(utils::packageVersion("mavik"))
        ))
      )
    ),
    stdyInfo = element(
      abstract = facts$notes,
      sumDscr = element(
        each_as("collDate", lapply(seq_along(days), function(k) element(
          days[k], .attributes = list(date = days[k], event = event[k])
        ))),
        anlyUnit = facts$row, universe = if (!is.null(edition$study$choice)) choice_shown(
          edition$study
        )
      )
    ),
    method = element(dataColl = element(
      timeMeth = design_words(edition$study$book), sources = element(dataSrc = facts$source),
      weight = if (!is.null(facts$weight) && facts$weight %in% edition$names) facts$weight
    )),
    dataAccs = element(useStmt = element(conditions = facts$licence))
  )
}

design_words <- function(book) switch(book$design,
  panel = "Panel: the same persons in every wave",
  repeated = "Repeated: other persons in each wave",
  "One wave"
)

# The files of data that stand beside; the documentation itself is none.
ddi_files <- function(edition) {
  types <- c(
    csv = "text/csv", xlsx = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
    parquet = "application/vnd.apache.parquet", sqlite = "application/vnd.sqlite3"
  )
  said <- intersect(edition$release$formats, names(types))
  files <- vapply(said, function(name) formats()[[name]]$files(edition)[1], "")
  if (length(said) == 0) files <- c(study = edition$study$book$study$title)
  lapply(seq_along(files), function(k) element(
    fileTxt = element(
      fileName = files[[k]], dimensns = element(
        caseQnty = as.character(edition$n), varQnty = as.character(length(edition$names))
      ), fileType = if (length(said) > 0) types[[said[k]]]
    ), .attributes = list(ID = paste0("F", k))
  ))
}

# Blocks and questions with several answers.
ddi_groups <- function(edition) {
  book <- edition$study$book
  groups <- lapply(with_names(names(book$blocks), names(book$blocks)), function(name) match(
    intersect(names_within(name, book), edition$names), edition$names
  ))
  groups <- Filter(length, groups)
  lapply(seq_along(groups), function(k) {
    name <- names(groups)[k]
    carrier <- book$variables[[name]]
    first <- edition_variable(edition, edition$names[groups[[k]][1]])
    element(
      labl = if (is.null(carrier)) first$stem else carrier$label,
      .attributes = list(
        ID = paste0("G", k), type = if (is.null(carrier)) "grid" else "multipleResp",
        name = name, var = paste0("V", groups[[k]], collapse = " ")
      )
    )
  })
}

ddi_variable <- function(edition, k) {
  book <- edition$study$book
  name <- edition$names[k]
  variable <- book$variables[[name]]
  counts <- count_variable(edition$study, name)
  derived <- length(book$uses[[name]]) > 0
  numeric <- is_coded(variable) || variable$storage == "number"
  made <- made_in_words(variable, book)
  nature <- if (variable$level %in% c("nominal", "ordinal", "interval", "ratio")) variable$level
  element(
    labl = paste0(variable$label, ""),
    qstn = element(
      preQTxt = stem_over(variable, book), qstnLit = variable$question
    ),
    valrng = ddi_range(variable),
    universe = universe_shown(variable),
    each_as("sumStat", c(
      list(
        element(as.character(counts$answered), .attributes = list(type = "vald")),
        element(as.character(counts$n - counts$answered), .attributes = list(type = "invd"))
      ), ddi_statistics(counts$statistics)
    )),
    txt = variable$note,
    each_as("catgry", c(ddi_categories(counts), ddi_missing(counts))),
    codInstr = if (!derived) made,
    derivation = if (derived) element(drvdesc = made),
    varFormat = element(.attributes = list(
      type = if (numeric) "numeric" else "character", schema = "other"
    )),
    .attributes = list(
      ID = paste0("V", k), name = name, files = paste0(
        "F", seq_along(ddi_files(edition)), collapse = " "
      ),
      dcml = if (!is.null(variable$decimals)) as.character(variable$decimals),
      intrvl = if (is_coded(variable) || variable$storage == "text") "discrete" else "contin",
      nature = nature
    )
  )
}

ddi_range <- function(variable) {
  if (is.null(variable$range) || !any(is.finite(variable$range))) return(NULL)
  bound <- function(side) if (is.finite(variable$range[side])) bound_text(variable, side)
  element(range = element(.attributes = list(min = bound(1), max = bound(2))))
}

ddi_statistics <- function(statistics) {
  if (is.null(statistics)) return(NULL)
  words <- c(mean = "mean", median = "medn", min = "min", max = "max", sd = "stdev")
  known <- words[is.finite(unlist(statistics[names(words)]))]
  lapply(names(known), function(name) element(
    number_to_text(statistics[[name]]), .attributes = list(type = known[[name]])
  ))
}

ddi_categories <- function(counts) {
  codes <- counts$codes
  if (is.null(codes)) return(NULL)
  lapply(seq_len(nrow(codes)), function(row) element(
    catValu = as.character(codes$code[row]), labl = codes$label[row],
    catStat = element(as.character(codes$count[row]), .attributes = list(type = "freq"))
  ))
}

ddi_missing <- function(counts) {
  gaps <- counts$gaps
  lapply(seq_len(nrow(gaps)), function(row) element(
    catValu = number_to_text(gaps$code[row]), labl = gaps$label[row],
    catStat = element(as.character(gaps$count[row]), .attributes = list(type = "freq")),
    .attributes = list(missing = "Y")
  ))
}
