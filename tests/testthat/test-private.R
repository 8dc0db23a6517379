# What a person told stays where it may be: private answers out of everything that
# is kept or written, purged ones out of everything.

secrets_project <- function(consent = "No") {
  book <- c(
    "mavik: 1", "study: {title: P, complete: [s]}", "waves: {one: {label: One}}", "exports: {a: {file: raw/a.csv, key: id, response: no, ignored: [spare]}}",
    "lookups: {ros: {file: raw/r.csv, key: k}, mails: {file: raw/m.csv, key: address}}", "missing: {refused: {code: -2, label: Refused}}", "corrections: raw/c.csv", "variables:",
    "  id: {is: key, label: Id}", "  consent: {column: consent, label: C, level: nominal, codes: {1: 'Yes', 2: 'No'}}", "  mail: {column: mail, label: M, level: text, private: yes}",
    "  q: {column: q, label: Q, level: nominal, codes: {1: Red, 2: Blue}, other: {code: 9, text: q_text, sheet: raw/w.csv}}",
    "  s: {label: S, split: {column: s, options: {s_a: Aa, s_b: Bb}, other: {flag: s_o, text: s_t}}}",
    "  ps: {label: PS, private: yes, split: {column: s, options: {ps_a: Aa, ps_b: Bb}}}", "  pc: {column: q, label: PC, private: yes, level: nominal, codes: {1: Redd, 2: Blue}}",
    "  ch: {column: ch, label: Ch, level: identifier}", "  size: {lookup: {in: ros, by: ch, column: size}, label: Size, level: ratio}",
    "  at: {lookup: {in: mails, by: mail, column: size}, label: At, level: ratio, private: yes}",
    "  n: {column: n, label: N, level: ratio, private: yes, range: [0, 10]}", "  m: {column: m, label: N, level: ratio}", "  coded: {label: Coded, coded: {of: q_text, sheet: raw/k.csv, codes: {co_warm: Warm}}}",
    "rules: {add: {adds_up: {parts: [n, m], to: 10}}}", "screens: {gone: {if: 'consent == \"No\"', erase: yes}}"
  )
  answers <- paste0("id,no,consent,mail,q,s,ch,n,m,spare\nk1,r1,Yes,ann@hidden.example,Red,Aa;Bb,c1,3,4,z\nk2zap,r2zap,", consent,
    ",bob@zap.example,mauvezap,Aa;innzap,czap,5,777777,szap\nk3,r3,Yes,cy@hidden.example,Green,Bb;other,c1,99,1,z\nk4,r4,Yes,dd@hidden.example,Rdd,Aa,C1,7,1,z\n")
  project_with(book, list("a.csv" = answers, "r.csv" = "k,size\nc1,3\nczap,5\n", "m.csv" = "address,size\nANN@hidden.example,3\n", "w.csv" = "answer,code\nmauvezap,Red\n",
    "k.csv" = "wave,respondent,answer,code 1\none,k3,Green,Warm\none,k2zap,mauvezap,Warm\n",
    "c.csv" = "respondent,variable,was,now,note,who,date\nk3,mail,cy@hidden.example,new@hidden.example,told cy@hidden.example,ann,\n"))
}

# The texts that stand somewhere in bytes; kept objects are looked at unpacked.
found_in <- function(bytes, texts) texts[vapply(texts, function(text) length(grepRaw(text, bytes, fixed = TRUE)) > 0, TRUE)]
found_in_files <- function(folder, texts) {
  files <- list.files(folder, recursive = TRUE, all.files = TRUE, full.names = TRUE)
  unlist(lapply(files, function(file) found_in(if (grepl("[.]rds$", file)) serialize(readRDS(file), NULL) else bytes_of(file), texts)))
}
zapped <- c("k2zap", "r2zap", "bob@zap", "mauvezap", "innzap", "czap", "szap", "777777")

test_that("of a purged person nothing is left: in the study, the cache, the outputs, temporary folders", {
  project <- secrets_project("Yes")
  before <- list.files(tempdir())
  # While consent stands the cache holds what was told; a build that purges empties it.
  answers(project, c("q", "s", "m"))
  check_study(project)
  expect_gt(length(found_in_files(file.path(project, ".mavik"), zapped)), 3)
  withdrawn <- secrets_project()
  file.copy(file.path(withdrawn, "raw/a.csv"), file.path(project, "raw/a.csv"), overwrite = TRUE)
  study <- build_study(project)
  expect_equal(found_in(serialize(study, NULL), zapped), character())
  expect_length(found_in_files(file.path(project, ".mavik"), zapped), 0)
  out <- write_study(study)
  told <- c(capture.output(print(study), print(check_study(project)), print(answers(project, c("q", "s"))), print(why(project, "q", "k1"))), message_of(why(project, "q", "k2zap")))
  expect_length(found_in_files(out, zapped), 0)
  expect_length(found_in_files(file.path(project, ".mavik"), zapped), 0)
  expect_false(any(grepl("mauvezap|innzap|bob@zap|777777|czap", told)))
  expect_equal(setdiff(list.files(tempdir(), "cells"), before), character())
  # A variable that is renamed leaves no file behind.
  file <- file.path(project, "study.yml")
  writeLines(sub("  m: {", "  em: {", sub("[n, m]", "[n, em]", readLines(file), fixed = TRUE), fixed = TRUE), file)
  answers(project, "em")
  expect_false(file.exists(file.path(project, ".mavik/study/m.rds")))
  expect_true(file.exists(file.path(project, ".mavik/study/em.rds")))
})

