#' The analysis table of a study
#'
#' @param study A study, from [build_study()].
#' @param values `"codes"` (integers) or `"labels"` (factors with all levels, in
#'   the order of the codebook) for coded variables.
#' @param gaps What stands in a gap: `"na"` (`NA`), `"codes"` (the reason's code;
#'   its label where values are labels), or `"beside"` (`NA`, and after each
#'   variable that has gaps a factor `<name>.gap` with the reason).
#' @return A data frame of the kept variables in the codebook's order; private
#'   variables and respondents that a screen dropped are left out. Numbers are doubles, texts characters, dates `Date` and date-times
#'   `POSIXct` in UTC (texts where `gaps = "codes"`).
#' @examples
#' study <- build_study(demo_project(tempfile()))
#' head(study_table(study, values = "labels")[, c("singer", "voice", "years")])
#' table(study_table(study, gaps = "beside")$years.gap)
#' @export
study_table <- function(study, values = c("codes", "labels"), gaps = c("na", "codes", "beside")) {
  check_study_class(study)
  values <- match.arg(values)
  gaps <- match.arg(gaps)
  book <- study$book
  out <- list()
  for (name in kept_variables(book)) {
    variable <- book$variables[[name]]
    reason <- staying(study$reasons[[name]], study)
    out[[name]] <- table_column(variable, staying(study$data[[name]], study), if (gaps == "codes") reason, values, book)
    if (gaps == "beside" && !is.null(reason)) out[[paste0(name, ".gap")]] <- reason
  }
  structure(out, class = "data.frame", row.names = .set_row_names(n_staying(study)), names = as.character(names(out)))
}

kept_variables <- function(book) {
  hidden <- private_variables(book)
  names(Filter(function(variable) isTRUE(variable$kept) && !variable$name %in% hidden, book$variables))
}

table_column <- function(variable, value, reason, values, book) {
  named <- values == "labels" && (is_coded(variable) || !is.null(variable$texts))
  if (!named) {
    if (is.null(reason)) return(value)
    codes <- book$reasons$code[as.integer(reason)]
    gap <- !is.na(reason)
    if (is_date(variable)) value <- value_text(variable, as.double(value))
    value[gap] <- if (is.character(value)) number_to_text(codes[gap]) else codes[gap]
    return(value)
  }
  known <- if (is_coded(variable)) all_codes(variable) else variable$texts$value
  if (is_coded(variable)) known <- c(known, sort(setdiff(unique(value), c(known, NA))))
  labels <- if (is_coded(variable)) label_of(variable, known) else variable$texts$label
  code <- match(value, known)
  if (!is.null(reason)) {
    used <- sort(unique(as.integer(reason)))
    labels <- c(labels, book$reasons$label[used])
    gap <- !is.na(reason)
    code[gap] <- length(known) + match(as.integer(reason)[gap], used)
  }
  structure(code, levels = make.unique(labels), class = "factor")
}
