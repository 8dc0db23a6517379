# Words for what an alignment finds, in the terminal and on its page.

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

# The lines in three parts: those that nothing speaks against, those of a possible match, and
# those that a person has to decide.
parts_of_lines <- function(lines) {
  possible <- !lines$sure & lines$match == "possible"
  # What brings the wave into the codebook goes with all others.
  first <- lines$line[lines$match == "export" & !lines$sure]
  with_names(
    list(which(lines$sure), which(possible), which(!lines$sure & !possible)), c(
      paste0("Sure: `--accept ", paste(c(first, "sure"), collapse = ","), "` writes these",
        if (length(first) > 0) paste(" and line", first)),
      "Possible: is it this question?", "Open: for a person to decide"
    )
  )
}
