command_align <- list(
  place = 12,
  summary = "Align a new wave with the codebook: what is the same, what differs, what to write",
  arguments = "WAVE [FILE...]", most = 40,
  example = "mavik align autumn choirs/raw/autumn.xlsx --project choirs",
  options = function() list(
    project_option(),
    value_option(
      "--sheet", "FILE", "where decisions stand, .xlsx or .csv (default: sheets/align-WAVE.xlsx)"
    ),
    value_option(
      "--accept", "NUMBERS", "take these lines without the sheet: 1,3-5, `sure` or `all`"
    ),
    flag_option("--dry-run", "write nothing: neither the sheet nor the codebook"),
    value_option(
      "--rules", "RULES", "what matches a column by rule (default: name,wording,codes)",
      default = "name,wording,codes"
    ),
    flag_option("--no-merge", "propose no added options for the code lists"),
    value_option(
      "--keep-label", "WHICH",
      "where a label changed: the `older` is kept (default), or the `newer` replaces it",
      default = "older"
    ),
    value_option("--label", "TEXT", "the label of the wave, 'Autumn 2026'"),
    json_option()
  ),
  json = list(
    "align WAVE FILE" = c(
      wave = "the new wave",
      against = "the wave that it is compared with",
      files = "its files",
      records = "how many records",
      counts = "for each kind of match and change how many",
      columns =
        paste0(
          "a row for each column or question: match, column, wording, variable, rule, grounds, ",
          "candidates"
        ),
      codes = "code lists side by side: variable, column, change, before, now, grounds",
      lines =
        paste0(
          "the proposed lines: line, match, column, wording, variable, grounds, candidates, ",
          "writes, decision, sure"
        ),
      language = "words where the file seems to be in another language",
      stranger = "words where hardly a column is any of the codebook's",
      rejected = "how many lines were rejected before"
    )
  ),
  run = function(given) {
    if (length(given$args) == 0) stop_mavik(
      "usage_error",
      "`mavik align` needs the name of a wave and its files; `mavik align --help` shows how"
    )
    if (!given$`keep-label` %in% c("older", "newer")) stop_mavik(
      "usage_error", "--keep-label takes `older` or `newer`, not `", given$`keep-label`, "`"
    )
    wave <- given$args[1]
    file <- if (is.null(given$sheet)) decision_file(codebook_file(given$project), wave) else
      given$sheet
    align <- function(files) align_wave(
      given$project, wave, files, read_decisions(file), strsplit(given$rules, "[, ]+")[[1]],
      !given$`no-merge`, given$`keep-label`, given[["label"]]
    )
    found <- align(given$args[-1])
    numbers <- if (is.null(given$accept)) found$lines$line[found$lines$decision == "accept"] else
      lines_meant(given$accept, found$lines)
    if (length(numbers) == 0) {
      if (!given$`dry-run`) write_decisions(found, file)
      show_lines(if (given$json) align_json(found) else c(align_shown(found),
        align_next(found, file, given)))
      return(0L)
    }
    change <- accept_alignment(found, numbers, write = !given$`dry-run`)
    if (!given$`dry-run`) {
      # What is left, with the codebook as it is now.
      left <- align(NULL)
      write_decisions(left, file)
    }
    if (given$json) show_lines(json_of(list(accepted = numbers, change = change), "accepted"))
    else show_lines(c(change_shown(change, found$file),
      if (given$`dry-run`) "Nothing was written." else c(paste0("Written to ", found$file, ": ",
      count_of(length(numbers), "line"), " of ", nrow(found$lines)),
      paste0(
        if (nrow(left$lines) == 0) "Nothing is left to decide" else paste0(
          count_of(nrow(left$lines), "line"), " left to decide in ", file
        ),
        if (left$rejected > 0) paste0("; ", left$rejected, " rejected before")
      ))))
    0L
  }
)

lines_meant <- function(text, lines) {
  if (text == "all") return(lines$line)
  if (text == "sure") return(lines$line[lines$sure])
  numbers_meant(text, "--accept")
}

align_json <- function(found) json_of(unclass(found)[c("wave", "against", "files", "records",
  "counts", "columns", "codes", "lines", "language", "stranger",
  "rejected")], "files")

#' @export
print.mavik_align <- function(x, ...) {
  keep_own_options()
  show_lines(align_shown(x))
  invisible(x)
}

match_words <- c(
  same = "the same: name, wording and code list",
  already_decided = "already decided: as the codebook says of this wave",
  rule = "matched by a rule, with something that differs", decided = "named in the sheet",
  possible = "possible matches, to decide",
  only_codebook = "in the codebook only", only_new = "in the new file only",
  already_absent = "already decided: not in this wave"
)
change_names <- c(
  direction_reversed = "lists with the direction reversed, by item", moved = "codes that moved",
  codes_unknown = "lists that came as labels and come as bare numbers",
  label_changed = "labels changed", merged = "labels merged", split = "labels split",
  added = "options added", gone = "options gone",
  odd = "texts that fit no label", unsure = "lists whose direction is unclear"
)

