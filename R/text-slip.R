# Whether a text is a label with a slip of the pen and nothing more: the only
# ground on which one text is proposed to be read as another.

# Words that turn or measure what they stand beside, folded.
weighty_words <- unlist(strsplit(paste(
  paste0(
    "no not never none nothing nobody neither nor without less least more most few fewer many ",
    "much some any all every"
  ),
  paste0(
    "each half once twice one two three four five six seven eight nine ten eleven twelve hundred ",
    "thousand first second"
  ),
  paste0(
    "third last over under above below before after since until up down only too very both ",
    "either other another same"
  ),
  "plus minus non",
  paste0(
    "nicht kein keine keiner nie niemals niemand nichts weniger mehr wenig viel viele alle jede ",
    "jeder ein eine zwei drei"
  ),
  "halb unter ohne nur sehr eher kaum einmal zweimal",
  paste0(
    "pas ne jamais aucun aucune rien moins peu beaucoup tous toutes tout un une deux trois sans ",
    "seulement"
  ),
  "nunca ninguno ninguna nada menos poco mucho muchos todo todos uno dos tres sin solo",
  "mai nessuno nessuna niente meno molto molti tutto tutti due tre senza",
  "niet geen nooit niemand niets minder meer weinig veel een twee drie zonder alleen elke",
  "nunca nenhum nenhuma nada menos mais pouco muito muitos todos um dois sem",
  "ikke inte ej aldrig ingen inga mindre mer mange alla en ett to tre uten utan"
), " "))

# `labels` are all labels of the variable, `near` those that can be meant; gives the
# one that is, or NULL.
slip_of <- function(text, labels, near = labels) {
  meant <- which(labels %in% near)
  meant <- meant[vapply(meant, function(k) is_slip(text, labels[k], labels[-k]), TRUE)]
  if (length(meant) == 1) labels[meant] else NULL
}

is_slip <- function(text, label, others) {
  a <- text_fold(text)
  b <- text_fold(label)
  if (a == b || !identical(telling_marks(a), telling_marks(b))) return(FALSE)
  mine <- letters_of(a)
  own <- letters_of(b)
  if (length(mine) == 0 || length(own) == 0) return(FALSE)
  if (paste(mine, collapse = "") == paste(own, collapse = "")) return(!paste(mine,
    collapse = " ") %in% texts_of(others))
  if (length(mine) != length(own)) return(FALSE)
  differ <- which(mine != own)
  if (length(differ) > 2 || any(c(mine[differ], own[differ]) %in% weighty_words)) return(FALSE)
  if (any(mine[differ] %in% unlist(lapply(text_fold(others), letters_of)))) return(FALSE)
  all(mapply(is_misspelt, mine[differ], own[differ]))
}

# Digits, and marks that can change what stands beside them, in their order.
telling_marks <- function(folded) {
  if (isTRUE(stringi::stri_enc_isascii(folded))) return(pieces_of(
    folded, "[0-9]+|[+<>=%&#/*$]|(?<![A-Za-z0-9])-|-(?![A-Za-z0-9])"
  ))
  pieces <- stringi::stri_extract_all_regex(folded,
    "\\p{N}+|[+<>=%&#/*\\u20AC$\\u00A3]|(?<![\\p{L}\\p{N}])-|-(?![\\p{L}\\p{N}])")[[1]]
  pieces[!is.na(pieces)]
}

letters_of <- function(folded) {
  pieces <- if (isTRUE(stringi::stri_enc_isascii(folded))) pieces_of(
    folded, "[A-Za-z][A-Za-z']*"
  ) else stringi::stri_extract_all_regex(folded, "\\p{L}[\\p{L}\\p{M}']*")[[1]]
  pieces <- gsub("'", "", pieces, fixed = TRUE)
  pieces[!is.na(pieces) & nzchar(pieces)]
}

# To make ready an expression for all letters of the world takes longer than to look for it:
# plain text is looked through with a plain one.
pieces_of <- function(text, pattern) {
  met <- gregexpr(pattern, text, perl = TRUE)[[1]]
  if (met[1] < 0) return(character())
  substring(text, met, met + attr(met, "match.length") - 1L)
}

texts_of <- function(labels) vapply(text_fold(labels), function(label) paste(letters_of(label),
  collapse = " "), "")

# One letter too many, too few, another, or two that changed places. Short words
# are too near to each other for that: there only a doubled letter or a swap counts.
is_misspelt <- function(written, word) {
  if (substr(written, 1, 1) != substr(word, 1, 1)) return(FALSE)
  size <- min(nchar(written), nchar(word))
  if (size < 3) return(FALSE)
  if (is_swap(written, word) || undoubled(written) == undoubled(word)) return(TRUE)
  distance <- utils::adist(written, word)[1, 1]
  distance <= if (size >= 10) 2 else if (size >= 5) 1 else 0
}

is_swap <- function(a, b) {
  if (nchar(a) != nchar(b)) return(FALSE)
  x <- strsplit(a, "")[[1]]
  y <- strsplit(b, "")[[1]]
  places <- which(x != y)
  length(places) == 2 && places[2] == places[1] + 1 && x[places[1]] == y[places[2]] &&
    x[places[2]] == y[places[1]]
}

undoubled <- function(word) gsub("(.)\\1+", "\\1", word)
