reader_frame <- new_reader(
  knows = function(source, first, entries) is.data.frame(source),
  read = function(source, options, shown) {
    if (nrow(source) == 0) stop_read(shown, NULL, "no rows: a data frame needs at least one record")
    names <- enc2utf8(as.character(names(source)))
    labels <- vapply(source, function(column) {
      label <- attr(column, "label", exact = TRUE)
      if (is.character(label) && length(label) == 1 && !is.na(label)) enc2utf8(label) else ""
    }, "", USE.NAMES = FALSE)
    list(
      heading = c(list(names = names), if (any(nzchar(labels))) list(questions = labels)),
      columns = lapply(seq_along(names), function(k) frame_column(source[[k]], names[k], shown)),
      lines = seq_len(nrow(source))
    )
  }
)

frame_column <- function(x, name, shown) {
  if (is.factor(x)) {
    index <- as.integer(x)
    cells <- c(enc2utf8(levels(x)), "")
    index[is.na(index)] <- length(cells)
    return(list(cells = cells, index = index, levels = levels(x), ordered = is.ordered(x)))
  }
  if (inherits(x, "POSIXlt")) x <- as.POSIXct(x)
  labelled <- attr(x, "labels", exact = TRUE)
  check_frame_column(x, name, shown)
  # In the bits of a double unlike numbers may look alike.
  if (inherits(x, "integer64")) x <- integer64_text(unclass(x))
  values <- unique(x)
  text <- frame_text(values)
  text[is.na(values)] <- ""
  text <- enc2utf8(text)
  cells <- unique(text)
  list(cells = cells, index = match(text, cells)[match(x, values)],
    labelled = labelled_codes(labelled))
}

# Labels that a column of whole numbers carries for its codes; NULL where it has none.
labelled_codes <- function(labels) {
  if (!is.numeric(labels) || length(labels) == 0 || is.null(names(labels))) return(NULL)
  codes <- as.double(labels)
  if (!all(is_whole(codes) & nzchar(names(labels)))) return(NULL)
  list(codes = as.integer(codes), labels = enc2utf8(names(labels)))
}

# Of classes of their own nobody can say what their cells show.
known_classes <- c("Date", "POSIXct", "POSIXt", "integer64", "AsIs")

check_frame_column <- function(x, name, shown) {
  if (is.list(x) || !is.null(dim(x))) {
    stop_read(shown, NULL, "the column `", name,
      "` is a list or a table: give one plain value a cell")
  }
  own <- if (is.object(x)) setdiff(class(x), known_classes)
  # Numbers or texts with labels beside them are codes as they stand.
  if (length(own) > 0 && is.null(attr(x, "labels", exact = TRUE))) {
    stop_read(shown, NULL, "the column `", name, "` is of class ", some_of(own),
      ", of which no plain text is known: make numbers, texts, dates or a factor of it first")
  }
  if (!typeof(x) %in% c("logical", "integer", "double", "character")) {
    stop_read(shown, NULL, "the column `", name, "` holds values of type ", typeof(x),
      ": make numbers or texts of it first")
  }
}

# A moment is what the clock showed, whatever zone it counts in.
frame_text <- function(x) {
  if (inherits(x, "POSIXt")) return(clock_text(x))
  if (inherits(x, "Date")) return(date_to_text(as.double(x), "date"))
  x <- as.vector(unclass(x))
  if (!is.numeric(x)) return(as.character(x))
  ifelse(is.infinite(x), ifelse(x > 0, "Inf", "-Inf"), number_to_text(x))
}

clock_text <- function(x) {
  here <- as.POSIXlt(x)
  moment_to_text(as.double(as.POSIXct(format(here, "%Y-%m-%d %H:%M:%S"),
    tz = "UTC")) + here$sec %% 1)
}
