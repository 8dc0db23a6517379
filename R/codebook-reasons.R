# Missing reasons in the order of their rank: of several the first wins. A
# reason's number inside Mavik is its place in this order.

compile_reasons <- function(value, say) {
  listed <- read_parts(value, "missing", reason_fields(), part_name, say)
  for (name in setdiff(names(listed), standing_reasons$name)) {
    for (key in c("code", "label")) {
      if (is.null(listed[[name]][[key]])) say(c("missing", name), paste0("`", key, "` is missing"))
    }
  }
  names <- c(names(listed), setdiff(standing_reasons$name, names(listed)))
  place <- match(names, standing_reasons$name)
  own <- function(key, standing, none) {
    vapply(seq_along(names), function(i) {
      said <- listed[[names[i]]][[key]]
      if (!is.null(said)) said else if (!is.na(place[i])) standing[place[i]] else none
    }, none)
  }
  reasons <- data.frame(
    name = names, code = own("code", standing_reasons$code, NA_integer_),
    label = own("label", standing_reasons$label, NA_character_), listed = names %in% names(listed)
  )
  reasons$written <- lapply(names, function(name) listed[[name]]$written)
  check_reasons(reasons, say)
  reasons
}

check_reasons <- function(reasons, say) {
  twice <- function(value, what) {
    for (i in which(!is.na(value) & duplicated(value))) {
      first <- reasons$name[match(value[i], value)]
      other <- reasons$name[i]
      k <- if (reasons$listed[i]) other else first
      say(
        c("missing", k),
        paste0(
          "`", first, "` and `", other, "` have one ", what, " (", value[i],
          "): give one of them another"
        )
      )
    }
  }
  twice(reasons$code, "code")
  twice(text_fold(reasons$label), "label")
  forms <- reason_forms(reasons, "labels")
  for (i in which(duplicated(forms$form))) {
    first <- forms$reason[match(forms$form[i], forms$form)]
    if (first != forms$reason[i]) {
      say(
        c("missing", reasons$name[forms$reason[i]]),
        paste0("`", forms$form[i], "` stands for `", reasons$name[first], "` too")
      )
    }
  }
}

# How the study's reasons are written in a file: folded form, reason and text, each a
# vector.
reason_forms <- function(reasons, cells) {
  listed <- which(reasons$listed)
  extra <- c(
    if (cells != "codes") reasons$label[listed],
    if (cells != "labels") number_to_text(reasons$code[listed])
  )
  of <- rep(listed, length.out = length(extra))
  keep <- !is.na(extra)
  written <- reasons$written
  text <- c(unlist(written), extra[keep])
  forms <- list(
    form = text_fold(text), reason = c(rep(seq_along(written), lengths(written)), of[keep]),
    text = as.character(text)
  )
  forms_at(forms, !duplicated(joined_id(forms$form, forms$reason)))
}

forms_at <- function(forms, keep) lapply(forms, `[`, keep)

join_forms <- function(...) Map(c, ...)

# Where cells are no coded answers, labels and codes of the listed reasons both count.
all_reason_forms <- function(book) {
  forms <- reason_forms(book$reasons, "either")
  forms_at(forms, !duplicated(forms$form))
}

check_own_missing <- function(missing, codes, reasons, path, say) {
  labels <- text_fold(codes$label)
  seen <- character()
  for (name in names(missing)) {
    if (!name %in% reasons$name) {
      say(
        c(path, name),
        paste0("`", name, "` is not a missing reason", did_you_mean(name, reasons$name))
      )
    }
    forms <- text_fold(missing[[name]])
    for (form in missing[[name]][forms %in% labels]) {
      say(c(path, name), paste0("`", form, "` is a label too: a cell cannot mean both"))
    }
    for (form in missing[[name]][forms %in% seen]) say(
      c(path, name), paste0("`", form, "` stands for two reasons")
    )
    seen <- c(seen, forms)
  }
}

check_reason_codes <- function(codes, range, reasons, path, say) {
  for (i in which(reasons$code %in% codes$code)) {
    say(
      path,
      paste0(
        "the code ", reasons$code[i], " is the missing code of `", reasons$name[i],
        "`: give that reason another code under `missing`"
      )
    )
  }
  for (i in which(!is.null(range) & !is.na(reasons$code) & !reasons$code %in% codes$code)) {
    if (reasons$code[i] >= range[1] && reasons$code[i] <= range[2]) {
      say(path, paste0("the missing code ", reasons$code[i], " of `", reasons$name[i],
        "` lies inside this range: give that reason another code under `missing`"))
    }
  }
}
