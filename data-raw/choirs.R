# Makes the demo's raw export, with the faults that real ones have. Run from the
# package's folder: Rscript data-raw/choirs.R

set.seed(20260302, kind = "Mersenne-Twister", normal.kind = "Inversion", sample.kind = "Rejection")
n <- 240

pick <- function(x, prob = NULL, size = n) sample(x, size, replace = TRUE, prob = prob)
blank <- function(x, share) replace(x, stats::runif(length(x)) < share, "")
at_random <- function(x, count, text) {
  full <- which(nzchar(x))
  replace(x, sample(full, count), text)
}

agree <- c("Strongly disagree", "Disagree", "Neither", "Agree", "Strongly agree")
content <- c("Very dissatisfied", "Dissatisfied", "Neither", "Satisfied", "Very satisfied")
five <- function(x) cut(x, c(-Inf, -1.4, -0.6, 0.1, 1, Inf), labels = FALSE)

at_home <- stats::rnorm(n)
item <- function(loading, reversed = FALSE) {
  answer <- five(0.3 + loading * at_home + sqrt(1 - loading^2) * stats::rnorm(n))
  agree[if (reversed) 6 - answer else answer]
}
belong <- list(item(0.8), item(0.75, TRUE), item(0.7), item(0.8), item(0.65, TRUE), item(0.7))
belong <- lapply(belong, blank, share = 0.04)
opened_only <- sample(n, 6)
belong <- lapply(belong, function(x) replace(x, opened_only, ""))
belong[[1]] <- at_random(belong[[1]], 5, "agree")
belong[[1]] <- at_random(belong[[1]], 3, "Agree ")
belong[[2]] <- at_random(belong[[2]], 4, "Dissagree")
belong[[3]] <- at_random(belong[[3]], 3, "Can\u2019t say")
belong[[4]] <- at_random(belong[[4]], 2, "Prefer not to say")
belong[[5]] <- at_random(belong[[5]], 2, "4")
belong[[6]] <- at_random(belong[[6]], 1, "Agree and disagree")

satisfied <- content[five(0.4 + 0.6 * at_home + 0.8 * stats::rnorm(n))]
satisfied <- replace(satisfied, opened_only, "")
satisfied <- at_random(blank(satisfied, 0.05), 3, "Don\u2019t know")

voice <- pick(c("Soprano", "Alto", "Tenor", "Bass"), c(0.36, 0.31, 0.14, 0.19))
voice <- at_random(voice, 4, "Sopranno")
voice <- at_random(voice, 3, "alto")
voice <- at_random(voice, 2, "Prefer not to say")
voice <- at_random(voice, 2, "Counter-tenor")
voice <- blank(voice, 0.02)

years <- as.character(pmin(70, round(stats::rexp(n, 1 / 11))))
years <- blank(years, 0.04)
years <- at_random(years, 2, "three")
years <- at_random(years, 1, "since school")
years <- at_random(years, 3, "DK")
years <- at_random(years, 1, "1998")

weekly <- as.character(pick(1:4, c(0.62, 0.27, 0.08, 0.03)))
ease <- as.character(pmin(7, pmax(1, round(4 + 1.6 * stats::rnorm(n)))))
ease <- c("1" = "Not at all", "2" = "2", "3" = "3", "4" = "4", "5" = "5", "6" = "6", "7" = "Completely")[ease]
choirs <- c("KV01", "KV02", "KV03", "KV04", "KV05", "KV06", "KV07")
what <- c(
  "The people", "the people", "Learning new music", "Singing together, and the tea afterwards", "Our conductor",
  "A hall with a \"real\" organ", "Getting out of the house\non dark evenings", "Concerts <b>at last</b>"
)
more <- c("", "", " - and the laughing", "; nothing else", ", every week", " (since my first term)", " & the old songs", "!", ", I suppose", " above all")
best <- paste0(pick(what), pick(more), pick(c("", "", ".", " :-)")))
best <- blank(best, 0.3)

best <- replace(best, opened_only, "")

