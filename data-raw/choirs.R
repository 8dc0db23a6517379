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
looked_in <- sample(n, 6)
belong <- lapply(belong, function(x) replace(x, looked_in, ""))
belong[[1]] <- at_random(belong[[1]], 5, "agree")
belong[[1]] <- at_random(belong[[1]], 3, "Agree ")
belong[[2]] <- at_random(belong[[2]], 4, "Dissagree")
belong[[3]] <- at_random(belong[[3]], 3, "Can\u2019t say")
belong[[4]] <- at_random(belong[[4]], 2, "Prefer not to say")
belong[[5]] <- at_random(belong[[5]], 2, "4")
belong[[6]] <- at_random(belong[[6]], 1, "Agree and disagree")

satisfied <- content[five(0.4 + 0.6 * at_home + 0.8 * stats::rnorm(n))]
satisfied <- replace(satisfied, looked_in, "")
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

best <- replace(best, looked_in, "")

start <- as.POSIXct("2026-03-02 08:00:00", tz = "UTC") + sort(round(stats::runif(n, 0, 19 * 86400)))
spent <- round(stats::rlnorm(n, log(420), 0.5))
stamp <- function(x) format(x, "%Y-%m-%d %H:%M:%S", tz = "UTC")
member <- sprintf("%04d", sample(1000, n) + 100)

other_note <- blank(paste0(pick(c("I also play the organ", "Deputy conductor", "Choir librarian", "Please more rehearsals", "The hall is cold", "Thank you")),
  pick(c("", ".", " this year", " in spring", " - as ever"))), 0.93)
export <- list(
  "Response ref" = sprintf("R-%06d", 410000 + cumsum(pick(1:9))), "Start time" = stamp(start), "Submitted" = stamp(start + spent),
  "Status" = rep("Complete", n), "Progress" = ifelse(seq_len(n) %in% looked_in, "38", "100"), "Duration" = as.character(spent),
  "Device" = pick(c("Phone", "Computer", "Tablet"), c(0.55, 0.35, 0.1)), "First name" = rep("", n), "Last name" = rep("", n),
  "Language" = rep("en-GB", n), "Location" = rep("", n), "Member no" = member, "Q20" = paste0("singer", member, "@choirs.example"),
  "Q2" = pick(choirs), "Q3" = voice, "Other" = ifelse(voice == "Counter-tenor", "I sing as a counter-tenor", ""), "Q4" = years,
  "Q5" = weekly, "Q6" = blank(unname(ease), 0.03), "Q8_1" = belong[[1]], "Q8_2" = belong[[2]], "Q8_3" = belong[[3]],
  "Q8_4" = belong[[4]], "Q8_5" = belong[[5]], "Q8_6" = belong[[6]], "Q9" = satisfied, "Q14" = best, "Other" = other_note
)
direction <- paste0(
  "Thinking of the choir in which you sing most often, how far do you agree with each of these statements? ",
  "Please tick one answer in each row."
)
questions <- c(
  "Response ref", "Start time", "Submitted", "Status", "Progress", "Duration (in seconds)", "Device", "First name", "Last name", "Language",
  "Location", "Your member number", "At which mail address can we send you the results?", "Which choir do you sing in most often?",
  "Which part do you usually sing?", "Which part do you usually sing? - Other (please say which)", "For how many years have you sung in choirs?",
  "How many rehearsals do you have in an ordinary week?", "How easy is it for you to read music? (1 = not at all, 7 = completely)",
  paste0(direction, " - ", c(
    "I feel at home here", "I often feel left out", "People notice when I am away", "I would miss it if I had to stop",
    "I do not really know the others", "I can be myself here"
  )),
  "All in all, how satisfied are you with your choir?", "What is best about your choir?", "Is there anything else, \"big\" or small?"
)
stopifnot(length(questions) == length(export))

cell <- function(x) ifelse(grepl("[\",\n]", x), paste0("\"", gsub("\"", "\"\"", x), "\""), x)
rows <- do.call(paste, c(lapply(unname(export), cell), sep = ","))
text <- c(paste(cell(names(export)), collapse = ","), paste(cell(questions), collapse = ","), rows)
out <- file("inst/choirs/raw/spring.csv", "wb")
writeBin(charToRaw(enc2utf8(paste0(paste(text, collapse = "\r\n"), "\r\n"))), out)
close(out)
