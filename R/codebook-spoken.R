# A book in another of its languages: the same codes, reasons and names under translated
# texts.

# Languages are written from right to left by these scripts.
right_to_left <- c("ar", "arc", "ckb", "dv", "fa", "he", "ku", "ps", "sd", "ug", "ur", "yi")

is_right_to_left <- function(language) sub("-.*", "", language) %in% right_to_left

language_tag <- "^[a-z]{2,3}(-[A-Za-z0-9]{2,8})*$"

compile_translations <- function(value, say) {
  if (is.null(value)) return(NULL)
  if (!is_map(value)) return(say(
    "translations", "must name a sheet for each language, `{fr: sheets/french.xlsx}`"
  ))
  sound <- vapply(names(value), function(language) {
    path <- c("translations", language)
    if (!grepl(language_tag, language)) say(path, paste0(
      "`", language, "` is not the tag of a language, like `fr`, `cy` or `pt-BR`"
    )) else if (!has_text(value[[language]])) say(path, "must be the sheet with the translations")
    else if (!grepl("[.](xlsx|csv)$", value[[language]], ignore.case = TRUE)) say(
      path, paste0("`", value[[language]], "` is neither .xlsx nor .csv")
    ) else return(TRUE)
    FALSE
  }, TRUE)
  value[sound]
}

check_languages <- function(book, say) {
  for (export in book$exports) {
    language <- export$language
    if (is.null(language) || language %in% names(book$translations)) next
    say(c("exports", export$entry, "language"), paste0(
      "`", language, "` is not under `translations`", if (length(book$translations) == 0)
        ": `translations: {" else did_you_mean(language, names(book$translations)),
      if (length(book$translations) == 0) paste0(language, ": sheets/", language, ".xlsx}`")
    ))
  }
}

stop_unknown_language <- function(language, book) {
  known <- names(book$translations)
  if (is_text(language) && language %in% known) return(invisible())
  stop_mavik("build_error", "`", language, "` is not a language of this codebook",
    if (length(known) > 0) paste0("; it has ", some_of(known)) else
      ": name its sheet, `translations: {fr: sheets/french.xlsx}`")
}

# The whole book in a language; NULL is its own.
book_in <- function(book, language) {
  if (is.null(language)) return(book)
  stop_unknown_language(language, book)
  say <- book$spoken[[language]]
  book$variables <- lapply(book$variables, variable_in, say = say, book = book)
  book <- shared_in(book, say)
  book$study$title <- said_as(say, c("study", "title"), book$study$title)
  book$study$row <- said_as(say, c("study", "row"), book$study$row)
  for (name in names(book$waves)) book$waves[[name]]$label <- said_as(
    say, c("waves", name, "label"), book$waves[[name]]$label
  )
  book$language <- language
  book
}

# What decoding looks up beside the variable: reasons and lists.
shared_in <- function(book, say) {
  for (k in seq_along(book$reasons$name)) {
    path <- c("missing", book$reasons$name[k])
    book$reasons$label[k] <- said_as(say, c(path, "label"), book$reasons$label[k])
    book$reasons$written[k] <- list(
      forms_in(say, c(path, "written"), book$reasons$written[[k]])
    )
  }
  for (name in names(book$lists)) {
    path <- c("code_lists", name)
    book$lists[[name]]$codes$label <- codes_in(say, c(path, "codes"), book$lists[[name]]$codes)
    book$lists[[name]]$missing <- missing_in(say, c(path, "missing"), book$lists[[name]]$missing)
  }
  book
}

# A variable with its labels, codes, options and written forms in a language. What names
# a value by its label names it by its new label.
variable_in <- function(variable, say, book) {
  if (is_absent(variable)) return(variable)
  old <- variable$codes
  variable$label <- said_as(say, where_in(variable, "label"), variable$label)
  variable$question <- said_as(say, where_in(variable, "question"), variable$question)
  variable$stem <- said_as(say, c("variables", variable$block, "stem"), variable$stem)
  variable$asked <- said_as(say, c("variables", variable$block, "stem"), variable$asked)
  variable$unit <- said_as(say, where_in(variable, "unit"), variable$unit)
  if (!is.null(old)) variable$codes$label <- code_labels_in(variable, say)
  variable$missing <- missing_in(say, where_in(variable, "missing"), variable$missing)
  variable <- options_in(variable, say)
  if (!is.null(variable$texts$label)) variable$texts$label <- vapply(
    variable$texts$label, said_as, "", say = say, path = character(), USE.NAMES = FALSE
  )
  place <- match(text_fold(names(variable$variants)), text_fold(old$label))
  if (!all(is.na(place))) names(variable$variants)[!is.na(place)] <- variable$codes$label[
    place[!is.na(place)]
  ]
  variable$delivered <- delivered_in(variable$delivered, old, variable$codes, book)
  if (length(variable$versions) > 0) variable$versions <- lapply(
    variable$versions, variable_in, say = say, book = book
  )
  variable
}

options_in <- function(variable, say) {
  if (is.null(variable$options)) return(variable)
  for (k in seq_along(variable$options$name)) variable$options$label[k] <- said_as(
    say, where_in(variable, "split", "options", variable$options$name[k]),
    variable$options$label[[k]]
  )
  other <- variable$settings$other
  if (is.list(other)) variable$settings$other$label <- said_as(
    say, where_in(variable, "split", "other"), other$label
  )
  variable
}

delivered_in <- function(delivered, old, new, book) {
  if (is.null(delivered)) return(NULL)
  place <- match(text_fold(delivered), text_fold(old$label))
  delivered[!is.na(place)] <- new$label[place[!is.na(place)]]
  reason <- match(text_fold(delivered), text_fold(book$reasons$label))
  delivered[!is.na(reason)] <- book$reasons$name[reason[!is.na(reason)]]
  delivered
}

code_labels_in <- function(variable, say) codes_in(
  say,
  if (is.null(variable$list)) where_in(variable, "codes") else
    c("code_lists", variable$list, "codes"),
  variable$codes
)

codes_in <- function(say, path, codes) vapply(seq_along(codes$code), function(k) said_as(
  say, c(path, number_to_text(codes$code[k])), codes$label[k]
), "")

missing_in <- function(say, path, missing) {
  for (reason in names(missing)) missing[[reason]] <- forms_in(
    say, c(path, reason), missing[[reason]]
  )
  missing
}

forms_in <- function(say, path, forms) {
  if (length(forms) == 0) return(forms)
  vapply(seq_along(forms), function(k) said_as(
    say, if (length(forms) == 1) path else c(path, number_to_text(k)), forms[k]
  ), "")
}

# The translation of a text: by its path, by the label at its path, else by the text
# itself where all that read so are translated alike.
said_as <- function(say, path, text) {
  if (!is_text(text)) return(text)
  ids <- c(
    path_id(path), path_id(c(path, "label")), path_id(c(path, "1")),
    path_id(c(path[-length(path)], "label"))
  )
  place <- match(ids, say$id)
  place <- place[!is.na(place)]
  place <- place[text_fold(say$text[place]) == text_fold(text)][1]
  if (is.na(place)) {
    same <- which(say$text == text)
    if (length(unique(say$translation[same])) == 1) place <- same[1]
  }
  if (is.na(place)) text else say$translation[place]
}
