# Delimited text. One kernel cuts the file and says whatever a parser would pass over
# in silence.

reader_delimited <- new_reader(
  laid_out = "text",
  read = function(source, options, shown) {
    path <- utf8_copy(source, options$encoding, shown)
    if (path != source) on.exit(unlink(path))
    rows <- seq_along(options$heading)
    read <- cut_file(path, delimiters[[options$delimiter]], options$skip, length(rows))
    check_shape(read, options, shown)
    list(
      heading = with_names(read$heading, options$heading), columns = read$columns,
      lines = read$lines[-rows]
    )
  }
)

cut_file <- function(path, mark, skip, heads) {
  make_room(file.size(path))
  threads <- if (file.size(path) > 6e7) threads_allowed() else 1L
  read_cells(local_path(path), mark, skip, heads, threads)
}

check_file <- function(path, shown) {
  if (!is.character(path) || length(path) != 1 || is.na(path)) {
    stop_read("export", NULL, "give the path of one file, or a data frame")
  }
  if (dir.exists(path)) stop_read(shown, NULL, "is a folder; name the file in it")
  if (!file.exists(path)) {
    near <- nearest(basename(path), list.files(dirname(path)))
    stop_read(
      shown, NULL, "no such file", if (!is.null(near)) paste0("; did you mean `", near, "`?")
    )
  }
  if (file.access(path, 4) != 0) stop_read(shown, NULL, "may not be read: check its permissions")
  if (file.size(path) == 0) stop_read(shown, NULL, "the file is empty")
}

check_shape <- function(shape, options, shown) {
  other <- setdiff(names(delimiters), options$delimiter)
  switch(shape$problem,
    unopened = stop_read(shown, NULL, "cannot be opened"),
    nul = stop_read(shown, shape$line,
      "a NUL byte: this is not a plain text file, or it is UTF-16 ",
      "(then say `encoding: UTF-16`)"),
    utf16 = stop_read(shown, 1, "not UTF-8: the file begins like UTF-16; say `encoding: UTF-16`"),
    encoding = stop_read(shown, shape$line, "bytes that are not UTF-8; ",
      "if the file is in another encoding, say so, as `encoding: windows-1252`; ",
      "`mavik look` tells which it may be"),
    carriage = stop_read(shown, shape$line, "a bare carriage return outside quotes; ",
      "save the file with ordinary line ends"),
    unclosed = stop_read(shown, shape$line, "a quote is opened here and never closed"),
    after_quote = stop_read(shown, shape$line, "text follows a closing quote; ",
      "a quote inside a quoted cell is written twice, and the delimiter is taken as ",
      options$delimiter),
    short = , long = stop_read(shown, shape$line, "this record has ", count_of(shape$found, "cell"),
      ", the heading has ", shape$expected,
      "; is a delimiter missing or too many here, or a quote lost?",
      if (shape$expected == 1) paste0(
        " (a heading of one cell: is it `delimiter: ", other[1], "`?)"
      ))
  )
  if (length(shape$lines) == 0) stop_read(shown, NULL, "holds no records",
    if (options$skip > 0) paste0(" below its first ", count_of(options$skip, "line")))
  if (length(shape$lines) <= length(options$heading)) {
    stop_read(shown, shape$lines[1],
      "only heading rows, no records: `heading` says that there are ",
      length(options$heading))
  }
}
