# Made exports whose truth is known: questions of many kinds, in two halves. A question is
# drawn from its labels with their weights; the halves share no wording.

ask <- function(heading, labels, weights = NULL, level = "nominal", ..., blank = 0.03) list(
  heading = heading, labels = labels, weights = weights, blank = blank,
  truth = list(level = level, codes = as.list(labels), ...)
)
number <- function(heading, make, level = "ratio", ..., blank = 0.03) list(
  heading = heading, make = make, blank = blank, truth = list(level = level, ...)
)
rating <- function(heading, from, to, missing = NULL, ...) list(
  heading = heading, labels = as.character(c(from:to, missing)), blank = 0.02,
  weights = c(rep(10, to - from + 1), rep(1, length(missing))),
  truth = list(level = "ordinal", range = c(from, to), bare = TRUE, missing = as.list(as.character(missing)), ...)
)
role <- function(heading, role, make) list(heading = heading, make = make, blank = 0, truth = list(role = role))
# Asked of some only: `who` is a condition over the columns before it.
of_those <- function(question, who, universe) {
  question$who <- who
  question$truth$universe <- universe
  question
}
# Forms of gaps that people chose or typed, by reason.
with_gaps <- function(question, forms, share = 0.06) {
  question$gaps <- list(forms = forms, share = share)
  question$truth$missing <- as.list(forms)
  question
}

sung <- function(n) sample(c("We sang well", "Too loud at times", "The tea", "Nothing to add", "A fine hall, with an echo", "My knees hurt"), n, TRUE)

