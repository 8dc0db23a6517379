# A judge of the design: made-up small projects, and an evaluator that works them
# out one value at a time, by the rules of the language alone. It shares no code
# with the package and knows nothing of columns, indices or kernels.

# A text as comparisons see it.
plain <- function(text) {
  text <- enc2utf8(text)
  for (pair in list(c("\u2019", "'"), c("\u2212", "-"), c("\u00a0", " "))) text <- gsub(pair[1], pair[2], text, fixed = TRUE)
  tolower(trimws(gsub("[ \t\n]+", " ", text)))
}
as_number <- function(text) {
  text <- trimws(gsub("\u2212", "-", text, fixed = TRUE))
  if (grepl("^[+-]?([0-9]+([.][0-9]*)?|[.][0-9]+)([eE][+-]?[0-9]+)?$", text)) as.numeric(text) else NA_real_
}

# ---- making a project ----

pick <- function(x, n = 1) x[sample.int(length(x), min(n, length(x)))]
chance <- function(p) stats::runif(1) < p

judged_project <- function(seed) {
  set.seed(seed)
  cells <- pick(c("labels", "codes"))
  missing <- list(
    refused = list(code = -2, label = "Refused", written = pick(c("REF", "rather not", "99"), 2)),
    dont_know = list(code = -1, label = "Don't know", written = pick(c("?", "DK", "888"), 2))
  )[sample(2)]
  words <- c("Soprano", "Alto", "Tenor", "Bass", "Often", "At times", "Never", "Rarely")
  v <- list()
  for (k in 2:1) v[[paste0("c", k)]] <- coded_variable(paste0("C", k), words, cells, k == 1)
  for (k in 1:2) v[[paste0("n", k)]] <- number_variable(paste0("N", k))
  v$d1 <- list(kind = "date", column = "D1", range = if (chance(0.5)) c("2001-01-01", "2020-12-31"))
  v$s1 <- split_variable("S1", words)
  v$b1 <- tick_variable()
  items <- paste0("i", 1:3)
  for (item in items) v[[item]] <- list(kind = "coded", column = toupper(item), level = "ordinal", codes = 1:5, labels = c("No", "Hardly", "Half", "Mostly", "Yes"), range = NULL)
  answers <- names(v)
  for (name in setdiff(answers, "c2")) if (chance(0.3)) v[[name]]$universe <- made_condition(v, setdiff(answers[seq_len(match(name, answers) - 1)], c("d1", "s1", "b1")))
  v$w1 <- when_variable(v, c("c1", "c2", "n1", "n2", "i1"))
  v$r1 <- list(kind = "recode", of = "c2", to = split(v$c2$labels, (seq_along(v$c2$labels) - 1) %/% 2 + 1))
  v$k1 <- list(kind = "bands", of = "n1", starts = c(0, 10, 20))
  v$f1 <- list(kind = "formula", a = "n1", b = "n2", op = pick(c("+", "-", "*", "/")), range = if (chance(0.3)) c(-5, 50))
  v$m1 <- list(kind = "score", of = items, reversed = if (chance(0.6)) pick(items, sample(1:2, 1)), at_least = sample(1:3, 1), take = pick(c("mean", "sum")))
  if (v$m1$take == "sum") v$m1$at_least <- 3
  rules <- list()
  for (k in seq_len(sample(0:2, 1))) {
    read <- pick(c("c1", "c2", "n1", "n2", "i1", "i2"), 2)
    rules[[paste0("rule", k)]] <- list(must = made_condition(v, read), aside = if (chance(0.7)) pick(read))
  }
  screens <- list()
  if (chance(0.5)) screens$odd_ones <- list(kind = "if", condition = made_condition(v, c("c1", "n2")))
  if (chance(0.4)) screens$nothing_told <- list(kind = "unanswered", of = pick(answers, 3))
  if (chance(0.4)) screens$few_answers <- list(kind = "less", share = pick(c(0.3, 0.6)), of = pick(answers, 5))
  list(seed = seed, cells = cells, missing = missing, v = v, rules = rules, screens = screens, frame = made_frame(v, cells, missing, sample(8:20, 1)))
}

