command_answers <- list(
  place = 10, summary = "Count answers: frequencies, statistics, cross tables",
  arguments = "VARIABLE...", most = 200,
  example = "mavik answers voice --by member --project choirs",
  options = function() list(
    project_option(),
    value_option("--by", "VARIABLES", "a table by the groups of these variables, region,member"),
    flag_option("--nested", "the groups of --by within each other"),
    value_option("--over", "VARIABLE", "followed over an ordered variable, the wave or a date"),
    value_option("--show", "STATISTICS", paste0("what stands in it: count,row_percent,",
      "column_percent,n,mean,sd,median,quartiles,min,max,differences")),
    value_option("--nets", "NETS", "codes counted together, 'Agree = 4, 5; Disagree = 1, 2'"),
    value_option(
      "--draw", "KIND", "its figure: bars, stacked, boxes, histogram, lines, means, none"
    ),
    value_option("--table", "NAME", "a table that the codebook declares"),
    value_option("--where", "CONDITION", "only the records for which it is true, 'years > 10'"),
    value_option("--weight", "VARIABLE",
      "weighted percents beside the unweighted n; `none` where the study has a weight"),
    flag_option("--as-number", "n, mean and sd of ordinal answers in place of their counts"),
    flag_option("--waves", "statistics of each wave, and lines over the waves"),
    flag_option("--rows", "the records themselves"),
    value_option("--from", "N", "with --rows and texts: from the Nth record or answer on"),
    flag_option("--labels", "with --rows: labels (the default)"),
    flag_option("--codes", "codes in place of labels"),
    value_option("--html", "FILE", "an HTML page with the tables and their figures"),
    value_option("--figure", "FILE", "the figure of the first table, .svg or .png"),
    language_option(),
    replace_option(),
    json_option()
  ),
  json = list(
    "answers VARIABLE" = c(
      title = "the title of the study",
      tables =
        "for each variable or block its table: kind, variable, label, n, answered, gaps, table",
      n = "how many respondents",
      no_weight = "how many are left out for want of a weight",
      pooled = "the waves that are counted together",
      where = "the condition, or null",
      by = "the grouping variable, or null",
      weight = "the weight, or null",
      language = "the language of the labels, or null"
    ),
    "answers VARIABLE --waves" = c(
      variable = "the variable",
      wave = "the wave",
      group = "the group, empty without `--by`",
      n = "how many records",
      answered = "how many have a value",
      statistic = "`mean`, `sd`, `share` or `gap`; `effective_base` under weights",
      code = "the code of a share",
      label = "its label, or that of the reason",
      value = "the value"
    )
  ),
  run = function(given) {
    if (length(given$args) == 0 && is.null(given$table)) stop_mavik(
      "usage_error", "`mavik answers` needs a variable or block; `mavik answers --help` shows how"
    )
    if (given$rows) {
      show_lines(rows_shown(answer_rows(given$project, given$args, given$where,
        if (given$codes) "codes" else "labels"), given$json, from_given(given$from)))
      return(0L)
    }
    for (file in c(given$html, given$figure)) check_may_write(file,
      raw_places(known_book(given$project)), given$replace)
    if (given$waves) return(waves_answered(given))
    counted <- if (!is.null(given$table)) declared_answers(given$project, given$table) else answers(
      given$project, given$args, words_of(given$by), given$where, given$weight,
      as_number = given$`as-number`, language = given$language, nested = given$nested,
      over = given$over, show = words_of(given$show), nets = nets_given(given$nets),
      draw = given$draw
    )
    if (!is.null(given$html)) write_text(answers_page(counted), given$html)
    if (!is.null(given$figure)) save_answers_figure(counted, given$figure)
    show_lines(if (given$json) json_of(
      unnamed_parts(counted, "tables"), answer_arrays
    ) else answers_shown(
      counted, given$codes, from_given(given$from)
    ))
    say_written(given)
  }
)

words_of <- function(text) if (!is.null(text)) strsplit(text, "[, ]+")[[1]]

