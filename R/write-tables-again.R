#' Make the declared tables of a build again
#'
#' Where nothing but `tables` of the codebook has changed since the build, its tables are counted
#' anew from the kept study, without reading the raw files again.
#'
#' @param codebook Path of a codebook file or its project folder.
#' @param out The folder of the outputs; by default `out` in the project folder.
#' @return The path of `out`, invisibly: `tables.html`, `tables.xlsx` and `provenance.json` are
#'   new, all else is as it was. The result is the same as that of a whole build.
#' @section Errors: A folder without a build; a codebook, raw file or sheet that has changed since,
#'   with what; outputs of chosen records; a table without respondents.
#' @examples
#' project <- demo_project(tempfile())
#' write_study(build_study(project))
#' basename(write_tables_again(project))
#' @export
write_tables_again <- function(codebook, out = NULL) {
  keep_own_options()
  book <- known_book(codebook)
  if (is.null(out)) out <- file.path(book$project, "out")
  place <- check_out(out, book)
  record <- record_of_build(place, out)
  check_unchanged(record, book, out)
  study <- study_with(codebook, NULL)
  study$book$declared <- book$declared
  empty <- table_findings(study)
  if (length(empty) > 0) stop_mavik(
    "build_error", empty[[1]]$path, ": ", empty[[1]]$message
  )
  study <- with_tables(if (is.null(record$language)) study else study_in(study, record$language))
  replace_folder(place, out, function(beside) {
    outputs <- parts_named("output_")[c("tables", "tables_workbook")]
    files <- vapply(outputs, `[[`, "", "file")
    for (file in setdiff(list.files(place), c(files, "provenance.json"))) link_or_copy(
      file.path(place, file), file.path(beside, file)
    )
    for (output in outputs) if (output$wanted(study)) write_output(output, study, beside, out)
    write_record(renewed_record(record, book, outputs, beside), file.path(
      beside, "provenance.json"
    ))
  })
  invisible(place)
}

record_of_build <- function(place, out) {
  file <- file.path(place, "provenance.json")
  if (!file.exists(file)) stop_mavik(
    "build_error", out, ": holds no build; `mavik build` makes one, with its tables"
  )
  jsonlite::read_json(file, simplifyVector = FALSE)
}

# What has changed since the build besides `tables`, told; nothing is written then.
check_unchanged <- function(record, book, out) {
  again <- "; `mavik build` makes all anew"
  if (!identical(record$mavik, as.character(utils::packageVersion("mavik")))) stop_mavik(
    "build_error", out, ": was built by version ", record$mavik, again
  )
  if (!is.null(record$chosen)) stop_mavik(
    "build_error", out, ": holds chosen records only", again, " of them"
  )
  plain <- function(document) document[setdiff(names(document), "tables")]
  then <- plain(simple_lists(record$codebook$document))
  entries <- differing_entries(then, plain(unclass_document(book$document)))
  if (nrow(entries) > 0) stop_mavik(
    "build_error", "the codebook has changed since the build: ", some_of(entries$path), again
  )
  read <- vapply(record$inputs, function(input) paste0(input$file, ""), "")
  there <- unlist(lapply(unname(book$exports), export_files, book = book))
  fresh <- setdiff(there, read)
  if (length(fresh) > 0) stop_mavik(
    "build_error", some_of(fresh), ": not there when the outputs were built", again
  )
  for (entry in c(record$inputs, record$sheets)) {
    path <- export_path(list(file = entry$file), book)
    if (is.null(entry$file) || !file.exists(path) || !identical(file_digest(path), entry$blake2b))
      stop_mavik(
        "build_error", if (is.null(entry$file)) paste0("the data frame `", entry$export, "`") else
          entry$file, ": has changed since the build, or was given by hand", again
      )
  }
}

# Lists of texts, as they come from JSON, are vectors in a document.
simple_lists <- function(value) {
  if (!is.list(value)) return(value)
  if (is.null(names(value)) && length(value) > 0 && all(vapply(value, is.character, TRUE)))
    return(unlist(value))
  lapply(value, simple_lists)
}

# A second name for the same file where that can be, else a copy.
link_or_copy <- function(from, to) {
  if (!suppressWarnings(file.link(from, to)) && !file.copy(from, to)) stop_mavik(
    "write_error", to, ": cannot be written; the earlier outputs stand as they were"
  )
}

# The record of the build with the codebook as it is and the tables as they are.
renewed_record <- function(record, book, outputs, folder) {
  record$codebook$document <- unclass_document(book$document)
  digest <- attr(book$document, "digest")
  if (!is.null(digest)) record$codebook$blake2b <- digest
  files <- sort_c(list.files(folder))
  facts <- record$outputs[intersect(files, names(record$outputs))]
  for (output in outputs) {
    path <- file.path(folder, output$file)
    if (file.exists(path)) facts[[output$file]] <- list(
      bytes = file.size(path), blake2b = file_digest(path)
    )
  }
  record$outputs <- facts[files]
  record
}
