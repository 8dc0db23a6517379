# Types into a sheet of `mavik entry`, as cells: `cells` is a data frame with a row a form and the
# sheet's headings for names; numbers go in as numbers, days as days.
type_forms <- function(file, cells, to = file) {
  book <- openxlsx::loadWorkbook(file)
  heads <- unlist(openxlsx::read.xlsx(book, "entry", rows = 2, colNames = FALSE))
  for (name in setdiff(names(cells), "Kind"[!"Kind" %in% heads])) {
    values <- cells[[name]]
    filled <- which(!is.na(values) & as.character(values) != "")
    kind <- vapply(filled, function(at) class(values[[at]])[1], "")
    # The writer takes its time for each range.
    for (run in split(filled, cumsum(c(1, diff(filled)) > 1 | c("", kind)[seq_along(kind)] != kind))) openxlsx::writeData(
      book, "entry", do.call(c, as.list(values)[run]), startCol = match(name, heads), startRow = run[1] + 2, colNames = FALSE
    )
  }
  openxlsx::saveWorkbook(book, to, overwrite = TRUE)
  to
}

# Forms of the demo on paper, as lines of its raw file (keys of their own) and as typed cells.
paper_forms <- function(project, n = 20) {
  raw <- read_export(file.path(project, "raw/spring.csv"), heading = c("names", "questions"))
  frame <- as.data.frame(raw, optional = TRUE)
  frame <- frame[nzchar(frame$Q1) & frame$Q12 != "" & frame$Kind == "Real", ][seq_len(n), ]
  frame[["Member no"]] <- sprintf("9%03d", seq_len(n))
  frame[["Sheet no"]] <- as.character(seq_len(n))
  frame[c("Opened", "Sent")] <- ""
  typed <- frame[setdiff(names(frame), c("Sheet no", "Opened", "Sent", "Pages seen", "Seconds", "Machine", "Q12", "Q19_1", "Q19_2"))]
  labels <- list(
    reason_music = "For the music; old and new", reason_people = c("To meet people", "To meet other people"),
    reason_learn = "To learn", reason_health = "For my health", reason_none = "No particular reason"
  )
  rest <- frame$Q12
  for (option in names(labels)) {
    has <- Reduce(`|`, lapply(labels[[option]], grepl, x = rest, fixed = TRUE))
    typed[[paste0("Q12: ", option)]] <- ifelse(has, "x", "")
    for (label in labels[[option]]) rest <- sub(label, "", rest, fixed = TRUE)
  }
  typed[["Q12: reason_text"]] <- trimws(gsub("^;+|;+$", "", gsub(";+", ";", rest)))
  for (column in c("Q19_1", "Q19_2")) for (option in c("Paper", "Tablet", "Recordings")) {
    name <- c(Paper = "paper", Tablet = "tablet", Recordings = "record")[[option]]
    typed[[paste0(column, ": ", name)]] <- ifelse(grepl(option, frame[[column]], fixed = TRUE), "x", "")
  }
  list(raw = frame, typed = typed)
}