test_that("private answers are in nothing that is kept, written or shown, and nobody needs them for the rest", {
  project <- secrets_project()
  hidden <- c("hidden.example", "told cy")
  study <- build_study(project)
  expect_false(any(c("mail", "ps", "pc", "n", "at") %in% names(study$data)))
  expect_equal(found_in(serialize(study, NULL), hidden), character())
  answers(project, "q")
  check_study(project)
  out <- write_study(study)
  expect_length(found_in_files(file.path(project, ".mavik"), hidden), 0)
  expect_length(found_in_files(out, hidden), 0)
  shown <- c(capture.output(print(check_study(project)), print(why(project, "mail")), print(why(project, "mail", "k3")), print(why(project, "ps", "k3")), print(study)), unlist(findings(study)), unlist(ledger(study)),
    unlist(command("check", project, "--json")), unlist(command("build", project)))
  expect_false(any(grepl(paste(hidden, collapse = "|"), shown)))
  # Neither the label that is nearly written nor the unread part of a private cell is told.
  expect_false(any(grepl("Redd", shown)))
  found <- findings(study)
  expect_setequal(found$written[found$variable %in% c("ps", "pc", "n", "mail") & nzchar(found$written)], "(private)")
  expect_false(any(grepl("off by", found$message)))
  expect_equal(unique(ledger(study)$note[ledger(study)$variable == "mail"]), "(private)")
  expect_match(message_of(answers(study, "q", weight = "n")), "private")
  for (name in c("mail", "n")) expect_match(message_of(find_records(study, paste0("is_missing(", name, ")"))), "private")
  # The gaps of a private variable are counted all the same.
  expect_equal(why(study, "n")$steps$count[why(study, "n")$steps$step == "answered"], 2L)
})

test_that("a private key names nobody, and records still hang together", {
  frames <- list(one = data.frame(id = c("secret1", "secret2"), q = 1:2), two = data.frame(id = c("secret2", "secret3"), q = 2:3))
  book <- list(mavik = 1, study = list(title = "K", design = "panel"), waves = list(one = list(label = "One"), two = list(label = "Two")),
    exports = list(one = list(wave = "one", key = "id"), two = list(wave = "two", key = "id")),
    variables = list(id = list(is = "key", label = "Id", private = "yes"), q = list(column = "q", label = "Q", level = "ratio")))
  study <- build_study(book, frames)
  expect_equal(found_in(serialize(study, NULL), "secret"), character())
  wide <- study_table(study, shape = "wide")
  expect_equal(wide$q_one, c(1, 2, NA))
  expect_equal(wide$q_two, c(NA, 2, 3))
  expect_match(capture.output(print(why(study, "q", "secret2", exports = frames)))[1], "(private)", fixed = TRUE)
  expect_match(message_of(why(study, "q", "secret2")), "give `one` and `two` again")
})

test_that("no private key is kept beside the codebook, whoever asks first, and its record is found all the same", {
  lines <- function(private) c(
    "mavik: 1", "study: {title: K}", "waves: {one: {label: One}}", "exports: {one: {wave: one, file: raw/one.csv, key: id}}", "variables:",
    paste0("  id: {is: key, label: Id, private: ", private, "}"), "  q: {column: q, label: Q, level: ratio}"
  )
  project <- project_with(lines("no"), list("one.csv" = "id,q\nsecret1,1\nsecret2,2\n"))
  kept <- file.path(project, ".mavik")
  expect_equal(command("check", project)$status, 0)
  expect_equal(command("answers", "q", "--project", project)$status, 0)
  expect_setequal(found_in_files(kept, c("secret1", "secret2")), c("secret1", "secret2"))
  # What was kept while it was not private goes with the next build.
  writeLines(sub("label: Q", "label: Q, private: yes", lines("no")), list.files(project, "[.]yml$", full.names = TRUE))
  expect_true("study" %in% list.files(kept))
  expect_equal(command("build", project)$status, 0)
  expect_equal(list.files(kept, "^(study|records.rds)$"), "records.rds")
  # What is kept of the codebook as it stands stays.
  expect_equal(command("answers", "id", "--project", project)$status, 0)
  expect_equal(command("build", project)$status, 0)
  expect_setequal(list.files(kept, "^(study|records.rds)$"), c("records.rds", "study"))
  unlink(file.path(project, "out"), recursive = TRUE)
  writeLines(lines("yes"), list.files(project, "[.]yml$", full.names = TRUE))
  calls <- list(why = c("why", "q", "secret2", "--project", project), check = c("check", project), answers = c("answers", "q", "--project", project))
  for (asked in c("why", "check", "why", "answers", "why")) {
    forget()
    said <- command(calls[[asked]])
    expect_equal(said$status, 0, info = paste(said$err, collapse = "\n"))
    if (asked == "why") expect_match(said$out, "raw/one.csv:3", all = FALSE)
    if (asked != "why") expect_equal(found_in_files(kept, c("secret1", "secret2")), character(), ignore_attr = TRUE)
  }
  expect_equal(command("build", project, "--parts", "2")$status, 0)
  # In the raw file alone.
  expect_equal(length(found_in_files(project, "secret2")), 1)
})