start <- as.POSIXct("2026-03-02 08:00:00", tz = "UTC") + sort(round(stats::runif(n, 0, 19 * 86400)))
spent <- round(stats::rlnorm(n, log(420), 0.5))
stamp <- function(x) format(x, "%Y-%m-%d %H:%M:%S", tz = "UTC")
member <- sprintf("%04d", sample(1000, n) + 100)

other_note <- blank(paste0(pick(c("I also play the organ", "Deputy conductor", "Choir librarian", "Please more rehearsals", "The hall is cold", "Thank you")),
  pick(c("", ".", " this year", " in spring", " - as ever"))), 0.93)

# What the checks are for. Faults stand in rows that have none of those above.
plain <- setdiff(which(Reduce(`&`, lapply(belong, `%in%`, agree)) & satisfied %in% content & voice %in% c("Soprano", "Alto", "Tenor", "Bass") & grepl("^[0-9]{1,2}$", years)), opened_only)
plain <- sample(plain)
take <- function(count) {
  rows <- utils::head(plain, count)
  plain <<- utils::tail(plain, -count)
  rows
}
consent <- rep("Yes", n)
kind <- rep("Real", n)
present <- rep("Yes", n)
attention <- replace(rep("Agree", n), opened_only, "")
practice <- lapply(c(240, 160, 60), function(most) as.character(5 * round(stats::rexp(n, 5 / most))))
first <- 5 * sample(2:12, n, TRUE)
second <- 5 * round(stats::runif(n, 0, (100 - first) / 5))
points <- list(as.character(first), as.character(second), as.character(100 - first - second))
orders <- list(c(1, 2, 3), c(1, 3, 2), c(2, 1, 3), c(2, 3, 1), c(3, 1, 2), c(3, 2, 1))[pick(1:6, c(0.3, 0.25, 0.2, 0.1, 0.1, 0.05))]
ranks <- lapply(1:3, function(at) as.character(vapply(orders, `[`, 0, at)))
in_choirs <- suppressWarnings(as.numeric(years))
joined <- as.character(2026 - pmin(ifelse(is.na(in_choirs) | in_choirs > 80, 5, in_choirs), round(stats::rexp(n, 1 / 9))))
debut <- format(as.Date("2025-12-20") - round(stats::rexp(n, 1 / 2500)), "%d/%m/%Y")
debut <- blank(debut, 0.12)
later <- c("practice", "points", "ranks", "debut", "best", "other_note")
left_blank <- function(rows, from) {
  for (name in later[match(from, later):length(later)]) {
    x <- get(name)
    assign(name, if (is.list(x)) lapply(x, replace, rows, "") else replace(x, rows, ""), envir = globalenv())
  }
}
left_blank(opened_only, "practice")
left_early <- list(points = take(5), ranks = take(4), debut = take(3))
for (at in names(left_early)) left_blank(left_early[[at]], at)

former <- take(20)
present[former] <- "No"
weekly[former] <- ""
satisfied[former] <- ""
attention[former] <- ""
belong <- lapply(belong, replace, former, "")
unasked <- former[1:3]
for (at in 1:3) belong[[at]][unasked] <- c("Agree", "Disagree", "Agree")[at]
present[take(2)] <- ""
weekly[take(4)] <- ""

consent[take(3)] <- "No"
kind[take(2)] <- "Trial"
speeder <- take(4)
attention[take(4)] <- c("Disagree", "Neither", "Strongly agree", "Disagree")
through <- take(2)
belong <- lapply(belong, replace, through, "Agree")
too_much <- take(2)
practice[[1]][too_much] <- c("30000", "26000")
practice[[2]][too_much] <- c("20000", "19000")
uneven <- take(6)
points[[1]][uneven] <- c("30", "30", "30", "50", "90", "40")
for (at in 2:3) points[[at]][uneven] <- c("30", "30", "30", "50", "60", "40")
nothing <- take(3)
points[[1]][nothing] <- "60"
points[[2]][nothing] <- "40"
points[[3]][nothing] <- ""
tied <- take(4)
for (at in 1:2) ranks[[at]][tied] <- c("1", "1", "2", "3")
ranks[[3]][tied] <- "2"
skipped <- take(2)
ranks[[1]][skipped] <- "1"
ranks[[2]][skipped] <- ""
ranks[[3]][skipped] <- "3"
joined[take(3)] <- c("2062", "1890", "202")
before <- take(2)
joined[before] <- c("1961", "1958")
years[before] <- c("4", "11")
debut[take(3)] <- c("31/02/2020", "spring 2019", "5/3/2021")

