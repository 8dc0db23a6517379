command_compare <- list(
  place = 7,
  summary = "Compare two builds: respondents, cells, statistics, codebook, and the cause",
  arguments = "OLD NEW", most = 2, example = "mavik compare last-week/out choirs/out",
  options = function() list(
    value_option("--html", "FILE", "write it as an HTML page"),
    replace_option(),
    json_option()
  ),
  json = list(
    "compare OLD NEW" = c(
      respondents = "who is new (`came`), who is gone, how many are in both",
      variables = "which are new (`came`), which are gone",
      cells = "for each variable how many cells differ, by cause",
      changes = "the cells: wave, respondent, variable, was, now",
      moved = "statistics that changed",
      codebook = "what differs in the codebook: path, change, was, now",
      sources = "raw files and sheets that differ",
      title = "the title of the study",
      same = "whether the two builds are the same"
    )
  ),
  run = function(given) {
    if (length(given$args) < 2) stop_mavik(
      "usage_error",
      "`mavik compare` needs two output folders, the old one first; `mavik compare --help` shows ",
      "how"
    )
    check_may_write(given$html, replace = given$replace)
    compared <- compare_studies(given$args[1], given$args[2])
    if (!is.null(given$html)) {
      write_text(comparison_page(compared, given$args), given$html)
      if (!given$json) show_lines(paste0("The page stands in ", given$html))
    } else if (!given$json) show_lines(comparison_shown(compared))
    if (given$json) show_lines(json_of(unclass(compared), c("variables.came", "variables.gone")))
    0L
  }
)

#' @export
print.mavik_comparison <- function(x, ...) {
  keep_own_options()
  show_lines(comparison_shown(x))
  invisible(x)
}

comparison_shown <- function(compared) {
  compared <- visible(compared)
  if (compared$same) return(
    "The two builds are the same: respondents, cells, codebook, raw files and sheets."
  )
  cells <- compared$cells
  c(
    heading_shown(paste0(compared$title, ": what differs")), "",
    heading_shown("What can have caused it"), causes_shown(compared), "",
    heading_shown("Respondents"), respondents_moved(compared$respondents),
    if (length(unlist(compared$variables)) > 0) c(
      "", heading_shown("Variables"), names_moved(compared$variables)
    ),
    "", heading_shown("Cells"),
    if (nrow(cells) == 0) "  no cell of respondents in both builds differs" else columns_shown(list(
      count = grouped(utils::head(cells$changed, 30)), variable = utils::head(cells$variable, 30),
      examples = shorten(utils::head(cells$examples, 30), 90),
      causes = shorten(utils::head(cells$causes, 30), 60)), right = "count", quiet = "causes"),
    if (nrow(cells) > 30) paste0(
      "  and ", nrow(cells) - 30, " more variables (--html or --json shows all)"
    ),
    if (nrow(compared$moved) > 0) c(
      "", heading_shown("Shares of the answered, and means, that moved"),
      moved_shown(compared$moved)
    )
  )
}

causes_shown <- function(compared) {
  sources <- compared$sources
  entries <- compared$codebook
  lines <- c(
    if (nrow(sources) > 0) columns_shown(list(
      what = sources$what, file = ifelse(nzchar(sources$file), sources$file, sources$name),
      change = sources$change
    )),
    if (nrow(entries) > 0) columns_shown(list(
      what = rep("codebook", nrow(entries)), path = entries$path,
      change = ifelse(
        entries$change == "changed",
        paste0(shorten(entries$was, 50), " -> ", shorten(entries$now, 50)),
        paste0(entries$change, ": ", shorten(paste0(entries$was, entries$now), 80))
      )
    ))
  )
  if (length(lines) == 0)
    "  nothing: raw files, sheets, codebook and version are the same" else lines
}

respondents_moved <- function(respondents) {
  sentence <- function(table, words) if (nrow(table) > 0) paste0(
    "  ", count_of(nrow(table), "respondent"), " ", words, ": ",
    some_of(table$respondent, 8, quote = FALSE)
  )
  c(
    paste0("  ", count_of(respondents$both, "respondent"), " in both"),
    sentence(respondents$came, "came"), sentence(respondents$gone, "gone")
  )
}

names_moved <- function(variables) c(
  if (length(variables$came) > 0) paste0("  new: ", some_of(variables$came, 20)),
  if (length(variables$gone) > 0) paste0("  gone: ", some_of(variables$gone, 20))
)

moved_shown <- function(moved, most = 30) {
  by <- order(-abs(moved$now - moved$was))
  shown <- moved[utils::head(by, most), ]
  unit <- ifelse(shown$what == "mean", "", " %")
  c(
    columns_shown(
      list(
        variable = shown$variable, what = shorten(shown$what, 40),
        was = paste0(number_show(shown$was, 2), unit), arrow = rep("->", nrow(shown)),
        now = paste0(number_show(shown$now, 2), unit)
      ),
      right = c("was", "now")
    ),
    if (nrow(moved) > most) paste0("  and ", nrow(moved) - most, " smaller ones")
  )
}
