command_convert <- list(
  place = 8, summary = "Turn a codebook into a workbook, or a workbook into a codebook",
  arguments = "FROM TO", most = 2, example = "mavik convert choirs choirs/choirs.xlsx",
  options = function() list(
    value_option("--template", "FILE", "write an empty codebook for a new study, .xlsx or .yml"),
    flag_option("--replace", "a workbook that stands there may be replaced")
  ),
  run = function(given) {
    if (!is.null(given$template)) {
      write_template(given$template, given$replace)
      show_lines(paste0("An empty codebook stands in ", given$template))
      return(0L)
    }
    if (length(given$args) < 2) stop_mavik(
      "usage_error",
      "`mavik convert` needs a codebook and the file to write; `mavik convert --help` shows how"
    )
    from <- codebook_file(given$args[1])
    to <- given$args[2]
    if (file.exists(to) && normalizePath(from) == normalizePath(to)) stop_mavik(
      "usage_error", "FROM and TO are one file"
    )
    old <- if (!is_workbook(to) && file.exists(to)) codebook_lines(to)
    write_codebook(from, to, given$replace)
    change <- if (!is.null(old)) text_change(old, codebook_lines(to))
    show_lines(c(
      if (!is.null(change)) if (nrow(change) > 0) change_shown(change, to) else paste0(
        "Nothing differs: ", to, " is as it was"
      ),
      if (is.null(change) || nrow(change) > 0) paste0("The codebook stands in ", to)
    ))
    0L
  }
)