# 'Agree = 4, 5; Disagree = 1, 2' as a list of codes by label.
nets_given <- function(text) {
  if (is.null(text)) return(list())
  parts <- strsplit(strsplit(text, ";", fixed = TRUE)[[1]], "=", fixed = TRUE)
  if (any(lengths(parts) != 2)) stop_mavik(
    "usage_error", "--nets takes labels with their codes, 'Agree = 4, 5; Disagree = 1, 2'"
  )
  with_names(
    lapply(parts, function(part) text_trim(strsplit(part[2], ",", fixed = TRUE)[[1]])),
    text_trim(vapply(parts, `[`, "", 1))
  )
}

waves_answered <- function(given) {
  if (length(words_of(given$by)) > 1) stop_mavik(
    "usage_error", "--waves goes with one group; `--over wave --by a,b` takes several"
  )
  if (!is.null(given$where)) stop_mavik(
    "usage_error", "--waves goes with --by and --weight, not with --where"
  )
  book <- known_book(given$project)
  if (length(book$waves) < 2) stop_mavik(
    "usage_error", "the codebook has one wave only: there are no lines over waves"
  )
  weight <- weight_meant(given$weight, book)
  study <- study_with(
    given$project,
    unique(c(
      unlist(lapply(given$args, function(name) asked_of(name, book)$names)), given$by, weight
    ))
  )
  statistics <- wave_statistics(study, given$args, given$by, weight)
  if (!is.null(given$html)) write_text(waves_page(
    study, given$args, statistics, weight
  ), given$html)
  if (!is.null(given$figure)) save_figure(plot_waves(statistics, study), given$figure)
  show_lines(if (given$json) json_of(statistics) else c(
    if (!is.null(weight)) cli::col_grey(paste0("weighted by ", weight)),
    waves_lines(statistics, study)
  ))
  say_written(given)
}

# A statistic a row, a wave a column.
waves_lines <- function(statistics, study) {
  waves <- names(study$book$waves)
  unlist(lapply(split(statistics, factor(statistics$variable, unique(statistics$variable))),
    function(own) {
    view <- waves_view(own, study)
    c(heading_shown(paste0(own$variable[1], ": ", study$book$variables[[own$variable[1]]]$label)),
      columns_shown(
        c(list(group = c("", view$group), what = c("", shorten(view$what, 42))), Map(
          function(label, cells) c(label, cells), view$waves, view$cells
        )), right = waves
      ),
      if (all(own$group == "")) cli::col_grey(paste0(
        "  answered: ", paste(waves, ifelse(view$n == "NA", "not asked", view$n), collapse = ", ")
      )), "")
  }), use.names = FALSE)
}

rows_shown <- function(table, json, from = 1L, size = 100L) {
  if (json) return(json_of(table))
  shown <- table[rows_from(nrow(table), from, size), , drop = FALSE]
  c(
    columns_shown(lapply(
      with_names(names(shown), names(shown)), function(name) c(name, shorten(shown[[name]], 40))
    )), more_line(nrow(table), from, size, "records")
  )
}

#' @export
print.mavik_answers <- function(x, ...) {
  keep_own_options()
  show_lines(answers_shown(x))
  invisible(x)
}

# What holds several in the JSON of answers.
answer_arrays <- c("pooled", "tables", "by_items", "codes", "groups.group", "groups.n", "test.df",
  "by", "tests", "groups.gaps.reason", "groups.gaps.label", "group_gaps.reason", "group_gaps.label",
  "gaps.reason", "gaps.label")

from_given <- function(text) {
  if (is.null(text)) return(1L)
  number <- text_to_number(text)
  if (!is_whole(number) || number < 1) stop_mavik(
    "usage_error", "--from takes a number from 1 up, not `", text, "`"
  )
  as.integer(number)
}

answers_shown <- function(counted, codes = FALSE, from = 1L) {
  counted <- visible(counted)
  said <- c(
    if (!is.null(counted$where)) paste0("where ", text_squeeze(counted$where)),
    if (!is.null(counted$weight)) paste0(
      "weighted by ", counted$weight, if (isTRUE(counted$no_weight > 0)) paste0(
        ", ", count_of(counted$no_weight, "respondent"), " without a weight left out"
      )
    )
  )
  c(if (length(counted$pooled) > 0) cli::col_yellow(pooled_words(counted$pooled)),
    if (length(said) > 0) cli::col_grey(paste0(count_of(counted$n, "respondent"), " ",
    paste(said, collapse = ", "))), unlist(lapply(
    counted$tables, answer_lines, codes = codes, from = from
  )))
}
