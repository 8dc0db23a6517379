command_align <- list(
  place = 12,
  summary = "Align a new wave with the codebook: what is the same, what differs, what to write",
  arguments = "WAVE|'PATTERN' [FILE...]", most = 400,
  example = "mavik align autumn choirs/raw/autumn.xlsx --project choirs",
  options = function() list(
    project_option(),
    value_option(
      "--sheet", "FILE", "where decisions stand, .xlsx or .csv (default: sheets/align-WAVE.xlsx)"
    ),
    value_option(
      "--accept", "NUMBERS", "take these lines without the sheet: 1,3-5, `sure`, both or `all`"
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
    value_option(
      "--html", "FILE", "an HTML page with both waves' answers side by side for what differs"
    ), replace_option(),
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
          "writes, effect, decision, sure"
        ),
      assignments = paste0(
        "what bare numbers may stand for, the likeliest first: variable, column, reading, ",
        "distance, correlations, others, same_persons, delivered"
      ),
      shares = paste0(
        "answers side by side of what differs: variable, column, reading, answer, before, now, ",
        "of_before, of_now"
      ),
      language = "words where the file seems to be in another language",
      stranger = "words where hardly a column is any of the codebook's",
      rejected = "how many lines were rejected before"
    ),
    "align 'PATTERN' FILE..." = c(
      waves = "each wave by its name, as above; with --accept what was accepted and the change",
      waiting = "the waves that wait for the one before them"
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
    if (grepl("*", given$args[1], fixed = TRUE)) return(align_several(given))
    done <- align_once(given, given$args[1], given$args[-1])
    show_lines(if (given$json) json_of(done$json, done$lists) else done$lines)
    0L
  }
)

# One wave aligned, and what was decided of it written: `lines` to show, `json`, and in a line
# what was `done`.
align_once <- function(given, wave, files) {
  file <- if (is.null(given$sheet)) decision_file(codebook_file(given$project), wave) else
    given$sheet
  align <- function(files) align_wave(
    given$project, wave, files, read_decisions(file), strsplit(given$rules, "[, ]+")[[1]],
    !given$`no-merge`, given$`keep-label`, given[["label"]]
  )
  if (!is.null(given$html)) check_may_write(given$html, c(files, raw_places(known_book(
    given$project
  ))), given$replace)
  alignment <- align(files)
  if (!is.null(given$html)) write_page(align_page(alignment), given$html)
  page <- if (!is.null(given$html)) c("", paste0("Both waves side by side stand in ", given$html))
  numbers <- if (is.null(given$accept)) alignment$lines$line[alignment$lines$decision ==
    "accept"] else
    lines_meant(given$accept, alignment$lines)
  if (length(numbers) == 0) {
    if (!given$`dry-run`) write_decisions(alignment, file)
    return(list(
      lines = c(align_shown(alignment), align_next(alignment, file, given), page),
      json = align_parts(alignment), lists = "files", done = left_words(alignment, file)
    ))
  }
  change <- accept_alignment(alignment, numbers, write = !given$`dry-run`)
  if (!given$`dry-run`) {
    # What is left, with the codebook as it is now.
    left <- align(NULL)
    write_decisions(left, file)
  }
  done <- if (given$`dry-run`) "Nothing was written." else c(
    paste0(
      "Written to ", alignment$file, ": ", count_of(length(numbers), "line"), " of ",
      nrow(alignment$lines)
    ), left_words(left, file)
  )
  list(
    lines = c(change_shown(change, alignment$file), done, page),
    json = list(accepted = numbers, change = change), lists = "accepted", done = done
  )
}

left_words <- function(left, file) paste0(
  if (nrow(left$lines) == 0) "Nothing is left to decide" else paste0(
    count_of(nrow(left$lines), "line"), " left to decide in ", file
  ), if (left$rejected > 0) paste0("; ", left$rejected, " rejected before")
)

# The waves of a pattern one after the other, each with what those before it settled; where a
# wave is not in the codebook yet, the next ones wait for it.
align_several <- function(given) {
  if (!is.null(given$accept) && !given$accept %in% c("sure", "all")) stop_mavik(
    "usage_error", "of several waves `--accept` takes `sure` or `all`: the numbers of lines are ",
    "each wave's own"
  )
  for (option in c("sheet", "html", "label")) if (!is.null(given[[option]])) stop_mavik(
    "usage_error", "--", option, " is of one wave: align it by its name"
  )
  plan <- waves_by_pattern(given$project, given$args[1], given$args[-1])
  said <- list()
  for (wave in names(plan)) {
    done <- align_once(given, wave, plan[[wave]])
    known <- is_wave_known(given$project, wave)
    said[[wave]] <- done
    if (!given$json) show_lines(c(
      if (known) c(heading_shown(wave), paste0("  ", done$done)) else done$lines
    ))
    if (!known) break
  }
  wait <- setdiff(names(plan), names(said))
  if (given$json) show_lines(json_of(list(
    waves = lapply(said, `[[`, "json"), waiting = wait
  ), c("waiting", "files", "accepted")))
  else if (length(wait) > 0) show_lines(c("", paste0(
    some_of(wait, 9, quote = FALSE), if (length(wait) == 1) " waits" else " wait",
    ": decide what becomes of ", names(said)[length(said)],
    " first, and run this again, or take `--accept sure`."
  )))
  0L
}

lines_meant <- function(text, lines) {
  if (text == "all") return(lines$line)
  parts <- strsplit(text, "[, ]+")[[1]]
  numbers <- paste(parts[parts != "sure"], collapse = ",")
  sort(unique(c(
    if ("sure" %in% parts) lines$line[lines$sure],
    if (nzchar(numbers) || !"sure" %in% parts) numbers_meant(numbers, "--accept")
  )))
}

align_parts <- function(alignment) unclass(alignment)[c(
  "wave", "against", "files", "records", "counts", "columns", "codes", "lines", "assignments",
  "shares", "language", "stranger", "rejected"
)]