open_half <- list(
  rare = list(
    role("Entry id", "key", function(n) sprintf("E%04d", sample(9999, n))),
    ask("How often do you sing at home?", c("Never", "Once or twice a year", "Every month", "Every week", "Every day"), c(30, 300, 300, 300, 3), "ordinal"),
    ask("Do you read music?", c("Yes", "No"), c(7, 993)),
    ask("How content are you with the hall?", c("Very unsatisfied", "Unsatisfied", "Neither satisfied nor unsatisfied", "Satisfied", "Very satisfied"), c(4, 80, 200, 300, 300), "ordinal"),
    ask("Highest schooling", c("No schooling", "Primary school", "Secondary school", "College", "University degree"), c(3, 60, 300, 200, 150), "ordinal"),
    ask("Would you come again?", c("Very unlikely", "Somewhat unlikely", "Somewhat likely", "Very likely"), c(2, 40, 200, 300), "ordinal"),
    ask("Part", c("Soprano", "Alto", "Tenor", "Bass", "Baritone"), c(300, 300, 100, 100, 3)),
    with_gaps(ask("Is the fee fair?", c("Fair", "Unfair"), c(90, 10)), c("Don't know", "Refused"))
  ),
  quantities = list(
    role("Member number", "key", function(n) sample(100000, n)),
    ask("Time on the road", c("0_to_1_hr", "1_to_2_hr", "2_to_4_hr", "over_4_hr"), NULL, "ordinal"),
    ask("Times absent", c("Once", "Twice", "Three times", "More than three times"), NULL, "ordinal"),
    ask("Household size", c("1", "2", "3", "4+"), c(100, 300, 200, 100), "ordinal"),
    ask("Yearly income", c("Under $10,000", "$10,000 to $24,999", "$25,000 to $49,999", "$50,000 to $99,999", "$100,000 or more"), NULL, "ordinal"),
    ask("Height", c("Under 5'", "5'0\" to 5'5\"", "5'6\" to 5'11\"", "6' and over"), NULL, "ordinal"),
    ask("Concerts in the last year", c("None", "1-2", "3-5", "6-10", "More than 10"), NULL, "ordinal"),
    ask("Of your friends, how many sing?", c("None of them", "A few of them", "About half of them", "Most of them", "All of them"), NULL, "ordinal"),
    ask("How long have you been a member?", c("Less than 6 months", "6 to 12 months", "1 to 5 years", "More than 5 years"), NULL, "ordinal")
  ),
  degrees = list(
    role("Response ID", "key", function(n) sprintf("R-%05d", sample(99999, n))),
    ask("Worried about voices", c("Not worried at all", "Not very worried", "Somewhat worried", "Very worried"), NULL, "ordinal"),
    ask("State of health", c("Poor", "Fair", "Good", "Very good", "Excellent"), c(5, 20, 60, 50, 20), "ordinal"),
    ask("Exercise", c("None", "Some", "Freq"), NULL, "ordinal"),
    ask("Choir size", c("Small", "Medium", "Large"), NULL, "ordinal"),
    ask("Support for a new hall", c("Strongly oppose", "Oppose", "Neither", "Support", "Strongly support"), NULL, "ordinal"),
    ask("Compared to last year", c("Much worse", "A little worse", "About the same", "A little better", "Much better"), NULL, "ordinal"),
    ask("Town", c("Overby", "Nethercombe", "Kestrel Bridge", "Upper Mill"), NULL),
    ask("Noise", c("no", "somewhat", "very"), NULL, "ordinal")
  ),
  ratings = list(
    role("id", "key", function(n) seq_len(n) + 1000),
    rating("Rate the concert from 1 to 5", 1, 5),
    rating("On a scale from 0 to 10, how likely are you to come again?", 0, 10),
    rating("Rate the conductor (1 = poor, 7 = excellent; 9 = no opinion)", 1, 7, 9),
    number("How many children do you have?", function(n) pmin(stats::rpois(n, 1.3), 7)),
    number("Age in years", function(n) sample(18:92, n, TRUE)),
    number("Share of rehearsals attended (%)", function(n) sample(0:100, n, TRUE)),
    number("Hours slept", function(n) sample(c(4:10, 77, 99), n, TRUE, c(rep(10, 7), 0.4, 0.4)), missing = list("77", "99"))
  ),
  skips = list(
    role("Sheet", "key", function(n) sprintf("s%05d", sample(99999, n))),
    ask("sings", c("Never", "Sometimes", "Often", "Nearly always", "Once, long ago"), c(20, 30, 30, 15, 2)),
    of_those(ask("where", c("At home", "In a choir", "In church"), NULL), function(d) d$sings != "Never" & d$sings != "", "sings != \"Never\""),
    of_those(number("years", function(n) sample(0:50, n, TRUE)), function(d) d$sings != "Never" & d$sings != "", "sings != \"Never\""),
    number("age", function(n) sample(10:90, n, TRUE), blank = 0),
    of_those(ask("votes", c("Yes", "No"), NULL, blank = 0.02), function(d) as.numeric(d$age) >= 18, "age >= 18"),
    ask("member", c("Yes", "No"), NULL, blank = 0.01),
    of_those(ask("fee", c("Too low", "About right", "Too high"), NULL, "ordinal"), function(d) d$member == "Yes", "member == \"Yes\""),
    of_those(ask("board", c("Was on it", "Am on it", "Never was"), NULL), function(d) d$member == "Yes" & as.numeric(d$age) >= 18, "member == \"Yes\" & age >= 18")
  ),
  roles = list(
    role("Respondent", "key", function(n) sprintf("%06d", sample(999999, n))),
    role("Start date", "paradata", function(n) format(as.POSIXct("2026-03-01", tz = "UTC") + sample(1e6, n), "%Y-%m-%d %H:%M:%S")),
    role("Duration (in seconds)", "paradata", function(n) sample(100:4000, n, TRUE)),
    role("E-mail", "private", function(n) paste0("p", sample(99999, n), "@post.example")),
    ask("Language", c("Welsh", "English", "Both"), NULL),
    ask("Location", c("Town", "Village", "Farm"), NULL),
    ask("Status", c("Single", "Married", "Widowed"), NULL),
    ask("Income band", c("0 - 999", "1000 - 1999", "2000 - 2999", "3000 - 9999"), NULL, "ordinal"),
    list(heading = "Remarks", make = sung, blank = 0.5, truth = list(level = c("text", "nominal"), free = TRUE))
  ),
  tongues = list(
    role("Nummer", "key", function(n) seq_len(n) + 200),
    ask("Wie oft singen Sie?", c("Nie", "Selten", "Manchmal", "Oft", "Sehr oft"), NULL, "ordinal"),
    ask("Schulabschluss", c("Kein Abschluss", "Hauptschule", "Realschule", "Abitur", "Hochschule"), NULL, "ordinal"),
    ask("Geschlecht", c("weiblich", "m\u00e4nnlich", "divers"), c(50, 45, 2)),
    ask("Zufriedenheit", c("sehr unzufrieden", "eher unzufrieden", "eher zufrieden", "sehr zufrieden"), NULL, "ordinal"),
    number("Alter", function(n) sample(18:85, n, TRUE)),
    with_gaps(ask("Mitglied", c("Ja", "Nein"), NULL), c("wei\u00df nicht", "keine Angabe")),
    number("Gewicht der Noten", function(n) sub(".", ",", sprintf("%.1f", stats::runif(n, 0.5, 9)), fixed = TRUE))
  )
)