coded_variable <- function(column, words, cells, other) {
  n <- sample(2:5, 1)
  out <- list(kind = "coded", column = column, level = pick(c("nominal", "ordinal")), codes = sort(pick(1:9, n)), labels = pick(words, n))
  if (chance(0.4)) out$variants <- stats::setNames(list(pick(c("xx", "sop.", "oft"), 1)), out$labels[1])
  if (chance(0.3)) out$missing <- stats::setNames(list(pick(c("n/a", "77"), 1)), pick(c("refused", "dont_know")))
  if (other && chance(0.6)) out$other <- 12 else if (other && cells == "labels" && chance(0.4)) out$range <- c(1, 9)
  out
}
number_variable <- function(column) {
  out <- list(kind = "number", column = column, range = if (column == "N1" || chance(0.5)) c(0, 40))
  if (chance(0.4)) out$variants <- list("3" = "three")
  if (chance(0.3)) out$missing <- stats::setNames(list(pick(c("n/a", "7"), 1)), pick(c("refused", "dont_know")))
  out
}
split_variable <- function(column, words) {
  labels <- pick(c(words, "REF"), 3)
  list(kind = "split", column = column, options = stats::setNames(labels, paste0("s1_", 1:3)), exclusive = if (chance(0.4)) "s1_1",
    other = chance(0.4), blank = pick(c("no_answer", "none_ticked")))
}
tick_variable <- function() list(kind = "ticks", columns = c(b1_1 = "B1", b1_2 = "B2"), blank = pick(c("no_answer", "none_ticked")))
when_variable <- function(v, names) {
  branches <- lapply(seq_len(sample(1:2, 1)), function(k) list(condition = made_condition(v, names), to = pick(c("0", "1", "dont_know"))))
  list(kind = "when", branches = branches, otherwise = if (chance(0.5)) pick(c("0", "refused")))
}

# A condition as a tree: list(op, ...) over variables that have codes or numbers.
made_condition <- function(v, names, depth = 2) {
  op <- if (depth > 0) pick(c("&", "|", "!", "leaf", "leaf")) else "leaf"
  if (op %in% c("&", "|")) return(list(op = op, a = made_condition(v, names, depth - 1), b = made_condition(v, names, depth - 1)))
  if (op == "!") return(list(op = "!", a = made_condition(v, names, depth - 1)))
  name <- pick(names)
  one <- v[[name]]
  if (chance(0.25)) return(list(op = "missing", name = name, reason = if (chance(0.5)) pick(c("refused", "no_answer", "dont_know"))))
  if (one$kind == "coded") {
    if (chance(0.4)) return(list(op = "in", name = name, values = sort(pick(one$codes, 2)), labels = one$labels[match(sort(pick(one$codes, 2)), one$codes)], set = NULL))
    at <- sample.int(length(one$codes), 1)
    return(list(op = pick(c("==", "!=")), name = name, value = one$codes[at], shown = dQuote(one$labels[at], FALSE)))
  }
  value <- pick(c(0, 5, 10, 20, 38))
  list(op = pick(c("<", ">=", "==", ">")), name = name, value = value, shown = value)
}
condition_text <- function(tree, v) {
  switch(tree$op,
    "&" = , "|" = paste0("(", condition_text(tree$a, v), " ", tree$op, " ", condition_text(tree$b, v), ")"),
    "!" = paste0("!(", condition_text(tree$a, v), ")"),
    missing = paste0("is_missing(", tree$name, if (!is.null(tree$reason)) paste0(", \"", tree$reason, "\""), ")"),
    "in" = paste0(tree$name, " %in% c(", paste0("\"", v[[tree$name]]$labels[match(tree$values, v[[tree$name]]$codes)], "\"", collapse = ", "), ")"),
    paste(tree$name, tree$op, tree$shown))
}
condition_uses <- function(tree) unique(c(tree$name, if (!is.null(tree$a)) condition_uses(tree$a), if (!is.null(tree$b)) condition_uses(tree$b)))

