# Columns that are the platform's own.

paradata_words <- paste0(
  "^(status|response (status|ref|id)|start(ed)?( ?(time|date|at))?|end(ed)?( ?(time|date|at))?|",
  "submitted( (at|on))?|progress|percent complete|",
  "opened|sent|closed|pages? seen|seconds( taken)?|machine|duration.*|time (spent|taken)|",
  "interview (start|end|length|time).*|",
  "device( type)?|browser|user ?agent|operating system|platform|",
  "(start|end|recorded|completed|created|modified|updated|submission) ?(date|time|at)|finished|",
  "complete(d)?|channel|",
  "lang(uage)?|survey ?id|referr?er.*|date (created|modified|submitted|started|completed)|",
  "timestamp|time ?stamp|(response|respondent|sheet|form) ?(no|number))$"
)
is_paradata <- function(plain) grepl(paradata_words, plain, perl = TRUE)

# Headings that a question can have too are a platform's only where the cells are.
fits_paradata <- function(said, cells) {
  text <- text_fold(cells$text)
  all_like <- function(pattern) weighted_share(grepl(pattern, text), cells$count) >= 0.9
  if (nrow(cells) == 0) return(TRUE)
  if (grepl("lang(uage)?$", said)) return(all_like("^[a-z]{2,3}([-_][a-z]{2,4})?$"))
  if (grepl("^(response )?status$", said)) return(all_like(paste0(
    "^(complete[d]?|partial|incomplete|in progress|finished|disqualified|screened? ?out|",
    "terminated|over ?quota|quota ?full|spam|preview|test|trial|real|submitted|started|opened|",
    "ip address|imported|[0-9]+|true|false)$"
  )))
  if (grepl("start|end|date|time|submitted|created|modified|recorded|opened|sent", said)) return(
    are_dates(cells, 0.8) || all_like("^[0-9]+([.:][0-9]+)*$")
  )
  if (grepl("device|browser|user ?agent|operating|platform|version|resolution", said)) return(
    all_like(paste0(
      "mobile|phone|tablet|desktop|laptop|computer|android|ios|ipad|iphone|windows|mac|linux|",
      "chrome|firefox|safari|edge|opera|mozilla|webkit|smart ?tv|[0-9]+ ?x ?[0-9]+|^[0-9.]+$|other"
    ))
  )
  if (grepl("channel|distribution|collector|source", said)) return(all_like(
    "anonymous|e-?mail|link|gl|qr|sms|social|embed|panel|api|^web|^[0-9]+$"
  ))
  if (grepl("^(finished|complete)", said)) return(all_like("^(true|false|yes|no|y|n|[01])$"))
  if (grepl("duration|seconds|progress|percent|score", said)) return(all_like("^[0-9.,:]+ ?%?$"))
  TRUE
}