spent[speeder] <- c(31, 40, 52, 58)
export <- list(
  "Sheet no" = sprintf("S%06d", 410000 + cumsum(pick(1:9))), "Opened" = stamp(start), "Sent" = stamp(start + spent),
  "Kind" = kind, "Pages seen" = ifelse(seq_len(n) %in% opened_only, "2", ifelse(seq_len(n) %in% unlist(left_early), "6", "9")), "Seconds" = as.character(spent),
  "Machine" = pick(c("Phone", "Computer", "Tablet"), c(0.55, 0.35, 0.1)), "Member no" = member, "Q1" = consent, "Q20" = paste0("singer", member, "@choirs.example"),
  "Q2" = pick(choirs), "Q3" = voice, "Other" = ifelse(voice == "Counter-tenor", "I sing as a counter-tenor", ""), "Q4" = years, "Q16" = present,
  "Q17" = joined, "Q5" = weekly, "Q6" = blank(unname(ease), 0.03), "Q8_1" = belong[[1]], "Q8_2" = belong[[2]], "Q8_3" = belong[[3]],
  "Q8_4" = belong[[4]], "Q8_5" = belong[[5]], "Q8_6" = belong[[6]], "Q8_7" = attention, "Q9" = satisfied,
  "Q10_1" = practice[[1]], "Q10_2" = practice[[2]], "Q10_3" = practice[[3]], "Q11_1" = points[[1]], "Q11_2" = points[[2]], "Q11_3" = points[[3]],
  "Q13_1" = ranks[[1]], "Q13_2" = ranks[[2]], "Q13_3" = ranks[[3]], "Q18" = debut, "Q14" = best, "Other" = other_note
)
direction <- paste0(
  "Thinking of the choir in which you sing most often, how far do you agree with each of these statements? ",
  "Please tick one answer in each row."
)
questions <- c(
  "Number of the sheet", "First page opened", "Last page sent", "Real or trial", "Pages seen of nine", "Seconds from first to last page", "Machine", "Your member number", "May we use your answers for the survey?", "At which mail address can we send you the results?",
  "Which choir do you sing in most often?", "Which part do you usually sing?", "Which part do you usually sing? - Other (please say which)",
  "For how many years have you sung in choirs?", "Do you sing in a choir at present?", "In which year did you join your choir?",
  "How many rehearsals do you have in an ordinary week?", "How easy is it for you to read music? (1 = not at all, 7 = completely)",
  paste0(direction, " - ", c(
    "My choir would notice an empty chair", "I spend the tea break alone", "I know whom to ask for a missing page", "I hum our songs on the way home",
    "On rehearsal days I look for a reason not to go", "After a concert I am among the last to leave", "To show that you are reading, please tick Agree here"
  )),
  "All in all, how satisfied are you with your choir?",
  paste0("How many minutes did you practise in the last month? - ", c("Alone", "With others", "In lessons")),
  paste0("Please share out 100 points by what matters to you. - ", c("Concerts", "Rehearsals", "Trips")),
  paste0("Please rank: 1 is what you would rather do more of. - ", c("Concerts", "Rehearsals", "Trips")),
  "When did you first sing in a concert? (day/month/year)", "What is best about your choir?", "Is there anything else, \"big\" or small?"
)