made_frame <- function(v, cells, missing, n) {
  nasty <- c("", "", " ", "REF", "rather not", "99", "?", "DK", "888", "Refused", "DON\u2019T KNOW", "-2", "-1", "n/a", "77", "7", "xx", "sop.", "three", "odd text", "42", "3.0", "2", "1.5", "\u22121", "1e1", "None")
  draw <- function(good) vapply(seq_len(n), function(i) if (chance(0.65)) pick(good) else pick(nasty), "")
  frame <- data.frame(id = sprintf("r%02d", seq_len(n)))
  for (one in v[vapply(v, function(one) one$kind %in% c("coded", "number", "date", "split", "ticks"), TRUE)]) {
    if (one$kind == "ticks") for (column in one$columns) frame[[column]] <- draw(c("1", "0", "x", "", "yes", "No"))
    else frame[[one$column]] <- draw(switch(one$kind,
      coded = if (cells == "labels") c(one$labels, toupper(one$labels[1]), paste0(" ", one$labels[2], "\u00a0")) else as.character(one$codes),
      number = c("0", "5", "10", "12.5", "38", "40", "41", "-3", "999"), date = c("2001-01-01", "2010-05-05", "1999-12-31", "2010-02-30", "2022-03"),
      split = c(one$options, paste(one$options[1:2], collapse = ";"), paste(one$options[3:2], collapse = "; "), paste0(one$options[2], ";"), paste0(one$options[3], "; something new"), toupper(one$options[2]))))
  }
  frame
}

judged_codebook <- function(p) {
  common <- function(one, ...) Filter(Negate(is.null), list(..., label = "L", universe = if (!is.null(one$universe)) condition_text(one$universe, p$v)))
  entry <- function(one) switch(one$kind,
    coded = common(one, column = one$column, level = one$level, codes = stats::setNames(as.list(one$labels), one$codes), variants = one$variants, missing = one$missing, range = one$range,
      other = if (!is.null(one$other)) list(code = one$other, text = paste0(tolower(one$column), "_text"))),
    number = common(one, column = one$column, level = "ratio", range = one$range, variants = one$variants, missing = one$missing),
    date = common(one, column = one$column, level = "date", range = one$range),
    split = common(one, split = Filter(Negate(is.null), list(column = one$column, options = as.list(one$options), exclusive = one$exclusive, blank = one$blank, other = if (one$other) list(flag = "s1_o", text = "s1_text")))),
    ticks = common(one, split = list(columns = as.list(one$columns), blank = one$blank)),
    when = common(one, when = c(lapply(one$branches, function(b) list("if" = condition_text(b$condition, p$v), is = b$to)), if (!is.null(one$otherwise)) list(list("else" = one$otherwise))), codes = c("0" = "Zero", "1" = "One")),
    recode = common(one, recode = list(of = one$of, to = one$to), codes = stats::setNames(as.list(paste("New", names(one$to))), names(one$to))),
    bands = common(one, bands = list(of = one$of, starts = list("1" = 0, "2" = 10, "3" = 20)), codes = c("1" = "few", "2" = "some", "3" = "many")),
    formula = common(one, formula = paste(one$a, one$op, one$b), range = one$range),
    score = common(one, score = Filter(Negate(is.null), list(of = one$of, reversed = one$reversed, take = one$take, at_least = one$at_least))))
  Filter(length, list(mavik = 1, study = list(title = "Judged"), waves = list(one = list(label = "One")), exports = list(main = list(key = "id", cells = p$cells)), missing = p$missing,
    variables = c(list(id = list(is = "key", label = "Id")), lapply(p$v, entry)),
    rules = lapply(p$rules, function(rule) Filter(Negate(is.null), list(must = condition_text(rule$must, p$v), sets_aside = if (!is.null(rule$aside)) list(rule$aside)))),
    screens = lapply(p$screens, function(screen) switch(screen$kind, "if" = list("if" = condition_text(screen$condition, p$v)), unanswered = list(unanswered = as.list(screen$of)),
      less = list(answered_less_than = screen$share, of = as.list(screen$of))))))
}

