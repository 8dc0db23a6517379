# Screens that a file seems to ask for, as comments: they drop people, so a person decides.

screen_lines <- function(seen, plan) {
  lines <- c(
    trial_lines(seen, plan), consent_lines(seen, plan), trap_lines(seen, plan),
    leaver_lines(seen, plan)
  )
  if (length(lines) == 0) return(NULL)
  c("", "# Screens that the file seems to ask for: look at them, and take the # away.",
    "# screens:", paste0("#   ", lines))
}

trial_words <- "^(trial|test|testing|preview|pilot|practice|dummy|probe)$"

# A column that says which records are trials; paradata has to become a variable first.
trial_lines <- function(seen, plan) {
  unlist(lapply(names(seen$columns), function(name) {
    profile <- seen$columns[[name]]
    if (nrow(profile$cells) > 6) return(NULL)
    places <- which(grepl(trial_words, text_fold(profile$cells$text)))
    if (length(places) != 1) return(NULL)
    text <- profile$cells$text[places]
    known <- name %in% plan$used
    variable <- if (known) plan$names[[name]] else "record_kind"
    if (known && !profile$kind %in% c("choice", "scale")) return(NULL)
    labels <- profile$cells$text
    c(
      paste0("trial: {if: '", variable, " == \"", text, "\"'}   # ", count_of(
        profile$cells$count[places], "record"
      )),
      if (!known) paste0(
        "# needs the variable: record_kind: {column: ", yaml_word(name),
        ", level: nominal, codes: ",
        codes_text(list(codes = seq_along(labels), labels = labels)), ", kept: no}"
      )
    )
  }))
}

consent_words <- paste0(
  "consent|\\bagree to (take part|participate)|willing to (take part|participate)|may we use|",
  "einverst|accept(ez|e) de participer|acepta participar|toestemming"
)

consent_lines <- function(seen, plan) {
  unlist(lapply(plan$used, function(name) {
    profile <- seen$columns[[name]]
    if (!profile$kind %in% c("choice", "scale") || length(profile$scale) > 3) return(NULL)
    no <- which(text_fold(profile$cells$text) %in% c(
      "no", "nein", "non", "n\u00e3o", "nee", "i do not agree"
    ))
    if (length(no) != 1 || !grepl(consent_words, text_fold(paste(
      profile$name, profile$question
    )))) return(NULL)
    paste0("no_consent: {if: '", plan$names[[name]], " == \"", profile$cells$text[no],
      "\"'}   # ", count_of(profile$cells$count[no], "record"))
  }))[1]
}

# `Please choose ... here`: who answers otherwise did not read it.
trap_lines <- function(seen, plan) {
  unlist(lapply(plan$used, function(name) {
    profile <- seen$columns[[name]]
    if (!profile$kind %in% c("choice", "scale") || !is.null(profile$range)) return(NULL)
    said <- stringi::stri_match_first_regex(
      text_fold(paste(profile$question, profile$name)),
      paste0(
        "(?:please|to show|attention|bitte|veuillez).*?",
        "(?:choose|select|tick|click|mark|pick|answer|w\u00e4hlen|cochez) (.+)"
      )
    )[, 2]
    if (is.na(said)) return(NULL)
    meant <- profile$scale[vapply(text_fold(profile$scale), function(label) has_text(label) &&
      grepl(paste0("(^|[^[:alpha:]])", gsub("([^[:alnum:] ])", ".", label)), said), TRUE)]
    meant <- meant[which.max(nchar(meant))]
    if (length(meant) != 1 || weighted_share(
      text_fold(profile$cells$text) == text_fold(meant), profile$cells$count
    ) < 0.5) return(NULL)
    paste0("inattentive: {if: '", plan$names[[name]], " != \"", meant, "\"'}   # ", count_of(
      sum(profile$cells$count[text_fold(profile$cells$text) != text_fold(meant)]), "record"
    ))
  }))[1]
}

# Records that answered nothing after the opening questions.
leaver_lines <- function(seen, plan) {
  if (seen$blank_after_opening < 1 || length(plan$used) < 6) return(NULL)
  in_sets <- unlist(lapply(plan$sets, function(set) c(set$columns, set$words)))
  asked <- setdiff(plan$used, c(in_sets, plan$key))
  late <- utils::tail(asked, max(1, floor(0.6 * length(asked))))
  paste0(
    "opened_only: {unanswered: [", paste(utils::head(plan$names[late], 8), collapse = ", "),
    "]}   # ", count_of(seen$blank_after_opening, "record"),
    " answered nothing after the opening questions"
  )
}