aside_half <- list(
  rare = list(
    role("Case no", "key", function(n) sprintf("C%05d", sample(99999, n))),
    ask("Visits to the library", c("Not once", "1 to 5 times", "6 to 20 times", "More often"), c(200, 300, 200, 4), "ordinal"),
    ask("Owns a bicycle", c("Yes", "No"), c(990, 6)),
    ask("View of the plan", c("Strongly disapprove", "Disapprove", "No view either way", "Approve", "Strongly approve"), c(3, 50, 100, 200, 100), "ordinal"),
    ask("Certainty", c("Completely uncertain", "Rather uncertain", "Rather certain", "Completely certain"), c(3, 50, 150, 300), "ordinal"),
    ask("Schooling of mother", c("None", "Elementary", "Lower secondary", "Upper secondary", "Bachelor", "Master or higher"), c(4, 60, 150, 200, 90, 5), "ordinal"),
    ask("Bus line", c("Line 1", "Line 2", "Line 3", "Line 12"), c(100, 100, 60, 3)),
    with_gaps(ask("Did it help?", c("It helped", "It made no difference"), NULL), c("Can't say", "Prefer not to answer"))
  ),
  quantities = list(
    role("panel_id", "key", function(n) sample(900000, n)),
    ask("walk", c("up to 10 min", "10-20 min", "20-40 min", "40 min +"), NULL, "ordinal"),
    ask("letters", c("0", "1", "2", "3", "4 or more"), NULL, "ordinal"),
    ask("rent", c("\u00a30-\u00a3299", "\u00a3300-\u00a3599", "\u00a3600-\u00a31,199", "\u00a31,200+"), NULL, "ordinal"),
    ask("meals out", c("Less than monthly", "1-3 times a month", "Once a week", "2-4 times a week", "Daily"), NULL, "ordinal"),
    ask("gardens", c("None", "One", "Two", "Three or more"), NULL, "ordinal"),
    ask("neighbours known", c("Hardly any", "Some", "Most", "All"), NULL, "ordinal"),
    ask("age group", c("16 to 24", "25 to 44", "45 to 64", "65 plus"), NULL, "ordinal"),
    ask("moved", c("This year", "1-2 years ago", "3-9 years ago", "10 or more years ago"), NULL, "ordinal")
  ),
  degrees = list(
    role("Ref", "key", function(n) sprintf("%s-%04d", "K", sample(9999, n))),
    ask("Street lighting", c("Very bad", "Bad", "Acceptable", "Good", "Very good"), NULL, "ordinal"),
    ask("Interest in history", c("Not interested", "Slightly interested", "Fairly interested", "Extremely interested"), NULL, "ordinal"),
    ask("Trust in neighbours", c("Low", "Moderate", "High"), NULL, "ordinal"),
    ask("Prices will", c("Fall a lot", "Fall a little", "Stay the same", "Rise a little", "Rise a lot"), NULL, "ordinal"),
    ask("Feels safe", c("Very unsafe", "Fairly unsafe", "Fairly safe", "Very safe"), NULL, "ordinal"),
    ask("Drinks tea", c("never", "light", "regular", "heavy"), NULL, "ordinal"),
    ask("Roof", c("Slate", "Tile", "Thatch", "Tin"), NULL),
    ask("Amount of traffic", c("Too little", "About right", "Too much"), NULL, "ordinal")
  ),
  ratings = list(
    role("no", "key", function(n) seq_len(n) + 50),
    rating("Please score the market, 1 to 10", 1, 10),
    rating("How happy are you? 0 = not at all, 6 = completely", 0, 6),
    rating("Agreement with the plan (1-5, 8 = can't say, 9 = refused)", 1, 5, c(8, 9)),
    number("Number of rooms", function(n) sample(1:9, n, TRUE)),
    number("Year of birth", function(n) sample(1935:2008, n, TRUE), level = c("interval", "ratio")),
    number("Minutes to work", function(n) sample(c(0:90, 999), n, TRUE, c(rep(1, 91), 3)), missing = list("999")),
    number("Weekly spending", function(n) sprintf("%.2f", stats::rexp(n, 1 / 40)))
  ),
  skips = list(
    role("nr", "key", function(n) sprintf("n%05d", sample(99999, n))),
    ask("work", c("Full time", "Part time", "Retired", "Student", "On leave"), c(40, 20, 20, 10, 2), blank = 0.01),
    of_those(number("hours", function(n) sample(1:60, n, TRUE)), function(d) d$work %in% c("Full time", "Part time", "On leave"), "work %in% c(\"Full time\", \"Part time\", \"On leave\")"),
    of_those(ask("pension", c("State", "Private", "Both"), NULL), function(d) d$work == "Retired", "work == \"Retired\""),
    number("children", function(n) stats::rpois(n, 0.9), blank = 0),
    of_those(ask("school", c("In the village", "In town", "At home"), NULL), function(d) as.numeric(d$children) >= 1, "children >= 1"),
    ask("dog", c("No", "One", "Several"), c(70, 25, 3), "ordinal", blank = 0.01),
    of_those(ask("walks", c("Once a day", "Twice a day", "More often"), NULL, "ordinal"), function(d) d$dog %in% c("One", "Several"), "dog != \"No\""),
    of_those(ask("lead", c("Always", "Sometimes", "Never"), NULL, "ordinal", down = TRUE), function(d) d$dog %in% c("One", "Several"), "dog != \"No\"")
  ),
  roles = list(
    role("token", "key", function(n) vapply(seq_len(n), function(i) paste(sample(c(letters, 0:9), 10), collapse = ""), "")),
    role("Submitted at", "paradata", function(n) format(as.POSIXct("2026-05-01", tz = "UTC") + sample(1e6, n), "%d/%m/%Y %H:%M")),
    role("IP address", "private", function(n) paste0("10.1.", sample(255, n, TRUE), ".", sample(255, n, TRUE))),
    role("Full name", "private", function(n) paste(sample(c("Ada", "Bo", "Cy", "Di"), n, TRUE), sample(c("Marsh", "Pool", "Reed", "Weir"), n, TRUE))),
    ask("Started", c("Before school", "At school", "After school"), NULL),
    ask("Device", c("Piano", "Pitch pipe", "Tuning fork"), NULL),
    ask("Channel", c("Radio", "Posters", "Word of mouth"), NULL),
    ask("Savings", c("0-500", "501-5000", "5001-50000", "50001-500000"), NULL, "ordinal"),
    list(heading = "Anything else?", make = function(n) paste("The", sample(c("bus", "hall", "path"), n, TRUE), "is", sample(900, n, TRUE), "yards off"), blank = 0.4, truth = list(level = "text"))
  ),
  tongues = list(
    role("Numero", "key", function(n) seq_len(n) + 300),
    ask("Fr\u00e9quence de chant", c("Jamais", "Rarement", "Parfois", "Souvent", "Toujours"), NULL, "ordinal"),
    ask("Niveau d'\u00e9tudes", c("Aucun dipl\u00f4me", "Primaire", "Coll\u00e8ge", "Lyc\u00e9e", "Universit\u00e9"), NULL, "ordinal"),
    ask("Sexe", c("Femme", "Homme"), NULL),
    ask("Satisfaction", c("Pas du tout satisfait", "Peu satisfait", "Assez satisfait", "Tr\u00e8s satisfait"), NULL, "ordinal"),
    number("\u00c2ge", function(n) sample(18:85, n, TRUE)),
    with_gaps(ask("Membre", c("Oui", "Non"), NULL), c("Ne sait pas", "Refus")),
    ask("Revenu", c("Moins de 1 000 \u20ac", "1 000 \u00e0 1 999 \u20ac", "2 000 \u00e0 3 999 \u20ac", "4 000 \u20ac et plus"), NULL, "ordinal")
  )
)

# The cells of a set, and its truth by heading.
made_set <- function(questions, n, seed) {
  set.seed(seed)
  d <- list()
  for (question in questions) {
    cells <- if (!is.null(question$make)) as.character(question$make(n)) else
      sample(question$labels, n, TRUE, question$weights)
    # Every label is met, however rare.
    if (!is.null(question$labels)) cells[seq_along(question$labels)] <- question$labels
    cells <- cells[sample(n)]
    if (!is.null(question$gaps)) {
      at <- stats::runif(n) < question$gaps$share
      cells[at] <- sample(question$gaps$forms, sum(at), TRUE)
    }
    if (question$blank > 0) cells[stats::runif(n) < question$blank] <- ""
    if (!is.null(question$who)) {
      asked <- question$who(d)
      asked[is.na(asked)] <- FALSE
      cells[!asked] <- ""
    }
    d[[question$heading]] <- cells
  }
  list(
    frame = as.data.frame(d, optional = TRUE, stringsAsFactors = FALSE),
    truth = stats::setNames(lapply(questions, `[[`, "truth"), names(d))
  )
}