# ---- working it out, one value at a time ----

value <- function(x) list(value = x, reason = "")
gap <- function(reason) list(value = NA, reason = reason)

judge <- function(p) {
  rank <- c(names(p$missing), setdiff(c("no_answer", "not_asked", "not_in_wave", "not_found", "set_aside", "too_few", "not_computable"), names(p$missing)))
  rows <- lapply(seq_len(nrow(p$frame)), function(i) judge_record(p, as.list(p$frame[i, ]), rank))
  list(cells = lapply(rows, `[[`, "cells"), ledger = do.call(rbind, lapply(seq_along(rows), function(i) if (nrow(rows[[i]]$ledger) > 0) data.frame(row = i, rows[[i]]$ledger))),
    standing = vapply(rows, `[[`, "", "standing"))
}

judge_record <- function(p, raw, rank) {
  ledger <- data.frame(variable = character(), kind = character())
  note <- function(variable, kind) ledger[nrow(ledger) + 1, ] <<- list(variable, kind)
  first <- function(gaps) { gaps <- gaps[nzchar(gaps)]; if (length(gaps) == 0) "" else gaps[which.min(match(gaps, rank))] }
  decoded <- routed <- settled <- outside <- words <- list()
  truth <- function(tree, of) {
    switch(tree$op, "&" = truth(tree$a, of) & truth(tree$b, of), "|" = truth(tree$a, of) | truth(tree$b, of), "!" = !truth(tree$a, of),
      missing = { r <- of(tree$name)$reason; if (is.null(tree$reason)) nzchar(r) else r == tree$reason },
      "in" = { x <- of(tree$name)$value; if (is.na(x)) NA else x %in% tree$values },
      get(tree$op)(as.numeric(of(tree$name)$value), tree$value))
  }
  answers <- names(p$v)[vapply(p$v, function(one) one$kind %in% c("coded", "number", "date", "split", "ticks"), TRUE)]
  for (name in answers) {
    got <- judge_cell(p, name, raw, note)
    words[[name]] <- got$words
    decoded[[name]] <- got[c("value", "reason")]
  }
  route <- function(name) {
    one <- p$v[[name]]
    here <- decoded[[name]]
    if (one$kind == "split" && !is.null(one$exclusive) && !is.na(list(here$value)[[1]][1]) && one$exclusive %in% here$value && length(here$value) + nzchar(words[[name]]) > 1) { note(name, "exclusive"); here <- gap("set_aside") }
    if (one$kind %in% c("number", "date") && !is.null(one$range) && !is.na(here$value)) {
      bounds <- if (one$kind == "date") as.numeric(as.Date(one$range)) else one$range
      if (here$value < bounds[1] || here$value > bounds[2]) { note(name, "range"); here <- gap("set_aside") }
    }
    outside[[name]] <<- FALSE
    if (is.null(one$universe)) return(here)
    asked <- truth(one$universe, settle)
    has <- !nzchar(here$reason)
    if (is.na(asked)) {
      if (here$reason != "no_answer") return(here)
      why <- first(vapply(condition_uses(one$universe), function(use) settle(use)$reason, ""))
      return(gap(if (nzchar(why)) why else "not_computable"))
    }
    if (asked) return(here)
    outside[[name]] <<- TRUE
    if (here$reason == "no_answer") return(gap("not_asked"))
    if (here$reason == "set_aside") return(here)
    note(name, "universe")
    gap("set_aside")
  }
  routed_of <- function(name) {
    if (is.null(routed[[name]])) routed[[name]] <<- route(name)
    routed[[name]]
  }
  settle <- function(name) {
    if (!is.null(settled[[name]])) return(settled[[name]])
    here <- if (name %in% answers) routed_of(name) else make(name)
    for (rule in p$rules) if (!is.null(rule$aside) && rule$aside == name && !nzchar(here$reason)) {
      of <- function(other) if (other == name) routed_of(name) else settle(other)
      if (isFALSE(truth(rule$must, of))) { note(name, "rule"); here <- gap("set_aside") }
    }
    settled[[name]] <<- here
    here
  }
  make <- function(name) {
    one <- p$v[[name]]
    if (one$kind == "when") {
      unknown <- FALSE
      for (branch in one$branches) {
        t <- truth(branch$condition, settle)
        if (isTRUE(t)) return(if (branch$to %in% c("0", "1")) value(as.integer(branch$to)) else gap(branch$to))
        unknown <- unknown || is.na(t)
      }
      if (!unknown && !is.null(one$otherwise)) return(if (one$otherwise %in% c("0", "1")) value(as.integer(one$otherwise)) else gap(one$otherwise))
      why <- if (unknown) first(unlist(lapply(one$branches, function(b) vapply(condition_uses(b$condition), function(use) settle(use)$reason, "")))) else ""
      return(gap(if (nzchar(why)) why else "not_computable"))
    }
    if (one$kind == "recode") {
      x <- settle(one$of)
      if (nzchar(x$reason)) return(x)
      label <- p$v[[one$of]]$labels[match(x$value, p$v[[one$of]]$codes)]
      return(value(as.integer(names(one$to)[vapply(one$to, function(to) label %in% to, TRUE)])))
    }
    if (one$kind == "bands") { x <- settle(one$of); return(if (nzchar(x$reason)) x else value(max(which(x$value >= one$starts)))) }
    if (one$kind == "formula") {
      a <- settle(one$a)
      b <- settle(one$b)
      why <- first(c(a$reason, b$reason))
      if (nzchar(why)) return(gap(why))
      x <- get(one$op)(a$value, b$value)
      if (!is.finite(x)) return(gap("not_computable"))
      if (!is.null(one$range) && (x < one$range[1] || x > one$range[2])) { note(name, "range"); return(gap("set_aside")) }
      return(value(x))
    }
    items <- lapply(one$of, settle)
    has <- !vapply(items, function(item) nzchar(item$reason), TRUE)
    if (sum(has) >= one$at_least) {
      x <- vapply(which(has), function(k) if (one$of[k] %in% one$reversed) 6 - items[[k]]$value else as.numeric(items[[k]]$value), 0)
      return(value(if (one$take == "mean") mean(x) else sum(x)))
    }
    why <- vapply(items, `[[`, "", "reason")
    if (all(why %in% c("not_asked", "not_in_wave"))) gap(first(why)) else gap("too_few")
  }
  cells <- list()
  for (name in names(p$v)) {
    end <- settle(name)
    one <- p$v[[name]]
    if (one$kind %in% c("split", "ticks")) for (option in names(if (one$kind == "split") one$options else one$columns)) {
      own <- if (one$kind == "ticks" && !nzchar(end$reason)) end$value[[option]]
      cells[[option]] <- if (nzchar(end$reason)) end else if (!is.null(own)) own else value(as.integer(option %in% end$value))
    } else cells[[name]] <- end
    # The words of a write-in go where the choice goes, each step with a row of its own.
    if (one$kind == "coded" && !is.null(one$other)) {
      cells$c1_text <- if (identical(end$value, one$other)) value(words[[name]]) else if (nzchar(end$reason)) end else gap("not_asked")
      if (nzchar(words[[name]])) for (kind in intersect(c("universe", "rule"), ledger$kind[ledger$variable == name])) note("c1_text", kind)
    }
    if (one$kind == "split" && one$other) {
      cells$s1_o <- if (nzchar(end$reason)) end else value(as.integer(nzchar(words[[name]])))
      cells$s1_text <- if (nzchar(end$reason)) end else if (nzchar(words[[name]])) value(words[[name]]) else gap("not_asked")
    }
  }
  asked <- function(name) !outside[[name]] && !decoded[[name]]$reason %in% c("not_asked", "not_in_wave", "not_found") && !settled[[name]]$reason %in% c("not_asked", "not_in_wave", "not_found")
  told <- function(name) asked(name) && !decoded[[name]]$reason %in% c("no_answer", "not_asked", "not_in_wave", "not_found")
  standing <- ""
  for (name in names(p$screens)) {
    screen <- p$screens[[name]]
    n_asked <- sum(vapply(screen$of, asked, TRUE))
    n_told <- sum(vapply(screen$of, told, TRUE))
    met <- switch(screen$kind, "if" = isTRUE(truth(screen$condition, settle)), unanswered = n_asked > 0 && n_told == 0, less = n_asked > 0 && n_told < screen$share * n_asked - 1e-9)
    if (met && !nzchar(standing)) standing <- name
  }
  list(cells = cells, ledger = ledger, standing = standing)
}

