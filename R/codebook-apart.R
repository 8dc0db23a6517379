# One file with many waves: a column tells them apart. It is read once; each wave is an
# export of its own behind that.

spread_columns_of_waves <- function(exports, waves, say) {
  if (length(exports) == 0) return(exports)
  spread <- lapply(exports, function(export) {
    if (!is.list(export$wave)) return(list(export))
    path <- c("exports", export$name, "wave")
    written <- waves_written(export$wave$values, waves, path, say)
    if (length(written) < 2) say(path, paste0(
      "a column tells waves apart, and there is one wave only: name it, `wave: ",
      c(names(written), names(waves), "one")[1], "`"
    ))
    lapply(names(written), function(wave) one_wave_of(export, wave, written))
  })
  spread <- unlist(unname(spread), recursive = FALSE)
  with_names(spread, vapply(spread, `[[`, "", "name"))
}

one_wave_of <- function(export, wave, written) {
  export$apart <- list(column = export$wave$column, written = written)
  export$name <- export$unspread <- paste0(export$entry, ":", wave)
  export$wave <- wave
  export
}

# The folded texts of each wave.
waves_written <- function(values, waves, path, say) {
  if (is.null(values)) {
    values <- lapply(waves, function(wave) unique(c(wave$name, wave$label)))
    here <- path
  } else here <- c(path, "values")
  for (wave in setdiff(names(values), names(waves))) say(c(here, wave), paste0(
    "`", wave, "` is not one of the waves", did_you_mean(wave, names(waves))
  ))
  values <- lapply(values[intersect(names(values), names(waves))], function(texts) {
    unique(text_fold(texts))
  })
  told <- data.frame(text = unlist(values), wave = rep(names(values), lengths(values)))
  for (text in unique(told$text[duplicated(told$text)])) say(here, paste0(
    "`", text, "` stands for several waves: ", some_of(told$wave[told$text == text])
  ))
  values
}

# Exports that are waves of one file, as the raw file is read once for all of them.
read_together <- function(exports) {
  apart <- vapply(exports, function(export) !is.null(export$apart), TRUE)
  of <- ifelse(apart, paste0(vapply(exports, `[[`, "", "entry"), " ", vapply(
    exports, function(export) paste0(export$file, ""), ""
  )), names(exports))
  unname(split(names(exports), factor(of, unique(of))))
}