# Four who answered a second time, two of them otherwise; a test under a
# singer's number; and a singer who opened the page again and left.
again <- function(row, change = list()) {
  one <- lapply(export, `[`, row)
  late <- max(start) + 3600 * (1 + length(further))
  one[["Sheet no"]] <- sprintf("S%06d", 420000 + length(further))
  one[["Opened"]] <- stamp(late)
  one[["Sent"]] <- stamp(late + spent[row])
  one[names(change)] <- change
  one
}
further <- list()
for (row in take(2)) further <- c(further, list(again(row)))
for (row in take(2)) further <- c(further, list(again(row, list("Q9" = "Dissatisfied", "Q4" = "6", "Q17" = "2023"))))
further <- c(further, list(again(take(1), list("Kind" = "Trial", "Q14" = "test test"))))
empty <- again(take(1))
asked <- match("Q1", names(empty)):length(empty)
empty[asked] <- ""
empty[["Pages seen"]] <- "1"
further <- c(further, list(empty))
export <- structure(lapply(seq_along(export), function(at) c(export[[at]], vapply(further, function(one) one[[at]], ""))), names = names(export))
n <- length(export[[1]])

# What the office found out later about single answers.
corrections <- data.frame(
  wave = "spring", respondent = c(member[joined == "2062"], member[uneven[1]], member[through[1]]),
  variable = c("joined", "points_trips", "satisfied"), was = c("2062", "30", satisfied[through[1]]), now = c("2026", "40", "dont_know"),
  note = c("two digits changed places, asked by telephone", "the paper form says 40", "wrote that the row was ticked by mistake"), who = "office", date = c("2026-03-24", "2026-03-24", "2026-03-27")
)
dir.create("inst/choirs/sheets", showWarnings = FALSE)

# Questions with several answers, in one cell and in boxes; a grid; three months
# in a row of which one has gaps; and a choir's code in another spelling.
set.seed(20260303, kind = "Mersenne-Twister", normal.kind = "Inversion", sample.kind = "Rejection")
blank_here <- !nzchar(export$Q11_1) & !nzchar(export$Q8_1) & !nzchar(export$Q13_1)
some_of <- function(options, chances, separator) {
  ticks <- vapply(chances, function(chance) stats::runif(n) < chance, logical(n))
  apply(ticks, 1, function(tick) paste(options[tick], collapse = separator))
}
reasons <- some_of(c("For the music; old and new", "To meet people", "To learn", "For my health"), c(0.7, 0.5, 0.25, 0.2), ";")
own_words <- c("my grandmother sang here", "it is on a Tuesday", "the tea, mostly; and the cake", "my doctor said so", "to get out of the house", "a friend took me along")
open_rows <- sample(which(nzchar(reasons)), 18)
reasons[open_rows] <- paste0(reasons[open_rows], ";", rep(own_words, 3))
left_over <- setdiff(which(nzchar(reasons)), open_rows)
ending <- sample(left_over, 40)
reasons[ending] <- paste0(reasons[ending], ";")
reworded <- sample(setdiff(which(reasons == "To meet people"), ending), 4)
reasons[reworded] <- "To meet other people"
alone <- sample(setdiff(left_over, reworded), 7)
reasons[alone] <- "No particular reason"
reasons[sample(setdiff(left_over, c(alone, reworded)), 2)] <- "To learn;No particular reason"
reasons[blank_here] <- ""
box <- function(chance) ifelse(stats::runif(n) < chance & !blank_here, "Checked", "")
tasks <- list(box(0.22), box(0.12), box(0.3))
words <- ifelse(stats::runif(n) < 0.04 & !blank_here, sample(c("the website", "baking", "driving others"), n, TRUE), "")
grid <- lapply(list(c(0.8, 0.3, 0.5), c(0.9, 0.25, 0.1)), function(chances) replace(some_of(c("Paper", "Tablet", "Recordings"), chances, ", "), blank_here, ""))
evenings <- lapply(c(4, 5, 6), function(mean) replace(as.character(pmin(31, stats::rpois(n, mean))), blank_here, ""))
evenings[[2]][sample(which(!blank_here), 16)] <- ""
evenings[[3]][sample(which(!blank_here), 5)] <- ""
# Who answered twice said the same here.
same <- function(x) ifelse(blank_here, x, x[match(export[["Member no"]], export[["Member no"]])])
reasons <- same(reasons)
tasks <- lapply(tasks, same)
words <- same(words)
grid <- lapply(grid, same)
evenings <- lapply(evenings, same)
export <- c(export, list("Q12" = reasons, "Q15_1" = tasks[[1]], "Q15_2" = tasks[[2]], "Q15_3" = tasks[[3]], "Q15_4" = words, "Q19_1" = grid[[1]], "Q19_2" = grid[[2]],
  "Q21_1" = evenings[[1]], "Q21_2" = evenings[[2]], "Q21_3" = evenings[[3]]))
