command_entry <- list(
  place = 9.5,
  summary = "Write a sheet in which answers from paper are typed, or the form to print",
  arguments = "[PROJECT]", most = 400, example = "mavik entry choirs --forms 20 --onto",
  options = function() list(
    value_option(
      "--of", "NAMES", "variables and blocks that are typed, belong,points (default: all)"
    ),
    value_option("--without", "NAMES", "variables and blocks that are not on the paper"),
    value_option("--forms", "N", "how many questionnaires (default: 50)"),
    value_option("--out", "FILE", "where to write, .xlsx (default: sheets/EXPORT.xlsx)"),
    value_option("--export", "NAME", "the export it is of, where several could be"),
    value_option("--wave", "W", "the wave of a new one, where there are several"),
    flag_option("--onto", "add the export to the codebook"),
    value_option("--from", "SHEET", "take over what is typed in another sheet"),
    flag_option("--compare", paste0("compare two entries of the same forms: ",
      "`mavik entry --compare FIRST SECOND`")),
    value_option("--project", "PROJECT", "with --compare, the project (default: where you are)"),
    value_option("--print", "FILE.html", "write the questionnaire to print, and no sheet"),
    replace_option(), json_option()
  ),
  json = list(
    "entry" = c(
      file = "the sheet", export = "the export that it is", entry =
        "what the codebook has to say of it, null where it does", read =
        "the file that the codebook has for it, null for a new one",
      questions = "columns to type in",
      forms = "how many",
      taken_over = "forms taken over from another sheet", left = "what of them found no place",
      drops = "screens that would drop every form", added = "whether the codebook was changed"
    ),
    "entry --compare FIRST SECOND" = c(
      differences = paste0("a row a difference: form, wave, respondent, variable, question, ",
        "first, second, right, note, who, date, first cell, second cell"),
      agreement = "a row a question: variable, question, compared, same, percent",
      forms = "how many are in both", only_first = "forms in the first only",
      only_second = "forms in the second only", written = "the sheet of differences"
    ),
    "entry --print FILE.html" = c(printed = "the page", forms = "how many forms it holds")
  ),
  run = function(given) {
    if (given$compare) return(entry_compared(given))
    # `--of belong points` names several, as `--of belong,points` does.
    stands <- file.exists(given$args)
    more <- if (!is.null(given$of)) given$args[!stands]
    given$args <- setdiff(given$args, more)
    if (length(given$args) > 1) stop_mavik(
      "usage_error", "`mavik entry` takes one project; two workbooks are compared with --compare"
    )
    project <- if (length(given$args) == 0) "." else given$args
    of <- c(words_of(given$of), more)
    without <- words_of(given$without)
    if (!is.null(given$print)) return(entry_printed(given, project, of, without))
    forms <- if (is.null(given$forms)) 50 else whole_given(given$forms, "--forms")
    made <- entry_sheet(
      project, of, forms, given$out, given$export, given$wave, given$from, given$onto,
      without
    )
    added <- given$onto && !is.null(made$entry)
    if (given$json) show_lines(json_of(c(made, added = added), c("left", "drops"))) else show_lines(
      entry_told(made, project, added)
    )
    0L
  }
)

whole_given <- function(text, option) {
  number <- suppressWarnings(as.numeric(text))
  if (is.na(number) || number != round(number)) stop_mavik(
    "usage_error", option, " takes a whole number, not `", text, "`"
  )
  number
}

entry_told <- function(made, project, added) c(
  paste0("The sheet stands in ", made$file),
  paste0("  ", count_of(made$questions, "column"), " to type in, rows for ",
    count_of(made$forms, "form")),
  if (made$taken_over > 0) paste0("  ", count_of(made$taken_over, "form"), " taken over"),
  if (length(made$left) > 0) wrapped(paste0("not taken over: ", some_of(made$left, 9, FALSE))),
  not_on_sheet(at_key(made$entry$typed, "without")),
  if (length(made$drops) > 0) cli::col_yellow(wrapped(paste0("note: ", made$drops))),
  if (added) paste0("The codebook reads it as the export ", made$export, ".")
  else if (is.null(made$entry)) other_file_told(made)
  else c(
    paste0("For the codebook to read it (`--onto` adds this):"), "",
    paste0("  ", yaml_block(with_names(list(made$entry), made$export), "exports", "",
      deep = TRUE)), ""
  ),
  paste0("Type, save, and then: mavik build ", project)
)

