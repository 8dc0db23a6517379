command_why <- list(
  place = 6, summary = "Tell how a variable is made, or why one respondent's cell is as it is",
  arguments = "VARIABLE [RESPONDENT]", most = 2,
  example = "mavik why belonging 0278 --project choirs",
  options = function() list(
    project_option(),
    value_option("--wave", "W", "the wave, where the respondent is in several"),
    json_option()
  ),
  json = list(
    "why VARIABLE" = c(
      variable = "the variable",
      label = "its label",
      level = "its level of measurement",
      private = "whether it is private",
      kept = "whether it stands in the analysis file",
      made = "how it is made, in words",
      path = "its place in the codebook",
      where = "that place with its line",
      columns = "what it is read from: column, export, file",
      universe = "who was asked, or null",
      steps = "from records to values: step, count, words",
      uses = "the variables it is made from",
      used_by = "where it is used: kind, name"
    ),
    "why VARIABLE ID" = c(
      variable = "the variable",
      label = "its label",
      respondent = "the key",
      stories =
        paste0(
          "for each record: variable, label, codebook, export, file, at, wave, value, reason, ",
          "raw, steps, inputs"
        )
    )
  ),
  run = function(given) {
    if (length(given$args) == 0) stop_mavik(
      "usage_error", "`mavik why` needs a variable; `mavik why --help` shows how"
    )
    told <- why(given$project, given$args[1], if (length(given$args) > 1) given$args[2], given$wave)
    show_lines(if (given$json) why_json(told) else why_shown(told))
    0L
  }
)

why_json <- function(told) json_of(unclass(told), c("stories", "raw", "uses"))

#' @export
print.mavik_why <- function(x, ...) {
  keep_own_options()
  show_lines(why_shown(x))
  invisible(x)
}

why_shown <- function(told) {
  told <- visible(told)
  if (is.null(told$stories)) variable_story_shown(told) else unlist(lapply(told$stories,
    person_story_shown, told = told))
}

variable_story_shown <- function(told) {
  spread <- function(kind) told$used_by$name[told$used_by$kind == kind]
  used <- unique(told$used_by$kind)
  c(
    heading_shown(paste0(told$variable, if (!is.null(told$label)) paste0(": ", told$label))),
    paste0("  ", told$made), cli::col_grey(paste0(
      "  ", told$where, "; level ", told$level, if (!told$kept) "; not kept",
      if (told$private) "; private"
    )),
    if (!is.null(told$universe)) paste0("  Asked where ", text_squeeze(told$universe)),
    if (nrow(told$columns) > 0) c(
      "", heading_shown("Read from"),
      columns_shown(list(
        file = told$columns$file, column = paste0("column \u201c", told$columns$column, "\u201d")
      ))
    ),
    if (length(told$uses) > 0) c(
      "", heading_shown("Made from"), paste0("  ", paste(told$uses, collapse = ", "))
    ),
    "", heading_shown("Step by step"), columns_shown(
      list(count = grouped(told$steps$count), step = told$steps$step, words = told$steps$words),
      right = "count"
    ),
    "", heading_shown("What rests on it"),
    if (length(used) == 0) "  nothing" else columns_shown(list(
      kind = used, names = vapply(used, function(kind) paste(spread(kind), collapse = ", "), "")
    ))
  )
}

person_story_shown <- function(story, told) {
  c(
    heading_shown(paste0(
      story$variable, if (!is.null(story$label)) paste0(": ", story$label), " \u2013 respondent ",
      told$respondent, ", wave ", story$wave
    )),
    cli::col_grey(paste0(
      "  ", at_line(story$file, story$at),
      if (is.null(story$dropped)) "" else paste0("\n  ", story$dropped)
    )), "",
    story_lines(story, "  "), ""
  )
}

# A story and, further in, those of what the value is made of.
story_lines <- function(story, indent) {
  steps <- story$steps
  steps <- steps[!(steps$step == "universe" & !nzchar(steps$value) & nzchar(story$value)), ]
  shown <- ifelse(
    steps$step == "cell", paste0("\u201c", shorten(steps$value, 40), "\u201d"),
    shorten(steps$value, 40)
  )
  shown[!nzchar(shown) & steps$step != "worked"] <- "\u2013"
  width <- max(cli::ansi_nchar(shown), 3)
  where <- ifelse(is.na(steps$line), "", at_line(story$codebook, steps$line))
  lines <- paste0(
    indent, cli::ansi_align(steps$step, 10), cli::ansi_align(shown, width), "  ", steps$words,
    ifelse(nzchar(where) & steps$step != "value", cli::col_grey(paste0("  [", where, "]")), "")
  )
  inputs <- unlist(lapply(
    story$inputs,
    function(input) c(
      paste0(
        indent, "from ", input$variable,
        if (!is.null(input$label)) paste0(" (", shorten(input$label, 60), ")")
      ),
      story_lines(input, paste0(indent, "  "))
    )
  ))
  sub(" +$", "", c(inputs, lines))
}
