# A table that is asked for by hand: declared on the spot, and counted like those of a codebook.

answers_tabled <- function(codebook, book, said, exports, language) {
  stop_at <- function(path, message) stop_mavik(
    "build_error", paste0(utils::tail(path, 1), ": ", recycle0 = TRUE), message
  )
  fields <- table_fields()
  for (key in intersect(c("show", "figure"), names(Filter(length, said)))) said[[key]] <-
    read_field(said[[key]], fields[[key]], if (key == "figure") "draw" else key, stop_at)
  declared <- compile_table(said, "answers", character(), book, stop_at)
  study <- study_with(codebook, variables_of_table(declared), exports)
  if (!is.null(language)) {
    stop_unknown_language(language, book)
    study <- study_in(study, language)
    declared$title <- table_title(declared$of, study$book)
  }
  table <- tabulate_table(study, declared)
  if (table$n == 0) stop_mavik(
    "build_error", if (table$no_weight > 0) paste0(
      "no respondent has a weight `", declared$weight, "` of 0 or more"
    ) else "no respondent meets the condition", ": the table would be of nobody"
  )
  structure(list(
    title = study$book$study$title, tables = with_names(
      list(answer_of_table(table)), paste0(table$name, "")
    ), n = table$n,
    no_weight = table$no_weight, pooled = if (is.null(declared$over)) pooled_waves(
      study, table_records(study, declared$where, declared$weight)$rows, declared$by,
      declared$where
    ), where = said$where, by = said$by, weight = declared$weight, language = language
  ), class = "mavik_answers")
}

# A counted table among answers; the whole of it goes along for those who show it.
answer_of_table <- function(table) structure(list(
  kind = "table", variable = table$name, label = table$title, n = table$n,
  cells = cells_of_table(table),
  tests = as.character(unlist(lapply(table$sections, section_tests, table = table)))
), tabulated = table)

variables_of_table <- function(declared) unique(unlist(c(
  lapply(declared$of, function(part) c(part$name, part$options)), declared$by, declared$over,
  declared$weight, declared$where$uses
)))

# A declared table of the codebook by its name.
declared_answers <- function(codebook, name) {
  book <- known_book(codebook)
  declared <- book$declared[[name]]
  if (is.null(declared)) stop_mavik(
    "build_error", "`", name, "` is not a table of this codebook", if (length(
      book$declared
    ) == 0) ": it declares none" else did_you_mean(name, names(book$declared))
  )
  study <- study_with(codebook, variables_of_table(declared))
  table <- tabulate_table(study, declared)
  structure(list(
    title = book$study$title, tables = with_names(
      list(answer_of_table(table)), paste0(table$name, "")
    ), n = table$n,
    no_weight = table$no_weight, pooled = NULL,
    where = declared$where_text, by = declared$by, weight = declared$weight, language = NULL
  ), class = "mavik_answers")
}