# One cell, or one set of boxes, in the order of the language.
judge_cell <- function(p, name, raw, note) {
  one <- p$v[[name]]
  if (one$kind == "ticks") return(judge_boxes(p, name, raw, note))
  text <- raw[[one$column]]
  folded <- plain(text)
  number <- as_number(text)
  done <- function(x, words = "") c(x, list(words = words))
  if (!nzchar(folded)) return(done(if (one$kind == "split" && one$blank == "none_ticked") value(character()) else gap("no_answer")))
  meant <- function(forms) for (reason in names(forms)) for (form in as.character(unlist(forms[[reason]]))) if (plain(form) == folded || isTRUE(as_number(form) == number)) return(reason)
  own <- meant(one$missing)
  if (!is.null(own)) return(done(gap(own)))
  study_forms <- function(which) stats::setNames(lapply(p$missing, function(m) c(m$written, if ("labels" %in% which) m$label, if ("codes" %in% which) m$code)), names(p$missing))
  study <- meant(study_forms(if (one$kind == "date") c("labels", "codes") else p$cells))
  lost <- function() { note(name, "unlisted"); done(gap("set_aside")) }
  if (one$kind == "date") {
    day <- if (grepl("^[0-9]{4}-[0-9]{2}-[0-9]{2}$", trimws(text))) tryCatch(as.numeric(as.Date(trimws(text))), error = function(e) NA) else NA
    if (!is.na(day)) return(done(value(day)))
    short <- if (grepl("^[0-9]{4}-[0-9]{2}$", trimws(text))) paste0(trimws(text), "-01") else if (grepl("^[0-9]{4}$", trimws(text))) paste0(trimws(text), "-01-01")
    if (!is.null(short) && !is.na(as.Date(short, optional = TRUE))) { note(name, "variant"); return(done(value(as.numeric(as.Date(short))))) }
    return(if (is.null(study)) lost() else done(gap(study)))
  }
  variant <- NULL
  for (target in names(one$variants)) if (plain(one$variants[[target]]) == folded) variant <- target
  if (one$kind == "number") {
    rescued <- !is.null(study) && !is.null(one$range) && !is.na(number) && (number < one$range[1] || number > one$range[2])
    if (!is.na(number) && !rescued) return(done(value(number)))
    if (!is.null(variant)) { note(name, "variant"); return(done(value(as.numeric(variant)))) }
    return(if (is.null(study)) lost() else done(gap(study)))
  }
  if (one$kind == "split") return(judge_set(p, name, text, study, note))
  codes <- c(one$codes, one$other)
  labels <- c(one$labels, if (!is.null(one$other)) "Other")
  at <- if (p$cells == "labels") match(folded, plain(labels)) else match(number, codes)
  if (!is.na(at)) return(done(value(codes[at])))
  if (!is.null(one$range) && !is.na(number) && number == round(number) && ((number >= one$range[1] && number <= one$range[2]) || number %in% codes)) return(done(value(number)))
  if (!is.null(variant)) { note(name, "variant"); return(done(value(codes[match(variant, labels)]))) }
  if (!is.null(study)) return(done(gap(study)))
  if (!is.null(one$other) && !(!is.na(number) && number == round(number))) { note(name, "write_in"); return(done(value(one$other), trimws(gsub("\u00a0", " ", text)))) }
  lost()
}