align_shown <- function(found) {
  found <- visible(found)
  counts <- found$counts
  counts <- counts[
    counts > 0 | names(counts) %in% c("same", "possible", "only_codebook", "only_new")
  ]
  c(
    heading_shown(paste0(found$title, ": wave ", found$wave, " against ", found$against)),
    paste0("  ", paste(found$files, collapse = ", "), ", ", count_of(found$records, "record")),
    if (has_text(found$stranger)) cli::ansi_strwrap(
      paste0(cli::col_yellow("review: "), found$stranger), width = align_width(), indent = 2,
      exdent = 10
    ),
    "",
    columns_shown(
      list(count = grouped(counts), words = c(match_words, change_names)[names(counts)]),
      right = "count"
    ),
    if (nzchar(found$language)) c(
      "",
      cli::ansi_strwrap(
        paste0(cli::col_yellow("review: "), found$language), width = align_width(), indent = 2,
        exdent = 10
      )
    ),
    pairs_shown(found, "rule", "Matched by a rule, with something that differs"), pairs_shown(
      found, "decided", "Named in the sheet"
    ), near_shown(found),
    left_shown(found, "only_codebook", "In the codebook only"), left_shown(
      found, "only_new", "In the new file only"
    ),
    codes_shown(found), align_lines_shown(found)
  )
}

align_width <- function() min(max(cli::console_width(), 80), 140)

pairs_shown <- function(found, match, title) {
  some <- found$columns[found$columns$match == match, ]
  if (nrow(some) == 0) return(NULL)
  c(
    "", heading_shown(title),
    columns_shown(list(
      column = some$column, to = paste("is", some$variable), rule = some$rule,
      wording = shorten(
        vapply(some$wording, function(one) stem_of(one)[2], "", USE.NAMES = FALSE), 60
      )
    ))
  )
}

near_shown <- function(found) {
  some <- found$columns[found$columns$match == "possible", ]
  if (nrow(some) == 0) return(NULL)
  c("", heading_shown("Possible matches, to decide"),
    unlist(lapply(seq_len(nrow(some)), function(at) c(
    paste0(
      "  ", cli::style_bold(some$column[at]), " may be ", cli::style_bold(some$variable[at]), "  ",
      shorten(some$wording[at], 70)
    ),
    paste0("      ", some$grounds[at]),
    if (nzchar(some$candidates[at])) cli::ansi_strwrap(
      paste0("or else ", some$candidates[at]), width = align_width() - 6, indent = 6, exdent = 14
    )
  ))))
}

left_shown <- function(found, match, title) {
  some <- found$columns[found$columns$match == match, ]
  if (nrow(some) == 0) return(NULL)
  c(
    "", heading_shown(title),
    columns_shown(list(
      name = if (match == "only_new") some$column else some$variable,
      wording = shorten(some$wording, 90)
    ))
  )
}

codes_shown <- function(found) {
  codes <- found$codes
  if (nrow(codes) == 0) return(NULL)
  id <- joined_id(codes$change, codes$before, codes$now, codes$grounds)
  c("", heading_shown("Code lists side by side"),
    unlist(lapply(split(codes, factor(id, unique(id))), function(same) {
    one <- same[1, ]
    what <- switch(
      one$change, direction_reversed = "direction reversed", unsure = "direction unclear",
      codes_unknown = "labels became bare numbers",
      label_changed = paste0("\u201c", one$before, "\u201d \u2192 \u201c", one$now, "\u201d"),
      merged = , split = paste0(
        "\u201c", one$before, "\u201d \u2192 \u201c", one$now, "\u201d (", one$change, ")"
      ),
      moved = paste0(one$before, " \u2192 ", one$now),
      added = paste0("+ \u201c", one$now, "\u201d"),
      gone = paste0("\u2212 \u201c", one$before, "\u201d"),
      odd = paste0("? \u201c", one$now, "\u201d")
    )
    c(
      paste0("  ", cli::style_bold(some_of(same$variable, 9, quote = FALSE)), "  ", what),
      cli::ansi_strwrap(one$grounds, width = align_width() - 6, indent = 6, exdent = 6)
    )
  }), use.names = FALSE))
}

align_lines_shown <- function(found) {
  lines <- found$lines
  if (nrow(lines) == 0) return(c("", "  Nothing is proposed: all is decided."))
  possible <- !lines$sure & lines$match == "possible"
  parts <- list(
    "Sure: `--accept sure` writes these" = which(lines$sure),
    "Possible: is it this question?" = which(possible),
    "Open: for a person to decide" = which(!lines$sure & !possible)
  )
  unlist(lapply(names(parts), function(title) {
    at <- parts[[title]]
    c("", heading_shown(paste0(title, " (", count_of(length(at), "line"), ")")), unlist(lapply(
      at, align_line_shown, lines = lines
    )))
  }))
}

align_line_shown <- function(at, lines) {
  nothing <- paste0("nothing; ", lines$grounds[at])
  cli::ansi_strwrap(
    paste0(lines$line[at], ".  ", if (nzchar(lines$writes[at])) lines$writes[at] else nothing),
    width = align_width(), indent = 2, exdent = 6
  )
}

align_next <- function(found, file, given) {
  c(
    if (found$rejected > 0) paste0(
      "  ", count_of(found$rejected, "line"), " rejected before and not shown"
    ),
    if (nrow(found$lines) > 0) c("",
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
