# Two made waves whose truth is known: questions of many kinds, and differences planted between
# the waves. The halves share no list and no wording.

open_words <- list(
  lists = list(
    agree = c("Strongly disagree", "Disagree", "Neither", "Agree", "Strongly agree"),
    often = c("Never", "Rarely", "Sometimes", "Often", "Always"),
    content = c("Very dissatisfied", "Dissatisfied", "Neither satisfied nor dissatisfied", "Satisfied", "Very satisfied")
  ),
  longer = list(agree = c("Strongly disagree", "Disagree", "Slightly disagree", "Neither", "Slightly agree", "Agree", "Strongly agree")),
  stems = c(agree = "How far do you agree", often = "How often do you do this", content = "How satisfied are you"),
  items = list(
    agree = c("My section leader listens to us", "I look forward to Tuesdays", "New members are made welcome", "The pieces are too hard for me", "I would miss the choir"),
    often = c("Hum on the way home", "Warm up before a rehearsal", "Arrive late", "Sing in another choir", "Help with the chairs"),
    content = c("With the hall", "With the choice of pieces", "With the fees", "With the concerts", "With the website")
  ),
  single = list(
    voice = list("Which part do you sing?", c("Soprano", "Alto", "Tenor", "Bass")),
    travel = list("How do you get to rehearsals?", c("On foot", "By bicycle", "By bus", "By car")),
    hall = list("Where do you rehearse?", c("Parish hall", "School", "Town hall", "Church", "Private home")),
    day = list("Which evening suits you best?", c("Monday", "Tuesday", "Wednesday", "Thursday"))
  ),
  steps = list(
    distance = list("How far is it from your home?", c("Under 1 km", "1 to 5 km", "6 to 20 km", "More than 20 km"), c("Under 1 km", "1 to 2 km", "3 to 5 km", "6 to 20 km", "More than 20 km")),
    school = list("What is your highest schooling?", c("Primary school", "Secondary school", "College", "University degree"), c("Primary school", "Secondary school", "Apprenticeship", "College", "University degree"))
  ),
  numbers = list(years = c("For how many years have you sung?", 0, 40), practice = c("Minutes of practice in a week", 0, 300), concerts = c("Concerts last year", 0, 12)),
  several = list("Where do you hear of concerts?", c("Radio", "Posters", "Friends", "Newspaper"), "The choir's newsletter"),
  merged = list("Which group do you sing with?", c("Children", "Youth", "Men", "Women"), c("Children", "Youth", "Men and women")),
  text = "What would you change?", replaced = "Since when is the library closed?", fresh = list(alike = "Do you own a music stand?", items = c("The tea is strong", "The biscuits are fresh", "The urn is warm"), stem = "How far do you agree on the break"),
  gap = "Don't know", gap_other = "Can't say", reworded = c("do you" = "would you say you", "How" = "In general, how", "Which" = "And which", "Where" = "And where", "What" = "And what"),
  opposites = c("Soprano" = "Soprano (high)", "By bus" = "By bus or tram", "School" = "Schools", "Monday" = "Mondays"),
  swapped = c("Tenor" = "Baritone", "On foot" = "By boat", "Church" = "Chapel", "Wednesday" = "Friday")
)