judge_set <- function(p, name, text, study, note) {
  one <- p$v[[name]]
  parts <- strsplit(text, ";", fixed = TRUE)[[1]]
  parts <- parts[nzchar(trimws(parts))]
  at <- match(plain(parts), plain(one$options))
  if (!is.null(study) && !(length(parts) == 1 && !is.na(at))) return(c(gap(study), list(words = "")))
  words <- paste(trimws(gsub("\u00a0", " ", parts[is.na(at)])), collapse = "; ")
  ticks <- unique(names(one$options)[at[!is.na(at)]])
  if (!nzchar(words)) return(c(value(ticks), list(words = "")))
  note(name, if (one$other) "write_in" else "unlisted")
  if (one$other) c(list(value = ticks, reason = ""), list(words = words)) else c(gap("set_aside"), list(words = ""))
}

judge_boxes <- function(p, name, raw, note) {
  one <- p$v[[name]]
  box <- lapply(names(one$columns), function(option) {
    text <- raw[[one$columns[[option]]]]
    folded <- plain(text)
    if (!nzchar(folded)) return("blank")
    if (folded %in% c("1", "yes", "x")) return(value(1L))
    if (folded %in% c("0", "no")) return(value(0L))
    for (reason in names(p$missing)) for (form in as.character(unlist(p$missing[[reason]]))) if (plain(form) == folded || isTRUE(as_number(form) == as_number(text))) return(gap(reason))
    note(name, "unlisted")
    gap("set_aside")
  })
  names(box) <- names(one$columns)
  marked <- any(vapply(box, function(b) is.list(b) && (!is.na(b$value) || b$reason == "set_aside"), TRUE))
  if (marked) return(list(value = lapply(box, function(b) if (is.list(b)) b else value(0L)), reason = "", words = ""))
  gaps <- unlist(lapply(box, function(b) if (is.list(b)) b$reason))
  rank <- names(p$missing)
  if (length(gaps) > 0) return(c(gap(gaps[which.min(match(gaps, rank))]), list(words = "")))
  if (one$blank == "none_ticked") list(value = lapply(box, function(b) value(0L)), reason = "", words = "") else c(gap("no_answer"), list(words = ""))
}