not_on_sheet <- function(names) if (length(names) > 0) wrapped(paste0(
  "not on it: ", some_of(names, 12, quote = FALSE), " (`--of` names what is)"
))

# The codebook may read another file for this export.
other_file_told <- function(made) if (!same_file(made$file, made$read)) paste0(
  "The codebook reads ", made$read, " as ", made$export,
  ": name this file there, or put it in that one's place."
)

entry_compared <- function(given) {
  if (length(given$args) != 2) stop_mavik(
    "usage_error", "`mavik entry --compare` needs two workbooks, FIRST and SECOND"
  )
  project <- if (is.null(given$project)) "." else given$project
  file <- if (is.null(given$out)) file.path(shown_folder(project), "sheets", paste0(
    tools::file_path_sans_ext(basename(given$args[1])), "-differences.xlsx"
  )) else given$out
  differences <- compare_entries(project, given$args[1], given$args[2], file, given$export)
  if (given$json) show_lines(json_of(c(unclass(differences), written = file), c(
    "only_first", "only_second", "differences", "agreement"
  ))) else show_lines(c(
    entry_differences_shown(differences), "", paste0("Both readings stand in ", file),
    if (nrow(differences$differences) > 0) wrapped(paste0(
      "Choose the right one there; then name the sheet in the codebook, ",
      corrections_line(project, file), ", and the build corrects the first entry."
    ))
  ))
  0L
}

corrections_line <- function(project, file) {
  book <- known_book(project)
  paste0("`corrections: ", flow_text(c(
    book$corrections, if (is.null(book$project)) file else named_from(file, book$project)
  )), "`")
}

entry_differences_shown <- function(differences) {
  agreement <- differences$agreement
  odd <- agreement[agreement$same < agreement$compared, ]
  c(
    paste0(
      count_of(differences$forms, "form"), " in both, ",
      count_of(nrow(differences$differences), "difference"),
      " in ", count_of(length(unique(differences$differences$form)), "form"), "; ",
      number_show(100 * sum(agreement$same) / max(sum(agreement$compared), 1), 1),
      " % of the answers are the same"
    ),
    if (length(differences$only_first) > 0) paste0(
      "  only in the first: ", some_of(differences$only_first, 12, FALSE)
    ),
    if (length(differences$only_second) > 0) paste0(
      "  only in the second: ", some_of(differences$only_second, 12, FALSE)
    ),
    if (nrow(odd) > 0) c("", columns_shown(list(
      variable = c("question", odd$variable), compared = c("compared", grouped(odd$compared)),
      same = c("same", grouped(odd$same)),
      percent = c("agreement", paste0(number_show(odd$percent, 1), " %"))
    ), right = c("compared", "same", "percent")))
  )
}

#' @export
print.mavik_differences <- function(x, ...) {
  show_lines(entry_differences_shown(x))
  invisible(x)
}

entry_printed <- function(given, project, of, without) {
  forms <- if (!is.null(given$forms)) whole_given(given$forms, "--forms")
  print_form(project, given$print, of, forms, given$export, given$wave, without,
    given$replace)
  done <- if (is.null(forms)) 1 else forms
  if (given$json) show_lines(json_of(list(printed = given$print, forms = done))) else show_lines(c(
    paste0("The questionnaire stands in ", given$print),
    paste0("  ", if (is.null(forms)) "one form, its number to be written in" else
      count_of(forms, "form"), "; print it from a browser, A4")
  ))
  0L
}
