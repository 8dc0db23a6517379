#' @export
print.mavik_study <- function(x, ...) {
  keep_own_options()
  show_lines(c(
    paste0("Study: ", x$book$study$title),
    paste0(
      count_of(nrow(x$data), "row"),
      if (!is.null(x$retained)) paste0(" (", grouped(n_retained(x)), " retained)"), ", ",
      count_of(length(x$book$variables), "variable"), " (", length(kept_variables(x$book)),
      " in the analysis file)"
    ),
    if (length(x$notes) > 0) paste("Note:", x$notes), "", "Read", read_shown(x), "",
    "From received to retained", flow_shown(x), "", "Done to the answers", interventions_shown(x),
    "", "Gaps", gaps_shown(x), "", "Open",
    findings_shown(findings(x)), "",
    "study_table(), ledger() and findings() show more; write_study() writes the outputs."
  ))
  invisible(x)
}

#' @export
print.mavik_codebook <- function(x, ...) {
  keep_own_options()
  book <- compile_codebook(x)
  show_lines(paste0("Codebook: ", book$study$title))
  if (!is.null(book$file)) show_lines(paste0("from ", book$file))
  show_lines(c(
    paste0(
      count_of(length(book$waves), "wave"), ", ", count_of(length(book$exports), "export"), ", ",
      count_of(length(book$variables), "variable")
    ), "",
    columns_shown(list(
      name = names(book$variables), way = vapply(book$variables, `[[`, "", "way"), level = vapply(
        book$variables, `[[`, "", "level"
      ),
      label = vapply(book$variables, function(variable)
        shorten(paste0(variable$label, ""), 50), ""),
      marks = vapply(
        book$variables,
        function(variable) if (isTRUE(variable$private)) "private" else
          if (!variable$kept) "not kept" else "",
        ""
      )
    ))
  ))
  invisible(x)
}

#' @export
print.mavik_export <- function(x, ...) {
  keep_own_options()
  shown <- utils::head(x$names, 60)
  show_lines(c(
    paste0("Export: ", x$file), paste0(
      count_of(x$records, "record"), " by ", count_of(length(x$names), "column")
    ), "",
    columns_shown(list(
      name = shorten(shown, 24), distinct = vapply(
        x$columns[shown], function(column) as.character(length(column$cells)), ""
      ),
      first = shorten(
        vapply(
          x$columns[shown],
          function(column) paste(
            utils::head(column$cells[nzchar(column$cells)], 3), collapse = " | "
          ),
          ""
        ),
        60
      )
    ), right = "distinct"),
    if (length(x$names) > 60) paste0("  and ", length(x$names) - 60, " more columns")
  ))
  invisible(x)
}

#' @export
print.mavik_look <- function(x, ...) {
  keep_own_options()
  show_lines(look_shown(x))
  invisible(x)
}

#' @export
print.mavik_draft <- function(x, ...) {
  keep_own_options()
  show_lines(unclass_lines(x))
  invisible(x)
}

#' @export
print.mavik_release <- function(x, ...) {
  keep_own_options()
  show_lines(release_lines(x, written = "bytes" %in% names(x$files)))
  invisible(x)
}