aside_words <- list(
  lists = list(
    weight = c("Not at all important", "Slightly important", "Moderately important", "Very important", "Extremely important"),
    chance = c("Very unlikely", "Unlikely", "Even", "Likely", "Very likely"),
    grade = c("Very poor", "Poor", "Fair", "Good", "Excellent")
  ),
  longer = list(chance = c("Extremely unlikely", "Very unlikely", "Unlikely", "Even", "Likely", "Very likely", "Extremely likely")),
  stems = c(weight = "How important is each to you", chance = "How likely is it that you will", grade = "How would you rate"),
  items = list(
    weight = c("A warm room", "A conductor who explains", "Singing from memory", "Being paid for travel", "Coffee before we begin"),
    chance = c("Stay another season", "Take singing lessons", "Bring a friend along", "Sing a solo", "Join the committee"),
    grade = c("The acoustics of the room", "The printed music", "The parking", "The trips", "The recordings")
  ),
  single = list(
    season = list("In which season did you join?", c("Spring", "Summer", "Autumn", "Winter")),
    snack = list("What do you bring for the break?", c("Apples", "Cake", "Sandwiches", "Nothing")),
    tongue = list("In which language do you like to sing?", c("English", "Latin", "Italian", "German", "Welsh")),
    seat = list("In which row do you stand?", c("Front row", "Second row", "Third row", "Back row"))
  ),
  steps = list(
    cost = list("How much do you spend on music in a year?", c("Nothing", "Up to 20", "21 to 100", "Over 100"), c("Nothing", "Up to 20", "21 to 50", "51 to 100", "Over 100")),
    reads = list("How well do you read music?", c("Not at all", "A little", "Fairly well", "Very well"), c("Not at all", "A little", "Moderately", "Fairly well", "Very well"))
  ),
  numbers = list(joined = c("In which year did you join?", 1980, 2020), trips = c("Trips with the choir so far", 0, 15), fee = c("What do you pay in a month?", 0, 60)),
  several = list("What have you done for the choir?", c("Baked", "Sold tickets", "Kept accounts", "Moved the piano"), "Wrote to the press"),
  merged = list("How did you first hear of us?", c("Poster", "Leaflet", "Website", "Neighbour"), c("Poster or leaflet", "Website", "Neighbour")),
  text = "Is there anything else to say?", replaced = "Who waters the plants?", fresh = list(alike = "Do you have a bicycle stand at home?", items = c("A quiet corner", "A water tap", "A coat rack"), stem = "How important is each in the foyer"),
  gap = "No opinion", gap_other = "Do not know", reworded = c("do you" = "do you yourself", "In which" = "Now, in which", "How" = "All in all, how", "What" = "Now, what", "Is there" = "Would there be"),
  opposites = c("Spring" = "Spring term", "Cake" = "Cakes", "Latin" = "Church Latin", "Front row" = "First row in front"),
  swapped = c("Winter" = "Before the spring", "Sandwiches" = "Flowers", "German" = "French", "Back row" = "Gallery")
)

# The plants of a pair of waves; each concerns one question or one list.
plant_kinds <- c(
  "renamed", "reworded", "moved", "retyped", "merged", "split", "numbers_reversed", "numbers_straight", "numbers_shifted",
  "codes_reversed", "gap_recoded", "option_added", "step_added", "lengthened", "gone", "fresh", "fresh_block", "several_added", "replaced", "swapped"
)

# A questionnaire as drawn: heading, labels and weights of each column.
questions_of <- function(words) {
  one <- function(name, asked, labels, kind, list = name) list(name = name, asked = asked, labels = labels, kind = kind, list = list)
  items <- unlist(lapply(names(words$lists), function(list) lapply(seq_along(words$items[[list]]), function(k) one(
    paste0(list, k), paste(words$stems[[list]], words$items[[list]][k], sep = " - "), words$lists[[list]], "step", list
  ))), recursive = FALSE)
  c(
    lapply(names(words$single), function(name) one(name, words$single[[name]][[1]], words$single[[name]][[2]], "choice")),
    lapply(names(words$steps), function(name) one(name, words$steps[[name]][[1]], words$steps[[name]][[2]], "step")),
    items, list(one("joint", words$merged[[1]], words$merged[[2]], "choice")),
    lapply(names(words$numbers), function(name) c(one(name, words$numbers[[name]][1], NULL, "number"), list(ends = as.numeric(words$numbers[[name]][2:3])))),
    list(one("several", words$several[[1]], words$several[[2]], "several"), one("words", words$text, NULL, "text"))
  )
}

# The answers of one wave: items of a list go together, lists and numbers somewhat with a general
# mood; in a panel the same persons answer much as they did before.
draw_wave <- function(questions, n, lean, before = NULL) {
  out <- list(moods = before$moods, frame = list())
  if (is.null(out$moods$general)) out$moods$general <- stats::rnorm(n)
  for (q in questions) {
    mood <- out$moods[[q$list]]
    if (is.null(mood)) mood <- stats::rnorm(n) + (if (q$kind %in% c("step", "number")) 0.6 * out$moods$general else 0)
    out$moods[[q$list]] <- mood
    own <- 0.75 * mood + 0.5 * stats::rnorm(n)
    k <- length(q$labels)
    out$frame[[q$name]] <- switch(q$kind,
      step = q$labels[pmin(k, pmax(1, round(own * k / 4 + lean[[q$list]] * k)))],
      choice = q$labels[pmin(k, pmax(1, 1 + floor(k * stats::pnorm(own)^lean[[q$name]])))],
      number = as.character(round(q$ends[1] + diff(q$ends) * stats::pnorm(own))),
      several = vapply(seq_len(n), function(i) paste(q$labels[stats::runif(k) < c(0.6, 0.4, 0.3, 0.15)[seq_len(k)]], collapse = "; "), ""),
      text = sample(c("Nothing", "More songs", "Shorter breaks, please", "A warmer hall", "It is fine as it is"), n, TRUE)
    )
    blank <- stats::runif(n) < 0.04
    out$frame[[q$name]][blank] <- ""
  }
  out
}
