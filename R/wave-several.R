# Several new waves at once: which file is which wave, by a pattern of their names.

# The files of each wave by its name, in the order of the names, numbers as numbers. Without files
# those that the codebook names for waves of the pattern; files of the first wave are left out.
waves_by_pattern <- function(codebook, pattern, files) {
  document <- parse_codebook(codebook_file(codebook))
  exports <- Filter(function(export) is_text(export$wave), unclass_document(document)$exports)
  named <- vapply(exports, `[[`, "", "wave")
  first <- names(document$waves)[1]
  if (length(files) == 0) {
    waves <- setdiff(named[fits_pattern(named, pattern)], first)
    if (length(waves) == 0) stop_mavik(
      "usage_error", "the codebook knows no later wave that is called like `", pattern,
      "`: name their files, `mavik align '", pattern, "' raw/*.csv`"
    )
    # Their files are those that the codebook names.
    waves <- unique(waves[natural_order(waves)])
    return(with_names(rep(list(NULL), length(waves)), waves))
  }
  for (file in files) check_file(file, file)
  inside <- vapply(files, named_from, "", project = attr(document, "project"))
  of_export <- vapply(exports, function(export) paste0(export$file, "")[1], "")
  known <- unname(named[match(inside, of_export)])
  wave <- known
  wave[is.na(known)] <- waves_called(files[is.na(known)], pattern)
  rest <- wave != first
  if (!any(rest)) stop_mavik(
    "usage_error", "all of these files are of ", first, ", the first wave of the codebook: ",
    "there is none to align it with"
  )
  names <- unique(wave[rest][natural_order(wave[rest])])
  split(unname(files[rest]), factor(wave[rest], names))
}

is_wave_known <- function(codebook, wave) {
  exports <- unclass_document(parse_codebook(codebook_file(codebook)))$exports
  wave %in% unlist(lapply(exports, at_key, "wave"))
}

fits_pattern <- function(names, pattern) grepl(utils::glob2rx(pattern), names)

# A file called like the pattern is the wave of its name; of others what their names differ in
# stands for the star.
waves_called <- function(files, pattern) {
  if (length(files) == 0) return(character())
  stems <- tolower_ascii(tools::file_path_sans_ext(basename(files)))
  plain <- gsub("^_+|_+$", "", gsub("[^a-z0-9]+", "_", stems))
  parts <- stringi::stri_extract_all_regex(plain, "[a-z]+|[0-9]+")
  common <- Reduce(intersect, parts)
  own <- vapply(parts, function(part) {
    rest <- if (length(files) > 1) setdiff(part, common) else grep("[0-9]", part, value = TRUE)
    paste(if (length(rest) == 0) part else rest, collapse = "_")
  }, "")
  ifelse(fits_pattern(plain, pattern), plain, mapply(
    function(part) sub("*", part, pattern, fixed = TRUE), own, USE.NAMES = FALSE
  ))
}

natural_order <- function(names) stringi::stri_order(
  names, opts_collator = stringi::stri_opts_collator(locale = "en", numeric = TRUE)
)
