command_draft <- list(
  place = 4, summary = "Draft a first codebook from an export, with the grounds for each guess",
  arguments = "FILE...", most = 50,
  example = "mavik draft choirs/raw/spring.csv --out draft/choirs.yml",
  options = function() list(
    value_option("--out", "FILE", "where to write it (default: standard output)"),
    value_option("--onto", "CODEBOOK", "add what is new to this codebook, in place"),
    value_option("--wave-column", "COLUMN",
      "the column that tells the waves of one file apart"),
    value_option("--sheet", "NAME", "the sheet of a workbook that has several")
  ),
  run = function(given) {
    if (length(given$args) == 0) stop_mavik(
      "usage_error", "`mavik draft` needs a file; `mavik draft --help` shows how"
    )
    if (!is.null(given$onto)) {
      if (!is.null(given$`wave-column`)) stop_mavik("usage_error",
        "`--wave-column` goes with a new draft, not with `--onto`")
      return(draft_in_place(given))
    }
    out <- given$out
    check_may_write(out, given$args, replace = TRUE)
    if (!is.null(out) && file.exists(out)) stop_mavik(
      "write_error", out, ": stands there already and is kept; choose another name"
    )
    draft <- draft_codebook(
      given$args, given$sheet, project = if (is.null(out)) NULL else dirname(out),
      wave_column = given$`wave-column`
    )
    if (is.null(out)) {
      show_lines(draft)
      return(0L)
    }
    dir.create(dirname(out), recursive = TRUE, showWarnings = FALSE)
    write_text(draft, out)
    entries <- read_codebook(out)
    show_lines(c(paste0("The draft stands in ", out), paste0("  ",
      count_of(length(unclass_document(entries)$variables), "entry",
      "entries"), " under `variables`"), paste0("Look it through, then: mavik build ", out)))
    0L
  }
)

draft_in_place <- function(given) {
  path <- codebook_file(given$onto)
  edits <- draft_onto(path, given$args, given$sheet)
  out <- if (is.null(given$out)) path else given$out
  if (length(edits$added) > 0) write_edited(edits$lines, out)
  show_lines(if (length(edits$added) == 0) paste0("Nothing new: ", path,
    " is as it was") else c(paste0("Added to ", out), paste0("  ", edits$added)))
  if (length(edits$left) > 0) show_lines(c("Left to you", paste0("  ", edits$left)))
  0L
}