# ---- the two side by side ----

# "" where both say the same of every cell, ledger row and record; NA where the
# codebook cannot be built (a circle, a branch never reached).
differs <- function(seed, build = build_study) {
  p <- judged_project(seed)
  study <- tryCatch(build(judged_codebook(p), list(main = p$frame)), mavik_codebook_error = function(e) e)
  if (inherits(study, "error")) {
    if (all(grepl("circle|never be reached|variant of|missing form|is a label|is a code of|lies inside this range|stands for two|is none of|is the code|occurs twice", study$lines))) return(NA_character_)
    return(paste("refused:", conditionMessage(study)))
  }
  told <- judge(p)
  for (name in names(told$cells[[1]])) for (row in seq_len(nrow(p$frame))) {
    mine <- told$cells[[row]][[name]]
    x <- study$data[[name]][row]
    if (inherits(x, "Date")) x <- as.numeric(x)
    reason <- as.character(study$reasons[[name]][row])
    reason <- if (length(reason) == 0 || is.na(reason)) "" else reason
    same <- reason == mine$reason && (nzchar(reason) || (if (is.character(x)) identical(x, as.character(mine$value)) else isTRUE(abs(as.numeric(x) - as.numeric(mine$value)) < 1e-9)))
    if (!same) return(paste0(name, ", row ", row, ": built ", x, " ", reason, ", worked out ", paste(mine$value, collapse = ","), " ", mine$reason))
  }
  standing <- ifelse(study$disposition == "retained", "", study$disposition)
  if (!identical(as.character(standing), told$standing)) return(paste("standing of rows", paste(which(standing != told$standing), collapse = " ")))
  mine <- if (is.null(told$ledger)) character() else paste(told$ledger$row, told$ledger$variable, told$ledger$kind)
  built <- ledger(study)
  built <- built[built$kind != "dropped" & built$variable != "s1_text", ]
  built <- paste(match(built$respondent, p$frame$id), built$variable, built$kind)
  odd <- c(setdiff(built, mine), setdiff(mine, built))
  if (length(odd) > 0 || length(built) != length(mine)) paste("ledger:", paste(utils::head(odd, 3), collapse = "; ")) else ""
}