questions <- c(questions, "Why do you sing in a choir? (tick all that apply)", paste0("Which tasks do you have in the choir? - ", c("Leading a rehearsal", "Looking after the money", "Setting out the chairs", "Another task (please say which)")),
  paste0("What do you learn new pieces from? - ", c("At home", "At rehearsals")), paste0("On how many evenings did you sing? - ", c("In December", "In January", "In February")))
export$Q2[sample(which(export$Q2 == "KV03" & export$Kind == "Real"), 1)] <- "kv03"

# The roster of choirs; of one code it knows nothing, and one choir did not answer.
roster <- data.frame("Choir code" = c("KV01", "KV02", "KV03", "KV04", "KV05", "KV06", "KV08"), "Name" = c("Kestrel Singers", "Kestrel Upper Voices", "Kestrel Mill Choir", "Kestrel Wednesday Choir", "Kestrel Chorale", "Kestrel Bridge Singers", "Kestrel Fell Choir"),
  "Region" = c("Upper valley", "Upper valley", "Lower valley", "Lower valley", "Lower valley", "Upper valley", "Upper valley"), "Founded" = c("1974", "1951", "1998", "2004", "1962", "1987", "2011"), check.names = FALSE)

# What the open answers were coded as so far; some are still to be coded.
topics <- c("people" = "The people", "Singing together" = "The people", "laughing" = "The people", "music" = "The music", "songs" = "The music", "Concerts" = "The music", "organ" = "The place", "house" = "The place")
told <- which(nzchar(export$Q14) & export$Q14 != "test test" & !duplicated(export[["Member no"]]))
told <- utils::head(told, -12)
given <- lapply(export$Q14[told], function(text) unique(unname(topics[vapply(names(topics), grepl, TRUE, x = text, ignore.case = TRUE)])))
nth <- function(at) vapply(given, function(one) if (length(one) >= at) one[at] else "", "")
coded <- data.frame(wave = "spring", respondent = export[["Member no"]][told], answer = export$Q14[told], "code 1" = nth(1), "code 2" = nth(2), coder = "office", note = "", check.names = FALSE)
stopifnot(length(questions) == length(export))

cell <- function(x) ifelse(grepl("[\",\n]", x), paste0("\"", gsub("\"", "\"\"", x), "\""), x)
rows <- do.call(paste, c(lapply(unname(export), cell), sep = ","))
text <- c(paste(cell(names(export)), collapse = ","), paste(cell(questions), collapse = ","), rows)
out <- file("inst/choirs/raw/spring.csv", "wb")
writeBin(charToRaw(enc2utf8(paste0(paste(text, collapse = "\r\n"), "\r\n"))), out)
close(out)

write_sheet <- function(table, path) {
  lines <- c(paste(cell(names(table)), collapse = ","), do.call(paste, c(lapply(unname(table), cell), sep = ",")))
  out <- file(path, "wb")
  writeBin(charToRaw(enc2utf8(paste0(paste(lines, collapse = "\n"), "\n"))), out)
  close(out)
}
write_sheet(corrections, "inst/choirs/sheets/corrections.csv")
write_sheet(coded, "inst/choirs/sheets/best.csv")
write_sheet(roster, "inst/choirs/raw/roster.csv")
