# What was found as a table, and as lines of the codebook that would decide it.
# A line holds `edits`: a path and the value that is merged in there.

align_result <- function(pairs, own, study, options, path) {
  pairs <- lapply(pairs, function(pair) c(pair, list(overlay = overlay_of(pair, own, study))))
  lines <- c(
    list(export_line(pairs, own, study, options)), column_lines(pairs, own, study),
    code_kind_lines(pairs, own, study), change_lines_of(pairs, own, study, options),
    absent_lines(pairs, own, study), new_lines(pairs, own, study)
  )
  lines <- Filter(Negate(is.null), lines)
  columns <- columns_found(pairs, own)
  codes <- codes_found(pairs)
  structure(list(
    wave = own$wave, against = if (length(pairs) > 0) pairs[[1]]$slot$wave else "",
    title = study$book$study$title, file = path, files = vapply(own$files, `[[`, "", "inside"),
    records = own$export$records, columns = columns, codes = codes,
    counts = counts_found(columns, codes), lines = line_table(lines, study),
    assignments = assignments_found(pairs), shares = distributions_of(pairs, own, study),
    language = language_hint(pairs), rejected = 0L
  ), class = "mavik_align", edits = lapply(lines, `[[`, "edits"))
}

new_line <- function(
  match, variable, edits, column = "", grounds = "", candidates = character(), sure = TRUE,
  wording = ""
) {
  list(
    match = match, variable = variable, column = column, grounds = grounds,
    candidates = paste(candidates, collapse = "; "), sure = sure, wording = wording, edits = edits
  )
}

new_edit <- function(path, value, after = NULL) list(path = path, value = value, after = after)

line_table <- function(lines, study) {
  of <- function(name, none = "") vapply(lines, function(line) line[[name]], none)
  data.frame(line = seq_along(lines), match = of("match"), column = of("column"),
    wording = of("wording"), variable = of("variable"), grounds = of("grounds"),
    candidates = of("candidates"),
    writes = vapply(
      lines, function(line) paste(vapply(line$edits, edit_shown, ""), collapse = "; "), ""
    ), effect = vapply(lines, effect_of, "", study = study),
    decision = rep("", length(lines)), sure = of("sure", TRUE))
}

edit_shown <- function(edit) paste0(
  paste(edit$path, collapse = " > "), ": ",
  flow_text(edit$value, edit$path[length(edit$path)], top = TRUE)
)

# The plain entry of a variable, before anything is said of a wave.
plain_of <- function(pair, study) study$book$variables[[pair$slot$variable]]

# What must be said of the wave, besides the column: what its cells hold, and what
# an earlier wave's overlay says that this wave needs as well.
overlay_of <- function(pair, own, study) {
  if (is.na(pair$column) || is.na(pair$cells) || pair$slot$version$storage != "coded") return(NULL)
  said <- if (pair$match == "already_decided") pair$slot$version else plain_of(pair, study)
  if (!is.null(pair$assignments)) return(list(
    cells = "codes", delivered = delivered_by(pair$assignments[[1]], said)
  ))
  out <- list()
  if (pair$cells != (if (is.null(said$cells)) own$cells else said$cells)) out$cells <- pair$cells
  if (pair$cells == "codes") {
    change <- Filter(
      function(change) change$change %in% c("direction_reversed", "moved"), pair$changes
    )
    stands <- if (length(change) == 0) pair$slot$version$delivered else
      if (is.null(change[[1]]$delivered)) mirrored_labels(pair$slot$version) else
        change[[1]]$delivered
    if (is.null(stands) && !is.null(said$delivered)) stands <- with_names(
      said$codes$label, number_to_text(said$codes$code)
    )
    if (!identical(unlist(stands), unlist(said$delivered))) out$delivered <- as.list(stands)
  } else out$variants <- carried_forms(pair, said, own, study)
  if (length(out) > 0) out[intersect(c("cells", "delivered", "variants"), names(out))]
}

# Texts that the last wave's overlay reads and the plain entry does not.
carried_forms <- function(pair, said, own, study) {
  if (identical(said, pair$slot$version)) return(NULL)
  raw <- own$export$columns[[pair$column]]
  read <- lapply(
    list(pair$slot$version, said),
    function(version) read_as(version, pair$slot, raw, "labels", own, study)$value
  )
  fresh <- which(!is.na(read[[1]]) & (is.na(read[[2]]) | read[[2]] != read[[1]]))
  if (length(fresh) == 0) return(NULL)
  split(
    text_trim(raw$cells[fresh]),
    factor(label_of(said, read[[1]][fresh]), unique(label_of(said, read[[1]][fresh])))
  )
}

# Each code of the file with the label at the other end; NULL where codes are bare.
mirrored_labels <- function(variable) {
  codes <- sort(all_codes(variable))
  if (!all(codes %in% variable$codes$code)) return(NULL)
  file <- if (is.null(variable$delivered)) with_names(
    label_of(variable, codes), number_to_text(codes)
  ) else variable$delivered
  meant <- match(text_fold(file), text_fold(variable$codes$label))
  if (anyNA(meant)) return(NULL)
  place <- match(variable$codes$code[meant], codes)
  with_names(label_of(variable, rev(codes)[place]), names(file))
}
