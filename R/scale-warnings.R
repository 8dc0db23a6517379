# What in a scale looks like a mistake, in words, each with its reading. No
# verdict rests on one number.

scale_warnings <- function(examined, book, limits) {
  items <- examined$items
  c(
    direction_warnings(items, limits), list_warnings(items$item, book),
    floor_ceiling_warnings(examined, limits), blank_warnings(items, limits),
    weak_warnings(items, limits), straight_warning(examined)
  )
}

direction_warnings <- function(items, limits) {
  negative <- which(!is.na(items$item_rest) & items$item_rest < limits$negative)
  if (length(negative) == 0) return(character())
  shown <- paste0("`", items$item[negative], "` (", number_show(items$item_rest[negative], 2), ")")
  many <- length(negative) > nrow(items) / 3
  vapply(seq_along(negative), function(k) {
    reversed <- items$reversed[negative[k]]
    paste0(shown[k], " runs against the rest of its scale and is ",
      if (reversed) paste(
        "listed as reversed: is it worded like the others after all?",
        "Then take it out of `reversed`"
      ) else "not listed as reversed: if it is worded the other way, list it",
      if (many) paste0(
        "; or the scale itself runs the other way: where most items are the reversed ones, the ",
        "few that look negative may be the right ones"
      ))
  }, "")
}

# Lists of which one runs the other way.
list_warnings <- function(items, book) {
  ends <- lapply(
    book$variables[items],
    function(item) if (is_coded(item) && length(item$codes$code) > 1) text_fold(item$codes$label[c(
      which.min(item$codes$code), which.max(item$codes$code)
    )])
  )
  ends <- ends[lengths(ends) == 2]
  if (length(ends) < 2) return(character())
  other_way <- vapply(ends, function(end) identical(end, rev(ends[[1]])), TRUE)
  if (!any(other_way)) return(character())
  paste0(
    "the codes of ", some_of(names(ends)[other_way]), " run from \u201c",
    ends[[which(other_way)[1]]][1], "\u201d up, those of ", some_of(names(ends)[!other_way]),
    " the other way: one list for all, or `recode: {reversed: yes}` first"
  )
}

floor_ceiling_warnings <- function(examined, limits) {
  ends <- examined$floor_ceiling
  c(
    if (isTRUE(ends[["low"]] > limits$floor_ceiling)) paste0(
      number_show(100 * ends[["low"]], 1),
      " % have the lowest possible score (floor): those below cannot be told apart"
    ),
    if (isTRUE(ends[["high"]] > limits$floor_ceiling)) paste0(
      number_show(100 * ends[["high"]], 1),
      " % have the highest possible score (ceiling): those above cannot be told apart"
    )
  )
}

blank_warnings <- function(items, limits) {
  often <- which(items$blank > limits$blank)
  paste0(
    "`", items$item[often], "` has no value for ", number_show(100 * items$blank[often], 1),
    " % of those asked: was it hard to answer, or read from the wrong column?", recycle0 = TRUE
  )
}

weak_warnings <- function(items, limits) {
  weak <- which(
    !is.na(items$item_rest) & items$item_rest >= limits$negative & items$item_rest < limits$weak
  )
  paste0(
    "`", items$item[weak], "` hardly goes with the rest (", number_show(items$item_rest[weak], 2),
    "): does it belong to this scale?", recycle0 = TRUE
  )
}

straight_warning <- function(examined) {
  if (isTRUE(examined$straightlined > 0)) paste0(
    count_of(examined$straightlined, "respondent"),
    " gave one answer to all items, the reversed ones among them: look whether they read the ",
    "questions (a screen `straightlined` marks them)"
  )
}

# What a coefficient says, in plain words.
alpha_words <- function(alpha) {
  if (is.na(alpha)) return("cannot be told")
  if (alpha < 0.5) "the items have little in common" else
    if (alpha < 0.7) "the items have something in common; weak for comparing single persons" else
      if (alpha < 0.8) "enough for comparing groups" else
        if (alpha < 0.9) "the items hang together well" else
          "the items hang together very closely; some may say the same twice"
}

audit_scales <- list(findings = function(study) scale_findings(study$book))

# Findings that a codebook alone gives away: items in two scales, items of a block in none.
scale_findings <- function(book) {
  scores <- Filter(
    function(variable) is_score(variable) && !identical(variable$settings$over, "items"),
    book$variables
  )
  if (length(scores) == 0) return(list())
  of <- lapply(scores, items_of_score, book = book)
  all <- unlist(of)
  twice <- unique(all[duplicated(all)])
  left <- unlist(lapply(
    book$blocks,
    function(block) if (any(block %in% all) && !all(block %in% all)) setdiff(block, all)
  ))
  c(
    lapply(
      twice,
      function(item) new_finding(
        "note", "item_in_two_scales", item, "", 1, integer(), book$variables[[item]]$path,
        paste0("is an item of ", some_of(names(Filter(function(items) item %in% items, of)), 9))
      )
    ),
    lapply(
      left,
      function(item) new_finding(
        "note", "item_in_no_scale", item, "", 1, integer(), book$variables[[item]]$path,
        paste0(
          "stands in the block `", book$variables[[item]]$block,
          "`, of which other items make a score, and is in no scale: is that meant?"
        )
      )
    )
  )
}
