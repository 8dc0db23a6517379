# What an alignment found, as lines for the terminal.

#' @export
print.mavik_align <- function(x, ...) {
  keep_own_options()
  show_lines(align_shown(x))
  invisible(x)
}

align_shown <- function(alignment) {
  alignment <- visible(alignment)
  counts <- alignment$counts
  counts <- counts[
    counts > 0 | names(counts) %in% c("same", "possible", "only_codebook", "only_new")
  ]
  c(
    heading_shown(paste0(alignment$title, ": wave ", alignment$wave, " against ",
      alignment$against)),
    paste0("  ", paste(alignment$files, collapse = ", "), ", ",
      count_of(alignment$records, "record")),
    if (has_text(alignment$stranger)) cli::ansi_strwrap(
      paste0(cli::col_yellow("review: "), alignment$stranger), width = align_width(), indent = 2,
      exdent = 10
    ),
    "",
    columns_shown(
      list(count = grouped(counts), words = c(match_words, change_names)[names(counts)]),
      right = "count"
    ),
    if (nzchar(alignment$language)) c(
      "",
      cli::ansi_strwrap(
        paste0(cli::col_yellow("review: "), alignment$language), width = align_width(), indent = 2,
        exdent = 10
      )
    ),
    pairs_shown(alignment, "rule", "Matched by a rule, with something that differs"), pairs_shown(
      alignment, "decided", "Named in the sheet"
    ), near_shown(alignment),
    left_shown(alignment, "only_codebook", "In the codebook only"), left_shown(
      alignment, "only_new", "In the new file only"
    ),
    codes_shown(alignment), align_lines_shown(alignment)
  )
}

align_width <- function() min(max(cli::console_width(), 80), 140)

pairs_shown <- function(alignment, match, title) {
  some <- alignment$columns[alignment$columns$match == match, ]
  if (nrow(some) == 0) return(NULL)
  shown <- columns_shown(list(
    column = some$column, to = paste("is", some$variable), rule = some$rule,
    wording = shorten(
      vapply(some$wording, function(question) stem_of(question)[2], "", USE.NAMES = FALSE), 60
    )
  ))
  below <- lapply(some$grounds, grounds_shown)
  c("", heading_shown(title), unlist(Map(c, shown, below), use.names = FALSE))
}

grounds_shown <- function(grounds) if (nzchar(grounds)) cli::ansi_strwrap(
  visible_controls(grounds), width = align_width() - 6, indent = 6, exdent = 6
)

near_shown <- function(alignment) {
  some <- alignment$columns[alignment$columns$match == "possible", ]
  if (nrow(some) == 0) return(NULL)
  c("", heading_shown("Possible matches, to decide"),
    unlist(lapply(seq_len(nrow(some)), function(row) c(
    paste0(
      "  ", cli::style_bold(some$column[row]), " may be ", cli::style_bold(some$variable[row]),
      "  ",
      shorten(some$wording[row], 70)
    ),
    grounds_shown(some$grounds[row]),
    if (nzchar(some$candidates[row])) cli::ansi_strwrap(
      paste0("or else ", some$candidates[row]), width = align_width() - 6, indent = 6, exdent = 14
    )
  ))))
}

left_shown <- function(alignment, match, title) {
  some <- alignment$columns[alignment$columns$match == match, ]
  if (nrow(some) == 0) return(NULL)
  c(
    "", heading_shown(title),
    columns_shown(list(
      name = if (match == "only_new") some$column else some$variable,
      wording = shorten(some$wording, 90)
    ))
  )
}

codes_shown <- function(alignment) {
  codes <- alignment$codes
  if (nrow(codes) == 0) return(NULL)
  id <- joined_id(codes$change, codes$before, codes$now, codes$grounds)
  c("", heading_shown("Code lists side by side"),
    unlist(lapply(split(codes, factor(id, unique(id))), function(same) {
    first <- same[1, ]
    what <- switch(
      first$change, direction_reversed = "direction reversed", unsure = "direction unclear",
      codes_unknown = "labels became bare numbers",
      label_changed = paste0("\u201c", first$before, "\u201d \u2192 \u201c", first$now, "\u201d"),
      merged = , split = paste0(
        "\u201c", first$before, "\u201d \u2192 \u201c", first$now, "\u201d (", first$change, ")"
      ),
      moved = paste0(first$before, " \u2192 ", first$now),
      added = paste0("+ \u201c", first$now, "\u201d"),
      gone = paste0("\u2212 \u201c", first$before, "\u201d"),
      odd = paste0("? \u201c", first$now, "\u201d")
    )
    c(
      paste0("  ", cli::style_bold(some_of(same$variable, 9, quote = FALSE)), "  ", what),
      cli::ansi_strwrap(first$grounds, width = align_width() - 6, indent = 6, exdent = 6)
    )
  }), use.names = FALSE))
}

align_lines_shown <- function(alignment) {
  lines <- alignment$lines
  if (nrow(lines) == 0) return(c("", "  Nothing is proposed: all is decided."))
  parts <- parts_of_lines(lines)
  unlist(lapply(names(parts), function(title) {
    rows <- parts[[title]]
    c("", heading_shown(paste0(title, " (", count_of(length(rows), "line"), ")")), unlist(lapply(
      rows, align_line_shown, lines = lines
    )))
  }))
}

align_line_shown <- function(row, lines) {
  of <- lines$variable[row]
  nothing <- paste0("nothing", if (nzchar(of)) paste(" for", of), "; ", lines$grounds[row])
  wrapped <- function(text, indent) cli::ansi_strwrap(
    text, width = align_width(), indent = indent, exdent = 6
  )
  c(
    wrapped(paste0(
      lines$line[row], ".  ", if (nzchar(lines$writes[row])) lines$writes[row] else nothing
    ), 2),
    if (lines$match[row] == "export" && !lines$sure[row]) wrapped(lines$grounds[row], 6)
  )
}

align_next <- function(alignment, file, given) {
  c(
    if (alignment$rejected > 0) paste0(
      "  ", count_of(alignment$rejected, "line"), " rejected before and not shown"
    ),
    if (nrow(alignment$lines) > 0) c("",
      if (!given$`dry-run`) paste0(
        "  The lines stand in ", file,
        ": write accept, reject or another variable's name beside each, and run this again."
      ),
      paste0(
        "  Or take them from here: --accept all, --accept sure (the first part), ",
        "--accept 1,3-5"
      ))
  )
}
