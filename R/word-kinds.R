# Words for what several parts of the interface show.

kind_words <- c(
  key = "key", identifier = "identifier", response = "response number", paradata = "paradata",
  personal = "personal data",
  scale = "rating scale", choice = "single choice",
  several = "several answers", ticks = "tick box", number = "number", date = "date",
  text = "free text", constant = "constant", empty = "empty"
)

