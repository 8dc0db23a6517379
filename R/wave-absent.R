# What only the codebook has: lines that say a question is absent.

# Questions that only the codebook has: a block or a question of boxes as a whole where all of it is
# gone.
absent_lines <- function(pairs, own, study) {
  gone <- Filter(function(pair) pair$match == "only_codebook", pairs)
  if (length(gone) == 0) return(list())
  of_variable <- function(pairs) vapply(pairs, function(pair) pair$slot$variable, "")
  names <- unique(of_variable(gone))
  partly <- names[names %in% of_variable(Filter(
    function(pair) pair$match != "only_codebook", pairs
  ))]
  c(
    whole_absent_lines(gone, setdiff(names, partly), own, study),
    lapply(
      unname(split(gone, of_variable(gone))[sort_c(partly)]), part_absent_line,
      pairs = pairs, own = own, study = study
    )
  )
}

# A line a variable that the new file lacks, or a block where it lacks all of it.
whole_absent_lines <- function(gone, whole, own, study) {
  block <- vapply(whole, function(name) paste0(study$book$variables[[name]]$block, ""), "")
  full <- vapply(block, function(block_name) nzchar(block_name) &&
    all(study$book$blocks[[block_name]] %in% whole), TRUE)
  unit <- ifelse(full, block, whole)
  asked <- function(names) {
    mine <- Filter(function(pair) pair$slot$variable %in% names, gone)
    words <- unlist(lapply(mine, function(pair) utils::head(pair$slot$questions, 1)))
    paste(utils::head(words, 1), collapse = "")
  }
  # The words of a write-in have an entry of their own only where something is said of them.
  follows <- function(variable) !is.null(way_of(variable)$follows(variable))
  own_entry <- c(block[full], names(Filter(follows, study$book$variables)))
  lapply(unique(unit), function(unit_name) {
    path <- if (unit_name %in% own_entry) c("variables", unit_name) else
      study$book$variables[[unit_name]]$path
    new_line(
      "only_codebook", unit_name,
      list(new_edit(c(path, "by_wave"), with_names(list("absent"), own$wave))),
      grounds = "no column of the new file is like it", wording = asked(whole[unit == unit_name])
    )
  })
}

# A question of which the new file has some boxes only, or no write-in.
part_absent_line <- function(same, pairs, own, study) {
  variable <- plain_of(same[[1]], study)
  roles <- vapply(same, function(pair) pair$slot$role, "")
  boxes <- setdiff(roles, ".written")
  value <- c(
    if (length(boxes) > 0) list(columns = boxes_there(variable, pairs)),
    if (".written" %in% roles) list(other = "absent")
  )
  grounds <- c(
    if (length(boxes) > 0) paste0("the box of ", some_of(boxes, 9), " is not in the new file"),
    if (".written" %in% roles) "nor is there a column of its write-in"
  )
  path <- c(entry_path_of(variable), "by_wave", own$wave)
  new_line(
    "only_codebook", variable$name, list(new_edit(path, list(split = value))),
    grounds = paste(grounds, collapse = "; ")
  )
}
