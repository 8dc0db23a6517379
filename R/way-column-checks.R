# What can be wrong about an answer read from a column.

check_other <- function(variable, say) {
  other <- variable$other
  if (variable$storage != "coded" || is.null(variable$codes)) return(say(
    where_in(variable, "other"), "has a meaning for variables with codes only"
  ))
  place <- match(other$code, variable$codes$code)
  if (!is.na(place) && text_fold(variable$codes$label[place]) != text_fold(other$label)) say(
    where_in(variable, "other", "code"),
    paste0(
      "the code ", other$code, " is that of `", variable$codes$label[place],
      "`: give the write-in another, or that label"
    )
  )
  twice <- which(
    text_fold(variable$codes$label) == text_fold(other$label) & variable$codes$code != other$code
  )
  if (length(twice) > 0) say(
    where_in(variable, "other", "label"),
    paste0("`", other$label, "` is the label of ", variable$codes$code[twice], " too")
  )
}

check_level <- function(variable, say) {
  level <- variable$level
  if (!is.null(attr(variable$range, "texts"))) {
    say(
      where_in(variable, "range"),
      if (is_date(variable)) paste0(
        "the bounds of level ", level, " are ISO 8601 dates, `[2026-03-02, up]`"
      ) else paste0("the bounds of level ", level, " are numbers")
    )
  }
  if (is_date(variable)) {
    for (key in intersect(c("codes", "delivered"), variable$said)) say(
      where_in(variable, key), paste0("`", key, "` has no meaning for level ", level)
    )
  }
  if (variable$storage == "text") {
    for (key in intersect(c("codes", "range", "variants", "missing", "delivered"), variable$said)) {
      say(
        where_in(variable, key),
        paste0("`", key, "` has no meaning for level ", level, ": its cells are kept as they are")
      )
    }
  } else if (variable$storage == "coded" && is.null(variable$codes) && is.null(variable$range)) {
    if (!"codes" %in% variable$said && !"range" %in% variable$said) {
      say(
        variable$path,
        paste0(
          "`codes` is missing: level ", level,
          " needs its codes with labels, or a `range` of whole numbers"
        )
      )
    }
  }
}

# Every written form means one thing.
check_forms <- function(variable, book, say) {
  labels <- text_fold(variable$codes$label)
  own <- text_fold(unlist(variable$missing))
  meaning <- character()
  for (target in names(variable$variants)) {
    path <- where_in(variable, "variants", target)
    value <- variant_value(variable, target)
    if (is.na(value)) {
      say(path,
        if (is_date(variable)) paste0(
          "`", target, "` is not an ISO 8601 date: name the value that is meant"
        ) else
        if (variable$storage == "number") paste0(
          "`", target, "` is not a number: name the value that is meant"
        ) else
        paste0(
          "`", target, "` is not one of its labels", did_you_mean(target, variable$codes$label)
        ))
      next
    }
    for (form in variable$variants[[target]]) {
      folded <- text_fold(form)
      label <- match(folded, labels)
      if (!is.na(label) && variable$codes$code[label] != value) say(
        path, paste0("`", form, "` is the label of ", variable$codes$code[label])
      )
      if (folded %in% own) say(path, paste0("`", form, "` is a missing form of this variable too"))
      if (folded %in% names(meaning) && meaning[[folded]] != value) say(
        path, paste0("`", form, "` is a variant of two values: ", meaning[[folded]], " and ", value)
      )
      meaning[[folded]] <- value
    }
  }
  numbers <- text_to_number(unlist(variable$missing))
  if (any(cells_of(variable, book) != "labels") && is.null(variable$delivered)) {
    for (code in intersect(numbers, variable$codes$code)) {
      say(
        where_in(variable, "missing"),
        paste0("`", code, "` is a code of this variable too: a cell cannot mean both")
      )
    }
  }
}

cells_of <- function(variable, book) {
  if (!is.null(variable$cells)) return(variable$cells)
  exports <- if (is.null(variable$exports)) book$exports else book$exports[variable$exports]
  vapply(exports, `[[`, "", "cells")
}

check_label_numbers <- function(variable, book, say) {
  held <- cells_of(variable, book)
  said <- !is.null(variable$cells) || all(vapply(book$exports, `[[`, TRUE, "cells_said"))
  if (said && !any(held == "either")) return()
  numbers <- text_to_number(variable$codes$label)
  for (i in which(numbers %in% variable$codes$code & numbers != variable$codes$code)) {
    say(where_in(variable, "codes"),
      paste0("the label `", variable$codes$label[i], "` of ", variable$codes$code[i],
      " is another code's number: say `cells: labels` or `cells: codes`, whichever the file holds"))
  }
}

check_delivered <- function(variable, book, say) {
  if (is.null(variable$delivered)) return()
  if (!any(cells_of(variable, book) == "codes")) {
    say(
      where_in(variable, "delivered"),
      paste0(
        "says what codes stand for, but the file holds labels: say `cells: codes`, or list other ",
        "forms under `variants`"
      )
    )
  }
  if (variable$storage != "coded") return(say(
    where_in(variable, "delivered"), "has a meaning for variables with codes only"
  ))
  known <- c(variable$codes$label, book$reasons$name, book$reasons$label)
  for (code in names(variable$delivered)) {
    meant <- variable$delivered[[code]]
    if (!text_fold(meant) %in% text_fold(known)) {
      say(
        where_in(variable, "delivered", code),
        paste0(
          "`", meant, "` is neither a label of this variable nor a missing reason",
          did_you_mean(meant, known)
        )
      )
    }
  }
}
