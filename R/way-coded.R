# Open answers to which people gave codes in a sheet. The entry carries the set
# of codes; each code becomes a variable of its own.

way_coded <- list(
  value = map_field(list(
    of = field("text", "the text variable that was coded", required = TRUE), sheet = field("text", "the coders' sheet", required = TRUE),
    up_to = field("whole", "how many codes an answer can have", default = 3L, least = 1), codes = field("names", "a variable for each code, `{best_people: The people}`", required = TRUE)
  )),
  beside = list(),
  spread = function(entry) spread_coded(entry),
  reads = function(variable) NULL,
  uses = function(variable, book) variable$settings$of,
  makes = function(variable, book) {
    variable$storage <- "set"
    variable$level <- "nominal"
    variable$carrier <- TRUE
    variable$registry <- new_registry()
    codes <- variable$settings$codes
    variable$options <- list(name = names(codes), label = unname(unlist(codes)), code = seq_along(codes), variants = rep(list(character()), length(codes)))
    variable
  },
  check = function(variable, book, say) {
    source <- book$variables[[variable$settings$of]]
    if (!identical(source$storage, "text")) say(where_in(variable, "coded", "of"), paste0("`", source$name, "` is no text (level ", source$level, "): only texts are coded"))
    folded <- text_fold(variable$options$label)
    for (at in which(duplicated(folded))) say(where_in(variable, "coded", "codes", variable$options$name[at]), paste0("`", variable$options$label[at], "` stands for two codes"))
  },
  compute = function(variable, inputs, book, rows) {
    source <- inputs[[variable$settings$of]]
    id <- paste(rows$wave, rows$key, text_fold(source$value), sep = "\r")
    sheet <- variable$coding
    at <- match(id, sheet$id)
    at[is.na(at)] <- match(text_fold(source$value), sheet$folded_any)[is.na(at)]
    set <- sheet$set[at]
    reason <- reason_or_none(source)
    set[is.na(source$value)] <- NA
    reason[is.na(set) & reason == 0L] <- reason_id(book, "not_found")
    new_column(set_ids(variable$registry, set), reason)
  },
  sentence = function(variable, book) paste0("Codes that people gave to ", variable$settings$of, " in the sheet \u201c", variable$settings$sheet, "\u201d.")
)

spread_coded <- function(entry) {
  coded <- entry$keys$coded
  if (!is_map(coded) || !is_map(coded$codes)) return(NULL)
  shared <- entry$keys[intersect(names(entry$keys), c("kept", "private"))]
  names <- names(coded$codes)
  made <- lapply(seq_along(names), function(at) companion(entry, names[at], c(
    list(option = list(of = entry$name, at = at), label = if (is_text(coded$codes[[at]])) coded$codes[[at]] else names[at], level = "nominal", codes = list("0" = "No", "1" = "Yes")), shared), if (is_text(entry$keys$label)) entry$keys$label, c("coded", "codes", names[at])))
  entry$keys$kept <- "no"
  list(entry = entry, companions = made, members = names)
}
