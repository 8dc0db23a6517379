command_coding <- list(
  place = 9,
  summary = "Write or update the sheet in which people give codes to open answers, or corrections",
  arguments = "[VARIABLE]", most = 1, example = "mavik coding best_codes --project choirs",
  options = function() list(
    project_option(),
    value_option(
      "--out", "FILE", "where to write, .xlsx or .csv (default: the sheet that the codebook names)"
    ),
    flag_option("--corrections", "the sheet of corrections instead, with what can be chosen"),
    flag_option("--once", "equal answers stand once, with their count"),
    value_option(
      "--second", "FILE", "a second coder's sheet: how far do the two agree? Nothing is written"
    )
  ),
  run = function(given) {
    if (given$corrections) return(corrections_written(given))
    if (length(given$args) == 0) stop_mavik(
      "usage_error", "`mavik coding` needs a variable; `mavik coding --help` shows how"
    )
    if (!is.null(given$second)) {
      show_lines(agreement_shown(coding_agreement(given$project, given$args, given$second)))
      return(0L)
    }
    sheet <- coding_sheet(given$project, given$args, given$out, given$once)
    file <- if (is.null(given$out)) {
      book <- compile_codebook(as_codebook(given$project))
      coding_file(coding_entry(given$args, book), book)
    } else given$out
    show_lines(c(coding_shown(sheet, file), invented_shown(sheet, given)))
    0L
  }
)

corrections_written <- function(given) {
  if (length(given$args) > 0) stop_mavik(
    "usage_error", "`--corrections` is of all variables: name none"
  )
  sheet <- correction_sheet(given$project, given$out)
  file <- attr(sheet, "file")
  book <- known_book(given$project)
  named <- vapply(book$corrections, function(correction) same_file(file, export_path(
    list(file = correction), book
  )), TRUE)
  show_lines(c(
    paste0("The sheet of corrections stands in ", file),
    paste0("  ", count_of(nrow(sheet), "line")),
    if (!any(named)) paste0(
      "For the codebook to read it, write `corrections: ", named_from(file, book$project), "`",
      if (nrow(sheet) > 0) " in place of the sheet that its lines come from"
    )
  ))
  0L
}

coding_shown <- function(sheet, file) {
  codes <- sheet[grep("^code( [0-9]+)?$", names(sheet))]
  coded <- Reduce(`|`, lapply(codes, nzchar), logical(nrow(sheet)))
  c(
    paste0("The sheet stands in ", file), paste0(
      "  ", count_of(nrow(sheet), "answer"), ", ", grouped(sum(coded)), " with a code"
    ),
    if (!is.null(sheet$state) && any(nzchar(sheet$state))) paste0(
      "  ",
      paste(
        vapply(
          intersect(c("new", "changed", "gone"), sheet$state),
          function(state) paste(grouped(sum(sheet$state == state)), state), ""
        ),
        collapse = ", "
      )
    )
  )
}

# What coders made up, as lines for the codebook.
invented_shown <- function(sheet, given) {
  invented <- attr(sheet, "invented")
  if (nrow(invented) == 0) return(NULL)
  c(
    "", "Codes that the codebook does not have; until it does their answers are not found:",
    columns_shown(list(
      code = c("code", invented$code), count = c("answers", grouped(invented$count)),
      line = c("line for the codebook", invented$line)
    ), right = "count"),
    paste0("`mavik check ", given$project, " --apply` adds them to the codebook.")
  )
}

agreement_shown <- function(agreement) {
  codes <- agreement$codes
  if (agreement$answers == 0) return("No answer is coded in both sheets.")
  c(
    paste0(
      count_of(agreement$answers, "answer"), " coded in both sheets, ",
      number_show(agreement$same, 1),
      " % with the same codes"
    ), "",
    columns_shown(list(code = c("code", codes$code), both = c("both", grouped(codes$both)),
      first = c("first only", grouped(codes$first)),
      second = c("second only", grouped(codes$second)),
      agreement = c("agreement", paste0(number_show(codes$agreement, 1), " %")), kappa = c(
        "kappa", ifelse(is.na(codes$kappa), "\u2013", number_show(codes$kappa, 2))
      )), right = c("both", "first", "second", "agreement", "kappa"))
  )
}
