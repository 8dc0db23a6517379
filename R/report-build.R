# The page that reports on a build: who is retained, what was done to the answers, and
# what needs review.

output_report <- list(
  file = "report.html",
  for_readers = TRUE,
  help = "who is retained, what was done to the answers, what needs review",
  write = function(study, path) write_page(build_page(tally_study(study)), path)
)

build_page <- function(study) {
  t <- htmltools::tags
  main <- list(
    t$header(
      t$h1(study$book$study$title),
      t$p(
        class = "lead",
        "Report of the build: who is retained, what was done to the answers, what needs review"
      )
    ),
    flow_section(study), subsets_section(study), done_section(study), skips_section(study),
    rules_section(study), made_section(study), scales_section(study), waves_section(study),
    findings_section(study), gaps_section(study),
    t$footer(
      "Made by Mavik ", as.character(utils::packageVersion("mavik")),
      ". Every intervention is a row of ", t$code("ledger.csv", .noWS = "after"),
      ", every finding one of ", t$code("findings.csv", .noWS = "after"), "."
    )
  )
  page_html(paste0(study$book$study$title, ": report"), NULL, main, study$book$language)
}

flow_section <- function(study) {
  t <- htmltools::tags
  counts <- disposition_counts(study)
  steps <- flow_steps(study)
  t$section(
    t$h2("From received to retained"),
    t$p(
      class = "about", grouped(sum(counts)), " records received, ", grouped(n_retained(study)),
      if (is.null(study$choice)) " retained in the analysis file." else paste0(
        " are in these outputs: ", choice_shown(study), "."
      )
    ),
    if (nrow(steps) > 2) draw_flow(steps),
    if (length(study$book$screens) > 0) screens_table(study)
  )
}

# Named conditions and how many respondents each holds for; nothing of private answers.
subsets_section <- function(study) {
  t <- htmltools::tags
  book <- study$book
  rows <- rows_retained(study)
  conditions <- lapply(
    with_names(names(book$subsets), names(book$subsets)),
    function(name) compile_expression(name, book, character(), function(path, message) NULL)
  )
  open <- Filter(
    function(condition) !is.null(condition) && !any(condition$uses %in% private_variables(book)),
    conditions
  )
  if (length(open) == 0) return(NULL)
  counts <- vapply(open, function(condition) {
    truth <- truth_of(condition, study)[rows]
    c(sum(truth, na.rm = TRUE), sum(!truth, na.rm = TRUE), sum(is.na(truth)))
  }, numeric(3))
  t$section(t$h2("Subsets"), page_table("Over the respondents that are retained", list(
    "Subset" = names(open), "Condition" = unlist(book$subsets[names(open)]),
    "In it" = grouped(counts[1, ]), "Not in it" = grouped(counts[2, ]),
    "Unknown" = grouped(counts[3, ])
  ), c("Subset" = "row", "Condition" = "code", numbers_of(c("In it", "Not in it", "Unknown")))))
}

screens_table <- function(study) {
  book <- study$book
  names <- names(book$screens)
  met <- lengths(study$screens[names])
  gone <- as.integer(study$erased[names])
  gone[is.na(gone)] <- 0L
  dropped <- with_names(counted_each(study$disposition, names) + gone, names)
  page_table("Screens in their order: the first that a record meets names the drop", list(
    "Screen" = names, "Condition" = vapply(
      book$screens, function(screen) screens()[[screen$kind]]$sentence(screen, book), ""
    ),
    "Records" = grouped(met + gone), "Dropped by it" = grouped(dropped),
    "What happens" = ifelse(
      vapply(book$screens, `[[`, TRUE, "report"), "marked only",
      ifelse(vapply(book$screens, `[[`, TRUE, "erase"), "dropped, and purged", "dropped")
    )
  ), c("Screen" = "row", "Records" = "number", "Dropped by it" = "number"))
}

# How many answers of each variable were touched, by kind.
done_section <- function(study) {
  t <- htmltools::tags
  entries <- Filter(function(entry) nzchar(entry$variable), study$ledger)
  if (length(entries) == 0) return(t$section(
    t$h2("What was done to the answers"),
    t$p(class = "about", "Nothing: every cell reads as it stands.")
  ))
  variable <- vapply(entries, `[[`, "", "variable")
  kind <- vapply(entries, `[[`, "", "kind")
  rows <- lengths(lapply(entries, `[[`, "rows"))
  names <- intersect(names(study$book$variables), variable)
  kinds <- intersect(names(ledger_kinds), kind)
  count <- tapply(rows, list(factor(variable, names), factor(kind, kinds)), sum, default = 0L)
  columns <- c(
    list("Variable" = c(names, "All")),
    lapply(
      with_names(kinds, kinds),
      function(kind) c(
        ifelse(count[, kind] > 0, grouped(count[, kind]), ""), grouped(sum(count[, kind]))
      )
    )
  )
  t$section(
    t$h2("What was done to the answers"),
    t$ul(class = "about", lapply(
      kinds, function(kind) t$li(t$code(kind), " ", ledger_kinds[[kind]]))),
    page_table(
      "Answers touched", columns,
      c("Variable" = "row", with_names(rep("number", length(kinds)), kinds)),
      class = c(rep("", length(names)), "total")
    )
  )
}

skips_section <- function(study) {
  t <- htmltools::tags
  if (length(study$skips) == 0) return(NULL)
  skips <- study$skips[intersect(names(study$book$variables), names(study$skips))]
  column <- function(name) grouped(vapply(skips, `[[`, 0, name))
  universe <- vapply(names(skips), function(name) universe_shown(study$book$variables[[name]]), "")
  t$section(
    t$h2("Were the skips kept?"),
    t$p(
      class = "about",
      paste0(
        "A question has a universe: the people who were asked. Answers from outside are set ",
        "aside; blanks inside are "
      ),
      t$em("no answer", .noWS = "after"), "."
    ),
    page_table("Over all records", list(
      "Variable" = names(skips), "Asked where" = universe,
      "Asked: answered" = column("asked_answered"), "Asked: blank" = column("asked_blank"),
      "Not asked: blank" = column("outside_blank"),
      "Not asked: answered" = column("outside_answered"),
      "Unknown: answered" = column("unsure_answered"), "Unknown: blank" = column("unsure_blank")
    ), c(
      "Variable" = "row", "Asked where" = "code",
      with_names(
        rep("number", 6),
        c(
          "Asked: answered", "Asked: blank", "Not asked: blank", "Not asked: answered",
          "Unknown: answered", "Unknown: blank"
        )
      )
    ))
  )
}

rules_section <- function(study) {
  t <- htmltools::tags
  checked <- study$checked
  if (length(checked) == 0) return(NULL)
  t$section(
    t$h2("Rules"),
    page_table("Over all records", list(
      "Rule" = names(checked), "What must hold" = vapply(
        study$book$rules[names(checked)],
        function(rule) rules()[[rule$kind]]$sentence(rule, study$book), ""
      ),
      "Records that break it" = grouped(vapply(checked, `[[`, 0L, "rows")),
      "Answers set aside" = ifelse(
        vapply(study$book$rules[names(checked)], function(rule) is.null(rule$aside), TRUE),
        "reported only", grouped(vapply(checked, `[[`, 0L, "cells"))
      )
    ), c("Rule" = "row", "Records that break it" = "number", "Answers set aside" = "number"))
  )
}

findings_section <- function(study, most = 300) {
  t <- htmltools::tags
  told <- findings(study)
  open <- open_findings(told)
  accepted <- told[nzchar(told$accepted), ]
  shown <- function(findings, caption, last) {
    if (nrow(findings) == 0) return(NULL)
    findings <- utils::head(findings, most)
    page_table(caption, c(list(
      "Level" = findings$level, "Kind" = findings$kind, "Variable" = findings$variable,
      "Written" = shorten(
        findings$written, 60
      ), "Count" = grouped(findings$count), "Respondents" = findings$examples
    ), last(findings)), c("Level" = "row", "Variable" = "code", "Count" = "number"))
  }
  t$section(
    t$h2("Findings"),
    if (nrow(open) == 0) t$p(class = "about", "No finding needs review."),
    shown(
      open, "Open, the worst first",
      function(findings) list("What it is, and what to do" = findings$message)
    ),
    if (nrow(open) > most) t$p(
      class = "about", "And ", grouped(nrow(open) - most), " more in ",
      t$code("findings.csv", .noWS = "after"), "."
    ),
    shown(
      accepted, "Accepted: looked at by a person",
      function(findings) list("Note" = findings$accepted)
    )
  )
}

# Gaps of the kept variables by reason.
gaps_section <- function(study) {
  t <- htmltools::tags
  names <- intersect(kept_variables(study$book), names(study$reasons))
  reasons <- study$book$reasons
  counts <- reason_counts(study, names)
  seen <- which(rowSums(counts) > 0)
  names <- names[colSums(counts) > 0]
  if (length(names) == 0) return(t$section(
    t$h2("Gaps"), t$p(class = "about", "The analysis file has none.")
  ))
  columns <- c(
    list(
      "Variable" = names,
      "Answered" = grouped(n_retained(study) - colSums(counts[, names, drop = FALSE]))
    ),
    lapply(
      with_names(seen, reasons$label[seen]),
      function(reason) ifelse(counts[reason, names] > 0, grouped(counts[reason, names]), "")
    )
  )
  t$section(
    t$h2("Gaps"),
    page_table(
      "Why cells of the analysis file are empty", columns,
      c("Variable" = "row", with_names(rep("number", length(columns) - 1), names(columns)[-1]))
    )
  )
}
